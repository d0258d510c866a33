// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "media/write/OutputFile.h"

#include <QString>
#include <QStringList>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace tromb::test {

/// Sets the luma and chroma of one pixel position of a test picture.
struct Yuv {
  int y = 16;
  int u = 128;
  int v = 128;
};
using Paint = std::function<Yuv(int frame, int x, int y)>;

/// A canvas painted pixel by pixel; chroma is taken at even positions.
[[nodiscard]] Frame painted(Size size, int frame, const Paint& paint);

/// Writes a clip of painted pictures; `clickEverySecond` adds sound with a 1 kHz click at each full second.
/// Throws std::runtime_error when it cannot.
void writeClip(const std::string& path, Size size, const FrameRate& rate, int frames, const Paint& paint,
               bool clickEverySecond = false, const Rational& pixelAspect = Rational(1), int rotation = 0);

/// Sixteen vertical stripes, white for a set bit: the frame's number, highest bit left.
[[nodiscard]] Yuv numberStripe(int frame, int x, int width);
/// The number in a picture of such stripes, read in the middle or in one line.
[[nodiscard]] int readNumber(const Frame& picture, std::optional<int> line = {});

/// Ropes, cloth and lettering in code: fine detail at all scales, the same on every machine.
extern const Paint texture;

/// Runs a program and returns what it wrote to both outputs; throws when it cannot be started or fails.
[[nodiscard]] QString run(const QString& program, const QStringList& arguments, bool mayFail = false);
/// The folder of the demo's footage and project: the one that was made for all tests, or a new one in `folder`.
[[nodiscard]] QString demoFolder(const QString& folder);
/// Runs FFmpeg's tool, which replaces what is there; no argument may hold a blank.
void ffmpeg(const QString& arguments);

/// The luma of one pixel.
[[nodiscard]] int lumaAt(const Frame& picture, int x, int y);
[[nodiscard]] Yuv yuvAt(const Frame& picture, int x, int y);

} // namespace tromb::test
