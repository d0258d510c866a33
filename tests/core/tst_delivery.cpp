// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/Destination.h"
#include "encoding/Encoding.h"
#include "encoding/H264Level.h"
#include "geometry/LegalSize.h"

#include <QTest>
#include <random>

using namespace tromb;

class TestDelivery : public QObject {
  Q_OBJECT

private slots:
  // ITU-T H.264 Table A-1: the lowest level for size and rate; libx264's own choice with one reference agrees.
  void lowestLevels_data() {
    QTest::addColumn<int>("w");
    QTest::addColumn<int>("h");
    QTest::addColumn<QString>("rate");
    QTest::addColumn<QString>("level");
    QTest::addColumn<int>("references");
    const struct {
      int w, h;
      const char* rate;
      const char* level;
      int references;
    } rows[] = {{720, 576, "25", "3", 5},         {720, 480, "29.97", "3", 6},   {1280, 720, "25", "3.1", 5},
                {1280, 720, "30", "3.1", 5},      {1280, 720, "50", "3.2", 5},   {1280, 720, "60", "3.2", 5},
                {1920, 1080, "25", "4", 4},       {1920, 1080, "30", "4", 4},    {1920, 1080, "50", "4.2", 4},
                {1920, 1080, "59.94", "4.2", 4},  {1080, 1920, "29.97", "4", 4}, {1080, 1920, "59.94", "4.2", 4},
                {1080, 1080, "30", "3.2", 4},     {1080, 1350, "30", "4", 5},    {864, 1080, "30", "3.2", 5},
                {640, 1136, "30", "3.1", 6},      {1920, 816, "24", "4", 5},     {2560, 1080, "30", "5", 10},
                {2560, 1440, "59.94", "5.1", 12}, {3840, 2160, "25", "5.1", 5},  {3840, 2160, "29.97", "5.1", 5},
                {3840, 2160, "59.94", "5.2", 5}};
    for (const auto& r : rows)
      QTest::addRow("%dx%d@%s", r.w, r.h, r.rate) << r.w << r.h << r.rate << r.level << r.references;
  }
  void lowestLevels() {
    QFETCH(int, w);
    QFETCH(int, h);
    QFETCH(QString, rate);
    QFETCH(QString, level);
    QFETCH(int, references);
    const H264Level* found = lowestLevel({w, h}, *FrameRate::parse(rate.toStdString()));
    QVERIFY(found);
    QCOMPARE(QLatin1String(found->name.data(), qsizetype(found->name.size())), level);
    QCOMPARE(maxReferences(*found, {w, h}), references);
  }
  // Table A-1 (MaxBR, MaxCPB) with the factors of Table A-2; libx264 warns just above these.
  void levelBitRates() {
    const struct {
      const char* level;
      const char* profile;
      int64_t rate, buffer;
    } rows[] = {{"4", "high", 25'000'000, 31'250'000},   {"4.1", "high", 62'500'000, 78'125'000},
                {"3.1", "high", 17'500'000, 17'500'000}, {"3.1", "main", 14'000'000, 14'000'000},
                {"4", "main", 20'000'000, 25'000'000},   {"5.1", "high", 300'000'000, 300'000'000}};
    for (const auto& r : rows) {
      QCOMPARE(maxBitRate(*levelByName(r.level), r.profile), r.rate);
      QCOMPARE(maxBufferBits(*levelByName(r.level), r.profile), r.buffer);
    }
    // One bit per second above the limit asks for the next level.
    QCOMPARE(lowestLevel({1920, 1080}, FrameRate(), "high", 25'000'000)->idc, 40);
    QCOMPARE(lowestLevel({1920, 1080}, FrameRate(), "high", 25'000'001)->idc, 41);
    // A side longer than √(8·MaxFS) macroblocks is beyond a level that its area would fit.
    QVERIFY(!carries(*levelByName("4"), {4112, 16}, FrameRate(), "high", 0));
    QVERIFY(levelByName("4.0") == levelByName("4"));
    QVERIFY(!levelByName("9"));
    QVERIFY(!lowestLevel({16384, 16384}, FrameRate(Rational(60))));
  }

  // A property over chance, by the conditions of ITU-T H.264 A.3 themselves: the lowest level carries what is asked and
  // the one before it does not; and what is resolved for any choice of rate control keeps to its level.
  void levelsAreTheLowestThatCarry() {
    std::mt19937 dice(23);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    const auto& levels = h264Levels();
    int found = 0;
    for (int i = 0; i < 4000; ++i) {
      const Size canvas{2 * (16 + upTo(2200)), 2 * (16 + upTo(1500))};
      const FrameRate rate(FrameRate::offered()[size_t(upTo(int(FrameRate::offered().size())))]);
      const std::string profile = upTo(2) ? "high" : "main";
      const int64_t bits = upTo(3) == 0 ? 0 : int64_t(upTo(400)) * 1'000'000 + 1;
      const auto fits = [&](const H264Level& level) {
        const int64_t mbs = macroblocks(canvas);
        const int64_t wide = (canvas.width + 15) / 16;
        const int64_t high = (canvas.height + 15) / 16;
        return mbs <= level.maxFs && wide * wide <= 8 * level.maxFs && high * high <= 8 * level.maxFs &&
               Rational(mbs) * rate.value() <= Rational(level.maxMbps) &&
               (bits == 0 || bits <= level.maxBr * (profile == "high" ? 1250 : 1000));
      };
      const H264Level* lowest = lowestLevel(canvas, rate, profile, bits);
      for (const H264Level& level : levels) {
        if (level.idc < 10) continue; // 1b
        if (lowest && level.idc < lowest->idc)
          QVERIFY(!fits(level));
        else
          QVERIFY2(!lowest || level.idc != lowest->idc || fits(level), level.name.data());
        QCOMPARE(carries(level, canvas, rate, profile, bits), fits(level));
      }
      if (!lowest) continue;
      ++found;
      Encoding asked;
      asked.profile = profile;
      asked.rateControl = RateControl(upTo(3));
      asked.bitRate = upTo(2) ? 0 : bits;
      const Encoding e = resolved(asked, canvas, rate);
      const H264Level* level = levelByName(e.level);
      const bool free = e.rateControl == RateControl::ConstantQuality; // of a peak, where none is given
      QVERIFY2(level, e.level.c_str());
      QVERIFY2(e.bitRate > 0, e.level.c_str());
      QVERIFY2((free ? e.maxBitRate == 0 : e.maxBitRate >= e.bitRate), e.level.c_str());
      if (lowestLevel(canvas, rate, profile, e.maxBitRate))
        QVERIFY(carries(*level, canvas, rate, profile, e.maxBitRate));
    }
    QVERIFY(found > 2000);
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
    const Encoding e = resolved({}, {1080, 1920}, FrameRate());
    QCOMPARE(e.level, std::string("4"));
    QCOMPARE(e.maxBitRate, 12'000'000);
    Encoding constant;
    constant.rateControl = RateControl::Constant;
    constant.bitRate = 30'000'000;
    QCOMPARE(resolved(constant, {1920, 1080}, FrameRate()).level, std::string("4.1")); // beyond level 4's 25 Mb/s
  }
  void bitRatesAreRead() {
    QCOMPARE(*parseBitRate("8M"), 8'000'000);
    QCOMPARE(*parseBitRate("1.5M"), 1'500'000);
    QCOMPARE(*parseBitRate("192k"), 192'000);
    QCOMPARE(*parseBitRate("2500000"), 2'500'000);
    for (const char* bad : {"", "M", "8G", "-1", "0", "8 M", "1e6", "99999999M"}) QVERIFY2(!parseBitRate(bad), bad);
  }
  void destinationsAreUsable() {
    QVERIFY2(destinationData().has_value(), destinationData() ? "" : sentence(destinationData().error()).c_str());
    QVERIFY(destinationData()->destinations.size() >= 5);
    for (const Destination& d : destinationData()->destinations) {
      QVERIFY(isLegalSize(d.canvas));
      QVERIFY(!d.basis.empty());
      QVERIFY(lowestLevel(d.canvas, d.mostRate, "high", d.bitRate * 3 / 2));
    }
    for (const ProjectTemplate& t : destinationData()->templates)
      for (const std::string& id : t.destinations) QVERIFY2(destination(id), id.c_str());
  }
};

QTEST_GUILESS_MAIN(TestDelivery)
#include "tst_delivery.moc"
