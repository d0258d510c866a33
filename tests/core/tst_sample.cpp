// SPDX-License-Identifier: GPL-3.0-or-later
// Sample encodes: what is hardest, what size the whole file will have, what it looks like, and where more bits stop
// helping.
#include "analysis/InformationMeter.h"
#include "media/Likeness.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "project/Choices.h"
#include "sample/PictureShelf.h"
#include "sample/SampleEncode.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QFileInfo>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace tromb;

using Change = void (*)(Project&);
Q_DECLARE_METATYPE(Change)
Q_DECLARE_METATYPE(tromb::Samples)

namespace {

/// Filters of FFmpeg that draw 30 seconds each.
const char* const kEven = "testsrc2=s=320x180:r=25,noise=alls=6:allf=t";
const char* const kUneven = "mandelbrot=s=320x180:r=25:start_scale=3:end_scale=0.001,noise=alls=30:allf=t:"
                            "enable='gt(t,21)',hue=b='if(lt(t,9),-8,0)'";
const char* const kCuts = "testsrc=s=320x180:r=25,hue=b='if(lt(mod(t,10),5),-8,0)',noise=alls=12:allf=t:"
                          "enable='gt(mod(t,15),8)'";

Probe probeAt(int64_t frame, double spatial, double temporal, double bytes) {
  return {frame, {spatial, temporal}, bytes};
}

SampleRung rung(double crf, int64_t bytes, double ssim) {
  SampleRung made;
  made.encoding.rateControl = RateControl::ConstantQuality;
  made.encoding.crf = crf;
  made.fileBytes = bytes;
  made.ssim = ssim;
  made.psnr = 40;
  return made;
}

} // namespace

class TestSample : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string path(const QString& name) const { return m_folder.filePath(name).toStdString(); }
  /// A clip of some seconds, drawn once.
  std::string clip(const char* drawn, int seconds, const char* pixels = "yuv420p") const {
    const std::string file =
        path(QStringLiteral("%1-%2-%3.mkv").arg(qHash(QByteArray(drawn))).arg(seconds).arg(QLatin1String(pixels)));
    if (!QFileInfo::exists(QString::fromStdString(file)))
      (void)test::run(QStringLiteral("ffmpeg"),
                      {QStringLiteral("-v"), QStringLiteral("error"), QStringLiteral("-f"), QStringLiteral("lavfi"),
                       QStringLiteral("-i"), QLatin1String(drawn), QStringLiteral("-t"), QString::number(seconds),
                       QStringLiteral("-pix_fmt"), QLatin1String(pixels), QStringLiteral("-c:v"),
                       QStringLiteral("libx264"), QStringLiteral("-preset"), QStringLiteral("ultrafast"),
                       QStringLiteral("-crf"), QStringLiteral("8"), QString::fromStdString(file)});
    return file;
  }
  /// The clip in a square, with an encoding.
  static Project square(const std::string& file, const Encoding& encoding) {
    Project made = test::project({file}, {{"square", {180, 180}}});
    made.deliverables.front().encoding = encoding;
    return made;
  }
  static Encoding quality(double crf, const char* speed = "veryfast", Codec codec = Codec::H264) {
    Encoding e;
    e.codec = codec;
    e.rateControl = RateControl::ConstantQuality;
    e.crf = crf;
    e.speed = speed;
    e.sound.place = SoundPlace::None;
    return e;
  }
  static Plan planOf(const Project& project) {
    return *Plan::build(project, probeFootage(project), project.deliverables.front().id);
  }
  /// The length of the file that an export makes.
  int64_t exportedBytes(const Project& project) const {
    const auto files = test::exported(project, path(QStringLiteral("out")), false);
    if (!files || files->front().error) return -1;
    const int64_t bytes = QFileInfo(QString::fromStdString(files->front().path)).size();
    QFile::remove(QString::fromStdString(files->front().path));
    return bytes;
  }

private slots:
  // Rec. ITU-T P.910, as FFmpeg's own filter has it, frame by frame.
  void informationIsTheStandards_data() {
    QTest::addColumn<QString>("drawn");
    QTest::addColumn<QString>("pixels");
    QTest::addColumn<double>("step"); // of the filter's values in 8-bit terms
    QTest::newRow("moving") << QString::fromLatin1(kUneven) << "yuv420p" << 1.0;
    QTest::newRow("drawn") << QString::fromLatin1(kEven) << "yuv420p" << 1.0;
    QTest::newRow("10 bits, 4:2:2") << QString::fromLatin1(kEven) << "yuv422p10le" << 4.0;
  }
  void informationIsTheStandards() {
    QFETCH(QString, drawn);
    QFETCH(QString, pixels);
    QFETCH(double, step);
    const std::string file = clip(drawn.toLatin1(), 2, pixels.toLatin1());
    const QString told =
        test::run(QStringLiteral("ffmpeg"),
                  {QStringLiteral("-v"), QStringLiteral("error"), QStringLiteral("-i"), QString::fromStdString(file),
                   QStringLiteral("-vf"), QStringLiteral("siti,metadata=print:file=-"), QStringLiteral("-f"),
                   QStringLiteral("null"), QStringLiteral("-")});
    const auto numbers = [&](const char* key) {
      QList<double> all;
      const QRegularExpression line(QLatin1String(key) + QStringLiteral("=([0-9.]+)"));
      for (auto found = line.globalMatch(told); found.hasNext();) all << found.next().captured(1).toDouble();
      return all;
    };
    const QList<double> spatial = numbers("siti\\.si");
    const QList<double> temporal = numbers("siti\\.ti");
    QCOMPARE(spatial.size(), 50);
    auto reader = VideoReader::open(*probe(file));
    InformationMeter meter;
    for (int n = 0; n < spatial.size(); ++n) {
      const PictureInformation found = meter.add(reader->read()->frame);
      QVERIFY2(std::abs(found.spatial * step - spatial[n]) < 0.011,
               qPrintable(QStringLiteral("spatial of %1: %2, not %3").arg(n).arg(found.spatial).arg(spatial[n])));
      QVERIFY2(std::abs(found.temporal * step - temporal[n]) < 0.011,
               qPrintable(QStringLiteral("temporal of %1: %2, not %3").arg(n).arg(found.temporal).arg(temporal[n])));
    }
  }

  // One step of all samples is an error of 1, whatever the depth: 20·log₁₀(255) and 20·log₁₀(1023) decibels.
  void likenessByHand() {
    const Frame one = test::painted({64, 64}, 0, [](int, int x, int) { return test::Yuv{60 + x, 100, 120}; });
    const Frame other = test::painted({64, 64}, 0, [](int, int x, int) { return test::Yuv{61 + x, 101, 121}; });
    auto meter = LikenessMeter::create(one);
    QVERIFY(meter.has_value());
    QCOMPARE(meter->compare(one, one)->ssim, 1.0);
    QVERIFY(std::isinf(peakSignalToNoise(meter->compare(one, one)->error, 8)));
    QCOMPARE(meter->compare(other, one)->error, 1.0);
    QVERIFY(std::abs(peakSignalToNoise(1, 8) - 48.1308) < 1e-4);
    QVERIFY(std::abs(peakSignalToNoise(1, 10) - 60.1975) < 1e-4);
    const Frame small = test::painted({32, 64}, 0, [](int, int, int) { return test::Yuv{}; });
    QCOMPARE(meter->compare(small, one).error().code, ErrorCode::InvalidArgument);
  }

  void theShelfKeepsPictures() {
    PictureShelf shelf;
    static constexpr Size kOdd{102, 54}; // lines that are no multiple of anything
    const auto picture = [](int n) { return test::painted(kOdd, n, test::texture); };
    for (int n = 0; n < 5; ++n) QVERIFY(shelf.add(picture(n)).has_value());
    QVERIFY(shelf.close().has_value());
    for (const int n : {4, 0, 3}) {
      int different = 0;
      const Frame kept = shelf.at(n);
      for (int y = 0; y < kOdd.height; ++y)
        for (int x = 0; x < kOdd.width; ++x)
          if (test::lumaAt(kept, x, y) != test::lumaAt(picture(n), x, y)) ++different;
      QCOMPARE(different, 0);
    }
  }

  void sampleIsWellChosen_data() {
    QTest::addColumn<int>("seconds");
    QTest::addColumn<int>("hard"); // the second that is hardest
    QTest::addColumn<int>("most"); // frames
    QTest::newRow("at the beginning") << 60 << 0 << 10'000;
    QTest::newRow("in the middle") << 60 << 31 << 10'000;
    QTest::newRow("at the end") << 60 << 59 << 10'000;
    QTest::newRow("an hour") << 3600 << 3000 << 10'000;
    QTest::newRow("few large pictures") << 60 << 31 << 60;
    QTest::newRow("hardly any") << 60 << 31 << 3;
  }
  void sampleIsWellChosen() {
    QFETCH(int, seconds);
    QFETCH(int, hard);
    QFETCH(int, most);
    const int64_t frames = int64_t(seconds) * 25;
    std::vector<Probe> probes;
    for (int i = 0; i < 60; ++i) {
      const int64_t at = frames * (2 * i + 1) / 120;
      const bool hardest = std::abs(at - (hard * 25 + 12)) <= frames / 120;
      probes.push_back(probeAt(at, hardest ? 90 : 40, hardest ? 30 : 5, 100 + 20 * (i % 7)));
    }
    const auto chosen = chooseSample(probes, frames, FrameRate(), most);
    double share = 0;
    int64_t behind = 0;
    int64_t all = 0;
    int hardest = 0;
    for (const SampleStretch& each : chosen) {
      QVERIFY2(each.first - each.lead >= behind, "they lie apart, in order");
      behind = each.first + each.count;
      all += each.lead + each.count;
      share += each.share;
      if (!each.hardest) continue;
      ++hardest;
      QVERIFY2(std::abs(each.first + each.count / 2 - (hard * 25 + 12)) <= std::max<int64_t>(frames / 60, 38),
               qPrintable(QStringLiteral("the hardest is at %1").arg(each.first)));
    }
    QVERIFY2(behind <= frames, "they end with the plan");
    QCOMPARE(hardest, 1);
    QVERIFY2(std::abs(share - 1) < 1e-9, "together they stand for all of it");
    QVERIFY2(all <= std::max(most + 12, 6), qPrintable(QStringLiteral("%1 frames").arg(all)));
  }
  void shortPlansAreTakenWhole() {
    const auto chosen = chooseSample({probeAt(50, 1, 1, 1)}, 150, FrameRate(), 1000);
    QCOMPARE(chosen.size(), size_t(1));
    QCOMPARE(chosen.front(), (SampleStretch{0, 0, 150, 1, 1, true}));
  }

  // 30 seconds, of which a sample encodes ten, held against the whole file that an export makes.
  void sizeIsThatOfTheFile_data() {
    QTest::addColumn<QString>("drawn");
    QTest::addColumn<Encoding>("encoding");
    for (const auto& [name, drawn] : {std::pair{"even", kEven}, {"uneven", kUneven}, {"cuts", kCuts}}) {
      QTest::addRow("%s, fine", name) << QString::fromLatin1(drawn) << quality(18);
      QTest::addRow("%s, usual", name) << QString::fromLatin1(drawn) << quality(23);
      QTest::addRow("%s, coarse", name) << QString::fromLatin1(drawn) << quality(30);
    }
    QTest::newRow("HEVC") << QString::fromLatin1(kUneven) << quality(28, "ultrafast", Codec::Hevc);
    QTest::newRow("VP9") << QString::fromLatin1(kEven) << quality(36, "5", Codec::Vp9);
    Encoding average;
    average.speed = "veryfast";
    average.bitRate = 400'000;
    average.sound.place = SoundPlace::None;
    QTest::newRow("an average") << QString::fromLatin1(kEven) << average;
    average.rateControl = RateControl::Constant;
    QTest::newRow("a constant rate") << QString::fromLatin1(kUneven) << average;
    average.bitRate = 40'000'000;
    average.rateControl = RateControl::Variable;
    QTest::newRow("more than can be used") << QString::fromLatin1(kEven) << average;
  }
  void sizeIsThatOfTheFile() {
    if (test::kSanitized && !QString::fromUtf8(QTest::currentDataTag()).endsWith(QLatin1String("coarse"))) return;
    QFETCH(QString, drawn);
    QFETCH(Encoding, encoding);
    const Project project = square(clip(drawn.toLatin1(), 30), encoding);
    const auto report = encodeSample({planOf(project), {}});
    QVERIFY2(report.has_value(), report ? "" : sentence(report.error()).c_str());
    const auto is = double(exportedBytes(project));
    const double ratio = double(report->rungs.front().fileBytes) / is;
    qInfo("%s: %.3f of the file", QTest::currentDataTag(), ratio);
    QVERIFY2(std::abs(ratio - 1) < 0.08, qPrintable(QStringLiteral("%1 of %2 bytes").arg(ratio).arg(is)));
  }

  // A loop is encoded whole: its sample has the very size of the file, and more quality is larger and more like it.
  void loopsAreWhole_data() {
    QTest::addColumn<Codec>("codec");
    QTest::addColumn<int>("rungs");
    QTest::newRow("GIF") << Codec::Gif << 1;
    QTest::newRow("WebP") << Codec::Webp << 5;
  }
  void loopsAreWhole() {
    QFETCH(Codec, codec);
    QFETCH(int, rungs);
    Project project = square(clip(kUneven, 4), {});
    Deliverable& d = project.deliverables[0];
    d.encoding.sound.place = SoundPlace::None;
    chooseCodec(d, codec);
    if (codec == Codec::Webp) d.encoding.crf = 50;
    const Plan plan = planOf(project);
    const auto report = encodeSample({plan, rungsRound(plan.encoding(), pictureOf(d))});
    QVERIFY2(report.has_value(), report ? "" : sentence(report.error()).c_str());
    QCOMPARE(int(report->rungs.size()), rungs);
    for (size_t i = 0; i < report->rungs.size(); ++i) {
      const SampleRung& rung = report->rungs[i];
      QVERIFY2(rung.ssim > 0.5 && rung.ssim < 1, qPrintable(QString::number(rung.ssim))); // of grain, in all planes
      QVERIFY2(rung.picture, "it is shown");
      if (i > 0) QVERIFY(rung.fileBytes > report->rungs[i - 1].fileBytes && rung.ssim > report->rungs[i - 1].ssim);
    }
    QCOMPARE(pointAt(report->rungs, plan.encoding())->fileBytes, exportedBytes(project));
  }

  // Never above what was asked for, and no more than a twentieth below.
  void filesFit_data() {
    QTest::addColumn<QString>("drawn");
    QTest::addColumn<Codec>("codec");
    QTest::addColumn<QString>("speed");
    QTest::addColumn<int64_t>("bytes");
    QTest::newRow("H.264, even") << QString::fromLatin1(kEven) << Codec::H264 << "veryfast" << int64_t(1'000'000);
    QTest::newRow("H.264, uneven") << QString::fromLatin1(kUneven) << Codec::H264 << "veryfast" << int64_t(2'000'000);
    QTest::newRow("H.264, cuts") << QString::fromLatin1(kCuts) << Codec::H264 << "veryfast" << int64_t(300'000);
    QTest::newRow("HEVC") << QString::fromLatin1(kUneven) << Codec::Hevc << "ultrafast" << int64_t(1'000'000);
    QTest::newRow("VP9") << QString::fromLatin1(kEven) << Codec::Vp9 << "5" << int64_t(1'000'000);
  }
  void filesFit() {
    if (test::kSanitized && qstrcmp(QTest::currentDataTag(), "H.264, even") != 0) return;
    QFETCH(QString, drawn);
    QFETCH(Codec, codec);
    QFETCH(QString, speed);
    QFETCH(int64_t, bytes);
    Project project = square(clip(drawn.toLatin1(), 30), quality(25, qPrintable(speed), codec));
    const Status chosen = chooseFileBytes(project.deliverables.front(), bytes, project.duration(), false);
    QVERIFY2(chosen.has_value(), chosen ? "" : sentence(chosen.error()).c_str());
    const int64_t is = exportedBytes(project);
    qInfo("%s: %.3f of what was allowed", QTest::currentDataTag(), double(is) / double(bytes));
    QVERIFY2(is <= bytes, qPrintable(QString::number(is)));
    QVERIFY2(double(is) >= 0.95 * double(bytes), qPrintable(QString::number(is)));
  }
  void whatCannotFitIsSaid() {
    Deliverable d;
    const Deliverable before = d;
    const Status few = chooseFileBytes(d, 20'000, Rational(60), true);
    QVERIFY(!few);
    QVERIFY2(!few.error().hint.empty(), "what would do is said");
    QCOMPARE(d, before);
    d.encoding.codec = Codec::Ffv1;
    QCOMPARE(chooseFileBytes(d, 20'000'000, Rational(60), true).error().code, ErrorCode::InvalidArgument);
  }

  // More bytes look better, the same pictures are shown of all, and hard footage bends later than easy one.
  void curvesRiseAndBend() {
    std::vector<Knee> knees;
    std::vector<double> hardness;
    for (const char* drawn : {"color=gray:s=320x180:r=25,drawbox=x=t*9:y=40:w=60:h=60:c=red:t=fill",
                              "testsrc2=s=320x180:r=25", "testsrc2=s=320x180:r=25,noise=alls=40:allf=t"}) {
      const Project project = square(clip(drawn, 6), quality(26));
      const Plan plan = planOf(project);
      const auto rungs = rungsRound(plan.encoding(), pictureOf(plan.deliverable()));
      QCOMPARE(rungs.size(), size_t(5));
      double told = 0;
      const auto report = encodeSample({plan, rungs, nullptr, [&](double fraction) {
                                          QVERIFY2(fraction >= told && fraction <= 1 + 1e-9, "it goes on");
                                          told = fraction;
                                        }});
      QVERIFY2(report.has_value(), report ? "" : sentence(report.error()).c_str());
      QVERIFY(std::abs(told - 1) < 1e-9);
      for (size_t i = 0; i + 1 < report->rungs.size(); ++i) {
        const SampleRung& a = report->rungs[i];
        const SampleRung& b = report->rungs[i + 1];
        QVERIFY2(a.fileBytes < b.fileBytes, "a finer quality is larger");
        QVERIFY2(a.ssim <= b.ssim, "and more like the plan's pictures");
        QVERIFY2(a.psnr <= b.psnr, "by both measures");
      }
      auto meter = LikenessMeter::create(report->picture);
      for (const SampleRung& each : report->rungs)
        QVERIFY2(meter->compare(each.picture, report->picture)->ssim > 0.5, "its picture is the same one");
      const auto probes = probePlan(plan);
      double most = 0;
      for (const Probe& each : *probes) most = std::max(most, each.hardness());
      hardness.push_back(most);
      knees.push_back(*kneeOf(report->rungs));
    }
    QVERIFY2(hardness[0] < hardness[1] && hardness[1] < hardness[2], "noise is harder than what is drawn");
    QVERIFY2(knees[0].fileBytes < knees[1].fileBytes, "the easiest needs fewest");
    QVERIFY2(knees[1].fileBytes < knees[2].fileBytes, "the hardest needs most");
    QVERIFY2(knees[2].setting <= knees[0].setting, "and a finer quality");
  }
  void kneesByHand_data() {
    QTest::addColumn<QList<double>>("ssim"); // of sizes that double from rung to rung, crf 32 28 24 20
    QTest::addColumn<bool>("within");
    QTest::addColumn<double>("setting");
    // The gains of 0.008 and 0.002 are those at 30 and 26: 0.004 lies two thirds of the way between.
    QTest::newRow("between two") << QList<double>{0.9, 0.908, 0.91, 0.911} << true << 30 - 4 * 2.0 / 3;
    QTest::newRow("on none: all help") << QList<double>{0.8, 0.85, 0.9, 0.95} << false << 20.0;
    QTest::newRow("before the first: none helps") << QList<double>{0.99, 0.991, 0.992, 0.993} << false << 32.0;
  }
  void kneesByHand() {
    QFETCH(QList<double>, ssim);
    QFETCH(bool, within);
    QFETCH(double, setting);
    std::vector<SampleRung> rungs;
    for (int i = 0; i < ssim.size(); ++i) rungs.push_back(rung(32 - 4 * i, 1000 << i, ssim[i]));
    const auto knee = kneeOf(rungs);
    QVERIFY(knee.has_value());
    QCOMPARE(knee->within, within);
    QVERIFY2(std::abs(knee->setting - setting) < 1e-6, qPrintable(QString::number(knee->setting)));
    rungs.resize(2);
    QVERIFY2(!kneeOf(rungs), "two points have no bend");
  }
  void pointsLieOnTheCurve() {
    std::vector<SampleRung> rungs{rung(30, 1000, 0.90)};
    addRungs(rungs, {rung(24, 4000, 0.96), rung(27, 2000, 0.94)});
    QCOMPARE(rungs[1].fileBytes, int64_t(2000));
    QCOMPARE(pointAt(rungs, rungs[1].encoding)->fileBytes, int64_t(2000));
    const auto between = pointAt(rungs, rung(25.5, 0, 0).encoding);
    QCOMPARE(between->fileBytes, int64_t(2828)); // 2000 · √2
    QVERIFY(std::abs(between->ssim - 0.95) < 1e-9);
    QVERIFY2(!pointAt(rungs, rung(20, 0, 0).encoding), "nothing is said of what lies beyond");
    Encoding average;
    average.rateControl = RateControl::Variable;
    QVERIFY2(!pointAt(rungs, average), "nor of another way");
    addRungs(rungs, {rung(27, 2100, 0.94)});
    QCOMPARE(rungs.size(), size_t(3));
    QCOMPARE(rungs[1].fileBytes, int64_t(2100));
  }

  void samplesAreKeptBySettings_data() {
    QTest::addColumn<Change>("change");
    QTest::addColumn<bool>("same");
    const auto row = [](const char* name, Change change, bool same) { QTest::newRow(name) << change << same; };
    row(
        "quality", [](Project& p) { p.deliverables[0].encoding.crf = 31; }, true);
    row(
        "name", [](Project& p) { p.deliverables[0].name = "another"; }, true);
    row(
        "a shot's name", [](Project& p) { p.shots[0].name = "another"; }, true);
    row(
        "title", [](Project& p) { p.deliverables[0].encoding.title = "Film"; }, true);
    row(
        "speed", [](Project& p) { p.deliverables[0].encoding.speed = "slow"; }, false);
    row(
        "canvas",
        [](Project& p) {
          p.deliverables[0].canvas = {200, 180};
        },
        false);
    row(
        "trim", [](Project& p) { p.shots[0].out = Rational(2); }, false);
    row(
        "a high version", [](Project& p) { p.deliverables[0].sharesWith = "d9"; }, true);
    row(
        "framing of a high version",
        [](Project& p) {
          p.deliverables[0].sharesWith = "d9";
          p.deliverables[0].framings[p.shots[0].id].layout = Layout::Stack2;
        },
        false);
    row(
        "framing", [](Project& p) { p.deliverables[0].framings[p.shots[0].id].layout = Layout::Stack2; }, false);
  }
  void samplesAreKeptBySettings() {
    QFETCH(Change, change);
    QFETCH(bool, same);
    const Project before = square(clip(kEven, 6), quality(25));
    Project after = before;
    change(after);
    const Footage footage = probeFootage(before);
    const auto key = [&](const Project& p) { return sampledShots(p, footage) + sampledSettings(p.deliverables[0]); };
    QCOMPARE(key(before) == key(after), same);
  }

  // Whatever a codec can hold has a sample, and what loses nothing is told to be equal.
  void everyFormatHasOne_data() {
    QTest::addColumn<Codec>("codec");
    QTest::addColumn<Samples>("samples");
    for (const PictureCodec& codec : pictureCodecs())
      for (const Samples& samples : codec.samples)
        QTest::addRow("%s, %d bits, %d", std::string(codec.name).c_str(), samples.depth, int(samples.chroma))
            << codec.codec << samples;
  }
  void everyFormatHasOne() {
    QFETCH(Codec, codec);
    QFETCH(Samples, samples);
    Project project = square(clip(kEven, 2), {});
    Deliverable& d = project.deliverables[0];
    d.encoding.sound.place = SoundPlace::None;
    d.canvas = {256, 128}; // not less than any encoder takes
    chooseCodec(d, codec);
    chooseSamples(d, samples);
    const auto& speeds = infoOf(codec).speeds;
    if (!speeds.empty()) d.encoding.speed = speeds.front();
    const auto report = encodeSample({planOf(project), {}});
    QVERIFY2(report.has_value(), report ? "" : sentence(report.error()).c_str());
    const SampleRung& only = report->rungs.front();
    QVERIFY2(only.ssim > 0.8, qPrintable(QString::number(only.ssim)));
    QCOMPARE(std::isinf(only.psnr), codec == Codec::Ffv1);
  }
  void otherThingsAreSaid() {
    const Project project = square(clip(kEven, 6), quality(25));
    std::stop_source stop;
    stop.request_stop();
    QCOMPARE(encodeSample({planOf(project), {}}, stop.get_token()).error().code, ErrorCode::Cancelled);
  }
};

QTEST_GUILESS_MAIN(TestSample)
#include "tst_sample.moc"
