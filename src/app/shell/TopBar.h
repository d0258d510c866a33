// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "model/FootageImport.h"
#include "model/FramingService.h"
#include "model/MeasureService.h"
#include "model/PreflightService.h"

#include <QWidget>

class QLabel;
class QProgressBar;
class QPushButton;
class QToolButton;

namespace tromb {

/// What stands above every view: the project's name and whether it is saved, the views, what is going on, what is left
/// to do, and the few actions that every job needs.
class TopBar : public QWidget {
  Q_OBJECT

public:
  TopBar(Document& document, const PreflightService& preflight, FootageImport& import, MeasureService& measuring,
         FramingService& framing, const Actions& actions, QWidget* parent = nullptr);
  void refresh();

  /// With icons alone where there can be words.
  [[nodiscard]] QSize minimumSizeHint() const override;

protected:
  bool event(QEvent* event) override;

private:
  QPushButton* pushButton(const Actions& actions, const char* id, bool main);
  [[nodiscard]] int briefWidth(const QPushButton& button) const;
  void refreshBusy();
  void fit();

  Document& m_document;
  const PreflightService& m_preflight;
  FootageImport& m_import;
  MeasureService& m_measuring;
  FramingService& m_framing;
  QLabel* m_name;
  QLabel* m_saved;
  QToolButton* m_state;
  QProgressBar* m_busy;
  QLabel* m_busyWords;
  QToolButton* m_stop;
  std::vector<QPushButton*> m_brief; ///< that show their icons alone where there is no room for words
  std::vector<int> m_worded;         ///< how wide they are with words
};

} // namespace tromb
