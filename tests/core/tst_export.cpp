// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Exporter.h"
#include "export/PartFile.h"
#include "media/AudioReader.h"
#include "media/VideoReader.h"
#include "preflight/Preflight.h"
#include "project/ProjectFile.h"
#include "render/Pictures.h"
#include "support/TestMedia.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <opencv2/imgproc.hpp>
#include <thread>

using namespace tromb;
using test::run;
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

class TestExport : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string path(const char* name) const {
    return m_folder.filePath(QLatin1String(name)).toStdString();
  }

  struct Shape {
    std::string name;
    Size canvas;
    Rational rate{25};
    const char* framing = "fill";
    const char* speed = "ultrafast";
  };
  static Project project(const std::vector<std::string>& files, const std::vector<Shape>& shapes) {
    Project p;
    for (const std::string& file : files) {
      const auto media = probe(file);
      if (!media) qFatal("%s", sentence(media.error()).c_str());
      p.sources.push_back(newSource(p, *media));
      p.shots.push_back(newShot(p, p.sources.back(), *media));
    }
    for (const Shape& shape : shapes) {
      Deliverable d;
      d.id = freshId(p.deliverables, "d");
      d.name = shape.name;
      d.canvas = shape.canvas;
      d.rate = FrameRate(shape.rate);
      d.encoding.speed = shape.speed;
      for (const Shot& shot : p.shots) (void)framingByName(shape.framing, d.framings[shot.id]);
      p.deliverables.push_back(d);
    }
    return p;
  }
  static Result<std::vector<ExportedFile>> exported(const Project& p, const std::string& folder, bool proof = true,
                                                    std::stop_token stop = {}) {
    const Footage footage = probeFootage(p);
    ExportRequest request;
    for (const Deliverable& d : p.deliverables) {
      auto plan = Plan::build(p, footage, d.id);
      if (!plan) return tl::unexpected(plan.error());
      request.plans.push_back(*plan);
    }
    request.folder = folder;
    request.overwrite = true;
    request.proof = proof;
    return exportPlans(request, stop);
  }

private slots:
  // Rec. ITU-R BT.709 75 % bars, 8 bit, through a whole export: decode, scale, encode, decode again.
  void patchesKeepTheirColour() {
    const Yuv kBars[] = {{180, 128, 128}, {168, 44, 136}, {145, 147, 44}, {133, 63, 52},
                         {63, 193, 204},  {51, 109, 212}, {32, 240, 118}, {16, 128, 128}};
    test::writeClip(path("patches.mp4"), {1280, 720}, FrameRate(), 8,
                    [&](int, int x, int y) { return kBars[x / 320 + 4 * (y / 360)]; });
    const auto files =
        exported(project({path("patches.mp4")}, {{"wide", {640, 360}}, {"whole", {640, 640}, Rational(25), "fit"}}),
                 path("out"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    for (size_t f = 0; f < 2; ++f) {
      const Frame picture = *VideoReader::open(*probe((*files)[f].path))->frameAt(5);
      const int top = f == 0 ? 0 : 140;
      for (int i = 0; i < 8; ++i) {
        const Yuv seen = test::yuvAt(picture, i % 4 * 160 + 80, top + i / 4 * 180 + 90);
        QVERIFY2(std::abs(seen.y - kBars[i].y) <= 2 && std::abs(seen.u - kBars[i].u) <= 2 &&
                     std::abs(seen.v - kBars[i].v) <= 2,
                 qPrintable(QStringLiteral("patch %1: %2 %3 %4").arg(i).arg(seen.y).arg(seen.u).arg(seen.v)));
      }
    }
  }

  void theFileIsWhatWasAsked() {
    test::writeClip(path("texture.mp4"), {1280, 720}, FrameRate(), 50, test::texture, true);
    const auto files =
        exported(project({path("texture.mp4")}, {{"Story", {720, 1280}, Rational(25), "fill", "veryfast"},
                                                 {"Main: 3/4", {480, 640}, Rational(30000, 1001)}}),
                 path("out"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const QString file = QString::fromStdString(files->front().path);
    QCOMPARE(QFileInfo(QString::fromStdString(files->back().path)).fileName(), QStringLiteral("Main- 3-4.mp4"));
    for (const ExportedFile& each : *files)
      for (const ProofCheck& check : each.proof->checks)
        QVERIFY2(check.pass, (check.code + ": " + check.found + ", expected " + check.expected).c_str());
    // FFmpeg's own reading.
    const QString said =
        run(QStringLiteral("ffprobe"),
            {"-v", "error", "-show_entries",
             "stream=codec_name,profile,level,width,height,r_frame_rate,avg_frame_rate,nb_frames,pix_fmt,color_range,"
             "color_space,color_transfer,color_primaries,chroma_location,sample_rate,channels,start_time",
             "-of", "default", file});
    for (const char* line :
         {"codec_name=h264", "profile=High", "level=31", "width=720", "height=1280", "r_frame_rate=25/1",
          "avg_frame_rate=25/1", "nb_frames=50", "pix_fmt=yuv420p", "color_range=tv", "color_space=bt709",
          "color_transfer=bt709", "color_primaries=bt709", "chroma_location=left", "codec_name=aac",
          "sample_rate=48000", "channels=2", "start_time=0.000000"})
      QVERIFY2(said.contains(QLatin1String(line)), line);
    // ISO/IEC 14496-12: the index before the media, by reading boxes; RFC 6381: avc1.PPCCLL from avcC.
    QVERIFY(indexBeforeMedia(file.toStdString()));
    QFile raw(file);
    QVERIFY(raw.open(QIODevice::ReadOnly));
    const QByteArray bytes = raw.readAll();
    QVERIFY(bytes.indexOf("moov") < bytes.indexOf("mdat"));
    const qsizetype avcc = bytes.indexOf("avcC");
    QCOMPARE(bytes.mid(avcc + 5, 3).toHex(), QByteArray("64001f"));
    // The colour box: nclx, BT.709 three times, limited (ISO/IEC 14496-12).
    QCOMPARE(bytes.mid(bytes.indexOf("colrnclx") + 8, 7).toHex(), QByteArray("00010001000100"));
    (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", file, "-c", "copy", m_folder.filePath("late.mp4")});
    QVERIFY(!indexBeforeMedia(path("late.mp4"))); // the check can fail
  }

  // FFmpeg's bar detection finds the full canvas on every filling export; and bars where they were asked for.
  void fillsHaveNoBars() {
    const std::vector<Shape> shapes{{"a", {360, 640}},
                                    {"b", {640, 272}},
                                    {"c", {400, 400}},
                                    {"d", {360, 640}, Rational(25), "stack3"},
                                    {"e", {360, 640}, Rational(25), "backdrop"},
                                    {"f", {360, 640}, Rational(25), "fit"}};
    // Two sources: one with bars burned in, as they are measured when it is brought in.
    test::writeClip(path("clean.mp4"), {640, 360}, FrameRate(), 12, test::texture);
    test::writeClip(path("barred.mp4"), {640, 360}, FrameRate(), 12,
                    [](int n, int x, int y) { return y < 46 || y >= 314 ? Yuv{} : test::texture(n, x, y); });
    Project p = project({path("barred.mp4"), path("clean.mp4")}, shapes);
    p.sources[0].bars = {0, 48, 0, 48};
    const auto files = exported(p, path("out"));
    QVERIFY(files.has_value());
    for (size_t i = 0; i < shapes.size(); ++i) {
      const QString words = run(QStringLiteral("ffmpeg"), {"-i", QString::fromStdString((*files)[i].path), "-vf",
                                                           "cropdetect=round=2:skip=0:reset=1", "-f", "null", "-"});
      const QString full = QStringLiteral("crop=%1:%2:0:0").arg(shapes[i].canvas.width).arg(shapes[i].canvas.height);
      const auto frames = words.count(QLatin1String("crop="));
      QVERIFY(frames >= 20);
      QCOMPARE(words.count(full), i == 5 ? 0 : frames);
    }
  }

  // Frame n carries source frame k of the plan, read from the number burned into each picture.
  void numbersOverTenMinutes_data() {
    QTest::addColumn<Rational>("source");
    QTest::addColumn<Rational>("deliverable");
    QTest::newRow("25 to 25") << Rational(25) << Rational(25);
    QTest::newRow("50 to 25") << Rational(50) << Rational(25);
    QTest::newRow("25 to 29.97") << Rational(25) << Rational(30000, 1001);
    QTest::newRow("23.976 to 25") << Rational(24000, 1001) << Rational(25);
  }
  void numbersOverTenMinutes() {
    QFETCH(Rational, source);
    QFETCH(Rational, deliverable);
    const auto frames = int((Rational(600) * source).nearest());
    test::writeClip(
        path("numbers.mp4"), {64, 36}, FrameRate(source), frames,
        [](int n, int x, int) { return test::numberStripe(n, x, 64); }, true);
    const Project p = project({path("numbers.mp4")}, {{"n", {64, 36}, deliverable}});
    const auto files = exported(p, path("out"), false);
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const auto media = probe(files->front().path);
    const auto last = (Rational(frames) / source * deliverable).nearest() - 1;
    QCOMPARE(media->video->clock.frameCount(), last + 1);
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    auto reader = VideoReader::open(*media);
    for (const int64_t begin : {int64_t(0), last / 2, last - 29})
      for (int64_t n = begin; n < begin + 30; ++n) {
        // k = ⌈n·Rs/R − ½⌉, by hand and not by the code under test.
        const Rational exact = Rational(n) * source / deliverable;
        const int64_t k =
            std::min<int64_t>((exact.num() * 2 - exact.den() + 2 * exact.den() - 1) / (2 * exact.den()), frames - 1);
        QCOMPARE(plan->at(n).sourceFrame, k);
        QCOMPARE(test::readNumber(*reader->frameAt(n)), int(k));
      }
    // Sound stays in step to within one AAC frame over the whole length: the last click is where the source has it.
    auto sound = AudioReader::open(*media);
    std::vector<float> samples(9600 * 2);
    for (const int64_t second : {int64_t(0), int64_t(300), int64_t(599)}) {
      const int64_t from = std::max<int64_t>(0, second * kSoundRate - 4800);
      QVERIFY(sound->goTo(from) && sound->read(samples.data(), 9600));
      int64_t first = -1000000;
      for (int64_t i = 0; i < 9600 && first < 0; ++i)
        if (std::abs(samples[size_t(i * 2)]) > 0.15F) first = from + i;
      QVERIFY2(std::abs(first - second * kSoundRate) < 1024, qPrintable(QString::number(first - second * kSoundRate)));
    }
  }

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
    const auto files = exported(p, path("out"));
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
    const auto files = exported(p, path("out"));
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
        QVERIFY2(std::abs(off.x) < 0.1 && std::abs(off.y) < 0.1,
                 qPrintable(QStringLiteral("frame %1: %2 %3").arg(n).arg(off.x).arg(off.y)));
        const cv::Rect inner(4, 4, to.width - 8, to.height - 8);
        const double apart = cv::norm(wanted(inner), seen(inner), cv::NORM_L1) / inner.area();
        QVERIFY2(apart < 1.2, qPrintable(QStringLiteral("frame %1: %2 steps apart").arg(n).arg(apart)));
        // From frame to frame it goes as far as the plan says, to a twentieth of a pixel: no step, no rest.
        if (const size_t i = parts.size(); i < before.size()) {
          const cv::Point2d went = byGradients(before[i], seen);
          const double scale = to.width / each.window.width;
          const double across = (beforeAt[i].x + beforeAt[i].width / 2 - each.window.x - each.window.width / 2) * scale;
          const double down = (beforeAt[i].y + beforeAt[i].height / 2 - each.window.y - each.window.height / 2) * scale;
          QVERIFY2(std::abs(went.x - across) < 0.05 && std::abs(went.y - down) < 0.05,
                   qPrintable(QStringLiteral("frame %1: %2 %3 instead of %4 %5")
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

  void shotsOfEveryKindFollowEachOther() {
    test::writeClip(path("a.mp4"), {320, 180}, FrameRate(Rational(30)), 17, test::texture);
    test::writeClip(path("b.mp4"), {320, 180}, FrameRate(Rational(24000, 1001)), 31, test::texture, true,
                    Rational(4, 3), 90);
    (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=s=300x200", "-frames:v",
                                         "1", m_folder.filePath("c.png")});
    Project p = project({path("a.mp4"), path("b.mp4"), path("c.png"), path("a.mp4")},
                        {{"x", {160, 284}}, {"y", {284, 160}, Rational(50)}});
    p.shots[3].in = Rational(1, 10);
    p.shots[3].out = Rational(3, 10);
    p.shots[3].speed = Rational(1, 2);
    const auto files = exported(p, path("out"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    for (size_t i = 0; i < 2; ++i) {
      for (const ProofCheck& check : (*files)[i].proof->checks)
        QVERIFY2(check.pass, (check.code + ": " + check.found + ", expected " + check.expected).c_str());
      // Where a shot starts is rounded from the exact time of the running order, never added up.
      const auto plan = Plan::build(p, probeFootage(p), p.deliverables[i].id);
      Rational start(0);
      for (size_t s = 0; s < p.shots.size(); ++s) {
        QCOMPARE(plan->pieces()[s].firstFrame, (start * plan->rate().value()).nearest());
        start = start + p.shots[s].duration();
      }
      QCOMPARE(plan->frameCount(), (start * plan->rate().value()).nearest());
    }
  }

  void whatFallsShortIsFound_data() {
    QTest::addColumn<QString>("code");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<QString>("framing");
    QTest::addColumn<QString>("level");
    QTest::newRow("nothing") << "" << Size{180, 180} << "fill"
                             << "";
    QTest::newRow("bars") << "bars" << Size{180, 180} << "fit"
                          << "";
    QTest::newRow("soft") << "soft" << Size{180, 320} << "fill"
                          << "";
    QTest::newRow("enlarged canvas") << "enlarged-canvas" << Size{640, 360} << "fill"
                                     << "";
    QTest::newRow("odd") << "odd-size" << Size{180, 181} << "fill"
                         << "";
    QTest::newRow("level") << "level-too-low" << Size{320, 180} << "fill"
                           << "1";
    QTest::newRow("missing") << "source-missing" << Size{180, 180} << "fill"
                             << "";
    QTest::newRow("unreadable") << "source-unreadable" << Size{180, 180} << "fill"
                                << "";
    for (const char* code : {"interlaced", "hdr", "silent-speed", "rate-mismatch"})
      QTest::newRow(code) << code << Size{180, 180} << "fill"
                          << "";
  }
  void whatFallsShortIsFound() {
    QFETCH(QString, code);
    QFETCH(Size, canvas);
    QFETCH(QString, framing);
    QFETCH(QString, level);
    test::writeClip(path("small.mp4"), {320, 180}, FrameRate(), 5, test::texture);
    Project p = project({path("small.mp4")}, {{"d", canvas, Rational(25), qPrintable(framing)}});
    p.deliverables[0].encoding.level = level.toStdString();
    if (code == QLatin1String("source-missing")) p.sources[0].path += ".gone";
    if (code == QLatin1String("source-unreadable")) p.sources[0].path = path("");
    Footage footage = probeFootage(p);
    if (code == QLatin1String("interlaced")) footage.at("s1")->video->scan = Scan::TopFieldFirst;
    if (code == QLatin1String("hdr")) footage.at("s1")->video->colour.transfer = 16;
    if (code == QLatin1String("rate-mismatch")) p.deliverables[0].rate = FrameRate(Rational(30));
    if (code == QLatin1String("silent-speed")) {
      p.shots[0].speed = Rational(1, 2);
      footage.at("s1")->audio.emplace_back();
    }
    const auto findings = preflight(p, footage);
    if (code == QLatin1String("interlaced")) {
      // The plan's pictures are de-interlaced as the finding says, and not where the project knows better than the
      // file.
      QCOMPARE(Plan::build(p, footage, "d1")->pieces()[0].media.video->scan, Scan::TopFieldFirst);
      p.sources[0].scan = Scan::Progressive;
      QCOMPARE(Plan::build(p, footage, "d1")->pieces()[0].media.video->scan, Scan::Progressive);
    }
    const bool found =
        std::any_of(findings.begin(), findings.end(), [&](const Finding& f) { return f.code == code.toStdString(); });
    if (code.isEmpty())
      QVERIFY2(findings.empty(), findings.empty() ? "" : findings.front().message.c_str());
    else
      QVERIFY(found);
    if (code.startsWith(QLatin1String("source")) || code == QLatin1String("odd-size"))
      QVERIFY(!exported(p, path("out")));
  }

  void proofFindsWhatIsWrong() {
    test::writeClip(path("texture.mp4"), {640, 360}, FrameRate(), 25, test::texture, true);
    const Project p = project({path("texture.mp4")}, {{"d", {360, 360}}});
    const auto files = exported(p, path("out"));
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    const QString good = QString::fromStdString(files->front().path);
    // Somebody else's tool spoils it: each of these must be seen.
    const std::pair<const char*, QStringList> spoils[] = {
        {"frames", {"-frames:v", "20", "-c", "copy"}},
        {"canvas", {"-vf", "scale=180:180", "-c:a", "copy"}},
        {"rate", {"-r", "24", "-c:a", "copy"}},
        {"index-first", {"-c", "copy"}},
        {"bars", {"-vf", "drawbox=0:0:360:40:black:fill", "-c:a", "copy"}},
        {"sound", {"-an", "-c:v", "copy"}},
        {"colour", {"-color_range", "pc", "-colorspace", "bt470bg", "-c:a", "copy"}},
        {"profile", {"-profile:v", "baseline", "-c:a", "copy"}}};
    for (const auto& [code, arguments] : spoils) {
      (void)run(QStringLiteral("ffmpeg"), QStringList{"-v", "error", "-y", "-i", good} + arguments +
                                              QStringList{m_folder.filePath("spoiled.mp4")});
      const auto report = proofFile(path("spoiled.mp4"), &*plan);
      QVERIFY(report.has_value());
      const bool seen = std::any_of(report->checks.begin(), report->checks.end(),
                                    [&](const ProofCheck& c) { return c.code == code && !c.pass; });
      QVERIFY2(seen, code);
    }
  }

  void cancellingAndKillingLeaveNothingHalfMade() {
    test::writeClip(path("long.mp4"), {640, 360}, FrameRate(), 500, test::texture);
    const Project p = project({path("long.mp4")}, {{"d", {720, 1280}, Rational(25), "fill", "slow"},
                                                   {"e", {720, 720}, Rational(25), "fill", "slow"}});
    const std::string folder = path("cancelled");
    std::stop_source stop;
    const std::jthread later([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(400));
      stop.request_stop();
    });
    const auto files = exported(p, folder, true, stop.get_token());
    QCOMPARE(files.error().code, ErrorCode::Cancelled);
    const QDir::Filters all = QDir::Files | QDir::Hidden;
    QVERIFY(QDir(QString::fromStdString(folder)).entryList(all).isEmpty());

    // A program that is killed cannot tidy up; the next run does, and leaves one that is alive alone.
    const std::string file = path("p.tromb");
    QVERIFY(saveProject(p, file).has_value());
    QProcess killed;
    killed.start(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"),
                 {"export", QString::fromStdString(file), "--out", QString::fromStdString(folder)});
    const auto remains = [&] { return QDir(QString::fromStdString(folder)).entryList({"*.tromb-part"}, all).size(); };
    QTRY_COMPARE_WITH_TIMEOUT(remains(), 2, 20000);
    PartFile::sweep(folder);
    QCOMPARE(remains(), 2);
    QTest::qWait(300);
    killed.kill();
    QVERIFY(killed.waitForFinished());
    QCOMPARE(remains(), 2);
    QVERIFY(QDir(QString::fromStdString(folder)).entryList({"*.mp4"}, QDir::Files).isEmpty());
    PartFile::sweep(folder);
    QCOMPARE(remains(), 0);

    QProcess interrupted;
    interrupted.start(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"),
                      {"export", QString::fromStdString(file), "--out", QString::fromStdString(folder)});
    QTRY_COMPARE_WITH_TIMEOUT(remains(), 2, 20000);
    ::kill(pid_t(interrupted.processId()), SIGINT);
    QVERIFY(interrupted.waitForFinished(20000));
    QCOMPARE(interrupted.exitCode(), 130);
    QVERIFY(QDir(QString::fromStdString(folder)).entryList(all).isEmpty());
  }
  void whatCannotBeWrittenIsSaid() {
    test::writeClip(path("small.mp4"), {320, 180}, FrameRate(), 5, test::texture);
    const Project p = project({path("small.mp4")}, {{"d", {180, 180}}});
    QCOMPARE(exported(p, "/proc/nowhere").error().code, ErrorCode::CannotWrite);
    const std::string taken = path("taken");
    QVERIFY(QFile(QString::fromStdString(taken)).open(QIODevice::WriteOnly));
    QCOMPARE(exported(p, taken).error().code, ErrorCode::CannotWrite);
  }
};

QTEST_GUILESS_MAIN(TestExport)
#include "tst_export.moc"
