// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>

namespace tromb {

/// Leaves keys to what is being typed to: an open menu, the menu bar while it has the keyboard, combo boxes, which are
/// searched by typing, and the space bar to what it presses: buttons, and lists whose rows can be checked. Without it
/// such a key runs a command of a view behind them. An event filter for the application.
class TypedKeys : public QObject {
  Q_OBJECT

public:
  using QObject::QObject;
  bool eventFilter(QObject* watched, QEvent* event) override;
};

} // namespace tromb
