// SPDX-License-Identifier: GPL-3.0-or-later
// Nothing is ever lost: killed at random moments, full disks, two windows.
#include "model/RecoveryKeeper.h"
#include "project/ProjectFile.h"
#include "support/Patience.h"

#include <QCoreApplication>
#include <QDir>
#include <QProcess>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <random>
#include <sys/resource.h>

using namespace tromb;

class TestRecovery : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  static Project sample() {
    Project p;
    p.name = "job";
    p.sources.resize(40);
    for (size_t i = 0; i < p.sources.size(); ++i) {
      p.sources[i].id = "s" + std::to_string(i);
      p.sources[i].path = "/footage/" + std::to_string(i) + ".mp4";
    }
    for (int i = 0; i < 200; ++i)
      p.shots.push_back({"h" + std::to_string(i),
                         "s" + std::to_string(i % 40),
                         "0",
                         Rational(0),
                         Rational(1),
                         {},
                         false,
                         {},
                         0,
                         false,
                         {},
                         {}});
    return p;
  }

private slots:
  // Kill -9 at 50 random moments while edits and saves go on: the project always opens and holds the last save that
  // was told of or a later one, and a recovery copy told of after it is there, whole.
  void killedAtAnyMomentNothingIsLost() {
    const QString path = m_folder.filePath("job.tromb");
    const QString recovery = m_folder.filePath("recovery");
    std::mt19937 dice(11);
    int copies = 0;
    for (int round = 0; round < 50; ++round) {
      QDir(recovery).removeRecursively();
      QVERIFY(saveProject(sample(), path.toStdString()).has_value());
      QProcess editing;
      editing.start(QStringLiteral(TROMB_BINARY_DIR "/tests/edit_until_killed"), {path, recovery});
      QVERIFY(editing.waitForReadyRead(test::kPatience));
      QTest::qSleep(int(dice() % 40));
      editing.kill();
      QVERIFY(editing.waitForFinished(test::kPatience));
      int saved = 0;
      int recovered = 0;
      const QByteArray output = editing.readAll();
      for (const QByteArray& line : output.left(output.lastIndexOf('\n') + 1).split('\n'))
        if (line.size() > 2) (line[0] == 'S' ? saved : recovered) = line.mid(2).toInt();
      const auto project = loadProject(path.toStdString());
      QVERIFY2(project.has_value(), project ? "" : sentence(project.error()).c_str());
      const int held = std::stoi(project->shots[0].name);
      QVERIFY2(held >= saved, qPrintable(QStringLiteral("%1 < %2").arg(held).arg(saved)));
      QVERIFY2(project->shots.size() == 200, qPrintable(QStringLiteral("%1 < %2").arg(held).arg(saved)));
      const auto left = abandonedCopies(recovery.toStdString());
      copies += int(left.size());
      // A save clears the copy: one that was told of before the last save need not be there.
      if (recovered > held) QVERIFY(left.size() == 1 && std::stoi(left[0].project.shots[0].name) >= recovered);
      // No half-written file is taken for a project.
      for (const QString& file : QDir(m_folder.path()).entryList({"*.tromb"}, QDir::Files))
        QVERIFY(loadProject(m_folder.filePath(file).toStdString()).has_value());
    }
    QVERIFY2(copies > 5, qPrintable(QString::number(copies))); // the moments were not all alike
  }

  // The disk is full after so many bytes: what was saved before stays, it is told once, and the next save has it all.
  void aSaveThatFailsLeavesEverything_data() {
    QTest::addColumn<int>("bytes");
    for (const int bytes : {0, 100, 4096, 20000}) QTest::addRow("after %d bytes", bytes) << bytes;
  }
  void aSaveThatFailsLeavesEverything() {
    QFETCH(const int, bytes);
    const QString path = m_folder.filePath("full.tromb");
    Document document;
    QVERIFY(saveProject(sample(), path.toStdString()).has_value());
    QVERIFY(QFileInfo(path).size() > bytes);
    QVERIFY(document.load(path).has_value());
    RecoveryKeeper recovery(document, m_folder.filePath("recovery2"));
    QSignalSpy failed(&recovery, &RecoveryKeeper::failed);
    document.renameShot(3, QStringLiteral("changed"));
    rlimit limit{};
    getrlimit(RLIMIT_FSIZE, &limit);
    const rlimit small{rlim_t(bytes), limit.rlim_max};
    std::signal(SIGXFSZ, SIG_IGN);
    setrlimit(RLIMIT_FSIZE, &small);
    const Status saved = document.save(path);
    recovery.write();
    recovery.write(); // told once, not at every try
    setrlimit(RLIMIT_FSIZE, &limit);
    QVERIFY(!saved);
    QCOMPARE(saved.error().code, ErrorCode::CannotWrite);
    QVERIFY(document.modified());
    QCOMPARE(failed.size(), 1);
    QCOMPARE(loadProject(path.toStdString())->shots[3].name, std::string("0"));
    recovery.write();
    QVERIFY(document.save(path).has_value());
    QCOMPARE(loadProject(path.toStdString())->shots[3].name, std::string("changed"));
  }

  void onlyUnsavedChangesAreKept() {
    const QString path = m_folder.filePath("kept.tromb");
    const std::string folder = m_folder.filePath("recovery3").toStdString();
    Document document;
    QVERIFY(saveProject(sample(), path.toStdString()).has_value());
    QVERIFY(document.load(path).has_value());
    {
      RecoveryKeeper recovery(document, QString::fromStdString(folder));
      recovery.write();
      QVERIFY(QDir(QString::fromStdString(folder)).entryList({"*.tromb-recovery"}).isEmpty()); // nothing unsaved
      document.renameShot(0, QStringLiteral("new"));
      recovery.write();
      QCOMPARE(QDir(QString::fromStdString(folder)).entryList({"*.tromb-recovery"}).size(), 1);
      document.undoStack().undo(); // saved state again
      QVERIFY(QDir(QString::fromStdString(folder)).entryList({"*.tromb-recovery"}).isEmpty());
      document.undoStack().redo();
      recovery.write();
    }
    QCOMPARE(abandonedCopies(folder).size(), size_t(1)); // the keeper went without a close
  }

  void theSecondWindowIsTold_data() {
    QTest::addColumn<QString>("second"); // where another window opens a project
    QTest::addColumn<bool>("taken");
    QTest::newRow("the same file") << m_folder.filePath("locked.tromb") << true;
    QTest::newRow("by another way to it") << m_folder.filePath("other.tromb") << true;
    QTest::newRow("another file") << m_folder.filePath("free.tromb") << false;
    QTest::newRow("where no lock can be had: not an error") << QStringLiteral("/proc/p.tromb") << false;
  }
  void theSecondWindowIsTold() {
    QFETCH(const QString, second);
    const QString path = m_folder.filePath("locked.tromb");
    QVERIFY(saveProject(sample(), path.toStdString()).has_value());
    QFile::remove(m_folder.filePath("other.tromb"));
    QVERIFY(QFile::link(path, m_folder.filePath("other.tromb")));
    bool taken = true;
    {
      const ProjectLock first = ProjectLock::take(path, taken);
      QVERIFY(!taken);
      const ProjectLock other = ProjectLock::take(second, taken);
      QTEST(taken, "taken");
    }
    const ProjectLock again = ProjectLock::take(path, taken);
    QVERIFY2(!taken, "it is given back");
  }
};

QTEST_GUILESS_MAIN(TestRecovery)
#include "tst_recovery.moc"
