// SPDX-License-Identifier: GPL-3.0-or-later
// Finished files are handed to folders and to a publishing service, whole or not at all, and nothing is sent twice.
#include "export/Compare.h"
#include "handover/HandOverLog.h"
#include "handover/Publish.h"
#include "handover/StandInService.h"
#include "io/FreeSpace.h"
#include "support/CuttingProxy.h"
#include "support/TestMedia.h"

#include <QCryptographicHash>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QTemporaryDir>
#include <QTest>
#include <ctime>
#include <httplib.h>
#include <random>
#include <thread>

using namespace tromb;

class TestHandOver : public QObject {
  Q_OBJECT

  static constexpr const char* kToken = "a-token";
  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] std::string path(const QString& name) const { return at(name).toStdString(); }
  static QByteArray contents(const QString& file) {
    QFile opened(file);
    return opened.open(QIODevice::ReadOnly) ? opened.readAll() : QByteArray();
  }
  static std::string digest(const QString& file) {
    return QCryptographicHash::hash(contents(file), QCryptographicHash::Sha256).toHex().toStdString();
  }
  /// Bytes that no packing makes smaller, the same each time.
  void writeNoise(const QString& name, int bytes) const {
    std::mt19937 dice{unsigned(bytes)};
    QByteArray noise(bytes, 0);
    for (char& each : noise) each = char(dice());
    QFile file(at(name));
    QVERIFY(file.open(QIODevice::WriteOnly) && file.write(noise) == bytes);
  }
  [[nodiscard]] std::unique_ptr<StandInService> service(const char* folder, const char* destination = "", int port = 0,
                                                        int slow = 0) const {
    auto started = StandInService::start({path(folder), kToken, 0, 0, destination, slow, port});
    return started ? std::move(*started) : nullptr;
  }
  static int portOf(const StandInService& service) {
    return QString::fromStdString(service.address()).section(':', -1).toInt();
  }
  static std::string address(int port) { return "http://127.0.0.1:" + std::to_string(port); }
  static QString announced(const QString& name, const QString& bytes, const QString& id) {
    return QString("{'name':%1,'bytes':%2,'sha256':%3}").arg(name, bytes, id).replace('\'', '"');
  }
  /// What a service has of a file.
  [[nodiscard]] QString uploaded(const char* folder, const std::string& id) const {
    return at(folder) + "/" + QString::fromStdString(id) + "/content";
  }

private slots:
  void initTestCase() {
    test::writeClip(path("clip.mp4"), {640, 480}, FrameRate(), 50, test::texture, true);
    writeNoise("noise.bin", 700'001);
  }

  // ---- folders

  void aFolderGetsItWhole() {
    QVERIFY(QDir().mkpath(at("stick")));
    double told = 0;
    const auto handed = handToFolder({path("noise.bin"), path("stick"), [&](double fraction) { told = fraction; }});
    QVERIFY2(handed.has_value(), handed ? "" : sentence(handed.error()).c_str());
    QCOMPARE(contents(at("stick/noise.bin")), contents(at("noise.bin")));
    QCOMPARE(handed->digest, digest(at("noise.bin")));
    QCOMPARE(handed->bytes, int64_t(700'001));
    QCOMPARE(told, 1.0);
    QVERIFY(!handed->wasThere && handed->freeBytes && *handed->freeBytes > 0);
    // The same once more is there already; another of the same name gets a number.
    const auto again = handToFolder({path("noise.bin"), path("stick")});
    QVERIFY(again && again->wasThere);
    QCOMPARE(QDir(at("stick")).entryList(QDir::Files | QDir::Hidden), QStringList{"noise.bin"});
    QVERIFY(QFile::resize(at("stick/noise.bin"), 5));
    const auto beside = handToFolder({path("noise.bin"), path("stick")});
    QVERIFY(beside);
    QCOMPARE(QString::fromStdString(beside->path), at("stick/noise (2).bin"));
    QCOMPARE(QFileInfo(at("stick/noise.bin")).size(), 5);
  }

  void whatADeviceDoesToItIsSeen_data() {
    QTest::addColumn<int>("length");  // that the file gets; −1: it stays
    QTest::addColumn<int>("changed"); // a byte
    QTest::addColumn<QString>("words");
    QTest::newRow("cut off") << 650'000 << -1 << "50001 bytes shorter";
    QTest::newRow("one byte short") << 700'000 << -1 << "one byte shorter";
    QTest::newRow("longer") << 700'100 << -1 << "99 bytes longer";
    QTest::newRow("the first byte") << -1 << 0 << "from byte 0 on";
    QTest::newRow("one in the middle") << -1 << 543'210 << "from byte 543210 on";
    QTest::newRow("the last") << -1 << 700'000 << "from byte 700000 on";
  }
  void whatADeviceDoesToItIsSeen() {
    QFETCH(int, length);
    QFETCH(int, changed);
    QFETCH(QString, words);
    QDir(at("device")).removeRecursively();
    QVERIFY(QDir().mkpath(at("device")));
    FolderHandOver request{path("noise.bin"), path("device")};
    request.whenArrived = [&](const std::string& there) {
      QFile file(QString::fromStdString(there));
      if (length >= 0) (void)file.resize(length);
      if (changed < 0 || !file.open(QIODevice::ReadWrite)) return;
      (void)file.seek(changed);
      const char was = file.peek(1).at(0);
      (void)file.putChar(char(was ^ 1));
    };
    const auto handed = handToFolder(request);
    QVERIFY(!handed);
    QCOMPARE(int(handed.error().code), int(ErrorCode::FallsShort));
    const QString said = QString::fromStdString(sentence(handed.error()));
    QVERIFY2(said.contains(words), qPrintable(said));
    QVERIFY2(QFile::exists(at("device/noise.bin")), "it stays to be looked at");
  }

  void whatCannotBeHandedToAFolderIsTold() {
    const auto nowhere = handToFolder({path("noise.bin"), path("no-stick")});
    QVERIFY(!nowhere && nowhere.error().code == ErrorCode::CannotWrite);
    const auto nothing = handToFolder({path("gone.bin"), m_folder.path().toStdString()});
    QVERIFY(!nothing && nothing.error().code == ErrorCode::Missing);
    // A file that is longer than the disk has room, without taking any itself.
    QVERIFY(QDir().mkpath(at("small")));
    QFile large(at("large.bin"));
    QVERIFY(large.open(QIODevice::WriteOnly));
    const int64_t room = *freeBytes(path("small"));
    if (!large.resize(room + 3'000'000'000)) QSKIP("the disk takes no file of that length");
    const auto full = handToFolder({path("large.bin"), path("small")});
    QVERIFY(large.remove());
    QVERIFY(!full && full.error().code == ErrorCode::CannotWrite);
    QVERIFY2(sentence(full.error()).find("GB are missing") != std::string::npos, sentence(full.error()).c_str());
    QVERIFY(QDir(at("small")).entryList(QDir::Files | QDir::Hidden).isEmpty());
    std::stop_source stop;
    const auto stopped =
        handToFolder({path("noise.bin"), path("small"), [&](double) { stop.request_stop(); }}, stop.get_token());
    QVERIFY(!stopped && stopped.error().code == ErrorCode::Cancelled);
    QVERIFY(QDir(at("small")).entryList(QDir::Files | QDir::Hidden).isEmpty());
  }

  // What was handed over is kept beside the project, whole lines whoever writes.
  void whatWasHandedOverIsKept() {
    const std::string project = path("piece.tromb");
    QVERIFY(handOvers(project).empty());
    std::vector<std::thread> writers;
    for (int writer = 0; writer < 4; ++writer)
      writers.emplace_back([&project, writer] {
        for (int i = 0; i < 50; ++i)
          (void)addHandOver(project, {i, "/a \"file\"\n", "/stick", "there", writer, std::string(64, 'a')});
      });
    for (std::thread& each : writers) each.join();
    QFile log(QString::fromStdString(handOverLog(project)));
    QVERIFY(log.open(QIODevice::Append) && log.write("{\"at\": 7, \"fi") > 0);
    log.close();
    const std::vector<HandOver> all = handOvers(project);
    QCOMPARE(all.size(), size_t(200));
    QCOMPARE(all.front().path, std::string("/a \"file\"\n"));
    QCOMPARE(all.front().digest, std::string(64, 'a'));
  }

  // ---- the service

  void aServiceShowsWhatViewersSee() {
    const auto one = service("viewers");
    QVERIFY(one);
    QList<int> stages;
    PublishRequest request{path("clip.mp4"), one->address(), kToken, path("fetched"), 20'000};
    request.onProgress = [&](PublishRequest::Stage stage, double fraction) {
      QVERIFY(fraction >= 0 && fraction <= 1.0001);
      if (stages.isEmpty() || stages.last() != int(stage)) stages << int(stage);
    };
    const auto made = publish(request);
    QVERIFY2(made.has_value(), made ? "" : sentence(made.error()).c_str());
    QCOMPARE(stages.first(), 0);
    QCOMPARE(stages.last(), 2);
    QCOMPARE(made->file.digest, digest(at("clip.mp4")));
    QCOMPARE(contents(uploaded("viewers", made->file.digest)), contents(at("clip.mp4")));
    // 480 lines are sent: 480 and 360 come of it, as files that others read.
    QCOMPARE(made->renditions.size(), size_t(2));
    QList<double> likeness;
    for (size_t i = 0; i < 2; ++i) {
      const Rendition& each = made->renditions[i];
      QCOMPARE(each.canvas, i == 0 ? (Size{640, 480}) : (Size{480, 360}));
      QCOMPARE(QFileInfo(QString::fromStdString(each.path)).size(), each.bytes);
      const QString told =
          test::run("ffprobe", {"-v", "error", "-select_streams", "v", "-show_entries",
                                "stream=width,height,codec_name", "-of", "csv=p=0", QString::fromStdString(each.path)});
      QCOMPARE(told.trimmed(), i == 0 ? QStringLiteral("h264,640,480") : QStringLiteral("h264,480,360"));
      const auto loss = compareFiles(path("clip.mp4"), each.path);
      QVERIFY(loss);
      likeness << loss->structure.mean;
    }
    QVERIFY2(likeness[0] > likeness[1] && likeness[1] > 0.1 && likeness[0] < 1,
             qPrintable(QString::number(likeness[0])));
    // The same once more: all of it is there, nothing is compressed again.
    const auto again = publish({path("clip.mp4"), one->address(), kToken, {}});
    QVERIFY(again && again->file.wasThere);
    QCOMPARE(again->renditions.size(), size_t(2));
    // It listens to this machine alone (the address in hexadecimal, as the system lists it).
    const QString port = QString("%1").arg(portOf(*one), 4, 16, QChar('0')).toUpper();
    QVERIFY(contents("/proc/net/tcp").contains(("0100007F:" + port + " 00000000:0000 0A").toLatin1()));
    QVERIFY(!contents("/proc/net/tcp").contains(("00000000:" + port).toLatin1()));
  }

  // Wherever the connection breaks off, the file arrives as it is, and only what had not arrived is sent again.
  void aBrokenConnectionIsGoneOnWith_data() {
    QTest::addColumn<int>("after"); // bytes of each connection
    QTest::newRow("within the first part") << 30'000;
    QTest::newRow("within a later part") << 150'000;
    QTest::newRow("just behind a part") << 100'400;
    QTest::newRow("near the end") << 650'000;
  }
  void aBrokenConnectionIsGoneOnWith() {
    QFETCH(int, after);
    QDir(at("broken")).removeRecursively();
    const auto one = service("broken");
    test::CuttingProxy proxy(portOf(*one), after);
    const auto made = publish({path("noise.bin"), address(proxy.port()), kToken, {}, 100'000});
    QVERIFY(!made); // it is no film
    QCOMPARE(int(made.error().code), int(ErrorCode::FallsShort));
    QVERIFY2(proxy.broken() > 0, "nothing was broken off");
    QCOMPARE(contents(uploaded("broken", digest(at("noise.bin")))), contents(at("noise.bin")));
    // Heads of requests, what lay in the way when a connection broke, and a part that is refused since the service was
    // asked before it had read the end of the one before.
    const int64_t more = int64_t(proxy.broken() + 12) * 1500 + int64_t(proxy.broken()) * (70'000 + 100'000);
    QVERIFY2(proxy.passed() < 700'001 + more, std::to_string(proxy.passed()).c_str());
  }

  // A sender that was ended, and a service that was ended, go on where they were.
  void bothMayBeStartedAnew() {
    QDir(at("anew")).removeRecursively();
    auto one = service("anew");
    const int port = portOf(*one);
    std::stop_source stop;
    PublishRequest request{path("clip.mp4"), address(port), kToken, {}, 50'000};
    request.onProgress = [&](PublishRequest::Stage, double fraction) {
      if (fraction > 0.4) stop.request_stop();
    };
    const auto stopped = publish(request, stop.get_token());
    QVERIFY(!stopped && stopped.error().code == ErrorCode::Cancelled);
    const QString there = uploaded("anew", digest(at("clip.mp4")));
    const qint64 arrived = QFileInfo(there).size();
    QVERIFY2(arrived > 50'000 && arrived < QFileInfo(at("clip.mp4")).size(), std::to_string(arrived).c_str());
    bool ended = false;
    test::CuttingProxy counted(port, 0);
    request.address = address(counted.port());
    request.onProgress = [&](PublishRequest::Stage stage, double fraction) {
      if (ended || stage != PublishRequest::Stage::Sending || fraction < 0.7) return;
      ended = true;
      one.reset();
      one = service("anew", "", port);
      QVERIFY(one);
    };
    const auto made = publish(request);
    QVERIFY2(made.has_value(), made ? "" : sentence(made.error()).c_str());
    QVERIFY(ended);
    QCOMPARE(contents(there), contents(at("clip.mp4")));
    QVERIFY2(counted.passed() < QFileInfo(at("clip.mp4")).size() - arrived + 120'000,
             "what had arrived was sent once more");
    // … and one that was ended while it compressed, too.
    test::writeClip(path("long.mp4"), {640, 360}, FrameRate(), 250, test::texture);
    PublishRequest longer{path("long.mp4"), address(port), kToken, {}};
    bool again = false;
    longer.onProgress = [&](PublishRequest::Stage stage, double) {
      if (again || stage != PublishRequest::Stage::Compressing) return;
      again = true;
      one.reset();
      one = service("anew", "", port);
    };
    const auto compressed = publish(longer);
    QVERIFY2(compressed.has_value(), compressed ? "" : sentence(compressed.error()).c_str());
    QVERIFY(again);
  }

  void whatAServiceRefusesIsTold_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("token");
    QTest::addColumn<int64_t>("until");
    QTest::addColumn<int64_t>("room");
    QTest::addColumn<QString>("destination");
    QTest::addColumn<int>("code");
    QTest::addColumn<QString>("words");
    const int64_t past = std::time(nullptr) - 10;
    QTest::newRow("a wrong token") << "clip.mp4"
                                   << "another" << int64_t(0) << int64_t(0) << "" << int(ErrorCode::InvalidArgument)
                                   << "not known here. Ask for a new token";
    QTest::newRow("an outdated token") << "clip.mp4" << kToken << past << int64_t(0) << ""
                                       << int(ErrorCode::InvalidArgument) << "outdated";
    QTest::newRow("a full service") << "clip.mp4" << kToken << int64_t(0) << int64_t(1000) << ""
                                    << int(ErrorCode::CannotWrite) << "no room for it just now";
    QTest::newRow("another shape than it takes") << "clip.mp4" << kToken << int64_t(0) << int64_t(0) << "vertical-story"
                                                 << int(ErrorCode::FallsShort) << "does not take pictures of 640×480";
    QTest::newRow("no film") << "noise.bin" << kToken << int64_t(0) << int64_t(0) << "" << int(ErrorCode::FallsShort)
                             << "refuses it";
  }
  void whatAServiceRefusesIsTold() {
    QFETCH(QString, file);
    QFETCH(QString, token);
    QFETCH(int64_t, until);
    QFETCH(int64_t, room);
    QFETCH(QString, destination);
    QFETCH(int, code);
    QFETCH(QString, words);
    QDir(at("strict")).removeRecursively();
    const auto one = StandInService::start({path("strict"), kToken, until, room, destination.toStdString()});
    QVERIFY(one);
    const auto made = publish({path(file), (*one)->address(), token.toStdString(), {}});
    QVERIFY(!made);
    QCOMPARE(int(made.error().code), code);
    const QString said = QString::fromStdString(sentence(made.error()));
    QVERIFY2(said.contains(words), qPrintable(said));
  }

  // Answers that take their time are waited for; a stop does not wait for them.
  void slowAnswersAreWaitedFor() {
    const auto slow = service("slow", "", 0, 400);
    const auto made = publish({path("clip.mp4"), slow->address(), kToken, {}});
    QVERIFY2(made.has_value(), made ? "" : sentence(made.error()).c_str());
    const auto slower = service("slower", "", 0, 15'000);
    std::stop_source stop;
    std::thread later([&] {
      std::this_thread::sleep_for(std::chrono::milliseconds(300));
      stop.request_stop();
    });
    const auto begun = std::chrono::steady_clock::now();
    const auto stopped = publish({path("noise.bin"), slower->address(), kToken, {}}, stop.get_token());
    later.join();
    QVERIFY(!stopped && stopped.error().code == ErrorCode::Cancelled);
    QVERIFY2(std::chrono::steady_clock::now() - begun < std::chrono::seconds(15), "it waited for the answer");
  }

  void aServiceThatIsNotThereIsTold() {
    PublishRequest request{path("clip.mp4"), "http://127.0.0.1:1", kToken, {}};
    request.patience = 0.5;
    const auto gone = publish(request);
    QVERIFY(!gone && gone.error().code == ErrorCode::CannotWrite);
    QVERIFY(sentence(gone.error()).find("cannot be reached") != std::string::npos);
    request.address = "http://example.invalid:80";
    const auto far = publish(request);
    QVERIFY(!far && far.error().code == ErrorCode::Unsupported);
    for (const char* wrong : {"ftp://127.0.0.1:80", "127.0.0.1:80", "http://127.0.0.1", "http://127.0.0.1:80/a/b"}) {
      request.address = wrong;
      const auto none = publish(request);
      QVERIFY2(!none && none.error().code == ErrorCode::InvalidArgument, wrong);
    }
  }

  // Whoever asks otherwise than agreed is answered, and gets at nothing that was not uploaded.
  void strangeRequestsAreRefused_data() {
    QTest::addColumn<QString>("method");
    QTest::addColumn<QString>("place");
    QTest::addColumn<QString>("body");
    QTest::addColumn<int>("status");
    const QString id(64, 'a');
    QTest::newRow("nothing announced") << "PATCH"
                                       << "/uploads/" + id << "bytes" << 404;
    QTest::newRow("no such upload") << "GET"
                                    << "/uploads/" + id << "" << 404;
    QTest::newRow("no such rendition") << "GET"
                                       << "/uploads/" + id + "/renditions/720"
                                       << "" << 404;
    QTest::newRow("a way out") << "GET"
                               << "/uploads/../../../../etc/passwd"
                               << "" << 404;
    QTest::newRow("a way out in a name") << "GET"
                                         << "/uploads/" + id + "/renditions/..%2fabout"
                                         << "" << 404;
    QTest::newRow("no digest") << "POST"
                               << "/uploads" << announced("'a'", "5", "'../etc'") << 400;
    QTest::newRow("no length") << "POST"
                               << "/uploads" << announced("'a'", "-1", "'" + id + "'") << 400;
    QTest::newRow("no JSON") << "POST"
                             << "/uploads"
                             << "{" << 400;
    QTest::newRow("another type") << "POST"
                                  << "/uploads" << announced("1", "'5'", "[]") << 400;
  }
  void strangeRequestsAreRefused() {
    QFETCH(QString, method);
    QFETCH(QString, place);
    QFETCH(QString, body);
    QFETCH(int, status);
    const auto one = service("strange");
    httplib::Client client("127.0.0.1", portOf(*one));
    client.set_bearer_token_auth(kToken);
    const std::string to = place.toStdString();
    const auto answer = method == "GET"     ? client.Get(to)
                        : method == "PATCH" ? client.Patch(to, {{"Upload-Offset", "0"}}, body.toStdString(), "a/b")
                                            : client.Post(to, body.toStdString(), "application/json");
    QVERIFY(bool(answer));
    QCOMPARE(answer->status, status);
  }

  // What is refused is read to its end nevertheless: the next request on the same connection is understood.
  void aConnectionOutlivesARefusedPart_data() {
    QTest::addColumn<QString>("token");
    QTest::addColumn<QString>("announced"); // whose file it is
    QTest::addColumn<int>("offset");
    QTest::addColumn<int>("status");
    QTest::newRow("at another place") << kToken << "known" << 3 << 409;
    QTest::newRow("longer than announced") << kToken << "known" << 0 << 400;
    QTest::newRow("nothing announced") << kToken << "unknown" << 0 << 404;
    QTest::newRow("with a wrong token") << "another"
                                        << "known" << 0 << 401;
  }
  void aConnectionOutlivesARefusedPart() {
    QFETCH(QString, token);
    QFETCH(QString, announced);
    QFETCH(int, offset);
    QFETCH(int, status);
    QDir(at("refused")).removeRecursively();
    const auto one = service("refused");
    httplib::Client client("127.0.0.1", portOf(*one));
    client.set_keep_alive(true);
    client.set_bearer_token_auth(kToken);
    const auto placeOf = [](const QString& name) {
      return QCryptographicHash::hash(name.toUtf8(), QCryptographicHash::Sha256).toHex();
    };
    const QString known = "'" + QString::fromLatin1(placeOf("known")) + "'";
    const auto made = client.Post("/uploads", this->announced("'a'", "5", known).toStdString(), "application/json");
    QCOMPARE(made->status, 201);
    client.set_bearer_token_auth(token.toStdString());
    const auto refused = client.Patch("/uploads/" + placeOf(announced).toStdString(),
                                      {{"Upload-Offset", std::to_string(offset)}}, std::string(100'000, 'x'), "a/b");
    QCOMPARE(refused->status, status);
    client.set_bearer_token_auth(kToken);
    const auto asked = client.Head("/uploads/" + placeOf("known").toStdString());
    QVERIFY(bool(asked));
    QCOMPARE(asked->status, 200);
  }

  // What arrives otherwise than it was announced is sent back, and can be sent anew.
  void anotherFileThanAnnouncedIsSentBack() {
    QDir(at("other")).removeRecursively();
    const auto one = service("other");
    httplib::Client client("127.0.0.1", portOf(*one));
    client.set_bearer_token_auth(kToken);
    const std::string id = QCryptographicHash::hash("right", QCryptographicHash::Sha256).toHex().toStdString();
    QCOMPARE(client
                 .Post("/uploads", announced("'a'", "5", "'" + QString::fromStdString(id) + "'").toStdString(),
                       "application/json")
                 ->status,
             201);
    const std::string place = "/uploads/" + id;
    QCOMPARE(client.Patch(place, {{"Upload-Offset", "3"}}, "ht", "a/b")->status, 409);
    QCOMPARE(client.Patch(place, {{"Upload-Offset", "0"}}, "wrong", "a/b")->status, 422);
    QCOMPARE(client.Head(place)->get_header_value("Upload-Offset"), std::string("0"));
    QCOMPARE(client.Patch(place, {{"Upload-Offset", "0"}}, "right and more", "a/b")->status, 400);
    QCOMPARE(client.Patch(place, {{"Upload-Offset", "0"}}, "right", "a/b")->status, 204);
  }
};

QTEST_GUILESS_MAIN(TestHandOver)
#include "tst_handover.moc"
