// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QByteArray>
#include <QString>

namespace tromb::test {

/// The pictures of a film with 8 bits, 4:2:0, one plane behind the other, as a second decoder beside FFmpeg's usual one
/// sees them: openh264 for H.264, libde265 for H.265, libvpx for VP9, libaom for AV1. Throws std::runtime_error where
/// it cannot be set up.
[[nodiscard]] QByteArray decodedBySecond(const QString& film, const QString& folder);
/// The same by FFmpeg's tool.
[[nodiscard]] QByteArray decodedByFfmpeg(const QString& film, const QString& folder, const QString& decoder = {});

} // namespace tromb::test
