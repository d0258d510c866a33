// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAccessible>
#include <QRect>
#include <QString>
#include <vector>

namespace tromb {

/// One thing that a widget paints, as a screen reader tells it.
struct PaintedPart {
  QString name;
  QString value;
  QRect rect; ///< in the widget
  bool selected = false;
  bool canBePressed = true;
};

/// A widget that paints what others have widgets for: it says what its parts are, so that a screen reader finds them.
/// For the window's thread.
class PaintedParts {
public:
  virtual ~PaintedParts() = default;
  [[nodiscard]] virtual QAccessible::Role paintedRole() const { return QAccessible::List; }
  [[nodiscard]] virtual std::vector<PaintedPart> paintedParts() const = 0;
  /// What the whole says beside its name: where the playhead stands, what is active.
  [[nodiscard]] virtual QString paintedValue() const { return {}; }
  virtual void pressPart(int /*part*/) {}
};

/// Makes such widgets speak, and buttons of actions, and areas that are scrolled. Once for the program; further calls
/// do nothing.
void installAccessibility();

} // namespace tromb
