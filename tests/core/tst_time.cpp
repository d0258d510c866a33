// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/Plan.h"
#include "support/TestProject.h"
#include "time/Cadence.h"
#include "time/FrameClock.h"
#include "time/FrameMap.h"
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

  // What is typed into a field where it stands at frame 100; at 30000/1001 minute 1 begins with label 00:01:00;02,
  // which is frame 1800 (SMPTE ST 12-1).
  void positionsAreTyped_data() {
    QTest::addColumn<QString>("rate");
    QTest::addColumn<QString>("typed");
    QTest::addColumn<int>("style");
    QTest::addColumn<int>("frame"); // −1: refused
    QTest::addColumn<bool>("next");
    const int timecode = int(PositionStyle::Timecode);
    QTest::newRow("frames on") << "25"
                               << "+10" << timecode << 110 << false;
    QTest::newRow("frames back") << "25"
                                 << "-30" << timecode << 70 << false;
    QTest::newRow("a second on") << "25"
                                 << "++1:00" << timecode << 125 << false;
    QTest::newRow("a second and three back") << "25"
                                             << "--1:03" << timecode << 72 << false;
    QTest::newRow("a minute on") << "30"
                                 << "++1:00:00" << timecode << 1900 << false;
    QTest::newRow("half a second on") << "50"
                                      << "++0.5" << timecode << 125 << false;
    QTest::newRow("a frame") << "25"
                             << "128f" << timecode << 128 << false;
    QTest::newRow("seconds") << "25"
                             << "5" << timecode << 125 << false;
    QTest::newRow("a bare number of frames") << "25"
                                             << "5" << int(PositionStyle::Frames) << 5 << false;
    QTest::newRow("timecode") << "25"
                              << "00:00:02:05" << timecode << 55 << false;
    QTest::newRow("a label that is left out") << "30000/1001"
                                              << "00:01:00;00" << timecode << 1800 << true;
    QTest::newRow("the second that is left out") << "30000/1001"
                                                 << "00:01:00;01" << timecode << 1800 << true;
    QTest::newRow("a label at the tenth minute") << "30000/1001"
                                                 << "00:10:00;00" << timecode << 17982 << false;
    QTest::newRow("left out at 59.94") << "60000/1001"
                                       << "00:01:00;03" << timecode << 3600 << true;
    QTest::newRow("before the start") << "25"
                                      << "-101" << timecode << -1 << false;
    QTest::newRow("words") << "25"
                           << "soon" << timecode << -1 << false;
    QTest::newRow("nothing") << "25"
                             << "" << timecode << -1 << false;
    QTest::newRow("a sign alone") << "25"
                                  << "++" << timecode << -1 << false;
    QTest::newRow("too far") << "25"
                             << "++99999999999" << timecode << -1 << false;
  }
  void positionsAreTyped() {
    QFETCH(const QString, rate);
    QFETCH(const QString, typed);
    QFETCH(const int, style);
    QFETCH(const int, frame);
    QFETCH(const bool, next);
    const FrameRate at = *FrameRate::parse(rate.toStdString());
    const auto time = typedTime(typed.toStdString(), at.timeOf(100), at, PositionStyle(style));
    QCOMPARE(time ? int((time->seconds * at.value()).nearest()) : -1, frame);
    QCOMPARE(time && time->nextLabel, next);
  }

  // Written and typed back it is the same frame, in every style.
  void positionsComeBack_data() {
    QTest::addColumn<int>("style");
    QTest::addColumn<QString>("frame1001"); // at 30000/1001: 33.4 s and 1/30000
    QTest::newRow("timecode") << int(PositionStyle::Timecode) << "00:00:33;11";
    QTest::newRow("frames") << int(PositionStyle::Frames) << "1001";
    QTest::newRow("seconds") << int(PositionStyle::Seconds) << "33.40";
  }
  void positionsComeBack() {
    QFETCH(const int, style);
    QFETCH(const QString, frame1001);
    const FrameRate rate(Rational(30000, 1001));
    QCOMPARE(QString::fromStdString(positionText(rate.timeOf(1001), rate, PositionStyle(style))), frame1001);
    for (const FrameRate& each : FrameRate::named())
      for (const int64_t n : {0, 1, 59, 1799, 1800, 53'946}) {
        const std::string text = positionText(each.timeOf(n), each, PositionStyle(style));
        const auto back = typedTime(text, Rational(0), each, PositionStyle(style));
        QVERIFY2(back && back->seconds == each.timeOf(n), text.c_str());
      }
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
    } rows[] = {{30000, 1001, 0, "00:00:00;00"},
                {30000, 1001, 1799, "00:00:59;29"},
                {30000, 1001, 1800, "00:01:00;02"},
                {30000, 1001, 3597, "00:01:59;29"},
                {30000, 1001, 3598, "00:02:00;02"},
                {30000, 1001, 17981, "00:09:59;29"},
                {30000, 1001, 17982, "00:10:00;00"},
                {30000, 1001, 19782, "00:11:00;02"},
                {30000, 1001, 107892, "01:00:00;00"},
                {30000, 1001, 2589407, "23:59:59;29"},
                {60000, 1001, 3600, "00:01:00;04"},
                {60000, 1001, 7196, "00:02:00;04"},
                {60000, 1001, 35964, "00:10:00;00"},
                {60000, 1001, 5178815, "23:59:59;59"},
                {30000, 1001, 107892, "00:59:56:12"},
                {60000, 1001, 215784, "00:59:56:24"},
                {24000, 1001, 86400, "01:00:00:00"},
                {25, 1, 1499, "00:00:59:24"},
                {25, 1, 1500, "00:01:00:00"},
                {25, 1, 90000, "01:00:00:00"},
                // Below a frame a second ST 12-1 has no labels: whole seconds, by arithmetic.
                {1, 5, 1, "00:00:05:00"},
                {1, 5, 13, "00:01:05:00"},
                {1, 2, 3, "00:00:06:00"},
                {7, 10, 3, "00:00:04:00"},
                {1, 100000, 2, "55:33:20:00"}};
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
    for (const char* bad : {"00:01:00;00", "00:00:60:00", "00:00:00:30", "1:2:3:4:5", "", "abc", "12.5.1", "-1",
                            "00:61:00", "330010000:0:0:0"})
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
    if (!words.startsWith(QLatin1String("about 7"))) QCOMPARE(QString::fromStdString(cadence.describe().text()), words);
    // Exact over ten hours, and never further from the wanted time than half a source frame.
    const int64_t late = (Rational(36000) * deliverable).nearest();
    for (int64_t n = late; n < late + 200; ++n) {
      const Rational off = Rational(cadence.sourceFrame(n)) / source - Rational(n) / deliverable;
      QVERIFY(off <= Rational(1, 2) / source);
      QVERIFY(off >= Rational(-1, 2) / source);
    }
    for (int64_t k = 1; k < 60; ++k) {
      const int64_t n = cadence.firstFrameShowing(k);
      QVERIFY(cadence.sourceFrame(n) >= k);
      QVERIFY((n == 0 || cadence.sourceFrame(n - 1) < k));
    }
  }

  // Where a shot is in its source: the integrals are done by hand. An even change of speed is a constant acceleration,
  // s = v₁t + (v₂ − v₁)t²/2T; a smooth one 3u² − 2u³ of the way, whose integral is u³ − u⁴/2.
  void sourcesPass_data() {
    QTest::addColumn<Pace>("pace");
    QTest::addColumn<Rational>("in");
    QTest::addColumn<Rational>("out");
    QTest::addColumn<Rational>("length");
    QTest::addColumn<QList<Rational>>("moments"); // of the shot, and then of the source, in pairs
    using L = QList<Rational>;
    const auto keys = [](SpeedEase ease, bool reversed = false) {
      return Pace{1, reversed, 0, {{0, 1, ease}, {8, 3, SpeedEase::Smooth}}};
    };
    QTest::newRow("its own speed") << Pace{} << Rational(2) << Rational(4) << Rational(2) << L{0, 2, 1, 3};
    QTest::newRow("half speed") << Pace{{1, 2}} << Rational(2) << Rational(4) << Rational(4) << L{1, {5, 2}, 4, 4};
    QTest::newRow("backwards") << Pace{1, true} << Rational(2) << Rational(4) << Rational(2) << L{0, 4, {1, 2}, {7, 2}};
    QTest::newRow("backwards, twice as fast")
        << Pace{2, true} << Rational(2) << Rational(4) << Rational(1) << L{0, 4, {1, 4}, {7, 2}, 1, 2};
    QTest::newRow("held") << Pace{1, false, 3} << Rational(2) << Rational(4) << Rational(3) << L{0, 2, {5, 2}, 2};
    QTest::newRow("evenly from 1 to 3") << keys(SpeedEase::Even) << Rational(0) << Rational(8) << Rational(4)
                                        << L{0, 0, 1, {5, 4}, 2, 3, 3, {21, 4}, 4, 8, 5, 11};
    QTest::newRow("smoothly from 1 to 3") << keys(SpeedEase::Smooth) << Rational(0) << Rational(8) << Rational(4)
                                          << L{0, 0, 1, {71, 64}, 2, {11, 4}, 4, 8};
    QTest::newRow("at once from 1 to 3") << keys(SpeedEase::Step) << Rational(0) << Rational(11) << Rational(9)
                                         << L{0, 0, 7, 7, {17, 2}, {19, 2}};
    QTest::newRow("evenly, its beginning cut off")
        << keys(SpeedEase::Even) << Rational(3) << Rational(8) << Rational(2) << L{0, 3, 1, {21, 4}, 2, 8};
    QTest::newRow("evenly, its end cut off")
        << keys(SpeedEase::Even) << Rational(0) << Rational(3) << Rational(2) << L{0, 0, 1, {5, 4}, 2, 3};
    QTest::newRow("evenly, backwards") << keys(SpeedEase::Even, true) << Rational(0) << Rational(8) << Rational(4)
                                       << L{0, 8, 1, {21, 4}, 2, 3, 4, 0};
    QTest::newRow("one key is one speed") << Pace{5, false, 0, {{1, 2, SpeedEase::Even}}} << Rational(0) << Rational(8)
                                          << Rational(4) << L{0, 0, 1, 2, 4, 8};
  }
  void sourcesPass() {
    QFETCH(Pace, pace);
    QFETCH(Rational, in);
    QFETCH(Rational, out);
    QFETCH(Rational, length);
    QFETCH(QList<Rational>, moments);
    const TimeMap map(in, out, pace);
    QCOMPARE(secondsOf(map.length()), length);
    for (int i = 0; i < moments.size(); i += 2) QCOMPARE(map.sourceTime(moments[i]), moments[i + 1]);
    if (map.held()) return;
    for (int i = 0; i < moments.size(); i += 2) QCOMPARE(map.sinceBegin(moments[i + 1]), moments[i]);
  }

  // A property over chance: the source passes as the integral of the speed does, summed up here in small steps; the
  // way back leads to the same moment; a part of a shot passes as the whole does there.
  void changesOfSpeedAreIntegrals() {
    std::mt19937 dice(17);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    for (int round = 0; round < 60; ++round) {
      Pace pace;
      Rational time(upTo(3));
      for (int i = 2 + upTo(4); i > 0; --i) {
        pace.keys.push_back({time, Rational(1 + upTo(400), 20), SpeedEase(upTo(3))});
        time = time + Rational(1 + upTo(500), 100);
      }
      pace.reversed = upTo(2) == 0;
      const Rational end = time + Rational(1);
      const TimeMap map(Rational(0), end, pace);
      const double seconds = secondsOf(map.length()).toDouble();
      double place = 0;
      constexpr int kSteps = 20000;
      for (int i = 0; i < kSteps; ++i) {
        const Rational at = onTick(secondsOf(map.length() / kSteps * i + map.length() / kSteps / 2));
        place += map.speedAt(at).toDouble() * seconds / kSteps;
      }
      QVERIFY2(std::abs(place - end.toDouble()) < 2e-3 * end.toDouble(),
               qPrintable(QStringLiteral("%1 of %2").arg(place).arg(end.toDouble())));
      const Rational in = end * Rational(1 + upTo(40), 100);
      const Rational out = end * Rational(60 + upTo(40), 100);
      const TimeMap part(onTick(in), onTick(out), pace);
      const Rational before = map.sinceBegin(pace.reversed ? onTick(out) : onTick(in));
      Rational last = map.sourceTime(Rational(0));
      for (int i = 0; i <= 200; ++i) {
        const Rational since = onTick(secondsOf(map.length()) * Rational(i, 200));
        const Rational there = map.sourceTime(since);
        QVERIFY(pace.reversed ? there <= last : there >= last);
        last = there;
        // A tick of the source is at most 20 of the shot's, and at least a twentieth.
        QVERIFY(std::abs(ticksOf(map.sinceBegin(there)) - ticksOf(since)) <= 20);
        if (since < before || since - before > secondsOf(part.length())) continue;
        QVERIFY(std::abs(ticksOf(part.sourceTime(since - before)) - ticksOf(there)) <= 40);
      }
    }
  }

  // Which frames are shown: by hand, from the rule of the house.
  void framesAreChosen_data() {
    QTest::addColumn<FrameClock>("clock");
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<TimeMap>("time");
    QTest::addColumn<QList<int>>("nearest");
    QTest::addColumn<QList<double>>("between"); // as far as it has come, in source frames
    using L = QList<int>;
    using B = QList<double>;
    const auto at = [](int rate) { return FrameClock(FrameRate(rate), 10 * rate); };
    const auto map = [](const Pace& pace, const Rational& in = 1, const Rational& out = 2) {
      return TimeMap(in, out, pace);
    };
    const Pace back{1, true};
    QTest::newRow("25 at 25, backwards") << at(25) << Rational(25) << map(back) << L{49, 48, 47} << B{49, 48, 47};
    QTest::newRow("50 at 25, backwards") << at(50) << Rational(25) << map(back) << L{99, 97, 95} << B{99, 97, 95};
    QTest::newRow("25 at 50, backwards") << at(25) << Rational(50) << map(back) << L{49, 49, 48, 48, 47}
                                         << B{49, 48.5, 48, 47.5, 47};
    QTest::newRow("30 at 25") << at(30) << Rational(25) << map({}) << L{30, 31, 32, 34, 35, 36}
                              << B{30, 31.2, 32.4, 33.6, 34.8, 36};
    QTest::newRow("held") << at(25) << Rational(50) << map({1, false, 3}) << L{25, 25, 25} << B{25, 25, 25};
    QTest::newRow("its last frames") << at(25) << Rational(50) << map({{1, 2}}, {49, 25}, 2) << L{49, 49, 49, 49}
                                     << B{49, 49, 49, 49};
    // From 1 to 3 evenly in 1 s: after t seconds t + t² of the source have passed, that is 25t + 25t² frames.
    QTest::newRow("a change of speed") << at(25) << Rational(5)
                                       << map({1, false, 0, {{1, 1, SpeedEase::Even}, {3, 3, SpeedEase::Even}}}, 1, 3)
                                       << L{25, 31, 39, 49, 61} << B{25, 31, 39, 49, 61};
    const FrameClock uneven({0, 1000, 1100, 1500, 2000}, {1, 1000}, FrameRate());
    QTest::newRow("a variable rate") << uneven << Rational(5) << map({}, 0, 2) << L{0, 0, 0, 0, 0, 1, 2, 2, 3}
                                     << B{0, 0.2, 0.4, 0.6, 0.8, 1, 2.25, 2.75, 3};
    // Its pictures end at 2, 1.5, 1.1 and 1 s.
    QTest::newRow("a variable rate, backwards")
        << uneven << Rational(5) << map(back, 0, 2) << L{3, 3, 3, 2, 2, 0} << B{3, 3, 3, 2.75, 2.25, 1};
  }
  void framesAreChosen() {
    QFETCH(FrameClock, clock);
    QFETCH(Rational, rate);
    QFETCH(TimeMap, time);
    QFETCH(QList<int>, nearest);
    QFETCH(QList<double>, between);
    const FrameMap map(time, clock, FrameRate(rate));
    for (int n = 0; n < nearest.size(); ++n) QCOMPARE(int(map.nearest(n)), nearest[n]);
    for (int n = 0; n < between.size(); ++n) {
      const ShownFrames shown = map.between(n);
      QCOMPARE(1 + double(shown.frame) + double(shown.next - shown.frame) * shown.nextShare, 1 + between[n]);
    }
  }

  // Where every frame is shown once, what comes later begins earlier or later, and moments go along: by hand. Shots: 10
  // s of 24, 4 s of 25, 2 s held, 8 s of 24 at a third of its speed, backwards; 3 s of a variable rate.
  void timingsAreTheirOwn_data() {
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<QList<Rational>>("starts");
    QTest::addColumn<QList<Rational>>("moments"); // of the project
    QTest::addColumn<QList<Rational>>("there");   // and of the deliverable
    using L = QList<Rational>;
    const auto r = [](int n, int d = 1) { return Rational(n, d); };
    QTest::newRow("at 25") << r(25) << L{0, r(48, 5), r(68, 5), r(78, 5), r(582, 25), r(657, 25)}
                           << L{0, 5, 10, 12, 15, 16, 28, 40, 42, 43, -1, 45}
                           << L{0,          r(24, 5),   r(48, 5),   r(58, 5),   r(73, 5), r(78, 5),
                                r(486, 25), r(582, 25), r(632, 25), r(657, 25), -1,       r(707, 25)};
    QTest::newRow("at 12") << r(12) << L{0, 20, r(85, 3), r(91, 3), r(139, 3), r(148, 3)} << L{0, 5, 11, 28, 41}
                           << L{0, 10, r(265, 12), r(115, 3), r(142, 3)};
  }
  void timingsAreTheirOwn() {
    QFETCH(Rational, rate);
    QFETCH(QList<Rational>, starts);
    QFETCH(QList<Rational>, moments);
    QFETCH(QList<Rational>, there);
    Project p;
    Footage footage;
    const FrameClock uneven({0, 1000, 1100, 1500, 3000}, {1, 1000}, FrameRate());
    for (const auto& [id, frames, seconds] :
         {std::tuple("a", 24, 10), {"b", 25, 4}, {"c", 25, 2}, {"d", 24, 8}, {"e", 0, 3}}) {
      MediaInfo info = test::video(id, {64, 36}, Rational(std::max(1, frames)), Rational(seconds));
      if (frames == 0) info.video->clock = uneven;
      p.sources.emplace_back().id = id;
      footage.emplace(id, info);
      Shot shot;
      shot.source = shot.id = id;
      shot.out = Rational(seconds);
      p.shots.push_back(shot);
    }
    p.shots[2].pace.held = Rational(2);
    p.shots[3].pace = {{1, 3}, true};
    Deliverable d;
    d.rate = FrameRate(rate);
    QVERIFY(Timing(p, footage, d).asProject());
    d.treatment = Treatment::EveryFrame;
    const Timing timing(p, footage, d);
    const std::vector<Rational> wanted(starts.begin(), starts.end());
    QCOMPARE(timing.starts(), wanted);
    for (int i = 0; i < moments.size(); ++i) {
      QCOMPARE(timing.fromProject(moments[i]), there[i]);
      QCOMPARE(timing.toProject(there[i]), moments[i]);
    }
  }

  // A change of speed and its mean take as long, and are not the same: 8 s from 1 to 3 last 4 s, as at 2.
  void theSameLengthIsNotTheSame() {
    Project p;
    p.sources.emplace_back().id = "a";
    Shot shot;
    shot.id = shot.source = "a";
    shot.out = Rational(8);
    shot.pace.keys = {{Rational(0), Rational(1), SpeedEase::Even}, {Rational(8), Rational(3), SpeedEase::Even}};
    p.shots = {shot};
    const Footage footage{{"a", test::video("a", {64, 36}, Rational(25), Rational(8))}};
    Deliverable d;
    d.rate = FrameRate(Rational(50));
    const Timing own(p, footage, d);
    d.treatment = Treatment::EveryFrame;
    const Timing once(p, footage, d);
    QCOMPARE(once.starts(), own.starts());
    QVERIFY(!once.same(own));
    QVERIFY(once.same(Timing(p, footage, d)));
  }

  // Labels of sources (SMPTE ST 12-1): from the first on, round midnight, with and without drop-frame; what is not in
  // the source is refused.
  void sourcesHaveLabels_data() {
    QTest::addColumn<QString>("first");
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<int>("frame");
    QTest::addColumn<QString>("label");
    QTest::addColumn<QString>("typed"); // as somebody may write it
    const Rational ntsc(30000, 1001);
    QTest::newRow("25") << "10:00:00:00" << Rational(25) << 30 << "10:00:01:05"
                        << "10:00:01:05";
    QTest::newRow("29.97, drop-frame") << "00:59:59;28" << ntsc << 3 << "01:00:00;01"
                                       << "01:00:00:01";
    QTest::newRow("29.97, over a minute") << "00:00:59;29" << ntsc << 1 << "00:01:00;02"
                                          << "00:01:00;02";
    QTest::newRow("29.97, with a point") << "00:00:59.29" << ntsc << 1 << "00:01:00;02"
                                         << "00:01:00:02";
    QTest::newRow("29.97, every label") << "00:00:59:29" << ntsc << 1 << "00:01:00:00"
                                        << "00:01:00;00";
    QTest::newRow("over midnight") << "23:59:59:20" << Rational(25) << 7 << "00:00:00:02"
                                   << "00:00:00:02";
    QTest::newRow("over midnight, drop-frame") << "23:59:59;29" << ntsc << 1 << "00:00:00;00"
                                               << "00:00:00;00";
    QTest::newRow("59.94, drop-frame") << "00:00:59;59" << Rational(60000, 1001) << 1 << "00:01:00;04"
                                       << "00:01:00;04";
  }
  void sourcesHaveLabels() {
    QFETCH(QString, first);
    QFETCH(Rational, rate);
    QFETCH(int, frame);
    QFETCH(QString, label);
    QFETCH(QString, typed);
    const FrameRate at(rate);
    const auto labels = SourceTimecode::parse(first.toStdString(), at);
    QVERIFY(labels);
    QCOMPARE(QString::fromStdString(labels->labelOf(frame, at)), label);
    QCOMPARE(labels->frameOf(typed.toStdString(), at, 100).value_or(-1), int64_t(frame));
    QVERIFY(!labels->frameOf(typed.toStdString(), at, frame)); // one too short
    QVERIFY(!SourceTimecode::parse("25:00:00:00", at));
    QVERIFY(!SourceTimecode::parse("dusk", at));
  }

  // The fractions that a project may hold are mixed without running over, hours on: by the remainder in 128 bits.
  void oddFractionsAreMixed() {
    const FrameRate source(Rational(9'999'991, 99'991));
    const FrameRate rate(Rational(9'999'973, 99'989));
    const Rational speed(999'983, 999'979);
    const FrameMap map(TimeMap(0, 50'000'000, {speed}), FrameClock(source, 5'000'000'000), rate, Treatment::Mixed);
    const int64_t n = 3'999'999'937;
    const auto exact = static_cast<long double>(n) * 9'999'991 / 99'991 * 99'989 / 9'999'973 * 999'983 / 999'979;
    const ShownFrames shown = map.shown(n);
    QVERIFY(std::abs(static_cast<long double>(shown.frame) + shown.nextShare - exact) < 1e-6L);
  }

  // Of two rates that differ by 1001/1000 a frame is too much or too little every 1001 frames: by hand.
  void nearlyTheSameIsTold_data() {
    QTest::addColumn<Rational>("source");
    QTest::addColumn<Rational>("deliverable");
    QTest::addColumn<QString>("words");
    QTest::newRow("59.94 at 60") << Rational(60000, 1001) << Rational(60) << "one frame every 17 s doubled";
    QTest::newRow("60 at 59.94") << Rational(60) << Rational(60000, 1001) << "one frame every 17 s dropped";
    QTest::newRow("29.97 at 30") << Rational(30000, 1001) << Rational(30) << "one frame every 33 s doubled";
    QTest::newRow("24 at 23.976") << Rational(24) << Rational(24000, 1001) << "one frame every 42 s dropped";
    QTest::newRow("119.88 at 120") << Rational(120000, 1001) << Rational(120) << "one frame every 8 s doubled";
    QTest::newRow("24 at 25") << Rational(24) << Rational(25) << "about 1 in 24 doubled";
  }
  void nearlyTheSameIsTold() {
    QFETCH(Rational, source);
    QFETCH(Rational, deliverable);
    const Message words = cadenceWords(FrameClock(FrameRate(source), 100), FrameRate(deliverable));
    QTEST(QString::fromStdString(words.text()), "words");
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
        shot.pace.speed =
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
        int64_t last = piece.frames.first();
        const FrameRate& source = piece.reading.file.video->clock.rate();
        for (int64_t n = 0; n < piece.frameCount; ++n) {
          const int64_t frame = piece.sourceFrame(n);
          QVERIFY(frame >= last);
          QVERIFY(frame < piece.frames.end());
          last = frame;
          const Rational off = Rational(frame - piece.frames.first()) / source.value() -
                               Rational(n) / d.rate.value() * piece.shot.pace.speed;
          // Nearest, but where the stretch has no more.
          QVERIFY(off >= Rational(-1, 2) / source.value() || frame == piece.frames.end() - 1);
          QVERIFY(off <= Rational(1, 2) / source.value());
        }
      }
      QCOMPARE(next, plan->frameCount());
      const int from = upTo(int(plan->frameCount()));
      const Region region{"r", "r", d.rate.timeOf(from), d.rate.timeOf(from + 1 + upTo(50)), {}};
      const auto part = Plan::build(p, footage, "d", region);
      QVERIFY(part);
      QVERIFY(part->begin() == region.in);
      for (int64_t n = 0; n < part->frameCount(); ++n) {
        const Plan::At a = part->at(n);
        const Plan::At b = plan->at(from + n);
        QVERIFY(a.shown == b.shown);
        QVERIFY(a.piece->shot.id == b.piece->shot.id);
        QVERIFY(a.piece->placements(a.frame, d.rate) == b.piece->placements(b.frame, d.rate));
      }
    }
  }

  // What a file's stamps mean: by hand, from how containers round.
  void stampsTellTheRate_data() {
    QTest::addColumn<QList<qint64>>("stamps");
    QTest::addColumn<Rational>("tick");
    QTest::addColumn<QList<Rational>>("declared");
    QTest::addColumn<bool>("variable");
    QTest::addColumn<Rational>("rate");
    const auto even = [](int count, const Rational& rate, const Rational& tick, const QList<int>& without = {}) {
      QList<qint64> stamps;
      for (int i = 0; i < count; ++i)
        if (!without.contains(i)) stamps << Rational::nearestProduct(Rational(i) / rate, Rational(1) / tick);
      return stamps;
    };
    const Rational ntsc(30000, 1001);
    const Rational ms(1, 1000);
    using L = QList<Rational>;
    QTest::newRow("25 in its own ticks") << even(50, 25, {1, 12800}) << Rational(1, 12800) << L{25} << false
                                         << Rational(25);
    QTest::newRow("29.97 in milliseconds") << even(900, ntsc, ms) << ms << L{ntsc} << false << ntsc;
    QTest::newRow("59.94 in milliseconds, undeclared")
        << even(900, {60000, 1001}, ms) << ms << L{} << false << Rational(60000, 1001);
    QTest::newRow("23.976 at 90 kHz") << even(300, {24000, 1001}, {1, 90000}) << Rational(1, 90000) << L{{24000, 1001}}
                                      << false << Rational(24000, 1001);
    QTest::newRow("29.97 in a phone's 600")
        << even(600, ntsc, {1, 600}) << Rational(1, 600) << L{{599, 20}} << false << ntsc;
    QTest::newRow("2997/100 in its own ticks")
        << even(100, {2997, 100}, {1, 11988}) << Rational(1, 11988) << L{{2997, 100}} << false << Rational(2997, 100);
    QTest::newRow("a mean spoiled by the last one's length")
        << even(100, 25, {1, 12800}) << Rational(1, 12800) << L{{640'000, 25'889}} << false << Rational(25);
    QTest::newRow("12 a second, undeclared") << even(40, 12, ms) << ms << L{} << false << Rational(12);
    QTest::newRow("a rate without a name") << even(40, {100, 7}, ms) << ms << L{} << false << Rational(100, 7);
    QTest::newRow("one picture is lacking") << even(1000, 25, ms, {431}) << ms << L{25} << true << Rational(25);
    QTest::newRow("every seventh is lacking") << even(70, 30, {1, 15360}, {3, 10, 17, 24, 31, 38, 45, 52, 59, 66})
                                              << Rational(1, 15360) << L{{180, 7}} << true << Rational(30);
    QTest::newRow("one picture") << QList<qint64>{0} << ms << L{24} << false << Rational(24);
  }
  void stampsTellTheRate() {
    QFETCH(QList<qint64>, stamps);
    QFETCH(Rational, tick);
    QFETCH(QList<Rational>, declared);
    QFETCH(bool, variable);
    QFETCH(Rational, rate);
    std::vector<FrameRate> rates;
    for (const Rational& each : declared) rates.emplace_back(each);
    const auto clock = FrameClock::fromStamps({stamps.begin(), stamps.end()}, tick, rates);
    QCOMPARE(clock.variable(), variable);
    QCOMPARE(clock.rate().value(), rate);
    QCOMPARE(clock.frameCount(), stamps.size());
  }

  // The rule of the house for variable rates: what is on screen, where a picture that begins less than half a
  // deliverable frame later counts as on screen already; of equal stamps the last.
  void variableClockShowsWhatIsOnScreen() {
    const FrameClock clock({0, 1000, 5000, 5000, 5120}, Rational(1, 1000), FrameRate());
    const Rational half(1, 50); // of a frame at 25
    const std::pair<int, int> rows[] = {{0, 0},    {979, 0},  {980, 0},  {981, 1},  {3040, 1}, {4980, 1},
                                        {4981, 3}, {5000, 3}, {5100, 3}, {5101, 4}, {9000, 4}};
    for (const auto& [ms, frame] : rows) QCOMPARE(clock.onScreen(Rational(ms, 1000), half), frame);
    QCOMPARE(clock.onScreen(Rational(999, 1000)), 0);
    QCOMPARE(clock.onScreen(Rational(1)), 1);
    QCOMPARE(clock.firstFrom(Rational(1)), 1);
    QCOMPARE(clock.firstFrom(Rational(1001, 1000)), 2);
    QCOMPARE(clock.frameOfStamp(5000, Rational(1, 1000)), 2);
  }
  void variableClockIsCutAtTheNearestFrame() {
    // Frames at 0, 40, 100, 120 ms; ties go to the earlier.
    const FrameClock clock({0, 40, 100, 120}, Rational(1, 1000), FrameRate());
    const std::pair<int, int> rows[] = {{0, 0}, {20, 0}, {21, 1}, {70, 1}, {71, 2}, {110, 2}, {111, 3}, {5000, 3}};
    for (const auto& [ms, frame] : rows) QCOMPARE(clock.nearest(Rational(ms, 1000)), frame);
    QCOMPARE(clock.cutAt(Rational(5)), 4);
  }

  // The running order counts in whole ticks: sums never run over, whatever the fractions are.
  void runningOrdersCountInTicks() {
    Project p;
    Rational in(0);
    for (int i = 0; i < 400; ++i) {
      Shot shot;
      shot.id = "h" + std::to_string(i);
      in = onTick(Rational(i % 17 + 1, 1'000'003 + i));
      shot.in = in;
      shot.out = in + Rational(3) + onTick(Rational(i + 1, 999'983));
      shot.pace.speed = Rational(1'000'000 - i * 7, 1'000'000 - i * 3 - 1);
      bringOnTicks(shot);
      p.shots.push_back(shot);
    }
    const auto starts = p.shotStarts();
    int64_t ticks = 0;
    long double seconds = 0;
    for (size_t i = 0; i < p.shots.size(); ++i) {
      QCOMPARE(starts[i], Rational(ticks, kTicksASecond));
      ticks += p.shots[i].length();
      const Shot& s = p.shots[i];
      seconds +=
          (static_cast<long double>(s.out.num()) / s.out.den() - static_cast<long double>(s.in.num()) / s.in.den()) *
          s.pace.speed.den() / s.pace.speed.num();
    }
    // Each length is rounded once, by at most half a tick.
    QVERIFY(std::abs(double(seconds - static_cast<long double>(ticks) / kTicksASecond)) <
            400 * 0.5 / kTicksASecond + 1e-9);
    for (const FrameRate& rate : FrameRate::named()) {
      QCOMPARE((Rational(kTicksASecond) / rate.value()).den(), 1); // a frame of every named rate is whole ticks
      QVERIFY(rate.frameAt(p.duration()) > 0);
    }
    for (const int hertz : {44'100, 48'000, 96'000}) QCOMPARE(kTicksASecond % hertz, 0);
  }

  void fractionsStayExact() {
    Rational sum(0);
    for (int i = 0; i < 30000; ++i) sum = sum + Rational(1001, 30000);
    QCOMPARE(sum, Rational(1001));
    QCOMPARE(Rational(-7, 2).floor(), -4);
    QCOMPARE(Rational(-7, 2).ceil(), -3);
    QCOMPARE(Rational(5, 2).nearest(), 2); // halves go down
    QVERIFY(Rational(1, 3) < Rational(34, 100));
    QVERIFY_THROWS_EXCEPTION(std::invalid_argument, Rational(1, 0));
    QVERIFY_THROWS_EXCEPTION(std::overflow_error, Rational(INT64_MAX) * Rational(2));
    QCOMPARE(Rational::nearestProduct(Rational(INT64_MAX, 3), Rational(3, 7)), INT64_MAX / 7);
    QCOMPARE(Rational::nearestProduct(Rational(-1, 2), Rational(1)), -1); // halves go down
    // Continued fractions of π and of e, as every table of them has.
    QCOMPARE(Rational(3'141'592'653'589, 1'000'000'000'000).plain(1000, 1000), Rational(355, 113));
    QCOMPARE(Rational(2'718'281'828'459, 1'000'000'000'000).plain(1000, 100), Rational(193, 71));
    QCOMPARE(Rational(30000, 1001).plain(30000, 1001), Rational(30000, 1001));
  }
};

QTEST_GUILESS_MAIN(TestTime)
#include "tst_time.moc"
