// SPDX-License-Identifier: GPL-3.0-or-later
// Following a subject, and calming its way.
#include "analysis/Calming.h"
#include "media/read/Probe.h"
#include "support/TestMedia.h"
#include "support/Thoroughness.h"

#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <random>

using namespace tromb;
using test::Yuv;

namespace {

constexpr Size kScene{480, 270};
constexpr int kFrames = 125;
constexpr double kRadius = 19;

struct Place {
  double x;
  double y;
};
using Way = Place (*)(double);

/// Ways of a subject through five seconds, as shares of the picture; `u` from 0 to 1.
Place across(double u) {
  return {0.12 + 0.76 * u, 0.5 + 0.12 * std::sin(u * 9)};
}
Place stopAndGo(double u) {
  const double eased = u < 0.4 ? 0 : u > 0.7 ? 1 : (u - 0.4) / 0.3;
  return {0.3 + 0.45 * eased * eased * (3 - 2 * eased), 0.45};
}
Place leaving(double u) {
  return {0.4 + 0.85 * u, 0.5};
}
Place resting(double) {
  return {0.62, 0.4};
}

/// A patterned disc.
bool disc(Place at, double x, double y, int n, int kind, Yuv& colour) {
  const double dx = x - at.x * kScene.width;
  const double dy = y - at.y * kScene.height;
  if (std::hypot(dx, dy) > kRadius) return false;
  const double turn = std::atan2(dy, dx) + n * 0.01;
  const bool stripe = kind == 0 ? std::fmod(turn + 7, 0.9) < 0.45 : std::fmod(dy + 90, 10) < 5;
  colour =
      kind == 0 ? (stripe ? Yuv{200, 90, 170} : Yuv{90, 100, 190}) : (stripe ? Yuv{60, 170, 100} : Yuv{160, 150, 90});
  return true;
}

Yuv scenery(int x, int y) {
  return {int(105 + 25 * std::sin(x * 0.21 + y * 0.08) + 22 * std::cos(y * 0.17 - x * 0.05) + (x * 7 + y * 13) % 9),
          128, 124};
}

/// Mean size of a path's third differences, one axis after the other: what eyes take for jitter.
double meanJerk(const std::vector<std::pair<double, double>>& path) {
  if (path.size() < 4) return 0;
  double sum = 0;
  for (size_t i = 3; i < path.size(); ++i) {
    const auto third = [&](auto part) {
      return part(path[i]) - 3 * part(path[i - 1]) + 3 * part(path[i - 2]) - part(path[i - 3]);
    };
    sum += std::abs(third([](const auto& p) { return p.first; })) +
           std::abs(third([](const auto& p) { return p.second; }));
  }
  return sum / double(path.size() - 3);
}

} // namespace

class TestFollowing : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  std::string clip(const char* name, Way way, bool crossed, bool hidden) {
    const std::string path = m_folder.filePath(QLatin1String(name) + QLatin1String(".mp4")).toStdString();
    if (QFile::exists(QString::fromStdString(path))) return path;
    test::writeClip(path, kScene, FrameRate(), kFrames, [=](int n, int x, int y) {
      const double u = double(n) / (kFrames - 1);
      Yuv colour = scenery(x, y);
      disc(way(u), x, y, n, 0, colour);
      if (crossed) disc({0.88 - 0.76 * u, 0.5 + 0.1 * std::sin(u * 7)}, x, y, n, 1, colour); // passes in front
      if (hidden && std::abs(x - 300) < 11) colour = Yuv{50, 128, 128};                      // a post, over half of it
      return colour;
    });
    return path;
  }

private slots:
  void subjectsAreFollowed_data() {
    QTest::addColumn<Way>("way");
    QTest::addColumn<bool>("crossed");
    QTest::addColumn<bool>("hidden");
    QTest::addColumn<int>("from"); // the frame the box is drawn on: both directions are taken
    QTest::addColumn<bool>("leaves");
    QTest::newRow("across") << Way(across) << false << false << 0 << false;
    QTest::newRow("crossed by another") << Way(across) << true << false << 0 << false;
    QTest::newRow("partly hidden") << Way(across) << false << true << 124 << false;
    if (test::kSanitized) return;
    QTest::newRow("stop and go") << Way(stopAndGo) << false << false << 60 << false;
    QTest::newRow("resting") << Way(resting) << true << false << 30 << false;
    QTest::newRow("leaving") << Way(leaving) << false << false << 20 << true;
  }
  void subjectsAreFollowed() {
    QFETCH(Way, way);
    QFETCH(bool, crossed);
    QFETCH(bool, hidden);
    QFETCH(int, from);
    QFETCH(bool, leaves);
    const auto media = probe(clip(QTest::currentDataTag(), way, crossed, hidden));
    QVERIFY(media.has_value());
    const auto truth = [&](int64_t frame) { return way(double(frame) / (kFrames - 1)); };
    const SizeF box{2 * kRadius / kScene.width, 2 * kRadius / kScene.height};
    const Place start = truth(from);
    double told = 0;
    const auto track = followSubject(readAsStated(*media), 0, kFrames, from,
                                     {start.x - box.width / 2, start.y - box.height / 2, box.width, box.height}, {},
                                     [&](double fraction) { told = fraction; });
    QVERIFY2(track.has_value(), track ? "" : sentence(track.error()).c_str());
    QCOMPARE(told, 1.0);
    const auto& points = track->points;
    QCOMPARE(points.front().frame, int64_t(0));
    if (!leaves) QCOMPARE(points.back().frame, int64_t(kFrames - 1));
    // It is lost where its middle passes the edge, give or take a fifth of a second.
    if (leaves) QVERIFY(std::abs(truth(points.back().frame).x - 1) < 0.04);
    double sum = 0;
    double worstError = 0;
    for (size_t i = 0; i < points.size(); ++i) {
      QCOMPARE(points[i].frame, int64_t(i));
      if (truth(points[i].frame).x > 1 - box.width / 2) continue;
      const double error = std::hypot(points[i].x() - truth(points[i].frame).x,
                                      (points[i].y() - truth(points[i].frame).y) / kScene.width * kScene.height);
      sum += error;
      worstError = std::max(worstError, error);
    }
    qInfo("mean %.2f %%, worst %.2f %% of the width", sum * 100 / double(points.size()), worstError * 100);
    QVERIFY(sum / double(points.size()) < 0.015);
    QVERIFY(worstError < 0.04);

    // Calmed for a 9:16 window, which is 0.316 of the width: in it on every frame, and far smoother.
    const Framing framing;
    const Subjects subjects{Subject()};
    const PictureShape shape = media->video->shape();
    const Reach reach = reachOf(shape, {1080, 1920}, framing, subjects, 0, 0, 5);
    QVERIFY(std::abs(reach.left - 0.158) < 0.001);
    const Move move = calmMove(*track, media->video->clock, reach);
    QVERIFY(!move.empty());
    QVERIFY(move.size() < points.size() / 4);
    Subject calm;
    calm.move = move;
    std::vector<std::pair<double, double>> raw;
    std::vector<std::pair<double, double>> calmed;
    for (const TrackPoint& p : points) {
      const double seconds = media->video->clock.timeOf(p.frame).toDouble();
      raw.emplace_back(p.x(), p.y());
      const MovePlace at = placeAt(move, seconds);
      calmed.emplace_back(at.x, at.y);
      const RectF window = place(shape, {1080, 1920}, framing, {calm}, seconds).back().window;
      const double left = p.box.x * kScene.width;
      const double right = p.box.right() * kScene.width;
      if (left < 0 || right > kScene.width) continue;
      QVERIFY2(left >= window.x - 0.5, qPrintable(QString::number(p.frame)));
      QVERIFY2(right <= window.right() + 0.5, qPrintable(QString::number(p.frame)));
    }
    qInfo("%d keys; jerk %.1f millionths of the picture, from %.1f", int(move.size()), meanJerk(calmed) * 1e6,
          meanJerk(raw) * 1e6);
    QVERIFY(meanJerk(calmed) < 0.1 * meanJerk(raw));
    QVERIFY(meanJerk(calmed) < 300e-6);                        // half a pixel in 1080p
    if (way == Way(resting)) QCOMPARE(move.size(), size_t(1)); // no needless motion
  }

  // A property over chance: whatever way a subject goes, at any strength, the calmed move keeps its box inside what the
  // window reaches, has few keys in order of time, and moves no more the calmer it is.
  void calmedMovesKeepTheSubject() {
    std::mt19937 dice(13);
    const auto in = [&](double least, double most) { return least + (most - least) * (double(dice()) / 4294967296.0); };
    const FrameClock clock(FrameRate(), 100'000);
    for (int round = 0; round < 16; ++round) {
      const Reach reach{in(0.12, 0.3), in(0.12, 0.3), in(0.2, 0.5), in(0.2, 0.5)};
      const double width = in(0.02, 0.1);
      const double height = in(0.02, 0.15);
      const int first = int(in(0, 500));
      const int frames = int(in(2, 900));
      // Two slow swings and a tremble, as a tracker sees somebody who walks.
      const double swing[4] = {in(0, 0.25), in(0.1, 1.2), in(0, 0.08), in(1, 3)};
      const double tremble = in(0, 0.006);
      Track track;
      for (int n = 0; n < frames; ++n) {
        const double t = n / 25.0;
        const double x =
            0.5 + swing[0] * std::sin(swing[1] * t) + swing[2] * std::sin(swing[3] * t) + tremble * in(-1, 1);
        const double y = 0.5 + swing[2] * std::cos(swing[1] * t) + tremble * in(-1, 1);
        track.points.push_back({first + n, {x - width / 2, y - height / 2, width, height}});
      }
      double before = -1;
      for (const double strength : {1.0, 0.6, 0.2}) {
        CalmOptions options;
        options.strength = strength;
        const Move move = calmMove(track, clock, reach, options);
        QVERIFY(!move.empty());
        QVERIFY(move.size() <= 121);
        for (size_t k = 0; k < move.size(); ++k) {
          QVERIFY(move[k].x >= 0);
          QVERIFY(move[k].x <= 1);
          QVERIFY(move[k].y >= 0);
          QVERIFY(move[k].y <= 1);
          QVERIFY(k == 0 || move[k - 1].time < move[k].time);
          if (move.size() > 1)
            QVERIFY(move[k].time >= clock.timeOf(first) && move[k].time <= clock.timeOf(first + frames - 1));
        }
        double way = 0;
        MovePlace last = placeAt(move, clock.timeOf(first).toDouble());
        for (const TrackPoint& point : track.points) {
          const MovePlace at = placeAt(move, clock.timeOf(point.frame).toDouble());
          way += std::abs(at.x - last.x) + std::abs(at.y - last.y);
          last = at;
          // The window lies round `at`; at the picture's edge it is held, and shows more on the other side.
          const double left = std::clamp(at.x - reach.left, 0.0, std::max(0.0, 1 - reach.left - reach.right));
          const bool inside = point.box.x >= left - 1e-6 && point.box.right() <= left + reach.left + reach.right + 1e-6;
          QVERIFY2(inside, qPrintable(QStringLiteral("round %1, strength %2, frame %3: %4 to %5 in %6 to %7")
                                          .arg(round)
                                          .arg(strength)
                                          .arg(point.frame)
                                          .arg(point.box.x)
                                          .arg(point.box.right())
                                          .arg(left)
                                          .arg(left + reach.left + reach.right)));
        }
        QVERIFY2(before < 0 || way >= before - 0.02, qPrintable(QStringLiteral("%1 after %2").arg(way).arg(before)));
        before = way;
      }
    }
  }

  // Real footage of people walking, from Debian's package opencv-doc. Places were read off the frames by eye, to about
  // a hundredth of the width: one who comes in, passes behind a post and in front of others, and leaves.
  void aWalkerStaysInTheWindow() {
    const auto media = probe("/usr/share/doc/opencv-doc/examples/data/vtest.avi");
    QVERIFY2(media.has_value(), "the package opencv-doc is needed");
    const std::vector<std::pair<int64_t, double>> seen{{660, 0.918}, {670, 0.757}, {680, 0.605}, {690, 0.478},
                                                       {700, 0.383}, {710, 0.283}, {720, 0.190}, {730, 0.103}};
    const auto track = followSubject(readAsStated(*media), 620, 790, 690, {0.455, 0.39, 0.046, 0.16});
    QVERIFY2(track.has_value(), track ? "" : sentence(track.error()).c_str());
    const auto& points = track->points;
    qInfo("followed from %d to %d", int(points.front().frame), int(points.back().frame));
    QVERIFY(points.front().frame > 645);
    QVERIFY(points.front().frame <= 660); // not there before, nor after
    QVERIFY(points.back().frame >= 730);
    QVERIFY(points.back().frame < 755);
    const FrameClock& clock = media->video->clock;
    const Reach reach = reachOf(media->video->shape(), {1080, 1920}, Framing(), {Subject()}, 0, 0, 10);
    Subject calm;
    calm.move = calmMove(*track, clock, reach);
    for (const auto& [frame, x] : seen) {
      const TrackPoint& point = points[size_t(frame - points.front().frame)];
      QVERIFY2(std::abs(point.x() - x) < 0.025, qPrintable(QStringLiteral("%1: %2").arg(frame).arg(point.x())));
      const RectF window =
          place(media->video->shape(), {1080, 1920}, Framing(), {calm}, clock.timeOf(frame).toDouble()).back().window;
      QVERIFY2(x * 768 - 16 > window.x, qPrintable(QString::number(frame)));
      QVERIFY2(x * 768 + 16 < window.right(), qPrintable(QString::number(frame)));
    }
  }

  void wrongBoxesAreRefused() {
    const auto media = probe(clip("across", across, false, false));
    for (const RectF& box : {RectF{0.5, 0.5, 0.001, 0.2}, RectF{0.9, 0.5, 0.2, 0.2}, RectF{-0.1, 0, 0.2, 0.2}}) {
      const auto track = followSubject(readAsStated(*media), 0, kFrames, 3, box);
      QVERIFY(!track);
      QVERIFY(track.error().code == ErrorCode::InvalidArgument);
    }
    // A box up to the corner, whose place and size are both rounded up.
    QVERIFY(followSubject(readAsStated(*media), 0, 3, 1, {0.9031, 0.9019, 0.0969, 0.0981}).has_value());
    std::stop_source stop;
    stop.request_stop();
    const auto track = followSubject(readAsStated(*media), 0, kFrames, 3, {0.1, 0.4, 0.1, 0.2}, stop.get_token());
    QVERIFY(!track);
    QVERIFY(track.error().code == ErrorCode::Cancelled);
  }
};

QTEST_GUILESS_MAIN(TestFollowing)
#include "tst_following.moc"
