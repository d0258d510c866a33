// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>

namespace tromb {

/// Shows what an action of a menu does, at the foot of the window, while the menu is open at it. It lies over the
/// window and takes no room of its own.
class StatusTip : public QLabel {
  Q_OBJECT

public:
  explicit StatusTip(QWidget* window);

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
};

} // namespace tromb
