// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/TimecodeField.h"
#include "app/watch/LevelBars.h"
#include "app/watch/WatchStage.h"

class QCheckBox;
class QComboBox;
class QLabel;

namespace tromb {

/// Watching, as large as the window gives: the pictures, how loud it is, and one line to play by.
class WatchView : public QWidget {
  Q_OBJECT

public:
  WatchView(Session& session, Watch& watch, Actions& actions, QWidget* parent = nullptr);
  [[nodiscard]] WatchStage& stage() { return *m_stage; }
  void setFullScreen(bool full); ///< pictures alone on black

signals:
  void left(); ///< by Escape

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  QWidget* buildBar();
  void bindActions();
  void fillParts();
  void takePart();
  void refresh();
  Session& m_session;
  Document& m_document;
  Watch& m_watch;
  Actions& m_actions;
  WatchStage* m_stage;
  LevelBars* m_levels;
  QWidget* m_bar = nullptr;
  TimecodeField* m_position = nullptr;
  QLabel *m_speed = nullptr, *m_pace = nullptr;
  QComboBox *m_parts = nullptr, *m_shown = nullptr;
  QCheckBox *m_trueSizes = nullptr, *m_source = nullptr, *m_file = nullptr;
};

/// The same pictures in a window of their own, for a second screen; it fills that where there is one.
class WatchWindow : public QWidget {
  Q_OBJECT

public:
  WatchWindow(Session& session, Watch& watch, Actions& actions, const WatchLayout& layout, QWidget* beside);

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  Actions& m_actions;
};

} // namespace tromb
