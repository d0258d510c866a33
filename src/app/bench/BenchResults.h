// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "model/Bench.h"
#include "model/ElementPictures.h"
#include "model/PosterService.h"
#include "model/PreflightService.h"

#include <QWidget>
#include <optional>

namespace tromb {

/// The shot as each deliverable shows it at this moment: the active one large, and all of them below in their true
/// relative sizes. A click makes one active; words and pictures over the large one are dragged, for this shape alone.
class BenchResults : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  BenchResults(Bench& bench, PosterService& posters, QWidget* parent = nullptr);
  void setPreflight(const PreflightService& preflight); ///< counts what is amiss; must live as long
  void setElements(ElementPictures& elements);          ///< what lies over the shots; must live as long
  void setPoster(const Poster* poster);                 ///< kept by the caller
  void setSafeAreas(bool shown);           ///< action and graphics safe areas of EBU R 95 and SMPTE ST 2046-1
  void setCovered(bool shown);             ///< what the destination's own buttons and captions lie over
  void setCadence(bool shown);             ///< which frames of the shot the active one shows
  [[nodiscard]] QRectF activeRect() const; ///< where the active one is drawn large
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override; ///< deliverables
  void pressPart(int part) override;
  [[nodiscard]] QSize sizeHint() const override { return {400, 400}; }

signals:
  void elementAsked(const std::string& id); ///< was double-clicked: what it is, is to be changed

protected:
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  /// Where each deliverable's canvas is drawn in the row.
  [[nodiscard]] std::vector<QRectF> layOut() const;
  [[nodiscard]] QRectF activeRect(const std::vector<QRectF>& row) const;
  /// What stands below the active one, in pixels.
  [[nodiscard]] double footHeight() const;
  void paintWords(QPainter& painter, const QRectF& line, const Cell& cell, int more, const QString& before) const;
  /// How much is amiss in the shot beside what its state says.
  [[nodiscard]] int amissIn(int column) const;
  [[nodiscard]] double least(double count) const; ///< width of each of `count` results, for the words under it
  Bench& m_bench;
  const Poster* m_poster = nullptr;
  PosterService& m_posters;
  ElementPictures* m_elements = nullptr;
  /// The element that is held by the mouse.
  struct Drag {
    std::string id;
    QPointF from;
    ElementPlace place; ///< where it was
    int gesture = 0;
  };
  std::optional<Drag> m_drag;
  [[nodiscard]] std::string elementAt(const QPointF& point);
  const PreflightService* m_preflight = nullptr;
  bool m_safeAreas = false;
  bool m_covered = false;
  bool m_cadence = false;
};

} // namespace tromb
