// SPDX-License-Identifier: GPL-3.0-or-later
// Sound of one, two and six channels: how it is mixed, encoded in files of its own and others, and proofed.
#include "media/read/Probe.h"
#include "render/SoundMix.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <map>
#include <numbers>

using namespace tromb;
using test::run;

namespace {

constexpr double kLevel = 0.2;
/// A tone for each channel of 5.1: left, right, centre, low frequencies, left and right surround.
constexpr std::array<double, 6> kTones{300, 400, 500, 60, 700, 800};

/// How loud each tone is in each channel, by channels and then tones, of decoded samples; from 0.3 to 0.8 s.
std::vector<std::array<double, 6>> levelsOf(const QByteArray& samples, int channels) {
  const auto* values = reinterpret_cast<const float*>(samples.constData());
  constexpr int kFrom = kSoundRate * 3 / 10;
  constexpr int kCount = kSoundRate / 2;
  std::vector<std::array<double, 6>> levels{size_t(channels)};
  if (samples.size() < qsizetype((kFrom + kCount) * channels) * 4) return levels;
  for (size_t c = 0; c < levels.size(); ++c)
    for (size_t tone = 0; tone < kTones.size(); ++tone) {
      double re = 0;
      double im = 0;
      for (int i = kFrom; i < kFrom + kCount; ++i) {
        const double phase = 2 * std::numbers::pi * kTones[tone] * i / kSoundRate;
        const double value = double(values[size_t(i * channels) + c]);
        re += value * std::cos(phase);
        im += value * std::sin(phase);
      }
      levels[c][tone] = std::hypot(re, im) * 2 / kCount / kLevel;
    }
  return levels;
}

/// Rec. ITU-R BS.775-3, Annex 4, lowered by what the loudest channel holds in all so that nothing can clip.
std::vector<std::array<double, 6>> expectedOf(int channels) {
  const double c = std::sqrt(0.5);
  if (channels == 1) {
    const double all = 2 * c + 1 + 1;
    return {{c / all, c / all, 1 / all, 0, 0.5 / all, 0.5 / all}};
  }
  if (channels == 2) {
    const double all = 1 + 2 * c;
    return {{1 / all, 0, c / all, 0, c / all, 0}, {0, 1 / all, c / all, 0, 0, c / all}};
  }
  std::vector<std::array<double, 6>> same(6);
  for (size_t i = 0; i < 6; ++i) same[i][i] = 1;
  return same;
}

} // namespace

class TestChannels : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  Project m_surround; ///< 25 pictures with a tone in each channel

  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] std::string path(const QString& name) const { return at(name).toStdString(); }

  /// A clip whose sound is FFmpeg's words, kept as PCM.
  [[nodiscard]] std::string clip(const QString& name, const QString& sound, int seconds) const {
    test::ffmpeg(
        QStringLiteral("-f lavfi -i testsrc2=s=64x64:r=25:d=%1 -f lavfi -i %2 -c:v libx264 -c:a pcm_f32le -t %1 "
                       "-f mov %3")
            .arg(seconds)
            .arg(sound, at(name)));
    return path(name);
  }
  static Deliverable& add(Project& p, const SoundEncoding& sound, Codec codec = Codec::H264) {
    Deliverable d;
    d.id = freshId(p.deliverables, "d");
    d.name = d.id;
    d.canvas = {64, 64};
    d.encoding.codec = codec;
    d.encoding.sound = sound;
    p.deliverables.push_back(d);
    return p.deliverables.back();
  }
  /// What FFmpeg decodes of a file's sound; `words`: what it complains about, in the picture too. Matroska has no place
  /// for the layout of PCM's channels.
  [[nodiscard]] QByteArray decoded(const std::string& file, QString* words = nullptr) const {
    const QString said =
        run(QStringLiteral("ffmpeg"), {"-v", "warning", "-y", "-i", QString::fromStdString(file), "-map", "0:a", "-ar",
                                       "48000", "-f", "f32le", at("decoded.raw"), "-map", "0", "-f", "null", "-"});
    if (words) {
      QStringList lines = said.split('\n', Qt::SkipEmptyParts);
      lines.removeIf([](const QString& line) { return line.startsWith("Guessed Channel Layout"); });
      *words = lines.join('\n');
    }
    QFile raw(at("decoded.raw"));
    return raw.open(QIODevice::ReadOnly) ? raw.readAll() : QByteArray();
  }
  static QString probed(const std::string& file, const QString& entries) {
    return run(QStringLiteral("ffprobe"),
               {"-v", "error", "-show_entries", entries, "-of", "default=nk=1:nw=1", QString::fromStdString(file)})
        .trimmed();
  }

private slots:
  void initTestCase() {
    QStringList tones;
    for (const double tone : kTones) tones << QStringLiteral("%1*sin(2*PI*%2*t)").arg(kLevel).arg(tone);
    const std::string file = clip("surround.mov", QStringLiteral("aevalsrc=%1:c=5.1:s=48000").arg(tones.join('|')), 1);
    m_surround = test::project({file}, {{"One", {64, 64}}});
  }

  // Each codec in each container and alone, with all the channels that it has: the tones are where they belong, by
  // FFmpeg's decoders.
  void everyChannelIsInItsPlace_data() {
    QTest::addColumn<int>("codec");
    for (const SoundCodecInfo& codec : soundCodecs()) QTest::newRow(codec.word.data()) << int(codec.codec);
  }
  void everyChannelIsInItsPlace() {
    QFETCH(int, codec);
    const SoundCodecInfo& info = infoOf(SoundCodec(codec));
    Project all = m_surround;
    all.deliverables.clear();
    for (const int channels : info.channels) {
      SoundEncoding sound;
      sound.codec = info.codec;
      sound.channels = channels;
      for (const Container container : info.containers) {
        // Where every step costs several times as much, one container is enough.
        if (test::kSanitized && container != info.containers.front()) continue;
        add(all, sound, container == Container::Webm ? Codec::Vp9 : Codec::H264).encoding.container = container;
      }
      for (const SoundPlace place : {SoundPlace::Alone, SoundPlace::Beside}) {
        sound.place = place;
        add(all, sound);
      }
    }
    const auto files = test::exported(all, path(info.word.data()));
    QCOMPARE(test::faultsOf(files), QString());
    for (size_t i = 0; i < files->size(); ++i) {
      const SoundEncoding& sound = all.deliverables[i].encoding.sound;
      const bool beside = sound.place == SoundPlace::Beside;
      QCOMPARE((*files)[i].soundPath.empty(), !beside);
      const std::string& file = beside ? (*files)[i].soundPath : (*files)[i].path;
      const QString streams = probed(file, "stream=codec_type");
      QVERIFY(streams.contains("audio"));
      QCOMPARE(streams.contains("video"), sound.place == SoundPlace::Within);
      if (beside) QVERIFY(!probed((*files)[i].path, "stream=codec_type").contains("audio"));
      if (sound.place != SoundPlace::Within)
        QVERIFY2(file.ends_with("." + std::string(infoOf(info.alone).word)), file.c_str());
      // Compared with what stands above; lossy codecs leave tones within an eighth, and next to nothing elsewhere.
      QString words;
      const auto found = levelsOf(decoded(file, &words), sound.channels);
      QVERIFY2(words.isEmpty(), qPrintable(QString::fromStdString(file) + ": " + words));
      const auto expected = expectedOf(sound.channels);
      for (size_t c = 0; c < expected.size(); ++c)
        for (size_t tone = 0; tone < kTones.size(); ++tone) {
          const double off = std::abs(found[c][tone] - expected[c][tone]);
          const double most = info.lossless() ? 0.002 : 0.01 + expected[c][tone] / 8;
          QVERIFY2(off < most, qPrintable(QStringLiteral("%1: channel %2, %3 Hz: %4, expected %5")
                                              .arg(QString::fromStdString(file))
                                              .arg(c)
                                              .arg(kTones[tone])
                                              .arg(found[c][tone])
                                              .arg(expected[c][tone])));
        }
    }
  }

  // Stereo stays left and right, one channel is heard in both, two streams of one channel are left and right.
  void fewerChannelsGoUp_data() {
    QTest::addColumn<QString>("sound"); // FFmpeg's words
    QTest::addColumn<int>("channels");
    QTest::addColumn<std::vector<double>>("levels"); // of the tone at 300 Hz, by channel
    const QString one = QStringLiteral("aevalsrc=0.2*sin(600*PI*t):s=48000");
    const QString two = QStringLiteral("aevalsrc=0.2*sin(600*PI*t)|0.1*sin(600*PI*t):s=48000");
    QTest::newRow("mono in 5.1") << one << 6 << std::vector<double>{1, 1, 0, 0, 0, 0};
    QTest::newRow("stereo in 5.1") << two << 6 << std::vector<double>{1, 0.5, 0, 0, 0, 0};
    QTest::newRow("mono in mono") << one << 1 << std::vector<double>{1};
    QTest::newRow("stereo in mono") << two << 1 << std::vector<double>{0.75};
    QTest::newRow("mono in stereo") << one << 2 << std::vector<double>{1, 1};
    QTest::newRow("two streams in 5.1") << "split" << 6 << std::vector<double>{1, 0.5, 0, 0, 0, 0};
    QTest::newRow("two streams in mono") << "split" << 1 << std::vector<double>{0.75};
  }
  void fewerChannelsGoUp() {
    QFETCH(QString, sound);
    QFETCH(int, channels);
    QFETCH(std::vector<double>, levels);
    std::string file = path("up.mov");
    if (sound == QLatin1String("split"))
      test::ffmpeg("-f lavfi -i testsrc2=s=64x64:r=25:d=1 -f lavfi -i aevalsrc=0.2*sin(600*PI*t):s=48000 -f lavfi -i "
                   "aevalsrc=0.1*sin(600*PI*t):s=48000 -map 0 -map 1 -map 2 -c:v libx264 -c:a pcm_f32le -t 1 -f mov " +
                   at("up.mov"));
    else
      file = clip("up.mov", sound, 1);
    Project p = test::project({file}, {{"One", {64, 64}}});
    p.deliverables.front().encoding.sound.channels = channels;
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    QVERIFY(plan.has_value());
    SoundMix mix(*plan);
    QByteArray samples;
    for (int i = 0; i < 2; ++i) {
      const auto chunk = mix.next(0);
      QVERIFY(chunk.has_value());
      samples.append(reinterpret_cast<const char*>((*chunk)->data()), qsizetype((*chunk)->size() * sizeof(float)));
    }
    const auto found = levelsOf(samples, channels);
    for (size_t c = 0; c < levels.size(); ++c)
      QVERIFY2(std::abs(found[c][0] - levels[c]) < 0.001, qPrintable(QString::number(found[c][0])));
  }

  // EBU Tech 3341: signals 1 and 6 read −23.0 ±0.1 LUFS, through each codec; FFmpeg's meter is the outside measure. A
  // target is met with each number of channels.
  void loudnessIsKept_data() {
    QTest::addColumn<int>("codec");
    QTest::addColumn<int>("channels");
    QTest::addColumn<double>("target"); // 0: as mixed
    for (const SoundCodecInfo& codec : soundCodecs())
      for (const int channels : codec.channels) {
        if (channels == 1) continue; // none of the signals
        if (test::kSanitized && codec.codec != SoundCodec::Opus) continue;
        QTest::addRow("%s, %d channels", codec.word.data(), channels) << int(codec.codec) << channels << 0.0;
      }
    for (const int channels : {1, 2, 6})
      QTest::addRow("a target, %d channels", channels) << int(SoundCodec::Aac) << channels << -16.0;
  }
  void loudnessIsKept() {
    QFETCH(int, codec);
    QFETCH(int, channels);
    QFETCH(double, target);
    const auto tone = [](double dbfs) {
      return QStringLiteral("%1*sin(2000*PI*t)").arg(std::pow(10, dbfs / 20), 0, 'g', 12);
    };
    const QString silent = QStringLiteral("0");
    const QStringList signal = channels == 6
                                   ? QStringList{tone(-28), tone(-28), tone(-24), silent, tone(-30), tone(-30)}
                                   : QStringList{tone(-23), tone(-23)};
    const QString name = channels == 6 ? QStringLiteral("six.mov") : QStringLiteral("one.mov");
    if (!QFile::exists(at(name)))
      (void)clip(
          name, QStringLiteral("aevalsrc=%1:c=%2:s=48000").arg(signal.join('|'), channels == 6 ? "5.1" : "stereo"), 20);
    Project p = test::project({path(name)}, {{"One", {64, 64}}});
    SoundEncoding& sound = p.deliverables.front().encoding.sound;
    sound.codec = SoundCodec(codec);
    sound.channels = channels;
    sound.place = SoundPlace::Alone;
    if (target != 0) p.output.loudnessLufs = target;
    const auto files = test::exported(p, path("loud"));
    QCOMPARE(test::faultsOf(files), QString());
    const QString said = run(QStringLiteral("ffmpeg"), {"-nostats", "-i", QString::fromStdString(files->front().path),
                                                        "-af", "ebur128", "-f", "null", "-"});
    const double found = said.mid(said.lastIndexOf("I:") + 2).trimmed().section(' ', 0, 0).toDouble();
    QVERIFY2(std::abs(found - (target != 0 ? target : -23)) <= 0.1 + 1e-9, qPrintable(QString::number(found)));
  }

  // Channels that another tool has put elsewhere are found, and named.
  void channelsInWrongPlacesAreSeen_data() {
    QTest::addColumn<QString>("order"); // of the six
    QTest::addColumn<QString>("said");
    QTest::newRow("as they were") << "c0=c0|c1=c1|c2=c2|c3=c3|c4=c4|c5=c5"
                                  << "";
    QTest::newRow("left and centre") << "c0=c2|c1=c1|c2=c0|c3=c3|c4=c4|c5=c5"
                                     << "the left channel stands where the centre is to be";
    QTest::newRow("centre and low frequencies") << "c0=c0|c1=c1|c2=c3|c3=c2|c4=c4|c5=c5"
                                                << "the centre is another sound";
    QTest::newRow("surrounds swapped") << "c0=c0|c1=c1|c2=c2|c3=c3|c4=c5|c5=c4"
                                       << "the left surround channel stands where the right surround channel is to be";
    QTest::newRow("low frequencies lost") << "c0=c0|c1=c1|c2=c2|c3=0*c3|c4=c4|c5=c5"
                                          << "the low frequencies' channel is silent";
  }
  void channelsInWrongPlacesAreSeen() {
    QFETCH(QString, order);
    QFETCH(QString, said);
    Project p = m_surround;
    SoundEncoding& sound = p.deliverables.front().encoding.sound;
    sound.codec = SoundCodec::Pcm24;
    sound.channels = 6;
    sound.place = SoundPlace::Alone;
    const auto files = test::exported(p, path("places"));
    QCOMPARE(test::faultsOf(files), QString());
    (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", QString::fromStdString(files->front().path), "-af",
                                         "pan=5.1|" + order, "-c:a", "pcm_s24le", at("spoiled.wav")});
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    std::vector<SourceLoss> losses;
    const auto traces = composeTraces(*plan, m_folder.path().toStdString(), losses);
    QVERIFY(traces.has_value());
    const auto report = proofFile({path("spoiled.wav"), &*plan, &*traces, {}});
    QVERIFY(report.has_value());
    QString found;
    for (const ProofCheck& check : report->checks)
      if (!check.pass) found += QString::fromStdString(check.code + ": " + check.found.text());
    if (said.isEmpty())
      QCOMPARE(found, QString());
    else
      QVERIFY2(found.startsWith("sound-content") && found.contains(said), qPrintable(found));
  }

  // Nothing is written over, and nothing half-made stays.
  void filesBesideAreFilesToo() {
    Project p = m_surround;
    p.deliverables.front().encoding.sound.place = SoundPlace::Beside;
    const std::string folder = path("beside");
    const auto files = test::exported(p, folder);
    QCOMPARE(test::faultsOf(files), QString());
    QVERIFY(QFile::remove(QString::fromStdString(files->front().path)));
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    ExportRequest request;
    request.plans = {*plan};
    request.folder = folder;
    const auto again = exportPlans(request, {});
    QVERIFY(!again);
    QVERIFY(again.error().code == ErrorCode::Exists);
    QCOMPARE(again.error().path, files->front().soundPath);
    // The sound of one deliverable beside its picture, and alone that of another of the same name.
    p.deliverables.push_back(p.deliverables.front());
    p.deliverables.back().id = "d2";
    p.deliverables.back().encoding.sound.place = SoundPlace::Alone;
    const auto both = test::exported(p, folder);
    QVERIFY(!both);
    QVERIFY2(sentence(both.error()).find("same file") != std::string::npos, sentence(both.error()).c_str());
  }
  void silentProjectsHaveNoSoundToDeliver() {
    test::writeClip(path("silent.mp4"), {64, 64}, FrameRate(), 5, test::texture);
    Project p = test::project({path("silent.mp4")}, {{"One", {64, 64}}});
    p.deliverables.front().encoding.sound.place = SoundPlace::Alone;
    const auto files = test::exported(p, path("nothing"));
    QVERIFY(files.has_value());
    QVERIFY(files->front().error.has_value());
    QVERIFY2(sentence(*files->front().error).find("no sound in the running order") != std::string::npos,
             sentence(*files->front().error).c_str());
    QVERIFY(!QFile::exists(at("nothing")));
  }
};

QTEST_GUILESS_MAIN(TestChannels)
#include "tst_channels.moc"
