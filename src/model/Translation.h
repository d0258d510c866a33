// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <QString>

namespace tromb {

/// What the core says, in the language of the window. For the thread of the window.
[[nodiscard]] QString said(const Message& message);
/// The same of an error, in one or two sentences: what happened, to what, and what to do.
[[nodiscard]] QString said(const Error& error);

/// Gives the core's patterns in the language of the window, for what the core names by itself. Thread-safe.
[[nodiscard]] std::string inTheWindowsLanguage(const std::string& pattern, const std::string& one,
                                               std::optional<int64_t> count);

/// Takes the translation at `path` (a compiled one) in place of that of the user's language. Returns false if it cannot
/// be read. The environment variable TROMB_TRANSLATION does the same at the start, for translators who try theirs out.
bool translateWith(const QString& path);

} // namespace tromb
