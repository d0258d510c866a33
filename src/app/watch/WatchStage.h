// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "app/style/CanvasGuides.h"
#include "app/style/PaintedParts.h"
#include "model/Watch.h"

#include <QWidget>

namespace tromb {

/// What is to be seen while somebody watches.
struct WatchLayout {
  bool all = true;        ///< every deliverable side by side, else the current one
  bool trueSizes = false; ///< side by side at their true relative sizes, else at one height
  bool source = false;    ///< the source's own picture beside them
  friend bool operator==(const WatchLayout&, const WatchLayout&) = default;
};

/// The pictures of deliverables, playing or paused, as large as there is room, in their true shapes.
class WatchStage : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  WatchStage(Session& session, Watch& watch, Actions& actions, QWidget* parent = nullptr);
  void setWatched(const WatchLayout& layout);
  [[nodiscard]] const WatchLayout& watched() const { return m_layout; }
  void setBare(bool bare); ///< pictures alone, without names
  /// Where pictures are drawn, in the order of their deliverables; the source's is the last.
  [[nodiscard]] std::vector<QRectF> pictureRects() const { return m_rects; }
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override;
  void pressPart(int part) override;
  [[nodiscard]] QSize sizeHint() const override { return {800, 500}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {240, 160}; }

protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  void arrange();
  [[nodiscard]] QString nameOf(size_t screen) const;
  [[nodiscard]] double captionHeight() const;
  Session& m_session;
  Document& m_document;
  Watch& m_watch;
  Actions& m_actions;
  WatchLayout m_layout;
  bool m_bare = false;
  std::vector<Watch::Screen> m_screens;
  std::vector<QRectF> m_rects;
  QString m_failed;
};

} // namespace tromb
