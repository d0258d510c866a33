// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/spec/ChoicePanel.h"

class QLabel;
class QPushButton;

namespace tromb {

/// Where the sound goes, and how it is encoded.
class SoundChoices : public ChoiceGroup {
  Q_OBJECT

public:
  SoundChoices(Spec& spec, QWidget* parent);
  void refresh() override;

protected:
  [[nodiscard]] QString foldedWords() const override;

private:
  ListChoice* m_codec = nullptr;
  ListChoice* m_content = nullptr;
  NumberChoice* m_bitRate = nullptr;
};

/// Where the file goes, and what it is called.
class PlaceChoices : public ChoiceGroup {
  Q_OBJECT

public:
  PlaceChoices(Spec& spec, QWidget* parent);
  void refresh() override;

protected:
  [[nodiscard]] QString foldedWords() const override;

private:
  TextChoice* m_name = nullptr;
  QLabel* m_answer;
  QPushButton* m_takeOver;
};

} // namespace tromb
