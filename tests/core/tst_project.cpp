// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "io/AtomicFile.h"
#include "project/FileName.h"
#include "project/Footage.h"
#include "project/ProjectFile.h"
#include "project/Sharing.h"
#include "support/TestMedia.h"
#include "support/Thoroughness.h"

#include <QDir>
#include <QFile>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>
#include <random>

using namespace tromb;

class TestProject : public QObject {
  Q_OBJECT

  static Project sample(const std::string& folder) {
    Project p;
    p.name = "Sample";
    p.groups = {{"g1", "Card", "", {}}, {"g2", "Morning", "g1", {}}};
    p.sources.resize(2);
    p.sources[0] = {"s1",
                    folder + "/footage/a.mp4",
                    "A clip",
                    "g2",
                    "1234-ab",
                    {0, 140, 0, 138},
                    FactBy::Measure,
                    Scan::BottomFieldFirst,
                    FactBy::Hand,
                    kHlg,
                    {1, 2},
                    FactBy::Hand,
                    {90, true, -2.5},
                    Repeats{5, 0b00101},
                    true,
                    {}};
    p.sources[1].id = "s2";
    p.sources[1].path = "/elsewhere/far/away/b.mov";
    p.shots = {{"h1",
                "s1",
                "First \"quoted\" – ünï",
                Rational(1001, 24000),
                Rational(5),
                {Rational(1, 2), true, Rational(3), {{Rational(1, 4), Rational(3), SpeedEase::Even}}},
                true,
                Treatment::Interpolated,
                -4.5,
                true,
                {{{{Rational(0), 0.25, 0.5, 1, Ease::Smooth, {}}, {Rational(3, 2), 0.75, 0.5, 1, Ease::Hold, {}}},
                  0.5,
                  0.25,
                  0.75,
                  {}}},
                {}},
               {"h2", "s2", "", Rational(0), Rational(7, 3), {}, false, {}, 0, false, {}, {}}};
    p.regions = {{"r1", "Opening", Rational(1, 25), Rational(4), {}}};
    p.beds = {{"b1", "s2", Rational(2), Rational(1), Rational(9, 2), -6, Rational(1, 2), Rational(1), true, {}}};
    Element words;
    words.id = "e1";
    words.shot = "h1";
    words.text = "Fennick\nVale";
    words.fadeIn = Rational(1, 4);
    words.look.family = "Some Font";
    words.look.box = 0.5;
    words.look.boxColour = {1, 2, 3};
    words.look.align = TextAlign::End;
    words.place = {Anchor::TopRight, -2.5, 3, 8, false};
    words.own["d1"] = {{Anchor::Left, 0, 0, 9, true}, "Fennick Vale"};
    Element mark;
    mark.id = "e2";
    mark.kind = ElementKind::Picture;
    mark.source = "s2";
    mark.overButtons = true;
    p.elements = {words, mark};
    p.output = {"{deliverable} {size}", -16, -2, {}};
    Deliverable d;
    d.id = "d1";
    d.name = "Story";
    d.canvas = {1080, 1920};
    d.sharpOnly = true;
    d.treatment = Treatment::Mixed;
    d.rate = FrameRate(Rational(30000, 1001));
    d.destination = "vertical-story";
    d.encoding.level = "4.1";
    d.format = {10, Chroma::C420, kHlg};
    Encoding& e = d.encoding;
    e.codec = Codec::Hevc;
    e.container = Container::Mkv;
    e.rateControl = RateControl::Variable;
    e.passes = 2;
    e.crf = 17.5;
    e.bitRate = 7'000'000;
    e.maxBitRate = 9'000'000;
    e.bufferBits = 4'000'000;
    e.profile = "main10";
    e.highTier = true;
    e.speed = "slow";
    e.hardware = true;
    e.copies = true;
    e.tune = "grain";
    e.keySeconds = Rational(1001, 1000);
    e.openGroups = true;
    e.keysAtCuts = false;
    e.bPictures = 3;
    e.references = 2;
    e.entropy = Entropy::Cavlc;
    e.chapters = Chapters::Regions;
    e.title = "A title";
    e.comment = "A comment";
    e.language = "eng";
    d.loudness = OwnLoudness{-19.5};
    d.pixelAspect = Rational(16, 11);
    e.sound = {SoundCodec::Flac, 96'000, SoundContent::Music, 6, 44'100, SoundPlace::Beside, {}};
    (void)framingByName("stack2", d.framings["h1"]);
    d.framings["h1"].windows[1].zoom = 1.25;
    (void)framingByName("backdrop", d.framings["h2"]);
    d.framings["h2"].ground = Ground::Still;
    d.framings["h2"].still = "s2";
    Deliverable high = d;
    high.id = "d2";
    high.name = "Story high";
    high.sharesWith = "d1";
    high.encoding.bitRate = 20'000'000;
    p.deliverables = {d, high};
    p.checks.severities = {{"soft", Severity::Ignored}, {"bars", Severity::Error}, {"from-later", Severity::Note}};
    p.checks.accepted = {{"soft", "d1", "h1", "s1", "detail 0.50", "it is meant so", {}},
                         {"disk-space", {}, {}, {}, "", "", {}}};
    return p;
  }

private slots:
  void whatIsWrittenIsRead() {
    const Project before = sample("/work/job");
    const auto after = fromText(toText(before, "/work/job"), "/work/job");
    QVERIFY2(after.has_value(), after ? "" : sentence(after.error()).c_str());
    QVERIFY(*after == before);
    // Near footage is kept relative, so that the folder can be moved as a whole.
    const std::string text = toText(before, "/work/job");
    QVERIFY(text.find("\"footage/a.mp4\"") != std::string::npos);
    QVERIFY(text.find("\"/elsewhere/far/away/b.mov\"") != std::string::npos);
    QCOMPARE(fromText(text, "/moved")->sources[0].path, std::string("/moved/footage/a.mp4"));
  }
  void unknownKeysSurvive() {
    auto json = nlohmann::ordered_json::parse(toText(sample("/j"), "/j"));
    const char* const kPlaces[] = {"",
                                   "/groups/1",
                                   "/sources/0",
                                   "/shots/1",
                                   "/regions/0",
                                   "/beds/0",
                                   "/deliverables/0",
                                   "/deliverables/0/encoding",
                                   "/deliverables/0/framings/h1",
                                   "/deliverables/0/framings/h1/windows/1",
                                   "/checks",
                                   "/checks/accepted/1"};
    for (const char* place : kPlaces)
      json[nlohmann::ordered_json::json_pointer(place)]["fromLater"] = {{"kept", {1, 2, 3}}};
    const auto project = fromText(json.dump(), "/j");
    QVERIFY(project.has_value());
    const auto again = nlohmann::ordered_json::parse(toText(*project, "/j"));
    for (const char* place : kPlaces)
      QVERIFY2(again[nlohmann::ordered_json::json_pointer(place)]["fromLater"] ==
                   json[nlohmann::ordered_json::json_pointer(place)]["fromLater"],
               place);
  }

  // An acceptance of something that is gone could never be used: it is dropped, and the others stay.
  void acceptancesOfNothingAreDropped() {
    Project p = sample("/j");
    p.checks.accepted[0].shot = "h9";
    const auto read = fromText(toText(p, "/j"), "/j");
    QVERIFY(read.has_value());
    QCOMPARE(read->checks.accepted.size(), size_t(1));
    QCOMPARE(read->checks.accepted[0].code, std::string("disk-space"));
  }

  // Every fault is refused with its place; none is guessed round.
  void badProjectsAreRefused_data() {
    QTest::addColumn<QString>("pointer");
    QTest::addColumn<QString>("value");
    QTest::addColumn<QString>("where");
    const struct {
      const char* pointer;
      const char* value;
      const char* where;
    } rows[] = {{"/format", "\"other\"", "/"},
                {"/version", "\"1\"", "/version"},
                {"/version", "0", "/version"},
                {"/sources", "{}", "/sources"},
                {"/sources/0/path", "7", "/sources/0/path"},
                {"/sources/0/path", "\"\"", "/sources/0/path"},
                {"/sources/1/id", "\"s1\"", "/sources/1/id"},
                {"/sources/0/bars/top", "-1", "/sources/0/bars/top"},
                {"/shots/0/source", "\"nobody\"", "/shots/0/source"},
                {"/shots/0/in", "0.5", "/shots/0/in"},
                {"/shots/0/in", "\"1/0\"", "/shots/0/in"},
                {"/shots/0/out", "\"0/1\"", "/shots/0/out"},
                {"/shots/0/out", "\"999999999/1\"", "/shots/0/out"},
                {"/shots/0/speed", "\"0/1\"", "/shots/0/speed"},
                {"/shots/0/levelDb", "40", "/shots/0/levelDb"},
                {"/shots/0/muted", "1", "/shots/0/muted"},
                {"/groups/0/parent", "\"g2\"", "/groups"}, // lies in itself
                {"/groups/1/parent", "\"g9\"", "/groups"},
                {"/sources/0/group", "\"g9\"", "/sources/0/group"},
                {"/sources/0/barsBy", "\"chance\"", "/sources/0/barsBy"},
                {"/shots/0/subjects/0/move", "[]", "/shots/0/subjects/0/move"},
                {"/shots/0/subjects/0/move/1/time", "\"0/1\"", "/shots/0/subjects/0/move/1/time"},
                {"/shots/0/subjects/0/move/1/ease", "\"bouncing\"", "/shots/0/subjects/0/move/1/ease"},
                {"/sources/0/scan", "\"sideways\"", "/sources/0/scan"},
                {"/sources/0/repeats", "{\"cycle\":1,\"fresh\":[0]}", "/sources/0/repeats/cycle"},
                {"/sources/0/repeats", "{\"cycle\":5,\"fresh\":[]}", "/sources/0/repeats"},
                {"/sources/0/repeats", "{\"cycle\":2,\"fresh\":[0,1]}", "/sources/0/repeats"},
                {"/sources/0/repeats", "{\"cycle\":5,\"fresh\":[5]}", "/sources/0/repeats/fresh/0"},
                {"/output/naming", "\"{project} {size}\"", "/output/naming"},
                {"/output/loudnessLufs", "3", "/output/loudnessLufs"},
                {"/checks/severities/soft", "\"grave\"", "/checks/severities/soft"},
                {"/checks/accepted/0/word", "null", "/checks/accepted/0/word"},
                {"/regions/0/out", "\"1/25\"", "/regions/0/out"},
                {"/regions/0/name", "\"\"", "/regions/0/name"},
                {"/beds/0/source", "\"s9\"", "/beds/0/source"},
                {"/beds/0/levelDb", "-90", "/beds/0/levelDb"},
                {"/beds/0/duck", "\"yes\"", "/beds/0/duck"},
                {"/deliverables/0/name", "\"\"", "/deliverables/0/name"},
                {"/deliverables/0/canvas/width", "1e9", "/deliverables/0/canvas/width"},
                {"/deliverables/0/canvas/height", "\"1080\"", "/deliverables/0/canvas/height"},
                {"/deliverables/0/rate", "\"5000/1\"", "/deliverables/0/rate"},
                {"/deliverables/1/sharesWith", "\"d9\"", "/deliverables/1/sharesWith"},
                {"/deliverables/1/sharesWith", "\"d2\"", "/deliverables/1/sharesWith"}, // with itself
                {"/deliverables/0/sharesWith", "\"d2\"", "/deliverables/0/sharesWith"}, // and d2 with it
                {"/deliverables/0/encoding/codec", "\"other\"", "/deliverables/0/encoding/codec"},
                {"/deliverables/0/encoding/level", "\"9\"", "/deliverables/0/encoding/level"},
                {"/deliverables/0/encoding/crf", "null", "/deliverables/0/encoding/crf"},
                {"/deliverables/0/framings/h1/layout", "\"heap\"", "/deliverables/0/framings/h1/layout"},
                {"/deliverables/0/framings/h2/still", "\"s9\"", "/deliverables/0/framings/h2/still"},
                {"/deliverables/0/framings/h1/ground", "\"still\"", "/deliverables/0/framings/h1/ground"},
                {"/deliverables/0/framings/h1/windows", "[]", "/deliverables/0/framings/h1/windows"},
                {"/deliverables/0/framings/h1/windows/0/x", "1.5", "/deliverables/0/framings/h1/windows/0/x"},
                {"/deliverables/0/framings/h1/windows/0/zoom", "0.5", "/deliverables/0/framings/h1/windows/0/zoom"}};
    for (const auto& r : rows) QTest::addRow("%s = %s", r.pointer, r.value) << r.pointer << r.value << r.where;
  }
  void badProjectsAreRefused() {
    QFETCH(QString, pointer);
    QFETCH(QString, value);
    QFETCH(QString, where);
    auto json = nlohmann::ordered_json::parse(toText(sample("/j"), "/j"));
    json[nlohmann::ordered_json::json_pointer(pointer.toStdString())] =
        nlohmann::ordered_json::parse(value.toStdString());
    const auto project = fromText(json.dump(), "/j", "job.tromb");
    QVERIFY(!project);
    QCOMPARE(project.error().code, ErrorCode::ProjectInvalid);
    QCOMPARE(QString::fromStdString(project.error().where.text()), where);
    QVERIFY(sentence(project.error()).starts_with("job.tromb: "));
    QVERIFY(!project.error().hint.empty());
  }
  // Nothing in a file can do harm: it is refused with the byte where it breaks.
  void harmfulFilesAreRefused_data() {
    QTest::addColumn<QByteArray>("text");
    const QByteArray whole = QByteArray::fromStdString(toText(sample("/j"), "/j"));
    QTest::newRow("lists in each other without end") << QByteArray(200'000, '[');
    QTest::newRow("objects in each other") << QByteArray("{\"a\":").repeated(100'000);
    QTest::newRow("deep inside, unknown") << QByteArray(whole).replace(
        "\"format\"", "\"more\": " + QByteArray(500, '[') + QByteArray(500, ']') + ", \"format\"");
    QTest::newRow("a number that no machine holds") << QByteArray(whole).replace("\"crf\": 17.5", "\"crf\": 1e999");
    QTest::newRow("cut off") << whole.left(whole.size() / 2);
  }
  void harmfulFilesAreRefused() {
    QFETCH(QByteArray, text);
    const auto project = fromText(text.toStdString(), "/j", "job.tromb");
    QVERIFY(!project);
    QCOMPARE(project.error().code, ErrorCode::ProjectInvalid);
    QVERIFY(project.error().where.text().starts_with("byte "));
  }
  // What can be held in memory can be saved and read.
  void limitsAreTheSameBothWays() {
    Project p = sample("/j");
    p.shots.resize(1);
    for (int i = 2; i <= 10'002; ++i) {
      Shot shot = p.shots.front();
      shot.id = "h" + std::to_string(i);
      p.shots.push_back(shot);
    }
    p.shots[1].in = Rational(2'000'000) + Rational(1, 30);
    p.shots[1].out = Rational(2'000'009) + Rational(1, kTicksASecond);
    p.shots[2].pace.speed = Rational(999'983, 1'000'000);
    for (Shot& shot : p.shots) bringOnTicks(shot);
    p.deliverables.front().name = QStringLiteral("ຟິລ໌ມຍາວ").repeated(10).toStdString(); // 80 letters, 240 bytes
    p.deliverables.front().rate = FrameRate(Rational(9'999'999, 10'001));
    p.sources.front().path = "/j/b\xe4r.mp4"; // a name in an older encoding
    for (Deliverable& d : p.deliverables) std::erase_if(d.framings, [](const auto& f) { return f.first != "h1"; });
    takeShared(p.deliverables[1], p.deliverables[0]);
    const auto again = fromText(toText(p, "/j"), "/j");
    QVERIFY2(again.has_value(), again ? "" : sentence(again.error()).c_str());
    QVERIFY(*again == p);
  }
  // Far more of everything than anybody has: were each looked for among the others, these would go on for an hour.
  void largeProjectsAreReadAndWritten() {
    Project p = sample("/j");
    const Shot shot = p.shots.front();
    const Group group = p.groups.empty() ? Group{"g1", "Day", {}, {}} : p.groups.front();
    const int many = test::kSanitized ? 3'000 : 30'000;
    p.shots.resize(1);
    for (Deliverable& d : p.deliverables) std::erase_if(d.framings, [](const auto& f) { return f.first != "h1"; });
    for (int i = 2; i <= many; ++i) {
      p.shots.push_back(shot);
      p.shots.back().id = "h" + std::to_string(i);
      p.deliverables.front().framings[p.shots.back().id] = Framing();
      p.groups.push_back({"in" + std::to_string(i), "Day", i == 2 ? group.id : "in" + std::to_string(i - 1), {}});
    }
    takeShared(p.deliverables[1], p.deliverables[0]);
    if (p.groups.front().id != group.id) p.groups.insert(p.groups.begin(), group);
    std::string more = "{";
    for (int i = 0; i < 10 * many; ++i) more += "\"k" + std::to_string(i) + "\":0,";
    p.unknown = more + "\"last\":[1,2,{}]}";
    const auto again = fromText(toText(p, "/j"), "/j");
    QVERIFY2(again.has_value(), again ? "" : sentence(again.error()).c_str());
    QVERIFY(*again == p);
  }
  void ofAMemberThatIsSaidTwiceTheLastHolds() {
    const QByteArray text = QByteArray::fromStdString(toText(sample("/j"), "/j"));
    QByteArray many = "{";
    for (int i = 0; i < 50; ++i) many += "\"k" + QByteArray::number(i) + "\":0,";
    const auto few = fromText(QByteArray(text).replace("\"name\"", "\"name\":\"first\",\"name\"").toStdString(), "/j");
    QVERIFY2(few, "a few members");
    const auto project = fromText(QByteArray(text).replace(0, 1, many + "\"k3\":7,").toStdString(), "/j");
    QVERIFY2(project, "many members");
    QVERIFY(project->unknown.find("\"k3\":7") != std::string::npos);
    QVERIFY(project->unknown.find("\"k3\":0") == std::string::npos);
  }
  // A file of format 1, as that version wrote it, means what it meant, and is written as one of today.
  void formatOneIsRead() {
    const auto project = loadProject(TROMB_SOURCE_DIR "/tests/core/format-1.tromb");
    QVERIFY2(project.has_value(), project ? "" : sentence(project.error()).c_str());
    QCOMPARE(project->deliverables.size(), size_t(5));
    const struct {
      const char* name;
      int64_t bitRate, peak;
      const char* level;
    } rows[] = {{"Wide film", 8'000'000, 12'000'000, "4"},
                {"Story", 8'000'000, 12'000'000, "4"},
                {"Tall post", 6'000'000, 9'000'000, "4"},
                {"Square", 5'000'000, 7'500'000, "3.2"},
                {"Header", 12'000'000, 18'000'000, "5"}};
    for (const auto& row : rows) {
      const Deliverable* d = project->deliverableNamed(row.name);
      QVERIFY2(d, row.name);
      QVERIFY2(d->format == CanvasFormat(), row.name);
      const Encoding e = resolvedEncoding(*d);
      QVERIFY2(e.codec == Codec::H264, row.name);
      QVERIFY2(e.container == Container::Mp4, row.name);
      QVERIFY2(e.rateControl == RateControl::Variable, row.name);
      QCOMPARE(e.bitRate, row.bitRate);
      QCOMPARE(e.maxBitRate, row.peak);
      QCOMPARE(e.bufferBits, row.peak); // of one second
      QCOMPARE(e.level, std::string(row.level));
      QCOMPARE(e.profile, std::string("high"));
      QCOMPARE(e.speed, std::string("veryfast"));
      QCOMPARE(e.keySeconds, Rational(2));
      QVERIFY2(e.sound.codec == SoundCodec::Aac, row.name);
      QCOMPARE(e.sound.bitRate, int64_t(192'000));
      QVERIFY2(e.unknown.empty(), e.unknown.c_str());
    }
    const std::string now = toText(*project, "/j");
    QVERIFY(now.find("\"version\": " + std::to_string(kProjectVersion)) != std::string::npos);
    QVERIFY(now.find("audioBitRate") == std::string::npos);
    QVERIFY(fromText(now, "/j")->deliverables == project->deliverables);
  }
  void otherFilesAreRefused() {
    for (const char* text : {"", "{", "[]", "null", "plain text", "{\"format\":\"tromb-project\"}", "\xff\xfe\x00"})
      QVERIFY2(!fromText(text, "/"), text);
    const std::string deep(100'000, '[');
    QVERIFY(!fromText(deep, "/"));
    auto json = nlohmann::ordered_json::parse(toText(sample("/j"), "/j"));
    json["version"] = kProjectVersion + 1;
    QCOMPARE(fromText(json.dump(), "/").error().code, ErrorCode::ProjectTooNew);
    QCOMPARE(loadProject("/nowhere/at/all.tromb").error().code, ErrorCode::Missing);
    QCOMPARE(loadProject("/tmp").error().code, ErrorCode::Unreadable);
  }

  // A property over chance: whatever a file is changed to, it is read whole or refused with a reason; never half, never
  // a crash; and what is read can be written and read again, the same.
  void spoiledFilesAreReadWholeOrRefused() {
    const std::string text = toText(sample("/j"), "/j");
    std::mt19937 dice(29);
    int read = 0;
    int refused = 0;
    for (int round = 0; round < 3000; ++round) {
      std::string spoiled = text;
      const int changes = 1 + int(dice() % 3);
      for (int i = 0; i < changes; ++i) {
        const size_t at = dice() % spoiled.size();
        switch (dice() % 5) {
        case 0:
          spoiled[at] = char(dice() % 256);
          break;
        case 1:
          spoiled.erase(at, dice() % 40);
          break;
        case 2:
          spoiled.insert(at, spoiled.substr(dice() % spoiled.size(), dice() % 60));
          break;
        case 3: { // a number becomes another
          const size_t digit = spoiled.find_first_of("0123456789", at);
          if (digit != std::string::npos)
            spoiled.replace(digit, 1, std::to_string(int64_t(dice()) * (dice() % 2 ? 1 : -1000)));
          break;
        }
        default:
          spoiled.resize(at);
        }
        if (spoiled.empty()) break;
      }
      const auto project = fromText(spoiled, "/j", "spoiled.tromb");
      if (!project) {
        ++refused;
        QVERIFY(project.error().code == ErrorCode::ProjectInvalid || project.error().code == ErrorCode::ProjectTooNew);
        QVERIFY(!project.error().message.empty());
        QVERIFY(!project.error().hint.empty());
        continue;
      }
      ++read;
      const auto again = fromText(toText(*project, "/j"), "/j");
      QVERIFY2(again, spoiled.c_str());
      QVERIFY2(*again == *project, spoiled.c_str());
    }
    QVERIFY2(read > 50, qPrintable(QStringLiteral("%1 read, %2 refused").arg(read).arg(refused)));
    QVERIFY2(refused > 100, qPrintable(QStringLiteral("%1 read, %2 refused").arg(read).arg(refused)));
  }

  void filesKeepToThePublishedSchema() {
    QTemporaryDir folder;
    const std::string path = folder.filePath(QStringLiteral("p.tromb")).toStdString();
    QVERIFY(saveProject(sample(folder.path().toStdString()), path).has_value());
    const QString check = QStringLiteral(
        "import json,sys,jsonschema;s=json.load(open(sys.argv[1]));jsonschema.Draft202012Validator.check_schema(s);"
        "jsonschema.validate(json.load(open(sys.argv[2])),s);print('valid')");
    const QString schema = QStringLiteral(TROMB_SOURCE_DIR "/data/project.schema.json");
    const auto validated = [&] {
      return test::run(QStringLiteral("/usr/bin/python3"),
                       {QStringLiteral("-c"), check, schema, QString::fromStdString(path)}, true);
    };
    QVERIFY2(validated().contains(QLatin1String("valid\n")), qPrintable(validated()));
    Project wrong = sample(folder.path().toStdString());
    wrong.deliverables[0].framings["h1"].windows[0].zoom = 0.2;
    QVERIFY(saveProject(wrong, path).has_value());
    QVERIFY(validated().contains(QLatin1String("ValidationError")));
  }

  void aFailedSaveLeavesTheOldFile() {
    QTemporaryDir folder;
    const std::string path = folder.filePath(QStringLiteral("p.tromb")).toStdString();
    QVERIFY(writeFileAtomically(path, "old").has_value());
    QVERIFY(writeFileAtomically(path, "new").has_value());
    QCOMPARE(*readWholeFile(path), std::string("new"));
    QCOMPARE(QDir(folder.path()).entryList(QDir::Files).size(), 1); // no temporary file is left
    const auto gone = writeFileAtomically(folder.path().toStdString() + "/no/such/folder/p.tromb", "x");
    QCOMPARE(gone.error().code, ErrorCode::CannotWrite);
    // A full disk: every write to this device fails with ENOSPC; here the folder of it cannot take a file at all.
    QCOMPARE(writeFileAtomically("/proc/p.tromb", "x").error().code, ErrorCode::CannotWrite);
    QCOMPARE(*readWholeFile(path), std::string("new"));
  }

  void newDeliverablesTakeWhatTheFootageSays() {
    MediaInfo media;
    media.video.emplace();
    media.video->stored = {1920, 1080};
    media.video->clock = FrameClock(FrameRate(Rational(50)), 100);
    Project project;
    const Deliverable same = newDeliverable(project, "", &media);
    QVERIFY(same.canvas == (Size{1920, 1080}));
    QVERIFY(same.rate.value() == Rational(50));
    const Deliverable story = newDeliverable(project, "vertical-story", &media);
    QVERIFY(story.canvas == (Size{1080, 1920}));
    QVERIFY(story.rate.value() == Rational(25)); // 50 halves evenly under 30
    project.deliverables.push_back(story);
    QCOMPARE(newDeliverable(project, "vertical-story", &media).name, std::string("Vertical story 2"));
    QCOMPARE(newDeliverable(project, "vertical-story", &media).id, std::string("d2"));
    media.path = "/x/my_fine-clip.mp4";
    media.duration = Rational(2);
    Source source = newSource(project, media);
    QCOMPARE(newShot(project, source, media).name, std::string("My fine clip"));
    // Slow motion material: 50 frames a second, each shown once at the first deliverable's 25.
    source.slowMotion = true;
    QCOMPARE(newShot(project, source, media).pace.speed, Rational(1, 2));
  }
  // Companions stay sharp: the usual canvases where they do, else the largest that does; 50 halves for feeds.
  void suggestionsStaySharp() {
    for (const Size size : {Size{3840, 2160}, Size{1920, 1080}, Size{1280, 720}}) {
      MediaInfo media;
      media.path = "/a.mp4";
      media.video.emplace();
      media.video->stored = size;
      media.video->clock = FrameClock(FrameRate(Rational(50)), 100);
      const auto offers = offersFor({}, media, {});
      QCOMPARE(offers.size(), size_t(4));
      QVERIFY(offers[0].sizes[0].canvas == size);
      QVERIFY(offers[0].sizes[0].rate.value() == Rational(50));
      QVERIFY2(offers[1].sizes[0].canvas == (Size{1080, 1920}), "the usual size comes first");
      QCOMPARE(offers[1].sizes.size(), size.height == 2160 ? size_t(1) : size_t(2));
      for (const Offer& offer : offers) {
        for (const Deliverable& d : offer.sizes) QVERIFY(isLegalSize(d.canvas));
        const Deliverable& last = offer.sizes.back();
        QVERIFY2(detail(media.video->shape(), place(media.video->shape(), last.canvas, Framing{})) >= 1,
                 "and is sharp, or the other is");
        QVERIFY(offer.details.size() == offer.sizes.size());
      }
      QVERIFY(offers[1].sizes[0].rate.value() == Rational(25));
    }
    // A mean of uneven frames is no rate to deliver at: the usual one nearest to it.
    MediaInfo uneven;
    uneven.path = "/a.mp4";
    uneven.video.emplace();
    uneven.video->stored = {1920, 1080};
    uneven.video->clock = FrameClock({0, 3, 7, 10}, Rational(1, 100), FrameRate(Rational(95'763'200, 3'195'679)));
    QCOMPARE(newDeliverable({}, {}, &uneven).rate.name(), std::string("29.97"));
  }

  void filesAreNamedByTheirPattern_data() {
    QTest::addColumn<QString>("pattern");
    QTest::addColumn<QString>("region");
    QTest::addColumn<QString>("name"); // empty: refused
    QTest::newRow("usual") << ""
                           << ""
                           << "Open day Story";
    QTest::newRow("usual, of a region") << ""
                                        << "Gate"
                                        << "Open day Gate Story";
    QTest::newRow("all words") << "{deliverable}_{size}_{rate}_{region}"
                               << "Gate"
                               << "Story_1080x1920_29.97_Gate";
    QTest::newRow("a region is never lost") << "final {deliverable}"
                                            << "Gate"
                                            << "final Story Gate";
    QTest::newRow("nothing leaves a gap") << "{region}  {deliverable} {region}"
                                          << ""
                                          << "Story";
    QTest::newRow("what files cannot have") << "..\\{deliverable}: a*b"
                                            << ""
                                            << "-.-Story- a-b";
    QTest::newRow("folders") << "{project}/{deliverable}/{size}"
                             << ""
                             << "Open day/Story/1080x1920";
    QTest::newRow("a folder that has no name is none") << "/{region}//{deliverable}"
                                                       << ""
                                                       << "Story";
    QTest::newRow("no way out") << "../../{deliverable}/.."
                                << ""
                                << "-/-/Story/-";
    QTest::newRow("dots and blanks at an end") << "a. . /{deliverable} ..."
                                               << ""
                                               << "a/Story";
    QTest::newRow("names that other systems keep") << "con/{deliverable}/LPT1.x"
                                                   << ""
                                                   << "-con/Story/-LPT1.x";
    QTest::newRow("and those they do not") << "console/{deliverable}/com10"
                                           << ""
                                           << "console/Story/com10";
    QTest::newRow("no deliverable") << "{project}"
                                    << ""
                                    << "";
    QTest::newRow("unknown word") << "{deliverable} {weather}"
                                  << ""
                                  << "";
    QTest::newRow("open") << "{deliverable} {size"
                          << ""
                          << "";
  }
  void filesAreNamedByTheirPattern() {
    QFETCH(QString, pattern);
    QFETCH(QString, region);
    QFETCH(QString, name);
    Deliverable d;
    d.name = "Story";
    d.canvas = {1080, 1920};
    d.rate = FrameRate(Rational(30000, 1001));
    QCOMPARE(namingFault(pattern.toStdString()).empty(), !name.isEmpty());
    if (name.isEmpty()) return;
    const std::string found = fileName(pattern.toStdString(), {"Open day", region.toStdString(), &d});
    QCOMPARE(QString::fromStdString(found), name);
    d.name = QString(300, QChar(0xE9)).toStdString();
    QVERIFY(fileName({}, {"", "", &d}).size() == 220); // two bytes each, cut between them
  }
};

QTEST_GUILESS_MAIN(TestProject)
#include "tst_project.moc"
