// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/write/Hardware.h"
#include "model/Worker.h"
#include "project/Project.h"

#include <QObject>
#include <map>

class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QLabel;

namespace tromb {

/// The rows of a form in which the encoding of a deliverable is chosen. Only what can be made is offered: what follows
/// from the codec is filled anew with each.
class EncodingForm : public QObject {
  Q_OBJECT

public:
  /// Adds its rows to a form. `deliverable` is changed in place and outlives this.
  EncodingForm(Deliverable& deliverable, QFormLayout& form, QWidget* parent);
  /// Shows the deliverable as it is now.
  void refresh();

signals:
  /// Somebody has chosen something; the deliverable has it.
  void changed();

private:
  [[nodiscard]] QComboBox* combo(const QString& label, const QString& name);
  QWidget* addPair(const QString& label, QComboBox* first, QComboBox* second);
  void takeCodec();
  void forgetSoundContainer();
  void refreshPicture(const Encoding& resolved);
  void refreshEncoder(const Encoding& resolved);
  void takeEncoder();
  /// The encoder in graphics hardware that works for the deliverable as it is; null also while it is being tried.
  [[nodiscard]] const HardwareEncoder* working();
  void refreshSound(const Encoding& resolved);

  Deliverable& m_deliverable;
  QFormLayout& m_form;
  QWidget* m_parent;
  bool m_filling = false;
  QComboBox* m_codec;
  QComboBox* m_container;
  QComboBox* m_samples;
  QComboBox* m_control;
  QDoubleSpinBox* m_megabits;
  QDoubleSpinBox* m_quality;
  QComboBox* m_encoder;
  QLabel* m_differs; ///< what is other with graphics hardware
  QComboBox* m_speed;
  QComboBox* m_place;
  QComboBox* m_sound;
  QComboBox* m_channels;
  QComboBox* m_content;
  QWidget* m_heard; ///< the row of both
  /// What came of trials, by codec and depth; null while they are made.
  std::map<std::pair<Codec, int>, std::optional<std::vector<HardwareTrial>>> m_trials;
  Worker m_trying;
};

} // namespace tromb
