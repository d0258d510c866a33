// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QByteArray>
#include <QString>

namespace tromb::test {

/// The pictures of a film of H.264 with 8 bits, 4:2:0, one plane behind the other, as openh264 decodes them: a second
/// decoder beside FFmpeg's. Throws std::runtime_error where it cannot be set up.
[[nodiscard]] QByteArray decodedByOpenH264(const QString& film, const QString& folder);
/// The same by FFmpeg's tool.
[[nodiscard]] QByteArray decodedByFfmpeg(const QString& film, const QString& folder);

} // namespace tromb::test
