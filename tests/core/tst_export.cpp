// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Compare.h"
#include "export/Exporter.h"
#include "export/TimeLeft.h"
#include "io/PartFile.h"
#include "media/read/AudioReader.h"
#include "media/read/IndexPlace.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "project/ProjectFile.h"
#include "render/Pictures.h"
#include "support/Patience.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <functional>
#include <thread>

using namespace tromb;
using test::exported;
using test::project;
using test::run;
using test::Shape;
using test::Yuv;

class TestExport : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string path(const char* name) const {
    return m_folder.filePath(QLatin1String(name)).toStdString();
  }

private slots:
  // Two films are compared as players turn them: one that is labelled to be turned is what FFmpeg's tool makes upright.
  void turnedFilmsAreComparedUpright_data() {
    QTest::addColumn<int>("degrees");
    for (const int degrees : {90, 180, 270}) QTest::addRow("%d", degrees) << degrees;
  }
  void turnedFilmsAreComparedUpright() {
    QFETCH(int, degrees);
    const auto file = [&](const char* name) { return QString::fromStdString(path(name)); };
    test::ffmpeg("-f lavfi -i testsrc2=s=320x180:r=25:d=1 -c:v libx264 -qp 0 -pix_fmt yuv420p " + file("stored.mp4"));
    test::ffmpeg(QString("-i %1 -c copy -metadata:s:v rotate=%2 %3")
                     .arg(file("stored.mp4"))
                     .arg(degrees)
                     .arg(file("turned.mp4")));
    test::ffmpeg(QString("-i %1 -c:v libx264 -qp 0 -pix_fmt yuv420p %2").arg(file("turned.mp4"), file("upright.mp4")));
    const auto found = compareFiles(path("turned.mp4"), path("upright.mp4"));
    QVERIFY2(found.has_value(), found ? "" : sentence(found.error()).c_str());
    QCOMPARE(found->ssim.size(), size_t(25));
    QCOMPARE(found->different, int64_t(0));
  }

  // From a tenth on, and as soon as one of each kind has been gone through, the time left is told within a fifth of
  // what it is (what the makers of Tromb ask of it). The paces are invented.
  void theTimeLeftIsTold_data() {
    using Parts = std::vector<TimeLeft::Part>;
    using Paces = std::vector<double>;
    QTest::addColumn<Parts>("parts");
    QTest::addColumn<Paces>("paces");  // seconds that a unit of each takes
    QTest::addColumn<double>("from");  // share of all from which on it is asked
    QTest::addColumn<double>("there"); // share of all that was there before
    QTest::newRow("even") << Parts{{100, 1, 0}} << Paces{0.5} << 0.1 << 0.0;
    QTest::newRow("hard shots, of a guess that is right")
        << Parts{{20, 1, 0}, {40, 4, 1}, {40, 1, 2}} << Paces{0.5, 2, 0.5} << 0.1 << 0.0;
    QTest::newRow("in turns, of a guess that is wrong")
        << Parts{{10, 1, 0}, {10, 1, 1}, {30, 1, 0}, {30, 1, 1}, {20, 1, 0}} << Paces{0.2, 2, 0.2, 2, 0.2} << 0.13
        << 0.0;
    QTest::newRow("gone on with") << Parts{{50, 1, 0}, {50, 3, 1}} << Paces{1, 3} << 0.1 << 0.3;
  }
  void theTimeLeftIsTold() {
    QFETCH(const std::vector<TimeLeft::Part>, parts);
    QFETCH(const std::vector<double>, paces);
    QFETCH(const double, from);
    QFETCH(const double, there);
    constexpr double kStep = 0.25;
    double all = 0;
    double left = 0;
    for (size_t i = 0; i < parts.size(); ++i) all += parts[i].length;
    TimeLeft time(parts);
    double at = 0;
    std::vector<std::pair<size_t, double>> steps;
    for (size_t i = 0; i < parts.size(); ++i)
      for (double within = 0; within < parts[i].length; within += kStep, at += kStep) {
        if (at < there * all)
          time.skip(i, kStep);
        else
          steps.emplace_back(i, kStep * paces[i]);
      }
    for (const auto& [part, seconds] : steps) left += seconds;
    QVERIFY(!time.remaining());
    at = there * all;
    for (const auto& [part, seconds] : steps) {
      time.add(part, kStep, seconds);
      left -= seconds;
      at += kStep;
      if (at < (there + from * (1 - there)) * all || left < 1e-9) continue;
      const auto told = time.remaining();
      QVERIFY(told);
      QVERIFY2(std::abs(*told - left) <= 0.2 * left,
               qPrintable(QString("at %1: %2, not %3").arg(at).arg(*told).arg(left)));
    }
    QVERIFY(std::abs(*time.remaining()) < 1e-6);
  }

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
        QVERIFY2(std::abs(seen.y - kBars[i].y) <= 2,
                 qPrintable(QStringLiteral("patch %1: %2 %3 %4").arg(i).arg(seen.y).arg(seen.u).arg(seen.v)));
        QVERIFY2(std::abs(seen.u - kBars[i].u) <= 2,
                 qPrintable(QStringLiteral("patch %1: %2 %3 %4").arg(i).arg(seen.y).arg(seen.u).arg(seen.v)));
        QVERIFY2(std::abs(seen.v - kBars[i].v) <= 2,
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
        QVERIFY2(check.pass, (check.code + ": " + check.found.text() + ", expected " + check.expected.text()).c_str());
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
    const int64_t seconds = test::kSanitized ? 60 : 600;
    const auto frames = int((Rational(seconds) * source).nearest());
    const std::string clip = path(qPrintable(QStringLiteral("numbers-%1.mp4").arg(frames)));
    if (!QFile::exists(QString::fromStdString(clip)))
      test::writeClip(
          clip, {64, 36}, FrameRate(source), frames, [](int n, int x, int) { return test::numberStripe(n, x, 64); },
          true);
    const Project p = project({clip}, {{"n", {64, 36}, deliverable}});
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
        QCOMPARE(plan->at(n).shown.frame, k);
        QCOMPARE(test::readNumber(*reader->frameAt(n)), int(k));
      }
    // Sound stays in step to within one AAC frame over the whole length: the last click is where the source has it.
    auto sound = AudioReader::open(readAsStated(*media));
    std::vector<float> samples(9600 * 2);
    for (const int64_t second : {int64_t(0), seconds / 2, seconds - 1}) {
      const int64_t from = std::max<int64_t>(0, second * kSoundRate - 4800);
      QVERIFY(sound->goTo(from));
      QVERIFY(sound->read(samples.data(), 9600));
      int64_t first = -1000000;
      for (int64_t i = 0; i < 9600 && first < 0; ++i)
        if (std::abs(samples[size_t(i * 2)]) > 0.15F) first = from + i;
      QVERIFY2(std::abs(first - second * kSoundRate) < 1024, qPrintable(QString::number(first - second * kSoundRate)));
    }
  }

  void shotsOfEveryKindFollowEachOther_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QList<int>>("begins"); // frames at which another source is seen, and the end
    QTest::addColumn<QList<int>>("first");  // source frames of the first shot
    QTest::addColumn<QList<int>>("last");   // and of the last
    // Reckoned by hand. 17/30 s, 31·1001/24000 s, a still of 5 s and 0.2 s at half speed: at 25 frames a second they
    // begin at 0, 14.17, 46.49 and 171.49 and end at 181.49. 30 to 25 leaves out one in six; half speed from the fourth
    // frame on goes by 0.6 frames.
    QTest::newRow("x, 25") << "x" << QList<int>{0, 14, 46, 171, 181}
                           << QList<int>{0, 1, 2, 4, 5, 6, 7, 8, 10, 11, 12, 13, 14, 16}
                           << QList<int>{3, 4, 4, 5, 5, 6, 7, 7, 8, 8};
    // Twice as many: 28.33, 92.98, 342.98 and 362.98; by 0.6 and by 0.3 frames. The ninth
    // frame would be nearest at the end, and is outside of the shot.
    QTest::newRow("y, 50") << "y" << QList<int>{0, 28, 93, 343, 363}
                           << QList<int>{0, 1, 1,  2,  2,  3,  4,  4,  5,  5,  6,  7,  7,  8,
                                         8, 9, 10, 10, 11, 11, 12, 13, 13, 14, 14, 15, 16, 16}
                           << QList<int>{3, 3, 4, 4, 4, 4, 5, 5, 5, 6, 6, 6, 7, 7, 7, 7, 8, 8, 8, 8};
  }
  void shotsOfEveryKindFollowEachOther() {
    QFETCH(const QString, file);
    // Each picture says what it is: U which source, V which frame.
    const auto telling = [](int source) {
      return [source](int frame, int, int) { return Yuv{120, 80 + 40 * source, 80 + 3 * frame}; };
    };
    test::writeClip(path("a.mp4"), {320, 180}, FrameRate(Rational(30)), 17, telling(0));
    test::writeClip(path("b.mp4"), {320, 180}, FrameRate(Rational(24000, 1001)), 31, telling(2), true, Rational(4, 3),
                    90);
    test::ffmpeg(QStringLiteral("-f lavfi -i color=gray:s=300x200 -frames:v 1 ") + m_folder.filePath("c.png"));
    Project p = project({path("a.mp4"), path("b.mp4"), path("c.png"), path("a.mp4")},
                        {{"x", {160, 284}}, {"y", {284, 160}, Rational(50)}});
    p.shots[3].in = Rational(1, 10);
    p.shots[3].out = Rational(3, 10);
    p.shots[3].pace.speed = Rational(1, 2);
    const auto files = exported(p, path("out"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const ExportedFile& made = (*files)[file == QLatin1String("x") ? 0 : 1];
    for (const ProofCheck& check : made.proof->checks)
      QVERIFY2(check.pass, (check.code + ": " + check.found.text() + ", expected " + check.expected.text()).c_str());
    const auto media = probe(made.path);
    QVERIFY(media.has_value());
    auto reader = VideoReader::open(*media);
    QVERIFY(reader.has_value());
    QList<int> begins;
    QList<int> frames;
    int before = -1;
    const int64_t count = media->video->clock.frameCount();
    for (int64_t n = 0; n < count; ++n) {
      const auto picture = reader->frameAt(n);
      QVERIFY(picture.has_value());
      const Yuv seen = test::yuvAt(*picture, 80, 80);
      const int source = int(std::lround((seen.u - 80) / 40.0));
      if (source != before) begins << int(n);
      before = source;
      frames << int(std::lround((seen.v - 80) / 3.0));
    }
    begins << int(count);
    QTEST(begins, "begins");
    QTEST(frames.mid(0, begins[1]), "first");
    QTEST(frames.mid(begins[3]), "last");
  }

  // What the check calls an error is refused by the export, too.
  void errorsAreRefused_data() {
    QTest::addColumn<QString>("what");
    QTest::newRow("missing") << "missing";
    QTest::newRow("a folder in its place") << "folder";
    QTest::newRow("odd size") << "odd";
  }
  void errorsAreRefused() {
    QFETCH(const QString, what);
    test::writeClip(path("small.mp4"), {320, 180}, FrameRate(), 5, test::texture);
    Project p = project({path("small.mp4")}, {{"d", {180, 180}, Rational(25), "fill"}});
    if (what == QLatin1String("missing")) p.sources[0].path += ".gone";
    if (what == QLatin1String("folder")) p.sources[0].path = path("");
    if (what == QLatin1String("odd")) p.deliverables[0].canvas = {180, 181};
    QVERIFY(!exported(p, path("out")));
  }

  // Pictures are de-interlaced as the finding says, and not where the project knows better than the file.
  void thePlanReadsAsTheProjectSays() {
    test::writeClip(path("small.mp4"), {320, 180}, FrameRate(), 5, test::texture);
    Project p = project({path("small.mp4")}, {{"d", {180, 180}, Rational(25), "fill"}});
    Footage footage = probeFootage(p);
    footage.at("s1")->video->scan = Scan::TopFieldFirst;
    QCOMPARE(Plan::build(p, footage, "d1")->pieces()[0].reading.scan, Scan::TopFieldFirst);
    p.sources[0].scan = Scan::Progressive;
    QCOMPARE(Plan::build(p, footage, "d1")->pieces()[0].reading.scan, Scan::Progressive);
  }

  // A source that was turned, mirrored and straightened is exported as its pictures are drawn by themselves: the file's
  // frames against the straightener's and the composer's, frame by frame.
  void straightenedSourcesAreExportedSo() {
    test::writeClip(path("tilt.mp4"), {640, 360}, FrameRate(), 6, [](int n, int x, int y) {
      return Yuv{120 + int(60 * std::sin((x + 3 * n) * 0.05) * std::cos(y * 0.06)), 110 + x / 32, 150 - y / 16};
    });
    Project p = project({path("tilt.mp4")}, {{"d", {270, 360}, Rational(25), "fill"}});
    p.sources[0].orientation = {90, true, 4.5};
    p.sources[0].bars = {20, 0, 12, 8};
    p.deliverables[0].encoding.rateControl = RateControl::ConstantQuality;
    p.deliverables[0].encoding.crf = 8;
    const auto files = exported(p, path("tilted"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    // FFmpeg's filters do the same, each by itself: the bars are cut off, the picture is turned clockwise, then
    // mirrored, then rotated by the angle and enlarged by cos a + sin a · h/w so that no corner is empty (the corners
    // of a rectangle in a turned one of the same shape), and what the canvas shows of it is cut from its middle.
    const double angle = 4.5 * std::acos(-1) / 180;
    const double height = 640 - 20 - 12; // once it is turned
    const double across = 360 - 8;
    // Beside bars the four pixels that a kernel of eight reaches over are kept off, too.
    const double zoom = (std::cos(angle) + std::sin(angle) * height / across) * across / (across - 8);
    const double shown = across / zoom; // columns that fill the canvas of 3:4
    (void)run(QStringLiteral("ffmpeg"),
              {"-v", "error", "-y", "-i", m_folder.filePath("tilt.mp4"), "-vf",
               QStringLiteral("crop=608:352:20:0,transpose=clock,hflip,scale=1408:2432:flags=bicubic,"
                              "rotate=%1:ow=iw:oh=ih:bilinear=1,crop=%2:%3,scale=270:360:flags=area")
                   .arg(angle, 0, 'f', 9)
                   .arg(shown * 4, 0, 'f', 3)
                   .arg(shown * 4 * 4 / 3, 0, 'f', 3),
               "-qp", "1", m_folder.filePath("judge.mp4")});
    auto judge = VideoReader::open(*probe(path("judge.mp4")));
    auto made = VideoReader::open(*probe(files->front().path));
    for (int n = 0; n < 6; ++n) {
      const Frame wanted = *judge->frameAt(n);
      const Frame found = *made->frameAt(n);
      double off = 0;
      for (int y = 0; y < 360; ++y)
        for (int x = 0; x < 270; ++x) off += std::abs(test::lumaAt(found, x, y) - test::lumaAt(wanted, x, y));
      QVERIFY2(off / (270 * 360) < 2.5, qPrintable(QString::number(off / (270 * 360))));
    }
    // And where it is tilted is seen: turned the other way, it is another picture.
    p.sources[0].orientation.straighten = -4.5;
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    const Frame other = *renderFrame(*plan, 3);
    const Frame tilted = *made->frameAt(3);
    double off = 0;
    for (int y = 0; y < 360; ++y)
      for (int x = 0; x < 270; ++x) off += std::abs(test::lumaAt(other, x, y) - test::lumaAt(tilted, x, y));
    QVERIFY(off / (270 * 360) > 4);
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
      const auto report = proofFile({path("spoiled.mp4"), &*plan, nullptr, {}});
      QVERIFY(report.has_value());
      const bool seen = std::any_of(report->checks.begin(), report->checks.end(),
                                    [&, wanted = code](const ProofCheck& c) { return c.code == wanted && !c.pass; });
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
    QTRY_COMPARE_WITH_TIMEOUT(remains(), 2, test::kPatience);
    PartFile::sweep(folder);
    // One that is not locked yet is made anew.
    QTRY_COMPARE_WITH_TIMEOUT(remains(), 2, test::kPatience);
    QTest::qWait(300);
    killed.kill();
    QVERIFY(killed.waitForFinished(test::kPatience));
    QCOMPARE(remains(), 2);
    QVERIFY(QDir(QString::fromStdString(folder)).entryList({"*.mp4"}, QDir::Files).isEmpty());
    PartFile::sweep(folder);
    QCOMPARE(remains(), 0);

    QProcess interrupted;
    interrupted.start(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"),
                      {"export", QString::fromStdString(file), "--out", QString::fromStdString(folder)});
    QTRY_COMPARE_WITH_TIMEOUT(remains(), 2, test::kPatience);
    ::kill(pid_t(interrupted.processId()), SIGINT);
    QVERIFY(interrupted.waitForFinished(test::kPatience));
    QCOMPARE(interrupted.exitCode(), 130);
    QVERIFY(QDir(QString::fromStdString(folder)).entryList(all).isEmpty());
  }
  // A still under a picture, turned and of another shape, fills the canvas behind it in every frame; gone since, the
  // export says so.
  void aStillLiesUnderThePicture() {
    test::writeClip(path("grey.mp4"), {320, 180}, FrameRate(), 10, [](int, int, int) { return Yuv{120, 128, 128}; });
    // Red above and blue below, 400×300: filling 180×320 it shows its middle, from top to bottom.
    (void)run(QStringLiteral("/usr/bin/convert-im6.q16"),
              {"-size", "400x150", "xc:#ff0000", "xc:#0000ff", "-append", m_folder.filePath("ground.png")});
    Project p = project({path("grey.mp4"), path("ground.png")}, {{"d", {180, 320}, Rational(25), "backdrop"}});
    p.shots.resize(1);
    Framing& framing = p.deliverables[0].framings.at("h1");
    framing.ground = Ground::Still;
    framing.still = "s2";
    const auto files = exported(p, path("ground"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    auto reader = VideoReader::open(*probe(files->front().path));
    const auto near = [](const Yuv& a, const Yuv& b) {
      return std::abs(a.y - b.y) <= 4 && std::abs(a.u - b.u) <= 4 && std::abs(a.v - b.v) <= 4;
    };
    for (const int n : {0, 5, 9}) {
      const Frame picture = *reader->frameAt(n);
      QVERIFY(near(test::yuvAt(picture, 90, 40), {63, 102, 240}));
      QVERIFY(near(test::yuvAt(picture, 10, 100), {63, 102, 240}));
      QVERIFY(near(test::yuvAt(picture, 90, 160), {120, 128, 128}));
      QVERIFY(near(test::yuvAt(picture, 90, 290), {32, 240, 118}));
    }
    p.sources[1].orientation.turn = 180; // as its own answers say
    const auto turned = exported(p, path("ground"));
    QVERIFY(turned);
    QVERIFY(near(test::yuvAt(*VideoReader::open(*probe(turned->front().path))->frameAt(3), 90, 40), {32, 240, 118}));
    const Footage footage = probeFootage(p);
    ExportRequest request;
    request.plans = {*Plan::build(p, footage, "d1")};
    request.folder = path("ground");
    request.overwrite = true;
    QVERIFY(QFile::remove(m_folder.filePath("ground.png")));
    const auto gone = exportPlans(request, {});
    QVERIFY(gone);
    QVERIFY(gone->front().error);
    QVERIFY(gone->front().error->path == path("ground.png"));
  }

  // A file that is damaged inside stops the export with its name and place, and nothing half-made stays; so do plans
  // that would be written over each other, and none at all.
  void damagedSourcesStopTheExport() {
    test::writeClip(path("long.mp4"), {640, 360}, FrameRate(), 150, test::texture);
    QFile whole(m_folder.filePath("long.mp4"));
    QVERIFY(whole.open(QIODevice::ReadOnly));
    QByteArray bytes = whole.readAll();
    const auto media = bytes.indexOf("mdat");
    QVERIFY(media > 0);
    Project p = project({path("long.mp4")}, {{"a", {360, 360}}, {"b", {202, 360}}});
    Footage footage = probeFootage(p);
    ExportRequest request;
    request.folder = path("damaged");
    // It was whole when it was looked at.
    for (const Deliverable& d : p.deliverables) request.plans.push_back(*Plan::build(p, footage, d.id));
    QFile spoiled(m_folder.filePath("long.mp4"));
    QVERIFY(spoiled.open(QIODevice::WriteOnly));
    QVERIFY(spoiled.write(bytes.left(media + 2000)) > 0);
    spoiled.close();
    const auto files = exportPlans(request, {});
    QVERIFY(!files);
    QVERIFY2(files.error().path == path("long.mp4"), sentence(files.error()).c_str());
    QVERIFY2(files.error().code != ErrorCode::Cancelled, sentence(files.error()).c_str());
    QVERIFY(QDir(QString::fromStdString(path("damaged"))).entryList(QDir::Files | QDir::Hidden).isEmpty());
    ExportRequest nothing;
    nothing.folder = path("damaged");
    QCOMPARE(exportPlans(nothing, {}).error().code, ErrorCode::InvalidArgument);
    request.plans[1] = request.plans[0];
    const auto twice = exportPlans(request, {});
    QVERIFY(!twice);
    QVERIFY(twice.error().message.text().find("same file") != std::string::npos);
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
