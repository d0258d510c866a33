// SPDX-License-Identifier: GPL-3.0-or-later
// Destinations: those that come with the program, files of people's own, and what is wrong with some of them.
#include "destination/Destination.h"
#include "destination/DestinationStore.h"
#include "destination/NewDeliverable.h"
#include "encoding/Level.h"
#include "geometry/LegalSize.h"
#include "preflight/Limits.h"
#include "project/Choices.h"
#include "support/TestProject.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>
#include <set>

using namespace tromb;
using Json = nlohmann::ordered_json;

class TestDestination : public QObject {
  Q_OBJECT

  static QString readFile(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
  }
  static void writeFile(const QString& path, const QByteArray& text) {
    QDir().mkpath(QFileInfo(path).path());
    QFile file(path);
    QVERIFY(file.open(QIODevice::WriteOnly));
    QVERIFY(file.write(text) == text.size());
  }
  /// A good one, to be spoiled.
  static Json good() {
    return Json::parse(R"({"format":"tromb-destination","version":1,"id":"own-evening","name":"Evening show",
      "canvases":[{"width":1080,"height":1920},{"width":720,"height":1280}],"otherCanvases":false,
      "rates":{"most":"30/1"},"length":{"least":"1/1","most":"60/1"},"bytes":16000000,"codecs":["h264"],
      "containers":["mp4"],"sound":{"codecs":["aac"],"channels":[2],"sampleRates":[48000]},
      "because":{"canvases":{"sure":"house","why":"asked for"},"rates":{"sure":"house","why":""},
      "length":{"sure":"house","why":""},"bytes":{"sure":"guess","why":""},"codecs":{"sure":"house","why":""},
      "containers":{"sure":"house","why":""},"sound":{"sure":"house","why":""}},"house":{"floor":3}})");
  }

private slots:
  void cleanup() { useOwnDestinations({}); }

  // Each of those that come with the program can be followed: what it recommends is legal, holds its own limits, and
  // has a level that carries it.
  void shippedOnesCanBeFollowed_data() {
    QTest::addColumn<QString>("id");
    for (const Destination& d : destinationData()->destinations)
      QTest::newRow(d.id.c_str()) << QString::fromStdString(d.id);
  }
  void shippedOnesCanBeFollowed() {
    QFETCH(QString, id);
    const auto to = destination(id.toStdString());
    for (const Size canvas : to->canvases) QVERIFY2(isLegalSize(canvas), "its canvases are legal");
    Deliverable d = newDeliverable({}, to->id, nullptr);
    QVERIFY2(to->takes(d.canvas), "it takes its own canvas");
    QVERIFY2(to->takes(d.rate), "it takes the rate");
    const Encoding e = resolvedEncoding(d);
    const Status made = encodable(e, pictureOf(d));
    QVERIFY2(made, made ? "" : sentence(made.error()).c_str());
    QVERIFY2(levelCarries(e, pictureOf(d)), "a level carries it");
    QVERIFY2(std::find(to->codecs.begin(), to->codecs.end(), e.codec) != to->codecs.end(), "its codec is taken");
    for (const auto& [key, because] : to->because) QVERIFY2(!because.why.empty(), key.c_str());
  }

  void allAreThere() {
    const auto data = destinationData();
    QVERIFY2(data->faults.empty(), data->faults.empty() ? "" : sentence(data->faults.front()).c_str());
    QVERIFY2(data->destinations.size() >= 24, "a good two dozen");
    for (const ProjectTemplate& t : data->templates)
      for (const std::string& id : t.destinations) QVERIFY2(data->find(id), id.c_str());
    QVERIFY(data->destinations.front().id == "vertical-story"); // in the order that the program gives
  }

  // The published schema takes every file, and what is written; it is not our own reader that says so.
  void theSchemaHolds() {
    QTemporaryDir folder;
    writeFile(folder.filePath("written.json"),
              QByteArray::fromStdString(destinationText(*parseDestination(good().dump()))));
    const QString check = QStringLiteral(
        "import "
        "json,sys,jsonschema,glob;s=json.load(open(sys.argv[1]));jsonschema.Draft202012Validator.check_schema(s);"
        "f=sorted(glob.glob(sys.argv[2]+'/*.json'))+[sys.argv[3]];"
        "[jsonschema.validate(json.load(open(p)),s) for p in f];print(len(f))");
    QProcess python;
    python.start(QStringLiteral("/usr/bin/python3"),
                 {QStringLiteral("-c"), check, QStringLiteral(TROMB_SOURCE_DIR "/data/destination.schema.json"),
                  QStringLiteral(TROMB_SOURCE_DIR "/data/destinations"), folder.filePath("written.json")});
    QVERIFY(python.waitForFinished());
    QVERIFY2(python.exitCode() == 0, python.readAllStandardError().constData());
    QCOMPARE(python.readAllStandardOutput().trimmed().toInt(), int(destinationData()->destinations.size()) + 1);
  }

  void whatIsReadIsWritten() {
    const auto read = parseDestination(good().dump());
    QVERIFY2(read, read ? "" : sentence(read.error()).c_str());
    QVERIFY2(Json::parse(destinationText(*read))["house"]["floor"] == 3, "unknown members stay");
    QVERIFY(*parseDestination(destinationText(*read)) == *read);
    for (const Destination& d : destinationData()->destinations)
      QVERIFY2(*parseDestination(destinationText(d)) == d, d.id.c_str());
    Json all = good(); // that the whole picture is safe is a statement as well, and keeps its reason
    all["safe"] = {{"left", 0}, {"top", 0}, {"right", 0}, {"bottom", 0}};
    all["because"]["safe"] = all["because"]["rates"];
    const auto whole = parseDestination(all.dump());
    QVERIFY2(whole, whole ? "" : sentence(whole.error()).c_str());
    const auto again = parseDestination(destinationText(*whole));
    QVERIFY2(again, again ? "" : sentence(again.error()).c_str());
  }

  // What somebody usually does counts where neither footage nor destination says it; the rates of the family come
  // first, and none is lost.
  void habitsFillInWhatNobodySays_data() {
    QTest::addColumn<int>("family");
    QTest::addColumn<QByteArray>("destination");
    QTest::addColumn<bool>("footage"); // at 50
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<int>("sampleRate");
    const auto row = [](const char* name, RateFamily family, const char* to, bool footage, const Rational& rate,
                        int hertz) {
      QTest::newRow(name) << int(family) << QByteArray(to) << footage << rate << hertz;
    };
    row("50 Hz", RateFamily::Fifty, "", false, Rational(25), 44'100);
    row("60 Hz", RateFamily::Sixty, "", false, Rational(30000, 1001), 44'100);
    row("film", RateFamily::Film, "", false, Rational(24), 44'100);
    row("web", RateFamily::Web, "", false, Rational(30), 44'100);
    row("footage counts for more", RateFamily::Film, "", true, Rational(50), 44'100);
    row("so does what a destination takes", RateFamily::Sixty, "broadcast-review-50", false, Rational(25), 48'000);
    row("a destination that takes both", RateFamily::Web, "vertical-story", false, Rational(30), 44'100);
  }
  void habitsFillInWhatNobodySays() {
    QFETCH(int, family);
    QFETCH(QByteArray, destination);
    QFETCH(bool, footage);
    QFETCH(Rational, rate);
    QFETCH(int, sampleRate);
    const auto rates = offeredRates(RateFamily(family));
    QCOMPARE(std::set<Rational>(), [&] { // what is offered elsewhere and not here
      std::set<Rational> missing;
      for (const FrameRate& each : FrameRate::offered()) missing.insert(each.value());
      for (const FrameRate& each : rates) missing.erase(each.value());
      return missing;
    }());
    const MediaInfo media = test::video("/a.mp4", {1920, 1080}, Rational(50), Rational(10));
    const Deliverable d =
        newDeliverable({}, destination.toStdString(), footage ? &media : nullptr, {rates.front(), 44'100});
    QCOMPARE(d.rate.value(), rate);
    QCOMPARE(resolvedEncoding(d).sound.sampleRate, sampleRate);
  }

  // The encoding that somebody starts with is laid where the destination takes it; elsewhere the destination's own is.
  void usualEncodings_data() {
    using Change = std::function<void(Deliverable&)>;
    QTest::addColumn<QString>("destination");
    QTest::addColumn<Change>("usual");
    QTest::addColumn<bool>("laid");
    const auto row = [](const char* name, const char* to, bool laid, const Change& usual) {
      QTest::newRow(name) << QString(to) << usual << laid;
    };
    row("for nothing in particular", "", true, [](Deliverable& d) { chooseCodec(d, Codec::Av1); });
    row("another bit rate, in the band", "vertical-story", true,
        [](Deliverable& d) { d.encoding.bitRate = 6'000'000; });
    row("below the band", "vertical-story", false, [](Deliverable& d) { d.encoding.bitRate = 500'000; });
    row("HEVC, in its own band", "vertical-story", true, [](Deliverable& d) {
      chooseCodec(d, Codec::Hevc);
      chooseBitRate(d, 3'000'000); // H.264 would need 4 Mb/s
    });
    row("HEVC, above its own band", "vertical-story", false, [](Deliverable& d) {
      chooseCodec(d, Codec::Hevc);
      chooseBitRate(d, 18'000'000); // of H.264 20 Mb/s would be taken
    });
    row("a codec that is not taken", "vertical-story", false, [](Deliverable& d) { chooseCodec(d, Codec::Ffv1); });
    row("a loop, which has no sound either", "vertical-story", false,
        [](Deliverable& d) { chooseCodec(d, Codec::Gif); });
    row("sound that is not taken", "vertical-story", false, [](Deliverable& d) { chooseChannels(d, 6); });
    row("HDR where it is not taken", "vertical-story", false, [](Deliverable& d) {
      chooseCodec(d, Codec::Hevc);
      chooseColour(d, kPq);
    });
    row("a size that it cannot hold", "", false, [](Deliverable& d) { d.encoding.level = "1"; });
  }
  void usualEncodings() {
    using Change = std::function<void(Deliverable&)>;
    QFETCH(const QString, destination);
    QFETCH(const Change, usual);
    QFETCH(const bool, laid);
    Deliverable from = newDeliverable({}, "vertical-story", nullptr);
    usual(from);
    const Habits habits{FrameRate(), 48'000, presetOf(from, PresetKind::Encoding, "Usual")};
    const Deliverable d = newDeliverable({}, destination.toStdString(), nullptr, habits);
    QCOMPARE(d.preset, laid ? std::string("Usual") : std::string());
    QCOMPARE(d.encoding == from.encoding, laid);
    QVERIFY2(encodable(resolvedEncoding(d), pictureOf(d)), "whatever it has can be made");
  }

  // Damaged, contradictory, huge and future files are refused with the place, and hide no other.
  void badOnesAreRefused_data() {
    QTest::addColumn<QByteArray>("text");
    QTest::addColumn<QString>("words");
    const auto row = [](const char* name, const char* pointer, const Json& value, const char* words) {
      Json spoiled = good();
      spoiled[Json::json_pointer(pointer)] = value;
      QTest::newRow(name) << QByteArray::fromStdString(spoiled.dump()) << words;
    };
    QTest::newRow("no JSON") << QByteArray("{\"format\":") << "spoiled";
    QTest::newRow("a list") << QByteArray("[1,2]") << "object is expected";
    QTest::newRow("nested without end") << QByteArray(5000, '[') << "lie in each other";
    row("something else", "/format", "tromb-project", "not a destination");
    row("of a later version", "/version", 99, "later version");
    row("no canvas", "/canvases", Json::array(), "at /canvases");
    row("an odd canvas", "/canvases/1/width", 721, "at /canvases/1");
    row("a huge canvas", "/canvases/0/height", 1'000'000, "at /canvases/0/height");
    row("no rate", "/rates/most", "0/1", "at /rates/most");
    row("two kinds of rates", "/rates/only", Json::array({"25/1"}), "beside 'only'");
    row("longer than longest", "/length/least", "90/1", "less than the least");
    row("no such codec", "/codecs/0", "mpeg17", "'mpeg17' is not known");
    row("no codec", "/codecs", Json::array(), "at /codecs");
    row("a length that limits nothing", "/length", {{"least", "0/1"}, {"mist", "60/1"}}, "at /length");
    row("no colours", "/colours", Json::array(), "at /colours");
    row("no bands", "/bitRates", Json::array(), "at /bitRates");
    row("nothing covered", "/covered", Json::array(), "at /covered");
    row("a codec without a container", "/codecs/0", "vp9", "none of the containers");
    row("colours without a codec", "/colours", Json::array({"pq"}), "carries HDR");
    row("a band that falls", "/bitRates",
        Json::array({{{"pixels", 100}, {"rate", "30/1"}, {"least", 20'000}, {"usual", 10'000}, {"most", 30'000}}}),
        "rise");
    row("no reason", "/bytes", 1, "");
    row("a reason for nothing", "/because/depth", {{"sure", "house"}, {"why", ""}}, "'depth' is not among");
    row("unsure how sure", "/because/rates/sure", "quite", "'quite' is not known");
    row("a long reason", "/because/rates/why", std::string(5000, 'x'), "too long");
  }
  void badOnesAreRefused() {
    QFETCH(QByteArray, text);
    QFETCH(QString, words);
    if (words.isEmpty()) { // the value is there, and nobody says why
      Json spoiled = good();
      spoiled["because"].erase("bytes");
      text = QByteArray::fromStdString(spoiled.dump());
      words = QStringLiteral("how sure 'bytes' is");
    }
    QTemporaryDir folder;
    writeFile(folder.filePath("a-bad.json"), text);
    writeFile(folder.filePath("b-good.json"), QByteArray::fromStdString(good().dump()));
    const DestinationData data = readDestinations(TROMB_SOURCE_DIR "/data", folder.path().toStdString());
    QCOMPARE(data.faults.size(), size_t(1));
    const QString said = QString::fromStdString(sentence(data.faults.front()));
    QVERIFY2(said.contains(words), qPrintable(said));
    QVERIFY2(said.contains(QLatin1String("a-bad.json")), qPrintable(said));
    QVERIFY2(data.find("own-evening"), "the good one is there");
    QVERIFY2(data.find("vertical-story"), "and those of the program");
  }

  // What comes with the program and is spoiled is told with its file, and nothing is guessed in its place.
  void spoiledDataIsTold() {
    QTemporaryDir folder;
    const DestinationData nothing = readDestinations(folder.path().toStdString(), {});
    QVERIFY(nothing.destinations.empty());
    QVERIFY2(sentence(nothing.faults.front()).find("templates.json") != std::string::npos,
             sentence(nothing.faults.front()).c_str());
    writeFile(folder.filePath("templates.json"), "{\"templates\":[{\"id\":3}]}");
    QVERIFY(sentence(readDestinations(folder.path().toStdString(), {}).faults.front()).find("/templates/0") !=
            std::string::npos);
  }

  // Which canvases, rates and bit rates are taken.
  void whatIsTaken_data() {
    QTest::addColumn<QString>("id");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<bool>("size");
    QTest::addColumn<bool>("speed");
    QTest::newRow("the usual") << "vertical-story" << Size{1080, 1920} << Rational(30) << true << true;
    QTest::newRow("a listed one") << "vertical-story" << Size{720, 1280} << Rational(30000, 1001) << true << true;
    QTest::newRow("an own size where none is taken")
        << "vertical-story" << Size{606, 1080} << Rational(50) << false << false;
    QTest::newRow("a smaller one of the shape")
        << "wide-web-video" << Size{1280, 720} << Rational(60000, 1001) << true << true;
    QTest::newRow("a larger one") << "wide-web-video" << Size{2560, 1440} << Rational(60) << false << true;
    QTest::newRow("another shape") << "wide-web-video" << Size{1440, 1080} << Rational(61) << false << false;
    QTest::newRow("one of the only rates")
        << "broadcast-review-60" << Size{1920, 1080} << Rational(30000, 1001) << true << true;
    QTest::newRow("nearly one of them") << "broadcast-review-60" << Size{1920, 1080} << Rational(30) << true << false;
  }
  void whatIsTaken() {
    QFETCH(QString, id);
    QFETCH(Size, canvas);
    QFETCH(Rational, rate);
    QTEST(destination(id.toStdString())->takes(canvas), "size");
    QTEST(destination(id.toStdString())->takes(FrameRate(rate)), "speed");
  }

  // Broadcast review copies hold what the standards of broadcasters ask: EBU R 128 (−23 LUFS ±0.5, −1 dBTP), ATSC A/85
  // (−24 LKFS ±2 dB, −2 dBTP; from memory), the rates of Rec. ITU-R BT.709, and the 5 % of EBU R 95.
  void broadcastHoldsItsStandards() {
    const auto fifty = destination("broadcast-review-50");
    const auto sixty = destination("broadcast-review-60");
    QVERIFY(*fifty->loudness == (LoudnessLimit{-23, 0.5, -1}));
    QVERIFY(*sixty->loudness == (LoudnessLimit{-24, 2, -2}));
    QVERIFY(fifty->rates == (std::vector<FrameRate>{FrameRate(Rational(25)), FrameRate(Rational(50))}));
    QVERIFY(sixty->rates ==
            (std::vector<FrameRate>{FrameRate(Rational(30000, 1001)), FrameRate(Rational(60000, 1001))}));
    QVERIFY(fifty->safe == (SafeInsets{0.05, 0.05, 0.05, 0.05}));
    // Footage of the other half of the world gets the nearest rate that is taken.
    QVERIFY(matchedRate("broadcast-review-50", FrameRate(Rational(30000, 1001))).value() == Rational(25));
    QVERIFY(matchedRate("broadcast-review-60", FrameRate(Rational(50))).value() == Rational(60000, 1001));
    QVERIFY(matchedRate("vertical-story", FrameRate(Rational(50))).value() == Rational(25));
  }

  // A destination that is made from a deliverable of any codec recommends its bit rate.
  void ownBandsServeEveryCodec_data() {
    QTest::addColumn<Codec>("codec");
    for (const Codec codec : {Codec::H264, Codec::Hevc, Codec::Vp9})
      QTest::newRow(std::string(infoOf(codec).word).c_str()) << codec;
  }
  void ownBandsServeEveryCodec() {
    QFETCH(const Codec, codec);
    QTemporaryDir folder;
    DestinationStore store(folder.filePath("own").toStdString());
    Deliverable d = newDeliverable({}, "square-feed-post", nullptr);
    chooseCodec(d, codec);
    chooseBitRate(d, 5'200'000);
    QVERIFY(store.save(destinationFrom(d, "House"), false));
    QCOMPARE(newDeliverable({}, "own-house", nullptr).encoding.bitRate, d.encoding.bitRate);
    const auto lines = limitLines({}, {},
                                  [&] {
                                    d.destination = "own-house";
                                    return d;
                                  }(),
                                  {});
    const auto line =
        std::find_if(lines.begin(), lines.end(), [](const SpecLine& l) { return l.code == "limit-bit-rate"; });
    QVERIFY(line != lines.end());
    QCOMPARE(line->standing, Standing::Met);
  }

  // People's own: made from a deliverable, renamed, given away and taken in; known to everything at once.
  void peopleHaveTheirOwn() {
    QTemporaryDir folder;
    DestinationStore store(folder.filePath("own").toStdString());
    Deliverable d = newDeliverable({}, "square-feed-post", nullptr);
    d.loudness = OwnLoudness{-16};
    QVERIFY(store.save(destinationFrom(d, "Evening show"), false));
    const auto made = destination("own-evening-show");
    QVERIFY(made);
    QVERIFY(made->own);
    QVERIFY2(made->takes(d.canvas), "what it was made from");
    QCOMPARE(made->loudness->lufs, -16.0);
    QVERIFY(made->because.at("canvases").sure == Sureness::House);
    QCOMPARE(store.save(destinationFrom(d, "Evening show"), false).error().code, ErrorCode::Exists);
    QCOMPARE(store.save(destinationFrom(d, ""), false).error().code, ErrorCode::InvalidArgument);
    Deliverable odd = d;
    odd.canvas = {1081, 1080};
    QCOMPARE(store.save(destinationFrom(odd, "Odd"), false).error().code, ErrorCode::ProjectInvalid);
    QVERIFY2(store.names().size() == 1, "nothing is saved that could not be read again");
    Deliverable fast = d;
    fast.encoding.bitRate = 800'000'000;
    QVERIFY2(store.save(destinationFrom(fast, "Fast"), false), "twice its bit rate is more than there may be");
    QVERIFY(store.remove("Fast"));
    QVERIFY(store.rename("Evening show", "Morning show"));
    QCOMPARE(destination("own-evening-show")->name, std::string("Morning show")); // deliverables go on knowing it
    QVERIFY(store.exportFile("Morning show", folder.filePath("given.json").toStdString()));
    const auto taken = store.importFile(folder.filePath("given.json").toStdString());
    QVERIFY(taken);
    QVERIFY(*taken != "Morning show");
    QVERIFY2(destination("own-evening-show-2"), "the same once more has an id of its own");
    QVERIFY(store.remove("Morning show"));
    QVERIFY(!destination("own-evening-show"));
    QCOMPARE(store.remove("Morning show").error().code, ErrorCode::Missing);
    QCOMPARE(store.exportFile("nobody", "/tmp/x").error().code, ErrorCode::Missing);
    writeFile(folder.filePath("spoiled.json"), "{}");
    QCOMPARE(store.importFile(folder.filePath("spoiled.json").toStdString()).error().code, ErrorCode::ProjectInvalid);
    QVERIFY(!readFile(folder.filePath("given.json")).isEmpty());
  }
};

QTEST_GUILESS_MAIN(TestDestination)
#include "tst_destination.moc"
