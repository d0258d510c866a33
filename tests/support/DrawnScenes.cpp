// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/DrawnScenes.h"

#include <QFile>
#include <cmath>

namespace tromb::test {
namespace {

constexpr double kWide = kSceneSize.width;
constexpr double kHigh = kSceneSize.height;

struct Point {
  double x;
  double y;
};

double sliding(double u) {
  u = std::clamp(u, 0.0, 1.0);
  return u * u * (3 - 2 * u);
}

/// The same unevenness on every machine, from −1 to 1.
double noise(int n, int x, int y) {
  uint32_t h = uint32_t(n) * 2654435761U ^ uint32_t(x) * 2246822519U ^ uint32_t(y) * 3266489917U;
  h = (h ^ (h >> 15)) * 2246822519U;
  return double((h ^ (h >> 13)) & 0xffff) / 32767.5 - 1;
}

/// A room or a field behind: soft shapes of little contrast.
Yuv backdropAt(double x, double y) {
  const double broad = 14 * std::sin(x * 0.021 + 1) + 12 * std::cos(y * 0.034 - x * 0.011);
  const double fine = 5 * std::sin(x * 0.23 + y * 0.11) + 4 * std::cos(y * 0.31 - x * 0.07);
  return {int(112 + broad + fine), int(126 + broad / 5), int(128 - broad / 6)};
}

/// The same at whole pixels, drawn once.
Yuv backdrop(double x, double y) {
  constexpr int kMargin = 128;
  constexpr int kColumns = 1024;
  constexpr int kRows = 512;
  static const std::vector<Yuv> drawn = [] {
    std::vector<Yuv> all;
    for (int row = 0; row < kRows; ++row)
      for (int column = 0; column < kColumns; ++column) all.push_back(backdropAt(column - kMargin, row - kMargin));
    return all;
  }();
  return drawn[size_t(int(std::lround(y)) + kMargin) * kColumns + size_t(int(std::lround(x)) + kMargin)];
}

constexpr Yuv kWorn{70, 140, 112};

/// A person to the shoulders. `half`: of the face's width, in pixels; `at`: the face's middle, in shares.
void person(Point at, double half, int x, int y, Yuv& colour, const Yuv& clothes = kWorn) {
  const double u = (x - at.x * kWide) / half;
  const double v = (y - at.y * kHigh) / half;
  if (std::abs(u) > 3.2 || v < -2.2 || v > 8) return;
  if (v > 1.25 && std::hypot(u / 2.3, (v - 4.2) / 2.9) < 1) colour = clothes;
  if (v > 0.9 && v < 1.9 && std::abs(u) < 0.42) colour = {150, 116, 146};
  if (std::abs(u) < 1.7 && std::abs(v + 0.1) < 2) {
    const double light = faceLight(u, v, colour.y);
    const bool skin = std::hypot(u / 0.9, (v - 0.1) / 1.25) < 1;
    colour = {int(light), skin ? 112 : colour.u, skin ? 150 : colour.v};
  }
}
RectF headBox(Point at, double half) {
  return {at.x - 1.1 * half / kWide, at.y - 1.6 * half / kHigh, 2.2 * half / kWide, 2.95 * half / kHigh};
}

/// A patterned ball.
void ball(Point at, double radius, int n, int x, int y, Yuv& colour) {
  const double dx = x - at.x * kWide;
  const double dy = y - at.y * kHigh;
  if (std::hypot(dx, dy) > radius) return;
  const bool stripe = std::fmod(std::atan2(dy, dx) + n * 0.02 + 7, 0.9) < 0.45;
  colour = stripe ? Yuv{200, 90, 170} : Yuv{60, 110, 180};
}
RectF ballBox(Point at, double radius) {
  return {at.x - radius / kWide, at.y - radius / kHigh, 2 * radius / kWide, 2 * radius / kHigh};
}

/// Lettering as strokes: letters 7 pixels wide with gaps, from `left`, so many of them.
void lettering(double left, double top, int letters, int x, int y, Yuv& colour) {
  const double px = x - left * kWide;
  const double py = y - top * kHigh;
  if (px < 0 || py < 0 || py >= 16 || px >= letters * 9) return;
  const int letter = int(px / 9);
  const double in = px - letter * 9;
  const bool upright = in < 2 || (in >= 5 && in < 7 && (letter % 3 != 1));
  const bool across = in < 7 && ((py < 2 && letter % 2 == 0) || (py > 13) || (py > 6 && py < 9 && letter % 3 != 0));
  if (upright || across) colour = {225, 128, 128};
}
RectF letteringBox(double left, double top, int letters) {
  return {left, top, letters * 9 / kWide, 16 / kHigh};
}

double at(int n) {
  return double(n) / (kSceneFrames - 1);
}

std::vector<DrawnScene> made() {
  std::vector<DrawnScene> scenes;
  const auto nobody = [](int) { return SceneTruth{}; };
  const auto add = [&](const char* name, bool clear, bool rests, auto paint, auto truth) -> DrawnScene& {
    scenes.push_back({name, clear, rests, 0, paint, truth});
    return scenes.back();
  };
  // What somebody does who talks: the head sways a little.
  const auto talking = [](double x, double y) {
    return [=](int n) { return Point{x + 0.006 * std::sin(n * 0.09), y + 0.006 * std::sin(n * 0.13)}; };
  };
  const auto onePerson = [&](const char* name, bool rests, auto way, double half) -> DrawnScene& {
    return add(
        name, true, rests,
        [=](int n, int x, int y) {
          Yuv colour = backdrop(x, y);
          person(way(n), half, x, y, colour);
          return colour;
        },
        [=](int n) {
          const RectF head = headBox(way(n), half);
          return SceneTruth{{head}, {}, {head}};
        });
  };
  const auto oneBall = [&](const char* name, auto way, double radius, auto camera, double grain,
                           double light) -> DrawnScene& {
    return add(
        name, true, false,
        [=](int n, int x, int y) {
          const Point c = camera(n);
          Yuv colour = backdrop(x + c.x, y + c.y);
          ball(way(n), radius, n, x, y, colour);
          colour.y = int(std::clamp(16 + (colour.y - 16) * light + grain * noise(n, x, y), 16.0, 235.0));
          return colour;
        },
        [=](int n) {
          const RectF box = ballBox(way(n), radius);
          const bool there = box.x > -box.width / 2 && box.x < 1 - box.width / 2;
          return there ? SceneTruth{{box}, {}, {}} : SceneTruth{};
        });
  };
  const auto still = [](int) { return Point{0, 0}; };
  const auto pan = [](int n) { return Point{n * 1.6, 0}; };
  const auto shake = [](int n) { return Point{5 * std::sin(n * 0.9), 4 * std::sin(n * 1.3 + 1)}; };
  const auto across = [](int n) { return Point{0.15 + 0.7 * at(n), 0.5 + 0.05 * std::sin(n * 0.1)}; };

  onePerson("talks at the left", true, talking(0.22, 0.4), 24);
  onePerson("talks at the right, large", true, talking(0.72, 0.42), 52);
  onePerson("talks, small", true, talking(0.64, 0.4), 19);
  onePerson(
      "walks across", false,
      [](int n) {
        return Point{0.2 + 0.6 * at(n), 0.4 + 0.008 * std::sin(n * 0.5)};
      },
      26);
  onePerson(
      "walks and stops", false,
      [](int n) {
        return Point{0.25 + 0.45 * sliding(at(n) * 1.6), 0.42};
      },
      28);
  oneBall("moves across", across, 20, still, 0, 1);
  oneBall(
      "moves, camera pans",
      [](int n) {
        return Point{0.55 + 0.12 * std::sin(n * 0.04), 0.5};
      },
      20, pan, 0, 1);
  oneBall("moves, camera shakes", across, 22, shake, 0, 1);
  oneBall("moves, small", across, 9, still, 0, 1);
  oneBall(
      "enters late",
      [](int n) {
        return Point{1.2 - 0.7 * sliding((at(n) - 0.3) * 1.6), 0.5};
      },
      20, still, 0, 1);
  oneBall(
      "leaves early",
      [](int n) {
        return Point{0.3 + 1.2 * std::max(0.0, at(n) - 0.35), 0.45};
      },
      20, still, 0, 1);
  oneBall("moves in low light", across, 22, still, 9, 0.3);
  oneBall("moves, low bit rate", across, 20, still, 2, 1).encoded = "-c:v libx264 -preset veryfast -b:v 90k";
  onePerson("talks, low bit rate", true, talking(0.3, 0.4), 30).encoded = "-c:v libx264 -preset veryfast -b:v 60k";

  add(
      "talks, something moves", true, true,
      [=](int n, int x, int y) {
        Yuv colour = backdrop(x, y);
        ball({0.75 + 0.15 * std::sin(n * 0.12), 0.6}, 16, n, x, y, colour);
        person(talking(0.28, 0.42)(n), 30, x, y, colour);
        return colour;
      },
      [=](int n) {
        const RectF head = headBox(talking(0.28, 0.42)(n), 30);
        return SceneTruth{{head}, {}, {head}};
      });
  const auto twoPeople = [&](const char* name, double left, double right, double half) -> DrawnScene& {
    return add(
        name, true, true,
        [=](int n, int x, int y) {
          Yuv colour = backdrop(x, y);
          person(talking(left, 0.42)(n), half, x, y, colour);
          person(talking(right, 0.4)(n + 30), half, x, y, colour);
          return colour;
        },
        [=](int n) {
          const RectF a = headBox(talking(left, 0.42)(n), half);
          const RectF b = headBox(talking(right, 0.4)(n + 30), half);
          return SceneTruth{{a, b}, {}, {a, b}};
        });
  };
  twoPeople("two talk, far apart", 0.22, 0.78, 28);
  twoPeople("two talk, near", 0.42, 0.6, 22);
  add(
      "two cross", true, false,
      [=](int n, int x, int y) {
        Yuv colour = backdrop(x, y);
        ball({0.2 + 0.6 * at(n), 0.4}, 18, n, x, y, colour);
        ball({0.8 - 0.6 * at(n), 0.62}, 18, n, x, y, colour);
        return colour;
      },
      [=](int n) {
        return SceneTruth{{ballBox({0.2 + 0.6 * at(n), 0.4}, 18), ballBox({0.8 - 0.6 * at(n), 0.62}, 18)}, {}, {}};
      });
  const auto withCut = [&](const char* name, auto before, auto after) {
    DrawnScene& scene = add(
        name, true, true,
        [=](int n, int x, int y) {
          const bool later = n >= 70;
          Yuv colour = later ? backdrop(400 - x, 90 - y * 0.7) : backdrop(x, y);
          if (later) colour = {colour.y / 2 + 90, colour.v, colour.u};
          person(later ? after(n) : before(n), 28, x, y, colour);
          return colour;
        },
        [=](int n) {
          const RectF head = headBox(n >= 70 ? after(n) : before(n), 28);
          return SceneTruth{{head}, {}, {head}};
        });
    scene.cutAt = 70;
  };
  withCut("a cut from left to right", talking(0.25, 0.42), talking(0.74, 0.4));
  withCut("a cut from right to middle", talking(0.8, 0.4), talking(0.5, 0.42));
  add(
      "talks beside lettering", true, true,
      [=](int n, int x, int y) {
        Yuv colour = backdrop(x, y);
        person(talking(0.4, 0.42)(n), 22, x, y, colour);
        lettering(0.49, 0.16, 10, x, y, colour);
        return colour;
      },
      [=](int n) {
        const RectF head = headBox(talking(0.4, 0.42)(n), 22);
        return SceneTruth{{head}, {letteringBox(0.49, 0.16, 10)}, {head}};
      });
  add(
      "something lies there", true, true,
      [=](int, int x, int y) {
        Yuv colour{110 + int(10 * std::sin(x * 0.01)), 128, 128};
        ball({0.7, 0.55}, 26, 0, x, y, colour);
        return colour;
      },
      [](int) {
        return SceneTruth{{ballBox({0.7, 0.55}, 26)}, {}, {}};
      });
  add(
      "nothing but scenery", false, true, [](int, int x, int y) { return backdrop(x, y); }, nobody);
  add(
      "many things move", false, false,
      [=](int n, int x, int y) {
        Yuv colour = backdrop(x, y);
        for (int i = 0; i < 7; ++i)
          ball({0.1 + 0.13 * i + 0.04 * std::sin(n * 0.1 + i * 2), 0.25 + 0.5 * ((i * 3) % 7) / 7.0}, 11, n, x, y,
               colour);
        return colour;
      },
      nobody);
  return scenes;
}

} // namespace

const std::vector<DrawnScene>& drawnScenes() {
  static const std::vector<DrawnScene> scenes = made();
  return scenes;
}

std::string sceneFile(const DrawnScene& scene, const std::string& folder) {
  const QString name = QString::fromLatin1(scene.name).replace(' ', '-').remove(',');
  const QString path = QStringLiteral("%1/%2.mp4").arg(QString::fromStdString(folder), name);
  if (QFile::exists(path)) return path.toStdString();
  const bool again = scene.encoded[0] != 0;
  const QString first = again ? path + QStringLiteral(".first.mp4") : path;
  writeClip(first.toStdString(), kSceneSize, FrameRate(), kSceneFrames, scene.paint);
  if (again) {
    ffmpeg(QStringLiteral("-i %1 %2 %3").arg(first, QLatin1String(scene.encoded), path));
    QFile::remove(first);
  }
  return path.toStdString();
}

void writePerson(const std::string& path, double x, double y, double half, Yuv clothes, int frames) {
  writeClip(path, kSceneSize, FrameRate(), frames, [=](int n, int px, int py) {
    Yuv colour = backdrop(px, py);
    person({x + 0.006 * std::sin(n * 0.09), y + 0.006 * std::sin(n * 0.13)}, half, px, py, colour, clothes);
    return colour;
  });
}

double faceLight(double u, double v, double behind) {
  struct Part {
    double x, y, width, height, edge, share, light;
    bool twice; ///< left and right
  };
  static constexpr Part kParts[] = {{0, -0.15, 1.08, 1.42, 0.04, 1, 60, false},       // hair
                                    {0, 0.15, 0.86, 1.18, 0.05, 1, 200, false},       // skin
                                    {0.36, -0.14, 0.27, 0.17, 0.25, 0.55, 110, true}, // sockets
                                    {0.37, -0.34, 0.25, 0.05, 0.3, 0.9, 60, true},    // brows
                                    {0.36, -0.1, 0.17, 0.075, 0.2, 0.9, 70, true},    // eyes
                                    {0.62, 0.45, 0.3, 0.45, 0.5, 0.35, 150, true},    // cheeks
                                    {0, 0.08, 0.08, 0.3, 0.4, 0.45, 235, false},      // nose
                                    {0, 0.7, 0.3, 0.07, 0.3, 0.75, 100, false}};      // mouth
  double light = behind;
  for (const Part& part : kParts)
    for (const int side : {1, -1}) {
      if (side < 0 && !part.twice) continue;
      const double away = std::hypot((u - side * part.x) / part.width, (v - part.y) / part.height) - 1;
      light += part.share / (1 + std::exp(away / part.edge)) * (part.light - light);
    }
  return light;
}

} // namespace tromb::test
