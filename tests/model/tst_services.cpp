// SPDX-License-Identifier: GPL-3.0-or-later
// What runs beside the window: pictures, waveforms, cuts, lighter copies, long work on files, measuring.
#include "analysis/Waveform.h"
#include "media/read/Fingerprint.h"
#include "media/read/Probe.h"
#include "model/CutSearch.h"
#include "model/FileRun.h"
#include "model/FootageImport.h"
#include "model/FramingService.h"
#include "model/LightService.h"
#include "model/MeasureService.h"
#include "model/PosterService.h"
#include "model/SourceFeed.h"
#include "model/StripService.h"
#include "model/SubjectSearch.h"
#include "model/WaveformService.h"
#include "project/ProjectFile.h"
#include "support/DrawnScenes.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QDir>
#include <QGuiApplication>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <set>

using namespace tromb;

class TestServices : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  /// A document with these files brought in, each known.
  void bringIn(Document& document, const QStringList& files) const {
    FootageImport import(document);
    QSignalSpy finished(&import, &FootageImport::finished);
    import.bringIn(files, Document::AsShots::No);
    QVERIFY(finished.wait(test::kPatience));
    QCOMPARE(document.project().sources.size(), size_t(files.size()));
  }

private slots:
  void initTestCase() {
    // Each picture carries its number; a click at every second.
    test::writeClip(
        at("numbers.mp4").toStdString(), {320, 180}, FrameRate(), 100,
        [](int n, int x, int) { return test::numberStripe(n, x, 320); }, true);
    test::writeClip(at("cut.mp4").toStdString(), {320, 180}, FrameRate(), 50, [](int n, int x, int y) {
      return n < 20 ? test::texture(n, x, y) : test::Yuv{200 - y / 2, 100, 160};
    });
  }

  /// The number that a shown picture carries.
  static int numberIn(const QImage& picture) {
    int number = 0;
    for (int stripe = 0; stripe < 16; ++stripe)
      number = number * 2 +
               (qGray(picture.pixel((2 * stripe + 1) * picture.width() / 32, picture.height() / 2)) > 126 ? 1 : 0);
    return number;
  }

  // The picture asked for is the one shown; of a burst of requests the last is answered, and most are passed over.
  void theFeedShowsTheFrameAskedFor_data() {
    QTest::addColumn<QList<int>>("asked");
    QTest::addColumn<int>("mostPictures");
    QTest::newRow("the first") << QList<int>{0} << 1;
    QTest::newRow("the last") << QList<int>{99} << 1;
    QTest::newRow("back") << QList<int>{60, 42} << 2;
    QTest::newRow("one on") << QList<int>{42, 43} << 2;
    QList<int> burst;
    for (int frame = 0; frame < 90; ++frame) burst << frame;
    QTest::newRow("a burst") << burst << 44;
  }
  void theFeedShowsTheFrameAskedFor() {
    QFETCH(const QList<int>, asked);
    QFETCH(const int, mostPictures);
    const auto media = probe(at("numbers.mp4").toStdString());
    SourceFeed feed;
    QSignalSpy pictured(&feed, &SourceFeed::pictured);
    feed.open(readAsStated(*media), {640, 360});
    for (const int frame : asked) feed.show(frame);
    QTRY_VERIFY_WITH_TIMEOUT(!pictured.isEmpty() && pictured.back()[1].toInt() == asked.back(), test::kPatience);
    QCOMPARE(numberIn(pictured.back()[0].value<QImage>()), asked.back());
    QVERIFY2(pictured.size() <= mostPictures, qPrintable(QString::number(pictured.size())));
  }

  void theFeedShowsNoBars() {
    Reading cut = readAsStated(*probe(at("numbers.mp4").toStdString()));
    cut.bars = {0, 20, 0, 20};
    SourceFeed feed;
    QSignalSpy pictured(&feed, &SourceFeed::pictured);
    feed.open(cut, {640, 360});
    feed.show(7);
    QTRY_VERIFY_WITH_TIMEOUT(!pictured.isEmpty(), test::kPatience);
    QCOMPARE(pictured.back()[0].value<QImage>().size(), QSize(320, 140));
  }

  // A file that went away is said, whoever reads it.
  void aFileThatIsGoneIsTold_data() {
    QTest::addColumn<bool>("cuts");
    QTest::newRow("by the feed") << false;
    QTest::newRow("by the search for cuts") << true;
  }
  void aFileThatIsGoneIsTold() {
    QFETCH(const bool, cuts);
    MediaInfo gone = *probe(at("cut.mp4").toStdString());
    gone.path += ".gone";
    SourceFeed feed;
    CutSearch search;
    QStringList told;
    connect(&feed, &SourceFeed::failed, this, [&](const QString& reason) { told << reason; });
    connect(&search, &CutSearch::failed, this, [&](const QString& reason) { told << reason; });
    if (cuts)
      search.start({}, gone, 0, 50);
    else
      feed.open(readAsStated(gone), {640, 360});
    QTRY_VERIFY_WITH_TIMEOUT(!told.isEmpty(), test::kPatience);
    QVERIFY2(told.front().contains(QLatin1String("cut.mp4.gone")), qPrintable(told.front()));
  }

  void stripsFollowTheSourcesLength() {
    Document document;
    bringIn(document, {at("numbers.mp4")});
    StripService strips(document);
    QSignalSpy ready(&strips, &StripService::ready);
    const Source& source = document.project().sources[0];
    QVERIFY(!strips.strip(source));
    QVERIFY(!strips.idle());
    QVERIFY(ready.wait(test::kPatience));
    QVERIFY(strips.idle());
    const StripService::Strip* strip = strips.strip(source);
    QVERIFY(strip);
    QVERIFY(strip->size() == size_t(StripService::kPictures));
    // Near pictures will do: in order of time, from the key frames of the length.
    int last = -1;
    for (const QImage& picture : *strip) {
      QVERIFY(numberIn(picture) >= last);
      QVERIFY(picture.width() <= 256);
      last = numberIn(picture);
    }
    QVERIFY(last >= 50);
    // Without its bars it is another strip.
    Source cut = source;
    cut.bars = {0, 20, 0, 20};
    QVERIFY(!strips.strip(cut));
    QVERIFY(ready.wait(test::kPatience));
    QVERIFY(strips.strip(cut)->front().height() < strip->front().height());
  }

  void waveformsShowTheClicks() {
    Document document;
    bringIn(document, {at("numbers.mp4"), at("cut.mp4")});
    WaveformService waveforms(document);
    QSignalSpy ready(&waveforms, &WaveformService::ready);
    QVERIFY(!waveforms.peaks("s1"));
    QVERIFY(ready.wait(test::kPatience));
    const WaveformService::Peaks* peaks = waveforms.peaks("s1");
    QVERIFY(peaks);
    QVERIFY(std::abs(int(peaks->size()) - 4 * kPeaksASecond) <= 3);
    for (int second = 0; second < 4; ++second) {
      const size_t click = size_t(second) * kPeaksASecond;
      QVERIFY2((*peaks)[click] > 0.3F, qPrintable(QString::number(second)));
      QVERIFY2((*peaks)[click + 20] < 0.05F, qPrintable(QString::number(second)));
    }
    QVERIFY(!waveforms.peaks("s2"));
    QVERIFY(waveforms.idle()); // silent: nothing to read
  }

  // Pictures of shots are kept in files from one time to the next; a file that is damaged is made anew.
  void postersAreKept_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<bool>("transparent");
    QImage still(90, 60, QImage::Format_ARGB32_Premultiplied);
    still.fill(QColor(200, 40, 10, 100));
    still.setPixelColor(7, 5, QColor(0, 250, 0));
    QVERIFY(still.save(at("still.png")));
    QTest::newRow("opaque") << at("numbers.mp4") << false;
    QTest::newRow("transparent") << at("still.png") << true;
  }
  void postersAreKept() {
    QFETCH(const QString, file);
    QFETCH(const bool, transparent);
    const QString folder = at(transparent ? "posters t" : "posters o");
    Document document;
    FootageImport import(document);
    import.bringIn({file}, Document::AsShots::Yes);
    QTRY_VERIFY_WITH_TIMEOUT(!document.project().shots.empty(), test::kPatience);
    const auto picture = [&] {
      PosterService posters(document, folder);
      QSignalSpy ready(&posters, &PosterService::ready);
      const Poster* poster = posters.poster(0);
      if (!poster && ready.wait(test::kPatience)) poster = posters.poster(0);
      return poster ? poster->levels.front() : QImage();
    };
    const QImage first = picture();
    QVERIFY(!first.isNull());
    QVERIFY(first.hasAlphaChannel() == transparent);
    const QStringList files = QDir(folder).entryList(QDir::Files);
    QCOMPARE(files.size(), 1);
    // As kept, and not made again: what is read is what stands in the file.
    QFile kept(folder + "/" + files.first());
    QVERIFY(kept.open(QIODevice::ReadWrite));
    const QByteArray whole = kept.readAll();
    QByteArray other = whole;
    other.back() = char(other.back() ^ 1);
    const auto leave = [&](const QByteArray& bytes) {
      return kept.seek(0) && kept.resize(0) && kept.write(bytes) == bytes.size() && kept.flush();
    };
    QVERIFY(leave(other));
    QImage changed = picture();
    QVERIFY(changed != first);
    changed.setPixel(changed.width() - 1, changed.height() - 1, first.pixel(first.width() - 1, first.height() - 1));
    QCOMPARE(changed, first);
    for (const QByteArray& damaged : {whole.left(whole.size() - 1), QByteArray(whole).replace(8, 4, "\xff\xff\xff\x7f"),
                                      QByteArray(), QByteArray(whole).replace(16, 1, "\x02")}) {
      QVERIFY(leave(damaged));
      QCOMPARE(picture(), first);
    }
  }

  // The sources of a project that is opened are looked at before it is, and once; those of one that is not are dropped.
  void sourcesAreLookedAtAhead() {
    Document from;
    bringIn(from, {at("numbers.mp4"), at("cut.mp4")});
    Document document;
    FootageImport import(document);
    QSignalSpy media(&document, &Document::mediaChanged);
    import.lookAhead(from.project());
    QVERIFY(import.busy());
    import.stopLooking();
    QVERIFY(!import.busy());
    import.lookAhead(from.project());
    QTest::qWait(200); // a question may be asked before it is opened: nothing of it is in the document until then
    QVERIFY(!document.media("s1"));
    QVERIFY(media.isEmpty());
    document.open(from.project(), at("p.tromb"));
    import.lookAtSources();
    QTRY_VERIFY_WITH_TIMEOUT(!import.busy() && document.media("s1") && document.media("s2"), test::kPatience);
    QVERIFY(document.media("s1")->has_value());
    QVERIFY((*document.media("s2"))->video->clock.frameCount() == 50);
    int told = 0;
    for (const auto& each : media) told += int(each[0].toStringList().size());
    QCOMPARE(told, 2);
    // Another project after it is looked at as ever.
    document.open(from.project(), at("q.tromb"));
    QVERIFY(!document.media("s1"));
    import.lookAtSources();
    QTRY_VERIFY_WITH_TIMEOUT(document.media("s1") && document.media("s2"), test::kPatience);
  }

  void cutsComeWithBothPictures() {
    const auto media = probe(at("cut.mp4").toStdString());
    CutSearch search;
    QSignalSpy finished(&search, &CutSearch::finished);
    QSignalSpy pictured(&search, &CutSearch::pictured);
    search.start({}, *media, 0, 50);
    QVERIFY(finished.wait(test::kPatience));
    const auto cuts = findCuts(search.samples());
    QVERIFY(cuts.size() == 1);
    QVERIFY(cuts[0].frame == 20);
    QVERIFY(cuts[0].from == 19);
    search.fetch(cuts, {160, 90});
    QVERIFY(pictured.wait(test::kPatience));
    const auto before = pictured[0][1].value<QImage>();
    const auto after = pictured[0][2].value<QImage>();
    QVERIFY(pictured[0][0].toInt() == 20);
    QVERIFY(!before.isNull());
    QVERIFY(after.size() == QSize(160, 90));
    QVERIFY(std::abs(qGray(after.pixel(80, 4)) - qGray(after.pixel(80, 85))) > 60); // the slope of the second scene
    // As the project shows them: turned to the right.
    Source turned;
    turned.orientation.turn = 90;
    search.start(turned, *media, 0, 50);
    QVERIFY(finished.wait(test::kPatience));
    pictured.clear();
    search.fetch(cuts, {160, 160});
    QVERIFY(pictured.wait(test::kPatience));
    const auto upright = pictured[0][2].value<QImage>();
    QCOMPARE(upright.size(), QSize(90, 160));
    QVERIFY(std::abs(qGray(upright.pixel(85, 80)) - qGray(upright.pixel(4, 80))) > 60); // the slope lies on its side
  }

  void lighterCopiesAreMadeOnDemand() {
    Document document;
    bringIn(document, {at("numbers.mp4")});
    LightService lights(document, at("lighter"), 1'000'000'000);
    QSignalSpy ready(&lights, &LightService::ready);
    QVERIFY(!lights.has("s1"));
    QVERIFY(!lights.find("s1"));
    lights.ask("s1");
    lights.ask("s1"); // under way already
    QVERIFY(lights.underWay("s1"));
    QVERIFY(lights.busy());
    QVERIFY(ready.wait(test::kPatience));
    QVERIFY(!lights.busy());
    QVERIFY(lights.has("s1"));
    QVERIFY(lights.find("s1")->video->stored == (Size{160, 90}));
    QCOMPARE(ready.size(), 1);
    lights.ask("s1"); // there already
    QVERIFY(!lights.busy());
    lights.ask("nobody");
    QVERIFY(!lights.busy());
    lights.copies().empty();
    lights.ask("s1");
    document.startNew(); // what is under way is not for this project any more
    QVERIFY(!lights.busy());
  }

  void measuresAreTakenOnceAFile() {
    const QString store = at("measured");
    for (int round = 0; round < 2; ++round) {
      Document document;
      MeasureService measuring(document, store);
      QSignalSpy progress(&measuring, &MeasureService::progress);
      bringIn(document, {at("numbers.mp4"), at("cut.mp4")});
      QTRY_VERIFY_WITH_TIMEOUT(!measuring.busy(), test::kPatience);
      QVERIFY(document.measured("s1"));
      QVERIFY(document.measured("s1")->loudness);
      QVERIFY(!document.measured("s2")->loudness);
      QVERIFY(document.project().sources[0].barsBy == FactBy::Measure);
      QVERIFY(progress.size() >= 4);
    }
    QCOMPARE(QDir(store).entryList(QDir::Files).size(), 2);
    // Opened anew, the project measures what it does not know yet; a document that is replaced forgets the rest.
    Document document;
    MeasureService measuring(document, at("measured again"));
    bringIn(document, {at("numbers.mp4")});
    document.startNew();
    QVERIFY(!measuring.busy());
    QTest::qWait(300);
    QVERIFY(!document.measured("s1"));
    // A service that goes while much is to be measured leaves it: only what was under way may have been kept.
    Document closing;
    const QString left = at("measured partly");
    {
      const MeasureService going(closing, left);
      const auto media = probe(at("numbers.mp4").toStdString());
      std::vector<Document::NewFootage> many;
      for (int i = 0; i < 40; ++i) many.push_back({*media, "0-" + std::to_string(i)});
      closing.addFootage(many, Document::AsShots::No);
    }
    QVERIFY(QDir(left).entryList(QDir::Files).size() <= 2);
  }

  // Following tells how far it is and where the subject was; another request takes the place of one under way; what
  // cannot be searched is said.
  void subjectsAreSearchedBeside() {
    test::writeClip(at("moving.mp4").toStdString(), {320, 180}, FrameRate(), 60, [](int n, int x, int y) {
      const bool ball = std::hypot(x - 60 - 3 * n, y - 90) < 20;
      return ball ? test::Yuv{(x - 3 * n + y + 600) % 10 < 5 ? 220 : 60, 90, 190} : test::texture(0, x, y);
    });
    const auto media = probe(at("moving.mp4").toStdString());
    SubjectSearch search;
    QSignalSpy progress(&search, &SubjectSearch::progress);
    QSignalSpy finished(&search, &SubjectSearch::finished);
    QSignalSpy failed(&search, &SubjectSearch::failed);
    std::vector<std::pair<std::string, Track>> tracks;
    connect(&search, &SubjectSearch::followed, this,
            [&](const std::string& shot, const Track& track) { tracks.emplace_back(shot, track); });
    const SubjectSearch::Stretch stretch{"h1", readAsStated(*media), 0, 60};
    const RectF box{(60.0 + 90 - 20) / 320, 70.0 / 180, 40.0 / 320, 40.0 / 180};
    search.follow(stretch, 30, box);
    QVERIFY(search.running());
    search.follow(stretch, 30, box); // of two, the last is answered
    QVERIFY(finished.wait(test::kPatience));
    QVERIFY(!search.running());
    QVERIFY(tracks.size() == 1);
    QVERIFY(tracks[0].first == "h1");
    QVERIFY(progress.size() >= 2);
    QCOMPARE(tracks[0].second.points.size(), size_t(60));
    QVERIFY(std::abs(tracks[0].second.points[50].x() - (60 + 150) / 320.0) < 0.02);
    search.follow(stretch, 30, {0.5, 0.5, 0.001, 0.001});
    QVERIFY(finished.wait(test::kPatience));
    QVERIFY(failed.size() == 1);
    QVERIFY(tracks.size() == 1);
    SubjectSearch::Stretch gone = stretch;
    gone.reading.file.path += ".gone";
    search.follow(gone, 30, box);
    QVERIFY(finished.wait(test::kPatience));
    QVERIFY(failed.size() == 2);
    QVERIFY(failed.back()[0].toString().contains(QLatin1String("moving.mp4.gone")));
    // Cancelled, it ends at once and tells nothing more.
    search.follow(stretch, 30, box);
    search.cancel();
    QVERIFY(!search.running());
    QTest::qWait(200);
    QCOMPARE(tracks.size(), size_t(1));
    search.cancel(); // nothing to cancel
  }

  // New shots are framed by what is found, all in one step; what is undone stays undone; what somebody placed is left
  // alone; what is in doubt has something to choose from.
  void newShotsAreFramed() {
    const auto scene = [](const char* name) {
      for (const test::DrawnScene& each : test::drawnScenes())
        if (std::string(each.name) == name) return each;
      qFatal("there is no scene %s", name);
    };
    const std::string folder = m_folder.path().toStdString();
    const QString talks = QString::fromStdString(test::sceneFile(scene("talks at the left"), folder));
    // Long sound takes long to measure; what is brought in together is framed together all the same.
    const QString many = at("many.mkv");
    test::ffmpeg(
        QStringLiteral("-i %1 -f lavfi -i anoisesrc=r=8000:d=400 -map 0:v -map 1:a -c:v copy -c:a pcm_s16le %2")
            .arg(QString::fromStdString(test::sceneFile(scene("many things move"), folder)), many));
    Document document;
    MeasureService measuring(document, at("measured"));
    FramingService framing(document, measuring);
    framing.setOn(true);
    Deliverable story;
    story.id = story.name = "story";
    story.canvas = {1080, 1920};
    document.addDeliverable(story);
    QSignalSpy framed(&framing, &FramingService::framed);
    FootageImport import(document);
    import.bringIn({talks, many}, Document::AsShots::Yes);
    QVERIFY(framed.wait(test::kPatience));
    QCOMPARE(framed[0][0].toInt(), 2);
    QCOMPARE(framed[0][1].toInt(), 1);
    const auto shot = [&](int row) { return document.project().shots[size_t(row)]; };
    QVERIFY(std::abs(shot(0).subjects.at(0).move[0].x - 0.22) < 0.02);
    QVERIFY(shot(0).subjects[0].guess > kSureEnough);
    QCOMPARE(framing.unsure(), std::vector<int>{1});
    // One step takes it all back, and it does not come again; asked for, it does.
    QCOMPARE(document.undoStack().undoText(), QStringLiteral("Frame by what was found"));
    document.undoStack().undo();
    QVERIFY(shot(0).subjects.empty() && shot(1).subjects.empty());
    document.renameShot(0, QStringLiteral("Another name"));
    QTRY_VERIFY_WITH_TIMEOUT(!framing.busy(), test::kPatience);
    QVERIFY(shot(0).subjects.empty());
    framing.frameAll();
    QVERIFY(framed.wait(test::kPatience));
    QCOMPARE(shot(0).subjects.size(), size_t(1));
    // By one's own rules.
    FramingRules rules;
    rules.eyesAt = 0.4;
    framing.setRules(rules);
    framing.frameAll();
    QVERIFY(framed.wait(test::kPatience));
    QCOMPARE(shot(0).subjects[0].atY, 0.4);
    // What is in doubt: alternatives that look different, one of which is taken for certain.
    QVERIFY(framing.alternatives(1).empty());
    framing.ask(shot(1).id);
    QTRY_VERIFY_WITH_TIMEOUT(!framing.alternatives(1).empty(), test::kPatience);
    const auto choices = framing.alternatives(1);
    QVERIFY(choices.size() >= 2);
    framing.take(1, 1);
    QVERIFY(shot(1).subjects == [&] {
      Subjects chosen = choices[1].framed.subjects;
      for (Subject& each : chosen) each.guess = 0;
      return chosen;
    }());
    QVERIFY(framing.unsure().empty());
    // What somebody puts right in one shot is offered for the others of its source that follow a guess.
    QSignalSpy corrected(&framing, &FramingService::corrected);
    document.duplicateShots({0});
    Shot mine = shot(0);
    mine.subjects[0].guess = 0;
    mine.subjects[0].move[0].x = 0.4;
    document.changeShots({mine}, QStringLiteral("by hand"));
    QVERIFY(corrected.wait(test::kPatience));
    QCOMPARE(corrected.size(), 1);
    QCOMPARE(corrected[0][1].value<std::vector<int>>(), std::vector<int>{1});
    framing.carry(0, {1});
    QCOMPARE(shot(1).subjects[0].move[0].x, 0.4);
    QVERIFY(!subjectIsOpen(shot(1)));
    for (int step = 0; step < 3; ++step) document.undoStack().undo();
    QTRY_VERIFY_WITH_TIMEOUT(!framing.busy(), test::kPatience);
    QCOMPARE(document.project().shots.size(), size_t(2));
    // Another in point is looked at again, but not where somebody has placed the subject.
    Shot later = shot(0);
    later.in = Rational(1);
    Shot placed = shot(1);
    placed.in = Rational(1);
    document.changeShots({later, placed}, QStringLiteral("later"));
    QVERIFY(framed.wait(test::kPatience));
    QCOMPARE(framed.back()[0].toInt(), 1);
    QVERIFY(shot(1).subjects == placed.subjects);
    // Switched off, nothing happens by itself.
    framing.setOn(false);
    const auto before = framed.size();
    document.duplicateShots({0});
    QTRY_VERIFY_WITH_TIMEOUT(!framing.busy(), test::kPatience);
    QCOMPARE(framed.size(), before);
    document.undoStack().setClean();
  }

  // What somebody puts right on a person is offered where the same person is seen, in other sources, too.
  void whoIsSeenAgainIsFramedSoToo() {
    constexpr test::Yuv kBlue{70, 170, 100};
    constexpr test::Yuv kRed{90, 110, 190};
    const auto person = [&](const char* name, double x, double half, test::Yuv clothes) {
      test::writePerson(at(name).toStdString(), x, 0.4, half, clothes);
      return at(name);
    };
    const QStringList files{person("here.mp4", 0.3, 26, kBlue), person("there.mp4", 0.7, 26, kBlue),
                            person("other.mp4", 0.64, 26, kRed), person("nearer.mp4", 0.45, 39, kBlue)};
    Document document;
    MeasureService measuring(document, at("measured"));
    FramingService framing(document, measuring);
    framing.setOn(true);
    Deliverable story;
    story.id = story.name = "story";
    story.canvas = {1080, 1920};
    document.addDeliverable(story);
    QSignalSpy framed(&framing, &FramingService::framed);
    FootageImport import(document);
    import.bringIn(files, Document::AsShots::Yes);
    QVERIFY(framed.wait(test::kPatience));
    const auto shot = [&](int row) { return document.project().shots[size_t(row)]; };
    const auto x = [&](int row) { return shot(row).subjects.at(0).move[0].x; };
    const double before[] = {x(0), x(1), x(2), x(3)};
    for (const auto& [row, where] : {std::pair(0, 0.3), {1, 0.7}, {2, 0.64}, {3, 0.45}})
      QVERIFY2(std::abs(before[row] - where) < 0.02, qPrintable(QString::number(before[row])));
    // A drag is many changes and one offer.
    QSignalSpy corrected(&framing, &FramingService::corrected);
    for (const double aside : {0.01, 0.02, 0.03}) {
      Shot mine = shot(0);
      mine.subjects[0].guess = 0;
      mine.subjects[0].move[0].x = before[0] + aside;
      document.changeShots({mine}, QStringLiteral("by hand"));
    }
    QVERIFY(corrected.wait(test::kPatience));
    QCOMPARE(corrected.size(), 1);
    const auto others = corrected[0][1].value<std::vector<int>>();
    QCOMPARE(others, (std::vector<int>{1, 3}));
    const int steps = document.undoStack().index();
    framing.carry(0, others);
    QTRY_VERIFY_WITH_TIMEOUT(!framing.busy(), test::kPatience);
    QCOMPARE(document.undoStack().index(), steps + 1);
    // As far beside the face, by its size: half as large again is half as far again.
    QVERIFY2(std::abs(x(1) - before[1] - 0.03) < 0.004, qPrintable(QString::number(x(1) - before[1])));
    QVERIFY2(std::abs(x(3) - before[3] - 0.045) < 0.006, qPrintable(QString::number(x(3) - before[3])));
    QCOMPARE(x(2), before[2]);
    QVERIFY(!subjectIsOpen(shot(1)) && !subjectIsOpen(shot(3)) && subjectIsOpen(shot(2)));
    // Another answer than was suggested is put right, too; the one that was suggested is not.
    document.duplicateShots({2});
    framing.ask(shot(2).id);
    QTRY_VERIFY_WITH_TIMEOUT(framing.alternatives(2).size() > 1, test::kPatience);
    framing.take(2, 0);
    QVERIFY(!corrected.wait(1000));
    document.undoStack().undo();
    framing.take(2, 1);
    QVERIFY(corrected.wait(test::kPatience));
    QCOMPARE(corrected.back()[0].toInt(), 2);
    QCOMPARE(corrected.back()[1].value<std::vector<int>>(), std::vector<int>{3});
    document.undoStack().setClean();
  }

  // A framing that was suggested is somebody's own as soon as it is changed, and keeps its mark where it is carried.
  void suggestedFramingsBecomeOnesOwn() {
    Document document;
    document.addFootage({{*probe(at("numbers.mp4").toStdString()), {}}}, Document::AsShots::Yes);
    Deliverable d;
    d.id = d.name = "d";
    document.addDeliverables({d}, {});
    Subject subject;
    subject.guess = 0.8;
    Framing stack;
    QVERIFY(framingByName("stack2", stack));
    stack.guess = 0.8;
    const std::string id = document.project().shots[0].id;
    document.frameShots({{id, {subject}, {{"d", stack}}}}, QStringLiteral("framed"));
    QCOMPARE(document.project().deliverables[0].framings.at(id).guess, 0.8);
    document.setFramings({{{0, 0}, stack}}, QStringLiteral("by hand"));
    QCOMPARE(document.project().deliverables[0].framings.at(id).guess, 0.0);
    document.frameShots({{id, {subject}, {{"d", Framing()}}}}, QStringLiteral("framed again"));
    QCOMPARE(document.project().deliverables[0].framings.at(id).layout, Layout::Stack2);
    document.undoStack().setClean();
  }

  void longWorkOnFilesTellsItsEnd() {
    Document document;
    bringIn(document, {at("numbers.mp4")});
    FileRun run;
    QSignalSpy collected(&run, &FileRun::collected);
    QSignalSpy failed(&run, &FileRun::failed);
    Project project = document.project();
    project.name = "kept";
    run.collect(project, at("collected"));
    QVERIFY(collected.wait(test::kPatience));
    const auto copy = loadProject(collected[0][0].toString().toStdString());
    QVERIFY(copy);
    QVERIFY(*fingerprintOf(copy->sources[0].path) == project.sources[0].fingerprint);
    run.collect(project, at("collected"));
    QVERIFY(failed.wait(test::kPatience));
    QVERIFY(sentence(failed[0][0].value<Error>()).find("there already") != std::string::npos);

    // A missing file is found in the collected folder, and the document takes it up.
    QVERIFY(QDir().rename(at("numbers.mp4"), at("moved-away.mp4")));
    Document reopened;
    reopened.startNew(document.project());
    FootageImport import(reopened);
    QSignalSpy finished(&import, &FootageImport::finished);
    import.lookAtSources();
    QVERIFY(finished.wait(test::kPatience));
    QVERIFY(reopened.media("s1"));
    QVERIFY(!*reopened.media("s1"));
    QSignalSpy found(&run, &FileRun::found);
    run.lookFor(reopened.project().sources, at("collected"));
    QVERIFY(found.wait(test::kPatience));
    const auto files = found[0][0].value<std::vector<FoundFile>>();
    QVERIFY(files.size() == 1);
    QVERIFY(files[0].certain);
    reopened.relink({{files[0].sourceId, files[0].path}});
    QVERIFY(finished.wait(test::kPatience));
    QVERIFY(*reopened.media("s1"));
    QVERIFY(reopened.project().sources[0].path == files[0].path);
    reopened.undoStack().undo();
    QVERIFY(reopened.project().sources[0].path == document.project().sources[0].path);
    QVERIFY2(!reopened.media("s1"), "the facts of the other file are forgotten");
    QVERIFY(finished.wait(test::kPatience));
    QVERIFY2(reopened.media("s1"), "the file that it is again is not there");
    QVERIFY2(!*reopened.media("s1"), "the file that it is again is not there");
    QVERIFY(QDir().rename(at("moved-away.mp4"), at("numbers.mp4")));
  }

  // A card: hundreds of files in nested folders, a few of them bad; all in one step, with progress; cancelled, nothing.
  void aWholeCardComesInAtOnce() {
    const QString card = at("card");
    QByteArray bytes;
    {
      QFile clip(at("cut.mp4"));
      QVERIFY(clip.open(QIODevice::ReadOnly));
      bytes = clip.readAll();
    }
    for (int i = 0; i < 240; ++i) {
      const QString folder = QStringLiteral("%1/day %2/roll %3").arg(card).arg(i % 3).arg(i % 7);
      QDir().mkpath(folder);
      QFile file(QStringLiteral("%1/take %2.mp4").arg(folder).arg(i, 3, 10, QLatin1Char('0')));
      QVERIFY(file.open(QIODevice::WriteOnly));
      file.write(i % 80 == 79 ? QByteArray("spoiled") : bytes + QByteArray::number(i)); // each its own fingerprint
    }
    Document document;
    FootageImport import(document);
    QSignalSpy finished(&import, &FootageImport::finished);
    QSignalSpy progress(&import, &FootageImport::progress);
    QSignalSpy refused(&import, &FootageImport::refused);
    import.bringIn({card}, Document::AsShots::No, {});
    QVERIFY(finished.wait(test::kPatience));
    QCOMPARE(document.project().sources.size(), size_t(237));
    QVERIFY(progress.size() > 2);
    QVERIFY(refused[0][0].toStringList().size() == 3);
    QCOMPARE(document.undoStack().count(), 1);
    std::set<std::string> ids;
    for (const Source& source : document.project().sources) ids.insert(source.id);
    QCOMPARE(ids.size(), size_t(237));

    Document other;
    FootageImport stopped(other);
    QSignalSpy begun(&stopped, &FootageImport::progress);
    stopped.bringIn({card}, Document::AsShots::No, {});
    QVERIFY(begun.wait(test::kPatience));
    stopped.stopBringingIn();
    QVERIFY(!stopped.busy());
    QTest::qWait(100);
    QVERIFY(other.project() == Project{});

    // Files that are dropped while a project's sources are looked at, and Stop, leave none of them waiting.
    Document opened;
    opened.startNew(document.project());
    FootageImport looking(opened);
    QSignalSpy done(&looking, &FootageImport::finished);
    looking.lookAtSources();
    looking.bringIn({at("numbers.mp4")}, Document::AsShots::No);
    looking.bringIn({at("cut.mp4"), at("numbers.mp4")}, Document::AsShots::No);
    looking.bringIn({card}, Document::AsShots::No);
    QTRY_COMPARE_WITH_TIMEOUT(opened.project().sources.size(), size_t(239), test::kPatience);
    looking.stopBringingIn();
    QTRY_VERIFY_WITH_TIMEOUT(!looking.busy(), test::kPatience);
    const auto& sources = opened.project().sources;
    QCOMPARE(std::count_if(sources.begin(), sources.end(), [&](const Source& s) { return !opened.media(s.id); }), 0);
    QVERIFY(!done.isEmpty());
  }
};

QTEST_MAIN(TestServices)
#include "tst_services.moc"
