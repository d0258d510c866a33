// SPDX-License-Identifier: GPL-3.0-or-later
// The one worker: order, stopping, what is told and what is not, and that nothing is used after it is gone.
#include "media/read/Probe.h"
#include "model/LightService.h"
#include "model/RecoveryKeeper.h"
#include "model/SourceFeed.h"
#include "model/Worker.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QElapsedTimer>
#include <QFile>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <atomic>
#include <new>
#include <thread>

using namespace tromb;

class TestWorker : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  static void never(const Error& error) { QFAIL(sentence(error).c_str()); }
  /// Work that goes on until it is stopped.
  static void untilStopped(const Task& task) {
    while (!task.stopped()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }

private slots:
  void workIsDoneInOrderAndTold() {
    Worker worker;
    QSignalSpy idle(&worker, &Worker::idle);
    std::vector<int> told;
    const auto* window = QThread::currentThread();
    for (int i = 0; i < 20; ++i)
      worker.add(
          [&, i](const Task& task) {
            task.tell([&, i] { told.push_back(QThread::currentThread() == window ? i : -1); });
          },
          never);
    QVERIFY(worker.busy());
    QVERIFY(idle.wait(test::kPatience));
    QVERIFY(!worker.busy());
    for (int i = 0; i < 20; ++i) QCOMPARE(told.at(size_t(i)), i);
  }

  void whatIsThrownIsTold_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<QString>("words");
    QTest::newRow("an exception") << 0 << "a fault inside: planted.";
    QTest::newRow("no memory") << 1 << "memory has run out";
  }
  void whatIsThrownIsTold() {
    QFETCH(const int, kind);
    QFETCH(const QString, words);
    Worker worker;
    QSignalSpy idle(&worker, &Worker::idle);
    QString told;
    worker.add(
        [kind](const Task&) {
          if (kind == 1) throw std::bad_alloc();
          throw std::runtime_error("planted");
        },
        [&](const Error& error) { told = QString::fromStdString(sentence(error)); });
    bool next = false;
    worker.add([&](const Task& task) { task.tell([&] { next = true; }); }, never);
    QVERIFY(idle.wait(test::kPatience));
    QVERIFY2(told.contains(words, Qt::CaseInsensitive), qPrintable(told));
    QVERIFY2(next, "the next piece of work is done all the same");
  }

  // Stopping returns at once; what was stopped is not heard of; the next begins only after it has ended.
  void stoppedWorkIsNotHeardOf() {
    Worker worker;
    std::atomic<bool> inside = false;
    std::atomic<bool> overlapped = false;
    bool heard = false;
    worker.add(
        [&](const Task& task) {
          inside = true;
          untilStopped(task);
          std::this_thread::sleep_for(std::chrono::milliseconds(60)); // it takes its time
          task.tell([&] { heard = true; });
          inside = false;
        },
        never);
    worker.add([&](const Task& task) { task.tell([&] { heard = true; }); }, never);
    QTRY_VERIFY_WITH_TIMEOUT(inside, test::kPatience);
    QElapsedTimer timer;
    timer.start();
    worker.stop();
    QVERIFY2(timer.elapsed() < 30, "stopping does not wait");
    QVERIFY(!worker.busy());
    bool done = false;
    worker.add(
        [&](const Task& task) {
          overlapped = inside.load();
          task.tell([&] { done = true; });
        },
        never);
    QTRY_VERIFY_WITH_TIMEOUT(done, test::kPatience);
    QVERIFY2(!overlapped, "one piece of work at a time");
    QVERIFY2(!heard, "what was stopped is not heard of");
  }

  void interruptedWorkIsHeardOf() {
    Worker worker;
    std::atomic<bool> inside = false;
    int heard = 0;
    worker.add(
        [&](const Task& task) {
          inside = true;
          untilStopped(task);
          task.tell([&] { heard = 1; });
        },
        never);
    worker.add([&](const Task& task) { task.tell([&] { heard = 2; }); }, never);
    QTRY_VERIFY_WITH_TIMEOUT(inside, test::kPatience);
    QSignalSpy idle(&worker, &Worker::idle);
    worker.interrupt();
    QVERIFY(idle.wait(test::kPatience));
    QCOMPARE(heard, 1);
  }

  // Destroying returns at once and nothing is told to what is gone; the thread is joined at the end.
  void anOwnerThatGoesIsNotTold() {
    auto shared = std::make_shared<std::atomic<int>>(0);
    auto heard = std::make_shared<bool>(false);
    auto worker = std::make_unique<Worker>();
    worker->add(
        [shared, heard](const Task& task) {
          *shared = 1;
          untilStopped(task);
          std::this_thread::sleep_for(std::chrono::milliseconds(60));
          task.tell([heard] { *heard = true; });
          *shared = 2;
        },
        never);
    QTRY_COMPARE_WITH_TIMEOUT(shared->load(), 1, test::kPatience);
    QElapsedTimer timer;
    timer.start();
    worker.reset();
    QVERIFY2(timer.elapsed() < 30, "destroying does not wait");
    joinWorkers();
    QCOMPARE(shared->load(), 2);
    QCoreApplication::processEvents();
    QVERIFY(!*heard);
  }

  // Cancelling and asking again: two threads once wrote one copy.
  void aLighterCopyIsCancelledAndAskedAgain() {
    const QString clip = at("wide.mp4");
    test::writeClip(clip.toStdString(), {640, 360}, FrameRate(), 200,
                    [](int n, int x, int y) { return test::texture(n, x, y); });
    Document document;
    document.addFootage({{*probe(clip.toStdString()), "1-aa"}}, Document::AsShots::No);
    LightService lights(document, at("lighter"), 1'000'000'000);
    QSignalSpy ready(&lights, &LightService::ready);
    QSignalSpy failed(&lights, &LightService::failed);
    for (int i = 0; i < 12; ++i) {
      lights.ask("s1");
      QTest::qWait(i * 4);
      lights.cancel();
      QVERIFY(!lights.underWay("s1"));
    }
    lights.ask("s1");
    QVERIFY(ready.wait(test::kPatience));
    QVERIFY2(failed.isEmpty(), "nothing went wrong");
    const auto copy = lights.find("s1");
    QVERIFY(copy.has_value());
    QCOMPARE(copy->video->clock.frameCount(), 200);
    QCOMPARE(QDir(at("lighter")).entryList(QDir::Files | QDir::Hidden).size(), 1);
  }

  // A file that goes, or is cut short, before it is shown: told.
  void aFeedTellsWhatCannotBeShown_data() {
    QTest::addColumn<qint64>("keep");
    QTest::newRow("gone before it is opened") << qint64(-1);
    QTest::newRow("no picture is left") << qint64(3000);
  }
  void aFeedTellsWhatCannotBeShown() {
    QFETCH(const qint64, keep);
    const QString clip = at("going.mkv");
    test::writeClip(clip.toStdString(), {320, 180}, FrameRate(), 100,
                    [](int n, int x, int y) { return test::texture(n, x, y); });
    const auto media = probe(clip.toStdString());
    QVERIFY(media.has_value());
    QVERIFY(keep < 0 ? QFile::remove(clip) : QFile::resize(clip, keep));
    SourceFeed feed;
    QSignalSpy failed(&feed, &SourceFeed::failed);
    QSignalSpy pictured(&feed, &SourceFeed::pictured);
    feed.open(readAsStated(*media), {320, 180});
    feed.show(60);
    QVERIFY(failed.wait(test::kPatience));
    QVERIFY2(failed[0][0].toString().contains(QLatin1String("going.mkv")), qPrintable(failed[0][0].toString()));
    QVERIFY(pictured.isEmpty());
  }

  // Two windows that come and go: never do both hold the project.
  void onlyOneWindowHoldsAProject() {
    const QString path = at("held.tromb");
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    std::atomic<int> holders = 0;
    std::atomic<bool> both = false;
    std::atomic<int> held = 0;
    const auto comeAndGo = [&] {
      for (int i = 0; i < 4000; ++i) {
        bool taken = false;
        const ProjectLock lock = ProjectLock::take(path, taken);
        if (taken) continue;
        if (++holders > 1) both = true;
        ++held;
        --holders;
      }
    };
    {
      const std::jthread one(comeAndGo);
      const std::jthread two(comeAndGo);
    }
    QVERIFY2(!both, "two hold it at the same time");
    QVERIFY(held > 100);
  }
};

QTEST_MAIN(TestWorker)
#include "tst_worker.moc"
