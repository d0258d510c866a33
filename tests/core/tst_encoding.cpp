// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/NewDeliverable.h"
#include "encoding/Encoding.h"
#include "project/Sharing.h"

#include <QTest>
#include <functional>
#include <random>

using namespace tromb;

/// What is chosen of an encoding and of the picture.
using Change = std::function<void(Encoding&, EncodedPicture&)>;
Q_DECLARE_METATYPE(Change)

class TestEncoding : public QObject {
  Q_OBJECT

private slots:
  // The lowest level for size and rate: ITU-T H.264 Table A-1 (libx264's own choice with one reference agrees), H.265
  // Tables A.8 and A.9 (libx265's agrees), the levels of VP9 and AV1 as their projects publish them.
  void lowestLevels_data() {
    QTest::addColumn<int>("w");
    QTest::addColumn<int>("h");
    QTest::addColumn<QString>("rate");
    QTest::addColumn<QStringList>("levels"); // H.264, HEVC, VP9, AV1
    QTest::addColumn<int>("references");     // of H.264 at its level
    const struct {
      int w, h;
      const char* rate;
      const char* levels;
      int references;
    } rows[] = {{720, 576, "25", "3 3 3 -", 5},           {720, 480, "29.97", "3 3 3 -", 6},
                {1280, 720, "25", "3.1 3.1 3.1 3.1", 5},  {1280, 720, "30", "3.1 3.1 3.1 3.1", 5},
                {1280, 720, "50", "3.2 4 4 4.0", 5},      {1280, 720, "60", "3.2 4 4 4.0", 5},
                {1920, 1080, "25", "4 4 4 4.0", 4},       {1920, 1080, "30", "4 4 4 4.0", 4},
                {1920, 1080, "50", "4.2 4.1 4.1 4.1", 4}, {1920, 1080, "59.94", "4.2 4.1 4.1 4.1", 4},
                {1080, 1920, "29.97", "4 4 4 4.0", 4},    {1080, 1920, "59.94", "4.2 4.1 4.1 4.1", 4},
                {1080, 1080, "30", "3.2 4 4 4.0", 4},     {1080, 1350, "30", "4 4 4 4.0", 5},
                {864, 1080, "30", "3.2 3.1 3.1 3.1", 5},  {640, 1136, "30", "3.1 3.1 3.1 3.1", 6},
                {1920, 816, "24", "4 4 4 4.0", 5},        {2560, 1080, "30", "5 5 5 5.0", 10},
                {2560, 1440, "59.94", "5.1 5 5 5.0", 12}, {3840, 2160, "25", "5.1 5 5 5.0", 5},
                {3840, 2160, "29.97", "5.1 5 5 5.0", 5},  {3840, 2160, "59.94", "5.2 5.1 5.1 5.1", 5}};
    for (const auto& r : rows)
      QTest::addRow("%dx%d@%s", r.w, r.h, r.rate)
          << r.w << r.h << r.rate << QString::fromLatin1(r.levels).split(' ') << r.references;
  }
  void lowestLevels() {
    QFETCH(int, w);
    QFETCH(int, h);
    QFETCH(QString, rate);
    QFETCH(QStringList, levels);
    QFETCH(int, references);
    const LevelTable::Demand demand{.canvas = {w, h}, .rate = *FrameRate::parse(rate.toStdString())};
    const LevelTable* tables[] = {&h264Levels(), &hevcLevels(), &vp9Levels(), &av1Levels()};
    for (qsizetype i = 0; i < 4; ++i) {
      if (levels[i] == QStringLiteral("-")) continue;
      const Level* found = tables[i]->lowest(demand);
      QVERIFY(found);
      QCOMPARE(QLatin1String(found->name.data(), qsizetype(found->name.size())), levels[i]);
    }
    QCOMPARE(h264Levels().maxReferences(*h264Levels().lowest(demand), {w, h}), references);
  }

  // The largest bit rate of a level, and that one bit more asks for the next one. H.264 Table A-1 with the factors of
  // Table A-2 (libx264 warns just above these); H.265 Table A.9; VP9 and AV1 as their projects publish them.
  void bitRatesOfLevels_data() {
    QTest::addColumn<QString>("codec");
    QTest::addColumn<QString>("profile");
    QTest::addColumn<QString>("level");
    QTest::addColumn<bool>("high");
    QTest::addColumn<qint64>("most");
    QTest::addColumn<QString>("next");
    const struct {
      const char *codec, *profile, *level;
      bool high;
      qint64 most;
      const char* next;
    } rows[] = {
        {"h264", "high", "4", false, 25'000'000, "4.1"},      {"h264", "high", "4.1", false, 62'500'000, "5"},
        {"h264", "main", "4", false, 20'000'000, "4.1"},      {"h264", "high10", "4", false, 60'000'000, "4.1"},
        {"h264", "baseline", "5", false, 135'000'000, "5.1"}, {"h264", "high", "5.1", false, 300'000'000, "6.1"},
        {"hevc", "main", "4", false, 12'000'000, "4.1"},      {"hevc", "main", "4", true, 30'000'000, "4.1"},
        {"hevc", "main10", "4.1", false, 20'000'000, "5"},    {"hevc", "main", "5.1", true, 160'000'000, "5.2"},
        {"vp9", "0", "4", false, 18'000'000, "4.1"},          {"vp9", "2", "5", false, 60'000'000, "5.1"},
        {"av1", "main", "4.0", false, 12'000'000, "4.1"},     {"av1", "main", "4.1", true, 50'000'000, "5.0"},
    };
    for (const auto& r : rows)
      QTest::addRow("%s %s %s%s", r.codec, r.profile, r.level, r.high ? " high tier" : "")
          << r.codec << r.profile << r.level << r.high << r.most << r.next;
  }
  void bitRatesOfLevels() {
    QFETCH(QString, codec);
    QFETCH(QString, profile);
    QFETCH(QString, level);
    QFETCH(bool, high);
    QFETCH(qint64, most);
    QFETCH(QString, next);
    const PictureCodec& info = *byWord(pictureCodecs(), codec.toStdString());
    LevelTable::Demand demand{
        .canvas = {1920, 1080}, .rate = FrameRate(), .factor = info.profile(profile.toStdString())->factor};
    demand.highTier = high;
    demand.bitRate = most;
    const Level* named = info.levels->byName(level.toStdString());
    QVERIFY(info.levels->carries(*named, demand));
    demand.bitRate = most + 1;
    QVERIFY(!info.levels->carries(*named, demand));
    const Level* after = info.levels->lowest(demand);
    QVERIFY(after);
    QCOMPARE(QLatin1String(after->name.data(), qsizetype(after->name.size())), next);
  }

  void limitsOfLevels() {
    // Sides longer than √(8·MaxFS) macroblocks, √(8·MaxLumaPs) samples, and AV1's own height, beside areas that fit.
    QVERIFY(!h264Levels().carries(*h264Levels().byName("4"), {.canvas = {4112, 16}, .rate = FrameRate()}));
    QVERIFY(!hevcLevels().carries(*hevcLevels().byName("4"), {.canvas = {4232, 64}, .rate = FrameRate()}));
    QVERIFY(hevcLevels().carries(*hevcLevels().byName("4"), {.canvas = {4216, 64}, .rate = FrameRate()}));
    QVERIFY(!av1Levels().carries(*av1Levels().byName("2.0"), {.canvas = {112, 1154}, .rate = FrameRate()}));
    QVERIFY(av1Levels().carries(*av1Levels().byName("2.0"), {.canvas = {112, 1152}, .rate = FrameRate()}));
    // H.265 A.4.2: pictures that the buffer holds.
    QCOMPARE(hevcLevels().maxReferences(*hevcLevels().byName("4"), {1920, 1080}), 6);
    QCOMPARE(hevcLevels().maxReferences(*hevcLevels().byName("4"), {1280, 720}), 12);
    QVERIFY(h264Levels().byName("4.0") == h264Levels().byName("4"));
    QVERIFY(av1Levels().byName("4") == av1Levels().byName("4.0"));
    QVERIFY(!h264Levels().byName("9"));
    QVERIFY(!h264Levels().lowest({.canvas = {16384, 16384}, .rate = FrameRate(Rational(60))}));
    QCOMPARE(h264Levels().byName("1b")->idc, 9);
    // seq_level_idx = 4·(X − 2) + Y; level_idc = 30 · level.
    QCOMPARE(av1Levels().byName("5.1")->idc, 13);
    QCOMPARE(hevcLevels().byName("4.1")->idc, 123);
  }

  // What a level lacks is said by name and number, of level 3 by Rec. ITU-T H.264, tables: 1620 macroblocks
  // of a picture, 40 500 a second, 8100 for decoded pictures, 10 Mb/s and 10 Mb, a quarter more in High.
  void whatALevelLacksIsSaid_data() {
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<int>("rate");
    QTest::addColumn<int>("kilobits");
    QTest::addColumn<int>("buffer"); // kb
    QTest::addColumn<int>("references");
    QTest::addColumn<QString>("said");
    const auto row = [](const char* name, Size canvas, int rate, int kilobits, int buffer, int references,
                        const char* said) {
      QTest::newRow(name) << canvas << rate << kilobits << buffer << references << QString::fromUtf8(said);
    };
    row("it carries", {720, 576}, 25, 12'500, 12'500, 5, "");
    row("picture", {736, 576}, 25, 8000, 8000, 1, "H.264 level 3 has no pictures of 736×576");
    row("rate", {720, 576}, 30, 8000, 8000, 1, "H.264 level 3 cannot carry 720×576 at 30");
    row("bit rate", {720, 576}, 25, 13'000, 13'000, 1,
        "H.264 level 3 carries 12.5 Mb/s at most, and 13 Mb/s are asked for");
    row("buffer", {720, 576}, 25, 8000, 13'000, 1,
        "H.264 level 3 has a decoder's buffer of 12.5 Mb at most, and 13 Mb are asked for");
    row("references", {720, 576}, 25, 8000, 8000, 6,
        "H.264 level 3 keeps 5 pictures of this size at most, and 6 are asked for");
  }
  void whatALevelLacksIsSaid() {
    QFETCH(Size, canvas);
    QFETCH(int, rate);
    QFETCH(int, kilobits);
    QFETCH(int, buffer);
    QFETCH(int, references);
    QFETCH(QString, said);
    Encoding e;
    e.level = "3";
    e.bitRate = e.maxBitRate = int64_t(kilobits) * 1000;
    e.bufferBits = int64_t(buffer) * 1000;
    e.references = references;
    const EncodedPicture picture{canvas, FrameRate(Rational(rate)), {}, Rational(1)};
    const Status carried = levelCarries(resolved(e, picture), picture);
    QCOMPARE(carried ? QString() : QString::fromStdString(carried.error().message.text()), said);
  }

  // A property over chance, by the conditions of ITU-T H.264 A.3 themselves: the lowest level carries what is asked and
  // the one before it does not; and what is resolved for any choice of rate control keeps to its level.
  void levelsAreTheLowestThatCarry() {
    std::mt19937 dice(23);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    struct Row {
      const char* name;
      int64_t mbps, fs, br;
    };
    const Row rows[] = {{"3", 40500, 1620, 10000},     {"3.1", 108000, 3600, 14000},   {"3.2", 216000, 5120, 20000},
                        {"4", 245760, 8192, 20000},    {"4.1", 245760, 8192, 50000},   {"4.2", 522240, 8704, 50000},
                        {"5", 589824, 22080, 135000},  {"5.1", 983040, 36864, 240000}, {"5.2", 2073600, 36864, 240000},
                        {"6", 4177920, 139264, 240000}};
    int found = 0;
    for (int i = 0; i < 4000; ++i) {
      const Size canvas{2 * (16 + upTo(2200)), 2 * (16 + upTo(1500))};
      const FrameRate rate(FrameRate::offered()[size_t(upTo(int(FrameRate::offered().size())))]);
      const std::string profile = upTo(2) ? "high" : "main";
      const int64_t bits = upTo(3) == 0 ? 0 : int64_t(upTo(300)) * 1'000'000 + 1;
      LevelTable::Demand demand{.canvas = canvas, .rate = rate, .factor = profile == "high" ? 1.25 : 1};
      demand.bitRate = bits;
      const Level* lowest = h264Levels().lowest(demand);
      for (const Row& row : rows) {
        const int64_t wide = (canvas.width + 15) / 16;
        const int64_t high = (canvas.height + 15) / 16;
        const bool fits = wide * high <= row.fs && wide * wide <= 8 * row.fs && high * high <= 8 * row.fs &&
                          Rational(wide * high) * rate.value() <= Rational(row.mbps) &&
                          bits <= row.br * (profile == "high" ? 1250 : 1000);
        QCOMPARE(h264Levels().carries(*h264Levels().byName(row.name), demand), fits);
        if (fits) QVERIFY2(lowest && lowest->idc <= h264Levels().byName(row.name)->idc, row.name);
      }
      if (!lowest) continue;
      ++found;
      Encoding asked;
      asked.profile = profile;
      asked.rateControl = RateControl(upTo(3));
      asked.bitRate = upTo(2) ? 0 : bits;
      const EncodedPicture picture{canvas, rate, {}};
      const Encoding e = resolved(asked, picture);
      const bool free = e.rateControl == RateControl::ConstantQuality; // of a peak, where none is given
      QVERIFY2(e.bitRate > 0, e.level.c_str());
      QVERIFY2((free ? e.maxBitRate == 0 : e.maxBitRate >= e.bitRate), e.level.c_str());
      if (h264Levels().lowest(demandOf(e, picture))) QVERIFY2(levelCarries(e, picture), e.level.c_str());
    }
    QVERIFY(found > 2000);
  }

  // What goes together and what does not, by the standards and by what the encoders take; a refusal says what could be
  // had instead.
  void illegalCombinationsAreRefused_data() {
    QTest::addColumn<QString>("codec");
    QTest::addColumn<Change>("change");
    QTest::addColumn<QString>("what");
    QTest::addColumn<QString>("instead");
    const auto row = [](const char* codec, const char* what, const char* instead, const Change& change) {
      QTest::addRow("%s: %s", codec, what) << codec << change << what << instead;
    };
    using E = Encoding;
    using P = EncodedPicture;
    const Chroma c420 = Chroma::C420;
    const Chroma full = Chroma::C444;
    row("vp9", "VP9 is not put into MP4", "webm or mkv", [](E& e, P&) { e.container = Container::Mp4; });
    row("vc3", "no pictures of 8-bit 4:2:0", "8-bit 4:2:2 or 10-bit 4:2:2", [](E&, P&) {});
    row("h264", "not delivered in high dynamic range", "HEVC, VP9 or AV1", [=](E&, P& p) {
      p.format = {10, c420, kHlg};
    });
    row("hevc", "needs 10 bits", "depth of 10", [=](E&, P& p) { p.format = {8, c420, kPq}; });
    row("ffv1", "no rate control 'vbr'", "settled", [](E& e, P&) { e.rateControl = RateControl::Variable; });
    row("vp9", "no rate control 'cbr'", "vbr or crf", [](E& e, P&) { e.rateControl = RateControl::Constant; });
    row("vp9", "constant quality 64 is not on the scale", "1 to 63", [](E& e, P&) { e.crf = 64; });
    row("av1", "whole numbers", "32", [](E& e, P&) { e.crf = 31.6; });
    row("h264", "two passes are for an average", "vbr", [](E& e, P&) { e.passes = 2, e.crf = 20; });
    row("av1", "in one pass", "one pass", [](E& e, P&) { e.passes = 2, e.rateControl = RateControl::Variable; });
    row("hevc", "no profile 'high'", "main or main10", [](E& e, P&) { e.profile = "high"; });
    row("h264", "profile high of H.264 has no pictures of 10-bit", "high10",
        [](E& e, P& p) { e.profile = "high", p.format.depth = 10; });
    row("hevc", "'7.3' is no level", "6.1 or 6.2", [](E& e, P&) { e.level = "7.3"; });
    row("h264", "not encoded in a high tier", "main tier", [](E& e, P&) { e.highTier = true; });
    row("hevc", "no high tier at level 3.1", "main tier", [](E& e, P&) { e.highTier = true, e.level = "3.1"; });
    row("vp9", "'medium' is no speed", "5, 4, 3, 2, 1 or 0", [](E& e, P&) { e.speed = "medium"; });
    row("h264", "cannot be tuned for 'screen'", "film, drawn or grain", [](E& e, P&) { e.tune = "screen"; });
    row("h264", "key frames cannot be 60/1 s apart", "20/1", [](E& e, P&) { e.keySeconds = Rational(60); });
    row("vp9", "settles by itself", "none", [](E& e, P&) { e.bPictures = 2; });
    row("av1", "cannot be told to leave out key frames", "them", [](E& e, P&) { e.keysAtCuts = false; });
    row("h264", "profile baseline has no CABAC", "CAVLC",
        [](E& e, P&) { e.profile = "baseline", e.entropy = Entropy::Cabac; });
    row("h264", "bit rate of 1 kb/s", "10 kb/s", [](E& e, P&) { e.bitRate = 1000; });
    row("av1", "does not hold a peak", "none", [](E& e, P&) { e.maxBitRate = 5'000'000; });
    row("h264", "peak of 1 Mb/s lies below", "2 Mb/s or more",
        [](E& e, P&) { e.bitRate = 2'000'000, e.maxBitRate = 1'000'000; });
    row("h264", "Opus is not put into MOV", "aac, mp3, pcm16 or pcm24",
        [](E& e, P&) { e.container = Container::Mov, e.sound.codec = SoundCodec::Opus; });
    row("vp9", "no sample rate of 44100", "48000", [](E& e, P&) { e.sound.sampleRate = 44'100; });
    row("h264", "AAC has no bit rate of 2 Mb/s", "8 kb/s to 512 kb/s", [](E& e, P&) { e.sound.bitRate = 2'000'000; });
    row("h264", "MP3 has no 6 channels", "2 or 1",
        [](E& e, P&) { e.sound.codec = SoundCodec::Mp3, e.sound.channels = 6; });
    row("h264", "AAC has no 4 channels", "2, 1 or 6", [](E& e, P&) { e.sound.channels = 4; });
    row("h264", "sound of AAC alone is not put into WAV", "m4a", [](E& e, P&) {
      e.sound.place = SoundPlace::Alone, e.container = Container::Wav, e.sound.codec = SoundCodec::Aac;
    });
    row("h264", "H.264 is not put into FLAC", "mp4, mov or mkv", [](E& e, P&) { e.container = Container::Flac; });
    const auto hard = [&row](const char* codec, const char* what, const char* instead, const Change& change) {
      row(codec, what, instead, [change](E& e, P& p) {
        e.hardware = true;
        change(e, p);
      });
    };
    hard("av1", "graphics hardware does not encode AV1 here", "software", [](E&, P&) {});
    hard("h264", "no H.264 with pictures of 10-bit", "8-bit 4:2:0", [](E&, P& p) { p.format.depth = 10; });
    hard("hevc", "high dynamic range is encoded in software", "rec709", [=](E&, P& p) { p.format = {10, c420, kHlg}; });
    hard("h264", "a constant rate is encoded in software", "vbr",
         [](E& e, P&) { e.rateControl = RateControl::Constant; });
    hard("hevc", "encodes in one pass", "one pass", [](E& e, P&) { e.passes = 2; });
    hard("h264", "have a speed of their own", "none", [](E& e, P&) { e.speed = "slow"; });
    hard("h264", "are not tuned", "none", [](E& e, P&) { e.tune = "film"; });
    hard("h264", "settle by themselves on groups", "software", [](E& e, P&) { e.keysAtCuts = false; });
    const auto copied = [&row](const char* codec, const char* what, const char* instead, const Change& change) {
      row(codec, what, instead, [change](E& e, P& p) {
        e.copies = true;
        change(e, p);
      });
    };
    copied("av1", "pictures of AV1 are not copied", "h264, hevc or vp9", [](E&, P&) {});
    copied("h264", "copied pictures keep to no bit rate", "constant quality",
           [](E& e, P&) { e.rateControl = RateControl::Variable; });
    copied("h264", "copied pictures keep to no bit rate", "without a peak",
           [](E& e, P&) { e.rateControl = RateControl::ConstantQuality, e.maxBitRate = 8'000'000; });
    copied("hevc", "is encoded in software", "software",
           [](E& e, P&) { e.rateControl = RateControl::ConstantQuality, e.hardware = true; });
    row("gif", "no more than 50 pictures", "50 or fewer",
        [=](E&, P& p) { p.rate = FrameRate(Rational(60)), p.format.chroma = full; });
    row("gif", "GIF has square pixels", "1/1",
        [=](E&, P& p) { p.pixelAspect = Rational(4, 3), p.format.chroma = full; });
    row("webp", "WebP has no place for chapter marks", "none", [](E& e, P&) { e.chapters = Chapters::Shots; });
    row("webp", "constant quality 0 is not on the scale", "1 to 100",
        [=](E& e, P& p) { e.crf = 0, p.format.chroma = full; });
    row("ffv1", "takes what it needs", "no bit rate",
        [](E& e, P&) { e.sound.codec = SoundCodec::Flac, e.sound.bitRate = 128'000; });
    row("av1", "no pictures as small as 64×36", "64×64", [](E&, P& p) { p.size = {64, 36}; });
    row("vc3", "no pictures as small as 200×200", "256×120", [](E&, P& p) {
      p.size = {200, 200}, p.format.chroma = Chroma::C422;
    });
  }
  void illegalCombinationsAreRefused() {
    QFETCH(QString, codec);
    QFETCH(Change, change);
    QFETCH(QString, what);
    QFETCH(QString, instead);
    Encoding e;
    e.codec = byWord(pictureCodecs(), codec.toStdString())->codec;
    EncodedPicture picture{{1280, 720}, FrameRate(), {}};
    change(e, picture);
    const Status holds = encodable(resolved(e, picture), picture);
    QVERIFY2(!holds, "it was taken");
    const QString said = QString::fromStdString(holds.error().message.text());
    QVERIFY2(said.contains(what), qPrintable(said));
    const QString hint = QString::fromStdString(holds.error().hint.text());
    QVERIFY2(hint.contains(instead), qPrintable(hint));
  }

  // RFC 6381 and the examples of ISO/IEC 14496-15 and of AV1's binding (hvc1 and av01 from memory).
  void codecsParameters_data() {
    QTest::addColumn<QString>("codec");
    QTest::addColumn<QString>("profile");
    QTest::addColumn<QString>("level");
    QTest::addColumn<bool>("high");
    QTest::addColumn<int>("depth");
    QTest::addColumn<QString>("text");
    const auto row = [](const char* codec, const char* profile, const char* level, bool high, int depth,
                        const char* text) {
      QTest::newRow(text) << codec << profile << level << high << depth << text;
    };
    row("h264", "high", "3.1", false, 8, "avc1.64001F");
    row("h264", "high", "4", false, 8, "avc1.640028");
    row("h264", "main", "3.1", false, 8, "avc1.4D401F");
    row("h264", "baseline", "3.1", false, 8, "avc1.42C01F");
    row("hevc", "main", "3.1", false, 8, "hvc1.1.6.L93");
    row("hevc", "main10", "5.1", true, 10, "hvc1.2.4.H153");
    row("av1", "main", "4.0", false, 8, "av01.0.08M.08");
    row("av1", "main", "5.1", false, 10, "av01.0.13M.10");
  }
  void codecsParameters() {
    QFETCH(QString, codec);
    QFETCH(QString, profile);
    QFETCH(QString, level);
    QFETCH(bool, high);
    QFETCH(int, depth);
    QFETCH(QString, text);
    Encoding e;
    e.codec = byWord(pictureCodecs(), codec.toStdString())->codec;
    e.profile = profile.toStdString();
    e.level = level.toStdString();
    e.highTier = high;
    QCOMPARE(QString::fromStdString(codecsBegin(e, depth)), text);
  }

  // A tier that is not needed is not written by the encoder, so it is not promised (H.265, table A.9: 20 and 50 Mb/s).
  void aTierIsNeededOrRefused() {
    Encoding e;
    e.codec = Codec::Hevc;
    e.level = "4.1";
    e.highTier = true;
    const EncodedPicture picture{{1920, 1080}, FrameRate(), {}};
    for (const auto& [peak, taken] : {std::pair(20'000'000, false), std::pair(20'000'001, true),
                                      std::pair(50'000'000, true), std::pair(50'000'001, false)}) {
      e.maxBitRate = peak;
      QCOMPARE(levelCarries(resolved(e, picture), picture).has_value(), taken);
    }
  }

  // A destination's bit rates are of H.264 and of sound that has one: every codec takes its canvas all the same.
  void aDestinationSuitsEveryCodec() {
    for (const PictureCodec& codec : pictureCodecs())
      for (const Destination& to : destinationData()->destinations) {
        Deliverable d;
        recommend(d, to);
        d.encoding.codec = codec.codec;
        d.encoding.bitRate = 0;
        d.format = codec.fitting(d.format);
        const Status holds = encodable(resolvedEncoding(d), pictureOf(d));
        QVERIFY2(holds, holds ? "" : (std::string(codec.word) + " " + to.id + ": " + sentence(holds.error())).c_str());
        Deliverable later;
        later.encoding.codec = codec.codec;
        later.format = codec.fitting(later.format);
        later.encoding.sound.codec = resolvedEncoding(later).sound.codec;
        recommend(later, to);
        const Status then = encodable(resolvedEncoding(later), pictureOf(later));
        QVERIFY2(then, then ? "" : (std::string(codec.word) + " " + to.id + ": " + sentence(then.error())).c_str());
      }
  }

  // Of every file somebody is told who can play it: fewer where the level is higher, fewest of unusual samples.
  void everyFileHasPlayers() {
    for (const PictureCodec& codec : pictureCodecs()) {
      QVERIFY2(!codec.players.empty(), std::string(codec.word).c_str());
      const Players& last = codec.players.back();
      QVERIFY2(last.mostLevel == 0 && !last.samples, "the last row holds for what the others leave");
    }
    const PictureCodec& h264 = infoOf(Codec::H264);
    const Samples usual{8, Chroma::C420};
    for (const auto& [lower, higher] : {std::pair{31, 32}, {42, 50}, {52, 60}})
      QVERIFY(!(h264.playedBy(usual, lower) == h264.playedBy(usual, higher)));
    QVERIFY(!(h264.playedBy({10, Chroma::C420}, 31) == h264.playedBy(usual, 60)));
  }

  // Whatever nobody has chosen goes together: each codec in each of its containers and forms.
  void theUsualGoesTogether() {
    int seen = 0;
    for (const PictureCodec& codec : pictureCodecs())
      for (const Container container : codec.containers)
        for (const Samples& samples : codec.samples) {
          Encoding e;
          e.codec = codec.codec;
          e.container = container;
          const EncodedPicture picture{{1080, 1920}, FrameRate(), {samples.depth, samples.chroma, kRec709}};
          const Encoding all = resolved(e, picture);
          const Status holds = encodable(all, picture);
          QVERIFY2(holds, holds ? "" : sentence(holds.error()).c_str());
          QVERIFY2(levelCarries(all, picture), all.level.c_str());
          ++seen;
        }
    QCOMPARE(seen, 3 * 2 + 3 * 2 + 2 * 2 + 3 * 2 + 4 + 2 + 1 + 1);
  }

  // Size arithmetic: bytes = (video + audio) · s / 8.
  void sizes() {
    const struct {
      int64_t video, audio;
      int seconds;
      int64_t bytes;
    } rows[] = {{8'000'000, 192'000, 60, 61'440'000},
                {5'000'000, 128'000, 90, 57'690'000},
                {3'500'000, 128'000, 15, 6'802'500},
                {20'000'000, 320'000, 600, 1'524'000'000},
                {45'000'000, 384'000, 60, 340'380'000}};
    for (const auto& r : rows) QCOMPARE(estimatedBytes(r.video, r.audio, Rational(r.seconds)), r.bytes);
    QVERIFY(std::abs(bitsPerPixel(8'000'000, {1920, 1080}, FrameRate(Rational(30))) - 0.128601) < 1e-6);
    QVERIFY(std::abs(bitsPerPixel(5'000'000, {1080, 1920}, FrameRate(Rational(30000, 1001))) - 0.080456) < 1e-6);
    QCOMPARE(bytesText(61'440'000), std::string("61 MB"));
    QCOMPARE(bitRateText(8'000'000), std::string("8 Mb/s"));
    QCOMPARE(bitRateText(192'000), std::string("192 kb/s"));
  }
  // 8 Mb/s for 1080p30 and about half as much again at 50 or 60: common practice, no published source.
  void usualBitRates() {
    QCOMPARE(usualBitRate({1920, 1080}, FrameRate(Rational(30))), 8'000'000);
    QCOMPARE(usualBitRate({1920, 1080}, FrameRate(Rational(50))), 12'000'000);
    QCOMPARE(usualBitRate({1080, 1920}, FrameRate()), 8'000'000);
    const Encoding e = resolved({}, {{1080, 1920}, FrameRate(), {}});
    QCOMPARE(e.level, std::string("4"));
    QCOMPARE(e.maxBitRate, 12'000'000);
    Encoding constant;
    constant.rateControl = RateControl::Constant;
    constant.bitRate = 30'000'000;
    QCOMPARE(resolved(constant, {{1920, 1080}, FrameRate(), {}}).level, std::string("4.1")); // beyond level 4's 25 Mb/s
  }
  // 1080 lines have a normal version at 12 Mb/s with a peak of 24, and a high one at 20 and 50: common practice, no
  // published source.
  void highVersions_data() {
    using Alone = std::function<void(Encoding&)>;
    QTest::addColumn<Alone>("change");
    QTest::addColumn<double>("crf");  // 0: none
    QTest::addColumn<int>("bitRate"); // kb/s
    QTest::addColumn<int>("peak");
    QTest::addColumn<int>("sound");
    QTest::addColumn<QString>("refused");
    const auto row = [](const char* name, const Alone& change, double crf, int bitRate, int peak, int sound,
                        const char* refused = "") {
      QTest::newRow(name) << change << crf << bitRate << peak << sound << refused;
    };
    row(
        "12 to 24 Mb/s", [](Encoding& e) { e.bitRate = 12'000'000, e.maxBitRate = 24'000'000; }, 0, 20'000, 50'000,
        256);
    row(
        "the usual", [](Encoding&) {}, 0, 13'300, 33'300, 256);
    row(
        "constant", [](Encoding& e) { e.rateControl = RateControl::Constant, e.bitRate = 12'000'000; }, 0, 20'000,
        20'000, 256);
    row(
        "constant quality", [](Encoding& e) { e.rateControl = RateControl::ConstantQuality; }, 16, 0, 0, 256);
    row(
        "at the end of the scale", [](Encoding& e) { e.rateControl = RateControl::ConstantQuality, e.crf = 2; }, 1, 0,
        0, 256);
    row(
        "sound above that of music", [](Encoding& e) { e.sound.bitRate = 320'000; }, 0, 13'300, 33'300, 320);
    row(
        "a loop, more is better", [](Encoding& e) { e.codec = Codec::Webp, e.sound.place = SoundPlace::None; }, 88, 0,
        0, 0);
    row(
        "lossless, with sound that is not", [](Encoding& e) { e.codec = Codec::Ffv1; }, 0, 0, 0, 0,
        "FFV1 settles its bit rate itself: there is no higher version of it");
    row(
        "sound alone that loses nothing",
        [](Encoding& e) { e.sound.place = SoundPlace::Alone, e.sound.codec = SoundCodec::Flac; }, 0, 0, 0, 0,
        "its sound loses nothing: there is no higher version of it");
  }
  void highVersions() {
    using Alone = std::function<void(Encoding&)>;
    QFETCH(const Alone, change);
    QFETCH(const QString, refused);
    Project project;
    Deliverable normal;
    normal.id = "d1";
    normal.name = "Wide";
    change(normal.encoding);
    project.deliverables = {normal};
    const auto high = highVersionOf(project, normal, "Wide");
    QCOMPARE(high ? QString() : QString::fromStdString(high.error().message.text()), refused);
    if (!high) return;
    QCOMPARE(high->sharesWith, normal.id);
    QVERIFY2(high->name != normal.name, "no two have one name");
    const Encoding e = resolvedEncoding(*high);
    QVERIFY(encodable(e, pictureOf(*high)));
    QVERIFY(levelCarries(e, pictureOf(*high)));
    const bool byQuality = *e.rateControl == RateControl::ConstantQuality;
    QTEST(byQuality ? *e.crf : 0.0, "crf");
    QTEST(byQuality ? 0 : int(e.bitRate / 1000), "bitRate");
    QTEST(byQuality ? 0 : int(e.maxBitRate / 1000), "peak");
    QTEST(e.sound.place == SoundPlace::None ? 0 : int(e.sound.bitRate / 1000), "sound");
  }
  void bitRatesAreRead() {
    QCOMPARE(*parseBitRate("8M"), 8'000'000);
    QCOMPARE(*parseBitRate("1.5M"), 1'500'000);
    QCOMPARE(*parseBitRate("192k"), 192'000);
    QCOMPARE(*parseBitRate("2500000"), 2'500'000);
    for (const char* bad : {"", "M", "8G", "-1", "0", "8 M", "1e6", "99999999M"}) QVERIFY2(!parseBitRate(bad), bad);
  }
};

QTEST_GUILESS_MAIN(TestEncoding)
#include "tst_encoding.moc"
