// SPDX-License-Identifier: GPL-3.0-or-later
// Watching by a clock that the test turns: which pictures are shown when, jumps, parts, edits meanwhile, a machine that
// is too slow. The numbers of the frames are written in the pictures.
#include "export/Exporter.h"
#include "media/read/Probe.h"
#include "model/FootageImport.h"
#include "model/Watch.h"
#include "support/Patience.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QDir>
#include <QFile>
#include <QGuiApplication>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <QThread>
#include <algorithm>
#include <functional>

using namespace tromb;

namespace {

/// A device whose time the test makes.
class TurnedClock final : public SoundOut {
public:
  void start(std::shared_ptr<SoundPipe> pipe) override {
    m_pipe = std::move(pipe);
    m_heard = 0;
    m_taken.clear();
  }
  void stop() override { m_pipe.reset(); }
  [[nodiscard]] int64_t heard() override { return m_heard; }
  [[nodiscard]] bool running() const { return m_pipe != nullptr; }
  /// Lets time pass; takes no more of the sound than there is, so that none is missed.
  void turn(int64_t samples) {
    for (int64_t left = samples; left > 0 && m_pipe;) {
      const int64_t there = m_pipe->ended() ? left : std::min(left, m_pipe->held());
      std::vector<float> block(size_t(there * kStereo));
      m_pipe->take(block.data(), there);
      m_taken.insert(m_taken.end(), block.begin(), block.end());
      left -= there;
      if (there == 0) QTest::qWait(1);
    }
    m_heard += samples;
  }
  void skip(int64_t samples) { m_heard += samples; } ///< the window stood still
  [[nodiscard]] const std::vector<float>& taken() const { return m_taken; }

private:
  std::shared_ptr<SoundPipe> m_pipe;
  int64_t m_heard = 0;
  std::vector<float> m_taken;
};

constexpr int64_t kFrame = kSoundRate / 25;

int openFiles() {
  return int(QDir(QStringLiteral("/proc/self/fd")).entryList(QDir::Files | QDir::System | QDir::NoDotAndDotDot).size());
}

int threads() {
  return int(QDir(QStringLiteral("/proc/self/task")).entryList(QDir::Dirs | QDir::NoDotAndDotDot).size());
}

/// Resident memory in MiB.
int64_t memory() {
  QFile file(QStringLiteral("/proc/self/statm"));
  return file.open(QIODevice::ReadOnly) ? file.readAll().split(' ').value(1).toLongLong() * 4096 >> 20 : 0;
}

} // namespace

class TestWatch : public QObject {
  Q_OBJECT

  /// A project that is watched on two screens.
  struct Rig {
    Document document;
    Session session{document};
    LightService lights;
    TurnedClock* clock = new TurnedClock;
    Watch watch;
    QObject viewer;
    QStringList failed;

    Rig(const Project& project, const QString& folder)
        : lights(document, folder, 0), watch(session, lights, std::unique_ptr<SoundOut>(clock)) {
      document.open(project, {});
      std::vector<Document::Learned> learned;
      for (auto& [id, media] : probeFootage(project)) learned.push_back({id, media});
      document.setMedia(learned);
      QObject::connect(&watch, &Watch::failed, &watch, [this](const QString& reason) { failed << reason; });
      std::vector<Watch::Screen> screens;
      for (int i = 0; i < int(project.deliverables.size()); ++i) screens.push_back({i, false, {320, 180}});
      watch.setScreens(&viewer, screens);
    }
    [[nodiscard]] int64_t frame(size_t screen = 0) const { return watch.pictures(&viewer)[screen].frame; }
    [[nodiscard]] QImage image(size_t screen = 0) const { return watch.pictures(&viewer)[screen].image; }
  };
  QTemporaryDir m_folder;
  [[nodiscard]] std::string at(const QString& name) const { return m_folder.filePath(name).toStdString(); }

  /// The number that a shown picture carries.
  static int numberIn(const QImage& picture) {
    int number = 0;
    for (int stripe = 0; stripe < 16 && !picture.isNull(); ++stripe)
      number = number * 2 +
               (qGray(picture.pixel((2 * stripe + 1) * picture.width() / 32, picture.height() / 2)) > 126 ? 1 : 0);
    return number;
  }
  [[nodiscard]] Project numbers(int shots = 1) const {
    std::vector<std::string> files(size_t(shots), at("numbers.mp4"));
    Project p = test::project(files, {{"wide", {320, 180}}, {"small", {160, 90}}});
    return p;
  }
  /// Waits without sleeping, since there are thousands of frames to wait for.
  static bool becomes(const std::function<bool()>& so) {
    QElapsedTimer since;
    since.start();
    while (!so()) {
      if (since.hasExpired(test::kPatience)) return false;
      QCoreApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents);
    }
    return true;
  }
  static bool shows(Rig& rig, int64_t frame) {
    QTimer awake; // what is waited for may need no event
    awake.start(10);
    return becomes([&] { return rig.frame() == frame && !rig.watch.busy(); });
  }
  static bool begins(Rig& rig) {
    return becomes([&] { return rig.clock->running(); });
  }

private slots:
  void initTestCase() {
    test::writeClip(
        at("numbers.mp4"), {320, 180}, FrameRate(), 100,
        [](int n, int x, int) { return test::numberStripe(n, x, 320); }, true);
  }

  // While nothing plays, the picture under the playhead is that frame, however it is come to, and says its number.
  void aJumpShowsThatFrame() {
    Rig rig(numbers(), m_folder.path());
    for (const int n : {0, 57, 56, 99, 3, 4, 80}) {
      rig.session.setPlayhead(Rational(n, 25));
      QVERIFY2(shows(rig, n), qPrintable(QStringLiteral("%1 for %2").arg(rig.frame()).arg(n)));
      QCOMPARE(numberIn(rig.image()), n);
      QCOMPARE(numberIn(rig.image(1)), n);
      QCOMPARE(rig.watch.pictures(&rig.viewer)[0].sourceFrame, int64_t(n));
      QCOMPARE(rig.watch.pictures(&rig.viewer)[0].shot, rig.document.project().shots[0].id);
    }
  }

  // Pictures go by the clock of the sound, and the playhead with them: at every moment of five minutes what is shown is
  // what is heard. Nothing is left out.
  void picturesFollowTheSound_data() {
    QTest::addColumn<int>("speed");
    QTest::addColumn<int>("shots"); // of 4 s
    QTest::addColumn<int>("every"); // frames of the clock
    QTest::newRow("on, five minutes") << 1 << 75 << 1;
    QTest::newRow("backwards") << -1 << 4 << 1;
    QTest::newRow("twice as fast") << 2 << 8 << 1;
    QTest::newRow("eight times backwards") << -8 << 8 << 1;
  }
  void picturesFollowTheSound() {
    QFETCH(const int, speed);
    QFETCH(const int, shots);
    QFETCH(const int, every);
    Rig rig(numbers(shots), m_folder.path());
    const int64_t frames = 100 * shots;
    if (speed < 0) rig.session.setPlayhead(rig.session.starts().back());
    rig.watch.play(speed);
    QVERIFY(begins(rig));
    for (int64_t tick = 0; tick * std::abs(speed) < frames; tick += every) {
      const int64_t due = speed > 0 ? tick * speed : std::max<int64_t>(0, frames - 1 + tick * speed);
      QVERIFY2(shows(rig, due), qPrintable(QStringLiteral("%1 for %2").arg(rig.frame()).arg(due)));
      QVERIFY2(numberIn(rig.image()) == due % 100, qPrintable(QString::number(due)));
      const Rational there = speed > 0 ? Rational(due, 25) : Rational(frames + tick * speed, 25);
      QCOMPARE(rig.session.playhead(), there);
      rig.clock->turn(every * kFrame);
    }
    QVERIFY(becomes([&] { return !rig.watch.playing(); })); // at the end
    QCOMPARE(rig.session.playhead(), speed > 0 ? rig.session.starts().back() : Rational(0));
    QCOMPARE(rig.watch.pace().leftOut, int64_t(0));
    QCOMPARE(rig.watch.pace().silent, int64_t(0));
    QCOMPARE(rig.failed, QStringList());
  }

  // The click that lies at each full second of the footage is heard at each full second.
  void whatIsHeardIsTheMix() {
    Rig rig(numbers(), m_folder.path());
    rig.session.setPlayhead(Rational(1, 2));
    rig.watch.play();
    QVERIFY(begins(rig));
    rig.clock->turn(2 * kSoundRate);
    const auto& taken = rig.clock->taken();
    for (const int64_t at : {kSoundRate / 2, kSoundRate * 3 / 2}) {
      float before = 0;
      float after = 0;
      for (int64_t i = at - 2400; i < at - 200; ++i) before = std::max(before, std::abs(taken[size_t(i * kStereo)]));
      for (int64_t i = at; i < at + 480; ++i) after = std::max(after, std::abs(taken[size_t(i * kStereo)]));
      QVERIFY2(after > 0.1F && before < after / 4, qPrintable(QString::number(at)));
    }
  }

  // A window that stood still shows what is due, and counts what was left out.
  // A finished file of a part lies beside what it was made from, picture for picture, and is heard instead of it; where
  // it begins is found by its length. Before and after the part its first and last picture stand.
  void finishedFilesAreInStep() {
    Project p = numbers(2);
    p.regions.push_back({"r1", "middle", Rational(2), Rational(6), {}});
    const auto part = Plan::build(p, probeFootage(p), p.deliverables[0].id, p.regions[0]);
    QVERIFY(part);
    ExportRequest request;
    request.plans = {*part};
    request.folder = m_folder.path().toStdString();
    request.proof = false;
    const auto files = exportPlans(request, {});
    QVERIFY(files);
    Rig rig(p, m_folder.path());
    QSignalSpy changed(&rig.watch, &Watch::fileChanged);
    rig.session.setDeliverable(1);
    rig.watch.watchFile(QString::fromStdString(files->front().path));
    QVERIFY(becomes([&] { return changed.size() == 1; }));
    QCOMPARE(rig.watch.file()->deliverable, p.deliverables[0].id); // by its canvas
    QCOMPARE(rig.watch.file()->begin, Rational(2));
    rig.watch.setScreens(&rig.viewer, {{0, false, {320, 180}}, {0, false, {320, 180}, true}});
    for (const int n : {75, 149, 50, 10, 199}) {
      rig.session.setPlayhead(Rational(n, 25));
      QVERIFY(shows(rig, n));
      QCOMPARE(numberIn(rig.image()), n % 100);
      QCOMPARE(numberIn(rig.image(1)), std::clamp(n, 50, 149) % 100);
    }
    rig.session.setPlayhead(Rational(3));
    rig.watch.play();
    QVERIFY(begins(rig));
    for (int n = 75; n < 125; ++n) {
      QVERIFY(shows(rig, n));
      QCOMPARE(numberIn(rig.image(1)), n % 100);
      rig.clock->turn(kFrame);
    }
    const auto& taken = rig.clock->taken();
    const auto loud = [&](double second) { // of the click that lasts 10 ms
      float most = 0;
      for (auto i = size_t(second * kSoundRate) * kStereo; i < size_t((second + 0.01) * kSoundRate) * kStereo; ++i)
        most = std::max(most, std::abs(taken[i]));
      return most;
    };
    QVERIFY(loud(1) > 0.2);
    QVERIFY(loud(1.5) < 0.02);
    rig.watch.leaveFile();
    QVERIFY(!rig.watch.file());
    QCOMPARE(rig.failed, QStringList());
  }

  // A loudness that is aimed at is heard while watching, too, once it is known. A stereo tone with peaks at p dBFS has
  // p LUFS (EBU Tech 3341, case 1), so that peaks lie at the loudness.
  void theLoudnessIsHeard() {
    test::ffmpeg(
        QStringLiteral("-f lavfi -i color=s=64x36:r=25:d=6 -f lavfi -i sine=f=1000:r=48000:d=6 -ac 2 -c:a pcm_s16le "
                       "-c:v libx264 %1")
            .arg(m_folder.filePath("tone.mov")));
    Project p = test::project({at("tone.mov")}, {{"soft", {64, 36}}});
    p.output.loudnessLufs = -30;
    Rig rig(p, m_folder.path());
    const auto peakOfLast = [&](int64_t samples) {
      const auto& taken = rig.clock->taken();
      float most = 0;
      for (size_t i = taken.size() - std::min(taken.size(), size_t(samples * kStereo)); i < taken.size(); ++i)
        most = std::max(most, std::abs(taken[i]));
      return double(most);
    };
    bool heard = false;
    QElapsedTimer since;
    for (since.start(); !heard && !since.hasExpired(test::kPatience);) {
      rig.session.setPlayhead(Rational(0));
      rig.watch.play();
      QVERIFY(begins(rig));
      rig.clock->turn(2 * kSoundRate);
      heard = std::abs(peakOfLast(kSoundRate / 4) / std::pow(10, -30 / 20.0) - 1) < 0.02;
      rig.watch.pause();
    }
    QVERIFY(heard);
  }

  // A deliverable at 50 that shows every frame of 25 once takes half the time. It leads where it is watched first, at
  // its own speed; one that takes the project's time shows the same moments beside it.
  void othersShowTheSameMoments() {
    Project p = numbers(2);
    p.deliverables[0].rate = FrameRate(Rational(50));
    p.deliverables[0].treatment = Treatment::EveryFrame;
    Rig rig(p, m_folder.path());
    rig.session.setPlayhead(Rational(2));
    QVERIFY(shows(rig, 50));
    QCOMPARE(rig.frame(1), 50);
    rig.watch.play();
    QVERIFY(begins(rig));
    for (int n = 1; n <= 100; ++n) {
      rig.clock->turn(kSoundRate / 50);
      QVERIFY2(becomes([&] { return rig.frame() == 50 + n; }), qPrintable(QString::number(n)));
      QCOMPARE(numberIn(rig.image()), (50 + n) % 100);
      QCOMPARE(numberIn(rig.image(1)), (50 + n) % 100);
      QCOMPARE(rig.session.playhead(), Rational(50 + n, 25));
    }
    QCOMPARE(rig.watch.pace().leftOut, 0);
  }

  void whatIsTooLateIsLeftOut() {
    Rig rig(numbers(), m_folder.path());
    rig.watch.play();
    QVERIFY(begins(rig) && shows(rig, 0));
    rig.clock->skip(50 * kFrame);
    QVERIFY(shows(rig, 50));
    QCOMPARE(numberIn(rig.image()), 50);
    QCOMPARE(rig.watch.pace().leftOut + rig.watch.pace().shown, int64_t(51)); // each was shown or left out
    QVERIFY(rig.watch.pace().leftOut > 20);
  }

  // Round and round over the shot, what is selected, a region.
  void partsGoRound_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<QList<int>>("shown"); // frames, by ticks of the clock
    using Kind = Watch::Part::Kind;
    QTest::newRow("the shot") << int(Kind::Shot) << QList<int>{103, 104, 100, 101};
    QTest::newRow("what is selected") << int(Kind::Selected) << QList<int>{103, 104, 105, 106, 107, 108, 109, 100};
    QTest::newRow("a region, from its beginning") << int(Kind::Region) << QList<int>{1, 2, 3, 1, 2};
  }
  void partsGoRound() {
    QFETCH(const int, kind);
    QFETCH(const QList<int>, shown);
    Project p = numbers(3);
    for (const size_t i : {1u, 2u}) p.shots[i].out = Rational(1, 5);
    p.regions = {{"r1", "Part", Rational(1, 25), Rational(4, 25), {}}};
    Rig rig(p, m_folder.path());
    rig.session.setPlayhead(Rational(103, 25));
    rig.session.selectShots({1, 2});
    rig.watch.setPart({Watch::Part::Kind(kind), "r1"});
    rig.watch.play();
    QVERIFY(begins(rig));
    for (const int frame : shown) {
      QVERIFY2(shows(rig, frame), qPrintable(QStringLiteral("%1 for %2").arg(rig.frame()).arg(frame)));
      rig.clock->turn(kFrame);
    }
    QVERIFY(rig.watch.playing());
  }

  // Pressing again doubles the speed, up to eight; the other way begins at its own; a pause keeps the picture.
  void pressingAgainIsFaster() {
    Rig rig(numbers(), m_folder.path());
    rig.session.setPlayhead(Rational(2));
    QList<int> speeds;
    for (const bool backwards : {false, false, false, false, false, true, true, false}) {
      rig.watch.playFaster(backwards);
      speeds << rig.watch.speed();
    }
    QCOMPARE(speeds, (QList<int>{1, 2, 4, 8, 8, -1, -2, 1}));
    rig.watch.playOrPause();
    QVERIFY(!rig.watch.playing());
    QVERIFY(shows(rig, 50));
  }

  // A step shows the next frame and sounds for as long as it lasts.
  void aStepIsSeenAndHeard() {
    Rig rig(numbers(), m_folder.path());
    rig.session.setPlayhead(Rational(24, 25));
    rig.watch.step(1); // onto the click at one second
    QVERIFY(shows(rig, 25));
    QVERIFY(begins(rig));
    rig.clock->turn(2 * kFrame);
    const auto& taken = rig.clock->taken();
    const auto loudest = [&](int64_t from, int64_t to) {
      float most = 0;
      for (int64_t i = from; i < to; ++i) most = std::max(most, std::abs(taken[size_t(i * kStereo)]));
      return most;
    };
    QVERIFY(loudest(0, kFrame) > 0.1F);
    QCOMPARE(loudest(kFrame, 2 * kFrame), 0.0F);
    rig.watch.step(-10);
    QVERIFY(shows(rig, 15));
    rig.watch.step(-100);
    QCOMPARE(rig.session.playhead(), Rational(0));
  }

  // A step far back in a long group takes longer to draw than its sound lasts: the picture still comes.
  void aSlowStepIsSeen() {
    const QString path = m_folder.filePath(QStringLiteral("long.mp4"));
    test::ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=1280x720:r=25:d=24 -c:v libx264 -preset ultrafast -g 2500 "
                                "-keyint_min 2500 -sc_threshold 0 %1")
                     .arg(path));
    Rig rig(test::project({path.toStdString()}, {{"wide", {320, 180}}}), m_folder.path());
    rig.session.setPlayhead(Rational(599, 25));
    QVERIFY(shows(rig, 599));
    rig.watch.step(-100);
    QTest::qWait(500); // its sound is over
    QTRY_COMPARE_WITH_TIMEOUT(rig.frame(), int64_t(499), test::kPatience);
    QVERIFY(!rig.watch.busy());
  }

  void cutsAreStepsToo() {
    Rig rig(numbers(3), m_folder.path());
    rig.session.setPlayhead(Rational(5));
    rig.watch.toCut(false);
    QCOMPARE(rig.session.playhead(), Rational(8));
    rig.watch.toCut(true);
    QCOMPARE(rig.session.playhead(), Rational(4));
    rig.watch.toCut(true);
    rig.watch.toCut(true);
    QCOMPARE(rig.session.playhead(), Rational(0));
  }

  // An edit while it plays is seen at once, and it plays on from there; watching itself changes nothing.
  void editsAreSeenWhileItPlays() {
    Rig rig(numbers(), m_folder.path());
    rig.watch.play();
    QVERIFY(begins(rig));
    rig.clock->turn(10 * kFrame);
    QVERIFY(shows(rig, 10));
    Shot shot = rig.document.project().shots[0];
    shot.in = Rational(1);
    rig.document.changeShots({shot}, QStringLiteral("Trim"));
    QVERIFY(rig.watch.playing());
    QVERIFY(begins(rig));
    rig.clock->turn(5 * kFrame);
    QVERIFY(becomes([&] { return numberIn(rig.image()) == int(rig.frame()) + 25; }));
    rig.document.removeDeliverables({1});
    QVERIFY(begins(rig));
    QVERIFY(becomes([&] { return !rig.image().isNull(); }));
    QCOMPARE(rig.watch.pictures(&rig.viewer).size(), size_t(1));
    rig.watch.pause();
    QCOMPARE(rig.document.undoStack().count(), 2);
    QCOMPARE(rig.failed, QStringList());
  }

  // Somebody who looks elsewhere meanwhile is followed; nobody looking, the playhead goes on.
  void itPlaysWithoutPictures() {
    Rig rig(numbers(), m_folder.path());
    rig.watch.setScreens(&rig.viewer, {});
    rig.watch.play();
    QVERIFY(begins(rig));
    rig.clock->turn(30 * kFrame);
    QVERIFY(becomes([&] { return rig.session.playhead() == Rational(30, 25); }));
    rig.session.setPlayhead(Rational(3));
    QVERIFY(begins(rig));
    QVERIFY(rig.watch.playing());
    rig.clock->turn(kFrame);
    QVERIFY(becomes([&] { return rig.session.playhead() == Rational(76, 25); }));
  }

  // A file that goes, or is cut short, before it is watched: told, and not playing for ever.
  void whatCannotBeReadIsSaid_data() {
    QTest::addColumn<qint64>("keep");
    QTest::addColumn<bool>("plays");
    QTest::newRow("gone, at the playhead") << qint64(-1) << false;
    QTest::newRow("gone, playing") << qint64(-1) << true;
    QTest::newRow("no picture is left, at the playhead") << qint64(3000) << false;
    QTest::newRow("no picture is left, playing") << qint64(3000) << true;
  }
  void whatCannotBeReadIsSaid() {
    QFETCH(const qint64, keep);
    QFETCH(const bool, plays);
    const QString going = m_folder.filePath(QStringLiteral("going.mkv"));
    test::writeClip(going.toStdString(), {320, 180}, FrameRate(), 100, test::texture);
    const Project p = test::project({going.toStdString()}, {{"wide", {320, 180}}});
    Rig rig(p, m_folder.path());
    QVERIFY(keep < 0 ? QFile::remove(going) : QFile::resize(going, keep));
    rig.session.setPlayhead(Rational(60, 25));
    rig.watch.setScreens(&rig.viewer, {{0, false, {100, 100}}});
    if (plays) rig.watch.play();
    QVERIFY(becomes([&] { return !rig.failed.isEmpty(); }));
    QVERIFY2(rig.failed[0].contains(QLatin1String("going.mkv")), qPrintable(rig.failed[0]));
    QVERIFY(!rig.watch.playing());
  }

  // A thousand jumps, some of them while it plays, leave no file, no thread and no memory behind.
  void nothingLeaks() {
    Rig rig(numbers(2), m_folder.path());
    int files = 0;
    int running = 0;
    int64_t resident = 0;
    for (int jump = 0; jump < 1000; ++jump) {
      rig.session.setPlayhead(Rational(jump * 37 % 199, 25));
      if (jump % 20 == 5) rig.watch.play(jump % 40 == 5 ? 1 : -1);
      if (jump % 20 == 15) rig.watch.pause();
      if (jump % 50 == 49) {
        rig.watch.pause();
        QVERIFY(shows(rig, jump * 37 % 199));
      }
      QCoreApplication::processEvents();
      if (jump == 199) { // all that is opened once is open
        files = openFiles();
        running = threads();
        resident = memory();
      }
    }
    rig.watch.pause();
    QVERIFY(shows(rig, 999 * 37 % 199));
    // Up to four sources may be open, or none, when it is counted: each is a file and its decoders' threads.
    constexpr int kOpen = 4;
    QVERIFY2(openFiles() <= files + kOpen, qPrintable(QStringLiteral("%1, %2").arg(files).arg(openFiles())));
    QVERIFY2(threads() <= running + kOpen * (QThread::idealThreadCount() + 2),
             qPrintable(QStringLiteral("%1, %2").arg(running).arg(threads())));
    if (!test::kSanitized) // a sanitizer keeps what was given back
      QVERIFY2(memory() < resident + 64, qPrintable(QStringLiteral("%1, %2 MiB").arg(resident).arg(memory())));
    QCOMPARE(rig.failed, QStringList());
  }

  // The silent clock counts as a device does: 48 000 samples a second, and takes as many.
  void theSilentClockCounts() {
    SilentOut silent;
    const auto pipe = std::make_shared<SoundPipe>(kSoundRate * 100);
    std::vector<float> second(size_t(kSoundRate * kStereo), 0.25F);
    for (int i = 0; i < 60; ++i) pipe->put(second.data(), kSoundRate);
    QElapsedTimer longer; // than it ran, however busy the machine is
    longer.start();
    silent.start(pipe);
    QElapsedTimer shorter;
    shorter.start();
    QTest::qWait(200);
    const qint64 least = shorter.nsecsElapsed();
    const int64_t heard = silent.heard();
    const qint64 most = longer.nsecsElapsed();
    QVERIFY(heard <= most / 1000 * kSoundRate / 1'000'000 + 1);
    QVERIFY(heard >= least / 1000 * kSoundRate / 1'000'000 - 1);
    QCOMPARE(pipe->held(), 60 * kSoundRate - heard);
    QVERIFY(std::abs(pipe->level().peakDb[0] - -12.04F) < 0.1F); // a quarter of full scale
  }

  void cleanupTestCase() { joinWorkers(); }
};

QTEST_MAIN(TestWatch)
#include "tst_watch.moc"
