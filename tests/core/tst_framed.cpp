// SPDX-License-Identifier: GPL-3.0-or-later
// Shots are framed by what is found in them: on drawn scenes of which it is known what matters, on real footage with
// places written down by eye, and by hand where no picture is needed.
#include "analysis/ShotFraming.h"
#include "media/read/Probe.h"
#include "support/FramingMeasure.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace tromb;
using namespace tromb::test;

Q_DECLARE_METATYPE(tromb::ShotLook)

namespace {

/// A glance with what was seen at it, and how many glances make a second.
constexpr int kStep = 5;

Sight seen(Sight::Kind kind, double x, double y, double width, double height, double strength = 0.9,
           double towards = 0) {
  return {kind, {x - width / 2, y - height / 2, width, height}, strength, towards};
}

/// A look made up by hand: `sights` at each of `count` glances, five frames apart.
ShotLook lookOf(int count, const std::function<std::vector<Sight>(int)>& sights, std::vector<int64_t> cuts = {}) {
  ShotLook look{0, int64_t(count) * kStep, {}, std::move(cuts)};
  for (int g = 0; g < count; ++g) look.glances.push_back({int64_t(g) * kStep, sights(g)});
  return look;
}

} // namespace

class TestFramed : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;

  struct Framed {
    Course course;
    ShotLook look;
    FramingMeasure ours;
    std::array<FramingMeasure, 3> plain;
    int cells = 0;
    int faults = 0; ///< cells in which what matters is not whole on nine frames of ten
  };
  /// Each scene is looked at once.
  const Framed& framed(const DrawnScene& scene) {
    static std::map<std::string, Framed> all;
    const auto known = all.find(scene.name);
    if (known != all.end()) return known->second;
    const auto media = probe(sceneFile(scene, m_folder.path().toStdString()));
    if (!media) qFatal("%s", sentence(media.error()).c_str());
    Project project = shapesOf(*media);
    auto look = lookAtShot(readAsStated(*media), 0, kSceneFrames);
    if (!look) qFatal("%s", sentence(look.error()).c_str());
    Framed& made = all[scene.name];
    made.course = courseOf(*look);
    lay(frameShot(made.course, *look, project, project.shots[0], *media->video), project.shots[0].id, project);
    for (const Deliverable& d : project.deliverables) {
      const double across = acrossOf(project, *media, d);
      if (across > 0.999) continue; // the whole width is seen
      const bool tall = d.canvas.height >= d.canvas.width;
      const FramingMeasure found = measured(scene, windowsOf(project, *media, d), across, tall);
      made.ours += found;
      ++made.cells;
      made.faults += found.possible > 0 && found.whole < 0.9 * found.possible ? 1 : 0;
      for (const Baseline each : {Baseline::Middle, Baseline::StandsOut, Baseline::Moves})
        made.plain[size_t(each)] +=
            measured(scene, windowAlong(pathOf(each, *look, kSceneFrames), across), across, tall);
    }
    made.look = std::move(*look);
    return made;
  }

private slots:
  void scenesAreFramed_data() {
    QTest::addColumn<int>("place");
    for (size_t i = 0; i < drawnScenes().size(); i += kSanitized ? 5 : 1)
      QTest::newRow(drawnScenes()[i].name) << int(i);
  }
  void scenesAreFramed() {
    QFETCH(int, place);
    const DrawnScene& scene = drawnScenes()[size_t(place)];
    const Framed& made = framed(scene);
    const FramingMeasure& m = made.ours;
    // What is sure is right, and what nobody could tell is not sure.
    QCOMPARE(made.course.kind != Course::Kind::Unsure, scene.clear);
    QCOMPARE(made.faults, 0);
    QVERIFY2(m.whole >= 0.96 * m.possible, qPrintable(QStringLiteral("%1 of %2").arg(m.whole).arg(m.possible)));
    QVERIFY2(m.spared >= 0.98 * m.sparing, qPrintable(QStringLiteral("%1 of %2").arg(m.spared).arg(m.sparing)));
    QVERIFY(!m.wanders);
    QVERIFY(!m.crosses);
    QCOMPARE(made.look.cuts, scene.cutAt > 0 ? std::vector<int64_t>{scene.cutAt} : std::vector<int64_t>{});
  }

  // All scenes together, beside three plain ways to frame.
  void framingIsBetterThanPlainWays() {
    if (kSanitized) return;
    FramingMeasure ours;
    std::array<FramingMeasure, 3> plain;
    int cells = 0;
    int sure = 0;
    for (const DrawnScene& scene : drawnScenes()) {
      const Framed& made = framed(scene);
      ours += made.ours;
      for (size_t i = 0; i < plain.size(); ++i) plain[i] += made.plain[i];
      cells += made.cells;
      sure += made.course.kind != Course::Kind::Unsure ? made.cells : 0;
    }
    QVERIFY2(ours.whole >= 0.97 * ours.possible, qPrintable(QString::number(double(ours.whole) / ours.possible)));
    QVERIFY2(ours.near >= 0.90 * ours.placed, qPrintable(QString::number(double(ours.near) / ours.placed)));
    QVERIFY(sure >= 0.85 * cells);
    for (const FramingMeasure& each : plain) {
      QVERIFY(ours.whole > each.whole);
      QVERIFY(ours.near > each.near);
      QVERIFY(ours.spared > each.spared);
    }
    // Of those that move at all, which keep most in sight, ours moves less and more calmly.
    QVERIFY(ours.travel < std::min(plain[1].travel, plain[2].travel));
    QVERIFY(ours.jerk < std::min(plain[1].jerk, plain[2].jerk));
  }

  // Footage that nobody here drew, from Debian's package opencv-doc: places were written down by eye, in shares of the
  // picture.
  void realFacesAreFound_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<int>("first");
    QTest::addColumn<int>("end");
    QTest::addColumn<double>("x");
    QTest::addColumn<double>("y");
    // Of a drawn film; where the eyes are.
    const QString film = QStringLiteral("Megamind.avi");
    QTest::newRow("somebody listens") << film << 10 << 95 << 0.41 << 0.44;
    QTest::newRow("somebody talks") << film << 105 << 150 << 0.66 << 0.42;
    QTest::newRow("a face that fills the picture") << film << 205 << 265 << 0.56 << 0.40;
  }
  void realFacesAreFound() {
    QFETCH(QString, file);
    QFETCH(int, first);
    QFETCH(int, end);
    QFETCH(double, x);
    QFETCH(double, y);
    const auto media = probe(("/usr/share/doc/opencv-doc/examples/data/" + file).toStdString());
    QVERIFY(media.has_value());
    const auto look = lookAtShot(readAsStated(*media), first, end);
    QVERIFY(look.has_value());
    const Course course = courseOf(*look);
    QVERIFY(!course.parts[0].ways.empty());
    const Way& way = course.parts[0].ways[0];
    const TrackPoint at = middlePoint(way.track);
    QVERIFY2(way.by == Sight::Kind::Face && std::abs(at.x() - x) < 0.06 && std::abs(at.y() - y) < 0.1,
             qPrintable(QStringLiteral("%1 at %2, %3").arg(sightWord(way.by)).arg(at.x()).arg(at.y())));
  }

  // Who is seen again in another shot is told by face and clothes, wherever in the picture and however large; others
  // are not taken for him. Drawn people have all the same face, those of the film are drawn by others.
  void whoIsSeenAgainIsTold_data() {
    QTest::addColumn<int>("one");
    QTest::addColumn<int>("other");
    QTest::addColumn<bool>("same");
    const auto row = [](int one, int other, bool same, const char* name) {
      QTest::newRow(name) << one << other << same;
    };
    row(0, 1, true, "elsewhere in the picture");
    row(0, 2, true, "nearer");
    row(0, 3, false, "dressed otherwise");
    row(2, 3, false, "dressed otherwise, nearer");
    row(4, 5, true, "of a film: the one who listens, later on");
    row(4, 6, false, "of a film: the one who listens and the one who talks");
    row(5, 6, false, "of a film: the one who listens later on, and the one who talks");
    row(6, 7, true, "of a film: the one who talks, later on");
    row(0, 4, false, "drawn, and of a film");
  }
  void whoIsSeenAgainIsTold() {
    QFETCH(const int, one);
    QFETCH(const int, other);
    QFETCH(const bool, same);
    const auto faceIn = [&](int shot) {
      constexpr Yuv kBlue{70, 170, 100};
      constexpr Yuv kRed{90, 110, 190};
      constexpr struct {
        double x, y, half;
        Yuv clothes;
      } kDrawn[] = {{0.3, 0.4, 26, kBlue}, {0.7, 0.45, 26, kBlue}, {0.45, 0.4, 40, kBlue}, {0.6, 0.4, 26, kRed}};
      constexpr std::pair<int, int> kOfTheFilm[] = {{10, 50}, {60, 95}, {105, 126}, {127, 150}};
      std::string file = "/usr/share/doc/opencv-doc/examples/data/Megamind.avi";
      std::pair<int, int> frames{0, 50};
      if (shot < 4) {
        file = m_folder.filePath(QStringLiteral("person-%1.mp4").arg(shot)).toStdString();
        writePerson(file, kDrawn[shot].x, kDrawn[shot].y, kDrawn[shot].half, kDrawn[shot].clothes);
      } else {
        frames = kOfTheFilm[shot - 4];
      }
      const auto media = probe(file);
      const auto look = media ? lookAtShot(readAsStated(*media), frames.first, frames.second) : tl::unexpected(Error{});
      const Course course = look ? courseOf(*look) : Course();
      return course.parts.empty() || course.parts[0].ways.empty() ? std::vector<Appearance>()
                                                                  : course.parts[0].ways[0].appearances;
    };
    const std::vector<Appearance> a = faceIn(one);
    const std::vector<Appearance> b = faceIn(other);
    QVERIFY(!a.empty() && !b.empty());
    QVERIFY2((likeness(a, b) >= kSamePerson) == same, qPrintable(QString::number(likeness(a, b))));
  }

  // People who walk across a yard, from the same package, eighty seconds: where they are was written down by eye at
  // four moments. All of them move, and nobody matters more.
  void realWalkersAreFound_data() {
    QTest::addColumn<int>("frame");
    QTest::addColumn<QList<QPointF>>("people"); // their middles
    QTest::newRow("three cross") << 4 << QList<QPointF>{{0.35, 0.46}, {0.67, 0.34}, {0.865, 0.49}};
    QTest::newRow("three near, two far, one at the back; another stands still")
        << 150 << QList<QPointF>{{0.526, 0.41}, {0.587, 0.40}, {0.787, 0.47}, {0.84, 0.24}, {0.87, 0.24}, {0.1, 0.19}};
    QTest::newRow("six, in two groups") << 300 << QList<QPointF>{{0.263, 0.345}, {0.328, 0.33}, {0.405, 0.336},
                                                                 {0.43, 0.44},   {0.775, 0.34}, {0.82, 0.34}};
    QTest::newRow("three apart") << 450 << QList<QPointF>{{0.42, 0.43}, {0.65, 0.385}, {0.753, 0.504}};
  }
  void realWalkersAreFound() {
    QFETCH(const int, frame);
    QFETCH(const QList<QPointF>, people);
    const auto media = probe("/usr/share/doc/opencv-doc/examples/data/vtest.avi");
    QVERIFY(media.has_value());
    const auto look = lookAtShot(readAsStated(*media), std::max(0, frame - 20), frame + 20);
    QVERIFY(look.has_value());
    constexpr double kBeside = 0.03;
    QList<QRectF> moving;
    for (const Glance& glance : look->glances)
      for (const Sight& sight : glance.sights)
        if (std::abs(glance.frame - frame) <= 1 && sight.kind == Sight::Kind::Motion)
          moving << QRectF(sight.box.x, sight.box.y, sight.box.width, sight.box.height)
                        .adjusted(-kBeside, -kBeside, kBeside, kBeside);
    int strangers = 0;
    for (const QRectF& each : moving)
      strangers += std::none_of(people.begin(), people.end(), [&](const QPointF& at) { return each.contains(at); });
    QVERIFY2(strangers <= 1, qPrintable(QString::number(strangers)));
    for (const QPointF& at : people)
      QVERIFY2(std::any_of(moving.begin(), moving.end(), [&](const QRectF& each) { return each.contains(at); }),
               qPrintable(QStringLiteral("%1, %2").arg(at.x()).arg(at.y())));
  }
  void nobodyMattersMoreAmongMany() {
    const auto media = probe("/usr/share/doc/opencv-doc/examples/data/vtest.avi");
    QVERIFY(media.has_value());
    const auto look = lookAtShot(readAsStated(*media), 0, 795);
    QVERIFY(look.has_value());
    const Course course = courseOf(*look);
    QCOMPARE(course.kind, Course::Kind::Unsure);
    QVERIFY(look->cuts.empty());
  }

  // What a course makes of what was seen, by hand.
  void coursesAreMadeOut_data() {
    QTest::addColumn<ShotLook>("look");
    QTest::addColumn<int>("kind");
    QTest::addColumn<QList<double>>("places"); // of all ways, part by part
    using K = Sight::Kind;
    const auto face = [](double x) { return seen(K::Face, x, 0.4, 0.1, 0.18); };
    const auto none = [](int) { return std::vector<Sight>{}; };
    QTest::newRow("a face rests") << lookOf(30, [=](int) { return std::vector{face(0.3)}; }) << int(Course::Kind::Rests)
                                  << QList<double>{0.3};
    QTest::newRow("a face, and something larger that moves") << lookOf(30, [=](int g) {
      return std::vector{face(0.3), seen(K::Motion, 0.3 + g * 0.02, 0.7, 0.2, 0.3, 0.2)};
    }) << int(Course::Kind::Rests) << QList<double>{0.3};
    QTest::newRow("two faces") << lookOf(30,
                                         [=](int) {
                                           return std::vector{face(0.8), face(0.2)};
                                         })
                               << int(Course::Kind::Two) << QList<double>{0.2, 0.8};
    QTest::newRow("a face that is seen once in passing counts for nothing") << lookOf(30, [=](int g) {
      return g == 9 ? std::vector{face(0.8)} : std::vector{seen(K::Motion, 0.2 + g * 0.01, 0.5, 0.1, 0.2, 0.1)};
    }) << int(Course::Kind::Moves) << QList<double>{0.345};
    QTest::newRow("a face that turns away for a second")
        << lookOf(30, [=](int g) { return g > 10 && g < 16 ? std::vector<Sight>{} : std::vector{face(0.6)}; })
        << int(Course::Kind::Rests) << QList<double>{0.6};
    QTest::newRow("what moves") << lookOf(30,
                                          [](int g) {
                                            return std::vector{seen(K::Motion, 0.2 + g * 0.02, 0.5, 0.1, 0.2, 0.1)};
                                          })
                                << int(Course::Kind::Moves) << QList<double>{0.49};
    QTest::newRow("a cut parts two places")
        << lookOf(30, [=](int g) { return std::vector{face(g < 12 ? 0.2 : 0.7)}; }, {60}) << int(Course::Kind::Moves)
        << QList<double>{0.2, 0.7};
    QTest::newRow("an empty picture") << lookOf(30, none) << int(Course::Kind::Rests) << QList<double>{};
    QTest::newRow("all kinds of places stand out") << lookOf(30, [](int g) {
      return std::vector{seen(K::Detail, 0.1 + 0.8 * ((g * 7) % 10) / 10, 0.5, 0.3, 0.3)};
    }) << int(Course::Kind::Unsure) << QList<double>{0.5};
  }
  void coursesAreMadeOut() {
    QFETCH(ShotLook, look);
    QFETCH(int, kind);
    QFETCH(QList<double>, places);
    const Course course = courseOf(look);
    QCOMPARE(QString::fromLatin1(courseWord(course.kind)), QString::fromLatin1(courseWord(Course::Kind(kind))));
    QCOMPARE(course.parts.size(), look.cuts.size() + 1);
    QList<double> found;
    for (const CoursePart& part : course.parts)
      for (const Way& way : part.ways) {
        found << middlePoint(way.track).x();
        QVERIFY(way.track.points.front().frame >= part.first && way.track.points.back().frame < part.end);
      }
    QCOMPARE(found.size(), places.size());
    for (int i = 0; i < found.size(); ++i)
      QVERIFY2(std::abs(found[i] - places[i]) < 0.02, qPrintable(QString::number(found[i])));
  }

  // The rules of the trade, reckoned by hand for a picture of 16:9 and a canvas of 9:16, whose window is
  // (9/16)² = 0.3164 of the picture wide.
  void rulesAreKept() {
    const double across = 81.0 / 256;
    const auto media = probe(sceneFile(drawnScenes()[0], m_folder.path().toStdString()));
    Project project = shapesOf(*media);
    const auto frame = [&](const ShotLook& look, const FramingRules& rules = {}) {
      return frameShot(courseOf(look), look, project, project.shots[0], *media->video, rules);
    };
    const auto face = [](double x, double towards) {
      return seen(Sight::Kind::Face, x, 0.4, 0.08, 0.14, 0.9, towards);
    };
    // Eyes in the upper third, room where somebody looks, each a setting.
    FramedShot made = frame(lookOf(30, [&](int) { return std::vector{face(0.5, 1)}; }));
    QCOMPARE(made.subjects.size(), size_t(1));
    QCOMPARE(made.subjects[0].atY, 1.0 / 3);
    QVERIFY(std::abs(made.subjects[0].atX - 0.44) < 1e-9);
    QVERIFY(made.subjects[0].guess > 0.9);
    FramingRules own;
    own.eyesAt = 0.4;
    own.room = 0;
    made = frame(lookOf(30, [&](int) { return std::vector{face(0.5, -1)}; }), own);
    QCOMPARE(made.subjects[0].atY, 0.4);
    QCOMPARE(made.subjects[0].atX, 0.5);
    // A large head has its room: 30 % of the picture from brow to chin are a head of 57 % (1.9 times), in a window of
    // three quarters of the height. Its top stays 6 % of the canvas below the edge, so that the eyes, in its middle,
    // lie at 0.06 + 0.57 / 2 / 0.75.
    const std::vector<Deliverable> usual = project.deliverables;
    Deliverable broad = usual[0];
    broad.id = "broad";
    broad.canvas = {2560, 1080};
    project.deliverables = {broad};
    const auto large = [](int) { return std::vector{seen(Sight::Kind::Face, 0.5, 0.5, 0.2, 0.3)}; };
    made = frame(lookOf(30, large));
    QVERIFY2(std::abs(made.subjects[0].atY - (0.06 + 0.57 / 2 / 0.75)) < 1e-6,
             qPrintable(QString::number(made.subjects[0].atY)));
    own.headroom = 0.1;
    made = frame(lookOf(30, large), own);
    QVERIFY(std::abs(made.subjects[0].atY - (0.1 + 0.57 / 2 / 0.75)) < 1e-6);
    project.deliverables = usual;
    // No move takes less than two seconds: what steps aside within half of one.
    made = frame(lookOf(40, [&](int g) {
      return std::vector{face(g < 18 ? 0.2 : g > 20 ? 0.7 : 0.2 + (g - 17) * 0.125, 0)};
    }));
    const Move& move = made.subjects[0].move;
    QVERIFY(move.size() > 1);
    QVERIFY2((move.back().time - move.front().time).toDouble() >= 1.99,
             qPrintable(QString::number((move.back().time - move.front().time).toDouble())));
    // Two that one window holds lie in it together; two that it does not lie one above the other.
    made = frame(lookOf(30, [&](int) { return std::vector{face(0.45, 0), face(0.58, 0)}; }));
    const Framing& together = made.framings.at("1080x1920");
    QCOMPARE(together.layout, Layout::Single);
    QVERIFY(std::abs(together.windows[0].x - 0.515) < 0.01 && !together.windows[0].follows);
    QVERIFY(together.guess > 0.9);
    made = frame(lookOf(30, [&](int) { return std::vector{face(0.2, 0), face(0.8, 0)}; }));
    QCOMPARE(made.framings.at("1080x1920").layout, Layout::Stack2);
    QCOMPARE(made.subjects.size(), size_t(2));
    QVERIFY(made.subjects[0].move[0].x < made.subjects[1].move[0].x);
    // One of the two is shown by 8:9 of 9:16, half of the picture's width; where they lie nearer than a quarter of it,
    // each would show both, and the whole picture is shown instead.
    made = frame(lookOf(30, [&](int) { return std::vector{face(0.38, 0), face(0.62, 0)}; }));
    QCOMPARE(made.framings.at("1080x1920").layout, Layout::Backdrop);
    // An edge that would cut through words goes beside them, without losing the face.
    made = frame(lookOf(30, [&](int) {
      return std::vector{face(0.4, 0), seen(Sight::Kind::Words, 0.6, 0.2, 0.2, 0.05)};
    }));
    const Window& beside = made.framings.at("1080x1920").windows[0];
    QVERIFY(beside.x + across / 2 <= 0.5);
    QVERIFY(beside.x + across / 2 >= 0.4 + 0.08 * 1.45 / 2);
    // A cell that somebody has framed keeps its framing.
    project.deliverables[0].framings[project.shots[0].id] = Framing();
    made = frame(lookOf(30, [&](int) { return std::vector{face(0.2, 0), face(0.8, 0)}; }));
    QVERIFY(!made.framings.contains("1080x1920"));
    QVERIFY(made.framings.contains("1080x1350"));
  }

  // A course jumps with a cut, and rests on both sides of it.
  void coursesJumpWithCuts() {
    const auto media = probe(sceneFile(drawnScenes()[0], m_folder.path().toStdString()));
    const Project project = shapesOf(*media);
    const ShotLook look = lookOf(
        30, [](int g) { return std::vector{seen(Sight::Kind::Face, g < 12 ? 0.25 : 0.7, 0.4, 0.1, 0.18)}; }, {58});
    const FramedShot made = frameShot(courseOf(look), look, project, project.shots[0], *media->video);
    const Move& move = made.subjects[0].move;
    for (const auto& [frame, x] : {std::pair(0, 0.25), {57, 0.25}, {58, 0.7}, {149, 0.7}})
      QVERIFY2(std::abs(placeAt(move, media->video->clock.timeOf(frame).toDouble()).x - x) < 1e-6,
               qPrintable(QString::number(frame)));
  }

  // Of a picture with nothing in it, any part is right; grain is nothing.
  void anEmptyPictureIsInNoDoubt_data() {
    QTest::addColumn<int>("grain");
    QTest::addColumn<int>("slope"); // of the light, from one side to the other
    QTest::addColumn<bool>("empty");
    QTest::newRow("one colour") << 0 << 0 << true;
    QTest::newRow("grain") << 12 << 0 << true;
    QTest::newRow("a wall that is lighter on one side") << 4 << 60 << false;
  }
  void anEmptyPictureIsInNoDoubt() {
    QFETCH(const int, grain);
    QFETCH(const int, slope);
    QFETCH(const bool, empty);
    const std::string file = m_folder.filePath(QStringLiteral("empty-%1-%2.mp4").arg(grain).arg(slope)).toStdString();
    writeClip(file, kSceneSize, FrameRate(), 30, [=](int n, int x, int y) {
      const uint32_t dice = (uint32_t(n * 7919 + y) * 2654435761U ^ uint32_t(x) * 2246822519U) >> 16;
      return Yuv{60 + slope * x / kSceneSize.width + int(dice % unsigned(2 * grain + 1)) - grain, 120, 130};
    });
    const auto media = probe(file);
    Project project = shapesOf(*media);
    const auto look = lookAtShot(readAsStated(*media), 0, 30);
    QVERIFY(look.has_value());
    const Course course = courseOf(*look);
    QCOMPARE(course.kind != Course::Kind::Unsure, empty);
    const FramedShot made = frameShot(course, *look, project, project.shots[0], *media->video);
    QCOMPARE(made.subjects.size(), size_t(1));
    QVERIFY(!empty || made.subjects[0].move[0].x == 0.5);
  }

  // Every cut of an edit is found, to the frame: the first by reading once more, those behind by measuring on the way.
  void cutsOfAnEditAreFound() {
    const std::vector<int64_t> cuts{21, 48, 77, 113, 150, 166, 203, 249, 271, 310, 338};
    const std::string file = m_folder.filePath("edit.mp4").toStdString();
    writeClip(file, kSceneSize, FrameRate(), 380, [&](int n, int x, int y) {
      const auto shot = int(std::upper_bound(cuts.begin(), cuts.end(), n) - cuts.begin());
      const double wave = std::sin(x * (0.02 + 0.013 * (shot % 3)) + shot * 2.1) * std::cos(y * 0.03 + shot);
      return Yuv{60 + 45 * (shot % 4) + int(24 * wave), 100 + 29 * (shot % 3), 156 - 23 * (shot % 5)};
    });
    const auto media = probe(file);
    const auto look = lookAtShot(readAsStated(*media), 0, 380);
    QVERIFY(look.has_value());
    QCOMPARE(look->cuts, cuts);
    // A stretch that begins and ends within shots.
    const auto some = lookAtShot(readAsStated(*media), 60, 300);
    QCOMPARE(some->cuts, std::vector<int64_t>(cuts.begin() + 2, cuts.end() - 2));
  }

  void lookingCanBeStopped() {
    const auto media = probe(sceneFile(drawnScenes()[0], m_folder.path().toStdString()));
    std::stop_source stop;
    const auto look = lookAtShot(readAsStated(*media), 0, kSceneFrames, stop.get_token(), [&](double fraction) {
      if (fraction > 0.3) stop.request_stop();
    });
    QVERIFY(!look);
    QCOMPARE(look.error().code, ErrorCode::Cancelled);
    MediaInfo gone = *media;
    gone.path = "/nowhere/at.mp4";
    QCOMPARE(lookAtShot(readAsStated(gone), 0, 10).error().code, ErrorCode::Missing);
  }
};

QTEST_GUILESS_MAIN(TestFramed)
#include "tst_framed.moc"
