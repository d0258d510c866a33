// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "app/style/TimecodeField.h"
#include "model/LightService.h"
#include "model/Session.h"
#include "model/Watch.h"

#include <QWidget>

class QLabel;
class QPushButton;
class QToolButton;

namespace tromb {

/// The length of a source with its playhead and the stretch between in and out point; all three are dragged.
class StretchBar : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit StretchBar(QWidget* parent = nullptr);
  void setFrames(int64_t count);
  void setAt(int64_t frame);
  void setStretch(int64_t in, int64_t end); ///< half-open
  [[nodiscard]] QAccessible::Role paintedRole() const override { return QAccessible::Slider; }
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override; ///< in point, playhead, out point
  [[nodiscard]] QString paintedValue() const override;
  [[nodiscard]] QSize sizeHint() const override { return {200, 30}; }

signals:
  void atDragged(qint64 frame);
  void inDragged(qint64 frame);
  void endDragged(qint64 frame);

protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;

private:
  [[nodiscard]] double xOf(int64_t frame) const;
  [[nodiscard]] int64_t frameAt(double x) const;
  void drag(double x);
  int64_t m_count = 1;
  int64_t m_at = 0;
  int64_t m_in = 0;
  int64_t m_end = 1;
  enum class Part { At, In, End } m_dragged = Part::At;
};

/// Looks through one source: shows its pictures, runs it, and sets the stretch that becomes a shot.
class SourceViewer : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  SourceViewer(Session& session, LightService& lights, QWidget* parent = nullptr);

  [[nodiscard]] QAccessible::Role paintedRole() const override { return QAccessible::Grouping; }
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override { return {}; }
  /// Shows a source; an empty id shows none.
  void setSource(const std::string& id);
  [[nodiscard]] const std::string& source() const { return m_source; }
  [[nodiscard]] int64_t frame() const { return m_frame; }
  [[nodiscard]] Watch& watch() { return m_watch; }

  void goTo(int64_t frame);
  void setIn();  ///< Sets the in point at the picture that is shown.
  void setOut(); ///< Sets the out point behind the picture that is shown.
  void wholeSource();
  void playOrPause();

signals:
  /// The stretch is to become a shot: at the playhead, or else at the end of the running order.
  void addRequested(bool atPlayhead);

protected:
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void refresh();
  void reopen();
  void showPicture();
  void takePicture();
  void askScreen();
  [[nodiscard]] FrameRate viewedRate() const;
  [[nodiscard]] const MediaInfo* media() const;
  [[nodiscard]] int64_t count() const;
  [[nodiscard]] Session::Stretch stretch() const { return m_session.stretch(m_source); }

  Session& m_session;
  Document& m_document;
  LightService& m_lights;
  Document m_viewed; ///< The source alone: one shot that is all of it, in one deliverable.
  Session m_viewedSession;
  Watch m_watch;
  std::string m_source;
  Source m_shown; ///< The source as it was when its pictures were opened.
  int64_t m_frame = 0;
  QImage m_picture;
  QLabel* m_screen;
  StretchBar* m_bar;
  TimecodeField* m_position;
  QToolButton *m_play, *m_back, *m_forward, *m_in, *m_out, *m_whole;
  QPushButton *m_addEnd, *m_addHere;
};

} // namespace tromb
