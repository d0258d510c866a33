// SPDX-License-Identifier: GPL-3.0-or-later
// What is drawn and heard while somebody watches: which frames when, pictures of the plan at the size of a screen, and
// sound in both directions.
#include "media/read/Probe.h"
#include "project/Footage.h"
#include "render/LightCopy.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "watch/WatchPictures.h"
#include "watch/WatchSound.h"

#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cmath>
#include <numbers>

using namespace tromb;

namespace {

/// When a picture is another, and which frame of each deliverable it shows.
using Shown = QList<QList<int>>;

} // namespace

class TestWatching : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string at(const QString& name) const { return m_folder.filePath(name).toStdString(); }

  [[nodiscard]] static std::vector<WatchScreen> screensOf(const Project& p, Size most) {
    std::vector<WatchScreen> screens;
    for (const Deliverable& d : p.deliverables)
      screens.push_back({std::make_shared<const Plan>(*Plan::build(p, probeFootage(p), d.id)), most});
    return screens;
  }

  static int numberIn(const ScreenPicture& picture) {
    int number = 0;
    for (int stripe = 0; stripe < 16; ++stripe) {
      const int x = (2 * stripe + 1) * picture.size.width / 32;
      const size_t place = 4 * (size_t(picture.size.height / 2) * size_t(picture.size.width) + size_t(x));
      number = number * 2 + (picture.bytes[place + 1] > 126 ? 1 : 0);
    }
    return number;
  }

private slots:
  void initTestCase() {
    test::writeClip(
        at("numbers.mp4"), {320, 180}, FrameRate(), 100,
        [](int n, int x, int) { return test::numberStripe(n, x, 320); }, true);
    test::writeClip(at("fifty.mp4"), {320, 180}, FrameRate(50), 100,
                    [](int n, int x, int) { return test::numberStripe(n, x, 320); });
    // Smooth, so that kernels agree; it drifts.
    test::writeClip(at("smooth.mp4"), {640, 360}, FrameRate(), 30, [](int n, int x, int y) {
      const double wave = std::sin((x + 4 * n) / 40.0) * std::cos(y / 30.0);
      return test::Yuv{126 + int(80 * wave), 128 + (x - 320) / 8, 128 + (y - 180) / 6};
    });
  }

  // By hand: a frame of 25 is on screen for 1920 samples, one of 30000/1001 for 1601.6, from the first sample at or
  // after its time.
  void framesFollowTheClock_data() {
    QTest::addColumn<QStringList>("rates");
    QTest::addColumn<Rational>("from");
    QTest::addColumn<int>("speed");
    QTest::addColumn<Rational>("begin");
    QTest::addColumn<Rational>("end");
    QTest::addColumn<bool>("round");
    QTest::addColumn<Shown>("shown"); // samples, then frames
    const Rational none(0);
    QTest::newRow("25") << QStringList{"25"} << none << 1 << none << Rational(4) << false
                        << Shown{{0, 0}, {1920, 1}, {3840, 2}, {5760, 3}};
    QTest::newRow("30000/1001") << QStringList{"30000/1001"} << none << 1 << none << Rational(4) << false
                                << Shown{{0, 0}, {1602, 1}, {3204, 2}, {4805, 3}, {6407, 4}, {8008, 5}};
    QTest::newRow("from a frame of 30000/1001")
        << QStringList{"30000/1001"} << Rational(7 * 1001, 30000) << 1 << none << Rational(4) << false
        << Shown{{0, 7}, {1601, 8}, {3203, 9}}; // frame 7 begins at sample 11 211.2: the clock at 11 212
    QTest::newRow("within a frame") << QStringList{"25"} << Rational(1, 100) << 1 << none << Rational(4) << false
                                    << Shown{{0, 0}, {1440, 1}};
    QTest::newRow("25 beside 30") << QStringList{"25", "30"} << none << 1 << none << Rational(4) << false
                                  << Shown{{0, 0, 0}, {1600, 0, 1}, {1920, 1, 1}, {3200, 1, 2}, {3840, 2, 2}};
    QTest::newRow("backwards") << QStringList{"25"} << Rational(1, 5) << -1 << none << Rational(4) << false
                               << Shown{{0, 4}, {1920, 3}, {3840, 2}, {5760, 1}, {7680, 0}};
    QTest::newRow("twice as fast") << QStringList{"25"} << none << 2 << none << Rational(4) << false
                                   << Shown{{0, 0}, {1920, 2}, {3840, 4}};
    QTest::newRow("four times backwards") << QStringList{"25"} << Rational(2) << -4 << none << Rational(4) << false
                                          << Shown{{0, 49}, {1920, 45}, {3840, 41}};
    QTest::newRow("round") << QStringList{"25"} << Rational(2, 25) << 1 << Rational(1, 25) << Rational(3, 25) << true
                           << Shown{{0, 2}, {1920, 1}, {3840, 2}, {5760, 1}};
    QTest::newRow("round, backwards") << QStringList{"25"} << Rational(2, 25) << -1 << Rational(1, 25)
                                      << Rational(3, 25) << true << Shown{{0, 1}, {1920, 2}, {3840, 1}};
    QTest::newRow("the last stays") << QStringList{"25"} << Rational(98, 25) << 1 << none << Rational(4) << false
                                    << Shown{{0, 98}, {1920, 99}, {3840, 99}};
  }
  void framesFollowTheClock() {
    QFETCH(const QStringList, rates);
    QFETCH(const Rational, from);
    QFETCH(const int, speed);
    QFETCH(const Rational, begin);
    QFETCH(const Rational, end);
    QFETCH(const bool, round);
    QFETCH(const Shown, shown);
    const WatchRun run(from, speed, begin, end, round);
    std::vector<FrameRate> all;
    for (const QString& rate : rates) all.push_back(*FrameRate::parse(rate.toStdString()));
    Shown got;
    for (int64_t heard = 0; got.size() < shown.size(); heard = run.nextChange(heard, all)) {
      QList<int> one{int(heard)};
      for (const FrameRate& rate : all) one << int(run.frameAt(heard, rate, rate == FrameRate() ? 100 : 1000));
      got << one;
    }
    QCOMPARE(got, shown);
  }

  // After ten hours a frame is still on screen from the first sample at or after its time.
  void framesDoNotDrift() {
    const FrameRate rate(Rational(60000, 1001));
    const WatchRun run(Rational(0), 1, Rational(0), Rational(36'000), false);
    const int64_t last = (Rational(35'999) * rate.value()).floor();
    const int64_t begins = (rate.timeOf(last) * Rational(kSoundRate)).ceil();
    QCOMPARE(run.frameAt(begins, rate, last + 10), last);
    QCOMPARE(run.frameAt(begins - 1, rate, last + 10), last - 1);
    QCOMPARE(run.nextChange(begins - 1, {rate}), begins);
  }

  // Whichever way a frame is come to, it is that frame: in two rates at once, of shots that are turned about, slowed
  // and held. The numbers are written in the pictures.
  void thePictureIsThatFrame_data() {
    QTest::addColumn<QList<int>>("asked");
    QTest::addColumn<bool>("backwards");
    QList<int> on;
    for (int n = 0; n < 190; n += 3) on << n;
    QTest::newRow("in order") << on << false;
    QTest::newRow("backwards") << QList<int>(on.rbegin(), on.rend()) << true;
    QTest::newRow("to and fro") << QList<int>{120, 3, 99, 100, 98, 189, 0, 101, 60} << false;
  }
  void thePictureIsThatFrame() {
    QFETCH(const QList<int>, asked);
    QFETCH(const bool, backwards);
    Project p = test::project({at("numbers.mp4"), at("fifty.mp4"), at("numbers.mp4")},
                              {{"a", {320, 180}}, {"b", {640, 360}, Rational(30)}});
    p.shots[1].pace = {{1, 2}, true};
    p.shots[2].pace.held = Rational(1);
    p.shots[2].in = Rational(1);
    WatchPictures pictures(screensOf(p, {320, 180}), {});
    for (const int n : asked) {
      const int64_t beside = std::min<int64_t>(pictures.screens()[1].plan->frameCount() - 1, n * 6 / 5);
      const auto drawn = pictures.draw({n, beside}, backwards);
      if (!drawn) QFAIL(sentence(drawn.error()).c_str());
      for (size_t i = 0; i < 2; ++i) {
        const Plan& plan = *pictures.screens()[i].plan;
        const int64_t source = plan.at((*drawn)[i].frame).shown.frame;
        QVERIFY2(numberIn((*drawn)[i].picture) == source, qPrintable(QStringLiteral("frame %1 of %2 shows %3 for %4")
                                                                         .arg((*drawn)[i].frame)
                                                                         .arg(i)
                                                                         .arg(numberIn((*drawn)[i].picture))
                                                                         .arg(source)));
        QCOMPARE((*drawn)[i].sourceFrame, source);
      }
    }
  }

  // What is watched is framed as it is exported: the pictures differ by no more than a plainer kernel makes.
  void theFramingIsThePlans_data() {
    QTest::addColumn<QString>("framing");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<bool>("light");
    QTest::addColumn<double>("most"); // codes, in the mean: a pixel beside its place is 6
    QTest::newRow("fill") << "fill" << Size{320, 568} << false << 2.0;
    QTest::newRow("fit") << "fit" << Size{320, 568} << false << 2.0;
    QTest::newRow("two stacked") << "stack2" << Size{320, 568} << false << 2.0;
    QTest::newRow("three side by side") << "side3" << Size{640, 360} << false << 2.0;
    QTest::newRow("backdrop") << "backdrop" << Size{480, 480} << false << 3.0; // its blur goes by the canvas's pixels
    QTest::newRow("a move") << "move" << Size{320, 568} << false << 2.0;
    QTest::newRow("wide pixels") << "wide pixels" << Size{720, 576} << false << 2.0;
    QTest::newRow("10 bit, HLG") << "hlg" << Size{640, 360} << false << 2.0;
    QTest::newRow("from a lighter copy") << "fill" << Size{320, 568} << true << 3.0; // which is coded
    QTest::newRow("a move, from a lighter copy") << "move" << Size{320, 568} << true << 3.0;
  }
  void theFramingIsThePlans() {
    QFETCH(const QString, framing);
    QFETCH(const Size, canvas);
    QFETCH(const bool, light);
    QFETCH(const double, most);
    Project p = test::project({at("smooth.mp4")}, {{"a", canvas}});
    Deliverable& d = p.deliverables[0];
    Framing its;
    if (framing == "move") {
      its.windows[0].move = {{Rational(0), 0.3, 0.5, 1.2, Ease::Linear, {}},
                             {Rational(1), 0.7, 0.4, 1.6, Ease::Linear, {}}};
    } else if (framing == "wide pixels") {
      d.pixelAspect = Rational(64, 45);
    } else if (framing == "hlg") {
      d.format = {10, Chroma::C420, kHlg};
      d.encoding.codec = Codec::Hevc;
    } else {
      QVERIFY(framingByName(framing.toStdString(), its));
    }
    d.framings[p.shots[0].id] = its;
    WatchLights lights;
    if (light) {
      const Footage footage = probeFootage(p);
      const LightCopies copies(at("light"), 1'000'000'000);
      QVERIFY(copies.make(readingOf(p.sources[0], *footage.at(p.sources[0].id)), "0-0").has_value());
      lights = [copy = *copies.find("0-0")](const std::string&) { return copy; };
    }
    WatchPictures pictures(screensOf(p, {240, 240}), lights);
    for (const int64_t n : {0, 11, 24}) {
      const auto drawn = pictures.draw({n}, false);
      if (!drawn) QFAIL(sentence(drawn.error()).c_str());
      const ScreenPicture& got = (*drawn)[0].picture;
      const auto whole = renderFrame(*pictures.screens()[0].plan, n);
      QVERIFY(whole.has_value());
      const auto all = toScreen(*whole);
      const auto wanted = resampled(all->bytes.data(), all->size.width * 4, all->size,
                                    {0, 0, double(all->size.width), double(all->size.height)}, got.size, Kernel::Quick);
      QVERIFY(wanted.has_value());
      double off = 0;
      for (size_t i = 0; i < got.bytes.size(); ++i)
        if (i % 4 != 3) off += std::abs(int(got.bytes[i]) - int(wanted->bytes[i]));
      off /= double(got.bytes.size()) * 3 / 4;
      QVERIFY2(off < most, qPrintable(QStringLiteral("frame %1: %2 codes off").arg(n).arg(off)));
    }
  }

  // The source beside a deliverable is the whole upright picture of the same moment.
  void theSourceIsWhole() {
    Project p = test::project({at("numbers.mp4")}, {{"a", {180, 320}}});
    std::vector<WatchScreen> screens = screensOf(p, {160, 90});
    screens[0].source = true;
    WatchPictures pictures(screens, {});
    const auto drawn = pictures.draw({57}, false);
    QVERIFY(drawn.has_value());
    QCOMPARE((*drawn)[0].picture.size, (Size{160, 90}));
    QCOMPARE(numberIn((*drawn)[0].picture), 57);
  }

  // Sound as it is heard: what the mix has, in the direction and at the speed of the run.
  void soundGoesWithTheRun_data() {
    QTest::addColumn<int>("speed");
    QTest::addColumn<bool>("round");
    QTest::newRow("on") << 1 << false;
    QTest::newRow("backwards") << -1 << false;
    QTest::newRow("round") << 1 << true;
    QTest::newRow("round, backwards") << -1 << true;
  }
  void soundGoesWithTheRun() {
    QFETCH(const int, speed);
    QFETCH(const bool, round);
    const Project p = test::project({at("numbers.mp4")}, {{"a", {320, 180}}});
    const auto plan = std::make_shared<const Plan>(*Plan::build(p, probeFootage(p), p.deliverables[0].id));
    std::vector<float> mix;
    SoundMix all(*plan, kStereo);
    while (int64_t(mix.size()) < all.samples() * kStereo) {
      const auto chunk = all.next(0);
      QVERIFY(chunk.has_value());
      mix.insert(mix.end(), (*chunk)->begin(), (*chunk)->end());
    }
    const WatchRun run(Rational(3, 2), speed, Rational(1, 2), Rational(5, 2), round);
    WatchSound sound(plan);
    sound.begin(run);
    std::vector<float> heard(size_t(3 * kSoundRate * kStereo));
    for (int64_t done = 0; done < 3 * kSoundRate; done += 1000)
      QVERIFY(sound.read(heard.data() + done * kStereo, 1000).has_value());
    for (int64_t i = 0; i < 3 * kSoundRate; ++i) {
      const int64_t from = speed > 0 ? kSoundRate * 3 / 2 + i : kSoundRate * 3 / 2 - 1 - i;
      const int64_t begin = kSoundRate / 2;
      const int64_t length = 2 * kSoundRate;
      const bool inside = from >= begin && from < begin + length;
      const int64_t place = begin + ((from - begin) % length + length) % length;
      const float wanted = inside || round ? mix[size_t(place * kStereo)] : 0;
      QVERIFY2(heard[size_t(i * kStereo)] == wanted, qPrintable(QString::number(i)));
    }
  }

  // Twice as fast a tone is an octave higher, as from a tape; at more than four times there is silence.
  void fasterIsHigher_data() {
    QTest::addColumn<int>("speed");
    QTest::addColumn<double>("hertz"); // 0: silence
    QTest::newRow("2") << 2 << 800.0;
    QTest::newRow("−4") << -4 << 1600.0;
    QTest::newRow("8") << 8 << 0.0;
  }
  void fasterIsHigher() {
    QFETCH(const int, speed);
    QFETCH(const double, hertz);
    test::ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=64x36:r=25:d=8 -f lavfi -i sine=f=400:d=8 -c:v libx264 -c:a "
                                "pcm_s16le %1")
                     .arg(m_folder.filePath("tone.mov")));
    const Project p = test::project({at("tone.mov")}, {{"a", {64, 36}}});
    WatchSound sound(std::make_shared<const Plan>(*Plan::build(p, probeFootage(p), p.deliverables[0].id)));
    sound.begin(WatchRun(Rational(4), speed, Rational(0), Rational(8), false));
    std::vector<float> heard(size_t(kSoundRate / 2 * kStereo));
    QVERIFY(sound.read(heard.data(), kSoundRate / 2).has_value());
    int crossings = 0; // upwards, in 0.2 s
    for (size_t i = 9600; i < 19200; ++i) crossings += heard[(i - 1) * kStereo] < 0 && heard[i * kStereo] >= 0 ? 1 : 0;
    QCOMPARE(crossings, int(hertz / 5));
  }
};

QTEST_GUILESS_MAIN(TestWatching)
#include "tst_watching.moc"
