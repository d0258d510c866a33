// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/spec/SampleCurve.h"
#include "model/SampleService.h"
#include "model/Spec.h"

#include <QWidget>

class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;

namespace tromb {

/// What a sample of the current deliverable's hardest seconds came to: its curve, what can be taken over from it, and a
/// size that the file is to keep within.
class SamplePanel : public QWidget {
  Q_OBJECT

public:
  SamplePanel(Spec& spec, SampleService& samples, QWidget* parent = nullptr);
  void refresh();
  [[nodiscard]] SampleService& samples() const { return m_samples; }

private:
  void showProgress();
  void takeKnee();
  void fitSize();
  void lookCloser();

  Spec& m_spec;
  SampleService& m_samples;
  QPushButton* m_begin;
  QPushButton* m_cancel;
  QProgressBar* m_progress;
  QLabel* m_words;
  SampleCurve* m_curve;
  QPushButton* m_knee;
  QPushButton* m_closer;
  QLineEdit* m_size;
  QLabel* m_fit;        ///< how a size is kept to, or why it cannot be
  std::string m_fitted; ///< id of the deliverable that it is said of
};

} // namespace tromb
