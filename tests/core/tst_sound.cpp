// SPDX-License-Identifier: GPL-3.0-or-later
// The sound of the running order: levels, cuts, beds, ducking, and regions of it.
#include "analysis/SoundTarget.h"
#include "export/Exporter.h"
#include "media/read/Probe.h"
#include "project/Footage.h"
#include "render/SoundMix.h"
#include "support/TestMedia.h"
#include "support/Thoroughness.h"

#include <QTemporaryDir>
#include <QTest>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>

using namespace tromb;
using test::run;

class TestSound : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  /// A clip of 8 s whose sound is `source` (FFmpeg's words), kept as PCM so that every sample is known.
  QString clip(const QString& name, const QString& source) const {
    (void)run(QStringLiteral("ffmpeg"),
              {"-v",    "error", "-y",      "-f",   "lavfi",     "-i", "testsrc2=s=64x36:r=25:d=8",
               "-f",    "lavfi", "-i",      source, "-ac",       "2",  "-ar",
               "48000", "-c:v",  "libx264", "-c:a", "pcm_f32le", "-f", "mov",
               at(name)});
    return at(name);
  }
  static Project project(const QStringList& files) {
    Project p;
    for (const QString& file : files) {
      const auto media = probe(file.toStdString());
      p.sources.push_back(newSource(p, *media));
    }
    Deliverable d;
    d.id = "d1";
    d.name = "d";
    d.canvas = {64, 36};
    p.deliverables = {d};
    return p;
  }
  static void addShot(Project& p, const char* source, Rational in, Rational out) {
    Shot shot;
    shot.id = freshId(p.shots, "h");
    shot.source = source;
    shot.in = in;
    shot.out = out;
    p.shots.push_back(shot);
  }
  /// The left channel of the whole mix.
  static std::vector<float> mixed(const std::vector<Plan>& plans, size_t reader = 0) {
    SoundMix mix(plans);
    const auto count = (plans[reader].duration() * Rational(kSoundRate)).nearest();
    int64_t skip = mix.leadIn(reader);
    std::vector<float> left;
    while (int64_t(left.size()) < count) {
      const auto chunk = mix.next(reader);
      if (!chunk) qFatal("%s", sentence(chunk.error()).c_str());
      for (int64_t i = 0; i < SoundMix::kChunkSamples && int64_t(left.size()) < count; ++i)
        if (skip > 0)
          --skip;
        else
          left.push_back((**chunk)[size_t(i * kStereo)]);
    }
    return left;
  }
  static std::vector<float> mixed(const Project& p) { return mixed({*Plan::build(p, probeFootage(p), "d1")}); }
  /// Amplitude of a tone round a time, by correlation over 50 ms.
  static double amplitude(const std::vector<float>& sound, double seconds, double hertz) {
    double re = 0;
    double im = 0;
    const auto from = size_t(seconds * kSoundRate);
    for (size_t i = from; i < from + 2400; ++i) {
      const double phase = 2 * std::numbers::pi * hertz * double(i) / kSoundRate;
      re += double(sound[i]) * std::cos(phase);
      im += double(sound[i]) * std::sin(phase);
    }
    return std::hypot(re, im) / 1200;
  }

  /// When s seconds of the source have passed, at a speed of v that grows by a each second: s = vt + at²/2, and back.
  static double whenPassed(double s, double v, double a) {
    return a == 0 ? s / v : (std::sqrt(v * v + 2 * a * s) - v) / a;
  }

private slots:
  void levelsAndMute() {
    Project p = project({clip("tone.mov", "sine=f=1000:d=8,volume=2")});
    for (int i = 0; i < 3; ++i) addShot(p, "s1", Rational(i), Rational(i + 1));
    const double whole = amplitude(mixed(p), 1.4, 1000);
    p.shots[1].levelDb = -6.0206;
    p.shots[2].muted = true;
    const auto sound = mixed(p);
    QVERIFY(whole > 0.1);
    QVERIFY(std::abs(amplitude(sound, 0.4, 1000) / whole - 1) < 1e-3);
    QVERIFY(std::abs(amplitude(sound, 1.4, 1000) / whole - 0.5) < 1e-3); // −6.02 dB is half
    QVERIFY(amplitude(sound, 2.4, 1000) == 0);
  }

  // A change of speed takes the sound along: what happens is heard where its picture is, within 6 ms, and the pitch
  // stays or goes with the speed, within half a percent. Where it is to be heard is worked out by hand: after s seconds
  // of the source have passed at v, s/v; where the speed grows evenly, s = vt + at²/2.
  void soundGoesWithTheSpeed_data() {
    QTest::addColumn<Pace>("pace");
    QTest::addColumn<bool>("follows");
    QTest::addColumn<double>("pitch"); // 0: it changes
    const Pace ramp{1, false, 0, {{0, 1, SpeedEase::Even}, {8, 3, SpeedEase::Even}}};
    const Pace slow{1, false, 0, {{0, {1, 4}, SpeedEase::Even}, {8, {3, 4}, SpeedEase::Even}}};
    Pace back = ramp;
    back.reversed = true;
    QTest::newRow("100 %, backwards") << Pace{1, true} << false << 1000.0;
    QTest::newRow("50 %, pitch kept") << Pace{{1, 2}} << false << 1000.0;
    QTest::newRow("200 %, pitch kept") << Pace{2} << false << 1000.0;
    QTest::newRow("37.5 %, pitch kept") << Pace{{3, 8}} << false << 1000.0;
    QTest::newRow("96 %, pitch kept") << Pace{{24, 25}} << false << 1000.0;
    QTest::newRow("50 %, backwards, pitch kept") << Pace{{1, 2}, true} << false << 1000.0;
    QTest::newRow("50 %, pitch follows") << Pace{{1, 2}} << true << 500.0;
    QTest::newRow("200 %, pitch follows") << Pace{2} << true << 2000.0;
    QTest::newRow("200 %, backwards, pitch follows") << Pace{2, true} << true << 2000.0;
    QTest::newRow("25 % to 75 %, pitch kept") << slow << false << 1000.0;
    QTest::newRow("100 % to 300 %, pitch kept") << ramp << false << 1000.0;
    QTest::newRow("300 % to 100 %, backwards, pitch kept") << back << false << 1000.0;
    QTest::newRow("100 % to 300 %, pitch follows") << ramp << true << 0.0;
  }
  void soundGoesWithTheSpeed() {
    if (test::leftOut()) return;
    QFETCH(Pace, pace);
    QFETCH(bool, follows);
    QFETCH(double, pitch);
    static const std::array<double, 4> kEvents{0.7, 2.31, 4.03, 7.1};
    static const QString file = [this] {
      QString events;
      for (const double at : kEvents) events += QStringLiteral("+between(t,%1,%2)").arg(at).arg(at + 0.0005);
      return clip("events.mov", QStringLiteral("aevalsrc='0.05*sin(2*PI*1000*t)+0.9*(0%1)':s=48000:d=8").arg(events));
    }();
    Project p = project({file});
    addShot(p, "s1", Rational(0), Rational(8));
    p.shots[0].pace = pace;
    p.shots[0].pitchFollows = follows;
    const auto sound = mixed(p);
    const double speed = pace.speed.toDouble();
    const double first = pace.keys.empty() ? speed : pace.keys[0].speed.toDouble();
    const double length = pace.keys.empty() ? 8 / speed : 16 / (first + pace.keys[1].speed.toDouble());
    const double grows = pace.keys.empty() ? 0 : (pace.keys[1].speed.toDouble() - first) / length;
    QCOMPARE(sound.size(), size_t(std::ceil(length * 25 - 0.5 - 1e-9)) * kSoundRate / 25); // whole frames
    for (const double at : kEvents) {
      const double there = pace.reversed ? length - whenPassed(at, first, grows) : whenPassed(at, first, grows);
      const auto from = sound.begin() + std::lround((there - 0.1) * kSoundRate);
      const auto loudest =
          std::max_element(from, from + kSoundRate / 5, [](float a, float b) { return std::abs(a) < std::abs(b); });
      const double off = double(loudest - sound.begin()) / kSoundRate - there;
      QVERIFY2(std::abs(off) < 0.006, qPrintable(QStringLiteral("%1 s: %2 ms off").arg(at).arg(off * 1000)));
    }
    if (pitch == 0) return;
    // Told by how far the phase runs ahead in 20 ms, in the middle of what lies between two events.
    const auto phase = [&](double seconds) {
      std::complex<double> sum;
      for (int i = 0; i < kSoundRate / 20; ++i) {
        const double at = seconds + double(i) / kSoundRate;
        sum +=
            double(sound[size_t(std::lround(at * kSoundRate))]) * std::polar(1.0, -2 * std::numbers::pi * pitch * at);
      }
      return std::arg(sum);
    };
    const double quiet = length * 0.41;
    const double ahead = std::remainder(phase(quiet + 0.02) - phase(quiet), 2 * std::numbers::pi);
    const double found = pitch + ahead / (2 * std::numbers::pi * 0.02);
    QVERIFY2(std::abs(found / pitch - 1) < 0.005, qPrintable(QString::number(found)));
  }

  // The same at the extremes, where a click becomes a swell or nothing: of bursts the middle of their power is where it
  // is to be by hand, within half a frame.
  void soundStaysWithItsPictureAtAnySpeed_data() {
    QTest::addColumn<Rational>("first");
    QTest::addColumn<Rational>("last");
    QTest::addColumn<bool>("follows");
    for (const int percent : {5, 7, 10, 15, 20, 500, 700, 1000, 1275, 1400, 1500, 2000})
      for (const bool follows : {false, true})
        QTest::addRow("%d %%, pitch %s", percent, follows ? "follows" : "kept")
            << Rational(percent, 100) << Rational(percent, 100) << follows;
    QTest::newRow("800 % to 1600 %, pitch kept") << Rational(8) << Rational(16) << false;
    QTest::newRow("5 % to 15 %, pitch kept") << Rational(1, 20) << Rational(3, 20) << false;
  }
  void soundStaysWithItsPictureAtAnySpeed() {
    if (test::leftOut()) return;
    QFETCH(Rational, first);
    QFETCH(Rational, last);
    QFETCH(bool, follows);
    const bool fast = first > Rational(1);
    const int length = fast ? 8 : 2;
    const double begins = first.toDouble();
    const double grows = (last.toDouble() - begins) * (last.toDouble() + begins) / (2 * length);
    const double every = length / 4.0;
    const double burst = fast ? 0.02 * begins : 0.02; // 20 ms of the shot or of the source
    const QString file = clip(QStringLiteral("bursts-%1-%2.mov").arg(every).arg(burst),
                              QStringLiteral("aevalsrc='0.5*sin(2*PI*700*t)*between(mod(t,%1),%2,%3)':s=48000:d=8")
                                  .arg(every)
                                  .arg((every - burst) / 2, 0, 'f', 6)
                                  .arg((every + burst) / 2, 0, 'f', 6));
    Project p = project({file});
    addShot(p, "s1", Rational(0), Rational(length));
    p.shots[0].pace.speed = first;
    if (first != last)
      p.shots[0].pace.keys = {{Rational(0), first, SpeedEase::Even}, {Rational(length), last, SpeedEase::Even}};
    p.shots[0].pitchFollows = follows;
    const auto sound = mixed(p);
    for (int i = 0; i < 4; ++i) {
      const double there = whenPassed(every * (i + 0.5), begins, grows);
      const double times = 1 / (begins + grows * there);
      const auto from = size_t((there - every * times * 0.4) * kSoundRate);
      double power = 0;
      double moment = 0;
      for (size_t n = from; n < from + size_t(every * times * 0.8 * kSoundRate); ++n) {
        const double now = double(sound[n]) * double(sound[n]);
        power += now;
        moment += now * (double(n) / kSoundRate - there);
      }
      QVERIFY2(power > 1, "nothing is heard");
      QVERIFY2(power < 4 * 0.125 * burst * times * kSoundRate, "it bursts"); // 0.125: the power of what lies there
      const double off = moment / power;
      QVERIFY2(std::abs(off) < 0.01, qPrintable(QStringLiteral("burst %1: %2 ms off").arg(i).arg(off * 1000)));
    }
  }

  // Where a deliverable shows every frame of 25 at 24, the sound is the same as at 96 % of its speed, and a bed begins
  // at the picture at which it begins in the project.
  void soundGoesWithEveryFrame() {
    const QString file = clip("tones.mov", "aevalsrc='0.3*sin(2*PI*(400+200*floor(t))*t)':s=48000:d=8");
    Project p = project({file, clip("bed.mov", "sine=f=5000:d=2")});
    addShot(p, "s1", Rational(0), Rational(8));
    p.deliverables[0].rate = FrameRate(Rational(24));
    Project slowed = p;
    p.deliverables[0].treatment = Treatment::EveryFrame;
    slowed.shots[0].pace.speed = Rational(24, 25);
    QVERIFY(mixed(p) == mixed(slowed));
    p.shots[0].muted = true;
    p.beds = {{"b1", "s2", Rational(4), Rational(0), Rational(2), 0, Rational(0), Rational(0), false, {}}};
    const auto sound = mixed(p);
    const auto begins = std::find_if(sound.begin(), sound.end(), [](float sample) { return std::abs(sample) > 1e-3F; });
    QVERIFY(std::abs(double(begins - sound.begin()) / kSoundRate - 4.0 * 25 / 24) < 0.002);
  }

  // A mix that begins somewhere else gives what lies there: at the source's own speed to the sample, else where it is
  // to be heard within 6 ms, from there on without a gap.
  void theMixBeginsAnywhere_data() {
    QTest::addColumn<Pace>("pace");
    QTest::addColumn<bool>("follows");
    QTest::newRow("as shot") << Pace{} << false;
    QTest::newRow("backwards") << Pace{1, true} << false;
    QTest::newRow("50 %, pitch kept") << Pace{{1, 2}} << false;
    QTest::newRow("200 %, backwards, pitch kept") << Pace{2, true} << false;
    QTest::newRow("50 %, pitch follows") << Pace{{1, 2}} << true;
    QTest::newRow("100 % to 300 %, pitch kept")
        << Pace{1, false, 0, {{0, 1, SpeedEase::Even}, {8, 3, SpeedEase::Even}}} << false;
  }
  void theMixBeginsAnywhere() {
    if (test::leftOut()) return;
    QFETCH(Pace, pace);
    QFETCH(bool, follows);
    static const QString file =
        clip("pulses.mov", QStringLiteral("aevalsrc='0.9*lt(mod(t,0.25),0.0005)*gt(t,0.1)':s=48000:d=8"));
    Project p = project({file, clip("under.mov", "sine=f=300:d=8,volume=0.2")});
    addShot(p, "s1", Rational(0), Rational(8));
    p.shots[0].pace = pace;
    p.shots[0].pitchFollows = follows;
    if (pace.asShot())
      p.beds = {{"b1", "s2", Rational(0), Rational(0), Rational(8), 0, Rational(0), Rational(0), false, {}}};
    const Plan plan = *Plan::build(p, probeFootage(p), "d1");
    const auto whole = mixed({plan});
    SoundMix mix(plan, kStereo);
    for (const int64_t from : {int64_t(100'003), int64_t(31), int64_t(70'000)}) {
      QVERIFY(mix.goTo(from).has_value());
      std::vector<float> there;
      for (int64_t skip = mix.leadIn(0); there.size() < size_t(kSoundRate); skip = 0) {
        const auto chunk = mix.next(0);
        QVERIFY(chunk.has_value());
        for (int64_t i = skip; i < SoundMix::kChunkSamples; ++i) there.push_back((**chunk)[size_t(i * kStereo)]);
      }
      if (pace.speed == Rational(1) && pace.keys.empty()) {
        const bool same = std::equal(there.begin(), there.begin() + kSoundRate, whole.begin() + from);
        QVERIFY2(same, qPrintable(QString::number(from)));
        continue;
      }
      const auto loudest = [](auto begin, auto end) {
        return std::max_element(begin, end, [](float a, float b) { return std::abs(a) < std::abs(b); });
      };
      const auto at = loudest(there.begin() + 4800, there.begin() + kSoundRate - 4800) - there.begin();
      const auto around = whole.begin() + from + at;
      const double off = double(loudest(around - 1440, around + 1440) - around) / kSoundRate;
      QVERIFY2(std::abs(off) < 0.006, qPrintable(QStringLiteral("%1: %2 ms off").arg(from).arg(off * 1000)));
    }
  }

  // Cuts do not click: no step is larger than the tone's own steepest, though each cut falls on a peak; and a shot that
  // was only split sounds on as if it were whole.
  void cutsDoNotClick() {
    Project p = project({clip("tone.mov", "sine=f=250:d=8,volume=4")});
    addShot(p, "s1", Rational(0), Rational(8));
    const auto whole = mixed(p);
    const double peak = amplitude(whole, 1, 250);
    const double steepest = 2 * std::numbers::pi * 250 / kSoundRate * peak;
    const Rational quarter = Rational(1, 1000); // a quarter of a period: from zero to the peak
    p.shots.clear();
    addShot(p, "s1", Rational(1), Rational(2) + quarter);
    addShot(p, "s1", Rational(3) + quarter, Rational(4));
    const auto cut = mixed(p);
    double largest = 0;
    for (size_t i = 1; i < cut.size(); ++i) largest = std::max(largest, std::abs(double(cut[i]) - double(cut[i - 1])));
    QVERIFY2(largest < 1.25 * steepest, qPrintable(QString::number(largest / steepest)));
    p.shots.clear();
    addShot(p, "s1", Rational(0), Rational(51, 25));
    addShot(p, "s1", Rational(51, 25), Rational(8));
    QVERIFY(mixed(p) == whole);
    p.shots[1].levelDb = -3; // another level is a cut
    QVERIFY(mixed(p) != whole);
  }

  // Whatever a file's rate and channels, its tone keeps its pitch and its place, and ends up on both sides.
  void soundOfAnyKindIsLaidUnder_data() {
    QTest::addColumn<QStringList>("format");
    QTest::newRow("mono") << QStringList{"-ac", "1", "-ar", "48000"};
    QTest::newRow("44.1 kHz") << QStringList{"-ac", "2", "-ar", "44100"};
    QTest::newRow("96 kHz, 24 bit") << QStringList{"-ac", "2", "-ar", "96000", "-c:a", "pcm_s24le"};
    QTest::newRow("11 kHz, 8 bit") << QStringList{"-ac", "1", "-ar", "11025", "-c:a", "pcm_u8"};
  }
  void soundOfAnyKindIsLaidUnder() {
    QFETCH(QStringList, format);
    (void)run(QStringLiteral("ffmpeg"),
              QStringList{"-v", "error", "-y", "-f", "lavfi", "-i", "sine=f=800:d=4,volume=4"} + format +
                  QStringList{at("any.wav")});
    Project p = project({clip("quiet.mov", "anullsrc=d=8"), at("any.wav")});
    addShot(p, "s1", Rational(0), Rational(8));
    p.beds = {{"b1", "s2", Rational(2), Rational(0), Rational(4), 0, Rational(0), Rational(0), false, {}}};
    const auto sound = mixed(p);
    const double level = amplitude(sound, 4, 800);
    QVERIFY2(level > 0.2, qPrintable(QString::number(level)));
    QVERIFY2(level < 0.8, qPrintable(QString::number(level)));
    QVERIFY(amplitude(sound, 1.9, 800) < 1e-3);
    QVERIFY(amplitude(sound, 6.1, 800) < 1e-3);
    // It begins where it is laid: within 2 ms, its fade in included.
    size_t first = 0;
    while (first < sound.size() && std::abs(sound[first]) < 0.02F) ++first;
    QVERIFY2(std::abs(double(first) / kSoundRate - 2) < 0.003, qPrintable(QString::number(double(first) / kSoundRate)));
    for (const float value : sound) QVERIFY(std::isfinite(value));
  }

  void bedsFadeAndEndWithTheRunningOrder() {
    Project p = project({clip("quiet.mov", "anullsrc=d=8"), clip("music.mov", "sine=f=500:d=8,volume=4")});
    addShot(p, "s1", Rational(0), Rational(6));
    p.beds = {{"b1", "s2", Rational(1), Rational(1), Rational(8), -6.0206, Rational(2), Rational(1), false, {}}};
    const auto sound = mixed(p);
    Project bare = project({at("music.mov")});
    addShot(bare, "s1", Rational(0), Rational(8));
    const double full = amplitude(mixed(bare), 3, 500);
    QVERIFY(amplitude(sound, 0.5, 500) < 1e-6);
    QVERIFY(std::abs(amplitude(sound, 1.975, 500) / full - 0.25) < 0.01); // half of the fade, half of the level
    QVERIFY(std::abs(amplitude(sound, 4, 500) / full - 0.5) < 0.005);
    // The running order ends at 6 s: so does the bed, and its fade out with it.
    QVERIFY(std::abs(amplitude(sound, 5.475, 500) / full - 0.25) < 0.01);
    QCOMPARE(sound.size(), size_t(6 * kSoundRate));
  }

  // Speech from 2 to 4 s (noise in its band): the bed at 6 kHz is 12 dB down before it begins and back after it.
  void bedsGoDownUnderSpeech() {
    Project p = project({clip("speech.mov", "anoisesrc=d=8:a=0.5:seed=3,bandpass=f=1000:width_type=h:w=800,"
                                            "volume=enable='not(between(t,2,4))':volume=0"),
                         clip("music.mov", "sine=f=6000:d=8,volume=2")});
    addShot(p, "s1", Rational(0), Rational(8));
    p.beds = {{"b1", "s2", Rational(0), Rational(0), Rational(8), 0, Rational(0), Rational(0), true, {}}};
    const auto sound = mixed(p);
    p.beds[0].duck = false;
    const auto plain = mixed(p);
    const auto down = [&](double seconds) {
      return 20 * std::log10(amplitude(sound, seconds, 6000) / amplitude(plain, seconds, 6000));
    };
    QVERIFY2(std::abs(down(0.5)) < 0.1, qPrintable(QString::number(down(0.5))));
    QVERIFY2(std::abs(down(1.96) + 12) < 1.5, qPrintable(QString::number(down(1.96))));
    QVERIFY2(std::abs(down(3) + 12) < 0.3, qPrintable(QString::number(down(3))));
    QVERIFY2(std::abs(down(4.4) + 12) < 0.5, qPrintable(QString::number(down(4.4)))); // held through a pause
    QVERIFY2(std::abs(down(6)) < 0.1, qPrintable(QString::number(down(6))));
    // Without speech nothing goes down.
    p.beds[0].duck = true;
    p.shots[0].muted = true;
    QVERIFY(std::abs(amplitude(mixed(p), 3, 6000) / amplitude(plain, 0.5, 6000) - 1) < 0.01);
  }

  // A region is the same frames and the same sound that the whole has there, at any rate.
  void aRegionIsAPartOfTheWhole() {
    Project p = project(
        {clip("noise.mov", "anoisesrc=d=8:a=0.3:seed=7"),
         clip("speech.mov", "anoisesrc=d=8:a=0.4:seed=5,"
                            "bandpass=f=1000:width_type=h:w=800,volume=enable='not(between(t,1,3))':volume=0")});
    addShot(p, "s1", Rational(1, 25), Rational(2));
    addShot(p, "s2", Rational(0), Rational(5));
    addShot(p, "s1", Rational(3), Rational(7, 2));
    p.shots[1].pace.speed = Rational(5, 4);
    p.beds = {{"b1", "s1", Rational(1), Rational(0), Rational(8), -9, Rational(1), Rational(0), true, {}}};
    p.deliverables.push_back(p.deliverables[0]);
    p.deliverables[1].id = "d2";
    p.deliverables[1].name = "e";
    p.deliverables[1].rate = FrameRate(Rational(30000, 1001));
    const Footage footage = probeFootage(p);
    const Region region{"r1", "part", Rational(11, 3), Rational(15, 2), {}};
    std::vector<Plan> whole;
    std::vector<Plan> parts;
    for (const char* id : {"d1", "d2"}) {
      whole.push_back(*Plan::build(p, footage, id));
      parts.push_back(*Plan::build(p, footage, id, region));
    }
    for (size_t i = 0; i < 2; ++i) {
      const int64_t first = whole[i].rate().frameAt(region.in);
      for (int64_t n = 0; n < parts[i].frameCount(); ++n) {
        const Plan::At a = parts[i].at(n);
        const Plan::At b = whole[i].at(first + n);
        QVERIFY(a.shown == b.shown);
        QVERIFY(a.piece->shot.id == b.piece->shot.id);
      }
      const auto sound = mixed(parts, i);
      const auto all = mixed(whole, i);
      const auto from = (parts[i].begin() * Rational(kSoundRate)).nearest();
      double worst = 0;
      for (size_t n = 0; n < sound.size(); ++n) {
        const double there = size_t(from) + n < all.size() ? double(all[size_t(from) + n]) : 0;
        worst = std::max(worst, std::abs(double(sound[n]) - there));
      }
      QVERIFY2(worst < 1e-4, qPrintable(QString::number(worst)));
    }
    ExportRequest request;
    request.plans = parts;
    request.projectName = "job";
    request.folder = at("out").toStdString();
    const auto files = exportPlans(request, {});
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    QVERIFY((*files)[0].path.ends_with("job part d.mp4"));
    for (const ExportedFile& file : *files)
      for (const ProofCheck& check : file.proof->checks)
        QVERIFY2(check.pass || check.code.ends_with("bit-rate"), (check.code + ": " + check.found.text()).c_str());
    QVERIFY(!Plan::build(p, footage, "d1", {"r2", "none", Rational(100), Rational(101), {}}));
  }

  // EBU Tech 3341, test signal 1: a stereo 1 kHz sine at −23 dBFS is at −23 LUFS; so the gain to a target is the
  // target + 23, until the peak (here the sine's own) is in the way. FFmpeg's ebur128 filter reads the exported file.
  void theWholeMeetsItsLoudness_data() {
    QTest::addColumn<double>("target");
    QTest::addColumn<double>("gain");
    QTest::newRow("as mixed") << 0.0 << 0.0;
    QTest::newRow("up") << -16.0 << 7.0;
    QTest::newRow("down") << -24.0 << -1.0;
    QTest::newRow("held by the peak") << -8.0 << 13.5; // peak limit −9 dBTP, half a decibel kept free: −9.5 + 23
  }
  void theWholeMeetsItsLoudness() {
    QFETCH(double, target);
    QFETCH(double, gain);
    const QString tone = QStringLiteral("%1*sin(2*PI*1000*t)").arg(std::pow(10, -23 / 20.0));
    const QString file = clip(QStringLiteral("tone.mov"), QStringLiteral("aevalsrc=%1|%1:s=48000:d=8").arg(tone));
    Project p = project({file});
    addShot(p, "s1", Rational(0), Rational(8));
    p.output.mostPeakDbtp = -9;
    if (target != 0) p.output.loudnessLufs = target;
    const Region part{"r1", "part", Rational(2), Rational(5), {}};
    const Footage footage = probeFootage(p);
    const auto whole = Plan::build(p, footage, "d1");
    for (const auto& plan : {whole, Plan::build(p, footage, "d1", part)}) {
      const auto found = soundGainDb(*plan);
      QVERIFY2(found, qPrintable(QString::number(found.value_or(99))));
      QVERIFY2(std::abs(*found - gain) < 0.1, qPrintable(QString::number(found.value_or(99))));
    }
    ExportRequest request;
    request.plans = {*whole};
    request.projectName = "loud";
    request.folder = at("out").toStdString();
    request.overwrite = true;
    const auto files = exportPlans(request, {});
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const QString said = run(QStringLiteral("ffmpeg"),
                             {"-i", QString::fromStdString((*files)[0].path), "-af", "ebur128", "-f", "null", "-"});
    const double lufs = said.mid(said.lastIndexOf(QLatin1String("I:")) + 2).trimmed().section(' ', 0, 0).toDouble();
    QVERIFY2(std::abs(lufs - (-23 + gain)) < 0.3, qPrintable(QString::number(lufs)));
    for (const ProofCheck& check : files->front().proof->checks)
      if (check.code == "loudness") QCOMPARE(check.pass, target != -8);
  }
};

QTEST_GUILESS_MAIN(TestSound)
#include "tst_sound.moc"
