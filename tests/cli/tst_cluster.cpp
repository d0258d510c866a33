// SPDX-License-Identifier: GPL-3.0-or-later
// Jobs that a cluster does, on a real batch system of this one machine: see support/one-node-cluster. What it makes is
// held against what one process makes.
#include "queue/ClusterRun.h"
#include "queue/Queue.h"
#include "support/FaultRig.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QDir>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>

using namespace tromb;
using test::run;

namespace {

constexpr int kSegments = 4; ///< of 30 s, the last one longer

} // namespace

class TestCluster : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  /// The program with a queue of its own.
  [[nodiscard]] std::unique_ptr<QProcess> started(const QStringList& arguments, const QString& queue) const {
    auto process = std::make_unique<QProcess>();
    QProcessEnvironment all = QProcessEnvironment::systemEnvironment();
    all.insert("XDG_DATA_HOME", at(queue));
    process->setProcessEnvironment(all);
    process->start(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"), arguments);
    return process;
  }
  struct Said {
    int code = -1;
    QJsonObject object;
    QString words;
  };
  [[nodiscard]] Said said(const QStringList& arguments, const QString& queue) const {
    const auto process = started(arguments, queue);
    if (!process->waitForFinished(test::kPatience)) return {};
    const QByteArray out = process->readAllStandardOutput();
    return {process->exitCode(), QJsonDocument::fromJson(out.trimmed().split('\n').last()).object(),
            QString::fromUtf8(out + process->readAllStandardError())};
  }
  /// Adds all deliverables to a queue of this name and returns the job's id.
  [[nodiscard]] QString added(const QString& queue, const QStringList& more = {"--cluster"}) const {
    const Said told =
        said(QStringList{"queue", "add", at("job.tromb"), "--out", at(queue + "-out"), "--json"} + more, queue);
    if (told.code != 0) qWarning("%s", qPrintable(told.words));
    return told.object["id"].toString();
  }
  [[nodiscard]] QJsonObject jobOf(const QString& queue) const {
    return said({"queue", "list", "--json"}, queue).object["jobs"].toArray().at(0).toObject();
  }
  /// What FFmpeg's tool sees of all that a queue has exported.
  [[nodiscard]] QStringList seen(const QString& queue) const {
    QStringList all;
    for (const QString& file : test::filesIn(at(queue + "-out")))
      all << file + run("ffmpeg", {"-v", "error", "-i", at(queue + "-out/" + file), "-f", "framemd5", "-"});
    return all;
  }
  /// Waits for a process of a cluster's machine whose words end like this; 0: it did not come.
  [[nodiscard]] static pid_t processOf(const QString& words) {
    for (int look = 0; look < 6000; ++look) {
      for (const QString& pid : QDir("/proc").entryList(QDir::Dirs)) {
        QFile file("/proc/" + pid + "/cmdline");
        if (!pid.toInt() || !file.open(QIODevice::ReadOnly)) continue;
        const QByteArray all = file.readAll().replace('\0', ' ').trimmed();
        if (all.contains("tromb-cli queue task") && all.endsWith(words.toUtf8())) return pid.toInt();
      }
      QTest::qSleep(10);
    }
    return 0;
  }
  /// How often a task was handed over.
  [[nodiscard]] static int handedOver(const QString& id, const QString& element) {
    const QStringList lines =
        run("squeue", {"--noheader", "--array", "--states=all", "--name=tromb-" + id, "--format=%K"})
            .split('\n', Qt::SkipEmptyParts);
    return int(
        std::count_if(lines.begin(), lines.end(), [&](const QString& each) { return each.trimmed() == element; }));
  }
  void done(const QString& queue) const {
    const QJsonObject job = jobOf(queue);
    QVERIFY2(job["state"] == "done", QJsonDocument(job).toJson());
    QCOMPARE(seen(queue), seen("alone"));
    QVERIFY2(QDir(at(queue + "-out")).entryList(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot).size() == 3,
             qPrintable(
                 QDir(at(queue + "-out")).entryList(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot).join(' ')));
  }

private slots:
  void initTestCase() {
    if (qEnvironmentVariableIsEmpty("SLURM_CONF")) QSKIP("there is no cluster: run by support/one-node-cluster");
    test::ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=320x180:r=2:d=130,noise=alls=12:allf=t -f lavfi -i "
                                "sine=f=700:d=130 -c:v libx264 -preset ultrafast -g 25 -c:a aac %1")
                     .arg(at("long.mp4")));
    const Said made = said({"make", at("job.tromb"), "--footage", at("long.mp4"), "--deliverable",
                            "name=Even;canvas=90x160;rate=2;crf=26;sound=none", "--deliverable",
                            "name=Counted;canvas=64x64;rate=2;bitrate=100k", "--deliverable",
                            "name=Twice;canvas=64x36;rate=2;bitrate=100k;passes=2;sound=none"},
                           "alone");
    QVERIFY2(made.code == 0, qPrintable(made.words));
    QVERIFY(!added("alone", {}).isEmpty());
    const Said alone = said({"queue", "run"}, "alone");
    QVERIFY2(alone.code == 0, qPrintable(alone.words));
  }

  // What is made apart: each segment of constant quality, all of what is counted together, nothing of two passes.
  void tasksAreWhatCanBeMadeApart() {
    const Queue queue((at("alone") + "/tromb/queue").toStdString());
    const auto jobs = queue.list();
    QCOMPARE(jobs.size(), size_t(1));
    const auto project = queue.project(jobs[0].id);
    QVERIFY(project);
    const auto tasks = clusterTasks(jobs[0].job, *project, probeFootage(*project));
    QVERIFY(tasks);
    QCOMPARE(int(tasks->size()), kSegments + 1);
    for (int i = 0; i < kSegments; ++i) {
      QCOMPARE((*tasks)[size_t(i)].range.first, size_t(i));
      QCOMPARE((*tasks)[size_t(i)].range.end, size_t(i + 1));
    }
    QCOMPARE(tasks->back().range.end - tasks->back().range.first, size_t(kSegments));
    QCOMPARE(tasks->at(kSegments - 1).frames, int64_t(40 * 2));
  }

  // Undisturbed, or with somebody killed in the middle: the same pictures and the same sound as of one process alone,
  // and nothing is left beside them.
  void comesToTheSame_data() {
    QTest::addColumn<QString>("killed");    // how the words of its process end
    QTest::addColumn<QStringList>("again"); // what is handed over twice
    const auto row = [](const char* name, const char* killed, const QStringList& again) {
      QTest::newRow(name) << QString(killed) << again;
    };
    row("undisturbed", "", {});
    row("a task is killed", "--number 2", {"2", "N/A"}); // what joins waited for it
    row("what joins is killed", "--join", {"N/A"});
    row("whoever follows is killed", "the runner", {});
  }
  void comesToTheSame() {
    QFETCH(QString, killed);
    QFETCH(QStringList, again);
    const QString queue = QString(QTest::currentDataTag()).replace(' ', '-');
    const QString id = added(queue);
    QVERIFY(!id.isEmpty());
    auto runner = started({"queue", "run"}, queue);
    QVERIFY(runner->waitForStarted());
    if (killed == "the runner") {
      QVERIFY(processOf("--number 1") > 0);
      runner->kill();
      QVERIFY(runner->waitForFinished());
      QCOMPARE(jobOf(queue)["state"].toString(), "running");
      runner = started({"queue", "run"}, queue);
    } else if (!killed.isEmpty()) {
      const pid_t pid = processOf(killed);
      QVERIFY(pid > 0);
      QCOMPARE(::kill(pid, SIGKILL), 0);
    }
    QVERIFY(runner->waitForFinished(test::kPatience));
    QVERIFY2(runner->exitCode() == 0, runner->readAllStandardError());
    done(queue);
    for (const char* element : {"0", "2", "N/A"}) QCOMPARE(handedOver(id, element), again.contains(element) ? 2 : 1);
  }

  // Its states come back into the list, and where it is.
  void isFollowedInTheList() {
    const QString id = added("followed");
    const auto runner = started({"queue", "run"}, "followed");
    const QString host = run("hostname", {"-s"}).trimmed();
    QTRY_COMPARE_WITH_TIMEOUT(jobOf("followed")["cluster"].toObject()["nodes"].toString(), host, test::kPatience);
    QTRY_VERIFY_WITH_TIMEOUT(jobOf("followed")["fraction"].toDouble() > 0.2, test::kPatience);
    // What is at it is finished, and nothing begins; then it goes on.
    QCOMPARE(said({"queue", "pause", id}, "followed").code, 0);
    QTRY_COMPARE_WITH_TIMEOUT(jobOf("followed")["state"].toString(), "paused", test::kPatience);
    QTRY_COMPARE_WITH_TIMEOUT(
        run("squeue", {"--noheader", "--states=RUNNING", "--name=tromb-" + id, "--format=%i"}).trimmed(), QString(),
        test::kPatience);
    QCOMPARE(said({"queue", "resume", id}, "followed").code, 0);
    QVERIFY(const_cast<QProcess&>(*runner).waitForFinished(test::kPatience));
    done("followed");
  }

  // Cancelled, nothing of it is left: no task, no folder, no file that is not whole.
  void cancelEndsAll_data() {
    QTest::addColumn<bool>("followed");
    QTest::newRow("while it is followed") << true;
    QTest::newRow("while nobody follows") << false;
  }
  void cancelEndsAll() {
    QFETCH(bool, followed);
    const QString queue = followed ? "cancelled" : "left";
    const QString id = added(queue);
    const auto runner = started({"queue", "run"}, queue);
    QVERIFY(processOf("--number 0") > 0);
    if (!followed) runner->kill();
    if (!followed) QVERIFY(runner->waitForFinished());
    QCOMPARE(said({"queue", "cancel", id}, queue).code, 0);
    if (followed) QVERIFY(runner->waitForFinished(test::kPatience));
    QCOMPARE(jobOf(queue)["state"].toString(), "cancelled");
    QCOMPARE(run("squeue", {"--noheader", "--name=tromb-" + id}), QString());
    QCOMPARE(QDir(at(queue + "-out")).entryList(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot), QStringList());
  }

  void whatCannotBeDoneIsTold() {
    const Said none =
        said({"queue", "add", at("job.tromb"), "--out", at("none"), "--cluster", "--partition", "night"}, "none");
    QCOMPARE(none.code, 2);
    QVERIFY2(none.words.contains("no partition 'night'"), qPrintable(none.words));
    QProcess process;
    QProcessEnvironment all = QProcessEnvironment::systemEnvironment();
    all.insert("SLURM_CONF", at("nowhere.conf"));
    all.insert("XDG_DATA_HOME", at("none"));
    process.setProcessEnvironment(all);
    process.start(QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"),
                  {"queue", "add", at("job.tromb"), "--out", at("none"), "--cluster"});
    QVERIFY(process.waitForFinished(test::kPatience));
    QVERIFY(process.exitCode() != 0);
    QVERIFY2(process.readAllStandardError().contains("set SLURM_CONF"), "what to do");
  }

  // Footage that is another on the cluster: what joins says so, as it does anywhere.
  void otherFootageEndsIt() {
    QVERIFY(QFile::copy(at("long.mp4"), at("kept.mp4")));
    const QString id = added("other");
    QFile file(at("long.mp4"));
    QVERIFY(file.open(QIODevice::Append) && file.write("more") == 4);
    file.close();
    const Said told = said({"queue", "run"}, "other");
    QVERIFY(QFile::remove(at("long.mp4")) && QFile::rename(at("kept.mp4"), at("long.mp4")));
    QVERIFY(told.code != 0);
    QVERIFY2(told.words.contains("another than it was when the job was added"), qPrintable(told.words));
    QVERIFY(test::filesIn(at("other-out")).isEmpty());
  }
};

QTEST_GUILESS_MAIN(TestCluster)
#include "tst_cluster.moc"
