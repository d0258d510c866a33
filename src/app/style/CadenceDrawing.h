// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "project/Timing.h"

#include <QWidget>

class QPainter;

namespace tromb {

/// Which frames of a source a deliverable shows, as two rows in time: the source's frames above, the deliverable's
/// below, each joined to what it shows. A frame that is left out is crossed out and has no line; one that is shown
/// again is notched at its foot; two that are mixed have a line each, the fainter the less there is of it. Empty where
/// nothing is drawn.
class DrawnCadence {
public:
  static constexpr int kHeight = 40; ///< pixels that it is drawn in best
  DrawnCadence() = default;
  /// From the shot's beginning on, or from shortly before the first frame that is left out or shown again where that
  /// comes later; about so much that a dozen frames of the quicker row have room. Of a held picture nothing is drawn.
  explicit DrawnCadence(const ShotCadence& cadence);
  struct Counts {
    int leftOut = 0;
    int again = 0;
    int mixed = 0;
  };
  /// In what is drawn.
  [[nodiscard]] Counts counts() const;
  /// Counts in words, for those who do not see it.
  [[nodiscard]] QString words() const;
  enum class Ground { Paper, Surround };
  void paint(QPainter& painter, const QRectF& room, Ground ground = Ground::Paper) const;

private:
  /// A frame of either row: where it begins and ends, in shares of the width.
  struct Box {
    double from = 0;
    double to = 0;
    int64_t frame = 0;
    bool marked = false; ///< left out, or shown again
  };
  std::vector<Box> m_source;
  std::vector<Box> m_shown;
  std::vector<ShownFrames> m_links; ///< by frame of the deliverable
};

/// A DrawnCadence of its own.
class CadenceDrawing : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit CadenceDrawing(QWidget* parent = nullptr);
  void setCadence(const ShotCadence& cadence);
  /// What a Treatment is called, by its value.
  [[nodiscard]] static QStringList treatmentNames();
  [[nodiscard]] QAccessible::Role paintedRole() const override { return QAccessible::Graphic; }
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override { return {}; }
  [[nodiscard]] QString paintedValue() const override { return m_drawn.words(); }
  [[nodiscard]] QSize sizeHint() const override { return {240, DrawnCadence::kHeight}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {120, DrawnCadence::kHeight}; }

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  DrawnCadence m_drawn;
};

} // namespace tromb
