// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"

#include <QWidget>
#include <array>

class QBoxLayout;
class QLabel;
class QPushButton;

namespace tromb {

/// One consequence: how it stands, what it is about, what is so, and buttons for what mends it.
class SpecLineRow : public QWidget {
  Q_OBJECT

public:
  explicit SpecLineRow(QWidget* parent);
  /// `beside`: what the line says of another deliverable, in place of the fixes; empty shows none.
  void show(const SpecLine& line, const QString& beside = {});
  [[nodiscard]] const SpecLine& line() const { return m_line; }

signals:
  void fixAsked(int fix); ///< place among the line's fixes

protected:
  void paintEvent(QPaintEvent* event) override;
  void changeEvent(QEvent* event) override;

private:
  static constexpr size_t kMostFixes = 2;
  SpecLine m_line;
  QStringList m_shown; ///< all words and states that are shown
  QLabel* m_what;
  QLabel* m_value;
  QLabel* m_beside;
  QBoxLayout* m_buttons;
  std::array<QPushButton*, kMostFixes> m_fixes{};
};

/// The sign that a standing has.
[[nodiscard]] QColor standingColour(Standing standing);
void drawStanding(QPainter& painter, const QRectF& box, Standing standing);
[[nodiscard]] QString standingSaid(Standing standing);

} // namespace tromb
