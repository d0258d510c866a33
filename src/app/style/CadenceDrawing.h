// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "time/FrameMap.h"

#include <QWidget>

namespace tromb {

/// Which frames of a source a deliverable shows, drawn as two rows in time: the source's frames above, the
/// deliverable's below, each joined to what it shows. A frame that is left out is crossed out and has no line; one that
/// is shown again is notched at its foot; two that are mixed have a line each, the fainter the less there is of it.
class CadenceDrawing : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit CadenceDrawing(QWidget* parent = nullptr);
  /// From the shot's beginning on, or from shortly before the first frame that is left out or shown again where that
  /// comes later; about so much that a dozen frames of the quicker row have room. Of a held picture
  /// nothing is drawn. `clock` is the source's.
  void setFrames(const FrameMap& frames, const FrameClock& clock, const FrameRate& rate);
  /// What a Treatment is called, by its value.
  [[nodiscard]] static QStringList treatmentNames();
  struct Counts {
    int leftOut = 0;
    int again = 0;
    int mixed = 0;
  };
  /// In what is drawn.
  [[nodiscard]] Counts counts() const;
  [[nodiscard]] QAccessible::Role paintedRole() const override { return QAccessible::Graphic; }
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override { return {}; }
  [[nodiscard]] QString paintedValue() const override;
  [[nodiscard]] QSize sizeHint() const override { return {240, 40}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {120, 40}; }

protected:
  void paintEvent(QPaintEvent* event) override;

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

} // namespace tromb
