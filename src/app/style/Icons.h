// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QIcon>
#include <QString>

namespace tromb {

/// A shipped icon, drawn in the theme's ink (or `colour`); `name` is the file's, without ending.
[[nodiscard]] QIcon icon(const QString& name, const QColor& colour = {});

} // namespace tromb
