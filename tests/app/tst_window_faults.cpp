// SPDX-License-Identifier: GPL-3.0-or-later
// The window while calls on files fail at chosen places, or it is killed there: it stays, says what is wrong, what was
// there is whole, and nothing half-made has a final name.
#include "media/MediaInfo.h"
#include "media/read/Probe.h"
#include "project/ProjectFile.h"
#include "support/FaultRig.h"
#include "support/TestMedia.h"

#include <QTemporaryDir>

using namespace tromb;

class TestWindowFaults : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  /// A day in the window, see drive_window.cpp; its caches and copies are in "kept".
  [[nodiscard]] test::Ran drive(const QString& folder = {}, const QString& fault = {}) const {
    QStringList day{at("work/p.tromb"), at("footage/b.mp4"), at("out")};
    // Looking for subjects reads footage and no other files, and takes longest.
    if (folder != at("footage")) day << QStringLiteral("unframed");
    return test::runWithFault(QStringLiteral(TROMB_BINARY_DIR "/tests/drive_window"), day, m_folder.path(), folder,
                              fault,
                              {"XDG_DATA_HOME=" + at("kept"), "XDG_CACHE_HOME=" + at("kept"),
                               "XDG_CONFIG_HOME=" + at("kept"), "QT_QPA_PLATFORM=offscreen"});
  }
  [[nodiscard]] static bool allDone(const test::Ran& ran) {
    return ran.words.contains("opened 1\n") && ran.words.contains("saved 1\n") && ran.words.contains("exported 1\n");
  }
  void beginAgain() const {
    for (const char* const each : {"work", "out", "kept"}) {
      QDir(at(each)).removeRecursively();
      QDir().mkpath(at(each));
    }
    QFile::copy(at("made/p.tromb"), at("work/p.tromb"));
    QFile before(at("out/p A.mp4"));
    if (before.open(QIODevice::WriteOnly)) before.write("what was there");
  }

private slots:
  void initTestCase() {
    QDir().mkpath(at("footage"));
    test::writeClip(at("footage/a.mp4").toStdString(), {320, 180}, FrameRate(), 10, test::texture, true);
    test::writeClip(at("footage/b.mp4").toStdString(), {360, 200}, FrameRate(), 12, test::texture, true);
    QDir().mkpath(at("made"));
    const test::Ran made = test::runWithFault(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"),
                                              {"make", at("made/p.tromb"), "--footage", at("footage/a.mp4"),
                                               "--deliverable", "name=A;canvas=180x320;rate=25;preset=ultrafast"},
                                              m_folder.path(), {}, {});
    QCOMPARE(made.code, 0);
    beginAgain();
    const test::Ran whole = drive();
    QVERIFY2(whole.code == 0, qPrintable(whole.words));
    QVERIFY2(allDone(whole), qPrintable(whole.words));
    QCOMPARE(QProcess::execute("cp", {"-r", at("kept"), at("made/kept")}), 0);
  }

  void itStaysAndLosesNothing_data() {
    QTest::addColumn<QString>("folder");
    QTest::addColumn<QString>("calls");
    QTest::addColumn<QString>("how");
    const auto rows = [](const char* folder, const char* call, std::initializer_list<const char*> how) {
      for (const char* const each : how) QTest::addRow("%s: %s %s", folder, call, each) << folder << call << each;
    };
    const std::string full = std::to_string(ENOSPC), broken = std::to_string(EIO), none = std::to_string(EMFILE),
                      gone = std::to_string(ENOENT), refused = std::to_string(EACCES);
    rows("work", "write", {full.c_str(), "short", "kill"});
    rows("work", "sync", {broken.c_str()});
    rows("work", "rename", {gone.c_str(), "kill"});
    rows("work", "open", {none.c_str()});
    rows("out", "write", {full.c_str(), "kill"});
    rows("out", "open", {refused.c_str()});
    rows("out", "rename", {gone.c_str()});
    rows("footage", "read", {broken.c_str(), "short"});
    rows("footage", "open", {none.c_str()});
    rows("kept", "write", {full.c_str(), "kill"});
    rows("kept", "open", {none.c_str(), refused.c_str()});
    rows("kept", "read", {broken.c_str()});
    rows("kept", "rename", {gone.c_str()});
  }
  void itStaysAndLosesNothing() {
    QFETCH(const QString, folder);
    QFETCH(const QString, calls);
    QFETCH(const QString, how);
    int hits = 0;
    for (int n = 1; n < 400; n = n < 3 ? n + 1 : n * 4) {
      beginAgain();
      if (folder == "kept" && calls == "read") // there has to be something to read
        QCOMPARE(QProcess::execute("cp", {"-r", at("made/kept"), m_folder.path()}), 0);
      const test::Ran ran = drive(at(folder), test::fault(calls, n, how));
      if (!ran.hit) break;
      ++hits;
      if (how == "kill") {
        QVERIFY2(loadProject(at("work/p.tromb").toStdString()).has_value(), "the project is whole");
        const test::Ran next = drive(); // and the next window goes on
        QVERIFY2(next.code == 0, qPrintable(next.words));
        QVERIFY2(allDone(next), qPrintable(next.words));
        continue;
      }
      QVERIFY2(ran.code == 0, qPrintable(QString::number(ran.code) + ran.words));
      const bool saved = ran.words.contains("saved 1\n");
      const bool exported = ran.words.contains("exported 1\n");
      const auto project = loadProject(at("work/p.tromb").toStdString());
      QVERIFY2(project.has_value(), "the project is whole");
      QVERIFY2((project->shots.at(0).name == "edited") == saved, qPrintable(ran.words));
      QVERIFY2(saved || ran.words.contains("p.tromb"), qPrintable(ran.words)); // and why
      const bool old = QFile(at("out/p A.mp4")).size() == 14;
      // Where the record of the job cannot be read, it is not known in the window what was made.
      QVERIFY2(old != exported || (folder == "kept" && !exported), qPrintable(ran.words));
      if (!old) {
        const auto made = probe(at("out/p A.mp4").toStdString());
        QVERIFY2(made, "what has the final name is whole");
        QVERIFY2(made->video->clock.frameCount() >= 10, "what has the final name is whole");
      }
      if (how == "short") {
        QVERIFY2(saved, qPrintable(ran.words));
        QVERIFY2(exported, qPrintable(ran.words));
      } else if (folder == "kept") {
        QVERIFY2(saved, qPrintable(ran.words)); // of what is kept beside the project, only an export needs the queue
      } else {
        QVERIFY2((saved && exported) || ran.words.contains(folder == "footage" ? ".mp4" : at(folder)) ||
                     ran.words.contains("p.tromb") || ran.words.contains("A.mp4"),
                 qPrintable(ran.words));
      }
      QCOMPARE(test::filesIn(at("out")), QStringList{"p A.mp4"});
      QCOMPARE(test::filesIn(at("work")), QStringList{"p.tromb"});
    }
    QVERIFY2(hits > 0, "the fault was met");
    qInfo("%d places", hits);
  }
};

QTEST_GUILESS_MAIN(TestWindowFaults)
#include "tst_window_faults.moc"
