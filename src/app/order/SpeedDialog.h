// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Pacing.h"

#include <QDialog>

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QPushButton;

namespace tromb {

class SpeedCurve;
class TimecodeField;

/// How fast a shot passes: one speed for all of it, or keys between which it changes, drawn as a curve; by percent or
/// by the length that it is to have. Follows the shot under the playhead while it is open.
class SpeedDialog : public QDialog {
  Q_OBJECT

public:
  SpeedDialog(Session& session, QWidget* parent);
  [[nodiscard]] Pacing& pacing() { return m_pacing; }

private:
  void refresh();
  void refreshMoment();
  Pacing m_pacing;
  SpeedCurve* m_curve;
  QLabel *m_name, *m_of, *m_lasts;
  QDoubleSpinBox* m_speed;
  TimecodeField* m_length;
  QComboBox* m_ease;
  QPushButton *m_key, *m_away;
  bool m_showing = false;
  int m_gesture = 0;
};

} // namespace tromb
