// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "app/order/OrderStrip.h"
#include "app/style/TimecodeField.h"

#include <QWidget>

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QMenu;
class QToolButton;

namespace tromb {

class ElementsDialog;

/// The running order with its commands: one line that names what is selected and lets it be typed, the strip below.
class OrderView : public QWidget {
  Q_OBJECT

public:
  OrderView(Session& session, Actions& actions, PosterService& posters, WaveformService& waveforms,
            QWidget* parent = nullptr);

  [[nodiscard]] OrderStrip& strip() { return *m_strip; }
  void setSlim(bool slim); ///< a ruler with the shots' names, where the room is needed
  void splitAtPlayhead();
  void chooseElement(const std::string& id); ///< shows what it is, to be changed
  void removeSelected();                     ///< shots or the sound bed; the gap closes
  void nameRegion(const QString& name); ///< Makes a region of the selected shots, or of everything if none is selected.

signals:
  void splitAtCutsRequested(int row);
  void exportRegionRequested(const QString& name);

private:
  void bindActions();
  void bindPace();
  template <typename Dialog> Dialog* showBeside();
  ElementsDialog* elements(); ///< open and in front
  void holdAtPlayhead();
  [[nodiscard]] std::vector<int> chosenVideos() const;
  [[nodiscard]] const MediaInfo* videoOf(int row) const;
  QWidget* buildLine();
  void buildShotFields(QWidget* line, QLayout* row);
  void buildBedFields(QWidget* line, QLayout* row);
  void refresh();
  void refreshRates();
  void fillRegionMenu();
  void changeShots(const QString& text, const std::function<void(Shot&)>& change);
  void changeBed(const QString& text, const std::function<void(SoundBed&)>& change);
  [[nodiscard]] QString chosenRate() const;

  Session& m_session;
  Document& m_document;
  Actions& m_actions;
  OrderStrip* m_strip;
  QWidget* m_line = nullptr;
  TimecodeField* m_position = nullptr;
  QComboBox* m_rate = nullptr;
  QLabel* m_what = nullptr;
  QList<QWidget*> m_shotFields;
  QList<QWidget*> m_bedFields;
  QMenu* m_regions = nullptr;
  TimecodeField *m_in = nullptr, *m_length = nullptr, *m_bedStart = nullptr;
  QDoubleSpinBox *m_speed = nullptr, *m_level = nullptr, *m_bedLevel = nullptr, *m_fadeIn = nullptr,
                 *m_fadeOut = nullptr;
  QToolButton *m_mute = nullptr, *m_duck = nullptr;
  bool m_showing = false;
};

} // namespace tromb
