// SPDX-License-Identifier: GPL-3.0-or-later
// Jobs on the disk and what does them: kept, ordered, paused, killed, out of room. What was made is judged by FFmpeg's
// tool, which decodes it to checksums of its pictures and its sound.
#include "media/read/Probe.h"
#include "project/ProjectFile.h"
#include "queue/Runner.h"
#include "support/Patience.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QDBusConnection>
#include <QDBusUnixFileDescriptor>
#include <QDir>
#include <QFile>
#include <QProcess>
#include <QRandomGenerator>
#include <QTemporaryDir>
#include <QTest>
#include <fcntl.h>
#include <future>
#include <poll.h>
#include <set>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>

using namespace tromb;

/// Stands for the login manager, on a bus of its own: hands out locks and knows when they are given back.
class LoginManager : public QObject {
  Q_OBJECT
  Q_CLASSINFO("D-Bus Interface", "org.freedesktop.login1.Manager")

public:
  ~LoginManager() override {
    if (m_end >= 0) ::close(m_end);
  }
  [[nodiscard]] int asked() const { return m_asked; }
  [[nodiscard]] QString what() const { return m_what; }
  /// Somebody has the last lock that was handed out.
  [[nodiscard]] bool held() const {
    pollfd end{m_end, POLLIN, 0};
    return m_end >= 0 && ::poll(&end, 1, 0) == 0;
  }

public slots:
  QDBusUnixFileDescriptor Inhibit(const QString& what, const QString& /*who*/, const QString& why,
                                  const QString& mode) {
    ++m_asked;
    m_what = what + QLatin1Char(' ') + mode + QLatin1Char(' ') + why;
    int ends[2];
    if (::pipe2(ends, O_CLOEXEC) != 0) return {};
    if (m_end >= 0) ::close(m_end);
    m_end = ends[0];
    const QDBusUnixFileDescriptor lock(ends[1]); // its own copy
    ::close(ends[1]);
    return lock;
  }

private:
  int m_asked = 0;
  int m_end = -1;
  QString m_what;
};

/// Stands for a desktop that shows notices.
class Desktop : public QObject {
  Q_OBJECT
  Q_CLASSINFO("D-Bus Interface", "org.freedesktop.Notifications")

public:
  QStringList shown;

public slots:
  uint Notify(const QString& /*program*/, uint /*replaces*/, const QString& /*icon*/, const QString& summary,
              const QString& words, const QStringList& /*actions*/, const QVariantMap& hints, int /*milliseconds*/) {
    shown << summary + ": " + words + " " + hints.value("sound-name").toString();
    return 1;
  }
};

/// Stands for the service that knows where power comes from.
class PowerService : public QObject {
  Q_OBJECT
  Q_CLASSINFO("D-Bus Interface", "org.freedesktop.UPower")
  Q_PROPERTY(bool OnBattery MEMBER onBattery)

public:
  bool onBattery = true;
};

/// A bus of its own in the place of the system's or the session's, with a stand-in for a service.
struct OwnBus {
  OwnBus(const char* place, const char* service, const char* path, QObject& standIn) : m_place(place) {
    m_daemon.start("dbus-daemon", {"--session", "--nofork", "--print-address=1"});
    if (!m_daemon.waitForStarted() || !m_daemon.waitForReadyRead()) qFatal("no bus");
    const QByteArray address = m_daemon.readLine().trimmed();
    QDBusConnection bus = QDBusConnection::connectToBus(QString::fromUtf8(address), "stand-in");
    if (!bus.registerObject(path, &standIn, QDBusConnection::ExportAllSlots | QDBusConnection::ExportAllProperties) ||
        !bus.registerService(service))
      qFatal("no service on the bus");
    m_before = qgetenv(place);
    qputenv(place, address);
  }
  ~OwnBus() {
    qputenv(m_place, m_before);
    QDBusConnection::disconnectFromBus("stand-in");
    m_daemon.kill();
    m_daemon.waitForFinished();
  }

private:
  const char* m_place;
  QByteArray m_before;
  QProcess m_daemon;
};

class TestQueue : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  int m_queues = 0;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] std::string path(const char* name) const { return at(QString::fromLatin1(name)).toStdString(); }
  /// A queue of its own.
  [[nodiscard]] Queue fresh() { return Queue(at(QStringLiteral("queue%1").arg(++m_queues)).toStdString()); }
  [[nodiscard]] Project shapes(const char* clip = "a.mp4") const {
    Project made = test::project({path(clip)}, {{"Wide", {320, 180}}, {"Square", {180, 180}}});
    made.name = "Queued";
    // With a decoder's buffer to keep to, an encoder of several threads makes the same twice only by chance.
    for (Deliverable& each : made.deliverables) {
      each.encoding.rateControl = RateControl::ConstantQuality;
      each.encoding.crf = 24;
      each.encoding.sound.codec = SoundCodec::Flac; // made ten times as fast as AAC
    }
    return made;
  }
  static std::string added(const Queue& queue, const Project& project, const QString& out, Clash clash = Clash::Number,
                           bool proof = true) {
    Job job;
    job.folder = out.toStdString();
    job.clash = clash;
    job.proof = proof;
    for (const Deliverable& each : project.deliverables) job.deliverables.push_back(each.id);
    const auto id = queue.add(job, project);
    if (!id) qFatal("%s", sentence(id.error()).c_str());
    return *id;
  }
  static JobRecord recordOf(const Queue& queue, const std::string& id) { return queue.find(id)->record; }
  static std::string told(const JobRecord& record) {
    std::string all = jobWord(record.state);
    if (record.error) all += " " + sentence(*record.error);
    for (const JobResult& each : record.results)
      all += "; " + each.name + " " + resultWord(each.state) + (each.error ? " " + sentence(*each.error) : "");
    return all;
  }
  /// Of 97 s: three segments.
  [[nodiscard]] Project longShapes(int rate) const {
    Project made = shapes(rate == 2 ? "slides.mp4" : "minutes.mp4");
    for (Deliverable& each : made.deliverables) {
      each.rate = FrameRate(Rational(rate));
      each.encoding.speed = "ultrafast";
    }
    return made;
  }
  /// Everything in a folder, folders and what is hidden too.
  static QStringList allIn(const QString& folder) {
    return QDir(folder).entryList(QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot, QDir::Name);
  }
  static std::set<QString> filesIn(const QString& folder) {
    const QStringList names = QDir(folder).entryList(QDir::Files | QDir::Hidden, QDir::Name);
    return {names.begin(), names.end()};
  }
  /// What FFmpeg decodes from a file: a checksum a picture and a stretch of sound.
  static QString decoded(const QString& file) {
    return test::run("ffmpeg", {"-v", "error", "-i", file, "-f", "framemd5", "-"});
  }
  /// Waits until a job is as it is wished.
  template <typename Holds> static bool becomes(const Queue& queue, const std::string& id, Holds holds) {
    return QTest::qWaitFor(
        [&] {
          const auto job = queue.find(id);
          return job && holds(*job);
        },
        test::kPatience);
  }
  static bool underWay(const QueuedJob& job) {
    return job.attended && job.progress && !job.progress->each.empty() && job.progress->each[0].frame > 0;
  }
  /// Runs a queue in a thread of this process, until it is empty or this goes.
  struct Runs {
    explicit Runs(const Queue& queue)
        : done(std::async(std::launch::async, [this, queue] { return runQueue(queue, {}, stop.get_token()); })) {}
    ~Runs() { stop.request_stop(); }
    std::stop_source stop;
    std::future<Result<int>> done;
  };
  [[nodiscard]] static QString program() { return QStringLiteral(TROMB_BINARY_DIR "/src/cli/tromb-cli"); }

private slots:
  void initTestCase() {
    test::writeClip(path("a.mp4"), {320, 180}, FrameRate(), 50, test::texture, true);
    test::writeClip(path("b.mp4"), {320, 180}, FrameRate(), 50,
                    [](int f, int x, int) { return test::numberStripe(f, x, 320); });
    for (const auto& [name, rate] : {std::pair("slides.mp4", 2), std::pair("minutes.mp4", 25)})
      test::ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=128x72:r=%1:d=97,noise=alls=12:allf=t "
                                  "-c:v libx264 -preset ultrafast -g %2 %3")
                       .arg(rate)
                       .arg(2 * rate)
                       .arg(at(name)));
    test::writeClip(path("long.mp4"), {640, 360}, FrameRate(), 750, test::texture, true);
  }

  void recordsAreReadAsWritten() {
    JobRecord record;
    record.state = JobRecord::State::Failed;
    record.begun = 1'790'000'000;
    record.tries = 3;
    record.segments = 5;
    record.error = Error{ErrorCode::CannotWrite, say("the disk is full"), "/x/ä\"b", say("frame %1", 7), say("Go")};
    JobResult result;
    result.deliverable = "d1";
    result.name = "Wide";
    result.state = JobResult::State::Short;
    result.path = "/out/w.mp4";
    result.bytes = 12'345'678'901;
    result.proof.emplace();
    result.proof->checks = {{"frames", verbatim("50"), sayCounted("%n frames", "one frame", 1), false, true}};
    result.losses = {joined({say("lost"), verbatim("a.mp4")}, ": ")};
    record.results = {result};
    const auto read = recordFromText(toText(record));
    QVERIFY2(read, read ? "" : sentence(read.error()).c_str());
    QCOMPARE(toText(*read), toText(record));
    QVERIFY(read->error->message == record.error->message); // not its text alone: it is told in every language
    QCOMPARE(read->results[0].proof->checks[0].found.text(), std::string("one frame"));
    Job job;
    job.id = "1";
    job.deliverables = {"d1", "d2"};
    job.folder = "/out";
    job.clash = Clash::Replace;
    QVERIFY(*jobFromText(toText(job)) == job);
  }

  // A slash in the pattern of names makes a folder.
  void namesMayLieInFolders() {
    const Queue queue = fresh();
    Project project = shapes();
    project.output.naming = "{project}/{deliverable}/{deliverable} {size}";
    const std::string id = added(queue, project, at("foldered"));
    QVERIFY(runQueue(queue, {}, {}));
    QCOMPARE(told(recordOf(queue, id)), std::string("done; Wide done; Square done"));
    QCOMPARE(allIn(at("foldered")), QStringList{"Queued"});
    QCOMPARE(allIn(at("foldered/Queued")), (QStringList{"Square", "Wide"}));
    QCOMPARE(allIn(at("foldered/Queued/Wide")), QStringList{"Wide 320x180.mp4"});
  }

  // Files that fell short are taken as they are: they get their right names, or a number where something has those;
  // what is as it was asked for is not touched, and nothing is made again.
  void whatFellShortIsTaken() {
    const Queue queue = fresh();
    const std::string id = added(queue, shapes(), at("taken"));
    QVERIFY(QDir().mkpath(at("taken")));
    const auto write = [&](const QString& name, const char* words) {
      QFile file(at("taken/" + name));
      QVERIFY(file.open(QIODevice::WriteOnly) && file.write(words) > 0);
    };
    write("Wide (not right).mp4", "wide");
    write("Wide.mp4", "older");
    write("Square (not right).mp4", "square");
    JobRecord record = recordOf(queue, id);
    record.state = JobRecord::State::Done;
    record.results[0].state = record.results[1].state = JobResult::State::Short;
    record.results[0].path = path("taken/Wide (not right).mp4");
    record.results[1].path = path("taken/Square (not right).mp4");
    QVERIFY(queue.write(id, record));
    QVERIFY(queue.take(id, record.results[0].deliverable));
    QCOMPARE(filesIn(at("taken")), (std::set<QString>{"Wide.mp4", "Wide (2).mp4", "Square (not right).mp4"}));
    const JobRecord after = recordOf(queue, id);
    QVERIFY(after.results[0].taken && after.results[0].state == JobResult::State::Done);
    QCOMPARE(after.results[0].path, path("taken/Wide (2).mp4"));
    QVERIFY(!after.results[1].taken && after.results[1].state == JobResult::State::Short);
    QVERIFY(queue.take(id));
    QVERIFY(queue.take(id)); // nothing is left to be taken
    QCOMPARE(filesIn(at("taken")), (std::set<QString>{"Wide.mp4", "Wide (2).mp4", "Square.mp4"}));
    QVERIFY(!queue.take("no-such-job"));
    // One that cannot be renamed stays as it is, and that is told.
    record.results[0].path = path("taken/gone (not right).mp4");
    QVERIFY(queue.write(id, record));
    const Status gone = queue.take(id, record.results[0].deliverable);
    QVERIFY(!gone && gone.error().code == ErrorCode::CannotWrite);
    QVERIFY(recordOf(queue, id).results[0].state == JobResult::State::Short);
  }

  void whatIsNoJobIsRefused_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("says");
    QTest::newRow("nothing") << ""
                             << "";
    QTest::newRow("no object") << "[]"
                               << "object";
    QTest::newRow("later") << R"({"format":9})"
                           << "later version";
    QTest::newRow("no deliverable") << R"({"format":1,"id":"1","added":1,"deliverables":[],"folder":"/x"})"
                                    << "deliverable";
    QTest::newRow("a place that depends") << R"({"format":1,"id":"1","added":1,"deliverables":["d"],"folder":"x"})"
                                          << "whole path";
    QTest::newRow("unknown rule") << R"({"format":1,"id":"1","added":1,"deliverables":["d"],"folder":"/x","clash":"?"})"
                                  << "'?'";
  }
  void whatIsNoJobIsRefused() {
    QFETCH(QString, text);
    QFETCH(QString, says);
    const auto read = jobFromText(text.toStdString());
    QVERIFY(!read);
    QVERIFY2(QString::fromStdString(sentence(read.error())).contains(says), sentence(read.error()).c_str());
  }

  // A damaged job is told and can be removed; the others are not touched by it.
  void aDamagedJobHarmsNoOther() {
    const Queue queue = fresh();
    const std::string bad = added(queue, shapes(), at("damaged"));
    const std::string good = added(queue, shapes(), at("damaged"));
    QFile file(QString::fromStdString(queue.folder() + "/" + bad + "/record.json"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write("{\"format\":1,");
    file.close();
    QVERIFY(queue.list()[0].fault);
    QVERIFY(runQueue(queue, {}, {}));
    QCOMPARE(told(recordOf(queue, good)), std::string("done; Wide done; Square done"));
    QVERIFY(queue.remove(bad));
    QCOMPARE(queue.list().size(), size_t(1));
  }

  void jobsKeepTheirOrder() {
    const Queue queue = fresh();
    std::vector<std::string> ids;
    for (int i = 0; i < 4; ++i) ids.push_back(added(queue, shapes(), at("order")));
    const auto order = [&] {
      std::string text;
      for (const QueuedJob& each : queue.list())
        text += char('0' + (std::find(ids.begin(), ids.end(), each.id) - ids.begin()));
      return text;
    };
    QCOMPARE(order(), std::string("0123"));
    QVERIFY(queue.move(ids[3], 0));
    QVERIFY(queue.move(ids[0], 9));
    QCOMPARE(order(), std::string("3120"));
    QVERIFY(queue.remove(ids[1]));
    QCOMPARE(order(), std::string("320"));
    // Without the file of the order, none is lost.
    QVERIFY(QFile::remove(QString::fromStdString(queue.folder() + "/order.json")));
    QCOMPARE(queue.list().size(), size_t(3));
    QVERIFY(!queue.pause("../../etc"));
  }

  void theSameAsAnExport() {
    const Project project = shapes();
    QVERIFY(test::faultsOf(test::exported(project, path("plain"))).isEmpty());
    const Queue queue = fresh();
    const std::string id = added(queue, project, at("queued"));
    QCOMPARE(runQueue(queue, {}, {}).value_or(-1), 1);
    const JobRecord record = recordOf(queue, id);
    QCOMPARE(told(record), std::string("done; Wide done; Square done"));
    QCOMPARE(filesIn(at("queued")), filesIn(at("plain")));
    for (const JobResult& each : record.results) {
      QVERIFY(each.proof && each.proof->passed());
      QCOMPARE(each.bytes, int64_t(QFileInfo(QString::fromStdString(each.path)).size()));
      QCOMPARE(each.frames, int64_t(50));
      const QString plain = at("plain/") + QFileInfo(QString::fromStdString(each.path)).fileName();
      QCOMPARE(decoded(QString::fromStdString(each.path)), decoded(plain));
    }
  }

  void aNameThatIsTaken_data() {
    QTest::addColumn<int>("clash");
    QTest::addColumn<QString>("ends");
    QTest::addColumn<QString>("file");
    QTest::addColumn<bool>("kept"); // what was there
    QTest::newRow("number") << int(Clash::Number) << "done; Wide done; Square done"
                            << " (2).mp4" << true;
    QTest::newRow("replace") << int(Clash::Replace) << "done; Wide done; Square done"
                             << ".mp4" << false;
    QTest::newRow("refuse") << int(Clash::Refuse) << "failed; Wide failed"
                            << "" << true;
  }
  void aNameThatIsTaken() {
    QFETCH(int, clash);
    QFETCH(QString, ends);
    QFETCH(QString, file);
    QFETCH(bool, kept);
    const QString out = at(QStringLiteral("clash%1").arg(clash));
    QVERIFY(QDir().mkpath(out));
    const Project project = shapes();
    const QString name = out + QLatin1Char('/') + QString::fromStdString(project.name) + QStringLiteral(" Wide");
    QFile there(name + QStringLiteral(".mp4"));
    QVERIFY(there.open(QIODevice::WriteOnly));
    there.write("mine");
    there.close();
    const Queue queue = fresh();
    const std::string id = added(queue, project, out, Clash(clash));
    QVERIFY(runQueue(queue, {}, {}));
    const JobRecord record = recordOf(queue, id);
    QVERIFY2(QString::fromStdString(told(record)).startsWith(ends), told(record).c_str());
    QCOMPARE(there.size() == 4, kept);
    if (!file.isEmpty()) QCOMPARE(QString::fromStdString(record.results[0].path), name + file);
    // One that cannot be made takes no other with it.
    QVERIFY(record.results[1].made());
    // Again: what failed alone.
    QVERIFY(there.remove() || true);
    QVERIFY(queue.retry(id));
    QVERIFY(runQueue(queue, {}, {}));
    QCOMPARE(told(recordOf(queue, id)), std::string("done; Wide done; Square done"));
    if (Clash(clash) == Clash::Refuse) QCOMPARE(int(filesIn(out).size()), 2);
  }

  void wishesAreHeeded() {
    const Queue queue = fresh();
    const std::string first = added(queue, shapes("long.mp4"), at("wished"));
    const std::string second = added(queue, shapes(), at("wished2"));
    const std::string third = added(queue, shapes(), at("wished3"));
    QVERIFY(queue.pause(second)); // while nobody is at it
    QVERIFY(queue.cancel(third));
    QCOMPARE(int(recordOf(queue, second).state), int(JobRecord::State::Paused));
    Runs runs(queue);
    QVERIFY(becomes(queue, first, underWay));
    QVERIFY(!queue.remove(first));
    QVERIFY(queue.pause(first));
    QVERIFY(becomes(queue, first, [](const QueuedJob& job) { return job.record.state == JobRecord::State::Paused; }));
    QTest::qWait(400);
    const int64_t frame = queue.find(first)->progress->each[0].frame;
    QTest::qWait(600);
    QCOMPARE(queue.find(first)->progress->each[0].frame, frame);
    QVERIFY(queue.resume(first));
    QVERIFY(queue.resume(second));
    QVERIFY(becomes(queue, first,
                    [&](const QueuedJob& job) { return job.progress && job.progress->each[0].frame > frame; }));
    QVERIFY(queue.cancel(first));
    QCOMPARE(runs.done.get().value_or(-1), 2);
    QCOMPARE(told(recordOf(queue, first)), std::string("cancelled; Wide cancelled; Square cancelled"));
    QVERIFY(!QDir(at("wished")).exists() || filesIn(at("wished")).empty());
    QCOMPARE(told(recordOf(queue, second)), std::string("done; Wide done; Square done"));
    QCOMPARE(int(recordOf(queue, third).state), int(JobRecord::State::Cancelled));
    QVERIFY(!QDir(at("wished3")).exists());
  }

  void oneProcessAtATime() {
    const Queue queue = fresh();
    (void)added(queue, shapes("long.mp4"), at("one"));
    Runs runs(queue);
    QVERIFY(QTest::qWaitFor([&] { return isRun(queue); }, test::kPatience));
    const auto other = runQueue(queue, {}, {});
    QVERIFY(!other);
    QCOMPARE(int(other.error().code), int(ErrorCode::Exists));
  }

  // Stopped as a process is, a job waits, and is whole when it is taken up.
  void aStopLosesNothing() {
    const Queue queue = fresh();
    const std::string id = added(queue, shapes("long.mp4"), at("stopped"));
    {
      Runs runs(queue);
      QVERIFY(becomes(queue, id, underWay));
      runs.stop.request_stop();
      QVERIFY(runs.done.get());
    }
    QCOMPARE(told(recordOf(queue, id)), std::string("waiting; Wide waiting; Square waiting"));
    QVERIFY(!QDir(at("stopped")).exists() || filesIn(at("stopped")).empty());
    QVERIFY(runQueue(queue, {}, {}));
    QCOMPARE(told(recordOf(queue, id)), std::string("done; Wide done; Square done"));
    QCOMPARE(int(filesIn(at("stopped")).size()), 2);
  }

  // What a job has made of a long file is kept while it may be gone on with, and goes when it will not.
  void whatIsHalfMadeIsKept_data() {
    QTest::addColumn<QString>("then");
    for (const char* then : {"run", "cancel", "remove"}) QTest::newRow(then) << then;
  }
  void whatIsHalfMadeIsKept() {
    QFETCH(QString, then);
    const Queue queue = fresh();
    const QString out = at("half-" + then);
    const std::string id = added(queue, longShapes(25), out);
    const auto half = [&](const QueuedJob& job) { return underWay(job) && job.progress->each[0].frame > 1000; };
    {
      Runs runs(queue);
      QVERIFY(becomes(queue, id, half));
      runs.stop.request_stop();
      QVERIFY(runs.done.get());
    }
    QCOMPARE(told(recordOf(queue, id)), std::string("waiting; Wide waiting; Square waiting"));
    QVERIFY2(!QDir(out).entryList({"*.tromb-segments"}, QDir::Dirs | QDir::Hidden).isEmpty(),
             qPrintable(allIn(out).join(' ')));
    if (then == "cancel") QVERIFY(queue.cancel(id));
    if (then == "remove") QVERIFY(queue.remove(id));
    if (then == "run") QVERIFY(runQueue(queue, {}, {}));
    QCOMPARE(int(allIn(out).size()), then == "run" ? 2 : 0);
  }

  void aSourceThatChanged_data() {
    QTest::addColumn<bool>("while_"); // it is read, or else before
    QTest::addColumn<QString>("says");
    QTest::newRow("before") << false << "another than it was when the job was added";
    QTest::newRow("while it is read") << true << "changed while it was read";
  }
  void aSourceThatChanged() {
    QFETCH(bool, while_);
    QFETCH(QString, says);
    const QString clip = at(QStringLiteral("changing%1.mp4").arg(while_));
    QVERIFY(QFile::copy(at("long.mp4"), clip));
    const QString out = at(QStringLiteral("changed%1").arg(while_));
    const Queue queue = fresh();
    const Project project = test::project({clip.toStdString(), path("b.mp4")}, {{"Wide", {320, 180}}});
    const std::string id = added(queue, project, out);
    const std::string other = added(queue, shapes(), out + QStringLiteral("2"));
    const auto touch = [&] {
      QFile file(clip);
      QVERIFY(file.open(QIODevice::ReadWrite) && file.seek(file.size() / 2));
      file.write("changed");
      file.close();
    };
    if (!while_) touch();
    Runs runs(queue);
    if (while_) {
      QVERIFY(becomes(queue, id, underWay));
      QVERIFY(queue.pause(id)); // so that it cannot be over before
      QVERIFY(becomes(queue, id, [](const QueuedJob& job) { return job.record.state == JobRecord::State::Paused; }));
      touch();
      QVERIFY(queue.resume(id));
    }
    QVERIFY(runs.done.get());
    QVERIFY2(QString::fromStdString(told(recordOf(queue, id))).contains(says), told(recordOf(queue, id)).c_str());
    QVERIFY(!QDir(out).exists() || filesIn(out).empty());
    QCOMPARE(told(recordOf(queue, other)), std::string("done; Wide done; Square done"));
  }

  // A folder that cannot be written to, or is taken away meanwhile, ends that job with a sentence; the others go on.
  void aFolderThatIsNoMore_data() {
    QTest::addColumn<QString>("how");
    QTest::newRow("it is read only") << "read-only";
    QTest::newRow("it is removed in the middle") << "removed";
    QTest::newRow("its disk is taken away in the middle") << "unmounted";
  }
  void aFolderThatIsNoMore() {
    QFETCH(QString, how);
    const QString disk = at("no-more-" + how);
    QVERIFY(QDir().mkpath(disk));
    const QString size = how == "read-only" ? "ro,size=64m" : "size=64m";
    if (how != "removed" && QProcess::execute("mount", {"-t", "tmpfs", "-o", size, "tmpfs", disk}) != 0)
      QSKIP("only the superuser may mount a small disk");
    const auto gone = qScopeGuard([&] {
      if (how != "removed") QProcess::execute("umount", {"-q", "-l", disk}); // it may be gone already
    });
    const Queue queue = fresh();
    const std::string id = added(queue, shapes("long.mp4"), disk + "/out");
    const std::string other = added(queue, shapes(), at("still-there-" + how));
    Runs runs(queue);
    if (how != "read-only") {
      QVERIFY(becomes(queue, id, underWay));
      QVERIFY(queue.pause(id));
      QVERIFY(becomes(queue, id, [](const QueuedJob& job) { return job.record.state == JobRecord::State::Paused; }));
      if (how == "removed")
        QVERIFY(QDir(disk).removeRecursively());
      else
        QCOMPARE(QProcess::execute("umount", {"-l", disk}), 0);
      QVERIFY(queue.resume(id));
    }
    QVERIFY(runs.done.get());
    const JobRecord record = recordOf(queue, id);
    QCOMPARE(int(record.state), int(JobRecord::State::Failed));
    for (const JobResult& each : record.results) QVERIFY2(!each.made() && each.error, told(record).c_str());
    const QString said = QString::fromStdString(told(record));
    QVERIFY2(said.contains(how == "read-only" ? "the folder cannot be made" : "its folder was taken away"),
             told(record).c_str());
    QCOMPARE(told(recordOf(queue, other)), std::string("done; Wide done; Square done"));
  }

  // A full disk holds a job up, before it begins and in the middle of it; with room it goes on by itself.
  void aFullDisk_data() {
    QTest::addColumn<bool>("before");
    QTest::newRow("before it begins") << true;
    QTest::newRow("in the middle") << false;
  }
  void aFullDisk() {
    QFETCH(bool, before);
    const QString disk = at(before ? "disk1" : "disk2");
    QVERIFY(QDir().mkpath(disk));
    if (QProcess::execute("mount", {"-t", "tmpfs", "-o", "size=64m", "tmpfs", disk}) != 0)
      QSKIP("only the superuser may mount a small disk");
    const auto gone = qScopeGuard([&] { QProcess::execute("umount", {"-l", disk}); });
    const QString filler = disk + QStringLiteral("/filler");
    const auto fill = [&] {
      QFile file(filler);
      QVERIFY(file.open(QIODevice::WriteOnly));
      const QByteArray much(1 << 16, 'x');
      while (file.write(much) == much.size() && file.flush()) {
      }
    };
    const Queue queue = fresh();
    const Project project = shapes("long.mp4");
    QVERIFY(test::faultsOf(test::exported(project, path("unfilled"))).isEmpty());
    if (before) fill();
    const std::string id = added(queue, project, disk + QStringLiteral("/out"));
    Runs runs(queue);
    if (!before) {
      QVERIFY(becomes(queue, id, underWay));
      QVERIFY(queue.pause(id));
      QVERIFY(becomes(queue, id, [](const QueuedJob& job) { return job.record.state == JobRecord::State::Paused; }));
      fill();
      QVERIFY(queue.resume(id));
    }
    QVERIFY(becomes(queue, id, [](const QueuedJob& job) { return job.progress && job.progress->missingBytes > 0; }));
    QTest::qWait(700);
    QCOMPARE(int(recordOf(queue, id).state), int(JobRecord::State::Running));
    QVERIFY(QFile::remove(filler));
    QVERIFY(runs.done.get());
    QCOMPARE(told(recordOf(queue, id)), std::string("done; Wide done; Square done"));
    for (const QString& name : filesIn(at("unfilled")))
      QCOMPARE(decoded(disk + QStringLiteral("/out/") + name), decoded(at("unfilled/") + name));
  }

  // While something is done the machine does not go to sleep; while it is paused it may.
  void theMachineIsKeptAwake() {
    LoginManager manager;
    const OwnBus bus("DBUS_SYSTEM_BUS_ADDRESS", "org.freedesktop.login1", "/org/freedesktop/login1", manager);
    const Queue queue = fresh();
    const std::string id = added(queue, shapes("long.mp4"), at("awake"));
    Runs runs(queue);
    QTRY_VERIFY_WITH_TIMEOUT(manager.held(), test::kPatience);
    QVERIFY2(manager.what().contains("sleep") && manager.what().contains("block"), qPrintable(manager.what()));
    QVERIFY(becomes(queue, id, underWay));
    QVERIFY(queue.pause(id));
    QTRY_VERIFY_WITH_TIMEOUT(!manager.held(), test::kPatience);
    QVERIFY(queue.resume(id));
    QTRY_VERIFY_WITH_TIMEOUT(manager.held(), test::kPatience);
    QCOMPARE(manager.asked(), 2);
    QVERIFY(queue.cancel(id));
    QVERIFY(runs.done.get());
    QVERIFY(!manager.held());
  }

  // A process that was killed while files got their names: what has them all is not made twice, and what has a part of
  // them is made again. Sound beside the picture is named first.
  void filesThatWereBeingNamed_data() {
    QTest::addColumn<bool>("picture");
    QTest::newRow("both have their names") << true;
    QTest::newRow("only the sound has") << false;
  }
  void filesThatWereBeingNamed() {
    QFETCH(bool, picture);
    Project project = test::project({path("a.mp4")}, {{"Apart", {180, 180}}});
    project.deliverables[0].encoding.sound.place = SoundPlace::Beside;
    const Queue queue = fresh();
    const QString out = at(QStringLiteral("naming%1").arg(picture));
    const std::string id = added(queue, project, out);
    QVERIFY(runQueue(queue, {}, {}));
    JobRecord record = recordOf(queue, id);
    QVERIFY2(record.results[0].made() && !record.results[0].soundPath.empty(), told(record).c_str());
    const std::set<QString> names = filesIn(out);
    QCOMPARE(int(names.size()), 2);
    // As it was written down just before.
    record.state = JobRecord::State::Running;
    record.ended = 0;
    JobResult& result = record.results[0];
    result.state = JobResult::State::Naming;
    result.identity = identityOf(result.path);
    result.soundIdentity = identityOf(result.soundPath);
    const std::string before = picture ? result.identity : std::string();
    if (!picture) QVERIFY(QFile::remove(QString::fromStdString(result.path)));
    QVERIFY(queue.write(id, record));
    QVERIFY(runQueue(queue, {}, {}));
    QCOMPARE(told(recordOf(queue, id)), std::string("done; Apart done"));
    QCOMPARE(filesIn(out), names); // under the same names, and nothing beside them
    QCOMPARE(identityOf(result.path) == before, picture);
  }

  // Many small jobs in a row leave no descriptor open, and take no more memory than the first of them.
  void manyJobsLeaveNothing() {
    const Queue queue = fresh();
    const Project project = test::project({path("b.mp4")}, {{"Small", {90, 90}}});
    const int jobs = test::times(200);
    for (int i = 0; i < jobs; ++i) (void)added(queue, project, at("many"), Clash::Number, false);
    const auto descriptors = [] { return QDir("/proc/self/fd").entryList(QDir::AllEntries | QDir::System).size(); };
    const auto megabytes = [] {
      QFile file("/proc/self/statm");
      return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()).section(' ', 1, 1).toLongLong() / 256
                                            : 0;
    };
    const auto before = descriptors();
    qint64 first = 0;
    int ended = 0;
    QVERIFY(runQueue(queue, {}, {}, [&](const QueuedJob& job) {
      QCOMPARE(int(job.record.state), int(JobRecord::State::Done));
      if (++ended == jobs / 4) first = megabytes();
    }));
    QCOMPARE(ended, jobs);
    QCOMPARE(descriptors(), before);
    if (!test::kSanitized) QVERIFY2(megabytes() - first < 40, qPrintable(QString::number(megabytes() - first)));
    QCOMPARE(int(filesIn(at("many")).size()), jobs);
  }

  // Where it is wished for, a notice says what came of a job; else none does.
  void aNoticeIsShown() {
    Desktop desktop;
    const OwnBus bus("DBUS_SESSION_BUS_ADDRESS", "org.freedesktop.Notifications", "/org/freedesktop/Notifications",
                     desktop);
    const Queue queue = fresh();
    const Project project = shapes();
    (void)added(queue, project, at("quiet"));
    Job job;
    job.folder = path("noticed");
    job.afterwards = Afterwards::Notify;
    job.deliverables = {project.deliverables[0].id};
    QVERIFY(queue.add(job, project));
    Runs runs(queue);
    QTRY_VERIFY_WITH_TIMEOUT(!desktop.shown.isEmpty(), test::kPatience);
    QVERIFY(runs.done.get());
    QCOMPARE(desktop.shown, QStringList{"Queued: one file is as asked complete"});
  }

  // On a machine that lives on its battery that is said while something is done, and once by the desktop.
  void theBatteryIsSpokenOf_data() {
    QTest::addColumn<bool>("battery");
    QTest::newRow("plugged in") << false;
    QTest::newRow("on its battery") << true;
  }
  void theBatteryIsSpokenOf() {
    QFETCH(bool, battery);
    PowerService power;
    power.onBattery = battery;
    const OwnBus bus("DBUS_SYSTEM_BUS_ADDRESS", "org.freedesktop.UPower", "/org/freedesktop/UPower", power);
    const Queue queue = fresh();
    const std::string id = added(queue, shapes("long.mp4"), at(QStringLiteral("battery%1").arg(battery)));
    Runs runs(queue);
    QVERIFY(becomes(queue, id,
                    [&](const QueuedJob& job) { return underWay(job) && (!battery || job.progress->onBattery); }));
    QCOMPARE(queue.find(id)->progress->onBattery, battery);
    QVERIFY(queue.cancel(id));
    QVERIFY(runs.done.get());
  }

  // Ended at any moment as by a power cut, again and again: no damaged file has a final name, nothing is lost or made
  // twice, and in the end everything is as if nothing had happened.
  void killedAtAnyMoment() {
    const Project project = longShapes(2);
    QVERIFY(test::faultsOf(test::exported(project, path("undisturbed"))).isEmpty());
    qputenv("XDG_DATA_HOME", at("killed").toLocal8Bit());
    const Queue queue(path("killed/tromb/queue"));
    constexpr int kJobs = 8;
    const int kills = test::times(200);
    const int longerAfter = test::kSanitized ? 4 : 20;
    QRandomGenerator random(20261129);
    std::vector<std::string> ids;
    for (int i = 0; i < kJobs; ++i) ids.push_back(added(queue, project, at(QStringLiteral("killed/out%1").arg(i))));
    int killed = 0;
    int checked = 0;
    int patience = test::kSanitized ? 4000 : 500; // in milliseconds
    const auto givenUp = [](const JobRecord& record) {
      return record.over() && record.error && sentence(*record.error).find("ended in the middle") != std::string::npos;
    };
    for (int turn = 0; turn < 20 * kills && killed < kills; ++turn) {
      QProcess runner;
      runner.setStandardErrorFile(QProcess::nullDevice());
      runner.start(program(), {"queue", "run"});
      QVERIFY(runner.waitForStarted());
      // A machine that is busy elsewhere gets further only when it has longer.
      if (turn % longerAfter == longerAfter - 1 && checked == 0) patience *= 2;
      if (!runner.waitForFinished(int(random.bounded(patience)))) {
        runner.kill();
        runner.waitForFinished();
        ++killed;
      }
      // What has a final name is whole, whenever it is looked at.
      for (int i = 0; i < kJobs; ++i)
        for (const QString& name : QDir(at(QStringLiteral("killed/out%1").arg(i))).entryList({"*.mp4"}, QDir::Files)) {
          const auto media = probe(at(QStringLiteral("killed/out%1/").arg(i)).toStdString() + name.toStdString());
          QVERIFY2(media && media->video->clock.frameCount() == 194, qPrintable(name));
          ++checked;
        }
      QCOMPARE(queue.list().size(), size_t(kJobs));
      // Those that are over begin again, so that there is something to disturb. What a machine that is busy elsewhere
      // got nowhere with in ten turns was given up, and is done again too; what it has made stays.
      const bool over =
          std::all_of(ids.begin(), ids.end(), [&](const std::string& id) { return recordOf(queue, id).over(); });
      for (int i = 0; over && i < kJobs; ++i) {
        const JobRecord record = recordOf(queue, ids[size_t(i)]);
        const bool given = givenUp(record);
        QVERIFY2(given || told(record) == "done; Wide done; Square done", told(record).c_str());
        if (!given && killed == kills) continue;
        if (!given) QVERIFY(QDir(at(QStringLiteral("killed/out%1").arg(i))).removeRecursively());
        QVERIFY(queue.retry(ids[size_t(i)]));
        QVERIFY(!recordOf(queue, ids[size_t(i)]).over());
      }
    }
    QCOMPARE(killed, kills);
    QVERIFY(checked > 0);
    for (const std::string& id : ids)
      if (givenUp(recordOf(queue, id))) QVERIFY(queue.retry(id));
    QVERIFY(runQueue(queue, {}, {}));
    for (int i = 0; i < kJobs; ++i) {
      const std::string is = told(recordOf(queue, ids[size_t(i)]));
      QVERIFY2(is == "done; Wide done; Square done", is.c_str());
      QCOMPARE(allIn(at(QStringLiteral("killed/out%1").arg(i))), allIn(at("undisturbed")));
      for (const QString& name : filesIn(at("undisturbed")))
        QCOMPARE(decoded(at(QStringLiteral("killed/out%1/").arg(i)) + name), decoded(at("undisturbed/") + name));
    }
  }
};

QTEST_GUILESS_MAIN(TestQueue)
#include "tst_queue.moc"
