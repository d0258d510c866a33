// SPDX-License-Identifier: GPL-3.0-or-later
// The command line while calls on files fail at chosen places, memory is short, or it is killed: what was there stays,
// nothing half-made has a final name, and words say what is wrong.
#include "export/Exporter.h"
#include "media/read/Probe.h"
#include "project/ProjectFile.h"
#include "support/FaultRig.h"
#include "support/TestMedia.h"

#include <QTemporaryDir>
#include <sys/resource.h>

using namespace tromb;

class TestFaults : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  [[nodiscard]] test::Ran run(const QStringList& arguments, const QString& folder = {},
                              const QString& fault = {}) const {
    return test::runWithFault(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"), arguments, m_folder.path(), folder,
                              fault);
  }

private slots:
  void initTestCase() {
    // A folder for temporary files of its own: other tests have some, too.
    QVERIFY(QDir().mkpath(at("temporary")));
    qputenv("TMPDIR", at("temporary").toLocal8Bit());
    QVERIFY(QFile::exists(QStringLiteral(TROMB_BINARY_DIR "/tests/libtromb_faults.so")));
    QDir().mkpath(at("footage"));
    test::writeClip(at("footage/a.mp4").toStdString(), {320, 180}, FrameRate(), 30, test::texture, true);
    const test::Ran made = run({"make", at("p.tromb"), "--footage", at("footage/a.mp4"), "--deliverable",
                                "name=A;canvas=180x320;rate=25;preset=ultrafast"});
    QCOMPARE(made.code, 0);
  }

  void savingOverAProject_data() {
    QTest::addColumn<QString>("calls");
    QTest::addColumn<QString>("how");
    test::writingFails();
    QTest::newRow("killed at the sync") << "sync"
                                        << "kill";
  }
  void savingOverAProject() {
    QFETCH(const QString, calls);
    QFETCH(const QString, how);
    const QString folder = at("saving");
    int hits = 0;
    for (int n = 1; n < 40; n = test::later(n)) {
      QDir(folder).removeRecursively();
      QDir().mkpath(folder);
      QVERIFY(QFile::copy(at("p.tromb"), folder + "/p.tromb"));
      const test::Ran ran = run({"make", folder + "/p.tromb", "--overwrite", "--footage", at("footage/a.mp4"),
                                 "--deliverable", "name=B;canvas=320x180;rate=25"},
                                folder, test::fault(calls, n, how));
      if (!ran.hit) break;
      ++hits;
      const auto project = loadProject((folder + "/p.tromb").toStdString());
      QVERIFY2(project.has_value(), "the project is whole");
      if (how == "short") QCOMPARE(ran.code, 0);
      if (how == "kill") continue;
      QVERIFY2(ran.code == 0 || ran.code == 4, qPrintable(ran.words));
      QCOMPARE(project->deliverables.at(0).name, std::string(ran.code == 0 ? "B" : "A"));
      QVERIFY2(ran.code == 0 || ran.words.contains("p.tromb"), qPrintable(ran.words));
      QCOMPARE(test::filesIn(folder), QStringList{"p.tromb"});
    }
    QVERIFY2(hits > 0, "the fault was met");
  }

  void exporting_data() {
    QTest::addColumn<QString>("calls");
    QTest::addColumn<QString>("how");
    test::writingFails();
    QTest::newRow("opening is refused") << "open" << QString::number(EACCES);
    QTest::newRow("no locks, no room for names") << "rename" << QString::number(ENOSPC);
  }
  void exporting() {
    QFETCH(const QString, calls);
    QFETCH(const QString, how);
    const QString out = at("out");
    int hits = 0;
    for (int n = 1; n < 200; n = test::later(n)) {
      QDir(out).removeRecursively();
      QDir().mkpath(out);
      QFile before(out + "/p A.mp4");
      QVERIFY(before.open(QIODevice::WriteOnly));
      QVERIFY(before.write("what was there") > 0);
      before.close();
      const test::Ran ran =
          run({"export", at("p.tromb"), "--out", out, "--overwrite"}, out, test::fault(calls, n, how));
      if (!ran.hit) break;
      ++hits;
      const bool old = QFile(out + "/p A.mp4").size() == 14;
      if (!old) {
        const auto made = probe((out + "/p A.mp4").toStdString());
        QVERIFY2(made, "what has the final name is whole");
        QVERIFY2(made->video->clock.frameCount() == 30, "what has the final name is whole");
      }
      if (how == "short") QCOMPARE(ran.code, 0);
      if (how == "kill") {
        // The next run takes the remains away.
        QCOMPARE(run({"export", at("p.tromb"), "--out", out, "--overwrite"}).code, 0);
      } else {
        QVERIFY2(ran.code == 0 || ran.code == 1 || ran.code == 4 || ran.code == 5, qPrintable(ran.words));
        QCOMPARE(old, ran.code != 0);
        QVERIFY2(ran.code == 0 || ran.words.contains("A.mp4") || ran.words.contains(out), qPrintable(ran.words));
      }
      QCOMPARE(test::filesIn(out), QStringList{"p A.mp4"});
    }
    QVERIFY2(hits > 0, "the fault was met");
  }

  /// The source's disk fails, or gives half of what is asked for.
  // The disk fills while the second of two passes writes: nothing half-made stays, here or among temporary files.
  void aDiskThatFillsInTheSecondPass() {
    QCOMPARE(run({"make", at("two.tromb"), "--footage", at("footage/a.mp4"), "--deliverable",
                  "name=A;canvas=180x320;rate=25;preset=ultrafast;codec=hevc;passes=2;bitrate=300k"})
                 .code,
             0);
    const QString out = at("out-two");
    const QStringList temporary = QDir::temp().entryList({"tromb-*"}, QDir::Dirs);
    int hits = 0;
    for (int n = 1; n < 200; n = test::later(n)) {
      QDir(out).removeRecursively();
      QDir().mkpath(out);
      const test::Ran ran =
          run({"export", at("two.tromb"), "--out", out}, out, test::fault("write", n, QString::number(ENOSPC)));
      if (!ran.hit) break;
      ++hits;
      if (ran.code == 0) continue; // what could not be written was tried again
      QVERIFY2(ran.code == 4, qPrintable(ran.words));
      QVERIFY2(ran.words.contains("A.mp4") || ran.words.contains(out), qPrintable(ran.words));
      QCOMPARE(test::filesIn(out), QStringList());
    }
    QVERIFY2(hits > 0, "the fault was met");
    QCOMPARE(QDir::temp().entryList({"tromb-*"}, QDir::Dirs), temporary);
  }

  void readingTheSource_data() {
    QTest::addColumn<QString>("calls");
    QTest::addColumn<QString>("how");
    QTest::newRow("disk fails") << "read" << QString::number(EIO);
    QTest::newRow("read by halves") << "read"
                                    << "short";
    QTest::newRow("opening fails") << "open" << QString::number(EIO);
    QTest::newRow("no descriptors") << "open" << QString::number(EMFILE);
  }
  void readingTheSource() {
    QFETCH(const QString, calls);
    QFETCH(const QString, how);
    const QString out = at("read");
    int hits = 0;
    for (int n = 1; n < 200; n = test::later(n)) {
      QDir(out).removeRecursively();
      const test::Ran ran = run({"export", at("p.tromb"), "--out", out}, at("footage"), test::fault(calls, n, how));
      if (!ran.hit) break;
      ++hits;
      if (how == "short")
        QVERIFY2(ran.code == 0, qPrintable(ran.words));
      else
        QVERIFY2(ran.code == 1 || ran.code == 3 || ran.code == 5, qPrintable(QString::number(ran.code) + ran.words));
      QVERIFY2(ran.code == 0 || ran.words.contains("a.mp4"), qPrintable(ran.words));
      QCOMPARE(QFile::exists(out + "/p A.mp4"), ran.code == 0);
    }
    QVERIFY2(hits > 0, "the fault was met");
  }

  /// FFmpeg gives no memory, from one allocation of the program's on.
  void memoryIsRefused_data() {
    QTest::addColumn<QString>("verb");
    QTest::newRow("export") << "export";
    QTest::newRow("frame") << "frame";
    QTest::newRow("proof") << "proof";
  }
  void memoryIsRefused() {
    QFETCH(const QString, verb);
    const QString out = at("refused");
    QDir().mkpath(at("whole"));
    if (!QFile::exists(at("whole/p A.mp4"))) QCOMPARE(run({"export", at("p.tromb"), "--out", at("whole")}).code, 0);
    const QStringList arguments = verb == "export"  ? QStringList{verb, at("p.tromb"), "--out", out}
                                  : verb == "frame" ? QStringList{verb, at("p.tromb"), "--deliverable", "A", "--number",
                                                                  "3",  "--out",       out + "/f.png"}
                                                    : QStringList{verb, at("whole/p A.mp4")};
    int hits = 0;
    for (int n = 1; n < 400; n = n < 24 ? n + 1 : test::later(n)) {
      QDir(out).removeRecursively();
      QDir().mkpath(out);
      const test::Ran ran = run(arguments, at("footage"), test::fault("memory", n, QString::number(ENOMEM)));
      if (!ran.hit) break;
      ++hits;
      QVERIFY2(ran.code == 3 || ran.code == 5,
               qPrintable(QStringLiteral("%1: %2 %3").arg(n).arg(ran.code).arg(ran.words)));
      QVERIFY2(ran.words.contains("memory"), qPrintable(ran.words));
      QCOMPARE(test::filesIn(out), QStringList());
    }
    QVERIFY2(hits > 5, "the fault was met");
  }

  /// An FFmpeg that lacks the encoders: told before, and not found after an hour.
  void encodersMayBeMissing_data() {
    QTest::addColumn<QString>("verb");
    QTest::addColumn<int>("code");
    QTest::addColumn<QString>("words");
    QTest::newRow("encoders") << "encoders" << 0
                              << "h264: H.264 with libx264, not available: this system's FFmpeg has no libx264";
    QTest::newRow("check") << "check" << 1 << "this system's FFmpeg has no libx264";
    QTest::newRow("export") << "export" << 5
                            << "this system's FFmpeg cannot encode H.264: it has no libx264. Choose another";
  }
  void encodersMayBeMissing() {
    QFETCH(const QString, verb);
    QFETCH(const int, code);
    QFETCH(const QString, words);
    QStringList arguments{verb};
    if (verb != "encoders") arguments << at("p.tromb");
    if (verb == "export") arguments << "--out" << at("without");
    const test::Ran ran = run(arguments, at("footage"), test::fault("encoder", 1, QString::number(ENOENT)));
    QVERIFY2(ran.words.contains(words), qPrintable(ran.words));
    QCOMPARE(ran.code, code);
    QVERIFY(!QFile::exists(at("without")));
  }

  void littleMemory_data() {
    QTest::addColumn<int>("megabytes");
    for (const int megabytes : {60, 120, 180, 240, 300, 360, 420, 500, 600, 800})
      QTest::addRow("%d MB", megabytes) << megabytes;
  }
  void littleMemory() {
    QFETCH(const int, megabytes);
    const QString out = at("little");
    QDir(out).removeRecursively();
    // The C library itself ends a program that starts to use another one (here zimg) in a thread at the very moment
    // when not even a few bytes are left: one in eighty, so not twice in a row.
    QProcess process;
    QByteArray words;
    for (int tries = 0; tries < 2; ++tries) {
      process.setProcessChannelMode(QProcess::MergedChannels);
      process.start("/bin/sh",
                    {"-c", QStringLiteral("ulimit -v %1; exec \"$@\"").arg(megabytes * 1024), "sh",
                     QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"), "export", at("p.tromb"), "--out", out});
      QVERIFY2(process.waitForFinished(test::kPatience), "it hangs");
      words = process.readAll();
      if (process.exitStatus() == QProcess::NormalExit) break;
    }
    QVERIFY2(process.exitStatus() == QProcess::NormalExit, words);
    if (process.exitCode() != 0) {
      QVERIFY2(words.size() > 20, "it says why");
      QVERIFY(test::filesIn(out).isEmpty());
    }
  }

  // Numbers that damage has made huge, in the boxes of ISO/IEC 14496-12, 8.6 and 8.7: a few KB take no gigabytes.
  void damagedCountsTakeNoMemory_data() {
    QTest::addColumn<QByteArrayList>("boxes"); // each with the place and the value of four bytes in it, in hex
    QTest::newRow("key frames") << QByteArrayList{"stss 8 30000000"};
    QTest::newRow("frames") << QByteArrayList{"stsz 8 00000001", "stsz 12 04c4b400", "stsc 16 04c4b400"};
  }
  void damagedCountsTakeNoMemory() {
    QFETCH(const QByteArrayList, boxes);
    QFile whole(at("footage/a.mp4"));
    QVERIFY(whole.open(QIODevice::ReadOnly));
    QByteArray bytes = whole.readAll();
    for (const QByteArray& each : boxes) {
      const QByteArrayList words = each.split(' ');
      QVERIFY2(bytes.contains(words[0]), words[0]);
      bytes.replace(bytes.indexOf(words[0]) + words[1].toInt(), 4, QByteArray::fromHex(words[2]));
    }
    QFile damaged(at("greedy.mp4"));
    QVERIFY(damaged.open(QIODevice::WriteOnly));
    QVERIFY(damaged.write(bytes) == bytes.size());
    damaged.close();
    const test::Ran ran = run({"probe", at("greedy.mp4"), at("footage/a.mp4")});
    QVERIFY2(ran.code == 3, qPrintable(ran.words));
    QVERIFY2(ran.words.contains("greedy.mp4: "), qPrintable(ran.words));
    QVERIFY2(ran.words.contains("a.mp4: 320"), "the file behind it is still looked at");
    rusage used{};
    QCOMPARE(getrusage(RUSAGE_CHILDREN, &used), 0);
    QVERIFY2(used.ru_maxrss < 1'500'000, qPrintable(QString::number(used.ru_maxrss) + " KB"));
  }

  void standardStreamsThatAreClosed() {
    for (const char* const closing : {">&-", "2>&-", "<&- >&- 2>&-"}) {
      const QString out = at("closed");
      QDir(out).removeRecursively();
      QProcess process;
      process.start("/bin/sh",
                    {"-c", QStringLiteral("exec \"$@\" %1").arg(closing), "sh",
                     QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"), "export", at("p.tromb"), "--out", out});
      QVERIFY(process.waitForFinished(test::kPatience));
      QCOMPARE(process.exitCode(), 0);
      const auto made = probe((out + "/p A.mp4").toStdString());
      QVERIFY2(made, closing);
      QVERIFY2(made->video->clock.frameCount() == 30, closing);
    }
  }

  void whatCannotBePrintedIsAnError_data() {
    QTest::addColumn<QStringList>("arguments");
    QTest::newRow("probe") << QStringList{"probe", "--json", at("footage/a.mp4")};
    QTest::newRow("check") << QStringList{"check", "--json", at("p.tromb")};
    QTest::newRow("destinations") << QStringList{"destinations", "--json"};
  }
  void whatCannotBePrintedIsAnError() {
    QFETCH(const QStringList, arguments);
    QProcess process;
    process.start("/bin/sh", QStringList{"-c", "exec \"$@\" >/dev/full", "sh",
                                         QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli")} +
                                 arguments);
    QVERIFY(process.waitForFinished(test::kPatience));
    QCOMPARE(process.exitCode(), 4);
  }

  void aReaderThatHasReadEnoughIsNoError() {
    QProcess process;
    process.setProcessChannelMode(QProcess::MergedChannels);
    process.start("/bin/sh",
                  {"-c", "mkfifo \"$1\" && exec 3<>\"$1\" 4>\"$1\" 3<&- && exec \"$2\" destinations --json >&4", "sh",
                   at("unread"), QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli")});
    QVERIFY(process.waitForFinished(test::kPatience));
    QCOMPARE(process.readAll(), QByteArray());
    QCOMPARE(process.exitCode(), 0);
  }
};

QTEST_GUILESS_MAIN(TestFaults)
#include "tst_faults.moc"
