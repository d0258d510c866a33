// SPDX-License-Identifier: GPL-3.0-or-later
// Encoders in graphics hardware, for which others stand in: what works is used, and whatever does not, in the trial or
// in the middle of an export, becomes a whole file in software and a sentence.
#include "media/Av.h"
#include "media/read/Probe.h"
#include "media/write/EncoderOptions.h"
#include "support/FaultRig.h"
#include "support/TestMedia.h"

#include <QDirIterator>
#include <QElapsedTimer>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>

using namespace tromb;

namespace {

constexpr int kFrames = 60;
constexpr int kInTrial = 3;   ///< of ten pictures
constexpr int kInMiddle = 40; ///< of an export
constexpr int kLong = 1600;   ///< frames of two segments, of which the first has 750
constexpr int kEarly = 300;   ///< in the first of them
constexpr int kLate = 800;    ///< of those that the second one's encoder gets
constexpr int kShort = 500;   ///< frames that are one segment

/// FFmpeg's digest of all decoded pictures.
QString picturesOf(const QString& file) {
  QProcess process;
  process.start("ffmpeg", {"-v", "error", "-i", file, "-map", "0:v", "-f", "md5", "-"});
  return process.waitForFinished(test::kPatience) ? QString::fromUtf8(process.readAll()) : QString();
}

} // namespace

class TestHardware : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  /// Where `standIn` stands in, with a cache and data of its own.
  [[nodiscard]] QProcessEnvironment where(const QString& standIn, const QString& cache) const {
    QProcessEnvironment all = QProcessEnvironment::systemEnvironment();
    all.insert("LD_PRELOAD", QStringLiteral(TROMB_BINARY_DIR "/tests/libtromb_stand_in.so"));
    all.insert("TROMB_STAND_IN", standIn);
    all.insert("XDG_CACHE_HOME", at(cache));
    all.insert("XDG_DATA_HOME", at(cache + " data"));
    return all;
  }
  [[nodiscard]] QString run(const QStringList& arguments, const QString& standIn, const QString& cache) const {
    QProcess process;
    process.setProcessEnvironment(where(standIn, cache));
    process.start(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"), arguments);
    if (!process.waitForFinished(test::kPatience)) return "it hangs";
    return process.exitCode() == 0 ? QString::fromUtf8(process.readAllStandardOutput())
                                   : QString::fromUtf8(process.readAllStandardError());
  }

  /// What an export says of each deliverable in the end, by its name.
  [[nodiscard]] QMap<QString, QJsonObject> exported(const QString& project, const QString& standIn,
                                                    const QString& cache) const {
    QDir(at("out")).removeRecursively();
    QMap<QString, QJsonObject> files;
    for (const QString& line :
         run({"export", at(project), "--out", at("out"), "--progress", "json"}, standIn, cache).split('\n')) {
      const QJsonObject object = QJsonDocument::fromJson(line.toUtf8()).object();
      if (object["state"] == "done" && object.contains("path")) files[object["deliverable"].toString()] = object;
    }
    return files;
  }

private slots:
  void initTestCase() {
    test::writeClip(at("a.mp4").toStdString(), {320, 180}, FrameRate(), kFrames, test::texture, true);
    const auto make = [&](const char* project, const QStringList& deliverables, const char* footage = "a.mp4") {
      QStringList arguments{"make", at(project), "--footage", at(footage)};
      for (const QString& each : deliverables) arguments << "--deliverable" << each;
      return run(arguments, {}, "cache");
    };
    test::writeClip(at("long.mp4").toStdString(), {64, 64}, FrameRate(), kLong, test::texture, true);
    test::writeClip(at("short.mp4").toStdString(), {64, 64}, FrameRate(), kShort, test::texture, true);
    make("long.tromb", {"name=A;canvas=64x64;rate=25;crf=23;encoder=hardware"}, "long.mp4");
    make("short.tromb", {"name=A;canvas=64x64;rate=25;crf=23;encoder=hardware"}, "short.mp4");
    make("hard.tromb", {"name=A;canvas=180x320;rate=25;encoder=hardware", "name=B;canvas=320x180;rate=25"});
    make("soft.tromb", {"name=A;canvas=180x320;rate=25;crf=23"});
    make("alone.tromb", {"name=A;canvas=180x320;rate=25;crf=23;encoder=hardware"});
    for (const char* project : {"long.tromb", "short.tromb", "hard.tromb", "soft.tromb", "alone.tromb"})
      QVERIFY(QFile::exists(at(project)));
  }

  void whatIsUsed_data() {
    QTest::addColumn<QString>("project");
    QTest::addColumn<QString>("standIn");
    QTest::addColumn<QString>("encoder");
    QTest::addColumn<QString>("words"); // why it is not by hardware
    const auto row = [](const char* name, const char* project, const char* standIn, const char* encoder,
                        const char* words) { QTest::newRow(name) << project << standIn << encoder << words; };
    const auto when = [](const char* name, const char* how, int picture) {
      return QStringLiteral("%1:%2:%3").arg(name, how).arg(picture).toUtf8();
    };
    row("works", "hard.tromb", "h264_nvenc:works:1", "h264_nvenc", "");
    row("works alone", "alone.tromb", "h264_vaapi:works:1", "h264_vaapi", "");
    row("there is none", "hard.tromb", "::", "libx264", "h264_vaapi failed");
    row("fails when tried", "hard.tromb", when("h264_nvenc", "fails", kInTrial), "libx264", "failed");
    row("crashes when tried", "hard.tromb", when("h264_vaapi", "crashes", kInTrial), "libx264", "has crashed (SEGV)");
    row("hangs when tried", "hard.tromb", when("h264_vaapi", "hangs", kInTrial), "libx264", "does not answer");
    row("other pictures when tried", "hard.tromb", when("h264_vaapi", "spoils", kInTrial), "libx264",
        "its pictures are not what went in");
    row("fails in the middle", "hard.tromb", when("h264_nvenc", "fails", kInMiddle), "libx264", "failed");
    row("crashes in the middle", "hard.tromb", when("h264_nvenc", "crashes", kInMiddle), "libx264",
        "has crashed (SEGV)");
    row("hangs in the middle", "hard.tromb", when("h264_nvenc", "hangs", kInMiddle), "libx264", "does not answer");
    row("fails late", "long.tromb", when("h264_nvenc", "fails", kLate), "libx264",
        "failed: Generic error in an external library; what lies before 1:00 is by graphics hardware");
    row("crashes late", "long.tromb", when("h264_nvenc", "crashes", kLate), "libx264",
        "what lies before 1:00 is by graphics hardware");
    row("fails early", "long.tromb", when("h264_nvenc", "fails", kEarly), "libx264",
        "what lies before 0:10 is by graphics hardware");
    row("fails in the only segment", "short.tromb", when("h264_nvenc", "fails", kEarly), "libx264",
        "what lies before 0:10 is by graphics hardware");
    row("fails in the first group", "short.tromb", when("h264_nvenc", "fails", kInMiddle), "libx264", "failed");
  }
  void whatIsUsed() {
    QFETCH(const QString, project);
    QFETCH(const QString, standIn);
    QFETCH(const QString, encoder);
    QFETCH(const QString, words);
    const auto files = exported(project, standIn, QStringLiteral("cache ") + QTest::currentDataTag());
    const QJsonObject file = files["A"];
    QCOMPARE(file["encoder"].toString(), encoder);
    QVERIFY2(file["inSoftware"].toString().contains(words), qPrintable(file["inSoftware"].toString()));
    QCOMPARE(file["inSoftware"].toString().isEmpty(), words.isEmpty());
    QVERIFY2(file["proof"].toObject()["pass"].toBool(), QJsonDocument(file["proof"].toObject()).toJson());
    const auto made = probe(file["path"].toString().toStdString());
    QVERIFY(made);
    const QMap<QString, int> frames{{"long.tromb", kLong}, {"short.tromb", kShort}};
    QCOMPARE(made->video->clock.frameCount(), frames.value(project, kFrames));
    QCOMPARE(test::run("ffmpeg", {"-v", "warning", "-i", file["path"].toString(), "-f", "null", "-"}), QString());
    QCOMPARE(test::filesIn(at("out")).size(), project == "hard.tromb" ? 2 : 1);
  }

  // A job whose hardware has given up and that is killed while software goes on: next time, with no hardware at all, it
  // goes on behind both, and with hardware that works again, hardware makes what it had not.
  void goesOnAfterAKill_data() {
    QTest::addColumn<QString>("standIn"); // the next time
    QTest::addColumn<QString>("encoder");
    QTest::newRow("no hardware") << "::"
                                 << "libx264";
    QTest::newRow("hardware works") << "h264_nvenc:works:1"
                                    << "h264_nvenc";
  }
  void goesOnAfterAKill() {
    QFETCH(const QString, standIn);
    QFETCH(const QString, encoder);
    const QString cache = QStringLiteral("killed ") + QTest::currentDataTag();
    const QString out = at(cache + " out");
    const QString failing = QStringLiteral("h264_nvenc:fails:%1").arg(kEarly);
    (void)run({"queue", "add", at("long.tromb"), "--out", out}, failing, cache);
    QProcess process;
    process.setProcessEnvironment(where(failing, cache));
    process.start(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"), {"queue", "run"});
    // Hardware's segment is the first, and the rest of that is the second.
    const auto there = [&] {
      QDirIterator all(out, {"1.segment"}, QDir::Files | QDir::Hidden, QDirIterator::Subdirectories);
      return all.hasNext();
    };
    QElapsedTimer timer;
    for (timer.start(); !there() && process.state() != QProcess::NotRunning && timer.elapsed() < test::kPatience;)
      process.waitForFinished(1);
    QVERIFY2(there(), "it is over before it could be killed");
    process.kill();
    QVERIFY(process.waitForFinished(test::kPatience));
    (void)run({"queue", "run"}, standIn, cache);
    const QString list = run({"queue", "list", "--json"}, standIn, cache);
    const auto job = QJsonDocument::fromJson(list.toUtf8()).object()["jobs"].toArray().at(0).toObject();
    const QJsonObject file = job["deliverables"].toArray().at(0).toObject();
    QVERIFY2(file["state"] == "done", qPrintable(list));
    QCOMPARE(file["encoder"].toString(), encoder);
    const QString path = file["path"].toString();
    const auto made = probe(path.toStdString());
    QVERIFY(made);
    QCOMPARE(made->video->clock.frameCount(), kLong);
    QCOMPARE(test::run("ffmpeg", {"-v", "warning", "-i", path, "-f", "null", "-"}), QString());
  }

  // The same encoder at the same quality (23 is its usual one), once in this program and once in a process of its own,
  // with samples that are stored otherwise on the way: the same pictures.
  void nothingChangesOnTheWay() {
    const QString hard = exported("alone.tromb", "h264_vaapi:works:1", "cache way")["A"]["path"].toString();
    const QString pictures = picturesOf(hard);
    const QString soft = exported("soft.tromb", "::", "cache way")["A"]["path"].toString();
    QVERIFY(!pictures.isEmpty());
    QCOMPARE(pictures, picturesOf(soft));
  }

  // What was found out is kept: a driver that has crashed once is not tried again with each run.
  void trialsAreKept() {
    const QString crashing = QStringLiteral("h264_vaapi:crashes:%1").arg(kInTrial);
    const auto rows = [&](const QString& standIn) {
      QMap<QString, QJsonObject> all;
      const QByteArray text = run({"encoders", "--json"}, standIn, "cache kept").toUtf8();
      for (const auto each : QJsonDocument::fromJson(text)["encoders"].toArray())
        all[each.toObject()["encoder"].toString()] = each.toObject();
      return all;
    };
    QVERIFY2(rows(crashing)["h264_vaapi"]["reason"].toString().contains("crashed"), "it is found out");
    QVERIFY2(rows("h264_vaapi:works:1")["h264_vaapi"]["reason"].toString().contains("crashed"), "it is kept");
    // What said itself that it cannot is asked again: others may have used all of it.
    const QString failing = QStringLiteral("hevc_vaapi:fails:%1").arg(kInTrial);
    QVERIFY2(!rows(failing)["hevc_vaapi"]["available"].toBool(), "it says that it cannot");
    QVERIFY2(rows("h264_qsv:works:1")["h264_qsv"]["available"].toBool(), "and is not held to it");
    const QJsonObject working = rows("h264_vaapi:works:1")["libx264"];
    QCOMPARE(working["hardware"].toBool(), false);
    QCOMPARE(working["available"].toBool(), true);
  }

  // FFmpeg's real encoders of these names take what they are told. Numbers of profiles and levels: Rec. ITU-T H.264,
  // A.2 and A.3 (profile_idc, level_idc); Rec. ITU-T H.265, A.3 and A.4 (general_level_idc is 30 times the level).
  void realEncodersAreTold_data() {
    QTest::addColumn<QString>("encoder");
    QTest::addColumn<QString>("option");
    QTest::addColumn<bool>("quality");
    QTest::addColumn<int>("value");
    const auto row = [](const char* encoder, const char* option, bool quality, int value) {
      QTest::addRow("%s %s%s", encoder, option, quality ? " of quality" : "") << encoder << option << quality << value;
    };
    row("h264_vaapi", "profile", false, 100);
    row("h264_vaapi", "level", false, 41);
    row("hevc_vaapi", "profile", false, 1);
    row("hevc_vaapi", "level", false, 123);
    row("h264_nvenc", "level", false, 41);
    row("hevc_nvenc", "level", false, 123);
    row("h264_nvenc", "qp", true, 23);
    row("h264_qsv", "profile", false, 100);
    for (const char* encoder : {"h264_vaapi", "hevc_vaapi", "vp9_vaapi"}) {
      row(encoder, "rc_mode", false, 3); // FFmpeg's own numbers, as `ffmpeg -h encoder=` prints them
      row(encoder, "rc_mode", true, 1);
    }
    for (const char* encoder : {"h264_nvenc", "hevc_nvenc"}) {
      row(encoder, "rc", false, 1);
      row(encoder, "rc", true, 0);
    }
  }
  void realEncodersAreTold() {
    QFETCH(const QString, encoder);
    QFETCH(const QString, option);
    QFETCH(const bool, quality);
    QFETCH(const int, value);
    const AVCodec* real = avcodec_find_encoder_by_name(encoder.toUtf8());
    QVERIFY(real);
    PictureStream stream;
    stream.picture = {{1920, 1080}, FrameRate(), {}, Rational(1)};
    for (const PictureCodec& codec : pictureCodecs())
      for (const HardwareEncoder& each : codec.hardware)
        if (encoder.toStdString() == each.encoder) {
          stream.encoding.codec = codec.codec;
          stream.hardware = &each;
        }
    QVERIFY2(stream.hardware, "the table has it");
    stream.encoding.hardware = true;
    if (quality) stream.encoding.crf = 23;
    if (quality) stream.encoding.rateControl = RateControl::ConstantQuality;
    stream.encoding.level = stream.encoding.info().levels ? "4.1" : "";
    stream.encoding = resolved(stream.encoding, stream.picture);
    av::CodecPtr context(avcodec_alloc_context3(real));
    applyEncoding(*context, stream, PassLog());
    int64_t told = -1;
    QCOMPARE(av_opt_get_int(context->priv_data, option.toUtf8(), 0, &told), 0);
    QCOMPARE(told, value);
  }
};

QTEST_GUILESS_MAIN(TestHardware)
#include "tst_hardware.moc"
