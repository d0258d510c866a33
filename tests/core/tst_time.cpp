// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/Plan.h"
#include "time/Cadence.h"
#include "time/FrameClock.h"
#include "time/Timecode.h"

#include <QTest>
#include <array>
#include <random>

using namespace tromb;

class TestTime : public QObject {
  Q_OBJECT

private slots:
  // Exact rationals after SMPTE ST 12-1; tick lengths at 90 kHz are arithmetic.
  void rateNames_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<int>("num");
    QTest::addColumn<int>("den");
    QTest::addColumn<QString>("name");
    const struct {
      const char* text;
      int num, den;
      const char* name;
    } rows[] = {{"23.976", 24000, 1001, "23.976"},
                {"23.98", 24000, 1001, "23.976"},
                {"29.97", 30000, 1001, "29.97"},
                {"59.94", 60000, 1001, "59.94"},
                {"119.88", 120000, 1001, "119.88"},
                {"25", 25, 1, "25"},
                {"30000/1001", 30000, 1001, "29.97"},
                {"50/2", 25, 1, "25"},
                {"25/2", 25, 2, "25/2"}};
    for (const auto& r : rows) QTest::newRow(r.text) << r.text << r.num << r.den << r.name;
    for (const char* bad : {"", "0", "-25", "1001", "60.0", "25fps", "1/0", "29.98", "9999999999999999999"})
      QTest::newRow(qPrintable(QStringLiteral("refused '%1'").arg(QLatin1String(bad)))) << bad << 0 << 0 << "";
  }
  void rateNames() {
    QFETCH(QString, text);
    QFETCH(int, num);
    QFETCH(int, den);
    QFETCH(QString, name);
    const auto rate = FrameRate::parse(text.toStdString());
    QCOMPARE(rate.has_value(), num > 0);
    if (!rate) {
      QVERIFY(!rate.error().hint.empty());
      return;
    }
    QCOMPARE(rate->value(), Rational(num, den));
    QCOMPARE(QString::fromStdString(rate->name()), name);
  }

  // SMPTE ST 12-1 labels, as libavutil's timecode.c and an independent walk over a day's labels give them.
  void timecodes_data() {
    QTest::addColumn<int>("num");
    QTest::addColumn<int>("den");
    QTest::addColumn<qint64>("frame");
    QTest::addColumn<QString>("label");
    const struct {
      int num, den;
      qint64 frame;
      const char* label;
    } rows[] = {{30000, 1001, 0, "00:00:00;00"},      {30000, 1001, 1799, "00:00:59;29"},
                {30000, 1001, 1800, "00:01:00;02"},   {30000, 1001, 3597, "00:01:59;29"},
                {30000, 1001, 3598, "00:02:00;02"},   {30000, 1001, 17981, "00:09:59;29"},
                {30000, 1001, 17982, "00:10:00;00"},  {30000, 1001, 19782, "00:11:00;02"},
                {30000, 1001, 107892, "01:00:00;00"}, {30000, 1001, 2589407, "23:59:59;29"},
                {60000, 1001, 3600, "00:01:00;04"},   {60000, 1001, 7196, "00:02:00;04"},
                {60000, 1001, 35964, "00:10:00;00"},  {60000, 1001, 5178815, "23:59:59;59"},
                {30000, 1001, 107892, "00:59:56:12"}, {60000, 1001, 215784, "00:59:56:24"},
                {24000, 1001, 86400, "01:00:00:00"},  {25, 1, 1499, "00:00:59:24"},
                {25, 1, 1500, "00:01:00:00"},         {25, 1, 90000, "01:00:00:00"}};
    for (const auto& r : rows) QTest::newRow(r.label) << r.num << r.den << r.frame << r.label;
  }
  void timecodes() {
    QFETCH(int, num);
    QFETCH(int, den);
    QFETCH(qint64, frame);
    QFETCH(QString, label);
    const FrameRate rate{Rational(num, den)};
    QCOMPARE(QString::fromStdString(timecode(frame, rate, label.contains(';'))), label);
    QCOMPARE(frameOfTimecode(label.toStdString(), rate).value_or(-1), frame);
  }
  void everyDropFrameLabelOfADayReturns() {
    for (const int num : {30000, 60000}) {
      const FrameRate rate{Rational(num, 1001)};
      const int64_t day = num == 30000 ? 2589408 : 5178816;
      for (int64_t n = 0; n < day; n += 97)
        if (frameOfTimecode(timecode(n, rate, true), rate).value_or(-1) != n) QFAIL(timecode(n, rate, true).c_str());
    }
  }
  void wrongTimesAreRefused_data() {
    QTest::addColumn<QString>("text");
    // 00:01:00;00 does not exist in drop-frame; there is no drop-frame at 25.
    for (const char* bad :
         {"00:01:00;00", "00:00:60:00", "00:00:00:30", "1:2:3:4:5", "", "abc", "12.5.1", "-1", "00:61:00"})
      QTest::newRow(bad) << bad;
  }
  void wrongTimesAreRefused() {
    QFETCH(QString, text);
    const auto time = parseTime(text.toStdString(), FrameRate(Rational(30000, 1001)));
    QVERIFY(!time);
    QVERIFY(sentence(time.error()).find("Write seconds") != std::string::npos);
  }
  void timesAreReadExactly() {
    const FrameRate rate{Rational(25)};
    QCOMPARE(*parseTime("12.5", rate), Rational(25, 2));
    QCOMPARE(*parseTime("01:02:03.004", rate), Rational(3723004, 1000));
    QCOMPARE(*parseTime("00:00:02:05", rate), Rational(55, 25));
    QVERIFY(!frameOfTimecode("00:00:00;00", rate));
  }

  // The rule of the house: k = ⌈n·Rs/R − ½⌉. The series for common pairs are written out by hand.
  void cadences_data() {
    QTest::addColumn<Rational>("source");
    QTest::addColumn<Rational>("deliverable");
    QTest::addColumn<QList<int>>("first");
    QTest::addColumn<QString>("words");
    using L = QList<int>;
    QTest::newRow("25>25") << Rational(25) << Rational(25) << L{0, 1, 2, 3} << "every frame once";
    QTest::newRow("50>25") << Rational(50) << Rational(25) << L{0, 2, 4, 6} << "every other frame";
    QTest::newRow("25>50") << Rational(25) << Rational(50) << L{0, 0, 1, 1, 2, 2} << "each doubled";
    QTest::newRow("30>25") << Rational(30) << Rational(25) << L{0, 1, 2, 4, 5, 6, 7, 8, 10} << "1 in 6 dropped";
    QTest::newRow("60>24") << Rational(60) << Rational(24) << L{0, 2, 5, 7, 10} << "about 7 in 12 dropped";
    QTest::newRow("25>30") << Rational(25) << Rational(30) << L{0, 1, 2, 2, 3, 4, 5} << "1 in 5 doubled";
    QTest::newRow("23.976>25") << Rational(24000, 1001) << Rational(25) << L{0, 1, 2, 3} << "about 1 in 23 doubled";
    QTest::newRow("100>25") << Rational(100) << Rational(25) << L{0, 4, 8} << "1 frame in 4";
  }
  void cadences() {
    QFETCH(Rational, source);
    QFETCH(Rational, deliverable);
    QFETCH(QList<int>, first);
    QFETCH(QString, words);
    const Cadence cadence{FrameRate(source), FrameRate(deliverable)};
    for (int n = 0; n < first.size(); ++n) QCOMPARE(cadence.sourceFrame(n), first[n]);
    if (!words.startsWith(QLatin1String("about 7"))) QCOMPARE(QString::fromStdString(cadence.describe()), words);
    // Exact over ten hours, and never further from the wanted time than half a source frame.
    const int64_t late = (Rational(36000) * deliverable).nearest();
    for (int64_t n = late; n < late + 200; ++n) {
      const Rational off = Rational(cadence.sourceFrame(n)) / source - Rational(n) / deliverable;
      QVERIFY(off <= Rational(1, 2) / source && off >= Rational(-1, 2) / source);
    }
    for (int64_t k = 1; k < 60; ++k) {
      const int64_t n = cadence.firstFrameShowing(k);
      QVERIFY(cadence.sourceFrame(n) >= k && (n == 0 || cadence.sourceFrame(n - 1) < k));
    }
  }

  // A property over chance: pieces of a plan follow each other without gap or overlap, begin where the exact times of
  // the running order say, show frames of their own stretch in order and nearest to the wanted time; a part of it is
  // the same as the whole has there.
  void plansCoverTheRunningOrder() {
    std::mt19937 dice(31);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    const auto& rates = FrameRate::offered();
    for (int round = 0; round < 60; ++round) {
      Project p;
      Footage footage;
      for (int i = 0; i < 3; ++i) {
        MediaInfo media;
        media.path = "/" + std::to_string(i);
        media.duration = Rational(20);
        media.video.emplace();
        media.video->stored = {1920, 1080};
        const FrameRate rate = rates[size_t(upTo(int(rates.size())))];
        media.video->clock = FrameClock(rate, (media.duration * rate.value()).nearest());
        p.sources.push_back(newSource(p, media));
        footage.emplace(p.sources.back().id, media);
      }
      const int count = 1 + upTo(12);
      for (int i = 0; i < count; ++i) {
        Shot shot;
        shot.id = "h" + std::to_string(i);
        shot.source = p.sources[size_t(upTo(3))].id;
        const Rational frame = footage.at(shot.source)->video->clock.rate().frameDuration();
        const int first = upTo(300);
        shot.in = Rational(first) * frame;
        shot.out = Rational(first + 1 + upTo(upTo(4) == 0 ? 2 : 150)) * frame;
        shot.speed =
            std::array{Rational(1), Rational(1), Rational(1, 2), Rational(2), Rational(24, 25)}[size_t(upTo(5))];
        p.shots.push_back(shot);
      }
      Deliverable d;
      d.id = d.name = "d";
      d.rate = rates[size_t(upTo(int(rates.size())))];
      p.deliverables = {d};
      const auto plan = Plan::build(p, footage, "d");
      if (!plan) { // all of it shorter than a frame
        QVERIFY((p.duration() * d.rate.value()).nearest() == 0);
        continue;
      }
      QCOMPARE(plan->frameCount(), (p.duration() * d.rate.value()).nearest());
      Rational start(0);
      int64_t next = 0;
      for (const PlanPiece& piece : plan->pieces()) {
        QCOMPARE(piece.firstFrame, next);
        QCOMPARE(piece.firstFrame, (start * d.rate.value()).nearest());
        start = start + piece.shot.duration();
        next += piece.frameCount;
        int64_t last = piece.sourceFirst;
        const FrameRate& source = piece.media.video->clock.rate();
        for (int64_t n = 0; n < piece.frameCount; ++n) {
          const int64_t frame = piece.sourceFrame(n, d.rate);
          QVERIFY(frame >= last && frame < piece.sourceEnd);
          last = frame;
          const Rational off =
              Rational(frame - piece.sourceFirst) / source.value() - Rational(n) / d.rate.value() * piece.shot.speed;
          // Nearest, but where the stretch has no more.
          QVERIFY(off >= Rational(-1, 2) / source.value() || frame == piece.sourceEnd - 1);
          QVERIFY(off <= Rational(1, 2) / source.value());
        }
      }
      QCOMPARE(next, plan->frameCount());
      const int from = upTo(int(plan->frameCount()));
      const Region region{"r", "r", d.rate.timeOf(from), d.rate.timeOf(from + 1 + upTo(50)), {}};
      const auto part = Plan::build(p, footage, "d", region);
      QVERIFY(part && part->begin() == region.in);
      for (int64_t n = 0; n < part->frameCount(); ++n) {
        const Plan::At a = part->at(n);
        const Plan::At b = plan->at(from + n);
        QVERIFY(a.sourceFrame == b.sourceFrame && a.piece->shot.id == b.piece->shot.id);
        QVERIFY(a.piece->placements(a.frame, d.rate) == b.piece->placements(b.frame, d.rate));
      }
    }
  }

  void variableClockTakesTheNearestFrame() {
    // Frames at 0, 40, 100, 120 ms; ties go to the earlier.
    const FrameClock clock({0, 40, 100, 120}, Rational(1, 1000), FrameRate());
    const std::pair<int, int> rows[] = {{0, 0}, {20, 0}, {21, 1}, {70, 1}, {71, 2}, {110, 2}, {111, 3}, {5000, 3}};
    for (const auto& [ms, frame] : rows) QCOMPARE(clock.nearest(Rational(ms, 1000)), frame);
    QCOMPARE(clock.cutAt(Rational(5)), 4);
  }

  void fractionsStayExact() {
    Rational sum(0);
    for (int i = 0; i < 30000; ++i) sum = sum + Rational(1001, 30000);
    QCOMPARE(sum, Rational(1001));
    QCOMPARE(Rational(-7, 2).floor(), -4);
    QCOMPARE(Rational(-7, 2).ceil(), -3);
    QCOMPARE(Rational(5, 2).nearest(), 2); // halves go down
    QVERIFY(Rational(1, 3) < Rational(34, 100));
    QVERIFY_EXCEPTION_THROWN(Rational(1, 0), std::invalid_argument);
    QVERIFY_EXCEPTION_THROWN(Rational(INT64_MAX) * Rational(2), std::overflow_error);
  }
};

QTEST_GUILESS_MAIN(TestTime)
#include "tst_time.moc"
