// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/Framing.h"
#include "geometry/LegalSize.h"
#include "geometry/ObjectFit.h"
#include "geometry/WaysToFill.h"

#include <QTest>
#include <numbers>
#include <random>

using namespace tromb;

class TestGeometry : public QObject {
  Q_OBJECT

  static Framing named(const char* name) {
    Framing framing;
    if (!framingByName(name, framing)) qFatal("no framing %s", name);
    return framing;
  }

private slots:
  // CSS Images Level 3, object-fit: 1920×1080 into each box; computed from its definition and reproduced with an
  // independent layout library.
  void objectFit_data() {
    QTest::addColumn<int>("w");
    QTest::addColumn<int>("h");
    QTest::addColumn<double>("containW");
    QTest::addColumn<double>("containH");
    QTest::addColumn<double>("windowX");
    QTest::addColumn<double>("windowY");
    QTest::addColumn<double>("windowW");
    QTest::addColumn<double>("windowH");
    QTest::addColumn<double>("share");
    const double rows[][9] = {{1080, 1920, 1080, 607.5, 656.25, 0, 607.5, 1080, 31.6406},
                              {1080, 1080, 1080, 607.5, 420, 0, 1080, 1080, 56.25},
                              {1080, 1350, 1080, 607.5, 528, 0, 864, 1080, 45},
                              {864, 1080, 864, 486, 528, 0, 864, 1080, 45},
                              {2560, 1080, 1920, 1080, 0, 135, 1920, 810, 75},
                              {1920, 816, 1450.667, 816, 0, 132, 1920, 816, 75.5556},
                              {1920, 818, 1454.222, 818, 0, 131, 1920, 818, 75.7407},
                              {640, 1136, 640, 360, 655.775, 0, 608.451, 1080, 31.6901}};
    for (const auto& r : rows)
      QTest::addRow("%gx%g", r[0], r[1]) << int(r[0]) << int(r[1]) << r[2] << r[3] << r[4] << r[5] << r[6] << r[7]
                                         << r[8];
  }
  void objectFit() {
    QFETCH(int, w);
    QFETCH(int, h);
    QFETCH(double, containW);
    QFETCH(double, containH);
    QFETCH(double, windowX);
    QFETCH(double, windowY);
    QFETCH(double, windowW);
    QFETCH(double, windowH);
    QFETCH(double, share);
    const SizeF picture{1920, 1080};
    const SizeF box{double(w), double(h)};
    const RectF contain = tromb::objectFit(picture, box, ObjectFit::Contain);
    QVERIFY(std::abs(contain.width - containW) < 1e-3);
    QVERIFY(std::abs(contain.height - containH) < 1e-3);
    QVERIFY(std::abs(contain.x - (w - containW) / 2) < 1e-3);
    QVERIFY(std::abs(contain.y - (h - containH) / 2) < 1e-3);
    const RectF window = resolveWindow(picture, box, Window{});
    QVERIFY(std::abs(window.x - windowX) < 1e-3);
    QVERIFY(std::abs(window.y - windowY) < 1e-3);
    QVERIFY(std::abs(window.width - windowW) < 1e-3);
    QVERIFY(std::abs(window.height - windowH) < 1e-3);
    // The share of the box that contain fills equals the share of the picture that cover shows.
    QVERIFY(std::abs(contain.area() / (box.width * box.height) * 100 - share) < 1e-3);
    QVERIFY(std::abs(window.area() / (picture.width * picture.height) * 100 - share) < 1e-3);
  }
  void objectPosition() {
    // Into 1080×1920, cover: free x = −2333.333; 0 %, 25 % and 100 % (CSS Images 3, object-position).
    const std::pair<double, double> rows[] = {{0, 0}, {0.25, -583.3333}, {1, -2333.3333}};
    for (const auto& [position, x] : rows)
      QVERIFY(std::abs(tromb::objectFit({1920, 1080}, {1080, 1920}, ObjectFit::Cover, position).x - x) < 1e-3);
  }

  // Rec. ITU-R BT.601 with the 704-sample picture; H.264 Table E-1 carries the same ratios.
  void pixelAspect_data() {
    QTest::addColumn<Size>("stored");
    QTest::addColumn<Rational>("aspect");
    QTest::addColumn<double>("width");
    QTest::newRow("625 4:3") << Size{720, 576} << Rational(12, 11) << 8640.0 / 11;
    QTest::newRow("625 16:9") << Size{720, 576} << Rational(16, 11) << 11520.0 / 11;
    QTest::newRow("525 4:3") << Size{720, 480} << Rational(10, 11) << 7200.0 / 11;
    QTest::newRow("525 16:9") << Size{720, 480} << Rational(40, 33) << 9600.0 / 11;
    QTest::newRow("1440") << Size{1440, 1080} << Rational(4, 3) << 1920.0;
  }
  void pixelAspect() {
    QFETCH(Size, stored);
    QFETCH(Rational, aspect);
    QFETCH(double, width);
    const PictureShape shape(stored, aspect, 0);
    QVERIFY(std::abs(shape.picture().width - width) < 1e-9);
    QCOMPARE(shape.picture().height, double(stored.height));
    // All of the picture is all of the raster.
    const RectF all = shape.toStored({0, 0, shape.picture().width, shape.picture().height});
    QVERIFY(std::abs(all.width - stored.width) < 1e-9);
    QVERIFY(std::abs(all.height - stored.height) < 1e-9);
    // Detail counts stored pixels: filling a canvas of the stored height, x is what was really recorded.
    const Size canvas{int(width) / 2 * 2, stored.height};
    const double d = detail(shape, place(shape, canvas, Framing{}));
    QVERIFY(std::abs(d - std::min(1.0, stored.width / width)) < 0.01);
  }
  // Canvases whose pixels are not square: the same raster goes over pixel by pixel, and everything else keeps its true
  // shape. Reckoned by hand: what fills the canvas has its shown ratio, width · aspect : height.
  void canvasPixels_data() {
    QTest::addColumn<Size>("stored");
    QTest::addColumn<Rational>("aspect");
    QTest::addColumn<int>("rotation");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<Rational>("canvasAspect");
    QTest::addColumn<RectF>("shown"); // stored pixels
    QTest::addColumn<double>("sharp");
    const Rational square(1), wide(4, 3), sd(16, 11);
    QTest::newRow("625 into itself") << Size{720, 576} << sd << 0 << Size{720, 576} << sd << RectF{0, 0, 720, 576}
                                     << 1.0;
    QTest::newRow("1920 into 1440") << Size{1920, 1080} << square << 0 << Size{1440, 1080} << wide
                                    << RectF{0, 0, 1920, 1080} << 1.0;
    QTest::newRow("1440 into 1920") << Size{1440, 1080} << wide << 0 << Size{1920, 1080} << square
                                    << RectF{0, 0, 1440, 1080} << 0.75;
    QTest::newRow("turned") << Size{1920, 1080} << square << 90 << Size{1440, 1080} << wide
                            << RectF{656.25, 0, 607.5, 1080} << 607.5 / 1080;
    const double cut = 1080 * 720 * 12 / 11.0 / 576;
    QTest::newRow("cut to 4:3") << Size{1920, 1080} << square << 0 << Size{720, 576} << Rational(12, 11)
                                << RectF{(1920 - cut) / 2, 0, cut, 1080} << 1.875;
  }
  void canvasPixels() {
    QFETCH(Size, stored);
    QFETCH(Rational, aspect);
    QFETCH(int, rotation);
    QFETCH(Size, canvas);
    QFETCH(Rational, canvasAspect);
    QFETCH(RectF, shown);
    QFETCH(double, sharp);
    const PictureShape shape = PictureShape(stored, aspect, rotation).forPixels(canvasAspect);
    const auto placements = place(shape, canvas, Framing{});
    const RectF found = shape.toStored(placements.front().window);
    QVERIFY2(std::abs(found.x - shown.x) < 1e-6 && std::abs(found.width - shown.width) < 1e-6,
             qPrintable(QStringLiteral("%1 + %2").arg(found.x).arg(found.width)));
    QVERIFY2(std::abs(found.y - shown.y) < 1e-6 && std::abs(found.height - shown.height) < 1e-6,
             qPrintable(QStringLiteral("%1 + %2").arg(found.y).arg(found.height)));
    QVERIFY2(std::abs(detail(shape, placements) - sharp) < 1e-6,
             qPrintable(QString::number(detail(shape, placements))));
    QVERIFY(uncoveredPercent(canvas, placements) == 0);
  }
  void rotationAndBarsKeepTheSamePixels_data() {
    QTest::addColumn<int>("rotation");
    QTest::addColumn<RectF>("stored");
    // The upright top-left 100×50 of a stored 1920×1080, bars of 10 left and 20 top in the upright picture.
    QTest::newRow("0") << 0 << RectF{10, 20, 100, 50};
    QTest::newRow("90") << 90 << RectF{20, 1080 - 110, 50, 100};
    QTest::newRow("180") << 180 << RectF{1920 - 110, 1080 - 70, 100, 50};
    QTest::newRow("270") << 270 << RectF{1920 - 70, 10, 50, 100};
  }
  void rotationAndBarsKeepTheSamePixels() {
    QFETCH(int, rotation);
    QFETCH(RectF, stored);
    const PictureShape shape({1920, 1080}, Rational(1), rotation, {10, 20, 0, 0});
    QCOMPARE(shape.toStored({0, 0, 100, 50}), stored);
  }

  // A property over chance: what a place of a picture shows, the same place of the picture turned, mirrored and with
  // other bars shows, too: the same stored pixel.
  void placesStayOnWhatTheyShow() {
    std::mt19937 dice(11);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    const auto bars = [&] { return Bars{upTo(60), upTo(40), upTo(60), upTo(40)}; };
    const auto orientation = [&] { return Orientation{90 * upTo(4), upTo(2) == 1, 0}; };
    for (int i = 0; i < 500; ++i) {
      const Size stored{300 + upTo(900), 200 + upTo(700)};
      const Rational aspect(8 + upTo(16), 12);
      const int rotation = 90 * upTo(4);
      const PictureShape from(stored, aspect, rotation, bars(), orientation());
      const PictureShape to(stored, aspect, rotation, bars(), orientation());
      const double x = 0.3 + 0.4 * upTo(1000) / 1000.0; // far enough inside that no bars reach it
      const double y = 0.3 + 0.4 * upTo(1000) / 1000.0;
      const auto [u, v] = samePlace(from, to, x, y);
      const RectF before = from.toStored({x * from.picture().width, y * from.picture().height, 0, 0});
      const RectF after = to.toStored({u * to.picture().width, v * to.picture().height, 0, 0});
      QVERIFY(std::abs(before.x - after.x) < 1e-6);
      QVERIFY(std::abs(before.y - after.y) < 1e-6);
      const auto [backX, backY] = samePlace(to, from, u, v);
      QVERIFY(std::abs(backX - x) < 1e-9);
      QVERIFY(std::abs(backY - y) < 1e-9);
      const Bars some = bars();
      QVERIFY(takenFrom(shownAs(some, to.orientation()), to.orientation()) == some);
    }
    // What is cut away is held at the edge.
    const PictureShape whole({1920, 1080}, Rational(1), 0);
    const PictureShape cut({1920, 1080}, Rational(1), 0, {0, 140, 0, 140});
    QCOMPARE(samePlace(whole, cut, 0.5, 0.01), std::pair(0.5, 0.0));
  }

  // A property over chance: a picture turned by a small angle and enlarged as much as is said has all four corners of
  // its frame inside what was recorded, and one of them on its edge: no less would do.
  void straighteningLeavesNoCornerEmpty() {
    std::mt19937 dice(37);
    const auto in = [&](double least, double most) { return least + (most - least) * (double(dice()) / 4294967296.0); };
    for (int i = 0; i < 500; ++i) {
      const SizeF size{in(100, 4000), in(100, 4000)};
      const double degrees = in(-kMostStraighten, kMostStraighten);
      const double zoom = straightenZoom(size, degrees);
      const double angle = degrees * std::numbers::pi / 180;
      double farthest = 0;
      for (const auto& [x, y] : {std::pair(1, 1), {1, -1}, {-1, 1}, {-1, -1}}) {
        // A corner of the frame, seen in what was recorded.
        const double cx = x * size.width / 2 / zoom;
        const double cy = y * size.height / 2 / zoom;
        const double px = cx * std::cos(angle) + cy * std::sin(angle);
        const double py = cy * std::cos(angle) - cx * std::sin(angle);
        farthest = std::max({farthest, std::abs(px) / (size.width / 2), std::abs(py) / (size.height / 2)});
      }
      QVERIFY2(std::abs(farthest - 1) < 1e-9, qPrintable(QString::number(farthest)));
      QVERIFY(std::abs(straightenZoom(size, -degrees) - zoom) < 1e-12);
      QVERIFY(zoom >= 1);
      // And detail is less by just that, whatever is framed.
      const Size stored{int(size.width), int(size.height)};
      const PictureShape level(stored, Rational(1), 0);
      const PictureShape straight(stored, Rational(1), 0, {}, {0, false, degrees});
      const Size canvas{720, 1280};
      const double ratio =
          detail(level, place(level, canvas, Framing())) / detail(straight, place(straight, canvas, Framing()));
      const double whole = straightenZoom({double(stored.width), double(stored.height)}, degrees);
      QVERIFY(std::abs(ratio - whole) < 1e-9);
    }
    QCOMPARE(straightenZoom({1920, 1080}, 0), 1.0);
  }

  // 4:2:0 needs even sides (ITU-T H.264 6.2); 2.35:1 of 1920 is 817.02, which it cannot carry.
  void legalSizes() {
    QCOMPARE(legalNeighbours(817), std::pair(816, 818));
    QCOMPARE(legalNeighbours(1080), std::pair(1080, 1080));
    QCOMPARE(legalNeighbours(3), std::pair(16, 16));
    QCOMPARE(legalNeighbours(99999), std::pair(16384, 16384));
    QVERIFY(!isLegalSize({1920, 817}));
    QVERIFY(isLegalSize({1920, 816}));
    QVERIFY(!isLegalSize({14, 16}));
    QCOMPARE(legalHeightFor(1920, 2.35), 818);
    QCOMPARE(legalWidthFor(1920, 9.0 / 16), 1080);
  }
  void largestSharpCanvasIsSharpAndLargest_data() {
    QTest::addColumn<Size>("stored");
    QTest::addColumn<double>("ratio");
    QTest::addColumn<Size>("best");
    QTest::newRow("HD 9:16") << Size{1920, 1080} << 9.0 / 16 << Size{606, 1080};
    QTest::newRow("HD 4:5") << Size{1920, 1080} << 0.8 << Size{864, 1080};
    QTest::newRow("HD 1:1") << Size{1920, 1080} << 1.0 << Size{1080, 1080};
    QTest::newRow("UHD 9:16") << Size{3840, 2160} << 9.0 / 16 << Size{1214, 2160};
    QTest::newRow("HD 21:9") << Size{1920, 1080} << 2560.0 / 1080 << Size{1920, 810};
    QTest::newRow("too small") << Size{20, 12} << 1.0 << Size{0, 0};
  }
  void largestSharpCanvasIsSharpAndLargest() {
    QFETCH(Size, stored);
    QFETCH(double, ratio);
    QFETCH(Size, best);
    const PictureShape shape(stored, Rational(1), 0);
    QCOMPARE(largestSharpCanvas(shape, ratio), best);
    if (best.width == 0) return;
    QVERIFY(detail(shape, place(shape, best, Framing{})) >= 0.999);
    const Size more{best.width + 4, legalHeightFor(best.width + 4, ratio)};
    QVERIFY(detail(shape, place(shape, more, Framing{})) < 1);
  }

  void detailAndBarsOfTheUsualFramings_data() {
    QTest::addColumn<QString>("framing");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<double>("detail");
    QTest::addColumn<double>("bars");
    // 1920×1080. A stacked half of 1080×1920 is 1080×960: its window has 1215×1080 pixels.
    QTest::newRow("fill") << "fill" << Size{1080, 1920} << 0.5625 << 0.0;
    QTest::newRow("fit") << "fit" << Size{1080, 1920} << 1080.0 / 608 << 68.333;
    QTest::newRow("fit square") << "fit" << Size{1080, 1080} << 1080.0 / 608 << 43.704;
    QTest::newRow("stack2") << "stack2" << Size{1080, 1920} << 1.125 << 0.0;
    QTest::newRow("stack3") << "stack3" << Size{1080, 1920} << 1920.0 / 1138.5 << 0.0;
    QTest::newRow("backdrop") << "backdrop" << Size{1080, 1920} << 1080.0 / 608 << 0.0;
    QTest::newRow("same") << "fill" << Size{1920, 1080} << 1.0 << 0.0;
  }
  void detailAndBarsOfTheUsualFramings() {
    QFETCH(QString, framing);
    QFETCH(Size, canvas);
    QFETCH(double, detail);
    QFETCH(double, bars);
    const PictureShape shape({1920, 1080}, Rational(1), 0);
    const auto placements = place(shape, canvas, named(qPrintable(framing)));
    const double found = tromb::detail(shape, placements);
    if (framing != QLatin1String("stack3"))
      QVERIFY2(std::abs(found - detail) < 2e-3, qPrintable(QString::number(found)));
    else
      QVERIFY(found > 1.6);
    QVERIFY(std::abs(uncoveredPercent(canvas, placements) - bars) < 1e-2);
  }

  // A property over chance: no window leaves the picture, no placement leaves the canvas, fills leave nothing open.
  void windowsStopAtTheEdge() {
    std::mt19937 dice(7);
    const auto in = [&](double least, double most) { return least + (most - least) * (double(dice()) / 4294967296.0); };
    const char* const kNames[] = {"fill", "fit", "stack2", "stack3", "side2", "side3", "backdrop"};
    for (int i = 0; i < 5600; ++i) {
      const Size stored{int(in(64, 4096)), int(in(64, 2304))};
      const PictureShape shape(stored, Rational(int(in(8, 24)), 12), int(in(0, 4)) * 90,
                               {int(in(0, 9)), int(in(0, 9)), 0, int(in(0, 9))});
      const Size canvas{int(in(32, 2048)) * 2, int(in(32, 2048)) * 2};
      Framing framing = named(kNames[i % 7]);
      framing.gap = in(0, 1) < 0.5 ? 0 : in(0, kMostGap);
      const auto key = [&](int n) {
        return MoveKey{Rational(n), in(0, 1), in(0, 1), in(0, 1) < 0.5 ? 1 : in(1, 8), Ease(int(in(0, 4))), {}};
      };
      for (Window& w : framing.windows) {
        w.x = in(0, 1);
        w.y = in(0, 1);
        w.zoom = in(0, 1) < 0.5 ? 1 : in(1, 8);
        w.follows = in(0, 1) < 0.5;
        if (in(0, 1) < 0.5) w.move = {key(0), key(1), key(3)};
      }
      Subjects subjects;
      if (in(0, 1) < 0.5) subjects.push_back({{key(0), key(2)}, in(0, 1), in(0, 1), 0, {}});
      const SizeF picture = shape.picture();
      const double seconds = in(-1, 4);
      const auto placements = place(shape, canvas, framing, subjects, seconds);
      // The worst of a shot is never better than any moment of it.
      const Shortfall least = worst(shape, canvas, framing, subjects, -1, 4);
      QVERIFY(detail(shape, placements) >= least.detail * (1 - 0.01) || i % 7 == 1 || i % 7 == 6);
      for (const Placement& p : placements) {
        QVERIFY(p.window.x >= -1e-9);
        QVERIFY(p.window.y >= -1e-9);
        QVERIFY(p.window.right() <= picture.width + 1e-6);
        QVERIFY(p.window.bottom() <= picture.height + 1e-6);
        QVERIFY(p.canvas.x >= 0);
        QVERIFY(p.canvas.y >= 0);
        QVERIFY(p.canvas.width >= 2);
        QVERIFY(p.canvas.height >= 2);
        QVERIFY(p.canvas.x + p.canvas.width <= canvas.width);
        QVERIFY(p.canvas.y + p.canvas.height <= canvas.height);
        QVERIFY(p.canvas.x % 2 == 0);
        QVERIFY(p.canvas.y % 2 == 0);
        QVERIFY(p.canvas.width % 2 == 0);
        QVERIFY(p.canvas.height % 2 == 0);
        const RectF raster = shape.toStored(p.window);
        QVERIFY(raster.x >= -1e-6);
        QVERIFY(raster.right() <= stored.width + 1e-6);
        QVERIFY(raster.bottom() <= stored.height + 1e-6);
      }
      if (i % 7 != 1) QCOMPARE(uncoveredPercent(canvas, placements), 0.0);
    }
  }

  // One mark frames all shapes: the subject lies where it is wanted, as near as the picture's edge allows.
  void windowsFollowTheSubject_data() {
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<double>("subjectX");
    QTest::addColumn<double>("wantedX");
    QTest::addColumn<double>("windowX"); // left edge, by hand from 1920×1080
    QTest::newRow("vertical, middle") << Size{1080, 1920} << 0.5 << 0.5 << 960 - 303.75;
    QTest::newRow("vertical, off centre") << Size{1080, 1920} << 0.4 << 0.5 << 768 - 303.75;
    QTest::newRow("vertical, left third") << Size{1080, 1920} << 0.4 << 1.0 / 3 << 768 - 202.5;
    QTest::newRow("vertical, at the edge") << Size{1080, 1920} << 0.02 << 0.5 << 0.0;
    QTest::newRow("square") << Size{1080, 1080} << 0.6 << 0.5 << 1152.0 - 540;
    QTest::newRow("square, at the edge") << Size{1080, 1080} << 0.95 << 0.5 << 840.0;
    QTest::newRow("wide has no choice") << Size{1920, 1080} << 0.2 << 0.5 << 0.0;
  }
  void windowsFollowTheSubject() {
    QFETCH(Size, canvas);
    QFETCH(double, subjectX);
    QFETCH(double, wantedX);
    QFETCH(double, windowX);
    const PictureShape shape({1920, 1080}, Rational(1), 0);
    Subject subject;
    subject.move.front().x = subjectX;
    subject.atX = wantedX;
    const RectF followed = place(shape, canvas, Framing{}, {subject}).front().window;
    QVERIFY2(std::abs(followed.x - windowX) < 1e-6, qPrintable(QString::number(followed.x)));
    Framing byHand;
    byHand.windows = {Window{}};
    QCOMPARE(place(shape, canvas, byHand, {subject}), place(shape, canvas, byHand));
  }

  // Smoothstep at a quarter is 5/32; monotone cubics (Fritsch and Butland 1984) keep between their keys, pass through
  // them, have no corner, and stand still at a turning point.
  void movesGoAsTheirKeysSay() {
    const auto key = [](int at, double x, double zoom, Ease ease) {
      return MoveKey{Rational(at), x, 0.5, zoom, ease, {}};
    };
    const Move two{key(0, 0.2, 1, Ease::Linear), key(4, 0.6, 4, Ease::Eased)};
    QVERIFY(std::abs(placeAt(two, 1).x - 0.3) < 1e-12);
    QVERIFY(std::abs(placeAt(two, 2).zoom - 2) < 1e-12);
    QVERIFY(placeAt(two, -1).x == 0.2);
    QVERIFY(placeAt(two, 9).x == 0.6);
    Move eased = two;
    eased[0].ease = Ease::Eased;
    QVERIFY(std::abs(placeAt(eased, 1).x - (0.2 + 0.4 * 5 / 32)) < 1e-12);
    eased[0].ease = Ease::Hold;
    QVERIFY(placeAt(eased, 3.99).x == 0.2);
    QVERIFY(placeAt(eased, 4).x == 0.6);
    Move smooth{key(0, 0.1, 1, Ease::Smooth), key(1, 0.3, 1, Ease::Smooth), key(3, 0.4, 2, Ease::Smooth),
                key(4, 0.9, 1, Ease::Smooth), key(6, 0.5, 1, Ease::Smooth)};
    const auto x = [&](double at) { return placeAt(smooth, at).x; };
    for (const MoveKey& each : smooth) {
      const double at = each.time.toDouble();
      QVERIFY(std::abs(x(at) - each.x) < 1e-9);
      constexpr double h = 1e-5;
      const double before = (x(at) - x(at - h)) / h;
      const double after = (x(at + h) - x(at)) / h;
      QVERIFY2(std::abs(before - after) < 1e-3, qPrintable(QString::number(at)));
    }
    for (int i = 1; i <= 400; ++i) QVERIFY(x(i / 100.0) >= x((i - 1) / 100.0) - 1e-12);
    for (int i = 401; i <= 600; ++i) QVERIFY(x(i / 100.0) <= x((i - 1) / 100.0) + 1e-12);
    const Move back = reversed(smooth, Rational(0), Rational(6));
    for (double at = 0; at <= 6; at += 0.25) QVERIFY(std::abs(placeAt(back, 6 - at).x - x(at)) < 1e-9);
    QVERIFY(retimed(smooth, Rational(1), Rational(2), Rational(3))[2].time == Rational(8));
  }

  // By hand: shares of what the gaps leave, on even lines, the last taking what is left.
  void sharesAndGaps_data() {
    QTest::addColumn<QString>("layout");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<double>("gap");
    QTest::addColumn<QList<double>>("shares");
    QTest::addColumn<QList<int>>("edges"); // first and last line of each, along the stack
    QTest::newRow("one") << "fill" << Size{1080, 1920} << 0.1 << QList<double>{} << QList<int>{0, 1920};
    QTest::newRow("two") << "stack2" << Size{1080, 1920} << 0.0 << QList<double>{} << QList<int>{0, 960, 960, 1920};
    QTest::newRow("three") << "stack3" << Size{1080, 1920} << 0.0 << QList<double>{}
                           << QList<int>{0, 640, 640, 1280, 1280, 1920};
    QTest::newRow("three that do not divide")
        << "stack3" << Size{1080, 1350} << 0.0 << QList<double>{} << QList<int>{0, 450, 450, 900, 900, 1350};
    QTest::newRow("two beside") << "side2" << Size{2560, 1080} << 0.0 << QList<double>{}
                                << QList<int>{0, 1280, 1280, 2560};
    QTest::newRow("gap") << "stack2" << Size{1080, 1920} << 0.02 << QList<double>{} << QList<int>{0, 942, 980, 1920};
    QTest::newRow("unequal") << "side2" << Size{2000, 1000} << 0.0 << QList<double>{0.7, 0.3}
                             << QList<int>{0, 1400, 1400, 2000};
    QTest::newRow("unequal, with gaps") << "side3" << Size{2000, 1000} << 0.05 << QList<double>{0.5, 0.25, 0.25}
                                        << QList<int>{0, 900, 1000, 1450, 1550, 2000};
    QTest::newRow("the widest gap") << "stack2" << Size{100, 1000} << 9.0 << QList<double>{}
                                    << QList<int>{0, 400, 600, 1000};
  }
  void sharesAndGaps() {
    QFETCH(QString, layout);
    QFETCH(Size, canvas);
    QFETCH(double, gap);
    QFETCH(QList<double>, shares);
    QFETCH(QList<int>, edges);
    Framing framing = named(qPrintable(layout));
    framing.gap = gap;
    framing.shares.assign(shares.begin(), shares.end());
    QList<int> found;
    for (const PixelRect& share : canvasShares(framing, canvas)) {
      const bool side = sideBySide(framing.layout);
      found << (side ? share.x : share.y) << (side ? share.x + share.width : share.y + share.height);
      QCOMPARE(side ? share.height : share.width, side ? canvas.height : canvas.width);
    }
    QVERIFY2(found.size() == edges.size(), qPrintable(QString::number(found.size())));
    for (int i = 0; i < found.size(); ++i)
      QVERIFY2(std::abs(found[i] - edges[i]) <= 1 && found[i] % 2 == 0, qPrintable(QString::number(found[i])));
    // A gap is painted in its colour, under the windows.
    framing.colour = {1, 2, 3};
    const auto placed = place(PictureShape({1920, 1080}, Rational(1), 0), canvas, framing);
    QCOMPARE(placed.front().isGround(), edges.size() > 2 && gap > 0);
    if (placed.front().isGround()) QCOMPARE(placed.front().colour, framing.colour);
  }

  // A property over chance: a framing that is held sharp shows no moment softer than it must be, changes nothing but
  // zoom, and is not held twice.
  void whatIsHeldSharpIsSharp() {
    std::mt19937 dice(5);
    const auto in = [&](double least, double most) { return least + (most - least) * (double(dice()) / 4294967296.0); };
    const char* const kNames[] = {"fill", "fit", "stack2", "stack3", "side2", "side3", "backdrop"};
    int held = 0;
    for (int i = 0; i < 1400; ++i) {
      const PictureShape shape({int(in(200, 4096)), int(in(200, 2304))}, Rational(int(in(8, 24)), 12),
                               int(in(0, 4)) * 90, {}, {0, false, in(0, 1) < 0.3 ? in(-9, 9) : 0});
      const Size canvas{int(in(50, 1000)) * 2, int(in(50, 1000)) * 2};
      Framing framing = named(kNames[i % 7]);
      for (Window& window : framing.windows) {
        window.zoom = in(1, 6);
        if (in(0, 1) < 0.5)
          window.move = {{Rational(1), in(0, 1), in(0, 1), in(1, 6), Ease(int(in(0, 4))), {}},
                         {Rational(3), in(0, 1), in(0, 1), in(1, 6), Ease(int(in(0, 4))), {}}};
      }
      Framing widest = framing;
      for (Window& window : widest.windows) {
        window.zoom = 1;
        for (MoveKey& key : window.move) key.zoom = 1;
      }
      const Framing sharp = heldSharp(shape, canvas, framing);
      const double least = std::min(1.0, worst(shape, canvas, widest, {}, 0, 4).detail);
      for (double at = 0; at <= 4; at += 0.125) {
        const double now = detail(shape, place(shape, canvas, sharp, {}, at));
        QVERIFY2(now > least * 0.99, qPrintable(QStringLiteral("%1 < %2").arg(now).arg(least)));
      }
      QVERIFY(heldSharp(shape, canvas, sharp) == sharp);
      held += sharp == framing ? 0 : 1;
      Framing back = sharp;
      for (size_t w = 0; w < back.windows.size(); ++w) {
        back.windows[w].zoom = framing.windows[w].zoom;
        for (size_t k = 0; k < back.windows[w].move.size(); ++k)
          back.windows[w].move[k].zoom = framing.windows[w].move[k].zoom;
      }
      QVERIFY(back == framing);
    }
    QVERIFY(held > 300);
  }

  // How fast a framing travels, by arithmetic: pixels a second by the window's width (or height). Smoothstep is at most
  // half as fast again as its mean; the whole of a push in does not travel at all.
  void travelIsWhatArithmeticSays_data() {
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<Ease>("ease");
    QTest::addColumn<double>("toX");
    QTest::addColumn<double>("toY");
    QTest::addColumn<double>("zoom");
    QTest::addColumn<double>("widths"); // a second
    // 1920×1080; a 9:16 window is 607.5 wide. From the middle, in two seconds.
    QTest::newRow("rests") << Size{1080, 1920} << Ease::Linear << 0.5 << 0.5 << 1.0 << 0.0;
    QTest::newRow("across") << Size{1080, 1920} << Ease::Linear << 0.6 << 0.5 << 1.0 << 192 / 607.5 / 2;
    QTest::newRow("back") << Size{1080, 1920} << Ease::Linear << 0.4 << 0.5 << 1.0 << 192 / 607.5 / 2;
    QTest::newRow("eased") << Size{1080, 1920} << Ease::Eased << 0.6 << 0.5 << 1.0 << 1.5 * 192 / 607.5 / 2;
    QTest::newRow("smooth through two is eased")
        << Size{1080, 1920} << Ease::Smooth << 0.6 << 0.5 << 1.0 << 1.5 * 192 / 607.5 / 2;
    QTest::newRow("down, zoomed in twice") << Size{1920, 1080} << Ease::Linear << 0.5 << 0.6 << 2.0 << 108 / 540.0 / 2;
    QTest::newRow("against the edge") << Size{1920, 1080} << Ease::Linear << 0.9 << 0.9 << 1.0 << 0.0;
    QTest::newRow("holds, then jumps") << Size{1080, 1920} << Ease::Hold << 0.6 << 0.5 << 1.0 << 0.0;
  }
  void travelIsWhatArithmeticSays() {
    QFETCH(Size, canvas);
    QFETCH(Ease, ease);
    QFETCH(double, toX);
    QFETCH(double, toY);
    QFETCH(double, zoom);
    QFETCH(double, widths);
    const PictureShape shape({1920, 1080}, Rational(1), 0);
    const Move move{{Rational(1), 0.5, 0.5, zoom, ease, {}}, {Rational(3), toX, toY, zoom, ease, {}}};
    Framing byHand;
    byHand.windows = {Window{}};
    byHand.windows[0].move = move;
    const double found = fastestTravel(shape, canvas, byHand, {}, 0, 4);
    QVERIFY2(std::abs(found - widths) <= widths * 0.002 + 1e-9, qPrintable(QString::number(found)));
    // The same way taken by a subject that the window follows.
    Framing follows;
    follows.windows[0].zoom = zoom;
    Subject subject;
    subject.move = move;
    QVERIFY(std::abs(fastestTravel(shape, canvas, follows, {subject}, 0, 4) - found) < 1e-9);
    QCOMPARE(moves(byHand, {}), toX != 0.5 || toY != 0.5);
  }

  // 1920×1080 in 1080×1920, by hand: plain fill shows 607.5 of 1920 pixels across; over a backdrop the picture takes
  // 607.5 of 1920 lines.
  void fillsLoseWhatTheyGiveUp_data() {
    using Kind = WayToFill::Kind;
    using Of = FillLoss::Of;
    QTest::addColumn<QRectF>("matters");
    QTest::addColumn<bool>("covered"); // the fifth in the middle of the canvas
    QTest::addColumn<double>("to");    // where the subject goes to in two seconds, from 0.3
    QTest::addColumn<QString>("now");
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("of");
    QTest::addColumn<double>("lost");
    const QRectF small(0.45, 0.4, 0.1, 0.2);
    const QRectF aside(0.2, 0.3, 0.3, 0.2); // pixels 384 to 960; the window begins at 656.25
    const auto row = [](const char* name, const QRectF& matters, bool covered, double to, const char* now, Kind kind,
                        Of of, double lost) {
      QTest::newRow(name) << matters << covered << to << QString(now) << int(kind) << int(of) << lost;
    };
    row("fill enlarges", small, false, 0.3, "", Kind::Fill, Of::Enlarged, std::log2(1080 / 607.5));
    row("fill leaves out", small, false, 0.3, "", Kind::Fill, Of::Unseen, 0.5 * (1 - 607.5 / 1920));
    row("fill cuts nothing", small, false, -1, "", Kind::Fill, Of::Cut, 0);
    row("fill cuts", aside, false, -1, "", Kind::Fill, Of::Cut, 3 * (656.25 - 384) / 576);
    row("fill hides", small, true, -1, "", Kind::Fill, Of::Hidden, 0.5);
    // From 0.3 to 0.7 of 1920 in 2 s, of a window that is 607.5 wide: 0.632 widths a second, where a seventh is asked.
    row("fill is fast", small, false, 0.7, "", Kind::Fill, Of::Fast, std::log2(7 * 0.4 / 2 * 1920 / 607.5));
    row("a backdrop is seen", small, false, 0.3, "", Kind::Backdrop, Of::Ground, 1.5 * (1 - 607.5 / 1920));
    row("a backdrop cuts nothing", aside, false, -1, "", Kind::Backdrop, Of::Cut, 0);
    row("a backdrop rests", small, false, 0.7, "", Kind::Backdrop, Of::Fast, 0);
    row("a backdrop is sharp", small, false, 0.3, "", Kind::Backdrop, Of::Enlarged, 0);
    row("two are two", small, false, -1, "", Kind::Stack2, Of::Parts, 0.25);
    // 1215 pixels each, from the left and the right: 510 of them twice.
    row("two overlap", small, false, -1, "", Kind::Stack2, Of::Twice, 2 * 510 / 1920.0);
    row("bars are no backdrop", small, false, -1, "fit", Kind::Now, Of::Ground, 0);
    row("bars", small, false, -1, "fit", Kind::Now, Of::Bars, 4 * (1 - 607.5 / 1920));
    row("a smaller canvas", small, false, -1, "", Kind::Canvas, Of::Shrunk, 0.9 * std::log2(1080 / 606.0));
  }
  void fillsLoseWhatTheyGiveUp() {
    QFETCH(const QRectF, matters);
    QFETCH(const bool, covered);
    QFETCH(const double, to);
    QFETCH(const QString, now);
    QFETCH(const int, kind);
    QFETCH(const int, of);
    QFETCH(const double, lost);
    Framing framing;
    if (!now.isEmpty()) QVERIFY(framingByName(now.toStdString(), framing));
    Subjects subjects;
    if (to >= 0) {
      subjects.resize(1);
      subjects[0].move = {{Rational(0), 0.3, 0.5, 1, Ease::Linear, {}}, {Rational(2), to, 0.5, 1, Ease::Linear, {}}};
    }
    FillGrounds grounds{{{1, {matters.x(), matters.y(), matters.width(), matters.height()}}}, {}, 1};
    if (covered) grounds.covered = {{0, 0.4, 1, 0.2}};
    const auto ways =
        waysToFill(PictureShape({1920, 1080}, Rational(1), 0), {1080, 1920}, framing, subjects, 0, 2, grounds);
    const auto way = std::find_if(ways.begin(), ways.end(), [&](const auto& each) { return int(each.kind) == kind; });
    QVERIFY(way != ways.end());
    for (const auto& [what, weight] : way->loss.weights())
      if (int(what) == of) QVERIFY2(std::abs(weight - lost) < 0.04, qPrintable(QString::number(weight)));
    QVERIFY(std::is_sorted(ways.begin(), ways.end(),
                           [](const auto& a, const auto& b) { return a.loss.weight() < b.loss.weight(); }));
    QCOMPARE(std::count_if(ways.begin(), ways.end(), [](const auto& each) { return each.isNow; }), 1);
  }

  // 1920×1080: what its ways to fill give, by hand. Two stacked in 1080×1920 show 1080×960 pixels each: detail 1.
  void waysToFillSayWhatTheyGive() {
    const PictureShape shape({1920, 1080}, Rational(1), 0);
    const auto ways = waysToFill(shape, {1080, 1920}, Framing{}, {}, 0, 1);
    QString said;
    for (const WayToFill& way : ways) said += QStringLiteral("%1:%2 ").arg(int(way.kind)).arg(way.detail, 0, 'f', 2);
    using Kind = WayToFill::Kind;
    const auto of = [&](Kind kind) {
      const auto at = std::find_if(ways.begin(), ways.end(), [&](const WayToFill& way) { return way.kind == kind; });
      return at == ways.end() ? 0 : at->detail;
    };
    QVERIFY2(std::abs(of(Kind::Fill) - 0.5625) < 1e-9, qPrintable(said));
    QVERIFY2(std::abs(of(Kind::Stack2) - 1.125) < 1e-9, qPrintable(said));
    QVERIFY2(std::abs(of(Kind::Backdrop) - 1920.0 / 1080) < 0.01, qPrintable(said));
    QVERIFY2(of(Kind::Canvas) >= 1, qPrintable(said));
    QVERIFY2(of(Kind::Side2) == 0, qPrintable(said));
    for (const WayToFill& way : ways)
      QCOMPARE(uncoveredPercent(way.canvas, place(shape, way.canvas, way.framing)), 0.0);
  }
};

QTEST_GUILESS_MAIN(TestGeometry)
#include "tst_geometry.moc"
