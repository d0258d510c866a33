// SPDX-License-Identifier: GPL-3.0-or-later
// Frame numbers that are burned into sources and read back from finished files: all rates at all rates, all speeds.
#include "analysis/Measured.h"
#include "media/read/AudioReader.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "picture/PictureSource.h"
#include "render/Pictures.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"
#include "time/Cadence.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

extern "C" {
#include <libavutil/frame.h>
}

using namespace tromb;
using test::Yuv;

namespace {

const std::vector<std::pair<const char*, Rational>> kRates{{"23.976", {24000, 1001}},
                                                           {"24", 24},
                                                           {"25", 25},
                                                           {"29.97", {30000, 1001}},
                                                           {"30", 30},
                                                           {"48", 48},
                                                           {"50", 50},
                                                           {"59.94", {60000, 1001}},
                                                           {"60", 60},
                                                           {"100", 100},
                                                           {"119.88", {120000, 1001}},
                                                           {"120", 120}};

} // namespace

class TestRates : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;

  /// A clip of `seconds` whose pictures show their numbers; made once for each rate.
  std::string numbered(const char* name, const Rational& rate, const Rational& seconds) {
    const std::string path = m_folder.filePath(QLatin1String(name)).toStdString() + ".mp4";
    if (!QFile::exists(QString::fromStdString(path)))
      test::writeClip(path, {160, 90}, FrameRate(rate), int((seconds * rate).nearest()),
                      [](int frame, int x, int) { return test::numberStripe(frame, x, 160); });
    return path;
  }

private slots:
  void framesAreTheNearest_data() {
    QTest::addColumn<int>("source");
    QTest::addColumn<Pace>("pace");
    QTest::addColumn<int>("times"); // a picture's speed in thousandths; 0: from 1 to 3, evenly over 2 s of source
    for (int i = 0; i < int(kRates.size()); ++i) QTest::newRow(kRates[size_t(i)].first) << i << Pace{} << 1000;
    const struct {
      const char* name;
      Pace pace;
      int times;
    } kPaces[] = {{"50 %", Pace{{1, 2}}, 500},
                  {"200 %", Pace{2}, 2000},
                  {"37.5 %", Pace{{3, 8}}, 375},
                  {"backwards", Pace{1, true}, 1000},
                  {"200 %, backwards", Pace{2, true}, 2000},
                  {"100 % to 300 %", Pace{1, false, 0, {{0, 1, SpeedEase::Even}, {2, 3, SpeedEase::Even}}}, 0}};
    for (const auto& each : kPaces)
      for (const int source : {2, 7})
        QTest::newRow(qPrintable(QStringLiteral("%1 at %2").arg(kRates[size_t(source)].first, each.name)))
            << source << each.pace << each.times;
  }
  void framesAreTheNearest() {
    if (test::leftOut()) return;
    QFETCH(int, source);
    QFETCH(Pace, pace);
    QFETCH(int, times);
    const auto& [name, rate] = kRates[size_t(source)];
    const Rational seconds(2);
    std::vector<test::Shape> shapes;
    for (const auto& [shape, each] : kRates) shapes.push_back({shape, {160, 90}, each});
    Project p = test::project({numbered(name, rate, seconds)}, shapes);
    p.shots[0].pace = pace;
    const QString folder = m_folder.filePath(QString::fromLatin1(QTest::currentDataTag()));
    const auto files = test::exported(p, folder.toStdString(), false);
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const int64_t end = (seconds * rate).nearest();
    const long double lasts = static_cast<long double>(end) * rate.den() / rate.num();
    const long double speed = times / 1000.0L;
    // s = t + t² for a speed that goes evenly from 1 to 3 while 2 s pass, which takes 1 s; what is left goes on at 3.
    const auto passed = [&](long double t) -> long double {
      if (times > 0) return t * speed;
      return t <= 1 ? t + t * t : 2 + 3 * (t - 1);
    };
    const long double length = times > 0    ? lasts / speed
                               : lasts <= 2 ? (std::sqrt(1 + 4 * lasts) - 1) / 2
                                            : 1 + (lasts - 2) / 3;
    for (size_t f = 0; f < files->size(); ++f) {
      const Rational& at = kRates[f].second;
      const long double perSecond = static_cast<long double>(at.num()) / at.den();
      auto reader = VideoReader::open(*probe((*files)[f].path));
      QVERIFY(reader);
      const int64_t count = std::max<int64_t>(1, std::llround(std::ceil(length * perSecond - 0.5L - 1e-6L)));
      QCOMPARE(probe((*files)[f].path)->video->clock.frameCount(), count);
      for (int64_t n = 0; n < count; ++n) {
        const auto picture = reader->frameAt(n);
        QVERIFY(picture);
        const long double place = passed(static_cast<long double>(n) / perSecond) * rate.num() / rate.den();
        // The nearest in time, ties to the earlier; backwards counted from the last.
        const auto nearest = int64_t(std::ceil(place - 0.5L - 1e-6L));
        const int64_t shown = std::clamp<int64_t>(pace.reversed ? end - 1 - nearest : nearest, 0, end - 1);
        QVERIFY2(test::readNumber(*picture) == shown, qPrintable(QStringLiteral("at %1, frame %2 shows %3 and not %4")
                                                                     .arg(kRates[f].first)
                                                                     .arg(n)
                                                                     .arg(test::readNumber(*picture))
                                                                     .arg(shown)));
      }
    }
  }

  // Ten minutes, three or one (always ten with TROMB_LONG) through the finished file and its sound (AAC where the time
  // is kept): at the beginning, in the middle and at the end the picture and the click of each second lie within half a
  // frame of where they belong.
  void minutesKeepTogether_data() {
    QTest::addColumn<int>("source");
    QTest::addColumn<int>("rate");
    QTest::addColumn<Pace>("pace");
    QTest::addColumn<Treatment>("treatment");
    QTest::addColumn<bool>("follows");
    QTest::addColumn<int>("minutes");
    const auto row = [](int source, int rate, const char* how, const Pace& pace, bool follows, int minutes = 1,
                        Treatment treatment = Treatment::KeepTime) {
      QTest::newRow(qPrintable(QStringLiteral("%1 at %2%3")
                                   .arg(kRates[size_t(source)].first, kRates[size_t(rate)].first, QLatin1String(how))))
          << source << rate << pace << treatment << follows << minutes;
    };
    row(2, 3, "", {}, true, 10);
    row(7, 2, "", {}, true);
    row(3, 7, "", {}, true);
    row(2, 3, ", backwards", Pace{1, true}, true);
    row(1, 2, ", every frame", {}, true, 3, Treatment::EveryFrame);
    row(2, 3, ", 50 %", Pace{{1, 2}}, true);
    row(3, 2, ", 200 %", Pace{2}, true);
    row(2, 4, ", 37.5 %", Pace{{3, 8}}, true, 3);
    row(2, 3, ", 50 %, pitch kept", Pace{{1, 2}}, false);
    row(3, 2, ", 200 %, pitch kept", Pace{2}, false);
  }
  void minutesKeepTogether() {
    if (test::leftOut()) return;
    QFETCH(int, source);
    QFETCH(int, rate);
    QFETCH(Pace, pace);
    QFETCH(Treatment, treatment);
    QFETCH(bool, follows);
    QFETCH(int, minutes);
    const Rational& shot = kRates[size_t(source)].second;
    const Rational& at = kRates[size_t(rate)].second;
    const Rational speed = treatment == Treatment::EveryFrame ? at / shot : pace.speed;
    const int whole = test::kLong ? 600 : test::kSanitized ? 30 : 60 * minutes;
    const int seconds = std::min(whole, int((Rational(whole) * speed).nearest()));
    const std::string path =
        m_folder.filePath(QStringLiteral("%1-minutes-%2.mp4").arg(minutes).arg(source)).toStdString();
    if (!QFile::exists(QString::fromStdString(path)))
      test::writeClip(
          path, {64, 36}, FrameRate(shot), int((Rational(whole) * shot).nearest()),
          [](int frame, int x, int) { return test::numberStripe(frame, x, 64); }, true);
    Project p = test::project({path}, {{"long", {64, 36}, at}});
    const bool plain = pace == Pace() && treatment == Treatment::KeepTime;
    if (!plain) p.deliverables[0].encoding.sound.codec = SoundCodec::Flac; // made ten times as fast
    p.shots[0].out = Rational(seconds);
    p.shots[0].pace = pace;
    p.shots[0].pitchFollows = follows;
    p.shots[0].treatment = treatment;
    const auto files =
        test::exported(p, m_folder.filePath(QString::fromLatin1(QTest::currentDataTag())).toStdString(), false);
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const auto made = probe((*files)[0].path);
    auto pictures = VideoReader::open(*made);
    auto sound = AudioReader::open(readAsStated(*made));
    QVERIFY(pictures && sound);
    const double half = 0.5 / at.toDouble();
    const double length = seconds / speed.toDouble();
    for (const int second : {1, seconds / 2, seconds - 2}) {
      const auto placed = [&](double moment) {
        return pace.reversed ? length - moment / speed.toDouble() : moment / speed.toDouble();
      };
      // A second of frames round it: each shows what is nearest to its own time.
      const auto first = int64_t(placed(second) * at.toDouble());
      for (int64_t n = std::max<int64_t>(0, first - 12); n < first + 12; ++n) {
        const auto picture = pictures->frameAt(n);
        QVERIFY(picture);
        const double shown = test::readNumber(*picture) / shot.toDouble();
        const double due = double(n) / at.toDouble() * speed.toDouble();
        const double moment = pace.reversed ? seconds - 1 / shot.toDouble() - due : due;
        QVERIFY2(std::abs(shown - moment) <= 0.5 / shot.toDouble() + 1e-6,
                 qPrintable(QStringLiteral("frame %1 is %2 s off").arg(n).arg(shown - moment)));
      }
      // The click lasts 10 ms: its middle is told by its energy.
      const double wanted = placed(second + 0.005);
      std::vector<float> samples(size_t(kSoundRate) * kStereo / 2);
      const auto from = int64_t((wanted - 0.25) * kSoundRate);
      QVERIFY(sound->goTo(from));
      QVERIFY(sound->read(samples.data(), kSoundRate / 2));
      double energy = 0;
      double middle = 0;
      for (size_t i = 0; i < samples.size(); i += kStereo) {
        const double power = double(samples[i]) * double(samples[i]);
        energy += power;
        middle += power * double(i / kStereo);
      }
      const double off = double(from) / kSoundRate + middle / energy / kSoundRate - wanted;
      QVERIFY2(std::abs(off) <= half, qPrintable(QStringLiteral("the click is %1 s off").arg(off)));
    }
  }

  // "Every frame" shows each frame of a source once, in order, at whatever rate; the next shot comes right after the
  // last, and the whole is as long as the frames are.
  void everyFrameIsShownOnce_data() {
    QTest::addColumn<int>("source");
    QTest::addColumn<bool>("reversed");
    for (const int source : {1, 2, 7, 10}) QTest::newRow(kRates[size_t(source)].first) << source << false;
    QTest::newRow("25, backwards") << 2 << true;
  }
  void everyFrameIsShownOnce() {
    QFETCH(int, source);
    QFETCH(bool, reversed);
    const auto& [name, rate] = kRates[size_t(source)];
    const Rational seconds(1);
    std::vector<test::Shape> shapes;
    for (const auto& [shape, each] : kRates) shapes.push_back({shape, {160, 90}, each});
    const std::string path = numbered(qPrintable(QStringLiteral("once-%1").arg(QLatin1String(name))), rate, seconds);
    Project p = test::project({path, path}, shapes);
    p.shots[0].pace = {{1, 3}, reversed}; // every frame, whatever speed it has
    p.shots[0].treatment = Treatment::EveryFrame;
    const auto files =
        test::exported(p, m_folder.filePath(QStringLiteral("once ") + QTest::currentDataTag()).toStdString(), false);
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const int64_t count = (seconds * rate).nearest();
    for (size_t f = 0; f < files->size(); ++f) {
      const Rational keeps = Rational(count) / rate; // seconds of the other shot
      const int64_t all = ((Rational(count) / kRates[f].second + keeps) * kRates[f].second).nearest();
      QVERIFY2(std::abs(probe((*files)[f].path)->video->clock.frameCount() - all) <= 1, kRates[f].first);
      auto reader = VideoReader::open(*probe((*files)[f].path));
      for (int64_t n = 0; n <= count; ++n) {
        const auto picture = reader->frameAt(n);
        QVERIFY(picture);
        QCOMPARE(test::readNumber(*picture), n == count ? 0 : reversed ? count - 1 - n : n);
      }
    }
  }

  // Repeated pictures are found by measuring, whatever the order of the cycle, and each is shown once where the source
  // is taken at the rate that it was made at. What repeats nothing, or in no order, is told to repeat in no cycle.
  void repeatedPicturesCountOnce_data() {
    QTest::addColumn<Rational>("made");
    QTest::addColumn<Rational>("rate"); // of the file
    QTest::addColumn<int>("from");      // frames that are cut off at the beginning
    QTest::addColumn<int>("cycle");     // 0: none
    QTest::newRow("25 of 50") << Rational(25) << Rational(50) << 0 << 2;
    QTest::newRow("25 of 50, cut between") << Rational(25) << Rational(50) << 1 << 2;
    for (int from = 0; from < 5; ++from)
      QTest::newRow(qPrintable(QStringLiteral("23.976 of 59.94, from frame %1").arg(from)))
          << Rational(24000, 1001) << Rational(60000, 1001) << from << 5;
    QTest::newRow("24 of 30") << Rational(24) << Rational(30) << 2 << 5;
    QTest::newRow("30 of 120") << Rational(30) << Rational(120) << 3 << 4;
    QTest::newRow("nothing repeated") << Rational(25) << Rational(25) << 0 << 0;
  }
  void repeatedPicturesCountOnce() {
    if (test::leftOut()) return;
    QFETCH(Rational, made);
    QFETCH(Rational, rate);
    QFETCH(int, from);
    QFETCH(int, cycle);
    const std::string path =
        m_folder.filePath(QString::fromLatin1(QTest::currentDataTag()).replace(' ', '-')).toStdString() + ".mp4";
    const Cadence repeats{FrameRate(made), FrameRate(rate)};
    const int frames = int((Rational(4) * rate).nearest());
    // The number above, what moves below.
    const auto pictureOf = [&](int frame) { return int((Rational(frame + from) * repeats.ratio()).floor()); };
    test::writeClip(path, {160, 90}, FrameRate(rate), frames, [&](int frame, int x, int y) {
      return y < 48 ? test::numberStripe(pictureOf(frame), x, 160) : test::texture(pictureOf(frame), x, y);
    });
    const auto media = probe(path);
    const auto measured = measurePictures(*media);
    QVERIFY(media && measured);
    QCOMPARE(measured->repeats.has_value(), cycle > 0);
    if (cycle == 0) {
      QVERIFY(measured->repeated < 0.1);
      return;
    }
    QCOMPARE(measured->repeats->cycle, cycle);
    QCOMPARE(measured->repeats->clockOf(media->video->clock).rate().value(), made);
    Project p = test::project({path}, {{"as made", {160, 90}, made}, {"twice", {160, 90}, made * Rational(2)}});
    p.sources[0].repeats = measured->repeats;
    for (const bool reversed : {false, true}) {
      p.shots[0].pace.reversed = reversed;
      for (const int times : {1, 2}) {
        const auto plan = Plan::build(p, probeFootage(p), p.deliverables[size_t(times - 1)].id);
        QVERIFY(plan);
        PlanPictures pictures(*plan);
        int last = -1;
        for (int64_t n = 0; n + 2 * times < plan->frameCount(); ++n) {
          const auto picture = pictures.at(n);
          QVERIFY(picture);
          const int number = test::readNumber(*picture, 20);
          if (last >= 0) QCOMPARE(number - last, n % times != 0 ? 0 : reversed ? -1 : 1);
          last = number;
          if (reversed) continue;
          // Its time is within one and a half frames of the file, which is as even as the cycle allows.
          const double was = double((Rational(number) / repeats.ratio()).ceil() - from) / rate.toDouble();
          const double is = double(n / times * times) / plan->rate().value().toDouble();
          QVERIFY2(std::abs(was - is) * rate.toDouble() <= 1.5 + 1e-6,
                   qPrintable(QString::number((was - is) * rate.toDouble())));
        }
      }
    }
  }

  // Of 50 fields a second each is a picture of its own where the deliverable's rate needs it: at 50 all of them in
  // order, at 25 every frame once, at other rates the nearest field. Each field carries its number.
  void fieldsAreShownOneByOne_data() {
    QTest::addColumn<bool>("top");
    QTest::addColumn<Pace>("pace");
    QTest::newRow("top field first") << true << Pace{};
    QTest::newRow("bottom field first") << false << Pace{};
    QTest::newRow("half speed") << true << Pace{{1, 2}};
    QTest::newRow("backwards") << true << Pace{1, true};
  }
  void fieldsAreShownOneByOne() {
    QFETCH(bool, top);
    QFETCH(Pace, pace);
    const QString woven = m_folder.filePath(top ? "woven-top.mov" : "woven-bottom.mov");
    test::ffmpeg(
        QStringLiteral("-i %1 -vf tinterlace=interleave_%2 -c:v mpeg2video -qscale:v 1 -flags +ildct+ilme -top %3 "
                       "-an %4")
            .arg(QString::fromStdString(numbered("fields", Rational(50), Rational(2))), top ? "top" : "bottom")
            .arg(int(top))
            .arg(woven));
    std::vector<test::Shape> shapes;
    for (const auto& [shape, each] : kRates) shapes.push_back({shape, {160, 90}, each});
    Project p = test::project({woven.toStdString()}, shapes);
    p.sources[0].scan = top ? Scan::TopFieldFirst : Scan::BottomFieldFirst;
    p.sources[0].scanBy = FactBy::Hand;
    p.shots[0].pace = pace;
    const auto files = test::exported(
        p, m_folder.filePath(QStringLiteral("fields ") + QString::fromLatin1(QTest::currentDataTag())).toStdString(),
        false);
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const long double speed = pace.speed.toDouble();
    for (size_t f = 0; f < files->size(); ++f) {
      const long double perSecond = static_cast<long double>(kRates[f].second.num()) / kRates[f].second.den();
      auto reader = VideoReader::open(*probe((*files)[f].path));
      const int64_t count = probe((*files)[f].path)->video->clock.frameCount();
      QCOMPARE(count, std::llround(2 / speed * perSecond));
      const bool frames = std::abs(25 * speed / perSecond - std::round(25 * speed / perSecond)) < 1e-9L;
      const int64_t step = frames ? 2 : 1; // fields
      for (int64_t n = 0; n < count; ++n) {
        const auto nearest = int64_t(std::ceil(n * 50 / step * speed / perSecond - 0.5L - 1e-9L)) * step;
        const int64_t shown = std::clamp<int64_t>(pace.reversed ? 100 - step - nearest : nearest, 0, 100 - step);
        const auto picture = reader->frameAt(n);
        QVERIFY(picture);
        // In its own lines: those between are made of what is round them, which flickers here.
        const int line = 44 + int(top == (shown % 2 == 1));
        QVERIFY2(test::readNumber(*picture, line) == shown,
                 qPrintable(QStringLiteral("at %1, frame %2 shows %3 and not %4")
                                .arg(kRates[f].first)
                                .arg(n)
                                .arg(test::readNumber(*picture, line))
                                .arg(shown)));
      }
    }
  }

  // Backwards each group is decoded once, whether its pictures fit into memory or wait in a file.
  void groupsAreDecodedOnce_data() {
    QTest::addColumn<qint64>("mostBytes");
    QTest::addColumn<int>("step");
    const qint64 picture = 160 * 90 * 3 / 2;
    QTest::newRow("all fit") << 1000 * picture << 1;
    QTest::newRow("three fit") << 3 * picture << 1;
    QTest::newRow("every fourth") << 1000 * picture << 4;
    QTest::newRow("every fourth, three fit") << 3 * picture << 4;
  }
  void groupsAreDecodedOnce() {
    QFETCH(qint64, mostBytes);
    QFETCH(int, step);
    const std::string path = numbered("groups", Rational(25), Rational(5));
    const QString cut = m_folder.filePath("groups-of-50.mp4");
    test::ffmpeg(QStringLiteral("-i %1 -c:v libx264 -g 50 -keyint_min 50 -sc_threshold 0 -bf 2 %2")
                     .arg(QString::fromStdString(path), cut));
    const auto media = probe(cut.toStdString());
    QVERIFY(media);
    auto source = PictureSource::open(readAsStated(*media), {}, true, size_t(mostBytes));
    QVERIFY(source);
    for (int number = 124; number >= 0; number -= step) {
      const auto got = source->shown(number);
      QVERIFY2(got, got ? "" : sentence(got.error()).c_str());
      QCOMPARE(got->number, number);
      QCOMPARE(test::readNumber(got->frame), number);
    }
    QVERIFY2(source->decodedBackwards() <= 125 + 3, qPrintable(QString::number(source->decodedBackwards())));
  }

  // A mixture is the weighted mean of two pictures, sample by sample, at any depth.
  void mixturesAreWeightedMeans_data() {
    QTest::addColumn<QString>("format");
    QTest::addColumn<int>("bytes");
    QTest::newRow("8 bit") << "yuv420p" << 1;
    QTest::newRow("10 bit") << "yuv422p10le" << 2;
    QTest::newRow("RGB, packed") << "bgr0" << 1;
    QTest::newRow("RGB, planar, 12 bit") << "gbrp12le" << 2;
  }
  void mixturesAreWeightedMeans() {
    QFETCH(QString, format);
    QFETCH(int, bytes);
    const QString file = m_folder.filePath(format + ".mkv");
    test::ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=96x54:r=25:d=1 -c:v ffv1 -pix_fmt %1 %2").arg(format, file));
    const auto media = probe(file.toStdString());
    QVERIFY(media);
    auto source = PictureSource::open(readAsStated(*media));
    auto alone = VideoReader::open(*media);
    for (const auto& [frame, next, share] : {std::tuple(3, 4, 0.25), {4, 5, 0.5}, {4, 5, 0.9}, {9, 8, 0.3}}) {
      const auto both = source->shown(ShownFrames{frame, next, share});
      QVERIFY2(both, both ? "" : sentence(both.error()).c_str());
      const Frame a = *alone->frameAt(frame);
      const Frame b = *alone->frameAt(next);
      for (int plane = 0; plane < 3 && a->data[plane]; ++plane)
        for (int at = 0; at < 24; ++at) {
          const auto sample = [&](const Frame& f) {
            const uint8_t* line = f->data[plane] + ptrdiff_t(at) * f->linesize[plane];
            return bytes == 1 ? int(line[at]) : int(line[2 * at]) + 256 * int(line[2 * at + 1]);
          };
          const double mean = sample(a) * (1 - share) + sample(b) * share;
          QVERIFY(std::abs(sample(both->frame) - mean) <= 0.51);
        }
    }
  }

  // What moves is moved on: the picture between two is nearer to the one that was there than their mixture is, by far,
  // with a thing that moves before a ground that moves another way; what rests stays as it is.
  void interpolatedPicturesMoveOn_data() {
    QTest::addColumn<double>("share");
    QTest::addColumn<int>("ground"); // pixels to the left from one picture to the next
    QTest::addColumn<int>("thing");  // pixels to the right
    QTest::newRow("half way") << 0.5 << 8 << 12;
    QTest::newRow("a quarter of the way") << 0.25 << 8 << 12;
    QTest::newRow("before a ground at rest") << 0.5 << 0 << 16;
    QTest::newRow("all moves alike") << 0.75 << 16 << -16;
  }
  void interpolatedPicturesMoveOn() {
    QFETCH(double, share);
    QFETCH(int, ground);
    QFETCH(int, thing);
    const Size size{480, 270};
    const auto sceneAt = [&](double time) {
      const int off = int(std::lround(1000 + ground * time));
      const int left = int(std::lround(150 + thing * time));
      return test::painted(size, 0, [&](int, int x, int y) {
        const bool on = x >= left && x < left + 120 && y >= 80 && y < 200;
        return on ? test::texture(0, 2000 + x - left, 900 + y) : test::texture(0, x + off, y);
      });
    };
    const Frame first = sceneAt(0);
    const Frame second = sceneAt(1);
    const Frame wanted = sceneAt(share);
    const auto fault = [&](const Frame& picture) {
      double sum = 0;
      for (int y = 8; y < size.height - 8; ++y)
        for (int x = 24; x < size.width - 24; ++x)
          sum += std::pow(test::lumaAt(picture, x, y) - test::lumaAt(wanted, x, y), 2);
      return sum;
    };
    Between between;
    const auto moved = between.picture(first, second, {0, 1, share, true});
    const auto mixed = between.picture(first, second, {0, 1, share, false});
    QVERIFY(moved && mixed);
    QVERIFY2(fault(*moved) * 8 < fault(*mixed),
             qPrintable(QStringLiteral("%1 beside %2").arg(fault(*moved)).arg(fault(*mixed))));
    if (ground == 0)
      for (int x = 0; x < 100; ++x) QCOMPARE(test::lumaAt(*moved, x, 240), test::lumaAt(wanted, x, 240));
  }

  // Between two pictures of different scenes nothing is made: the nearer one is shown.
  void nothingIsMadeAcrossACut_data() {
    QTest::addColumn<double>("share");
    QTest::addColumn<bool>("second");
    QTest::newRow("before the middle") << 0.4 << false;
    QTest::newRow("in the middle") << 0.5 << false;
    QTest::newRow("after the middle") << 0.6 << true;
  }
  void nothingIsMadeAcrossACut() {
    QFETCH(double, share);
    QFETCH(bool, second);
    const Frame a = test::painted({320, 180}, 0, test::texture);
    const Frame b = test::painted({320, 180}, 0, [](int, int x, int y) {
      return Yuv{60 + (x * x / 97 + y * 3) % 90, 120, 140};
    });
    Between between;
    const auto got = between.picture(a, b, {0, 1, share, true});
    QVERIFY(got);
    QCOMPARE(*got, second ? b : a);
  }

  // "Mixed" shows between two frames what lies between them, and whole frames where it meets one; by itself nothing is
  // ever mixed. 24 at 30: frames 0, 0.8, 1.6, 2.4, 3.2, 4.
  void mixedShotsAreMixed() {
    const std::string path = m_folder.filePath("ramp.mp4").toStdString();
    test::writeClip(path, {160, 90}, FrameRate(Rational(24)), 24, [](int n, int, int) { return Yuv{40 + 7 * n}; });
    for (const Treatment treatment : {Treatment::KeepTime, Treatment::Mixed}) {
      Project p = test::project({path}, {{"a", {160, 90}, Rational(30)}});
      p.deliverables[0].treatment = treatment;
      const auto plan = Plan::build(p, probeFootage(p), p.deliverables[0].id);
      QVERIFY(plan);
      for (int n = 0; n < 20; ++n) {
        const double place = treatment == Treatment::Mixed ? n * 0.8 : std::ceil(n * 0.8 - 0.5);
        const auto picture = renderFrame(*plan, n);
        QVERIFY(picture);
        const double shown = (test::lumaAt(*picture, 80, 45) - 40) / 7.0;
        QVERIFY2(std::abs(shown - place) <= 2 / 7.0, qPrintable(QStringLiteral("%1: %2").arg(n).arg(shown)));
      }
    }
  }
};

QTEST_GUILESS_MAIN(TestRates)
#include "tst_rates.moc"
