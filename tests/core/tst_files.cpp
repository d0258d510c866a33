// SPDX-License-Identifier: GPL-3.0-or-later
// What lies round a project file: recovery copies, templates, collected copies, and footage that was moved.
#include "destination/PresetStore.h"
#include "io/AtomicFile.h"
#include "io/CacheFolder.h"
#include "io/PartFile.h"
#include "media/read/Fingerprint.h"
#include "project/Collect.h"
#include "project/FileName.h"
#include "project/FramingStore.h"
#include "project/Project.h"
#include "project/ProjectFile.h"
#include "project/Recovery.h"
#include "project/Relink.h"
#include "support/TestMedia.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <csignal>
#include <fcntl.h>
#include <random>
#include <sys/file.h>
#include <sys/resource.h>
#include <thread>
#include <unistd.h>

using namespace tromb;

class TestFiles : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string path(const char* name) const {
    return m_folder.filePath(QLatin1String(name)).toStdString();
  }
  void write(const std::string& path, const std::string& bytes) const {
    QDir().mkpath(QFileInfo(QString::fromStdString(path)).path());
    QVERIFY(writeFileAtomically(path, bytes).has_value());
  }
  static Project with(const std::vector<std::string>& files) {
    Project p;
    p.name = "Job";
    for (const std::string& file : files) {
      Source source;
      source.id = freshId(p.sources, "s");
      source.path = file;
      source.fingerprint = fingerprintOf(file).value_or("");
      p.sources.push_back(source);
    }
    Deliverable d;
    d.id = "d1";
    d.name = "Story";
    d.canvas = {1080, 1920};
    p.deliverables = {d};
    return p;
  }

private slots:
  // A deliverable whose name is blank still makes a file with a name.
  // A sweep of another run locks a file that is just being made, for a moment: who makes it waits that long, and no
  // longer where somebody really writes it.
  void partFilesOutlastASweep_data() {
    QTest::addColumn<int>("milliseconds"); // that the lock is held; 0: all the time
    QTest::newRow("a sweep") << 25;
    QTest::newRow("another run") << 0;
  }
  void partFilesOutlastASweep() {
    QFETCH(int, milliseconds);
    const std::string name = path(".swept.mp4.tromb-part");
    const Descriptor other(::open(name.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600));
    QCOMPARE(::flock(other.get(), LOCK_EX), 0);
    const std::jthread later([&] {
      if (milliseconds == 0) return;
      std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds));
      ::unlink(name.c_str());
      ::flock(other.get(), LOCK_UN);
    });
    const auto part = PartFile::create(path("swept.mp4"));
    QCOMPARE(part.has_value(), milliseconds > 0);
  }

  void namesAreNeverEmpty_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<QString>("file");
    QTest::newRow("blank") << " "
                           << "untitled";
    QTest::newRow("a dot") << "."
                           << "-";
    QTest::newRow("a slash of its own") << "a/b"
                                        << "a-b";
    QTest::newRow("ends blank where it is cut") << QString(219, 'x') + "  y" << QString(219, 'x');
  }
  void namesAreNeverEmpty() {
    QFETCH(const QString, name);
    QFETCH(const QString, file);
    Deliverable deliverable;
    deliverable.name = name.toStdString();
    FileSubject of;
    of.deliverable = &deliverable;
    QCOMPARE(QString::fromStdString(fileName("{deliverable}", of)), file);
  }

  // What was made once is found again until there is too much; keys of any kind stay inside the folder.
  void aCacheKeepsWhatIsUsed() {
    const CacheFolder cache(path("cache"), 10'000);
    const std::string big(3000, 'x');
    QVERIFY(!cache.find("../../a"));
    cache.keep("../../a", big);
    QVERIFY(cache.find("../../a") == big);
    QVERIFY(!QFile::exists(QString::fromStdString(path("../a.kept"))));
    for (const char* key : {"b", "c", "d", "e"}) {
      QTest::qWait(15);
      cache.keep(key, key + big);
      QVERIFY2(cache.find("../../a").has_value(), "what was just used does not go");
    }
    QVERIFY(!cache.find("b"));
    QVERIFY(cache.find("e") == "e" + big);
    QVERIFY(!CacheFolder("", 10).find("a"));
    CacheFolder("/proc/none", 10).keep("a", "b"); // cannot be kept: not an error
  }

  // Length and SHA-256; the digest of small files was checked against sha256sum, which sees the same bytes thrice.
  void fingerprints() {
    write(path("a"), "abc");
    const QString sum =
        test::run(QStringLiteral("sh"), {"-c", QStringLiteral("printf abcabcabc | sha256sum | cut -d' ' -f1")})
            .trimmed();
    QCOMPARE(QString::fromStdString(*fingerprintOf(path("a"))), QStringLiteral("3-") + sum);
    std::string large(300'000, 'x');
    write(path("l1"), large);
    large[150'000] = 'y'; // in the middle stretch
    write(path("l2"), large);
    QVERIFY(*fingerprintOf(path("l1")) != *fingerprintOf(path("l2")));
    write(path("empty"), "");
    QVERIFY(fingerprintOf(path("empty"))->starts_with("0-"));
    QCOMPARE(fingerprintOf(path("none")).error().code, ErrorCode::Missing);
    QCOMPARE(fingerprintOf(m_folder.path().toStdString()).error().code, ErrorCode::Unreadable);
  }

  void movedFootageIsFoundAgain() {
    write(path("card/one.mp4"), "first file");
    write(path("card/two.mp4"), "second one");
    write(path("card/three.mp4"), "a third file");
    Project p = with({path("card/one.mp4"), path("card/two.mp4"), path("card/three.mp4")});
    p.sources[2].fingerprint.clear(); // an old project: known by its name alone
    QDir().mkpath(m_folder.filePath(QStringLiteral("archive/deep")));
    QVERIFY(QFile::rename(m_folder.filePath("card/one.mp4"), m_folder.filePath("archive/deep/renamed.mp4")));
    QVERIFY(QFile::rename(m_folder.filePath("card/three.mp4"), m_folder.filePath("archive/three.mp4")));
    write(path("archive/two.mp4"), "decoy-file"); // the same name and length, other contents
    const auto found = findMissing(p.sources, path("archive"));
    QCOMPARE(found.size(), size_t(2));
    QVERIFY(found[0].sourceId == "s1");
    QVERIFY(found[0].certain);
    QVERIFY(found[0].path == path("archive/deep/renamed.mp4"));
    QVERIFY(found[1].sourceId == "s3");
    QVERIFY(!found[1].certain);
    QVERIFY(found[1].path == path("archive/three.mp4"));
    QVERIFY(findMissing(p.sources, path("nowhere")).empty());
  }

  void aCollectedProjectStandsAlone() {
    write(path("in/x/clip.mp4"), std::string(3'000'000, 'p'));
    write(path("in/y/clip.mp4"), "the same name");
    const Project p = with({path("in/x/clip.mp4"), path("in/y/clip.mp4")});
    int64_t last = 0;
    int64_t total = 0;
    const auto made = collectProject(p, path("out"), {}, [&](const CollectProgress& progress) {
      QVERIFY(progress.bytes >= last);
      last = progress.bytes;
      total = progress.total;
    });
    QVERIFY2(made.has_value(), made ? "" : sentence(made.error()).c_str());
    QVERIFY(last == total);
    QVERIFY(total == 2 * (3'000'000 + 13)); // written and read back
    QVERIFY(QDir().rename(m_folder.filePath("out"), m_folder.filePath("elsewhere")));
    const auto copy = loadProject(path("elsewhere/Job.tromb"));
    QVERIFY(copy.has_value());
    QCOMPARE(copy->sources[1].path, path("elsewhere/footage/clip 2.mp4"));
    for (size_t i = 0; i < 2; ++i) QCOMPARE(*fingerprintOf(copy->sources[i].path), p.sources[i].fingerprint);

    // Nothing half-copied stays: after a stop, a missing file, a full disk; and nothing is overwritten.
    std::stop_source stop;
    const auto stopped =
        collectProject(p, path("stopped"), stop.get_token(), [&](const CollectProgress&) { stop.request_stop(); });
    QVERIFY(stopped.error().code == ErrorCode::Cancelled);
    QVERIFY(!QDir(m_folder.filePath("stopped")).exists());
    Project gone = p;
    gone.sources[1].path = path("in/none.mp4");
    QVERIFY(collectProject(gone, path("gone"), {}).error().code == ErrorCode::Missing);
    QVERIFY(!QDir(m_folder.filePath("gone")).exists());
    QCOMPARE(collectProject(p, path("elsewhere")).error().code, ErrorCode::Exists);
    rlimit limit{};
    getrlimit(RLIMIT_FSIZE, &limit);
    const rlimit small{1'000'000, limit.rlim_max};
    std::signal(SIGXFSZ, SIG_IGN);
    setrlimit(RLIMIT_FSIZE, &small);
    const auto full = collectProject(p, path("full"));
    setrlimit(RLIMIT_FSIZE, &limit);
    QVERIFY(full.error().code == ErrorCode::CannotWrite);
    QVERIFY(!QDir(m_folder.filePath("full")).exists());
  }

  void presetsKeepDeliverablesAndNoFootage() {
    PresetStore store(path("presets"));
    Project p = with({path("a")});
    p.deliverables[0].framings["h1"] = {};
    p.output = {"{deliverable} {size}", -16, -2, {}};
    QVERIFY(store.save(presetOf(p, "Club night"), false).has_value());
    QCOMPARE(store.save(presetOf(p, "Club night"), false).error().code, ErrorCode::Exists);
    for (const char* bad : {"", ".hidden", "a/b"})
      QCOMPARE(store.save(presetOf(p, bad), false).error().code, ErrorCode::InvalidArgument);
    QVERIFY(store.all().size() == 1);
    QVERIFY(store.all()[0] == presetOf(p, "Club night"));
    QVERIFY(store.all()[0].project.sources.empty());
    QVERIFY(store.all()[0].project.deliverables[0].framings.empty());
    QVERIFY(store.all()[0].project.output == p.output);
    QVERIFY(store.setDefault("Club night").has_value());
    QVERIFY(store.rename("Club night", "Weekly").has_value());
    QCOMPARE(store.defaultName(), std::string("Weekly")); // follows the name
    QVERIFY(store.exportFile("Weekly", path("weekly.tromb-preset")).has_value());
    QCOMPARE(*store.importFile(path("weekly.tromb-preset")), std::string("Weekly 2"));
    // An encoding is started with beside a set: by new deliverables.
    QVERIFY(store.save(presetOf(p.deliverables[0], PresetKind::Encoding, "Usual"), false).has_value());
    QVERIFY(store.setDefault("Usual").has_value());
    QCOMPARE(store.defaultEncoding(), std::string("Usual"));
    QCOMPARE(store.defaultName(), std::string("Weekly"));
    QVERIFY(store.setDefault("Usual", false).has_value());
    QVERIFY2(store.defaultEncoding().empty() && !store.defaultName().empty(), "the other stays");
    QVERIFY(store.remove("Usual").has_value());
    QVERIFY(store.remove("Weekly").has_value());
    QVERIFY(store.defaultName().empty());
    QVERIFY(store.all().size() == 1);
    QCOMPARE(store.remove("Weekly").error().code, ErrorCode::Missing);
    write(path("presets/broken.tromb-preset"), "{");
    QVERIFY2(store.all().size() == 1, "one bad file hides no other");
    QVERIFY2(store.faults().size() == 1 && store.faults()[0].path.ends_with("broken.tromb-preset"), "and is told");
    QVERIFY(!store.importFile(path("presets/broken.tromb-preset")));
  }

  // Templates of earlier versions are sets, taken over once with what new projects start from.
  void templatesBecomePresets() {
    Project p = with({path("a")});
    QDir(m_folder.path()).mkpath(QStringLiteral("templates"));
    QVERIFY(saveProject(presetOf(p, "Club night").project, path("templates/Club night.tromb-template")).has_value());
    write(path("templates/default"), "Club night");
    PresetStore store(path("taken"));
    store.takeOverTemplates(path("templates"));
    QVERIFY(store.all().size() == 1);
    QVERIFY(store.all()[0].kind == PresetKind::Set);
    QCOMPARE(store.defaultName(), std::string("Club night"));
    QVERIFY(store.remove("Club night").has_value());
    store.takeOverTemplates(path("templates"));
    QVERIFY2(store.all().empty(), "what was removed stays away");
  }

  // What a preset of each kind gives a deliverable, what is told of later changes, and the way back.
  void presetsAreLaid_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<bool>("canvasToo");
    QTest::newRow("encoding") << int(PresetKind::Encoding) << false;
    QTest::newRow("deliverable") << int(PresetKind::Deliverable) << true;
  }
  void presetsAreLaid() {
    QFETCH(int, kind);
    QFETCH(bool, canvasToo);
    Deliverable from;
    from.id = "d1";
    from.name = "Story";
    from.canvas = {1080, 1920};
    from.rate = FrameRate(Rational(30));
    from.encoding.codec = Codec::Hevc;
    from.encoding.bitRate = 5'000'000;
    from.loudness = OwnLoudness{-16};
    PresetStore store(path("laid"));
    Preset preset = presetOf(from, PresetKind(kind), "Phones");
    preset.comment = "for phones";
    preset.starred = true;
    preset.tags = {"phone", "fast"};
    QVERIFY(store.save(preset, true).has_value());
    const auto read = store.read("Phones");
    QVERIFY(read.has_value());
    QVERIFY2(*read == preset, "with its words, star and tags");
    Deliverable d;
    d.id = "d7";
    d.name = "Mine";
    d.framings["h1"] = {};
    lay(*read, d);
    QVERIFY(d.encoding == from.encoding);
    QCOMPARE(d.canvas == from.canvas, canvasToo);
    QCOMPARE(d.rate == from.rate, canvasToo);
    QCOMPARE(d.loudness == from.loudness, canvasToo);
    QVERIFY2(d.name == "Mine" && d.id == "d7" && d.framings.size() == 1, "it stays itself");
    QCOMPARE(d.preset, std::string("Phones"));
    QVERIFY(changedSince(*read, d).empty());
    d.encoding.bitRate = 6'000'000;
    d.canvas = {540, 960};
    const auto changed = changedSince(*read, d);
    QCOMPARE(changed.size(), canvasToo ? size_t(2) : size_t(1));
    QCOMPARE(changed.back().text(), std::string("bit rate"));
    lay(*read, d);
    QVERIFY2(changedSince(*read, d).empty(), "gone back to");
    Project project;
    project.deliverables = {d};
    QVERIFY(saveProject(project, path("with.tromb")).has_value());
    QVERIFY2(loadProject(path("with.tromb"))->deliverables[0].preset == "Phones", "the project remembers it");
    QVERIFY(fits(*read, d));
    Deliverable huge = d;
    huge.canvas = {16384, 16384};
    QCOMPARE(fits(*read, huge), canvasToo); // its own canvas is laid with it
  }

  // Contradictory, future and huge preset files are refused in words.
  void badPresetsAreRefused_data() {
    QTest::addColumn<QByteArray>("about");
    QTest::addColumn<QString>("words");
    QTest::addColumn<QByteArray>("deliverables");
    QTest::addColumn<int>("version");
    const auto deliverable = [](const char* id, const char* more = "") {
      return QByteArray("{'id':'") + id + "','name':'" + id + "','canvas':{'width':1080,'height':1920},'rate':'25/1'" +
             more + "}";
    };
    const auto row = [](const char* name, const QByteArray& about, const char* words,
                        const QByteArray& deliverables = {},
                        int version = 2) { QTest::newRow(name) << about << QString(words) << deliverables << version; };
    const QByteArray set = "{'kind':'set'}";
    row("no kind", "{}", "'kind' is missing");
    row("another kind", "{'kind':'dream'}", "'dream' is not known");
    row("of nothing", "{'kind':'encoding'}", "it is of one deliverable, and there are 0");
    row("one of two", "{'kind':'deliverable'}", "of one deliverable, and there are 2",
        deliverable("a") + "," + deliverable("b"));
    row("not an object", "[1]", "an object is expected");
    row("a long tag", "{'kind':'set','tags':['" + QByteArray(5000, 'x') + "']}", "too long");
    row("of a later version", set, "later version", {}, 99);
    row("sharing with each other", set, "is no deliverable with framings of its own",
        deliverable("a", ",'sharesWith':'b'") + "," + deliverable("b", ",'sharesWith':'a'"));
    row("sharing with itself", set, "'a' is no deliverable with framings of its own",
        deliverable("a", ",'sharesWith':'a'"));
    row("sharing with nothing", set, "'c' is no deliverable", deliverable("a", ",'sharesWith':'c'"));
    row("one codec in the container of another", set, "'a' contradicts itself",
        deliverable("a", ",'encoding':{'codec':'vp9','container':'mp4'}"));
    row("a huge canvas", set, "/deliverables/0/canvas/width", deliverable("a").replace("1080", "108000000"));
  }
  void badPresetsAreRefused() {
    QFETCH(QByteArray, about);
    QFETCH(QString, words);
    QFETCH(const QByteArray, deliverables);
    QFETCH(const int, version);
    QByteArray text = "{'format':'tromb-project','version':" + QByteArray::number(version) +
                      ",'sources':[],'shots':[],'deliverables':[" + deliverables + "],'preset':" + about + "}";
    write(path("bad.tromb-preset"), text.replace('\'', '"').toStdString());
    PresetStore store(path("refused"));
    const auto taken = store.importFile(path("bad.tromb-preset"));
    QVERIFY(!taken);
    const QString said = QString::fromStdString(sentence(taken.error()));
    QVERIFY2(said.contains(words), qPrintable(said));
    QVERIFY2(said.contains(QLatin1String("bad.tromb-preset")), qPrintable(said));
  }

  void framingsAreKeptUnderNames() {
    FramingStore store(path("framings"));
    Framing framing;
    (void)framingByName("stack2", framing);
    framing.gap = 0.05;
    framing.shares = {0.4, 0.6};
    framing.windows[1].follows = false;
    framing.windows[1].move = {{Rational(1, 25), 0.25, 0.5, 1.5, Ease::Smooth, {}},
                               {Rational(2), 0.75, 0.5, 1, Ease::Hold, {}}};
    QVERIFY(store.save("Two faces", framing, false).has_value());
    QCOMPARE(store.save("Two faces", framing, false).error().code, ErrorCode::Exists);
    QVERIFY(store.all().size() == 1);
    QVERIFY(store.all()[0].framing == framing);
    QVERIFY(store.rename("Two faces", "Talk").has_value());
    QCOMPARE(store.rename("Two faces", "Talk").error().code, ErrorCode::Missing);
    QVERIFY(store.exportFile("Talk", path("Talk.tromb-framing")).has_value());
    QCOMPARE(*store.importFile(path("Talk.tromb-framing")), std::string("Talk 2"));
    QVERIFY(store.remove("Talk").has_value());
    QVERIFY(store.all().size() == 1);
    for (const auto& [text, code] :
         {std::pair("{", ErrorCode::ProjectInvalid),
          {R"({"format":"tromb-framing","version":99})", ErrorCode::ProjectTooNew},
          {R"({"format":"tromb-framing","version":1,"framing":{"layout":"heap"}})", ErrorCode::ProjectInvalid}}) {
      write(path("framings/odd.tromb-framing"), text);
      QCOMPARE(store.importFile(path("framings/odd.tromb-framing")).error().code, code);
      QCOMPARE(store.all().size(), size_t(1));
    }
  }

  // A property over chance: a saved framing that was spoiled is read whole or refused with what is wrong; never half.
  void spoiledFramingsAreReadWholeOrRefused() {
    FramingStore store(path("spoiled"));
    Framing framing;
    (void)framingByName("side3", framing);
    framing.windows[2].move = {{Rational(0), 0.25, 0.5, 1.5, Ease::Smooth, {}},
                               {Rational(2), 0.75, 0.5, 1, Ease::Hold, {}}};
    framing.colour = {1, 200, 3};
    framing.shares = {0.2, 0.3, 0.5};
    QVERIFY(store.save("Good", framing, false).has_value());
    const std::string text = *readWholeFile(path("spoiled/Good.tromb-framing"));
    std::mt19937 dice(41);
    int read = 0;
    int refused = 0;
    for (int round = 0; round < 800; ++round) {
      std::string other = text;
      for (int change = 0; change < 1 + int(dice() % 3); ++change) {
        const size_t at = dice() % other.size();
        switch (dice() % 4) {
        case 0:
          other[at] = char(32 + dice() % 95);
          break;
        case 1:
          other.erase(at, 1 + dice() % 20);
          break;
        case 2:
          other.insert(at, other.substr(dice() % other.size(), dice() % 30));
          break;
        default:
          if (const size_t digit = other.find_first_of("0123456789", at); digit != std::string::npos)
            other.replace(digit, 1, std::to_string(int(dice() % 2000) - 1000));
        }
        if (other.empty()) break;
      }
      write(path("odd.tromb-framing"), other);
      const auto name = store.importFile(path("odd.tromb-framing"));
      if (!name) {
        ++refused;
        QVERIFY(name.error().path == path("odd.tromb-framing"));
        QVERIFY(!name.error().message.empty());
        continue;
      }
      ++read;
      const auto all = store.all();
      const auto taken =
          std::find_if(all.begin(), all.end(), [&](const SavedFraming& each) { return each.name == *name; });
      QVERIFY(taken != all.end());
      QVERIFY(taken->framing.windows.size() == windowCount(taken->framing.layout));
      QVERIFY(store.remove(*name).has_value());
    }
    QVERIFY2(read > 20, qPrintable(QStringLiteral("%1 read, %2 refused").arg(read).arg(refused)));
    QVERIFY2(refused > 100, qPrintable(QStringLiteral("%1 read, %2 refused").arg(read).arg(refused)));
    QCOMPARE(store.all().size(), size_t(1));
  }

  void recoveryCopiesOfEndedWindowsAreFound() {
    const std::string folder = path("recovery");
    const Project p = with({path("a")});
    {
      auto alive = RecoveryFile::create(folder);
      auto other = RecoveryFile::create(folder);
      QVERIFY(alive);
      QVERIFY(other);
      QVERIFY(alive->write(p, "/work/job.tromb"));
      QVERIFY(other->write(p, ""));
      QVERIFY(abandonedCopies(folder).empty()); // both windows live
      other->clear();
    }
    auto copies = abandonedCopies(folder);
    QVERIFY(copies.size() == 1);
    QVERIFY(copies[0].project == p);
    QVERIFY(copies[0].projectPath == "/work/job.tromb");
    QVERIFY(copies[0].writtenAt > 1'700'000'000);
    // A new window does not write over an abandoned copy.
    auto fresh = RecoveryFile::create(folder);
    QVERIFY(fresh);
    QVERIFY(fresh->write(with({}), ""));
    QVERIFY(abandonedCopies(folder).size() == 1);
    removeCopy(copies[0]);
    QVERIFY(abandonedCopies(folder).empty());
    write(folder + "/9.tromb-recovery", "{\"project\": 3");
    QVERIFY(abandonedCopies(folder).empty());
    QVERIFY(QFile::exists(QString::fromStdString(folder + "/9.tromb-recovery")));
    QCOMPARE(RecoveryFile::create("/proc/recovery").error().code, ErrorCode::CannotWrite);

    Project changed = p;
    changed.shots.push_back({"h1", "s1", "x", Rational(0), Rational(1), {}, false, {}, 0, false, {}, {}});
    changed.deliverables[0].canvas.width = 720;
    QCOMPARE(differences(p, changed).text(), std::string("1 shot added; 1 deliverable changed"));
    QCOMPARE(differences(p, p).text(), std::string());
  }
};

QTEST_GUILESS_MAIN(TestFiles)
#include "tst_files.moc"
