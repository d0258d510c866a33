// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "Paint.h"
#include "time/FrameRate.h"

#include <functional>
#include <string>

namespace tromb::demo {

/// What a made-up camera wrote.
struct ClipSpec {
  std::string file;
  int width = 1920; ///< of the upright picture as drawn
  int height = 1080;
  FrameRate rate;
  int frames = 0;
  Rational pixelAspect{1}; ///< stored pixels are this wide: the drawing is squeezed
  int rotation = 0;        ///< stored turned, with the flag that turns it back
  bool sound = true;       ///< a click once a second over a soft wind
  bool fields = false;     ///< drawn twice a frame and woven: top field first, and not labelled so
  bool uneven = false;     ///< some pictures last longer: the rate is variable
};

/// Draws frame n; `seconds` is its time.
using DrawFrame = std::function<void(cairo_t* cr, int n, double seconds)>;

/// Encodes a drawn clip. Errors: those of OutputFile.
[[nodiscard]] Status writeClip(const std::string& folder, const ClipSpec& spec, const DrawFrame& draw);
/// A made-up piece of music, `seconds` long, as a WAV of 48 kHz stereo.
[[nodiscard]] Status writeMusic(const std::string& folder, const std::string& file, int seconds);
[[nodiscard]] Status writeStill(const std::string& folder, const std::string& file, cairo_surface_t* surface);

} // namespace tromb::demo
