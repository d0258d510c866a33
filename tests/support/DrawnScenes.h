// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "support/TestMedia.h"

namespace tromb::test {

/// What is true of one frame of a drawn scene, in shares of its picture.
struct SceneTruth {
  std::vector<RectF> subjects; ///< what matters and is to be seen whole; empty where nothing is there
  std::vector<RectF> words;    ///< lettering, not to be cut through
  std::vector<RectF> faces;    ///< all of them
};

/// A scene that is drawn, so that it is known what matters in it and where.
struct DrawnScene {
  const char* name;
  bool clear;    ///< somebody who looks at it could tell what matters
  bool rests;    ///< what matters does not move
  int cutAt = 0; ///< 0: there is none
  std::function<Yuv(int frame, int x, int y)> paint;
  std::function<SceneTruth(int frame)> truth;
  const char* encoded = ""; ///< FFmpeg's words for how it is encoded once more; empty: well
};

inline constexpr Size kSceneSize{480, 270};
inline constexpr int kSceneFrames = 150; ///< at 25 a second

/// One and two subjects, crossing, entering and leaving, small and large; distractors that move; pans and shakes; cuts;
/// lettering at the edge; low light; low bit rates.
[[nodiscard]] const std::vector<DrawnScene>& drawnScenes();

/// Writes a scene into a folder, once. Throws as writeClip does.
[[nodiscard]] std::string sceneFile(const DrawnScene& scene, const std::string& folder);

/// A clip of somebody to the shoulders, who sways a little: the middle of the face in shares of the picture, half its
/// width in pixels, and what is worn. Throws as writeClip does.
void writePerson(const std::string& path, double x, double y, double half, Yuv clothes, int frames = 50);

/// The light of a face seen from in front, as what lies on each other, in units of half its width from its middle.
[[nodiscard]] double faceLight(double u, double v, double behind);

} // namespace tromb::test
