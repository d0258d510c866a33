// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QIcon>
#include <QString>

namespace tromb {

/// What an icon is drawn in.
enum class Ink {
  Text,    ///< the theme's ink
  OnAccent ///< the colour upon the accent
};

/// A shipped icon; `name` is the file's, without ending. It is drawn when it is shown, at the size and in the theme of
/// then: faint where it is disabled, in the colour upon the accent where its button is checked.
[[nodiscard]] QIcon icon(const QString& name, Ink ink = Ink::Text);

} // namespace tromb
