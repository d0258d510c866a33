// SPDX-License-Identifier: GPL-3.0-or-later
// What follows from the choices in a deliverable, what mends it, and choices that let go of what does not go with them.
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "geometry/StandardSizes.h"
#include "preflight/Limits.h"
#include "preflight/Preflight.h"
#include "preflight/Spec.h"
#include "project/Choices.h"
#include "support/TestProject.h"

#include <QTest>
#include <set>

using namespace tromb;

using Change = void (*)(Deliverable&);
Q_DECLARE_METATYPE(Change)
using ChangeSource = void (*)(Source&, MediaInfo&, Deliverable&);
Q_DECLARE_METATYPE(ChangeSource)

class TestSpec : public QObject {
  Q_OBJECT

  Project m_project;
  Footage m_footage;

  /// A source that is only said to be there, with one shot of it.
  void add(const char* id, Size stored, const Rational& rate, const Rational& seconds) {
    MediaInfo info = test::video(std::string("/") + id + ".mp4", stored, rate, seconds);
    info.video->colour = kRec709;
    Source source;
    source.id = id;
    source.path = info.path;
    m_project.sources.push_back(source);
    Shot shot;
    shot.id = std::string("h-") + id;
    shot.source = id;
    shot.out = seconds;
    m_project.shots.push_back(shot);
    m_footage.emplace(id, info);
  }
  static Deliverable story() { return newDeliverable({}, "vertical-story", nullptr); }
  static const SpecLine* line(const std::vector<SpecLine>& lines, const std::string& code) {
    for (const SpecLine& each : lines)
      if (each.code == code) return &each;
    return nullptr;
  }
  [[nodiscard]] std::vector<SpecLine> linesOf(const Deliverable& d) const { return specLines(m_project, m_footage, d); }

private slots:
  void init() {
    m_project = {};
    m_footage.clear();
    add("wide", {3840, 2160}, Rational(25), Rational(20));
  }

  // A destination's own recommendation breaks nothing, for every destination and its usual canvas.
  void recommendationsHold_data() {
    QTest::addColumn<QString>("id");
    for (const Destination& d : destinationData()->destinations)
      QTest::newRow(d.id.c_str()) << QString::fromStdString(d.id);
  }
  void recommendationsHold() {
    QFETCH(QString, id);
    m_project.shots.front().out = Rational(10); // a length that all take
    const Deliverable d = newDeliverable(m_project, id.toStdString(), &*m_footage.at("wide"));
    for (const SpecLine& each : linesOf(d))
      QVERIFY2(each.topic == SpecTopic::Source || each.standing != Standing::Broken,
               (each.code + ": " + each.value.text()).c_str());
  }

  // Each thing that breaks turns its line, and its button mends it and breaks nothing else.
  void buttonsMend_data() {
    QTest::addColumn<QByteArray>("code");
    QTest::addColumn<QByteArray>("to");
    QTest::addColumn<Change>("spoil");
    const auto row = [](const char* name, const char* code, const char* to, Change spoil) {
      QTest::newRow(name) << QByteArray(code) << QByteArray(to) << spoil;
    };
    row("another shape", "limit-canvas", "vertical-story", [](Deliverable& d) { d.canvas = {1920, 1080}; });
    row("another size", "limit-canvas", "vertical-story", [](Deliverable& d) { d.canvas = {1440, 2560}; });
    row("too fast", "limit-rate", "vertical-story", [](Deliverable& d) { d.rate = FrameRate(Rational(50)); });
    row("not among the rates", "limit-rate", "broadcast-review-60",
        [](Deliverable& d) { d.rate = FrameRate(Rational(25)); });
    row("too many bytes", "limit-bytes", "message", [](Deliverable& d) { chooseBitRate(d, 40'000'000); });
    row("another codec", "limit-codec", "vertical-story", [](Deliverable& d) { chooseCodec(d, Codec::Av1); });
    row("another container", "limit-container", "vertical-story",
        [](Deliverable& d) { chooseContainer(d, Container::Mkv); });
    row("high dynamic range", "limit-colour", "vertical-story", [](Deliverable& d) {
      chooseCodec(d, Codec::Hevc);
      chooseColour(d, kHlg);
    });
    row("no high dynamic range", "limit-colour", "wide-film-hdr", [](Deliverable& d) { chooseColour(d, kRec709); });
    row("too few bits", "limit-bit-rate", "vertical-story", [](Deliverable& d) { chooseBitRate(d, 1'000'000); });
    row("too many bits", "limit-bit-rate", "vertical-story", [](Deliverable& d) { chooseBitRate(d, 60'000'000); });
    row("another codec of the sound", "limit-sound", "vertical-story",
        [](Deliverable& d) { chooseSoundCodec(d, SoundCodec::Mp3); });
    row("too many channels", "limit-sound", "vertical-story", [](Deliverable& d) { chooseChannels(d, 6); });
    row("no sound", "limit-sound", "broadcast-review-50",
        [](Deliverable& d) { chooseSoundPlace(d, SoundPlace::None); });
    row("another loudness", "limit-loudness", "broadcast-review-50",
        [](Deliverable& d) { d.loudness = OwnLoudness{-14}; });
    row("a level too low", "level", "vertical-story", [](Deliverable& d) { d.encoding.level = "3"; });
    row("a buffer larger than the level's", "buffer", "vertical-story", [](Deliverable& d) {
      d.encoding.level = "4"; // 25 Mb and a quarter more in High: Rec. ITU-T H.264, tables
      d.encoding.bufferBits = 32'000'000;
    });
    row("a profile without these samples", "profile", "", [](Deliverable& d) {
      d.encoding.profile = "high"; // 8 bits: Rec. ITU-T H.264, A.2.4
      d.format.depth = 10;
    });
    row("a size that video cannot have", "size", "", [](Deliverable& d) { d.canvas = {1081, 1920}; });
    row("what no encoder makes", "settings", "", [](Deliverable& d) { d.encoding.container = Container::Webm; });
    row("blocky", "density", "", [](Deliverable& d) { chooseBitRate(d, 900'000); });
    row("blocky by quality", "density", "", [](Deliverable& d) {
      chooseRateControl(d, RateControl::ConstantQuality);
      d.encoding.crf = 45;
    });
  }
  void buttonsMend() {
    QFETCH(QByteArray, code);
    QFETCH(QByteArray, to);
    QFETCH(Change, spoil);
    Deliverable d = newDeliverable(m_project, to.toStdString(), &*m_footage.at("wide"));
    const auto brokenNow = [&] {
      std::set<std::string> codes;
      for (const SpecLine& each : linesOf(d))
        if (each.standing == Standing::Broken) codes.insert(each.code);
      return codes;
    };
    QVERIFY2(!brokenNow().contains(code.toStdString()), "it held before");
    spoil(d);
    const std::vector<SpecLine> lines = linesOf(d);
    const SpecLine* broken = line(lines, code.toStdString());
    QVERIFY2(broken && broken->standing == Standing::Broken, "its line has turned");
    QVERIFY2(!broken->fixes.empty(), "it has a button");
    QVERIFY2(!broken->fixes.front().words.empty(), "that says what it does");
    const auto before = brokenNow();
    broken->fixes.front().change(d);
    const auto after = brokenNow();
    QVERIFY2(!after.contains(code.toStdString()), "the button mends it");
    for (const std::string& each : after) QVERIFY2(before.contains(each), each.c_str());
  }

  // What is done with the pictures of a source stands in its line, and what mends either of two faults is offered.
  void sourcesAreTold_data() {
    QTest::addColumn<ChangeSource>("change");
    QTest::addColumn<QString>("value");
    QTest::addColumn<QStringList>("buttons");
    const auto row = [](const char* name, const char* value, const QStringList& buttons, ChangeSource change) {
      QTest::newRow(name) << change << QString::fromUtf8(value) << buttons;
    };
    row("as it is", "detail 1.12 · 25: every frame once", {}, [](Source&, MediaInfo&, Deliverable&) {});
    row("interlaced", "detail 1.12 · 25: every frame once · de-interlaced", {},
        [](Source& source, MediaInfo&, Deliverable&) { source.scan = Scan::TopFieldFirst; });
    row("high dynamic range", "detail 1.12 · 25: every frame once · tone-mapped to Rec. 709", {},
        [](Source&, MediaInfo& media, Deliverable&) { media.video->colour = kPq; });
    row("into high dynamic range", "detail 1.12 · 25: every frame once · put at reference white", {},
        [](Source&, MediaInfo&, Deliverable& d) {
          chooseCodec(d, Codec::Hevc);
          chooseColour(d, kHlg);
        });
    row("another matrix, and bars",
        "detail 1.00 · 25: every frame once · its matrix converted · burned-in bars cut away", {},
        [](Source& source, MediaInfo& media, Deliverable&) {
          media.video->colour.matrix = 6; // Rec. ITU-T H.273: of Rec. ITU-R BT.601
          source.bars = {0, 120, 0, 120};
        });
    row("soft", "soft 0.56 · 25: every frame once", {QStringLiteral("Use 606×1080")},
        [](Source&, MediaInfo& media, Deliverable&) {
          media.video->stored = {1920, 1080};
        });
    row("soft, and uneven", "soft 0.56 · 30: 1 in 6 dropped",
        {QStringLiteral("Deliver at 30"), QStringLiteral("Use 606×1080")}, [](Source&, MediaInfo& media, Deliverable&) {
          media.video->stored = {1920, 1080};
          media.video->clock = FrameClock(FrameRate(Rational(30)), 600);
        });
  }
  void sourcesAreTold() {
    QFETCH(ChangeSource, change);
    QFETCH(QString, value);
    QFETCH(QStringList, buttons);
    Deliverable d = story();
    change(m_project.sources.front(), *m_footage.at("wide"), d);
    const auto lines = linesOf(d);
    const SpecLine* told = line(lines, "source");
    QCOMPARE(QString::fromStdString(told->value.text()), value);
    QStringList offered;
    for (const Fix& each : told->fixes) offered << QString::fromStdString(each.words.text());
    QCOMPARE(offered, buttons);
  }

  // What the limits weigh before an export: what a standard or a house asks for is an error, what is usual a warning,
  // what is guessed a note.
  void limitsAreFindings_data() {
    QTest::addColumn<QByteArray>("to");
    QTest::addColumn<Change>("spoil");
    QTest::addColumn<QByteArray>("code");
    QTest::addColumn<int>("weight");
    const auto row = [](const char* to, const char* code, Severity weight, Change spoil) {
      QTest::newRow(code) << QByteArray(to) << spoil << QByteArray(code) << int(weight);
    };
    row("broadcast-review-50", "limit-rate", Severity::Error, [](Deliverable& d) { d.rate = FrameRate(Rational(30)); });
    row("vertical-story", "limit-canvas", Severity::Warning, [](Deliverable& d) { d.canvas = {1080, 1080}; });
    row("message", "limit-bytes", Severity::Note, [](Deliverable& d) { chooseBitRate(d, 20'000'000); });
  }
  void limitsAreFindings() {
    QFETCH(QByteArray, to);
    QFETCH(Change, spoil);
    QFETCH(QByteArray, code);
    QFETCH(int, weight);
    Deliverable d = newDeliverable(m_project, to.toStdString(), &*m_footage.at("wide"));
    spoil(d);
    m_project.deliverables = {d};
    int found = 0;
    for (const Finding& f : preflight(m_project, m_footage))
      if (f.code == code.toStdString()) {
        ++found;
        QCOMPARE(int(f.severity), weight);
        QCOMPARE(f.deliverable, d.name);
        QVERIFY(!f.fix.empty());
      }
    QCOMPARE(found, 1);
  }

  // How near a limit is, by the numbers. Length and bytes: bit rate times seconds, by hand.
  void limitsAreNear_data() {
    QTest::addColumn<qlonglong>("bitRate");
    QTest::addColumn<int>("seconds");
    QTest::addColumn<int>("length");
    QTest::addColumn<int>("bytes");
    // 16 MB are 128 Mb; sound takes 128 kb/s; at most 90 s.
    QTest::newRow("far") << 1'000'000LL << 60 << int(Standing::Met) << int(Standing::Met);         // 67.7 Mb
    QTest::newRow("near") << 1'900'000LL << 60 << int(Standing::Met) << int(Standing::Near);       // 121.7 Mb
    QTest::newRow("over") << 2'100'000LL << 60 << int(Standing::Met) << int(Standing::Broken);     // 133.7 Mb
    QTest::newRow("too long") << 1'000'000LL << 91 << int(Standing::Broken) << int(Standing::Met); // 102.6 Mb
  }
  void limitsAreNear() {
    QFETCH(qlonglong, bitRate);
    QFETCH(int, seconds);
    m_project.shots.front().out = Rational(seconds);
    Deliverable d = newDeliverable(m_project, "message", nullptr);
    chooseBitRate(d, bitRate);
    const auto lines = limitLines(m_project, m_footage, d);
    QTEST(int(line(lines, "limit-length")->standing), "length");
    QTEST(int(line(lines, "limit-bytes")->standing), "bytes");
  }

  // What follows for each source is said, and what would mend it.
  void sourcesAreSaid_data() {
    QTest::addColumn<Size>("source");
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<QString>("words");
    QTest::addColumn<QString>("fix");
    QTest::newRow("soft") << Size{1920, 1080} << Rational(25) << Size{1080, 1920} << "soft 0.56"
                          << "Use 606×1080";
    QTest::newRow("sharp") << Size{3840, 2160} << Rational(25) << Size{1080, 1920} << "detail 1.12"
                           << "";
    QTest::newRow("every other") << Size{1920, 1080} << Rational(50) << Size{1080, 1080} << "every other frame"
                                 << "";
    QTest::newRow("every one") << Size{1920, 1080} << Rational(25) << Size{1080, 1080} << "every frame once"
                               << "";
    QTest::newRow("uneven") << Size{1920, 1080} << Rational(30) << Size{1080, 1080} << "1 in 6 dropped"
                            << "Deliver at 30";
  }
  void sourcesAreSaid() {
    QFETCH(Size, source);
    QFETCH(Rational, rate);
    QFETCH(Size, canvas);
    QFETCH(QString, words);
    QFETCH(QString, fix);
    m_project = {};
    m_footage.clear();
    add("a", source, rate, Rational(4));
    Deliverable d = newDeliverable({}, "", nullptr);
    d.canvas = canvas;
    const auto lines = linesOf(d);
    const SpecLine* said = line(lines, "source");
    QVERIFY(said);
    QVERIFY2(QString::fromStdString(said->value.text()).contains(words), said->value.text().c_str());
    QCOMPARE(said->fixes.empty() ? QString() : QString::fromStdString(said->fixes.front().words.text()), fix);
  }

  // Numbers against those worked out by hand. 1080×1920 at 25: 51.84 million pixels; coded as 68 by 120 macroblocks,
  // 204 000 a second. H.264 level 4 has 32 768 macroblocks for decoded pictures (table A-1), 4 pictures of 8160, and
  // one is shown: 5 × 1088 × 1920 × 1.5 bytes. 8 Mb/s over 51.84 million pixels are 0.154. 20 s of 8 and 0.192 Mb/s
  // are 20.5 MB, which take 8 s at 20 Mb/s.
  void numbersAreRight() {
    m_project.shots.front().out = Rational(20);
    const auto lines = linesOf(newDeliverable(m_project, "vertical-story", &*m_footage.at("wide")));
    const auto value = [&](const char* code) { return QString::fromStdString(line(lines, code)->value.text()); };
    QCOMPARE(value("work"), QStringLiteral("51.8 million pixels, 204\u202f000 macroblocks a second"));
    QCOMPARE(value("memory"), QStringLiteral("16 MB for 5 pictures"));
    QVERIFY2(value("density").startsWith(QLatin1String("0.154")), qPrintable(value("density")));
    QCOMPARE(value("bytes"), QStringLiteral("about 20 MB for 0:20"));
    QVERIFY2(value("sending").startsWith(QLatin1String("0:08 at 20 Mb/s")), qPrintable(value("sending")));
    QVERIFY2(value("buffer").startsWith(QLatin1String("12.0 Mb, 1.0 s")), qPrintable(value("buffer")));
  }

  // Whatever is chosen after whatever else, what comes of it can be made; only a picture that a codec does not have at
  // all is left to be told.
  void choicesCanBeMade() {
    int made = 0;
    for (const PictureCodec& first : pictureCodecs())
      for (const SoundCodecInfo& sound : soundCodecs())
        for (const bool hardware : {false, true}) {
          Deliverable d = story();
          chooseCodec(d, first.codec);
          chooseHardware(d, hardware && !first.hardware.empty());
          d.encoding.tune = first.tunes.empty() ? std::string() : std::string(first.tunes.back().word);
          makeEncodable(d);
          chooseSoundCodec(d, sound.codec);
          chooseSoundPlace(d, SoundPlace::Beside);
          chooseRateControl(d, RateControl::Constant);
          for (const PictureCodec& second : pictureCodecs()) {
            Deliverable after = d;
            chooseCodec(after, second.codec);
            chooseColour(after, kPq);
            for (const ContainerInfo& into : containers())
              for (const Samples samples :
                   {Samples{8, Chroma::C420}, Samples{10, Chroma::C422}, Samples{16, Chroma::C444}}) {
                Deliverable last = after;
                chooseContainer(last, into.container);
                chooseSamples(last, samples);
                const Status holds = encodable(resolvedEncoding(last), pictureOf(last));
                QVERIFY2(holds, holds ? ""
                                      : (std::string(first.word) + ", then " + std::string(second.word) + " in " +
                                         std::string(into.word) + ": " + sentence(holds.error()))
                                            .c_str());
                ++made;
              }
          }
        }
    QVERIFY(made > 10'000);
  }

  // A choice keeps what is said beside it, and lets go of what meant something else.
  void choicesKeepWhatTheyCan() {
    Deliverable d = story();
    d.encoding.title = "Morning";
    d.encoding.chapters = Chapters::Shots;
    chooseChannels(d, 1);
    chooseBitRate(d, 5'000'000);
    d.encoding.crf = 18;
    chooseCodec(d, Codec::Vp9);
    QCOMPARE(d.encoding.title, std::string("Morning"));
    QCOMPARE(d.encoding.sound.channels, 1);
    QVERIFY2(d.encoding.chapters == Chapters::Shots, "WebM has a place for them");
    QVERIFY2(d.encoding.bitRate == 0 && !d.encoding.crf, "rates of H.264 mean nothing to VP9");
    chooseCodec(d, Codec::Gif);
    QVERIFY2(d.encoding.chapters == Chapters::None, "a loop has none");
    Deliverable sized = story();
    chooseCanvas(sized, {540, 960});
    QVERIFY2(sized.encoding.bitRate == 0, "the bit rate was for another size");
  }

  void shapesAreKnown_data() {
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<QByteArray>("name");
    QTest::newRow("full HD") << Size{1920, 1080} << QByteArray("16:9");
    QTest::newRow("rounded to even") << Size{606, 1080} << QByteArray("9:16");
    QTest::newRow("scope") << Size{2048, 858} << QByteArray("2.39");
    QTest::newRow("ultra-wide") << Size{2560, 1080} << QByteArray("21:9");
    QTest::newRow("none") << Size{1000, 700} << QByteArray();
  }
  void shapesAreKnown() {
    QFETCH(Size, canvas);
    QFETCH(QByteArray, name);
    const StandardShape* shape = standardShapeOf(canvas);
    QCOMPARE(shape ? QByteArray(shape->name.data(), qsizetype(shape->name.size())) : QByteArray(), name);
    if (shape) QVERIFY(sizeLike(*shape, shape->sizes.back()) == shape->sizes.back());
  }
};

QTEST_GUILESS_MAIN(TestSpec)
#include "tst_spec.moc"
