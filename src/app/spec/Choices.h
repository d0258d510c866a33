// SPDX-License-Identifier: GPL-3.0-or-later
// Fields for one choice of the chosen deliverables. Each shows what they have alike, or "differs"; what is chosen in it
// goes to all of them as one undo step.
#pragma once

#include "model/Spec.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QVariant>

class QCheckBox;

namespace tromb {

/// A choice from a list.
class ListChoice : public QComboBox {
  Q_OBJECT

public:
  using Entries = QList<std::pair<QString, QVariant>>;
  struct About {
    QString name; ///< for a screen reader, and the undo step
    std::function<Entries(const Deliverable&)> entries;
    std::function<QVariant(const Deliverable&)> value;
    std::function<void(Deliverable&, const QVariant&)> choose;
    /// The words of a value that is not among the entries; without it, such a value is shown as it is.
    std::function<QString(const Deliverable&)> other = {};
  };
  ListChoice(Spec& spec, About about, QWidget* parent);
  void refresh();

protected:
  /// Closed, an entry that is too long for its field ends in an ellipsis.
  void paintEvent(QPaintEvent* event) override;

private:
  Spec& m_spec;
  About m_about;
};

/// A number to type or to step.
class NumberChoice : public QDoubleSpinBox {
  Q_OBJECT

public:
  struct About {
    QString name;
    QString suffix;
    int decimals = 0;
    double least = 0;
    double most = 0;
    double step = 1;
    std::function<double(const Deliverable&)> value;
    std::function<void(Deliverable&, double)> choose;
  };
  NumberChoice(Spec& spec, About about, QWidget* parent);
  void refresh();

protected:
  [[nodiscard]] QString textFromValue(double value) const override;
  [[nodiscard]] QValidator::State validate(QString& text, int& at) const override;
  void focusInEvent(QFocusEvent* event) override;

private:
  Spec& m_spec;
  About m_about;
  bool m_differs = false;
  bool m_showing = false;
  int m_gesture = 0; ///< All that is typed while the field has the keyboard is one undo step.
};

/// A line of text. It is taken when the field is left, or Return is pressed.
class TextChoice : public QLineEdit {
  Q_OBJECT

public:
  struct About {
    QString name;
    int mostLetters = 1000;
    std::function<QString(const Deliverable&)> value;
    std::function<void(Deliverable&, const QString&)> choose;
  };
  TextChoice(Spec& spec, About about, QWidget* parent);
  void refresh();

private:
  Spec& m_spec;
  About m_about;
};

/// Yes or no.
class CheckChoice : public QObject {
  Q_OBJECT

public:
  struct About {
    QString text;
    std::function<bool(const Deliverable&)> value;
    std::function<void(Deliverable&, bool)> choose;
  };
  CheckChoice(Spec& spec, About about, QWidget* parent);
  [[nodiscard]] QCheckBox* box() const { return m_box; }
  void refresh();

private:
  Spec& m_spec;
  About m_about;
  QCheckBox* m_box;
};

} // namespace tromb
