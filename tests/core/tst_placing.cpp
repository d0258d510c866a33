// SPDX-License-Identifier: GPL-3.0-or-later
// Exported pictures lie where the plan says, in every layout, resting and moving.
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "render/Pictures.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <opencv2/imgproc.hpp>

using namespace tromb;
using test::exported;
using test::project;
using test::Yuv;

/// Soft spots of many sizes of light, everywhere: detail in all directions and no two places alike.
static double scene(double x, double y) {
  constexpr double kCell = 9;
  constexpr double kSoft = 4.5;
  const auto noise = [](int cx, int cy) {
    uint32_t h = uint32_t(cx) * 0x9e3779b1U ^ uint32_t(cy) * 0x85ebca77U;
    h = (h ^ (h >> 15)) * 0x2c1b3c6dU;
    h = (h ^ (h >> 12)) * 0x297a2d39U;
    return double((h ^ (h >> 15)) & 0xffff) / 65535 - 0.5;
  };
  double sum = 0;
  const int fromX = int(std::floor(x / kCell));
  const int fromY = int(std::floor(y / kCell));
  for (int cy = fromY - 2; cy <= fromY + 3; ++cy)
    for (int cx = fromX - 2; cx <= fromX + 3; ++cx) {
      const double dx = x - cx * kCell;
      const double dy = y - cy * kCell;
      sum += noise(cx, cy) * std::exp(-(dx * dx + dy * dy) / (2 * kSoft * kSoft));
    }
  return std::clamp(128 + 95 * sum, 20.0, 230.0);
}

/// The middle of a picture, of a size that phase correlation needs not pad (padding to an odd length halves a pixel).
static cv::Mat middle(const cv::Mat& picture) {
  const auto side = [](int length) {
    length &= ~1;
    while (cv::getOptimalDFTSize(length) != length) length -= 2;
    return length;
  };
  const cv::Size size(side(picture.cols), side(picture.rows));
  return picture(cv::Rect({(picture.cols - size.width) / 2, (picture.rows - size.height) / 2}, size)).clone();
}

static cv::Point2d byPhase(const cv::Mat& from, const cv::Mat& to) {
  cv::Mat hanning;
  const cv::Mat a = middle(from);
  cv::createHanningWindow(hanning, a.size(), CV_32F);
  return cv::phaseCorrelate(a, middle(to), hanning);
}

/// How far a picture went by much less than a pixel: least squares over its gradients (B. Lucas, T. Kanade, "An
/// Iterative Image Registration Technique", 1981).
static cv::Point2d byGradients(const cv::Mat& from, const cv::Mat& to) {
  double xx = 0;
  double xy = 0;
  double yy = 0;
  double xt = 0;
  double yt = 0;
  for (int y = 4; y < from.rows - 4; ++y)
    for (int x = 4; x < from.cols - 4; ++x) {
      const auto mean = [&](int px, int py) { return (from.at<float>(py, px) + to.at<float>(py, px)) / 2.0; };
      const double gx = (mean(x + 1, y) - mean(x - 1, y)) / 2;
      const double gy = (mean(x, y + 1) - mean(x, y - 1)) / 2;
      const double t = from.at<float>(y, x) - to.at<float>(y, x);
      xx += gx * gx;
      xy += gx * gy;
      yy += gy * gy;
      xt += gx * t;
      yt += gy * t;
    }
  const double determinant = xx * yy - xy * xy;
  return {(yy * xt - xy * yt) / determinant, (xx * yt - xy * xt) / determinant};
}

class TestPlacing : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string path(const char* name) const {
    return m_folder.filePath(QLatin1String(name)).toStdString();
  }

private slots:
  // What `frame` writes is what the encoder was given: nearly lossless export against the rendered picture.
  void thePlansPictureIsTheExportedOne_data() {
    QTest::addColumn<QString>("layout");
    QTest::addColumn<bool>("moving");
    for (const char* layout : {"fill", "stack2", "stack3", "side2", "side3", "backdrop"})
      for (const bool moving : {false, true})
        QTest::addRow("%s%s", layout, moving ? ", moving" : "") << layout << moving;
  }
  void thePlansPictureIsTheExportedOne() {
    QFETCH(QString, layout);
    QFETCH(bool, moving);
    if (!QFile::exists(m_folder.filePath("texture.mp4")))
      test::writeClip(path("texture.mp4"), {1280, 720}, FrameRate(), 20, test::texture);
    Project p = project({path("texture.mp4")}, {{"s", {404, 720}, Rational(50), qPrintable(layout), "ultrafast"}});
    p.deliverables[0].encoding.rateControl = RateControl::ConstantQuality;
    p.deliverables[0].encoding.crf = 1;
    Framing& framing = p.deliverables[0].framings["h1"];
    framing.gap = 0.03;
    framing.colour = {200, 40, 90};
    framing.ground = Ground::Gradient;
    framing.windows[0].x = 0.37;
    // One window by keys of its own, the others after a subject, at a rate at which source frames are shown twice.
    const auto key = [](int64_t time, double x, double zoom) {
      return MoveKey{Rational(time, 25), x, 0.5, zoom, Ease::Smooth, {}};
    };
    if (moving) {
      framing.windows[0].move = {key(0, 0.2, 1), key(9, 0.5, 1.3), key(19, 0.7, 1)};
      framing.windows[0].follows = false;
      p.shots[0].subjects = {Subject{}, {{key(0, 0.8, 1), key(19, 0.3, 1)}, 0.5, 0.5, 0, {}}};
    }
    const auto files = exported(p, path("out"), false);
    QVERIFY(files.has_value());
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    QCOMPARE(plan->pieces()[0].moving, moving);
    for (const int n : {0, 7, 39}) {
      const Frame wanted = *renderFrame(*plan, n);
      const Frame found = *VideoReader::open(*probe(files->front().path))->frameAt(n);
      int worst = 0;
      for (int y = 0; y < 720; y += 7)
        for (int x = 0; x < 404; x += 5)
          worst = std::max(worst, std::abs(test::lumaAt(wanted, x, y) - test::lumaAt(found, x, y)));
      QVERIFY2(worst <= 6, qPrintable(QString::number(worst)));
    }
  }

  // A scene that is a function of place: what each pixel of an export must show follows from the plan's numbers alone.
  void exportedPicturesLieWhereThePlanSays_data() {
    QTest::addColumn<QString>("layout");
    QTest::addColumn<Size>("canvas");
    QTest::newRow("one window") << "fill" << Size{404, 720};
    QTest::newRow("two stacked") << "stack2" << Size{404, 720};
    QTest::newRow("two side by side") << "side2" << Size{960, 400};
    QTest::newRow("over a backdrop") << "backdrop" << Size{480, 800};
  }
  void exportedPicturesLieWhereThePlanSays() {
    if (test::leftOut()) return;
    QFETCH(QString, layout);
    QFETCH(Size, canvas);
    if (!QFile::exists(m_folder.filePath("scene.mp4")))
      test::writeClip(path("scene.mp4"), {1280, 720}, FrameRate(), 30, [](int, int x, int y) {
        return Yuv{int(std::lround(scene(x, y))), 128, 128};
      });
    Project p = project({path("scene.mp4")}, {{"s", canvas, Rational(25), qPrintable(layout), "ultrafast"}});
    p.deliverables[0].encoding.rateControl = RateControl::ConstantQuality;
    p.deliverables[0].encoding.crf = 1;
    Framing& framing = p.deliverables[0].framings["h1"];
    framing.gap = 0.02;
    // Slow: well below a pixel a frame, and closer by a little.
    const bool backdrop = layout == QLatin1String("backdrop");
    for (Window& window : framing.windows) {
      window.follows = false;
      if (!backdrop)
        window.move = {{Rational(0), 0.45, 0.5, 1.1, Ease::Linear, {}},
                       {Rational(29, 25), 0.458, 0.496, 1.1, Ease::Linear, {}}};
    }
    const auto files = exported(p, path("out"), false);
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    auto reader = VideoReader::open(*probe(files->front().path));
    std::vector<cv::Mat> before; // the parts of the frame before, to see how far they went
    std::vector<RectF> beforeAt;
    for (int n = 0; n < 30; ++n) {
      const Frame found = reader->read()->frame;
      const auto placements = plan->pieces()[0].placements(n, plan->rate());
      std::vector<cv::Mat> parts;
      std::vector<RectF> at;
      for (const Placement& each : placements) {
        if (each.isGround()) continue;
        const PixelRect& to = each.canvas;
        cv::Mat seen(to.height, to.width, CV_32F);
        cv::Mat wanted(to.height, to.width, CV_32F);
        for (int y = 0; y < to.height; ++y)
          for (int x = 0; x < to.width; ++x) {
            seen.at<float>(y, x) = float(test::lumaAt(found, to.x + x, to.y + y));
            wanted.at<float>(y, x) = float(scene(each.window.x + (x + 0.5) * each.window.width / to.width - 0.5,
                                                 each.window.y + (y + 0.5) * each.window.height / to.height - 0.5));
          }
        const cv::Point2d off = byPhase(wanted, seen);
        QVERIFY2(std::abs(off.x) < 0.1, qPrintable(QStringLiteral("frame %1: %2 %3").arg(n).arg(off.x).arg(off.y)));
        QVERIFY2(std::abs(off.y) < 0.1, qPrintable(QStringLiteral("frame %1: %2 %3").arg(n).arg(off.x).arg(off.y)));
        const cv::Rect inner(4, 4, to.width - 8, to.height - 8);
        const double apart = cv::norm(wanted(inner), seen(inner), cv::NORM_L1) / inner.area();
        QVERIFY2(apart < 1.2, qPrintable(QStringLiteral("frame %1: %2 steps apart").arg(n).arg(apart)));
        // From frame to frame it goes as far as the plan says, to a twentieth of a pixel: no step, no rest.
        if (const size_t i = parts.size(); i < before.size()) {
          const cv::Point2d went = byGradients(before[i], seen);
          const double scale = to.width / each.window.width;
          const double across = (beforeAt[i].x + beforeAt[i].width / 2 - each.window.x - each.window.width / 2) * scale;
          const double down = (beforeAt[i].y + beforeAt[i].height / 2 - each.window.y - each.window.height / 2) * scale;
          QVERIFY2(std::abs(went.x - across) < 0.05, qPrintable(QStringLiteral("frame %1: %2 %3 instead of %4 %5")
                                                                    .arg(n)
                                                                    .arg(went.x)
                                                                    .arg(went.y)
                                                                    .arg(across)
                                                                    .arg(down)));
          QVERIFY2(std::abs(went.y - down) < 0.05, qPrintable(QStringLiteral("frame %1: %2 %3 instead of %4 %5")
                                                                  .arg(n)
                                                                  .arg(went.x)
                                                                  .arg(went.y)
                                                                  .arg(across)
                                                                  .arg(down)));
        }
        parts.push_back(seen);
        at.push_back(each.window);
      }
      before = parts;
      beforeAt = at;
    }
  }
};

QTEST_GUILESS_MAIN(TestPlacing)
#include "tst_placing.moc"
