// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "element/Element.h"
#include "model/Session.h"

#include <QWidget>
#include <functional>

class QAbstractButton;
class QButtonGroup;
class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QFontComboBox;
class QLabel;
class QPlainTextEdit;
class QToolButton;

namespace tromb {

class TimecodeField;

/// What one element is: its words, where it lies in all shapes or in one of them, how it looks, and when it is seen.
class ElementForm : public QWidget {
  Q_OBJECT

public:
  explicit ElementForm(Session& session, QWidget* parent = nullptr);

  void show(const Element* element); ///< null: nothing can be said
  void focusText();
  [[nodiscard]] int cursor() const; ///< where in the words it stands; −1 at their ends

signals:
  /// Somebody has changed something. What is said again and again in one field comes under the same number above 0.
  void changed(const std::function<void(tromb::Element&)>& how, const QString& text, int gesture);

private:
  QWidget* buildPlace();
  QWidget* buildLook();
  QWidget* buildTime();
  QDoubleSpinBox* number(const QString& name, double least, double most, const QString& unit, int places,
                         const std::function<void(double, QDoubleSpinBox*)>& typed);
  QToolButton* colour(const QString& name, Colour& (*of)(TextLook&));
  void tell(const QString& text, const std::function<void(Element&)>& how, const void* field = nullptr);
  /// Changes where it lies: in the chosen shape alone, or in all.
  void place(const QString& text, const std::function<void(ElementPlace&)>& how, const void* field = nullptr);
  [[nodiscard]] std::string shape() const; ///< Deliverable::id, empty for all
  void fillShapes();
  void refresh();

  Session& m_session;
  Document& m_document;
  std::optional<Element> m_element;
  bool m_showing = false;
  const void* m_field = nullptr; ///< what was changed last
  int m_gesture = 0;
  QPlainTextEdit* m_text;
  QLabel* m_forAll; ///< what is said of captions is said of all
  QComboBox* m_shape;
  QToolButton* m_giveBack;
  QCheckBox* m_hidden;
  QButtonGroup* m_anchors;
  QDoubleSpinBox *m_size, *m_across, *m_down;
  QCheckBox* m_overButtons;
  QWidget* m_look;
  QComboBox *m_family, *m_weight, *m_align;
  QCheckBox* m_italic;
  QDoubleSpinBox *m_measure, *m_leastSize, *m_lines, *m_outline, *m_shadow, *m_box;
  QToolButton *m_colour, *m_outlineColour, *m_boxColour;
  TimecodeField *m_in, *m_out;
  QDoubleSpinBox *m_fadeIn, *m_fadeOut;
  QCheckBox* m_withShot;
};

} // namespace tromb
