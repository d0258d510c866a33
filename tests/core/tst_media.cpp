// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Measured.h"
#include "media/read/AudioReader.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "picture/PictureReader.h"
#include "render/LightCopy.h"
#include "support/TestMedia.h"
#include "time/Ticks.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>
#include <thread>

extern "C" {
#include <libavutil/frame.h>
}

using namespace tromb;
using test::ffmpeg;
using test::run;

class TestMedia : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] std::string path(const QString& name) const { return at(name).toStdString(); }
  void write(const QString& name, const QByteArray& bytes) {
    QFile file(at(name));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(bytes);
  }

private slots:
  void initTestCase() {
    const auto numbers = [](int n, int x, int) { return test::numberStripe(n, x, 192); };
    test::writeClip(path("numbers.mp4"), {192, 108}, FrameRate(), 120, numbers, true);
    test::writeClip(path("turned.mp4"), {192, 108}, FrameRate(Rational(30000, 1001)), 12, numbers, false,
                    Rational(16, 11), 90);
    ffmpeg(QStringLiteral("-f lavfi -i sine=d=2:r=44100 %1").arg(at("sound.wav")));
    ffmpeg(
        QStringLiteral("-f lavfi -i testsrc2=s=320x180:r=25:d=2 -c:v libx264 -preset ultrafast %1").arg(at("x.mkv")));
    ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=320x180:r=25:d=2 -c:v libx264 -preset ultrafast -top 1 -flags "
                          "+ildct+ilme -x264-params tff=1 %1")
               .arg(at("fields.mp4")));
    ffmpeg(QStringLiteral(
               "-f lavfi -i testsrc2=s=320x180:r=30:d=4 -vf select='not(eq(mod(n\\,7)\\,3)+eq(mod(n\\,11)\\,4))' "
               "-vsync vfr -c:v libx264 -preset ultrafast %1")
               .arg(at("variable.mp4")));
    ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=400x300 -frames:v 1 -pix_fmt rgba %1").arg(at("still.png")));
    ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=320x180:r=25:d=1 -c:v libx264 -preset ultrafast -pix_fmt yuv420p10le "
                          "-color_primaries bt2020 -color_trc smpte2084 -colorspace bt2020nc %1")
               .arg(at("hdr.mp4")));
  }

  void factsAreRight_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("facts"); // JSON that must be part of what probe says
    QTest::newRow("plain")
        << "numbers.mp4"
        << R"({"kind":"video","durationSeconds":4.8,"video":{"codec":"h264","width":192,"displayWidth":192,"frameRate":"25/1","variableFrameRate":false,"frameCount":120,"scan":"progressive","rotation":0,"bitDepth":8,"hdr":false,"colour":{"matrix":"bt709","range":"limited"}}})";
    // ISO/IEC 14496-12: the matrix turns, width and height stay; 192·16/11 = 279.3 becomes the upright height.
    QTest::newRow("turned")
        << "turned.mp4"
        << R"({"video":{"width":192,"height":108,"displayWidth":108,"displayHeight":279,"pixelAspect":"16/11","rotation":90,"frameRate":"30000/1001","frameCount":12}})";
    QTest::newRow("matroska")
        << "x.mkv"
        << R"({"container":"matroska","video":{"frameRate":"25/1","variableFrameRate":false,"frameCount":50}})";
    QTest::newRow("fields") << "fields.mp4"
                            << R"({"video":{"scan":"tff"}})";
    QTest::newRow("variable") << "variable.mp4"
                              << R"({"video":{"variableFrameRate":true}})";
    QTest::newRow("still")
        << "still.png"
        << R"({"kind":"still","durationSeconds":0.0,"video":{"displayWidth":400,"pixelFormat":"rgba"}})";
    QTest::newRow("sound") << "sound.wav"
                           << R"({"kind":"audio","audio":[{"channels":1,"sampleRate":44100}]})";
    QTest::newRow("hdr")
        << "hdr.mp4"
        << R"({"video":{"hdr":true,"bitDepth":10,"colour":{"primaries":"bt2020","transfer":"smpte2084"}}})";
  }
  void factsAreRight() {
    QFETCH(QString, file);
    QFETCH(QString, facts);
    const auto info = probe(path(file));
    QVERIFY2(info.has_value(), info ? "" : sentence(info.error()).c_str());
    const auto found = toJson(*info);
    auto merged = found;
    const auto wanted = nlohmann::ordered_json::parse(facts.toStdString());
    if (wanted.contains("audio")) {
      QVERIFY(found["audio"][0]["channels"] == wanted["audio"][0]["channels"]);
      QVERIFY(found["audio"][0]["sampleRate"] == wanted["audio"][0]["sampleRate"]);
      return;
    }
    merged.merge_patch(wanted);
    QVERIFY2(merged == found, (wanted.dump() + "\n" + found.dump()).c_str());
  }

  void badFilesAreRefused_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<ErrorCode>("code");
    write("empty.mp4", {});
    write("text.mp4", "This is a letter, and no film at all.\n");
    write("text.txt", "Plain words.\n");
    write("noise.mp4", QByteArray("\x12\x9a\x7f\x00\x01", 5).repeated(4000));
    QFile whole(at("numbers.mp4"));
    QVERIFY(whole.open(QIODevice::ReadOnly));
    const QByteArray bytes = whole.readAll();
    write("cut.mp4", bytes.left(bytes.size() * 6 / 10)); // its index names more than is there
    QFile old(at("late.mp4"));
    (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", at("numbers.mp4"), "-c", "copy", at("late.mp4")});
    QVERIFY(old.open(QIODevice::ReadOnly));
    const QByteArray late = old.readAll();
    write("headless.mp4", late.left(late.size() / 2)); // index at the end: lost
    write("huge.png", QByteArray::fromHex("89504e470d0a1a0a0000000d49484452000f4240000f42400806000000a1b2c3d4"));
    // The count of key frames (ISO/IEC 14496-12, 8.6.2) as damage leaves it: a list of 3 GB.
    const auto keys = bytes.indexOf("stss");
    QVERIFY(keys > 0);
    write("greedy.mp4", QByteArray(bytes).replace(keys + 8, 4, QByteArray::fromHex("30000000")));
    QTest::newRow("not there") << "nowhere.mp4" << ErrorCode::Missing;
    QTest::newRow("folder") << "." << ErrorCode::Unreadable;
    QTest::newRow("empty") << "empty.mp4" << ErrorCode::Unreadable;
    QTest::newRow("text as mp4") << "text.mp4" << ErrorCode::NotMedia;
    QTest::newRow("text") << "text.txt" << ErrorCode::NotMedia;
    QTest::newRow("noise") << "noise.mp4" << ErrorCode::NotMedia;
    QTest::newRow("cut off") << "cut.mp4" << ErrorCode::Unreadable;
    QTest::newRow("index lost") << "headless.mp4" << ErrorCode::Unreadable;
    QTest::newRow("asks for gigabytes") << "greedy.mp4" << ErrorCode::Unreadable;
    QTest::newRow("absurd size") << "huge.png" << ErrorCode::Unsupported;
  }
  void badFilesAreRefused() {
    QFETCH(QString, file);
    QFETCH(ErrorCode, code);
    const auto info = probe(path(file));
    QVERIFY(!info);
    if (file == QLatin1String("huge.png"))
      QVERIFY(info.error().code == code || info.error().code == ErrorCode::Unreadable);
    else
      QCOMPARE(info.error().code, code);
    QVERIFY(sentence(info.error()).find(file.toStdString()) != std::string::npos);
  }

  // A cluster's time (RFC 9559, 11) that nothing can be reckoned with: refused, or its pictures are placed otherwise.
  void clocksNearTheEndOfTheirNumbers_data() {
    QTest::addColumn<quint64>("time");
    for (const quint64 time :
         {0x7fffffffffffffffULL, 0x7ffffffffffffc18ULL, 0x8000000000000000ULL, 0xffffffffffffffffULL,
          0x4000000000000000ULL, 0x0020000000000000ULL, 9'000'000'000'000ULL})
      QTest::addRow("%llx", static_cast<unsigned long long>(time)) << quint64(time);
  }
  void clocksNearTheEndOfTheirNumbers() {
    QFETCH(const quint64, time);
    if (!QFile::exists(at("live.mkv")))
      ffmpeg(QStringLiteral("-i %1 -c copy -live 1 -cluster_time_limit 900 %2").arg(at("x.mkv"), at("live.mkv")));
    QFile live(at("live.mkv"));
    QVERIFY(live.open(QIODevice::ReadOnly));
    QByteArray bytes = live.readAll();
    const QByteArray cluster = QByteArray::fromHex("1f43b675");
    const auto at2 = bytes.indexOf(cluster, bytes.indexOf(cluster) + 4); // the second, so that the first is sound
    const auto stamp = bytes.indexOf('\xe7', at2);
    QVERIFY(at2 > 0);
    QVERIFY(stamp > 0);
    QVERIFY(stamp < at2 + 16);
    QByteArray patched = QByteArray::fromHex("e788");
    for (int shift = 56; shift >= 0; shift -= 8) patched.append(char(time >> shift));
    bytes.replace(stamp, 2 + (bytes[stamp + 1] & 0x0f), patched);
    write("clock.mkv", bytes);
    const auto info = probe(path("clock.mkv"));
    if (!info) {
      QCOMPARE(info.error().code, ErrorCode::Unreadable);
      return;
    }
    QVERIFY(info->duration <= kLongest);
    auto reader = VideoReader::open(*info);
    QVERIFY(reader.has_value());
    QVERIFY(reader->frameAt(info->video->clock.frameCount() - 1).has_value());
  }

  // SMPTE RDD 36, 5.1.1: primaries, transfer and matrix stand as bytes in every frame's header, 14 behind its size.
  // What they mean is in ITU-T H.273, where 2 is "unspecified" and 205 is nothing.
  void coloursThatAreNone_data() {
    QTest::addColumn<QByteArray>("said");
    QTest::addColumn<QList<int>>("understood");
    QTest::newRow("listed") << QByteArray("\x09\x10\x09") << QList<int>{9, 16, 9};
    QTest::newRow("primaries") << QByteArray("\xcd\x10\x09") << QList<int>{2, 16, 9};
    QTest::newRow("transfer") << QByteArray("\x09\xff\x09") << QList<int>{9, 2, 9};
    QTest::newRow("matrix") << QByteArray("\x09\x10\x50") << QList<int>{9, 16, 2};
  }
  void coloursThatAreNone() {
    QFETCH(const QByteArray, said);
    QFETCH(const QList<int>, understood);
    if (!QFile::exists(at("said.mov")))
      ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=64x48:r=25:d=0.2 -c:v prores_ks %1").arg(at("said.mov")));
    QFile file(at("said.mov"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    QByteArray bytes = file.readAll();
    int frames = 0;
    for (auto begin = bytes.indexOf("icpf"); begin >= 0; begin = bytes.indexOf("icpf", begin + 4), ++frames)
      bytes.replace(begin + 4 + 14, said.size(), said);
    QCOMPARE(frames, 5);
    write("colours.mov", bytes);
    const auto info = probe(path("colours.mov"));
    QVERIFY(info.has_value());
    const ColourTags tags = info->video->colour;
    QCOMPARE((QList<int>{tags.primaries, tags.transfer, tags.matrix}), understood);
    auto reader = VideoReader::open(*info);
    QVERIFY(reader.has_value());
    const auto frame = reader->frameAt(1);
    QVERIFY(frame.has_value());
    QCOMPARE((QList<int>{(*frame)->color_primaries, (*frame)->color_trc, (*frame)->colorspace}), understood);
  }

  // Who drags over long groups asks for pictures faster than they can be had: what is not wanted any more ends early,
  // and the reader goes on from there as if it had not been asked.
  void aPictureThatIsNotNeededAnyMoreIsGivenUp() {
    test::writeClip(path("group.mp4"), {320, 80}, FrameRate(), 120,
                    [](int n, int x, int) { return test::numberStripe(n, x, 320); });
    auto reader = VideoReader::open(*probe(path("group.mp4")));
    QVERIFY(reader.has_value());
    std::stop_source gone;
    gone.request_stop();
    QCOMPARE(reader->shown(119, gone.get_token()).error().code, ErrorCode::Cancelled);
    QCOMPARE(reader->shown(0, gone.get_token())->number, 0); // costs nothing
    for (const int n : {60, 3, 119}) {
      QCOMPARE(reader->frameAt(n, gone.get_token()).error().code, ErrorCode::Cancelled);
      QCOMPARE(test::readNumber(*reader->frameAt(n)), n);
    }
  }

  void everyFrameIsFoundByItsNumber() {
    auto reader = VideoReader::open(*probe(path("numbers.mp4")));
    QVERIFY(reader.has_value());
    for (const int n : {0, 1, 2, 77, 76, 119, 3, 50, 49, 99, 0, 118})
      QCOMPARE(test::readNumber(*reader->frameAt(n)), n);
    QCOMPARE(test::readNumber(*reader->frameAt(5000)), 119); // beyond the end: the last
    QVERIFY(reader->goTo(40).has_value());
    for (int n = 40; n < 60; ++n) QCOMPARE(reader->read()->number, n);
    QVERIFY(reader->goTo(119).has_value());
    QVERIFY(reader->read()->frame);
    QVERIFY(!reader->read()->frame);
  }
  // FFmpeg's own bwdif, run by its tool over the whole file, is the outside measure; ours must give the same picture
  // however it is reached.
  void fieldsBecomeWholePictures_data() {
    QTest::addColumn<Scan>("scan");
    QTest::addColumn<QString>("word");
    QTest::newRow("top field first") << Scan::TopFieldFirst << "tff";
    QTest::newRow("bottom field first") << Scan::BottomFieldFirst << "bff";
  }
  void fieldsBecomeWholePictures() {
    QFETCH(Scan, scan);
    QFETCH(QString, word);
    constexpr int kWidth = 192;
    constexpr int kHeight = 112;
    constexpr int kCount = 40;
    ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=%1x%2:r=50:d=1.6 -vf tinterlace=interleave_%3 -c:v libx264 -g 12 "
                          "-bf 2 -crf 12 %4")
               .arg(kWidth)
               .arg(kHeight)
               .arg(word == QLatin1String("tff") ? "top" : "bottom", at("woven.mp4")));
    ffmpeg(QStringLiteral("-i %1 -vf bwdif=mode=send_frame:parity=%2:deint=all -pix_fmt yuv420p -f rawvideo %3")
               .arg(at("woven.mp4"), word, at("whole.yuv")));
    QFile file(at("whole.yuv"));
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QByteArray whole = file.readAll();
    constexpr int kBytes = kWidth * kHeight * 3 / 2;
    QCOMPARE(whole.size(), kBytes * kCount);
    const auto same = [&](const Frame& frame, int n) {
      for (int y = 0; y < kHeight; ++y)
        for (int x = 0; x < kWidth; ++x)
          if (test::lumaAt(frame, x, y) != uchar(whole[n * kBytes + y * kWidth + x])) return false;
      return true;
    };
    const auto info = probe(path("woven.mp4"));
    QCOMPARE(info->video->scan, Scan::Progressive); // the file does not say so
    QVERIFY(!same(*VideoReader::open(*info)->frameAt(7), 7));
    Reading said = readAsStated(*info);
    said.scan = scan;
    said.scanCertain = true;
    auto reader = PictureReader::open(said);
    for (const int n : {0, 1, 25, 24, 11, 12, 13, 39, 38, 0, 26, 39, 5})
      QVERIFY2(same(*reader->frameAt(n), n), qPrintable(QString::number(n)));
    QVERIFY(same(*reader->frameAt(5000), 39));
    QVERIFY(reader->goTo(3).has_value());
    for (int n = 3; n < kCount; ++n) {
      const auto got = reader->read();
      QVERIFY(got);
      QVERIFY(got->frame);
      QVERIFY(got->number == n);
      QVERIFY2(same(got->frame, n), qPrintable(QString::number(n)));
    }
    QVERIFY(!reader->read()->frame);
  }

  void variableRatesKeepTheirTimes() {
    const auto info = probe(path("variable.mp4"));
    auto reader = VideoReader::open(*info);
    // What ffprobe reads of the same packets is the outside measure.
    QStringList times = run(QStringLiteral("ffprobe"), {"-v", "error", "-select_streams", "v", "-show_entries",
                                                        "frame=pts_time", "-of", "csv=p=0", at("variable.mp4")})
                            .split('\n', Qt::SkipEmptyParts);
    QCOMPARE(info->video->clock.frameCount(), times.size());
    for (int n = 0; n < times.size(); ++n) {
      QVERIFY(std::abs(info->video->clock.timeOf(n).toDouble() - times[n].remove(',').toDouble()) < 1e-4);
      QCOMPARE(reader->read()->number, n);
    }
  }

  void soundBeginsAtTheSampleAsked() {
    auto reader = AudioReader::open(readAsStated(*probe(path("numbers.mp4"))));
    QVERIFY(reader.has_value());
    for (const int second : {0, 3, 1}) {
      // The click's first sample is the full second; AAC smears less than a quarter of a millisecond over it.
      const int64_t from = int64_t(second) * kSoundRate - (second > 0 ? 4800 : 0);
      QVERIFY(reader->goTo(from).has_value());
      std::vector<float> samples(9600 * 2);
      QVERIFY(reader->read(samples.data(), 9600).has_value());
      int64_t first = -1;
      for (int64_t i = 0; i < 9600 && first < 0; ++i)
        if (std::abs(samples[size_t(i * 2)]) > 0.15F) first = from + i;
      QVERIFY2(std::abs(first - int64_t(second) * kSoundRate) < 24, qPrintable(QString::number(first)));
    }
  }
  // EBU Tech 3341 case 1: a 1 kHz stereo tone at −23 dBFS reads −23.0 ±0.1 LUFS.
  void loudnessOfTheReferenceTone() {
    ffmpeg(
        QStringLiteral(
            "-f lavfi -i aevalsrc=0.0707946*sin(2*PI*1000*t)|0.0707946*sin(2*PI*1000*t):s=48000:d=20 -c:a pcm_s24le %1")
            .arg(at("tone.wav")));
    const auto loudness = measureSound(readAsStated(*probe(path("tone.wav"))));
    QVERIFY(loudness.has_value());
    QVERIFY2(std::abs(loudness->loudness.integratedLufs + 23.0) < 0.1,
             qPrintable(QString::number(loudness->loudness.integratedLufs)));
    QVERIFY(std::abs(loudness->loudness.truePeakDbtp + 23.0) < 0.4);
  }

  // A lighter copy shows frame n where its source has frame n; it keeps turn and pixel aspect; old ones make room.
  void lighterCopiesKeepFrameNumbers() {
    test::writeClip(
        path("heavy.mp4"), {1440, 80}, FrameRate(Rational(30000, 1001)), 90,
        [](int n, int x, int) { return test::numberStripe(n, x, 1440); }, false, Rational(4, 3), 90);
    const auto media = probe(path("heavy.mp4"));
    LightCopies copies(path("lighter"), 1'000'000'000);
    QVERIFY(!copies.find("1-a"));
    QVERIFY(copies.make(readAsStated(*media), "1-a").has_value());
    const auto light = copies.find("1-a");
    QVERIFY(light);
    QVERIFY(light->video->stored == (Size{720, 40}));
    QVERIFY(light->video->clock.frameCount() == 90);
    QVERIFY(light->video->rotation == 90);
    QVERIFY(light->video->pixelAspect == Rational(4, 3));
    QVERIFY(light->audio.empty());
    auto reader = VideoReader::open(*light);
    for (const int n : {0, 89, 13, 55}) QCOMPARE(test::readNumber(*reader->frameAt(n)), n);
    std::stop_source stop;
    const Status stopped =
        copies.make(readAsStated(*media), "2-b", stop.get_token(), [&](double) { stop.request_stop(); });
    QVERIFY(stopped.error().code == ErrorCode::Cancelled);
    QVERIFY(!copies.has("2-b"));
    QCOMPARE(QDir(at("lighter")).entryList(QDir::Files | QDir::Hidden).size(), 1);
    copies.setLimit(copies.totalBytes() + 10);
    QTest::qWait(20);
    QVERIFY(copies.make(readAsStated(*media), "3-c").has_value());
    QVERIFY(copies.has("3-c"));
    QVERIFY(!copies.has("1-a"));
    copies.empty();
    QVERIFY(copies.totalBytes() == 0);
    QVERIFY(!copies.has("3-c"));
  }

  // Two windows that make the same copy at once: one whole file. A link that lies in its place is not followed.
  void aLighterCopyIsMadeOnce() {
    const auto media = probe(path("numbers.mp4"));
    LightCopies copies(path("shared"), 1'000'000'000);
    Status done[2];
    {
      const std::jthread one([&] { done[0] = copies.make(readAsStated(*media), "1-x"); });
      const std::jthread two([&] { done[1] = copies.make(readAsStated(*media), "1-x"); });
    }
    for (const Status& each : done) QVERIFY2(each.has_value(), each ? "" : sentence(each.error()).c_str());
    const auto light = copies.find("1-x");
    QVERIFY(light.has_value());
    QCOMPARE(light->video->clock.frameCount(), 120);
    const QStringList files = QDir(at("shared")).entryList(QDir::Files | QDir::Hidden);
    QCOMPARE(files.size(), 1);
    write("precious", "precious");
    copies.empty();
    QVERIFY(QFile::link(at("precious"), at("shared/." + files[0] + ".tromb-part")));
    QVERIFY(copies.make(readAsStated(*media), "1-x").has_value());
    QCOMPARE(QFile(at("precious")).size(), 8);
  }

  // FFmpeg's cropdetect is the outside measure; ours then leaves two pixels more beside each bar.
  void barsAgreeWithFFmpeg_data() {
    QTest::addColumn<Bars>("bars");
    QTest::newRow("none") << Bars{};
    QTest::newRow("above and below") << Bars{0, 34, 0, 36};
    QTest::newRow("left and right") << Bars{40, 0, 42, 0};
    QTest::newRow("all round") << Bars{16, 10, 18, 12};
  }
  void barsAgreeWithFFmpeg() {
    QFETCH(Bars, bars);
    const Size size{320, 180};
    test::writeClip(path("bars.mp4"), size, FrameRate(), 30, [&](int n, int x, int y) {
      const bool inside =
          x >= bars.left && x < size.width - bars.right && y >= bars.top && y < size.height - bars.bottom;
      return inside ? test::texture(n, x, y) : test::Yuv{};
    });
    const auto found = measurePictures(*probe(path("bars.mp4")));
    QVERIFY(found.has_value());
    const auto margin = [](int side) { return side > 0 ? side + 2 : 0; };
    QCOMPARE(found->bars, (Bars{margin(bars.left), margin(bars.top), margin(bars.right), margin(bars.bottom)}));
    const QString words =
        run(QStringLiteral("ffmpeg"), {"-i", at("bars.mp4"), "-vf", "cropdetect=round=2:skip=0", "-f", "null", "-"});
    const QString crop = QStringLiteral("crop=%1:%2:%3:%4")
                             .arg(320 - bars.left - bars.right)
                             .arg(180 - bars.top - bars.bottom)
                             .arg(bars.left)
                             .arg(bars.top);
    QVERIFY2(words.contains(crop), qPrintable(crop));
  }
  void darkScenesAreNotBars() {
    test::writeClip(path("dark.mp4"), {320, 180}, FrameRate(), 30, [](int, int, int) { return test::Yuv{}; });
    QCOMPARE(measurePictures(*probe(path("dark.mp4")))->bars, Bars{});
  }
};

QTEST_GUILESS_MAIN(TestMedia)
#include "tst_media.moc"
