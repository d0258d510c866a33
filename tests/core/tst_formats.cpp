// SPDX-License-Identifier: GPL-3.0-or-later
// Every file that can be made: each legal combination is exported and proofed, and looked at from outside.
#include "encoding/Encoding.h"
#include "media/read/IndexPlace.h"
#include "support/SecondDecoder.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace tromb;

namespace {

/// What other programs call it: FFmpeg's name of the codec, MediaInfo's of the codec.
struct Known {
  const char* word;
  const char* ffmpeg;
  const char* mediainfo;
};
constexpr Known kPictures[] = {{"h264", "h264", "AVC"}, {"hevc", "hevc", "HEVC"}, {"vp9", "vp9", "VP9"},
                               {"av1", "av1", "AV1"},   {"ffv1", "ffv1", "FFV1"}, {"vc3", "dnxhd", "VC-3"}};
constexpr Known kSounds[] = {{"aac", "aac", "AAC"},    {"opus", "opus", "Opus"},      {"mp3", "mp3", "MPEG Audio"},
                             {"flac", "flac", "FLAC"}, {"pcm16", "pcm_s16le", "PCM"}, {"pcm24", "pcm_s24le", "PCM"}};

const Known& knownOf(const Known* list, std::string_view word) {
  while (word != list->word) ++list;
  return *list;
}

} // namespace

class TestFormats : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  Project m_project;
  [[nodiscard]] std::string path(const char* name) const { return m_folder.filePath(name).toStdString(); }

  static constexpr Size kCanvas{256, 144}; // VC-3 has none smaller

  [[nodiscard]] Deliverable deliverable(const PictureCodec& codec, Container container, const Samples& samples) const {
    Deliverable d = m_project.deliverables.front();
    d.encoding = {};
    d.encoding.codec = codec.codec;
    d.encoding.container = container;
    if (!codec.speeds.empty()) d.encoding.speed = codec.speeds.front();
    d.encoding.bitRate = codec.takes(RateControl::Settled) ? 0 : 400'000;
    d.format.depth = samples.depth;
    d.format.chroma = samples.chroma;
    return d;
  }

  static void filmsInContainers() {
    QTest::addColumn<int>("codec");
    QTest::addColumn<int>("container");
    for (const PictureCodec& codec : pictureCodecs())
      for (const Container container : codec.loop ? std::vector<Container>() : codec.containers)
        QTest::addRow("%s in %s", codec.word.data(), infoOf(container).word.data())
            << int(codec.codec) << int(container);
  }

private slots:
  void initTestCase() {
    test::writeClip(path("texture.mp4"), {480, 270}, FrameRate(), 12, test::texture, true);
    m_project = test::project({path("texture.mp4")}, {{"One", kCanvas}});
  }

  void everyLegalCombination_data() { filmsInContainers(); }
  // The proof holds each file against the table; FFmpeg and MediaInfo against what is written above. Without TROMB_LONG
  // every two settings meet in turns: the sound has nothing to do with what the picture is made of.
  void everyLegalCombination() {
    QFETCH(int, codec);
    QFETCH(int, container);
    const PictureCodec& info = infoOf(Codec(codec));
    const ContainerInfo& box = infoOf(Container(container));
    Project all = m_project;
    all.deliverables.clear();
    std::vector<const SoundCodecInfo*> sounds;
    for (const SoundCodecInfo& each : soundCodecs())
      if (std::find(each.containers.begin(), each.containers.end(), box.container) != each.containers.end())
        sounds.push_back(&each);
    size_t turn = 0;
    for (const Samples& samples : info.samples)
      for (const RateControl control : info.rateControls) {
        ++turn;
        for (size_t i = 0; i < sounds.size(); ++i) {
          const SoundCodecInfo& sound = *sounds[i];
          if (!test::kSanitized && !test::kLong && control != info.rateControls.front() && turn % sounds.size() != i)
            continue;
          // Where every step costs several times as much, each codec of sound once is enough.
          if (test::kSanitized && (samples != info.samples.front() || control != info.rateControls.front()) &&
              sound.codec != SoundCodec::Flac && sound.codec != SoundCodec::Opus)
            continue;
          Deliverable d = deliverable(info, box.container, samples);
          d.encoding.rateControl = control;
          d.encoding.sound.codec = sound.codec;
          d.encoding.sound.sampleRate =
              all.deliverables.size() % 2 == 0 ? sound.sampleRates.front() : sound.sampleRates.back();
          d.id = "d" + std::to_string(all.deliverables.size());
          d.name = std::to_string(samples.depth) + chromaWord(samples.chroma) + " " + rateControlWord(control) + " " +
                   std::string(sound.word);
          all.deliverables.push_back(d);
        }
      }
    QVERIFY(!all.deliverables.empty());
    const auto files = test::exported(all, path((std::string(info.word) + std::string(box.word)).c_str()));
    QCOMPARE(test::faultsOf(files), QString());
    for (size_t i = 0; i < files->size(); ++i) {
      const ExportedFile& file = (*files)[i];
      const Deliverable& d = all.deliverables[i];
      const QString name = QString::fromStdString(file.path);
      QVERIFY2(name.endsWith(QLatin1String(box.word.data())), qPrintable(name));
      const Known& picture = knownOf(kPictures, info.word);
      const Known& sound = knownOf(kSounds, infoOf(*d.encoding.sound.codec).word);
      const QString said =
          test::run(QStringLiteral("ffprobe"), {"-v", "error", "-show_entries", "stream=codec_name,pix_fmt,sample_rate",
                                                "-of", "default=nk=1:nw=1", name});
      const QStringList lines = said.split('\n', Qt::SkipEmptyParts);
      QCOMPARE(lines.value(0), QString::fromLatin1(picture.ffmpeg));
      QCOMPARE(lines.value(1),
               QStringLiteral("yuv%1p%2")
                   .arg(QLatin1String(chromaWord(d.format.chroma)), QLatin1String(d.format.depth > 8 ? "10le" : "")));
      QCOMPARE(lines.value(2), QString::fromLatin1(sound.ffmpeg));
      QCOMPARE(lines.value(3).toInt(), d.encoding.sound.sampleRate);
      // Every picture and sample is read without a word; but Matroska has no place for the layout of PCM's channels.
      const QString words = test::run(
          QStringLiteral("sh"),
          {"-c", "ffmpeg -v warning -i \"$0\" -f null - 2>&1 | grep -v '^Guessed Channel Layout'; true", name});
      QVERIFY2(words.isEmpty(), qPrintable(name + ": " + words));
    }
    // MediaInfo on the last one.
    const Deliverable& last = all.deliverables.back();
    const auto tracks = QJsonDocument::fromJson(test::run(QStringLiteral("mediainfo"),
                                                          {"--Output=JSON", QString::fromStdString(files->back().path)})
                                                    .toUtf8())
                            .object()["media"]
                            .toObject()["track"]
                            .toArray();
    QCOMPARE(tracks.size(), 3);
    const QJsonObject video = tracks[1].toObject();
    QCOMPARE(video["Format"].toString(), QString::fromLatin1(knownOf(kPictures, info.word).mediainfo));
    QCOMPARE(video["Width"].toString(), QString::number(kCanvas.width));
    QCOMPARE(video["Height"].toString(), QString::number(kCanvas.height));
    if (video.contains("BitDepth")) QCOMPARE(video["BitDepth"].toString().toInt(), last.format.depth);
    if (video.contains("FrameCount")) QCOMPARE(video["FrameCount"].toString(), QStringLiteral("12"));
    QCOMPARE(tracks[2].toObject()["Format"].toString(),
             QString::fromLatin1(knownOf(kSounds, infoOf(*last.encoding.sound.codec).word).mediainfo));
  }

  // A loop is shown for ever, in time, and as it was composed: the proof says so, and from outside FFmpeg and libwebp's
  // own tool.
  void loopsRepeat_data() {
    QTest::addColumn<int>("codec");
    QTest::addColumn<QString>("rate");
    for (const char* rate : {"25", "30000/1001", "50", "12"}) {
      QTest::addRow("GIF at %s", rate) << int(Codec::Gif) << rate;
      QTest::addRow("WebP at %s", rate) << int(Codec::Webp) << rate;
    }
  }
  void loopsRepeat() {
    QFETCH(int, codec);
    QFETCH(QString, rate);
    const PictureCodec& info = infoOf(Codec(codec));
    Project one = m_project;
    Deliverable d = deliverable(info, info.containers.front(), {8, Chroma::C444});
    d.rate = *FrameRate::parse(rate.toStdString());
    one.deliverables = {d};
    const auto files = test::exported(one, path("loop"));
    QCOMPARE(test::faultsOf(files), QString());
    const QString file = QString::fromStdString(files->front().path);
    const double seconds = 12 / 25.0;
    const auto count = int(std::lround(seconds * d.rate.toDouble()));
    if (info.codec == Codec::Webp) {
      const QString said = test::run(QStringLiteral("webpmux"), {"-info", file});
      QVERIFY2(said.contains("Loop Count : 0"), qPrintable(said));
      const QStringList lines = said.split('\n').filter(QRegularExpression(QStringLiteral("^ *[0-9]+:")));
      double shown = 0; // the seventh column is the duration in ms
      for (const QString& line : lines) shown += line.simplified().section(' ', 6, 6).toDouble() / 1000;
      QVERIFY2(std::abs(shown - count / d.rate.toDouble()) < 0.0021, qPrintable(said));
      return;
    }
    QFile bytes(file);
    QVERIFY(bytes.open(QIODevice::ReadOnly));
    QVERIFY(bytes.readAll().contains(QByteArray("NETSCAPE2.0\3\1\0\0", 15)));
    const QString said =
        test::run(QStringLiteral("ffprobe"), {"-v", "error", "-count_packets", "-show_entries",
                                              "stream=nb_read_packets,duration", "-of", "default=nk=1:nw=1", file});
    QVERIFY2(std::abs(said.section('\n', 0, 0).toDouble() - count / d.rate.toDouble()) < 0.011, qPrintable(said));
    QCOMPARE(said.section('\n', 1, 1).toInt(), count);
  }

  // Pixels that are not square: the file says so, and a player that goes by it shows the picture in its true shape.
  void pixelsNeedNotBeSquare_data() { filmsInContainers(); }
  void pixelsNeedNotBeSquare() {
    QFETCH(int, codec);
    QFETCH(int, container);
    const PictureCodec& info = infoOf(Codec(codec));
    Project one = m_project;
    Deliverable d = deliverable(info, Container(container), info.samples.front());
    d.canvas = {288, 216};
    d.pixelAspect = Rational(4, 3); // as 1440×1080 is delivered
    d.encoding.bitRate = info.takes(RateControl::Settled) ? 0 : 4'000'000;
    one.deliverables = {d};
    const auto files = test::exported(one, path("squeezed"));
    QCOMPARE(test::faultsOf(files), QString());
    const QString file = QString::fromStdString(files->front().path);
    QCOMPARE(test::run(QStringLiteral("ffprobe"),
                       {"-v", "error", "-select_streams", "v", "-show_entries",
                        "stream=width,height,sample_aspect_ratio,display_aspect_ratio", "-of", "csv=p=0", file})
                 .trimmed(),
             QStringLiteral("288,216,4:3,16:9"));
    // FFmpeg's own scaler, from the same footage.
    const QString said =
        test::run(QStringLiteral("ffmpeg"),
                  {"-i", file, "-i", m_folder.filePath("texture.mp4"), "-lavfi",
                   "[0]format=yuv420p,setsar=1[a];[1]scale=288:216:flags=lanczos,setsar=1,format=yuv420p"
                   "[b];[a][b]psnr",
                   "-f", "null", "-"});
    const double psnr = said.mid(said.lastIndexOf("average:") + 8).section(' ', 0, 0).toDouble();
    QVERIFY2(psnr > 30, qPrintable(QString::number(psnr)));
  }

  // On a minute of footage two passes are within 3 % of the average that was asked for.
  void twoPassesMeetTheirAverage_data() {
    QTest::addColumn<int>("codec");
    for (const PictureCodec& codec : pictureCodecs())
      if (codec.twoPasses) QTest::addRow("%s", codec.word.data()) << int(codec.codec);
  }
  void twoPassesMeetTheirAverage() {
    QFETCH(int, codec);
    const int seconds = test::kSanitized ? 2 : 60; // too few to meet an average, enough to run
    const QString source = m_folder.filePath("minute.mp4");
    if (!QFile::exists(source))
      test::ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=160x90:r=12:d=%1,noise=alls=12:allf=t -c:v libx264 -preset "
                                  "ultrafast -crf 20 %2")
                       .arg(seconds)
                       .arg(source));
    Project one = test::project({source.toStdString()}, {{"One", kCanvas}});
    Deliverable d = deliverable(infoOf(Codec(codec)), infoOf(Codec(codec)).containers.front(), {8, Chroma::C420});
    d.encoding.rateControl = RateControl::Variable;
    d.encoding.passes = 2;
    d.encoding.bitRate = 200'000;
    d.canvas = {160, 90};
    d.rate = FrameRate(Rational(12));
    one.deliverables = {d};
    const auto files = test::exported(one, path("two"));
    QCOMPARE(test::faultsOf(files), QString());
    qint64 bytes = 0;
    for (const QString& size :
         test::run(QStringLiteral("ffprobe"), {"-v", "error", "-select_streams", "v", "-show_entries", "packet=size",
                                               "-of", "csv=p=0", QString::fromStdString(files->front().path)})
             .split('\n'))
      bytes += size.trimmed().remove(',').toLongLong();
    const double rate = double(bytes) * 8 / seconds;
    if (test::kSanitized) return;
    QVERIFY2(std::abs(rate / 200'000 - 1) <= 0.03, qPrintable(QString::number(rate)));
  }

  // A constant rate is constant where nothing happens, too: packets are padded, and the decoder's buffer holds (Rec.
  // ITU-T H.264, annex C), reckoned here from ffprobe's packets.
  void aConstantRateIsPadded_data() {
    QTest::addColumn<int>("codec");
    for (const PictureCodec& codec : pictureCodecs())
      if (codec.takes(RateControl::Constant)) QTest::addRow("%s", codec.word.data()) << int(codec.codec);
  }
  void aConstantRateIsPadded() {
    QFETCH(int, codec);
    const QString source = m_folder.filePath("still.mp4");
    test::ffmpeg("-f lavfi -i color=gray:s=320x180:r=25:d=8 -c:v libx264 -preset ultrafast " + source);
    Project one = test::project({source.toStdString()}, {{"One", kCanvas}});
    const PictureCodec& info = infoOf(Codec(codec));
    Deliverable d = deliverable(info, info.containers.front(), {8, Chroma::C420});
    d.encoding.rateControl = RateControl::Constant;
    d.encoding.bitRate = 500'000;
    one.deliverables = {d};
    const auto files = test::exported(one, path("constant"));
    QCOMPARE(test::faultsOf(files), QString());
    double full = 0.9 * 500'000;
    double bits = 0;
    for (const QString& size :
         test::run(QStringLiteral("ffprobe"), {"-v", "error", "-select_streams", "v", "-show_entries", "packet=size",
                                               "-of", "csv=p=0", QString::fromStdString(files->front().path)})
             .split('\n', Qt::SkipEmptyParts)) {
      const double packet = 8 * size.trimmed().remove(',').toDouble();
      bits += packet;
      full -= packet;
      QVERIFY2(full >= 0, qPrintable(QString::number(full)));
      full = std::min(500'000.0, full + 500'000.0 / 25);
    }
    QVERIFY2(std::abs(bits / 8 / 500'000 - 1) < 0.03, qPrintable(QString::number(bits / 8)));
  }

  // What is chosen is what the file says of itself, also where less would do: the proof holds it against the choice,
  // and MediaInfo reads it here.
  void whatIsChosenIsHeld_data() {
    QTest::addColumn<int>("codec");
    QTest::addColumn<QString>("choice");  // profile level tier
    QTest::addColumn<QString>("profile"); // as MediaInfo says it
    QTest::addColumn<QString>("level");
    QTest::newRow("Baseline") << int(Codec::H264) << "baseline 3 main"
                              << "Constrained Baseline"
                              << "3";
    QTest::newRow("Main") << int(Codec::H264) << "main 4.1 main"
                          << "Main"
                          << "4.1";
    QTest::newRow("High") << int(Codec::H264) << "high 5.1 main"
                          << "High"
                          << "5.1";
    QTest::newRow("HEVC") << int(Codec::Hevc) << "main 4.1 main"
                          << "Main"
                          << "4.1";
    QTest::newRow("HEVC, high tier") << int(Codec::Hevc) << "main 5 high"
                                     << "Main"
                                     << "5";
    QTest::newRow("AV1") << int(Codec::Av1) << "main 5.1 main"
                         << "Main"
                         << "5.1";
  }
  void whatIsChosenIsHeld() {
    QFETCH(int, codec);
    QFETCH(QString, choice);
    QFETCH(QString, profile);
    QFETCH(QString, level);
    Project one = m_project;
    Deliverable d = deliverable(infoOf(Codec(codec)), Container::Mp4, {8, Chroma::C420});
    d.encoding.profile = choice.section(' ', 0, 0).toStdString();
    d.encoding.level = choice.section(' ', 1, 1).toStdString();
    d.encoding.highTier = choice.endsWith(QLatin1String("high"));
    if (d.encoding.highTier) d.encoding.maxBitRate = 30'000'000; // of 20 in the main tier (H.265, table A.9)
    one.deliverables = {d};
    const auto files = test::exported(one, path("chosen"));
    QCOMPARE(test::faultsOf(files), QString());
    const QString said =
        test::run(QStringLiteral("mediainfo"), {"--Output=Video;%Format_Profile%|%Format_Level%|%Format_Tier%",
                                                QString::fromStdString(files->front().path)});
    const QString all = said.trimmed();
    QVERIFY2(all.startsWith(profile), qPrintable(all));
    QVERIFY2(all.contains(level), qPrintable(all));
    QVERIFY2(!d.encoding.highTier || all.contains(QLatin1String("High")), qPrintable(all));
  }
  // An average without a peak asks for a level by the bit rate too, and the stream says that one.
  void levelsGoByTheBitRate() {
    Project one = m_project;
    Deliverable d = deliverable(infoOf(Codec::Av1), Container::Mp4, {8, Chroma::C420});
    d.encoding.rateControl = RateControl::Variable;
    d.encoding.bitRate = 5'000'000; // AV1, annex A.3: 3 Mb/s at 2.1, 6 at 3.0
    one.deliverables = {d};
    QCOMPARE(resolvedEncoding(d).level, std::string("3.0"));
    const auto files = test::exported(one, path("byrate"));
    QCOMPARE(test::faultsOf(files), QString());
  }

  // White of SDR is 203 cd/m² in PQ (BT.2408), and the file says so where players look: as MediaInfo reads it.
  void lightLevelsAreWritten_data() {
    QTest::addColumn<int>("codec");
    QTest::addColumn<int>("container");
    QTest::newRow("HEVC in MP4") << int(Codec::Hevc) << int(Container::Mp4);
    QTest::newRow("HEVC in Matroska") << int(Codec::Hevc) << int(Container::Mkv);
    QTest::newRow("VP9 in WebM") << int(Codec::Vp9) << int(Container::Webm);
    QTest::newRow("AV1 in MP4") << int(Codec::Av1) << int(Container::Mp4);
  }
  void lightLevelsAreWritten() {
    QFETCH(int, codec);
    QFETCH(int, container);
    test::writeClip(path("white.mp4"), {480, 270}, FrameRate(), 8, [](int, int x, int) {
      return test::Yuv{40 + 195 * x / 479, 128, 128}; // up to white, without an edge that would ring
    });
    Project one = test::project({path("white.mp4")}, {{"One", kCanvas}});
    Deliverable d = deliverable(infoOf(Codec(codec)), Container(container), {10, Chroma::C420});
    d.format.colour = kPq;
    one.deliverables = {d};
    const auto files = test::exported(one, path("pq"));
    QCOMPARE(test::faultsOf(files), QString());
    const QString said =
        test::run(QStringLiteral("mediainfo"), {"--Output=Video;%MaxCLL%|%MaxFALL%|%transfer_characteristics%",
                                                QString::fromStdString(files->front().path)});
    const QStringList parts = said.trimmed().split('|');
    QVERIFY2(std::abs(parts[0].section(' ', 0, 0).toInt() - 203) <= 6, qPrintable(said));
    double mean = 0; // BT.1886: a display's gamma of 2.4
    for (int x = 0; x < 480; ++x) mean += 203 * std::pow((24 + 195 * x / 479) / 219.0, 2.4) / 480;
    QVERIFY2(std::abs(parts[1].section(' ', 0, 0).toInt() - mean) <= 3, qPrintable(said));
    QCOMPARE(parts[2], QStringLiteral("PQ"));
  }

  // Chapter marks from shots, as ffprobe reads them.
  void chaptersAreWritten_data() {
    QTest::addColumn<int>("codec");
    QTest::addColumn<int>("container");
    for (const Container container : {Container::Mp4, Container::Mov, Container::Mkv})
      QTest::addRow("%s", infoOf(container).word.data()) << int(Codec::H264) << int(container);
    QTest::newRow("webm") << int(Codec::Vp9) << int(Container::Webm);
  }
  void chaptersAreWritten() {
    QFETCH(int, codec);
    QFETCH(int, container);
    Project one = m_project;
    Shot second = one.shots.front();
    one.shots.front().out = Rational(6, 25);
    second.id = "h2";
    second.name = "Another \u00e4";
    one.shots.push_back(second);
    Deliverable d = deliverable(infoOf(Codec(codec)), Container(container), {8, Chroma::C420});
    d.encoding.chapters = Chapters::Shots;
    d.encoding.title = "What it is called";
    d.encoding.language = "eng";
    one.deliverables = {d};
    const auto files = test::exported(one, path("chapters"));
    QCOMPARE(test::faultsOf(files), QString());
    const QString file = QString::fromStdString(files->front().path);
    const QString said =
        test::run(QStringLiteral("ffprobe"),
                  {"-v", "error", "-show_entries", "chapter=start_time:chapter_tags=title", "-of", "csv=p=0", file});
    QCOMPARE(said.trimmed().split('\n').value(0), QString::fromStdString("0.000000," + one.shots[0].name));
    QCOMPARE(said.trimmed().split('\n').value(1), QString::fromStdString("0.240000," + one.shots[1].name));
    QCOMPARE(test::run(QStringLiteral("ffprobe"),
                       {"-v", "error", "-show_entries", "format_tags=title", "-of", "csv=p=0", file})
                 .trimmed(),
             QStringLiteral("What it is called"));
    QVERIFY(test::run(QStringLiteral("ffprobe"), {"-v", "error", "-select_streams", "v", "-show_entries",
                                                  "stream_tags=language", "-of", "csv=p=0", file})
                .contains("eng"));
  }

  // Another decoder than FFmpeg's own gives the same pictures: libaom, libvpx, libde265 and openh264.
  void aSecondDecoderAgrees_data() {
    QTest::addColumn<int>("codec");
    for (const Codec codec : {Codec::Av1, Codec::Vp9, Codec::Hevc, Codec::H264})
      QTest::newRow(std::string(infoOf(codec).word).c_str()) << int(codec);
  }
  void aSecondDecoderAgrees() {
    QFETCH(int, codec);
    const PictureCodec& info = infoOf(Codec(codec));
    Project one = m_project;
    one.deliverables = {deliverable(info, info.containers.front(), {8, Chroma::C420})};
    if (Codec(codec) == Codec::H264) one.deliverables.front().encoding.profile = "main";
    const auto files = test::exported(one, path("second"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const QString file = QString::fromStdString(files->front().path);
    const QByteArray got = test::decodedBySecond(file, m_folder.path());
    const QByteArray wanted = test::decodedByFfmpeg(file, m_folder.path());
    QVERIFY(wanted.size() > 12 * 1000);
    QCOMPARE(got.size(), wanted.size());
    QVERIFY(got == wanted);
  }
};

QTEST_GUILESS_MAIN(TestFormats)
#include "tst_formats.moc"
