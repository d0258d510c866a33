// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/spec/ChoicePanel.h"
#include "app/spec/EncoderTrials.h"

namespace tromb {

/// How the picture is encoded.
class PictureChoices : public ChoiceGroup {
  Q_OBJECT

public:
  PictureChoices(Spec& spec, QWidget* parent);
  void refresh() override;

protected:
  [[nodiscard]] QString foldedWords() const override;

private:
  void addRates();
  void addSamples();
  void addLevels();
  void addEncoder();
  void addGroups();

  EncoderTrials m_trials;
  NumberChoice* m_bitRate = nullptr;
  NumberChoice* m_quality = nullptr;
  NumberChoice* m_peak = nullptr;
  NumberChoice* m_buffer = nullptr;
  ListChoice* m_passes = nullptr;
  ListChoice* m_profile = nullptr;
  ListChoice* m_level = nullptr;
  ListChoice* m_speed = nullptr;
  ListChoice* m_tune = nullptr;
  ListChoice* m_encoder = nullptr;
  NumberChoice* m_keys = nullptr;
  QCheckBox* m_copies = nullptr;
  QCheckBox* m_keysAtCuts = nullptr;
  QCheckBox* m_openGroups = nullptr;
  ListChoice* m_bPictures = nullptr;
  ListChoice* m_references = nullptr;
  ListChoice* m_entropy = nullptr;
};

} // namespace tromb
