// SPDX-License-Identifier: GPL-3.0-or-later
// The command line's contract: verbs, keys and exit codes, run in-process.
#include "Command.h"
#include "media/MediaInfo.h"
#include "preflight/Preflight.h"
#include "project/ProjectFile.h"
#include "support/DrawnScenes.h"
#include "support/TestMedia.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

using namespace tromb;
using Json = nlohmann::json;

class TestCli : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  struct Said {
    int code;
    std::string out;
    std::string err;
  };
  /// "@name" stands for a file in the test's folder.
  Said cli(std::vector<std::string> arguments) const {
    for (std::string& a : arguments)
      if (const size_t at = a.find('@'); at != std::string::npos) a.replace(at, 1, m_folder.path().toStdString() + "/");
    std::ostringstream out;
    std::ostringstream err;
    const int code = cli::runCli(arguments, out, err);
    return {code, out.str(), err.str()};
  }

private slots:
  void initTestCase() {
    qputenv("XDG_DATA_HOME", m_folder.filePath("own").toLocal8Bit());
    test::writeClip(m_folder.filePath("wide.mp4").toStdString(), {640, 360}, FrameRate(), 50, test::texture, true);
    test::writeClip(m_folder.filePath("fast.mp4").toStdString(), {640, 360}, FrameRate(Rational(50)), 50,
                    test::texture);
    (void)test::run("ffmpeg", {"-v", "error", "-y", "-f", "lavfi", "-i", "sine=d=1", m_folder.filePath("sound.wav")});
    QFile text(m_folder.filePath("text.mp4"));
    QVERIFY(text.open(QIODevice::WriteOnly));
    text.write("words");
    text.close();
    QFile wrong(m_folder.filePath("wrong.tromb"));
    QVERIFY(wrong.open(QIODevice::WriteOnly));
    wrong.write(R"({"format":"tromb-project","version":1,"sources":7})");
    wrong.close();
    const Said made =
        cli({"make", "@p.tromb", "--footage", "@wide.mp4;in=0.4;out=00:00:01:20;name=First", "--footage",
             "@fast.mp4;speed=1/2", "--deliverable", "name=Story;canvas=202x360;preset=ultrafast", "--deliverable",
             "name=Square;canvas=360x360;rate=29.97;framing=backdrop;bitrate=1.5M;preset=ultrafast"});
    QVERIFY2(made.code == 0, made.err.c_str());
    QCOMPARE(
        cli({"make", "@low.tromb", "--footage", "@wide.mp4", "--deliverable", "name=A;canvas=320x180;level=1.3"}).code,
        0);
    QFile low(m_folder.filePath("low.tromb"));
    QVERIFY(low.open(QIODevice::ReadWrite));
    const QByteArray larger = low.readAll().replace("320", "1280").replace("180", "720");
    QVERIFY(low.resize(0));
    low.seek(0);
    low.write(larger);
    low.close();
    test::writeClip(m_folder.filePath("ntsc.mp4").toStdString(), {64, 36}, FrameRate(Rational(30000, 1001)), 60,
                    test::texture);
  }
  // The whole way of a job in words: added, paused, put first, done, done again, taken off.
  void jobsWaitInTheQueue() {
    const auto jobs = [this] {
      std::string said;
      const Json list = Json::parse(cli({"queue", "list", "--json"}).out);
      for (const auto& job : list["jobs"])
        said += job["id"].get<std::string>() + " " + job["state"].get<std::string>() + "; ";
      return said;
    };
    QVERIFY(jobs().empty());
    const auto add = [this](std::vector<std::string> more) {
      std::vector<std::string> all{"queue", "add", "@p.tromb", "--out", "@queued", "--json"};
      all.insert(all.end(), more.begin(), more.end());
      const Said said = cli(all);
      return said.code == 0 ? Json::parse(said.out)["id"].get<std::string>() : std::string();
    };
    const std::string both = add({});
    const std::string story = add({"--deliverable", "Story", "--first"});
    const std::string held = add({"--deliverable", "Square", "--clash", "refuse"});
    QCOMPARE(jobs(), story + " waiting; " + both + " waiting; " + held + " waiting; ");
    QCOMPARE(cli({"queue", "pause", held}).code, 0);
    QCOMPARE(cli({"queue", "move", held, "--to", "1"}).code, 0);
    const Said run = cli({"queue", "run"});
    QVERIFY2(run.code == 0, run.err.c_str());
    QCOMPARE(jobs(), held + " paused; " + story + " done; " + both + " done; ");
    QCOMPARE(QDir(m_folder.filePath("queued")).entryList(QDir::Files),
             (QStringList{"p Square.mp4", "p Story (2).mp4", "p Story.mp4"}));
    // What is refused says so by its exit code; what is done needs nobody to wait.
    QCOMPARE(cli({"queue", "resume", held}).code, 0);
    QCOMPARE(cli({"queue", "run"}).code, 4);
    QCOMPARE(cli({"queue", "wait", held}).code, 4);
    const Said waited = cli({"queue", "wait", both, "--json"});
    QCOMPARE(waited.code, 0);
    const Json done = Json::parse(waited.out)["jobs"][0];
    QCOMPARE(done["deliverables"][0]["proof"]["pass"].get<bool>(), true);
    QCOMPARE(cli({"queue", "cancel", both}).code, 0); // it is over: nothing happens
    QCOMPARE(cli({"queue", "retry", story}).code, 0);
    QCOMPARE(cli({"queue", "run"}).code, 0);
    QVERIFY(QFile::exists(m_folder.filePath("queued/p Story (3).mp4")));
    // The files are as the published schema says.
    const QString check = QStringLiteral(
        "import json,sys,jsonschema;s=json.load(open(sys.argv[1]));jsonschema.Draft202012Validator.check_schema(s);"
        "[jsonschema.validate(json.load(open(f)),s) for f in sys.argv[2:]];print('valid')");
    const QString folder = m_folder.filePath("own/tromb/queue/") + QString::fromStdString(both);
    const QStringList curves = QDir(folder).entryList({"proof-*.json"});
    QCOMPARE(curves.size(), qsizetype(2));
    QCOMPARE(test::run("python3", {"-c", check, TROMB_SOURCE_DIR "/data/job.schema.json", folder + "/job.json",
                                   folder + "/record.json", folder + "/progress.json", folder + "/" + curves.front()})
                 .trimmed(),
             QStringLiteral("valid"));
    QCOMPARE(cli({"queue", "remove", "--all"}).code, 0);
    QVERIFY(jobs().empty());
  }

  // Two files beside each other. The judge is FFmpeg's tool, whose filters have the same two measures.
  void filesAreCompared() {
    test::ffmpeg("-v error -y -i " + m_folder.filePath("wide.mp4") + " -an -c:v libx264 -crf 38 -preset veryfast " +
                 m_folder.filePath("coarse.mp4"));
    const auto judged = [this](const char* filter, const char* key) {
      const QString words = test::run("ffmpeg", {"-hide_banner", "-i", m_folder.filePath("coarse.mp4"), "-i",
                                                 m_folder.filePath("wide.mp4"), "-lavfi", filter, "-f", "null", "-"});
      return QString(words.section(QLatin1String(key), -1)).section(' ', 0, 0).toDouble();
    };
    const Said said = cli({"compare", "@wide.mp4", "@coarse.mp4", "--json", "--frames"});
    QVERIFY2(said.code == 0, said.err.c_str());
    const Json found = Json::parse(said.out);
    QCOMPARE(found["frames"].get<int>(), 50);
    QVERIFY2(std::abs(found["ssim"]["mean"].get<double>() - judged("ssim", "All:")) < 1e-4, said.out.c_str());
    QVERIFY2(std::abs(found["psnr"]["mean"].get<double>() - judged("psnr", "average:")) < 0.01, said.out.c_str());
    const auto values = found["ssim"]["byFrame"].get<std::vector<double>>();
    const auto worst = std::min_element(values.begin(), values.end());
    QCOMPARE(found["ssim"]["worstFrame"].get<int64_t>(), int64_t(worst - values.begin()));
    QVERIFY(found["different"].get<int>() > 45);
    // With itself it is the same; with one of another size and length it is compared as far as both go.
    const Json same = Json::parse(cli({"compare", "@wide.mp4", "@wide.mp4", "--json"}).out);
    QCOMPARE(same["different"].get<int>(), 0);
    QCOMPARE(same["ssim"]["worst"].get<double>(), 1.0);
    test::ffmpeg("-v error -y -i " + m_folder.filePath("wide.mp4") +
                 " -an -vf scale=320:180 -t 1 -c:v libx264 -crf 12 " + m_folder.filePath("small.mp4"));
    const Json small = Json::parse(cli({"compare", "@wide.mp4", "@small.mp4", "--json"}).out);
    QCOMPARE(small["frames"].get<int>(), 25);
    QVERIFY(small["scaled"].get<bool>());
    QVERIFY(small["ssim"]["mean"].get<double>() > 0.5 && small["ssim"]["mean"].get<double>() < 0.99);
    const Said words = cli({"compare", "@wide.mp4", "@coarse.mp4"});
    QVERIFY2(words.err.find("pictures differ, most at") != std::string::npos, words.err.c_str());
  }

  // A film is cut to the frame; what that costs is told before, by itself with --plan. A second file is copied whole.
  void filmsAreCut() {
    test::ffmpeg("-v error -y -i " + m_folder.filePath("wide.mp4") +
                 " -an -c:v libx264 -preset veryfast -x264-params keyint=20:scenecut=0 " +
                 m_folder.filePath("groups.mp4"));
    const Said planned =
        cli({"cut", "@groups.mp4", "--keep", "0.2-00:00:01:00,0.8-1.6", "--out", "@cut.mp4", "--plan", "--json"});
    QVERIFY2(planned.code == 0, planned.err.c_str());
    const Json plan = Json::parse(planned.out);
    QCOMPARE(plan["frames"].get<int>(), 20 + 20);
    QCOMPARE(plan["parts"][0]["firstFrame"].get<int>(), 5);
    QCOMPARE(plan["parts"][0]["encodedBefore"].get<int>(), 15);
    QCOMPARE(plan["parts"][1]["encodedBefore"].get<int>(), 0);
    QVERIFY(plan["possible"].get<bool>());
    QVERIFY2(!QFile::exists(m_folder.filePath("cut.mp4")), "a plan writes nothing");
    const Said made = cli({"cut", "@groups.mp4", "--keep", "0.2-1,0.8-1.6", "--out", "@cut.mp4"});
    QVERIFY2(made.code == 0, made.err.c_str());
    QVERIFY2(made.err.find("the cut before needs 15 pictures encoded") != std::string::npos, made.err.c_str());
    QCOMPARE(Json::parse(cli({"probe", "@cut.mp4", "--json"}).out)[0]["video"]["frameCount"].get<int>(), 40);
    QCOMPARE(cli({"cut", "@groups.mp4", "--keep", "0.2-1", "--out", "@cut.mp4"}).code, 4); // it is there
    const Said wrong = cli({"cut", "@groups.mp4", "--keep", "1", "--out", "@other.mp4"});
    QCOMPARE(wrong.code, 2);
    QVERIFY2(wrong.err.find("12.5-1:40") != std::string::npos, wrong.err.c_str());
    QCOMPARE(cli({"cut", "@gone.mp4", "--keep", "0-1", "--out", "@other.mp4"}).code, 3);
  }

  // What is laid over the shots is in the project as it was said: semicolons and ends of lines in the words, too.
  void wordsAreLaidOverShots() {
    QFile captions(m_folder.filePath("said.srt"));
    QVERIFY(captions.open(QIODevice::WriteOnly));
    captions.write("1\n00:00:00,100 --> 00:00:00,900\nOne\n\n2\nnever --> 00:00:01,000\nTwo\n");
    captions.close();
    const Said made =
        cli({"make", "@words.tromb", "--footage", "@wide.mp4;in=0.4", "--deliverable", "name=A;captions=srt", "--text",
             "One; two\\nthree;anchor=top-left;size=7.5;x=-2;box=0.5;box-colour=#102030;shot=1;in=0.2;out=0.6",
             "--captions", "@said.srt"});
    QVERIFY2(made.code == 0, made.err.c_str());
    QVERIFY2(made.err.find("1 of its captions are broken and left out, from line 6 on") != std::string::npos,
             made.err.c_str());
    const auto project = loadProject(m_folder.filePath("words.tromb").toStdString());
    QVERIFY(project);
    QCOMPARE(project->elements.size(), size_t(2));
    const Element& text = project->elements[0];
    QCOMPARE(text.text, std::string("One; two\nthree"));
    QCOMPARE(text.place, (ElementPlace{Anchor::TopLeft, -2, 0, 7.5, false}));
    QCOMPARE(text.look.boxColour, (Colour{0x10, 0x20, 0x30}));
    QCOMPARE(stretchesOf(*project)[0], std::pair(Rational(1, 5), Rational(3, 5)));
    QCOMPARE(text.in, Rational(3, 5)); // of its source
    QCOMPARE(captionsOf(*project), (std::vector<Caption>{{Rational(1, 10), Rational(9, 10), "One"}}));
    QCOMPARE(project->deliverables[0].encoding.captions, CaptionPlace::SubRip);
  }

  void dropFrameTimesMayBeGiven() {
    const Said made = cli({"make", "@drop.tromb", "--footage", "@ntsc.mp4;in=00:00:00;10;out=00:00:01;05;name=A",
                           "--deliverable", "name=A"});
    QVERIFY2(made.code == 0, made.err.c_str());
    const auto project = loadProject(m_folder.filePath("drop.tromb").toStdString());
    QCOMPARE(project->shots.front().in, Rational(10 * 1001, 30000));
    QCOMPARE(project->shots.front().out, Rational(35 * 1001, 30000));
    QCOMPARE(project->shots.front().name, std::string("A"));
  }

  void exitCodes_data() {
    QTest::addColumn<QStringList>("arguments");
    QTest::addColumn<int>("code");
    QTest::addColumn<QString>("words"); // that the message must have
    const struct {
      const char* arguments;
      int code;
      const char* words;
    } rows[] = {
        {"--help", 0, ""},
        {"--version", 0, ""},
        {"export --help", 0, ""},
        {"", 2, "subcommand"},
        {"bake @p.tromb", 2, ""},
        {"queue", 2, ""},
        {"compare @wide.mp4", 2, ""},
        {"compare @wide.mp4 @sound.wav", 3, "no moving picture"},
        {"compare @nowhere.mp4 @wide.mp4", 3, "not there"},
        {"queue pause", 2, "--all"},
        {"queue cancel 20260101-000000-00000000", 3, "no job"},
        {"queue add @p.tromb", 2, "--out"},
        {"queue add @p.tromb --out @q --deliverable Nothing", 2, "Story"},
        {"queue add @p.tromb --out @q --region Nothing", 2, "Nothing"},
        {"queue add @nowhere.tromb --out @q", 3, "not there"},
        {"queue move 20260101-000000-00000000 --to 0", 2, ""},
        {"probe", 2, "files"},
        {"probe @wide.mp4 --colour", 2, ""},
        {"probe @nowhere.mp4", 3, "not there"},
        {"probe @text.mp4", 3, "not a video"},
        {"probe @wide.mp4 @text.mp4", 3, "text.mp4"},
        {"make @new.tromb --footage @nowhere.mp4 --deliverable name=A", 3, "not there"},
        {"make @new.tromb --footage @sound.wav --deliverable name=A", 3, "no picture"},
        {"make @new.tromb --footage @wide.mp4", 2, "--deliverable"},
        {"make @new.tromb --footage @wide.mp4;in=1.9;out=1.2 --deliverable name=A", 2, "in and out"},
        {"make @new.tromb --footage @wide.mp4;colour=red --deliverable name=A", 2, "colour"},
        {"make @new.tromb --footage @wide.mp4 --deliverable canvas=10", 2, "WIDTHxHEIGHT"},
        {"make @new.tromb --footage @wide.mp4 --deliverable rate=60.1", 2, "frame rate"},
        {"make @new.tromb --footage @wide.mp4 --deliverable framing=stretch", 2, "backdrop"},
        {"make @new.tromb --footage @wide.mp4 --deliverable destination=moon", 2, "moon"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --deliverable name=A", 2, "twice"},
        {"make @p.tromb --footage @wide.mp4 --deliverable name=A", 4, "--overwrite"},
        {"make @no/such/p.tromb --footage @wide.mp4 --deliverable name=A", 4, "cannot be written"},
        {"make @new.tromb --footage name=A --deliverable name=A", 2, "does not begin with a file"},
        {"make @new.tromb --footage @wide.mp4;in=soon --deliverable name=A", 2, "soon"},
        {"make @new.tromb --footage @wide.mp4;speed=0.001 --deliverable name=A", 2, "between 0.05 and 20"},
        {"make @new.tromb --footage @wide.mp4;speed=-21 --deliverable name=A", 2, "between 0.05 and 20"},
        {"make @new.tromb --footage @wide.mp4;hold=0 --deliverable name=A", 2, "'0' is no time"},
        {"make @new.tromb --footage @wide.mp4;pitch=high --deliverable name=A", 2, "keep, follow or mute"},
        {"make @new.tromb --footage @wide.mp4 --deliverable treatment=fair", 2, "mixed or interpolated"},
        {"make @new.tromb --footage @wide.mp4;speed=1/0 --deliverable name=A", 2, "1/0"},
        {"make @new.tromb --footage @wide.mp4 --template moon", 2, "five-shapes"},
        {"make @new.tromb --footage @wide.mp4 --deliverable shade=red", 2, "--deliverable"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=", 2, "empty"},
        {"make @new.tromb --footage @wide.mp4 --deliverable crf=52", 2, "1 to 51"},
        {"make @new.tromb --footage @wide.mp4 --deliverable crf=0", 2, "1 to 51"},
        {"make @new.tromb --footage @wide.mp4 --deliverable bitrate=1", 2, "10 kb/s"},
        {"make @new.tromb --footage @wide.mp4 --deliverable rate=100000007/4000000", 2, "plain fraction"},
        {"make @new.tromb --footage @wide.mp4 --deliverable rate=999999999999999/999999999999998", 2, "plain"},
        {"make @new.tromb --footage ; --deliverable name=A", 2, "does not begin with a file"},
        {"make @new.tromb --footage @wide.mp4;in=00:00:01;02 --deliverable name=A", 2, "no drop-frame"},
        {"export @low.tromb --out @out", 2, "Use level"},
        {"check @low.tromb", 1, "level-too-low"},
        {"make @new.tromb --footage @wide.mp4 --deliverable rate-control=fast", 2, "crf, vbr or cbr"},
        {"make @new.tromb --footage @wide.mp4 --deliverable bitrate=lots", 2, "lots"},
        {"make @new.tromb --footage @wide.mp4 --deliverable max-bitrate=-1M", 2, "-1M"},
        {"make @new.tromb --footage @wide.mp4 --deliverable audio-bitrate=1", 2, "8 kb/s to 512 kb/s"},
        {"make @new.tromb --footage @wide.mp4 --deliverable profile=best", 2, "best"},
        {"make @new.tromb --footage @wide.mp4 --deliverable preset=warp", 2, "warp"},
        {"make @new.tromb --footage @wide.mp4 --deliverable colour=red", 2, "rec709, hlg or pq"},
        {"make @new.tromb --footage @wide.mp4;range=half --deliverable name=A", 2, "limited or full"},
        {"make @new.tromb --footage @wide.mp4 --deliverable codec=vp9;container=mp4", 2, "webm or mkv"},
        {"make @new.tromb --footage @wide.mp4 --deliverable codec=ffv1;crf=20", 2, "settled"},
        {"make @new.tromb --footage @wide.mp4 --deliverable codec=hevc;passes=2;crf=20", 2, "vbr"},
        {"make @new.tromb --footage @wide.mp4 --deliverable channels=4", 2, "Use 2"},
        {"make @new.tromb --footage @wide.mp4 --deliverable canvas=1920x1080;level=3", 2, "level 4"},
        {"make @new.tromb --footage @wide.mp4 --deliverable codec=vp9;rate-control=cbr", 2, "vbr or crf"},
        {"make @new.tromb --footage @wide.mp4 --deliverable passes=3", 2, "1 to 2"},
        {"make @new.tromb --footage @wide.mp4 --deliverable never-enlarge=perhaps", 2, "yes or no"},
        {"make @new.tromb --footage @wide.mp4 --deliverable like=Nobody", 3, "Nobody"},
        {"make @new.tromb --footage @wide.mp4 --deliverable chapters=some", 2, "shots or regions"},
        {"make @new.tromb --footage @wide.mp4 --deliverable language=english", 2, "ISO 639-2"},
        {"make @new.tromb --footage @wide.mp4 --deliverable level=9", 2, "no level of H.264"},
        {"make @new.tromb --footage @wide.mp4 --deliverable codec=other", 2, "h264, hevc, vp9"},
        {"make @new.tromb --footage @wide.mp4 --deliverable container=avi", 2, "mp4, mov, mkv"},
        {"make @new.tromb --footage @wide.mp4 --deliverable captions=both", 2, "burned, srt or vtt"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --text Vale;anchor=below", 2, "top-left|top"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --text Vale;size=0", 2, "from 0.5 to"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --text Vale;colour=red", 2, "#20303f"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --text ;size=5", 2, "does not begin with"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --text Vale;in=1;out=0.5", 2, "after its in"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --text Vale;shot=2", 2, "from 1 to 1"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --overlay @nowhere.png", 3, "not there"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --overlay @wide.mp4", 3, "still picture"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --overlay @wide.mp4;size=5;font=X", 2, "--overlay"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --captions @nowhere.srt", 3, "cannot be read"},
        {"make @new.tromb --footage @wide.mp4 --deliverable name=A --captions @text.mp4", 3, "no captions"},
        {"check @nowhere.tromb", 3, "not there"},
        {"check @wrong.tromb", 3, "/sources"},
        {"check @p.tromb --deliverable Nobody", 2, "'Story', 'Square'"},
        {"check @p.tromb --deliverable Story", 0, ""},
        {"frame @p.tromb --deliverable Story --number 100000 --out @f.png", 2, "behind the end"},
        {"frame @p.tromb --deliverable Story --number 0 --at 1 --out @f.png", 2, ""},
        {"frame @p.tromb --deliverable Story --number 0 --out @no/such/f.png", 4, "cannot be written"},
        {"export @p.tromb --out /proc/x", 4, "folder"},
        {"export @p.tromb --region Ending --out @out", 2, "has none"},
        {"proof @text.mp4", 3, "not a video"},
        {"proof @wide.mp4 --project @p.tromb", 2, ""},
        {"proof @wide.mp4 --project @p.tromb --deliverable Story", 1, "SHORT canvas"},
        {"presets", 2, "subcommand"},
        {"presets show Nobody", 3, "Nobody"},
        {"presets remove Nobody", 3, "Nobody"},
        {"presets import @text.mp4", 3, "not valid JSON"},
        {"presets save All --project @p.tromb --encoding", 2, "--deliverable"},
        {"presets save All --project @p.tromb --deliverable Nobody", 2, "Nobody"},
        {"presets list", 0, ""},
        {"make @new.tromb --footage @wide.mp4 --preset Nobody --deliverable name=A", 3, "Nobody"},
        {"destinations", 0, "vertical-story"},
        {"destinations ", 0, "up to 120. everything kept"}}; // what loses nothing has no usual bit rate
    for (const auto& r : rows)
      QTest::newRow(r.arguments) << QString::fromLatin1(r.arguments).split(' ', Qt::SkipEmptyParts) << r.code
                                 << r.words;
  }
  void exitCodes() {
    QFETCH(QStringList, arguments);
    QFETCH(int, code);
    QFETCH(QString, words);
    std::vector<std::string> list;
    for (const QString& a : arguments) list.push_back(a.toStdString());
    const Said said = cli(list);
    QVERIFY2(said.code == code, (std::to_string(said.code) + ": " + said.err).c_str());
    QVERIFY2(QString::fromStdString(said.err).contains(words), said.err.c_str());
    if (code != 0 && !words.isEmpty()) QVERIFY(said.out.empty()); // words for people go to standard error
  }
  // A property over chance: whatever words are given, the answer is one of the contract's codes, an error is said in
  // words or, when asked for, as one object with its keys; nothing is thrown and nothing is written.
  void anyWordsGetAnAnswer() {
    const char* const kWords[] = {
        "probe",    "make",      "check",          "frame",         "proof",     "destinations",
        "@p.tromb", "@text.mp4", "@nowhere.tromb", "--json",        "--help",    "--deliverable",
        "Story",    "name=A",    "--footage",      "@nowhere.mp4",  "--number",  "-1",
        "3",        "--at",      "00:00:00:01",    "--out",         "@no/f.png", "--overwrite",
        "--region", "",          "--project",      "canvas=1x1;;=", "--",        "\xff\xfe"};
    std::mt19937 dice(47);
    int codes[6] = {};
    for (int round = 0; round < 400; ++round) {
      std::vector<std::string> words;
      QString all;
      bool json = false;
      for (int i = 0; i < 1 + int(dice() % 7); ++i) {
        words.emplace_back(kWords[i == 0 ? dice() % 6 : dice() % std::size(kWords)]);
        json = json || words.back() == "--json";
        all += QString::fromStdString(words.back()) + ' ';
      }
      const Said said = cli(words);
      QVERIFY2(said.code >= 0, qPrintable(all + QString::number(said.code)));
      QVERIFY2(said.code <= 4, qPrintable(all + QString::number(said.code)));
      ++codes[said.code];
      if (said.code == 2 || said.code == 3 || said.code == 4) {
        QVERIFY2(!said.err.empty() || json, qPrintable(all));
        if (said.err.empty()) {
          const Json error = Json::parse(said.out, nullptr, false);
          QVERIFY2(!error.is_discarded(), qPrintable(all));
          QVERIFY2(error.contains("error"), qPrintable(all));
          QVERIFY2(error["error"]["message"].is_string(), qPrintable(all));
        }
      }
    }
    QVERIFY(codes[0] > 5);
    QVERIFY(codes[2] > 100);
    QVERIFY(codes[3] > 5);
    QVERIFY(!QFile::exists(m_folder.filePath("f.png")));
    QVERIFY(!QFile::exists(m_folder.filePath("no")));
  }
  void errorsAreJsonWhenAskedFor() {
    const Said said = cli({"probe", "@nowhere.mp4", "--json"});
    const Json error = Json::parse(said.out)["error"];
    QVERIFY(said.code == 3);
    QVERIFY(said.err.empty());
    QVERIFY(error["code"] == "missing");
    QVERIFY(error["message"].is_string());
    QVERIFY(error["path"].get<std::string>().ends_with("nowhere.mp4"));
    QVERIFY(Json::parse(cli({"check", "@wrong.tromb", "--json"}).out)["error"]["code"] == "project-invalid");
  }

  void probeSaysWhatItMeasures() {
    const Json list = Json::parse(cli({"probe", "@wide.mp4", "@sound.wav", "--measure", "--json"}).out);
    QCOMPARE(list.size(), size_t(2));
    QVERIFY(list[0]["video"]["frameRate"] == "25/1");
    QVERIFY(list[0]["measured"]["bars"]["top"] == 0);
    QVERIFY(list[1]["kind"] == "audio");
    QVERIFY(list[1]["measured"]["loudness"]["integratedLufs"].get<double>() < -10);
  }
  void makeFillsInWhatTheWindowWould() {
    const auto project = loadProject(m_folder.filePath("p.tromb").toStdString());
    QVERIFY(project.has_value());
    QCOMPARE(project->shots[0].in, Rational(2, 5));
    QCOMPARE(project->shots[0].out, Rational(45, 25));
    QCOMPARE(project->shots[1].pace.speed, Rational(1, 2));
    QVERIFY(project->deliverables[0].rate.value() == Rational(25));
    QVERIFY(project->deliverables[1].rate.value() == Rational(30000, 1001));
    QCOMPARE(project->deliverables[1].encoding.bitRate, 1'500'000);
    QCOMPARE(project->deliverables[1].framingOf("h1").layout, Layout::Backdrop);
    const Said odd = cli({"make", "@odd.tromb", "--footage", "@wide.mp4", "--template", "five-shapes", "--deliverable",
                          "name=Odd;canvas=320x181", "--overwrite"});
    QVERIFY2(odd.code == 0, odd.err.c_str());
    QVERIFY2(odd.err.find("320×180 and 320×182") != std::string::npos, odd.err.c_str());
    QCOMPARE(loadProject(m_folder.filePath("odd.tromb").toStdString())->deliverables.size(), size_t(6));
    const Said check = cli({"check", "@odd.tromb", "--deliverable", "Odd", "--json"});
    QCOMPARE(check.code, 1);
    QVERIFY(Json::parse(check.out)["findings"][0]["code"] == "odd-size");
  }
  // Preflight stops an export unless it is to go on despite it, or somebody has accepted what is wrong.
  void errorsAreAskedAbout() {
    const Said made = cli({"make", "@held.tromb", "--footage", "@wide.mp4", "--deliverable",
                           "name=Held;canvas=640x1138;rate=25;never-enlarge=yes"});
    QVERIFY2(made.code == 0, made.err.c_str());
    const Said refused = cli({"export", "@held.tromb", "--out", "@held"});
    QCOMPARE(refused.code, 1);
    QVERIFY2(refused.err.find("error [never-enlarge] Held") != std::string::npos, refused.err.c_str());
    QVERIFY2(refused.err.find("--despite") != std::string::npos, refused.err.c_str());
    QVERIFY(!QFile::exists(m_folder.filePath("held/held Held.mp4")));
    const Said lines = cli({"export", "@held.tromb", "--out", "@held", "--progress", "json"});
    QVERIFY(Json::parse(lines.out.substr(0, lines.out.find('\n')))["error"]["code"] == "falls-short");
    const Said despite = cli({"export", "@held.tromb", "--out", "@held", "--despite"});
    QVERIFY2(despite.code == 0, despite.err.c_str());
    QVERIFY(QFile::exists(m_folder.filePath("held/held Held.mp4")));
    // The folder is looked at where it is named.
    const Said there = cli({"check", "@held.tromb", "--out", "@held", "--json"});
    QVERIFY2(there.out.find("file-exists") != std::string::npos, there.out.c_str());
    // Accepted, as the window does it.
    auto project = *loadProject(m_folder.filePath("held.tromb").toStdString());
    for (const Finding& f : preflight(project, probeFootage(project)))
      if (f.errs()) project.checks.accepted.push_back(acceptanceOf(f, "for a wall"));
    QVERIFY(saveProject(project, m_folder.filePath("held.tromb").toStdString()));
    const Said accepted = cli({"export", "@held.tromb", "--out", "@held", "--overwrite"});
    QVERIFY2(accepted.code == 0, accepted.err.c_str());
    const Said check = cli({"check", "@held.tromb"});
    QVERIFY2(check.err.find("(accepted: for a wall)") != std::string::npos, check.err.c_str());
  }
  // What is measured on request: a silent sound, and a file that has become another.
  void sourcesAreMeasuredForACheck() {
    (void)test::run("ffmpeg", {"-v", "error", "-f", "lavfi", "-i", "testsrc2=s=320x180:r=25:d=1", "-f", "lavfi", "-i",
                               "anullsrc=d=1", "-c:v", "libx264", "-c:a", "aac", m_folder.filePath("silent.mp4")});
    QVERIFY(cli({"make", "@silent.tromb", "--footage", "@silent.mp4", "--deliverable", "name=A;canvas=320x180;rate=25"})
                .code == 0);
    QVERIFY(cli({"check", "@silent.tromb"}).err.find("[silent]") == std::string::npos);
    const Said measured = cli({"check", "@silent.tromb", "--measure"});
    QVERIFY2(measured.err.find("warning [silent] Silent") != std::string::npos, measured.err.c_str());
    QVERIFY(QFile::remove(m_folder.filePath("silent.mp4")));
    QVERIFY(QFile::copy(m_folder.filePath("wide.mp4"), m_folder.filePath("silent.mp4")));
    const Said changed = cli({"check", "@silent.tromb"});
    QVERIFY2(changed.err.find("[source-changed]") != std::string::npos, changed.err.c_str());
  }
  // Presets are saved of a project, listed, given away and taken in, and laid on what follows them on the line.
  void presetsAreLaidOnWhatFollows() {
    const auto done = [this](const std::vector<std::string>& words) {
      const Said said = cli(words);
      if (said.code != 0) qWarning("%s", said.err.c_str());
      return said.code == 0;
    };
    QVERIFY(done({"make", "@source.tromb", "--footage", "@wide.mp4", "--deliverable",
                  "name=Small;canvas=320x180;rate=25;codec=vp9;crf=40"}));
    QVERIFY(done({"presets", "save", "Light", "--project", "@source.tromb", "--deliverable", "Small", "--encoding",
                  "--comment", "for slow lines"}));
    QVERIFY(done({"presets", "save", "Small", "--project", "@source.tromb", "--deliverable", "Small"}));
    QVERIFY(done({"presets", "save", "All", "--project", "@source.tromb"}));
    QCOMPARE(cli({"presets", "save", "All", "--project", "@source.tromb"}).code, 4); // it is there
    const Said list = cli({"presets", "list", "--json"});
    QCOMPARE(Json::parse(list.out).size(), size_t(3));
    const Json shown = Json::parse(cli({"presets", "show", "Light"}).out);
    QVERIFY(shown["kind"] == "encoding" && shown["comment"] == "for slow lines" &&
            shown["deliverables"][0]["codec"] == "vp9");
    QVERIFY(done({"presets", "export", "Light", "@light.tromb-preset"}));
    QVERIFY(done({"presets", "remove", "Light"}));
    QVERIFY(done({"presets", "import", "@light.tromb-preset"}));
    QVERIFY(done({"make", "@laid.tromb", "--footage", "@wide.mp4", "--deliverable", "name=Before;canvas=640x360",
                  "--preset", "Light", "--deliverable", "name=After;canvas=640x360", "--deliverable",
                  "name=Changed;canvas=640x360;crf=30", "--preset", "Small", "--deliverable", "name=Whole",
                  "--deliverable", "name=Alike;like=Light;canvas=640x360"}));
    const auto project = loadProject(m_folder.filePath("laid.tromb").toStdString());
    QVERIFY(project.has_value());
    const auto& all = project->deliverables;
    QVERIFY2(all[0].encoding.codec == Codec::H264 && all[0].preset.empty(), "what comes before it is as ever");
    QVERIFY2(all[1].encoding.codec == Codec::Vp9 && all[1].encoding.crf == 40 && all[1].preset == "Light",
             "what follows has it");
    QVERIFY2(all[1].canvas == (Size{640, 360}), "an encoding has no canvas");
    QVERIFY2(all[2].encoding.crf == 30, "keys change what was laid");
    QVERIFY2(all[3].canvas == (Size{320, 180}), "a whole deliverable has one");
    QVERIFY2(all[4].encoding.codec == Codec::Vp9 && all[4].preset == "Light", "one can be like a preset by itself");
    QCOMPARE(cli({"make", "@no.tromb", "--footage", "@wide.mp4", "--preset", "All", "--deliverable", "name=A"}).code,
             2);
  }
  // Every key of a deliverable ends where it belongs; two shots of one file are of one source.
  void makeTakesEveryKey() {
    const Said made =
        cli({"make",
             "@keys.tromb",
             "--footage",
             "@wide.mp4;in=0;out=1",
             "--footage",
             "@wide.mp4;in=1;out=2;speed=-2;pitch=follow;treatment=mixed;name=Again",
             "--footage",
             "@wide.mp4;in=1;out=2;hold=3.5",
             "--deliverable",
             "name=All;canvas=360x360;rate=30000/1001;framing=stack2;rate-control=vbr;bitrate=3M;"
             "max-bitrate=4500k;audio-bitrate=96k;profile=main;preset=slow;level=4.1;codec=h264;"
             "container=mp4",
             "--deliverable",
             "canvas=202x360;crf=17.5;encoder=hardware",
             "--deliverable",
             "name=More;canvas=360x360;codec=hevc;container=mkv;depth=10;rate-control=vbr;passes=2;"
             "bitrate=2M;max-bitrate=3M;buffer=1500k;profile=main10;tier=main;preset=fast;tune=grain;"
             "gop=1.5;groups=open;cut-keys=no;b-pictures=2;references=3;audio-codec=flac;"
             "sample-rate=44100;chapters=shots;title=A;comment=B;language=eng",
             "--deliverable",
             "name=Bright;canvas=360x360;colour=hlg;codec=av1;tune=screen;sound=none",
             "--deliverable",
             "name=Master;canvas=360x360;chroma=422;depth=10;codec=vc3;profile=hqx",
             "--deliverable",
             "name=Plain;canvas=360x360;entropy=cavlc",
             "--deliverable",
             "name=Heard;bitrate=5M;canvas=360x360;audio-bitrate=300k;channels=6;"
             "sound=only;loudness=-23;pixel-aspect=4/3",
             "--deliverable",
             "name=Said;sound=beside;audio-bitrate=speech;loudness=as-mixed;never-enlarge=yes;treatment=mixed"});
    QVERIFY2(made.code == 0, made.err.c_str());
    const auto project = loadProject(m_folder.filePath("keys.tromb").toStdString());
    QVERIFY(project);
    QVERIFY(project->sources.size() == 1);
    QVERIFY(project->shots.size() == 3);
    QVERIFY(project->shots[1].pace == (Pace{2, true}));
    QVERIFY(project->shots[1].pitchFollows);
    QVERIFY(project->shots[1].treatment == Treatment::Mixed);
    QVERIFY(project->shots[2].duration() == Rational(7, 2));
    QVERIFY(project->shots[1].name == "Again");
    const Deliverable& all = project->deliverables[0];
    QVERIFY(all.rate.value() == Rational(30000, 1001));
    QVERIFY(all.framingOf("h2").layout == Layout::Stack2);
    QVERIFY(all.encoding.rateControl == RateControl::Variable);
    QVERIFY(all.encoding.bitRate == 3'000'000);
    QVERIFY(all.encoding.maxBitRate == 4'500'000);
    QVERIFY(all.encoding.sound.bitRate == 96'000);
    QVERIFY(all.encoding.profile == "main");
    QVERIFY(all.encoding.speed == "slow");
    QVERIFY(all.encoding.level == "4.1");
    const Deliverable& short_ = project->deliverables[1];
    QVERIFY(short_.name == "202×360");
    QVERIFY(short_.encoding.rateControl == RateControl::ConstantQuality);
    QVERIFY(short_.encoding.crf == 17.5);
    QVERIFY(short_.encoding.hardware);
    QVERIFY(!all.encoding.hardware);
    const Deliverable& more = project->deliverables[2];
    const Encoding& e = more.encoding;
    QVERIFY(more.format == CanvasFormat({10, Chroma::C420, kRec709}));
    QVERIFY(e.codec == Codec::Hevc);
    QVERIFY(e.container == Container::Mkv);
    QCOMPARE(e.passes, 2);
    QCOMPARE(e.bufferBits, 1'500'000);
    QCOMPARE(e.profile, std::string("main10"));
    QCOMPARE(e.tune, std::string("grain"));
    QCOMPARE(e.keySeconds, Rational(3, 2));
    QVERIFY(e.openGroups);
    QVERIFY(!e.keysAtCuts);
    QVERIFY(e.bPictures == 2);
    QCOMPARE(e.references, 3);
    QVERIFY(e.sound.codec == SoundCodec::Flac);
    QCOMPARE(e.sound.sampleRate, 44'100);
    QVERIFY(e.chapters == Chapters::Shots);
    QCOMPARE(e.title + e.comment + e.language, std::string("ABeng"));
    // What the codec asks for follows from it: 10 bits for HLG, 4:2:2 for VC-3.
    QVERIFY(project->deliverables[3].format == CanvasFormat({10, Chroma::C420, kHlg}));
    QVERIFY(project->deliverables[3].encoding.sound.place == SoundPlace::None);
    QVERIFY(project->deliverables[4].format == CanvasFormat({10, Chroma::C422, kRec709}));
    QVERIFY(project->deliverables[5].encoding.entropy == Entropy::Cavlc);
    // In whatever order they are given.
    QVERIFY(project->deliverables[7].treatment == Treatment::Mixed);
    QVERIFY(project->deliverables[7].sharpOnly && !project->deliverables[6].sharpOnly);
    const Deliverable& heard = project->deliverables[6];
    QCOMPARE(heard.encoding.bitRate, 5'000'000);
    QCOMPARE(heard.encoding.sound.bitRate, 300'000);
    QCOMPARE(heard.encoding.sound.channels, 6);
    QVERIFY(heard.encoding.sound.place == SoundPlace::Alone);
    QVERIFY(heard.loudness->lufs == -23);
    QCOMPARE(heard.pixelAspect, Rational(4, 3));
    const Deliverable& told = project->deliverables[7];
    QVERIFY(told.encoding.sound.place == SoundPlace::Beside);
    QVERIFY(told.encoding.sound.content == SoundContent::Speech);
    QVERIFY(!told.loudness->lufs);
  }
  // Pictures of deliverables: at a time, and of every shot; read back by Qt, the same as `frame` gives them.
  void stillsAreWritten_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("ending");
    QTest::addColumn<int>("most"); // difference of any channel anywhere
    QTest::newRow("PNG") << "png"
                         << "png" << 0;
    QTest::newRow("JPEG") << "jpeg"
                          << "jpg" << 24;
    QTest::newRow("WebP") << "webp"
                          << "webp" << 40; // its chroma is subsampled
  }
  void stillsAreWritten() {
    QFETCH(QString, kind);
    QFETCH(QString, ending);
    QFETCH(int, most);
    const std::string out = "@stills-" + kind.toStdString();
    const Said one = cli({"export", "@p.tromb", "--out", out, "--deliverable", "Story", "--still", "0.4",
                          "--still-kind", kind.toStdString()});
    QVERIFY2(one.code == 0, one.err.c_str());
    const QString file = m_folder.filePath(QString::fromStdString(out.substr(1)) + "/p Story 00-00-00-10." + ending);
    QVERIFY2(QFile::exists(file), one.err.c_str());
    QCOMPARE(cli({"frame", "@p.tromb", "--deliverable", "Story", "--at", "0.4", "--out", "@frame.png"}).code, 0);
    const auto pixels = [](const QString& path) {
      (void)test::run(QStringLiteral("ffmpeg"),
                      {"-v", "error", "-i", path, "-pix_fmt", "rgb24", "-f", "rawvideo", path + ".rgb", "-y"});
      QFile raw(path + ".rgb");
      (void)raw.open(QIODevice::ReadOnly);
      return raw.readAll();
    };
    const QByteArray wanted = pixels(m_folder.filePath("frame.png"));
    const QByteArray seen = pixels(file);
    QCOMPARE(wanted.size(), qsizetype(202 * 360 * 3));
    QCOMPARE(seen.size(), wanted.size());
    int off = 0;
    for (qsizetype i = 0; i < seen.size(); ++i)
      off = std::max(off, std::abs(int(uint8_t(seen[i])) - int(uint8_t(wanted[i]))));
    QVERIFY2(off <= most, qPrintable(QString::number(off)));
    QCOMPARE(cli({"export", "@p.tromb", "--out", out, "--deliverable", "Story", "--still", "0.4", "--still-kind",
                  kind.toStdString()})
                 .code,
             4); // there already
    QVERIFY(cli({"export", "@p.tromb", "--out", out, "--still", "900"}).code == 2);
    const Said each =
        cli({"export", "@p.tromb", "--out", out + "-each", "--still", "each", "--still-kind", kind.toStdString()});
    QVERIFY2(each.code == 0, each.err.c_str());
    QCOMPARE(QDir(m_folder.filePath(QString::fromStdString(out.substr(1)) + "-each")).entryList(QDir::Files).size(),
             qsizetype(4)); // two shots in two deliverables
  }
  // A wrong label is overruled; another file keeps its own.
  void coloursAreOverruled() {
    QCOMPARE(cli({"make", "@claim.tromb", "--footage", "@wide.mp4;colour=hlg;range=full", "--footage", "@fast.mp4",
                  "--deliverable", "name=A;canvas=360x360"})
                 .code,
             0);
    const auto project = loadProject(m_folder.filePath("claim.tromb").toStdString());
    QVERIFY(project);
    QVERIFY(project->sources[0].colour == ColourTags({9, 18, 9, true}));
    QVERIFY(!project->sources[1].colour);
    QVERIFY(cli({"check", "@claim.tromb"}).err.find("HDR") != std::string::npos);
  }
  // What this machine can make: all of the table in software, since its FFmpeg is Debian's; graphics hardware is listed
  // behind it, and whether there is some is the machine's.
  void samplesAreTold() {
    const Said said = cli({"sample", "@p.tromb", "--deliverable", "Square", "--json"});
    QVERIFY2(said.code == 0, said.err.c_str());
    const Json told = Json::parse(said.out);
    QCOMPARE(told["rungs"].size(), size_t(5));
    QVERIFY(told["setting"] == told["rungs"][2]["setting"]);
    QVERIFY(told["rungs"][0]["fileBytes"] < told["rungs"][4]["fileBytes"]);
    QCOMPARE(
        Json::parse(cli({"sample", "@p.tromb", "--deliverable", "Square", "--alone", "--json"}).out)["rungs"].size(),
        size_t(1));
    QCOMPARE(cli({"sample", "@p.tromb", "--deliverable", "Nobody"}).code, 2);
  }
  void encodersAreListed() {
    const Said said = cli({"encoders", "--json"});
    QCOMPARE(said.code, 0);
    const Json list = Json::parse(said.out)["encoders"];
    QStringList codecs;
    QStringList hardware;
    for (const Json& each : list) {
      if (each["hardware"] == true) {
        hardware << QString::fromStdString(each["encoder"]);
        QVERIFY2(each["available"] == each["reason"].get<std::string>().empty(), each.dump().c_str());
        continue;
      }
      codecs << QString::fromStdString(each["codec"]);
      QVERIFY2(each["available"] == true, each.dump().c_str());
      QVERIFY2(!each["containers"].empty(), each.dump().c_str());
    }
    QCOMPARE(codecs, (QStringList{"h264", "hevc", "vp9", "av1", "ffv1", "vc3", "gif", "webp", "aac", "opus", "mp3",
                                  "flac", "pcm16", "pcm24"}));
    QCOMPARE(hardware, (QStringList{"h264_vaapi", "h264_nvenc", "h264_qsv", "hevc_vaapi", "hevc_nvenc", "hevc_qsv",
                                    "vp9_vaapi", "vp9_qsv"}));
    QVERIFY(list[1]["depths"] == Json({8, 10}));
    QVERIFY(list[0]["rateControls"] == Json({"vbr", "crf", "cbr"}));
    QVERIFY(list[1]["rateControls"] == Json({"vbr", "crf", "cbr"}));
    QVERIFY(list[0]["hardware"] == false);
  }
  void exportTellsItsProgressAndProof() {
    const Said said = cli({"export", "@p.tromb", "--out", "@out", "--progress", "json"});
    QVERIFY2(said.code == 0, said.err.c_str());
    std::istringstream lines(said.out);
    std::string line;
    int done = 0;
    while (std::getline(lines, line)) {
      const Json json = Json::parse(line);
      if (json["state"] != "done") {
        for (const char* key : {"deliverable", "frame", "frames", "fraction", "elapsedSeconds", "remainingSeconds"})
          QVERIFY2(json.contains(key), key);
        continue;
      }
      ++done;
      QVERIFY(json["proof"]["pass"] == true);
      QVERIFY(QFile::exists(QString::fromStdString(json["path"])));
    }
    QCOMPARE(done, 2);
    QCOMPARE(cli({"export", "@p.tromb", "--out", "@out"}).code, 4); // there already
    QCOMPARE(cli({"export", "@p.tromb", "--out", "@out", "--deliverable", "Story", "--overwrite", "--no-proof"}).code,
             0);
    QCOMPARE(cli({"proof", "@out/p Story.mp4", "--project", "@p.tromb", "--deliverable", "Story"}).code, 0);
    const Json proof = Json::parse(cli({"proof", "@out/p Square.mp4", "--json"}).out);
    QStringList codes;
    for (const Json& check : proof["checks"]) codes << QString::fromStdString(check["code"]);
    for (const char* code :
         {"canvas", "rate", "frames", "duration", "codec", "profile", "level", "pixel-format", "colour", "index-first",
          "peak-bit-rate", "average-bit-rate", "bars", "sound", "sound-length", "loudness"})
      QVERIFY2(codes.contains(QLatin1String(code)), code);
  }
  // A part alone, again and again: its own name, its own length, and the same picture as the whole has there.
  void aRegionIsExportedAlone() {
    auto project = *loadProject(m_folder.filePath("p.tromb").toStdString());
    project.regions = {{"r1", "Middle", Rational(2, 5), Rational(6, 5), {}}};
    QVERIFY(saveProject(project, m_folder.filePath("part.tromb").toStdString()).has_value());
    std::vector<std::string> arguments{"export", "@part.tromb",   "--region", "Middle",     "--out",
                                       "@parts", "--deliverable", "Story",    "--progress", "json"};
    QCOMPARE(cli(arguments).code, 0);
    QCOMPARE(cli(arguments).code, 4);
    arguments.push_back("--overwrite");
    const Said said = cli(arguments);
    QVERIFY2(said.code == 0, said.err.c_str());
    const std::string last = said.out.substr(said.out.rfind('\n', said.out.size() - 2) + 1);
    QVERIFY(Json::parse(last)["path"].get<std::string>().ends_with("p Middle Story.mp4"));
    const Said wrong = cli({"export", "@part.tromb", "--region", "End", "--out", "@parts"});
    QVERIFY(wrong.code == 2);
    QVERIFY(wrong.err.find("The project has Middle") != std::string::npos);
    const Json found = Json::parse(cli({"probe", "@parts/p Middle Story.mp4", "--json"}).out)[0];
    QVERIFY(found["video"]["frameCount"] == 20);
    QVERIFY(std::abs(found["durationSeconds"].get<double>() - 0.8) < 1e-9);
  }
  // What is measured: burned-in bars, real scan and loudness, in the contract's keys.
  void measuredFactsAreTold() {
    const Json object = Json::parse(cli({"probe", "@wide.mp4", "--measure", "--json"}).out)[0];
    QVERIFY(object["measured"]["scan"] == "progressive");
    QVERIFY(object["measured"]["bars"]["top"] == 0);
    const Json sound = Json::parse(cli({"probe", "@sound.wav", "--measure", "--json"}).out)[0];
    QVERIFY(sound["measured"]["loudness"].contains("integratedLufs"));
    QVERIFY(!sound["measured"].contains("bars"));
  }
  // From files to proofed deliverables in one go: split at cuts, framed by what is found, and left as a project.
  void deliverDoesAllInOneGo() {
    const std::string folder = m_folder.path().toStdString();
    std::vector<std::string> files;
    for (const test::DrawnScene& each : test::drawnScenes())
      if (const std::string name = each.name; name == "a cut from left to right" || name == "many things move")
        files.push_back(test::sceneFile(each, folder));
    const std::vector<std::string> rest{"--deliverable", "name=Tall;canvas=202x360;preset=ultrafast",
                                        "--out",         "@delivered",
                                        "--project",     "@delivered.tromb",
                                        "--json"};
    std::vector<std::string> words{"deliver", files[0], files[1]};
    words.insert(words.end(), rest.begin(), rest.end());
    const Said said = cli(words);
    QVERIFY2(said.code == 0 || said.code == 1, said.err.c_str()); // the drawn footage is softer than the canvas
    const Json all = Json::parse(said.out);
    QCOMPARE(all["shots"].size(), size_t(3));
    const auto course = [&](size_t shot) { return all["shots"][shot]["course"].get<std::string>(); };
    QCOMPARE(course(0), std::string("rests"));
    QCOMPARE(course(1), std::string("rests"));
    QCOMPARE(course(2), std::string("unsure"));
    QVERIFY(std::abs(all["shots"][0]["found"][0]["x"].get<double>() - 0.25) < 0.02);
    QVERIFY(std::abs(all["shots"][1]["found"][0]["x"].get<double>() - 0.74) < 0.02);
    QCOMPARE(all["shots"][0]["found"][0]["kind"].get<std::string>(), std::string("face"));
    QVERIFY(all["shots"][0]["fills"].is_array());
    QCOMPARE(all["files"].size(), size_t(1));
    QVERIFY(QFile::exists(QString::fromStdString(all["files"][0]["path"].get<std::string>())));
    QVERIFY(all["files"][0]["proof"].is_object());
    // What is there is not replaced unasked.
    QCOMPARE(cli(words).code, 4);
    // The project is there for correcting; what somebody places in it is not looked for again.
    const Said again = cli({"frame-subjects", "@delivered.tromb", "--json"});
    QCOMPARE(again.code, 1); // one is in doubt
    QCOMPARE(cli({"frame-subjects", "@delivered.tromb", "--unsure-ok"}).code, 0);
    QCOMPARE(Json::parse(again.out)["shots"].size(), size_t(3));
    // Where a plain fill is soft, what loses less is told with its reasons.
    QCOMPARE(cli({"make", "@soft.tromb", "--footage", files[0], "--deliverable", "name=Story;canvas=1080x1920"}).code,
             0);
    const Json soft = Json::parse(cli({"frame-subjects", "@soft.tromb", "--json"}).out)["shots"][0]["fills"];
    QCOMPARE(soft.size(), size_t(1));
    QCOMPARE(soft[0]["ways"][0]["way"].get<std::string>(), std::string("backdrop"));
    QVERIFY(soft[0]["ways"][0]["loss"] < soft[0]["ways"][1]["loss"]);
    QVERIFY(!soft[0]["ways"][0]["givesUp"].empty());
    QFile file(m_folder.filePath("delivered.tromb"));
    QVERIFY(file.open(QIODevice::ReadWrite));
    Json project = Json::parse(file.readAll().toStdString());
    for (Json& subject : project["shots"][0]["subjects"]) subject.erase("guess");
    file.resize(0);
    file.write(QByteArray::fromStdString(project.dump()));
    file.close();
    QCOMPARE(Json::parse(cli({"frame-subjects", "@delivered.tromb", "--json"}).out)["shots"].size(), size_t(2));
    QCOMPARE(cli({"deliver", "@text.mp4", "--template", "x", "--out", "@no"}).code, 3);
    QCOMPARE(cli({"deliver", "@wide.mp4", "--out", "@no"}).code, 2);
  }
  void frameWritesThePicture() {
    QCOMPARE(cli({"frame", "@p.tromb", "--deliverable", "Story", "--number", "3", "--out", "@a.png"}).code, 0);
    QCOMPARE(cli({"frame", "@p.tromb", "--deliverable", "Story", "--at", "00:00:00:03", "--out", "@b.png"}).code, 0);
    QFile a(m_folder.filePath("a.png"));
    QFile b(m_folder.filePath("b.png"));
    QVERIFY(a.open(QIODevice::ReadOnly));
    QVERIFY(b.open(QIODevice::ReadOnly));
    const QByteArray bytes = a.readAll();
    QCOMPARE(bytes, b.readAll());
    QCOMPARE(bytes.mid(16, 8).toHex(), QByteArray("000000ca00000168")); // IHDR: 202 × 360
  }
};

QTEST_GUILESS_MAIN(TestCli)
#include "tst_cli.moc"
