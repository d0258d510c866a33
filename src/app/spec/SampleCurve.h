// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "sample/SampleEncode.h"

#include <QWidget>

namespace tromb {

/// "crf 23" or "8 Mb/s": what an encoding is set to.
[[nodiscard]] QString settingSaid(const Encoding& resolved);

/// The size of the file against how much it is like the plan's pictures, from what a sample came to: the settings that
/// were encoded, where the present one lies, and from where on more bytes hardly help.
class SampleCurve : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit SampleCurve(QWidget* parent = nullptr);
  void show(const std::vector<SampleRung>& rungs, const std::optional<SamplePoint>& present,
            const std::optional<Knee>& knee);
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override;
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  [[nodiscard]] QRectF area() const;
  [[nodiscard]] QPointF placeOf(int64_t bytes, double ssim) const;

  std::vector<SampleRung> m_rungs;
  std::optional<SamplePoint> m_present;
  std::optional<Knee> m_knee;
};

} // namespace tromb
