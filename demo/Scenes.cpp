// SPDX-License-Identifier: GPL-3.0-or-later
#include "Scenes.h"

#include "Balloon.h"
#include "Clip.h"
#include "Landscape.h"

#include <memory>

namespace tromb::demo {
namespace {

void put(cairo_t* cr, const Surface& surface, double x = 0, double y = 0) {
  cairo_set_source_surface(cr, surface.get(), x, y);
  cairo_paint(cr);
}

/// Several balloons rise over the ridge; UHD.
Status ridgeLaunch(const std::string& folder) {
  const Surface valley = paintValley(3840, 2160, 11, 0.52);
  const Surface meadow = paintMeadow(3840, 2160, 12, 0.83);
  struct Flight {
    BalloonSprite sprite;
    double x, y, driftX, rise, haze;
  };
  std::vector<Flight> flights;
  flights.push_back({BalloonSprite(balloonLook(1), 74), 620, 900, 5, 10, 0.5});
  flights.push_back({BalloonSprite(balloonLook(2), 104), 3230, 720, -7, 12, 0.4});
  flights.push_back({BalloonSprite(balloonLook(3), 140), 2700, 1010, -8, 22, 0.25});
  flights.push_back({BalloonSprite(balloonLook(5), 168), 960, 620, 12, 18, 0.18});
  flights.push_back({BalloonSprite(balloonLook(4), 236), 3060, 1240, -16, 30, 0.06});
  flights.push_back({BalloonSprite(balloonLook(0), 400), 1660, 840, 14, 34, 0});
  return writeClip(folder, {"ridge-launch.mp4", 3840, 2160, FrameRate(), 100, Rational(1), 0, true},
                   [&](cairo_t* cr, int, double t) {
                     put(cr, valley);
                     for (const Flight& f : flights)
                       f.sprite.draw(cr, f.x + f.driftX * t + 6 * std::sin(t * 0.8 + f.x), f.y - f.rise * t, f.haze);
                     put(cr, meadow);
                   });
}

/// One balloon crosses the whole frame, low and large.
Status crossing(const std::string& folder) {
  const Surface valley = paintValley(2120, 1080, 21, 0.5);
  const Surface meadow = paintMeadow(2720, 1080, 22, 0.86);
  const BalloonSprite near(balloonLook(2), 210);
  const BalloonSprite far(balloonLook(3), 52);
  return writeClip(folder, {"low-crossing.mp4", 1920, 1080, FrameRate(), 175, Rational(1), 0, true},
                   [&](cairo_t* cr, int, double t) {
                     put(cr, valley, -t * 12);
                     far.draw(cr, 1460 - t * 9, 330 - t * 3, 0.4);
                     near.draw(cr, 260 + t * 204, 400 + 22 * std::sin(t * 0.9), 0);
                     put(cr, meadow, -t * 60);
                   });
}

/// A film camera at the basket, 2.39:1 in a 16:9 frame: bars are burned in.
Status burner(const std::string& folder) {
  const Surface valley = paintValley(1920, 1080, 31, 0.6);
  const FrameRate rate(Rational(24000, 1001));
  return writeClip(
      folder, {"burner-check.mp4", 1920, 1080, rate, 144, Rational(1), 0, true}, [&](cairo_t* cr, int n, double t) {
        put(cr, valley, 0, -60);
        const double sway = 10 * std::sin(t * 0.7);
        // The mouth of the envelope above, lit by the flame.
        const double power = n / 36 % 2 == 0 ? 1.0 : 0.25;
        for (int gore = 0; gore < 22; ++gore) {
          use(cr, (gore % 2 ? Colour{0.78, 0.24, 0.18} : Colour{0.96, 0.86, 0.66})
                      .lit(0.55 + 0.4 * power * std::sin(0.3 + gore / 8.0)));
          cairo_move_to(cr, 960 + sway + (gore - 11) * 34.0, 330);
          cairo_line_to(cr, 960 + sway + (gore - 10) * 34.0, 330);
          cairo_line_to(cr, 960 + sway + (gore - 10) * 74.0, 100);
          cairo_line_to(cr, 960 + sway + (gore - 11) * 74.0, 100);
          cairo_close_path(cr);
          cairo_fill(cr);
        }
        const double flicker = 1 + 0.1 * std::sin(n * 1.7) + 0.06 * std::sin(n * 3.1);
        for (int tongue = 0; tongue < 5; ++tongue) {
          const double height = (260 - tongue * 42) * power * flicker;
          use(cr, Colour{1, 0.55 + tongue * 0.09, 0.2 + tongue * 0.16}, 0.75);
          cairo_move_to(cr, 960 + sway - 34 + tongue * 5, 520);
          cairo_curve_to(cr, 920 + sway, 520 - height * 0.5, 950 + sway, 520 - height * 0.8, 960 + sway, 520 - height);
          cairo_curve_to(cr, 970 + sway, 520 - height * 0.8, 1000 + sway, 520 - height * 0.5, 994 + sway - tongue * 5,
                         520);
          cairo_close_path(cr);
          cairo_fill(cr);
        }
        use(cr, {0.3, 0.3, 0.32});
        cairo_rectangle(cr, 915 + sway, 515, 90, 34);
        cairo_fill(cr);
        drawBasket(cr, 960 + sway, 760, 520, 470, 300);
        use(cr, {0.96, 0.93, 0.85});
        cairo_rectangle(cr, 800 + sway, 832, 320, 74);
        cairo_fill(cr);
        use(cr, {0.35, 0.1, 0.12});
        drawLettering(cr, "FENNICK VALE 07", 960 + sway, 858, 34, true);
        drawLettering(cr, "crew of three · sixty litres · check valves twice", 960 + sway, 889, 13, false);
        use(cr, {0, 0, 0});
        cairo_rectangle(cr, 0, 0, 1920, 138);
        cairo_rectangle(cr, 0, 1080 - 138, 1920, 138);
        cairo_fill(cr);
      });
}

/// Held upright: stored lying down, with the flag that turns it.
Status heldUpright(const std::string& folder) {
  const Surface valley = paintValley(1080, 1920, 41, 0.62);
  const Surface meadow = paintMeadow(1080, 1920, 42, 0.88);
  const BalloonSprite main(balloonLook(4), 300);
  const BalloonSprite far(balloonLook(6), 80);
  return writeClip(folder, {"from-the-gate.mp4", 1080, 1920, FrameRate(Rational(30)), 150, Rational(1), 90, true},
                   [&](cairo_t* cr, int, double t) {
                     put(cr, valley);
                     far.draw(cr, 860 - 6 * t, 520 - 14 * t, 0.3);
                     main.draw(cr, 470 + 12 * std::sin(t * 0.6), 900 - 52 * t, 0);
                     put(cr, meadow);
                   });
}

/// Five fast balloons at 50 frames a second.
Status quickDrift(const std::string& folder) {
  const Surface valley = paintValley(1920, 1080, 51, 0.55);
  const Surface meadow = paintMeadow(1920, 1080, 52, 0.9);
  const BalloonSprite left(balloonLook(5), 130);
  const BalloonSprite right(balloonLook(1), 170);
  const BalloonSprite small(balloonLook(6), 66);
  return writeClip(folder, {"quick-drift-50p.mp4", 1920, 1080, FrameRate(Rational(50)), 150, Rational(1), 0, true},
                   [&](cairo_t* cr, int, double t) {
                     put(cr, valley);
                     small.draw(cr, 1200 + 20 * t, 260, 0.3);
                     left.draw(cr, 420 + 60 * t, 470 - 18 * t, 0.05);
                     right.draw(cr, 1420 - 80 * t, 420 + 10 * t, 0);
                     put(cr, meadow);
                   });
}

/// An older camera: standard definition, 16:9 in non-square pixels.
Status archive(const std::string& folder) {
  constexpr int kUpright = 1047; // 720 · 16/11
  const Surface valley = paintValley(kUpright, 576, 61, 0.55);
  const Surface meadow = paintMeadow(kUpright, 576, 62, 0.84);
  const BalloonSprite balloon(balloonLook(6), 112);
  const BalloonSprite far(balloonLook(0), 40);
  return writeClip(folder, {"older-camera.mp4", 720, 576, FrameRate(), 125, Rational(16, 11), 0, true},
                   [&](cairo_t* cr, int, double t) {
                     cairo_scale(cr, 720.0 / kUpright, 1);
                     put(cr, valley);
                     far.draw(cr, 240 + 4 * t, 150 - 2 * t, 0.3);
                     balloon.draw(cr, 640 - 16 * t, 235 - 6 * t, 0);
                     put(cr, meadow);
                   });
}

/// The poster, as a still.
Status poster(const std::string& folder) {
  const Surface picture = paintValley(2400, 1600, 71, 0.6);
  const Brush cr(cairo_create(picture.get()));
  BalloonSprite(balloonLook(3), 120).draw(cr.get(), 480, 420, 0.2);
  BalloonSprite(balloonLook(2), 90).draw(cr.get(), 1980, 520, 0.3);
  BalloonSprite(balloonLook(0), 330).draw(cr.get(), 1200, 640, 0);
  put(cr.get(), paintMeadow(2400, 1600, 72, 0.9));
  use(cr.get(), {0.99, 0.97, 0.92});
  drawLettering(cr.get(), "Fennick Vale", 1200, 1480, 110, true);
  drawLettering(cr.get(), "balloon morning · first Saturday of the hay month · bring a warm coat", 1200, 1560, 34,
                false);
  return writeStill(folder, "poster.png", picture.get());
}

/// A finished edit: hard cuts at 2, 3.2, 5.6 and 8.4 seconds, and a dissolve from 6.6 to 7.4.
Status finishedEdit(const std::string& folder) {
  struct Look {
    Surface valley, meadow;
    BalloonSprite balloon;
  };
  std::vector<Look> looks;
  const double horizons[] = {0.5, 0.62, 0.42, 0.56, 0.68, 0.5};
  for (uint32_t i = 0; i < 6; ++i)
    looks.push_back({paintValley(1280, 720, 81 + i * 7, horizons[i]), paintMeadow(1280, 720, 82 + i, 0.78 + 0.03 * i),
                     BalloonSprite(balloonLook(int(i)), i % 2 == 0 ? 150 : 90)});
  return writeClip(folder, {"morning-edit.mp4", 1280, 720, FrameRate(), 250, Rational(1), 0, true},
                   [&](cairo_t* cr, int n, double t) {
                     const auto scene = [&](size_t i) {
                       put(cr, looks[i].valley);
                       looks[i].balloon.draw(cr, 260 + 170.0 * double(i) + 22 * t, 300 - 6 * t, 0);
                       put(cr, looks[i].meadow);
                     };
                     size_t i = 0;
                     for (const int cut : {50, 80, 140, 175, 210}) i += n >= cut ? 1 : 0;
                     if (n < 165 || n >= 185) return scene(i);
                     scene(3);
                     cairo_push_group(cr);
                     scene(4);
                     cairo_pop_group_to_source(cr);
                     cairo_paint_with_alpha(cr, (n - 165) / 20.0);
                   });
}

/// Shot at 100 frames a second, to be shown slowly: the burner's spark.
Status highSpeed(const std::string& folder) {
  const Surface valley = paintValley(1280, 720, 121, 0.66);
  const BalloonSprite balloon(balloonLook(3), 250);
  return writeClip(folder, {"burner-100p.mp4", 1280, 720, FrameRate(Rational(100)), 160, Rational(1), 0, false},
                   [&](cairo_t* cr, int n, double t) {
                     put(cr, valley);
                     balloon.draw(cr, 640 + 30 * t, 250 - 10 * t, 0);
                     for (int spark = 0; spark < 60; ++spark) {
                       const double age = std::fmod(t * 1.4 + spark * 0.037, 0.7);
                       use(cr, {1, 0.75 - age * 0.5, 0.3}, std::max(0.0, 1 - age * 1.5));
                       cairo_arc(cr, 640 + 30 * t + std::sin(spark * 2.4 + n * 0.01) * age * 130,
                                 560 - age * 330 * (0.6 + spark % 7 * 0.08), 3.2 - age * 3, 0, 6.2832);
                       cairo_fill(cr);
                     }
                   });
}

/// An interlaced camera whose file does not say so.
Status fieldCamera(const std::string& folder) {
  const Surface valley = paintValley(1047, 576, 131, 0.5);
  const Surface meadow = paintMeadow(1047, 576, 132, 0.84);
  const BalloonSprite balloon(balloonLook(1), 96);
  ClipSpec spec{"field-camera.mp4", 720, 576, FrameRate(), 75, Rational(16, 11), 0, true};
  spec.fields = true;
  return writeClip(folder, spec, [&](cairo_t* cr, int, double t) {
    cairo_scale(cr, 720.0 / 1047, 1);
    put(cr, valley);
    balloon.draw(cr, 120 + 240 * t, 220 - 8 * t, 0);
    put(cr, meadow);
  });
}

/// A camera that leaves pictures out when the light fails: the rate is variable.
Status unevenCamera(const std::string& folder) {
  const Surface valley = paintValley(1280, 720, 141, 0.58);
  const Surface meadow = paintMeadow(1280, 720, 142, 0.86);
  const BalloonSprite balloon(balloonLook(5), 130);
  ClipSpec spec{"dawn-variable.mp4", 1280, 720, FrameRate(Rational(30)), 100, Rational(1), 0, true};
  spec.uneven = true;
  return writeClip(folder, spec, [&](cairo_t* cr, int, double t) {
    put(cr, valley);
    balloon.draw(cr, 900 - 60 * t, 300 - 20 * t, 0.1);
    put(cr, meadow);
    use(cr, {0.1, 0.08, 0.2}, 0.35);
    cairo_paint(cr);
  });
}

/// Lettering on nothing: a still with transparency.
Status title(const std::string& folder) {
  const Surface picture = newSurface(1600, 400);
  const Brush cr(cairo_create(picture.get()));
  use(cr.get(), {0.98, 0.95, 0.88});
  drawLettering(cr.get(), "Fennick Vale", 800, 170, 190, true);
  drawLettering(cr.get(), "balloon morning", 800, 310, 84, false);
  return writeStill(folder, "title.png", picture.get());
}

} // namespace

std::vector<Scene> scenes() {
  const auto music = [](const std::string& folder) { return writeMusic(folder, "vale-tune.wav", 42); };
  return {{"ridge-launch.mp4", "Ridge launch", "Field", ridgeLaunch},
          {"low-crossing.mp4", "Low crossing", "Field", crossing},
          {"burner-check.mp4", "Burner check", "Field", burner},
          {"from-the-gate.mp4", "From the gate", "Visitors", heldUpright},
          {"quick-drift-50p.mp4", "Quick drift", "Field", quickDrift},
          {"older-camera.mp4", "Older camera", "Visitors", archive},
          {"poster.png", "Poster", "Graphics and sound", poster},
          {"morning-edit.mp4", "", "", finishedEdit},
          {"burner-100p.mp4", "", "Field", highSpeed},
          {"field-camera.mp4", "", "Visitors", fieldCamera},
          {"dawn-variable.mp4", "", "Visitors", unevenCamera},
          {"title.png", "", "Graphics and sound", title},
          {"vale-tune.wav", "", "Graphics and sound", music}};
}

} // namespace tromb::demo
