// SPDX-License-Identifier: GPL-3.0-or-later
// What is shown of a deliverable before it is made is what its file has, as another program reads it: for a table of
// fifty.
#include "destination/NewDeliverable.h"
#include "preflight/Preflight.h"
#include "preflight/Spec.h"
#include "project/Choices.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>

using namespace tromb;

class TestShown : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  Project m_project;
  Footage m_footage;
  std::vector<ExportedFile> m_files;

  static constexpr int kDeliverables = 50;

  /// The i-th: codecs, canvases, rates, depths, rate controls and sounds go round in numbers that share no factor with
  /// each other's, so that all meet.
  static Deliverable numbered(int i) {
    constexpr Codec kCodecs[] = {Codec::H264, Codec::Hevc, Codec::Vp9, Codec::Av1,
                                 Codec::H264, Codec::Ffv1, Codec::Vc3};
    constexpr Size kCanvases[] = {{180, 320}, {320, 180}, {256, 256}, {384, 160}, {160, 200}};
    const Rational kRates[] = {Rational(25), Rational(30000, 1001), Rational(50),          Rational(24000, 1001),
                               Rational(24), Rational(60),          Rational(60000, 1001), Rational(30)};
    constexpr SoundCodec kSounds[] = {SoundCodec::Aac, SoundCodec::Opus,  SoundCodec::Flac,
                                      SoundCodec::Mp3, SoundCodec::Pcm16, SoundCodec::Pcm24};
    constexpr int kChannels[] = {2, 1, 6};
    Deliverable d = newDeliverable({}, {}, nullptr);
    d.id = "d" + std::to_string(i + 1);
    d.name = std::to_string(i + 1);
    chooseCodec(d, kCodecs[i % 7]);
    const Size canvas = kCanvases[i % 5];
    const Size least = d.encoding.info().least;
    chooseCanvas(d, canvas.width < least.width || canvas.height < least.height ? Size{256, 256} : canvas);
    d.rate = FrameRate(kRates[i % 8]);
    if (i % 3 == 1) {
      for (const Samples& each : d.encoding.info().samples)
        if (each.depth == 10) chooseSamples(d, each);
    }
    if (i % 2 == 1) d.encoding.container = d.encoding.info().containers.back();
    if (i % 11 == 3) d.encoding.sound.sampleRate = 44'100;
    chooseSoundCodec(d, kSounds[(i / 2) % 6]);
    chooseChannels(d, kChannels[(i / 3) % 3]);
    if (i % 4 == 2 && d.encoding.info().takes(RateControl::ConstantQuality))
      chooseRateControl(d, RateControl::ConstantQuality);
    else if (!d.encoding.info().rateControls.empty() && d.encoding.info().takes(RateControl::Variable))
      chooseBitRate(d, 3'000'000); // for much detail at the fastest speed
    makeEncodable(d);
    const Encoding e = resolvedEncoding(d);
    if (!e.info().speeds.empty()) d.encoding.speed = e.info().speeds.front();
    return d;
  }
  static QString shown(const std::vector<SpecLine>& lines, const char* code) {
    for (const SpecLine& each : lines)
      if (each.code == code) return QString::fromStdString(each.value.text());
    return {};
  }
  /// The name of the level in a file's header. Rec. ITU-T H.264, 7.4.2.1.1: ten times it; H.265, 7.4.4: thirty times
  /// it; AV1 bitstream specification, A.3: 2.0 and four minor ones a major.
  static QString levelOf(const QString& codec, int level) {
    if (codec == QLatin1String("av1")) return QStringLiteral("%1.%2").arg(2 + level / 4).arg(level % 4);
    const int tenths = codec == QLatin1String("hevc") ? level / 3 : level;
    return tenths % 10 == 0 ? QString::number(tenths / 10) : QStringLiteral("%1.%2").arg(tenths / 10).arg(tenths % 10);
  }

private slots:
  void initTestCase() {
    const std::string clip = m_folder.filePath("a.mp4").toStdString();
    test::writeClip(clip, {384, 320}, FrameRate(Rational(50)), 20, test::texture, true);
    m_project = test::project({clip}, {});
    for (int i = 0; i < kDeliverables; ++i) m_project.deliverables.push_back(numbered(i));
    m_footage = probeFootage(m_project);
    constexpr size_t kAtOnce = 10;
    for (size_t at = 0; at < m_project.deliverables.size(); at += kAtOnce) {
      Project part = m_project;
      part.deliverables.assign(m_project.deliverables.begin() + ptrdiff_t(at),
                               m_project.deliverables.begin() + ptrdiff_t(at + kAtOnce));
      auto made = test::exported(part, m_folder.filePath("out").toStdString());
      QVERIFY2(made, made ? "" : sentence(made.error()).c_str());
      for (ExportedFile& file : *made) m_files.push_back(std::move(file));
    }
  }

  void whatIsShownIsInTheFile_data() {
    QTest::addColumn<int>("at");
    for (int i = 0; i < kDeliverables; ++i) {
      const Deliverable d = numbered(i);
      QTest::addRow("%d: %s, %s, %s", i + 1, codecText(resolvedEncoding(d)).text().c_str(), sizeText(d.canvas).c_str(),
                    d.rate.name().c_str())
          << i;
    }
  }
  void whatIsShownIsInTheFile() {
    QFETCH(int, at);
    const Deliverable& d = m_project.deliverables[size_t(at)];
    const Encoding e = resolvedEncoding(d);
    const ExportedFile& made = m_files[size_t(at)];
    QVERIFY2(made.good(), qPrintable(test::faultsOf(std::vector<ExportedFile>{made})));
    const auto lines = specLines(m_project, m_footage, d);
    const QString said = test::run(QStringLiteral("ffprobe"),
                                   {"-v", "error", "-show_streams", "-of", "json", QString::fromStdString(made.path)});
    QJsonObject video;
    QJsonObject audio;
    for (const QJsonValue& each : QJsonDocument::fromJson(said.toUtf8())["streams"].toArray())
      (each["codec_type"].toString() == QLatin1String("video") ? video : audio) = each.toObject();
    const int width = video["width"].toInt();
    const int height = video["height"].toInt();
    QCOMPARE(QString::fromStdString(sizeText({width, height})), QString::fromStdString(sizeText(d.canvas)));
    const auto rate = Rational::parse(video["r_frame_rate"].toString().toStdString());
    QVERIFY(rate.has_value());
    // Matroska and WebM keep times in milliseconds: what ffprobe makes of them is near the rate.
    const bool exact = *e.container == Container::Mp4 || *e.container == Container::Mov;
    constexpr double kNear = 0.0004;
    if (exact)
      QCOMPARE(QString::fromStdString(FrameRate(*rate).name()), QString::fromStdString(d.rate.name()));
    else
      QVERIFY2(std::abs(rate->toDouble() / d.rate.toDouble() - 1) < kNear, rate->toString().c_str());
    // Level and profile.
    const QString codec = video["codec_name"].toString();
    const QString level = shown(lines, "level");
    if (e.info().levels && video["level"].toInt() > 0)
      QVERIFY2(level.contains(QStringLiteral("level %1").arg(levelOf(codec, video["level"].toInt()))),
               qPrintable(level + QStringLiteral(", in the file ") + QString::number(video["level"].toInt())));
    QString profile = video["profile"].toString().remove(QStringLiteral("Profile ")).remove(QLatin1Char(' '));
    profile.remove(QStringLiteral("DNXHR")); // FFmpeg's names for those of SMPTE ST 2019
    if (!e.profile.empty())
      QVERIFY2(level.contains(profile, Qt::CaseInsensitive),
               qPrintable(level + QStringLiteral(", in the file ") + profile));
    // Work: pixels and macroblocks a second, from the file's own size and rate.
    const Rational& shownRate = exact ? *rate : d.rate.value();
    const double millions = width * height * shownRate.toDouble() / 1e6;
    const int64_t blocks = (Rational((width + 15) / 16 * ((height + 15) / 16)) * shownRate).nearest();
    const QString work = shown(lines, "work").remove(QChar(0x202f));
    QVERIFY2(work.startsWith(QString::number(millions, 'f', 1)), qPrintable(work));
    QVERIFY2(work.contains(QStringLiteral(" %1 macroblocks").arg(blocks)), qPrintable(work));
    QCOMPARE(video["pix_fmt"].toString().contains(QLatin1String("10")), d.format.depth == 10);
    QCOMPARE(video["pix_fmt"].toString().contains(QLatin1String("422")), d.format.chroma == Chroma::C422);
    // Sound.
    QCOMPARE(!audio.isEmpty(), e.sound.place == SoundPlace::Within);
    if (audio.isEmpty()) return;
    QCOMPARE(audio["channels"].toInt(), e.sound.channels);
    QCOMPARE(audio["sample_rate"].toString().toInt(), e.sound.sampleRate);
    QVERIFY2(audio["codec_name"].toString().startsWith(
                 QString::fromStdString(std::string(infoOf(*e.sound.codec).found)), Qt::CaseInsensitive),
             qPrintable(audio["codec_name"].toString()));
  }
};

QTEST_GUILESS_MAIN(TestShown)
#include "tst_shown.moc"
