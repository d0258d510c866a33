// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/NewDeliverable.h"
#include "model/Document.h"
#include "model/FootageImport.h"
#include "model/FootageModel.h"
#include "model/HeldGesture.h"
#include "model/MeasureService.h"
#include "model/PosterService.h"
#include "model/SheetModel.h"
#include "model/SourceFacts.h"
#include "project/Choices.h"
#include "project/Sharing.h"
#include "render/Plan.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QAbstractItemModelTester>
#include <QGuiApplication>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <QThread>
#include <random>

using namespace tromb;

using Edit = std::function<void(Document&)>;

class TestDocument : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;

  static MediaInfo media(const char* path, Size size = {1920, 1080}) {
    MediaInfo info;
    info.path = path;
    info.duration = Rational(10);
    info.video.emplace();
    info.video->stored = size;
    info.video->clock = FrameClock(FrameRate(), 250);
    return info;
  }
  static Deliverable shape(const Document& document, Size canvas) {
    Deliverable d = newDeliverable(document.project(), "", nullptr);
    d.canvas = canvas;
    return d;
  }

private slots:
  // A property over chance: any sequence of edits, undone and redone, gives exactly the states it passed through;
  // and the toolkit's own model tester watches every signal.
  void undoAndRedoReturnToEqualStates() {
    std::mt19937 dice(3);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    for (int round = 0; round < 12; ++round) {
      Document document;
      SheetModel model(document);
      FootageModel footage(document);
      FootageFilter filter(footage);
      filter.setOrder(FootageFilter::Order::Name, true);
      constexpr auto kFatal = QAbstractItemModelTester::FailureReportingMode::Fatal;
      const QAbstractItemModelTester sheetTester(&model, kFatal);
      const QAbstractItemModelTester footageTester(&footage, kFatal);
      const QAbstractItemModelTester filterTester(&filter, kFatal);
      std::vector<Project> states{document.project()};
      for (int step = 0; step < 90; ++step) {
        const Project& p = document.project();
        const int rows = model.rowCount();
        const int columns = model.columnCount();
        const int sources = footage.rowCount();
        const auto time = [&] { return Rational(upTo(250), 25); };
        switch (upTo(24)) {
        case 0:
          document.addFootage({{media("/a.mp4"), {}}, {media("/b.mp4", {1280, 720}), {}}},
                              upTo(2) ? Document::AsShots::Yes : Document::AsShots::No);
          break;
        case 1:
          document.addDeliverable(shape(document, {2 * (100 + upTo(900)), 2 * (100 + upTo(900))}));
          break;
        case 2:
          if (rows > 0) document.removeShots({upTo(rows), upTo(rows)});
          break;
        case 3:
          if (columns > 0) document.removeDeliverables({upTo(columns)});
          break;
        case 4:
          if (rows > 1) document.moveShot(upTo(rows), upTo(rows));
          break;
        case 5:
          if (columns > 1) document.moveDeliverable(upTo(columns), upTo(columns));
          break;
        case 6:
          if (rows > 0) document.renameShot(upTo(rows), QStringLiteral("name %1").arg(step));
          break;
        case 7:
          if (columns > 0) document.editDeliverable(upTo(columns), shape(document, {1080, 1080}));
          break;
        case 8:
          if (sources > 0 && upTo(3) == 0) document.removeSources({upTo(sources), upTo(sources)});
          break;
        case 9:
          if (sources > 0)
            (void)footage.setData(footage.index(upTo(sources)), QStringLiteral("n%1").arg(step), Qt::EditRole);
          break;
        case 10:
          if (rows > 0) document.splitShot(upTo(rows), {Rational(1 + upTo(4)), Rational(6)});
          break;
        case 11:
          if (rows > 0) document.duplicateShots({upTo(rows), upTo(rows)});
          break;
        case 12:
          if (rows > 2) document.placeShots({upTo(rows), upTo(rows), upTo(rows)}, upTo(rows + 1));
          break;
        case 13:
          if (rows > 0) {
            Shot shot = p.shots[size_t(upTo(rows))];
            shot.levelDb = -upTo(20);
            shot.out = shot.in + Rational(1 + upTo(9));
            document.changeShots({shot}, QStringLiteral("x"), upTo(2) ? document.newGesture() : 0);
          }
          break;
        case 14: {
          std::vector<Region> regions = p.regions;
          const Rational in = time();
          regions.push_back({freshId(regions, "r"), "r" + std::to_string(step), in, in + Rational(1), {}});
          document.setRegions(regions, QStringLiteral("x"));
          break;
        }
        case 15: {
          std::vector<SoundBed> beds = p.beds;
          if (sources > 0 && upTo(3) > 0) {
            beds.push_back({});
            beds.back().id = freshId(p.beds, "b");
            beds.back().source = p.sources[size_t(upTo(sources))].id;
          } else if (!beds.empty()) {
            beds.pop_back();
          }
          document.setBeds(beds, QStringLiteral("x"));
          break;
        }
        case 20: {
          std::vector<Element> elements = p.elements;
          elements.emplace_back();
          elements.back().id = freshId(p.elements, "e");
          if (rows > 0 && upTo(2)) elements.back().shot = p.shots[size_t(upTo(rows))].id;
          document.setElements(elements, QStringLiteral("x"), upTo(2) ? document.newGesture() : 0);
          break;
        }
        case 17:
          document.setOutput({"{deliverable} " + std::to_string(step), -upTo(20) - 10.0, -1, {}}, QStringLiteral("x"));
          break;
        case 18:
          if (columns > 0)
            if (const auto high = highVersionOf(p, p.deliverables[size_t(upTo(columns))], "high"))
              document.addDeliverables({*high}, QStringLiteral("x"));
          break;
        case 19:
          if (columns > 0) {
            Deliverable own = p.deliverables[size_t(upTo(columns))];
            own.sharesWith.clear();
            own.rate = FrameRate(Rational(upTo(2) ? 50 : 25));
            document.changeDeliverables({own}, QStringLiteral("x"), upTo(2) ? document.newGesture() : 0);
          }
          break;
        case 16: {
          std::vector<Group> groups = p.groups;
          groups.push_back({freshId(groups, "g"), "group", groups.empty() ? "" : groups.back().id, {}});
          document.setGroups(groups, QStringLiteral("x"));
          break;
        }
        default:
          if (rows > 0 && columns > 0) {
            const CellPlace place{upTo(rows), upTo(columns)};
            const Cell cell = document.cell(place);
            document.setFramings({{place, upTo(2) ? slid(cell, upTo(400) - 200, upTo(400) - 200) : zoomed(cell, 1.1)}},
                                 QStringLiteral("x"));
          }
        }
        if (document.undoStack().count() == int(states.size())) states.push_back(document.project());
        QVERIFY(document.undoStack().index() == int(states.size()) - 1);
        QVERIFY(document.project() == states.back());
        for (const Deliverable& d : p.deliverables) {
          const Deliverable* normal = p.deliverable(framedAs(d));
          QVERIFY2(normal && framesItself(*normal), qPrintable(QString::number(step)));
          QVERIFY2(normal->framings == d.framings && normal->canvas == d.canvas && normal->rate == d.rate,
                   qPrintable(QString::number(step)));
        }
      }
      for (int i = int(states.size()) - 1; i >= 0; --i) {
        QVERIFY2(document.project() == states[size_t(i)], qPrintable(QString::number(i)));
        document.undoStack().undo();
      }
      for (const Project& state : states) {
        QVERIFY(document.project() == state);
        document.undoStack().redo();
      }
    }
  }

  void oneGestureIsOneStep() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1080, 1920}));
    const int before = document.undoStack().count();
    const int gesture = document.newGesture();
    for (int i = 0; i < 20; ++i)
      document.setFramings({{{0, 0}, slid(document.cell({0, 0}), 5, 0)}}, QStringLiteral("slide"), gesture);
    QCOMPARE(document.undoStack().count(), before + 1);
    document.undoStack().undo();
    QVERIFY(document.project().deliverables[0].framings.empty());
    // Back where it began is no change at all.
    const Cell cell = document.cell({0, 0});
    const int back = document.newGesture();
    document.setFramings({{{0, 0}, slid(cell, 50, 0)}}, QStringLiteral("slide"), back);
    document.setFramings({{{0, 0}, cell.framing}}, QStringLiteral("slide"), back);
    QCOMPARE(document.project().deliverables[0].framingOf("h1"), cell.framing);
  }

  // One canvas pixel is one canvas pixel, and the edge is the end. The window holds 607.5 source pixels on 1080 canvas
  // pixels: ten of these are 5.625 of those.
  // A held key is one gesture however long the window takes over each press; a pause, or another thing, ends it.
  void aHeldKeyIsOneGesture_data() {
    QTest::addColumn<int>("busy"); // milliseconds
    QTest::addColumn<int>("free");
    QTest::addColumn<QString>("then");
    QTest::addColumn<bool>("goesOn");
    QTest::newRow("at once") << 0 << 0 << "slide" << true;
    QTest::newRow("the window was busy") << 1000 << 0 << "slide" << true;
    QTest::newRow("busy, and free for a moment") << 1000 << 50 << "slide" << true;
    QTest::newRow("a pause") << 0 << 1000 << "slide" << false;
    QTest::newRow("another thing") << 0 << 0 << "zoom" << false;
  }
  void aHeldKeyIsOneGesture() {
    QFETCH(int, busy);
    QFETCH(int, free);
    QFETCH(QString, then);
    QFETCH(bool, goesOn);
    Document document;
    HeldGesture held(document);
    const int first = held.of(QStringLiteral("slide"));
    QThread::msleep(unsigned(busy));
    if (free > 0) QTest::qWait(free);
    QCOMPARE(held.of(then) == first, goesOn);
  }

  void slidingIsExactAndStops_data() {
    using Change = std::function<Framing(const Cell&)>;
    QTest::addColumn<Change>("change");
    QTest::addColumn<double>("left"); // of the window, source pixels
    QTest::addColumn<double>("zoom");
    constexpr double kMiddle = (1920 - 607.5) / 2;
    const auto row = [](const char* name, const Change& change, double left, double zoom) {
      QTest::newRow(name) << change << left << zoom;
    };
    row(
        "ten to the right", [](const Cell& cell) { return slid(cell, 10, 0); }, kMiddle - 5.625, 1);
    row(
        "ten to the left", [](const Cell& cell) { return slid(cell, -10, 0); }, kMiddle + 5.625, 1);
    row(
        "to the left edge", [](const Cell& cell) { return slid(cell, 1e6, 0); }, 0, 1);
    row(
        "to the right edge", [](const Cell& cell) { return slid(cell, -1e6, 0); }, 1920 - 607.5, 1);
    row(
        "nothing to slide to upwards", [](const Cell& cell) { return slid(cell, 0, 300); }, kMiddle, 1);
    row(
        "zoomed in about the middle", [](const Cell& cell) { return zoomed(cell, 1.5); }, (1920 - 405) / 2.0, 1.5);
    row(
        "no wider than it fills", [](const Cell& cell) { return zoomed(cell, 0.5); }, kMiddle, 1);
  }
  void slidingIsExactAndStops() {
    using Change = std::function<Framing(const Cell&)>;
    QFETCH(const Change, change);
    QFETCH(const double, left);
    QFETCH(const double, zoom);
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1080, 1920}));
    const Cell cell = document.cell({0, 0});
    const Framing found = change(cell);
    const RectF window = place(cell.shape, cell.canvas, found).front().window;
    QVERIFY2(std::abs(window.x - left) < 1e-9, qPrintable(QString::number(window.x)));
    QVERIFY2(std::abs(window.y) < 1e-9 || zoom > 1, qPrintable(QString::number(window.y)));
    QVERIFY2(std::abs(found.windows.front().zoom - zoom) < 1e-12,
             qPrintable(QString::number(found.windows.front().zoom)));
  }
  void changingACanvasAndBackRestoresEverything() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1080, 1920}));
    document.setFramings({{{0, 0}, slid(document.cell({0, 0}), 300, 0)}}, QStringLiteral("slide"));
    const auto placements = document.cell({0, 0}).placements;
    Deliverable wide = document.project().deliverables[0];
    const Deliverable tall = wide;
    wide.canvas = {2560, 1080};
    document.editDeliverable(0, wide);
    QVERIFY(document.cell({0, 0}).placements != placements);
    document.editDeliverable(0, tall);
    QVERIFY(document.cell({0, 0}).placements == placements);
  }

  // A high version is framed with its normal one, whichever of the two is changed, until it has its own.
  void highVersionsShare_data() {
    QTest::addColumn<Edit>("edit");
    QTest::addColumn<bool>("shared");
    QTest::addColumn<int>("megabits"); // of the high one: it grows as the usual one does
    const auto row = [](const char* name, const Edit& edit, bool shared, int megabits = 20) {
      QTest::newRow(name) << edit << shared << megabits;
    };
    const auto changed = [](int column, const std::function<void(Deliverable&)>& change) {
      return Edit([=](Document& document) {
        Deliverable d = document.project().deliverables[size_t(column)];
        change(d);
        document.changeDeliverables({d}, QStringLiteral("x"));
      });
    };
    const auto framed = [](int column) {
      return Edit([column](Document& document) {
        document.setFramings({{{0, column}, slid(document.cell({0, column}), 40, 0)}}, QStringLiteral("x"));
      });
    };
    row("framing of the normal one", framed(0), true);
    row("framing of the high one", framed(1), true);
    row("canvas of the normal one", changed(0, [](Deliverable& d) { chooseCanvas(d, {2160, 3840}); }), true, 80);
    row("canvas of the high one", changed(1, [](Deliverable& d) { chooseCanvas(d, {2160, 3840}); }), true, 80);
    row("rate, half as many bits more above 30", changed(0, [](Deliverable& d) { d.rate = FrameRate(Rational(50)); }),
        true, 30);
    row(
        "all rates", [](Document& document) { document.matchRates(FrameRate(Rational(30))); }, true);
    row("never enlarged", changed(1, [](Deliverable& d) { d.sharpOnly = true; }), true);
    row(
        "a shot twice", [](Document& document) { document.duplicateShots({0}); }, true);
    row("the encoding of one", changed(0, [](Deliverable& d) { d.encoding.codec = Codec::Hevc; }), true);
    row("its own from now on",
        changed(1,
                [](Deliverable& d) {
                  d.sharesWith.clear();
                  d.canvas = {1080, 1080};
                }),
        false);
  }
  void highVersionsShare() {
    QFETCH(const Edit, edit);
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    Deliverable normal = shape(document, {1080, 1920});
    normal.encoding.bitRate = 12'000'000;
    document.addDeliverable(normal);
    document.addDeliverable(*highVersionOf(document.project(), document.project().deliverables[0], "high"));
    const Project before = document.project();
    const int steps = document.undoStack().count();
    edit(document);
    const auto& all = document.project().deliverables;
    QVERIFY(document.project() != before);
    QTEST(all[0].framings == all[1].framings && all[0].canvas == all[1].canvas && all[0].rate == all[1].rate &&
              all[0].sharpOnly == all[1].sharpOnly,
          "shared");
    QTEST(int(all[1].encoding.bitRate / 1'000'000), "megabits");
    QCOMPARE(document.undoStack().count(), steps + 1);
    document.undoStack().undo();
    QVERIFY(document.project() == before);
  }

  // What a normal version leaves behind frames itself; a second high version goes on sharing with the first.
  void heirsFrameThemselves() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1080, 1920}));
    for (const char* name : {"high", "higher"})
      document.addDeliverable(*highVersionOf(document.project(), document.project().deliverables[0], name));
    const Project before = document.project();
    document.removeDeliverables({0});
    const auto& all = document.project().deliverables;
    QCOMPARE(all[0].sharesWith, std::string());
    QCOMPARE(all[1].sharesWith, all[0].id);
    document.undoStack().undo();
    QVERIFY(document.project() == before);
    document.removeDeliverables({0, 1});
    QCOMPARE(document.project().deliverables[0].sharesWith, std::string());
  }

  void cellsSayWhatFallsShort_data() {
    QTest::addColumn<Edit>("edit");
    QTest::addColumn<QString>("cell");
    QTest::addColumn<QString>("head");   // the last line of the deliverable's
    QTest::addColumn<QString>("shot");   // the last line of the shot's
    QTest::addColumn<QString>("spoken"); // is told to a screen reader, among other things
    QTest::addColumn<int>("complaints");
    const auto framed = [](const char* name) {
      return Edit([name](Document& document) {
        Framing framing;
        (void)framingByName(name, framing);
        document.setFramings({{{0, 0}, framing}}, {});
      });
    };
    QTest::newRow("soft") << Edit([](Document&) {}) << "soft 0.56"
                          << "1 soft"
                          << "0:10 · silent"
                          << "soft 0.56" << 1;
    QTest::newRow("bars") << framed("fit") << "bars 68 %"
                          << "1 with bars"
                          << "0:10 · silent"
                          << "whole picture" << 1;
    QTest::newRow("sharp") << framed("backdrop") << "1.77"
                           << "ready"
                           << "0:10 · silent"
                           << "over a backdrop" << 0;
    QTest::newRow("sound alone") << Edit([](Document& document) {
      Deliverable d = document.project().deliverables[0];
      d.encoding.sound.place = SoundPlace::Alone;
      document.editDeliverable(0, d);
    }) << "sound alone"
                                 << "ready"
                                 << "0:10 · silent"
                                 << "sound alone" << 0;
    QTest::newRow("missing") << Edit([](Document& document) {
      document.setMedia({{"s1", fail(ErrorCode::Missing, say("the file is not there"), "/a.mp4")}});
    }) << "no picture"
                             << "1 missing"
                             << "file missing"
                             << "no picture" << 1;
  }
  void cellsSayWhatFallsShort() {
    QFETCH(const Edit, edit);
    QFETCH(const QString, spoken);
    Document document;
    const SheetModel model(document);
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1080, 1920}));
    edit(document);
    QTEST(model.data(model.index(0, 0), Qt::DisplayRole).toString(), "cell");
    QTEST(model.deliverableLines(0).last(), "head");
    QTEST(model.shotLines(0).last(), "shot");
    const QString told = model.data(model.index(0, 0), Qt::AccessibleTextRole).toString();
    QVERIFY2(told.contains(spoken), qPrintable(told));
    int complaints = 0;
    for (const Cell::State state : {Cell::State::Unusable, Cell::State::Bars, Cell::State::Soft})
      complaints += model.countInColumn(0, state);
    QTEST(complaints, "complaints");
  }

  // Matching is one action and one undo step; what a destination does not take is halved.
  void matchingTakesTheRateThatWasShot() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1920, 1080}));
    document.addDeliverable(newDeliverable(document.project(), "vertical-story", nullptr));
    const Project before = document.project();
    document.matchRates(FrameRate(Rational(60000, 1001)));
    QVERIFY(document.project().deliverables[0].rate.value() == Rational(60000, 1001));
    QVERIFY(document.project().deliverables[1].rate.value() == Rational(30000, 1001));
    document.undoStack().undo();
    QVERIFY(document.project() == before);
    document.matchRates(FrameRate(Rational(25)));
    QVERIFY(!document.undoStack().canUndo() || document.project() == before); // nothing to match
  }

  // Shots in another order, by the places they had; before which one they are put is counted before they are taken out.
  void shotsArePutElsewhere_data() {
    QTest::addColumn<QList<int>>("rows");
    QTest::addColumn<int>("before");
    QTest::addColumn<QString>("order");
    QTest::newRow("one, to the end") << QList<int>{0} << 5 << "BCDEA";
    QTest::newRow("one, to the beginning") << QList<int>{4} << 0 << "EABCD";
    QTest::newRow("two from either side") << QList<int>{0, 4} << 2 << "BAECD";
    QTest::newRow("two apart, to the end") << QList<int>{0, 2} << 5 << "BDEAC";
    QTest::newRow("two beside each other, forwards") << QList<int>{3, 4} << 1 << "ADEBC";
    QTest::newRow("named twice, and not in order") << QList<int>{2, 0, 2} << 4 << "BDACE";
    QTest::newRow("where it is") << QList<int>{1} << 1 << "ABCDE";
    QTest::newRow("behind itself") << QList<int>{1} << 2 << "ABCDE";
  }
  void shotsArePutElsewhere() {
    QFETCH(const QList<int>, rows);
    QFETCH(const int, before);
    Document document;
    for (const char* name : {"/A.mp4", "/B.mp4", "/C.mp4", "/D.mp4", "/E.mp4"})
      document.addFootage({{media(name), {}}}, Document::AsShots::Yes);
    const Project whole = document.project();
    document.placeShots({rows.begin(), rows.end()}, before);
    QString order;
    for (const Shot& shot : document.project().shots) order += QString::fromStdString(shot.name);
    QTEST(order, "order");
    if (document.project() != whole) document.undoStack().undo();
    QVERIFY2(document.project() == whole, "one step brings them back");
  }

  void shotsAreSplit_data() {
    QTest::addColumn<QList<int>>("at"); // seconds of the source, of a shot from 0 to 10
    QTest::addColumn<QList<int>>("ends");
    QTest::newRow("once") << QList<int>{4} << QList<int>{4, 10};
    QTest::newRow("twice") << QList<int>{2, 5} << QList<int>{2, 5, 10};
    QTest::newRow("at the same place twice, and beyond its end") << QList<int>{2, 5, 5, 99} << QList<int>{2, 5, 10};
    QTest::newRow("at its ends: not at all") << QList<int>{0, 10} << QList<int>{10};
  }
  void shotsAreSplit() {
    QFETCH(const QList<int>, at);
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1080, 1920}));
    document.setFramings({{{0, 0}, slid(document.cell({0, 0}), 200, 0)}}, {});
    const Framing framing = document.cell({0, 0}).framing;
    document.splitShot(0, {at.begin(), at.end()});
    QList<int> ends;
    Rational in(0);
    for (size_t row = 0; row < document.project().shots.size(); ++row) {
      const Shot& shot = document.project().shots[row];
      QVERIFY2(shot.in == in, "nothing is lost, and nothing is there twice");
      QCOMPARE(document.cell({int(row), 0}).framing, framing);
      in = shot.out;
      ends << int(shot.out.toDouble());
    }
    QTEST(ends, "ends");
  }

  // A held picture stands between what comes before it and what comes after; the running order grows by as long as it
  // is held, and nothing of the shot is lost.
  void aPictureIsHeld_data() {
    QTest::addColumn<bool>("reversed");
    QTest::addColumn<int>("at");           // seconds of the source, of a shot from 2 to 8
    QTest::addColumn<QList<int>>("parts"); // in, out and length of each, in hundredths of seconds
    using L = QList<int>;
    QTest::newRow("in the middle") << false << 5 << L{200, 500, 300, 500, 504, 200, 500, 800, 300};
    QTest::newRow("its first") << false << 2 << L{200, 204, 200, 200, 800, 600};
    QTest::newRow("backwards") << true << 5 << L{500, 800, 300, 500, 504, 200, 200, 500, 300};
    QTest::newRow("outside: not at all") << false << 8 << L{200, 800, 600};
  }
  void aPictureIsHeld() {
    QFETCH(bool, reversed);
    QFETCH(int, at);
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    Shot shot = document.project().shots[0];
    shot.in = Rational(2);
    shot.out = Rational(8);
    shot.pace.reversed = reversed;
    document.changeShots({shot}, {});
    const Project before = document.project();
    document.holdPicture(0, Rational(at), Rational(at) + Rational(1, 25), Rational(2));
    QList<int> parts;
    const auto hundredths = [](const Rational& seconds) { return int((seconds * Rational(100)).nearest()); };
    for (const Shot& each : document.project().shots)
      parts << hundredths(each.in) << hundredths(each.out) << hundredths(each.duration());
    QTEST(parts, "parts");
    while (document.project() != before && document.undoStack().canUndo()) document.undoStack().undo();
    QVERIFY2(document.project() == before, "one can go back");
  }

  // Removing a source takes its shots and beds with it, and one undo brings all back.
  void aSourceTakesItsShotsAlong() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}, {media("/b.mp4"), {}}}, Document::AsShots::Yes);
    document.setBeds({{"b1", "s1", Rational(0), Rational(0), Rational(1), 0, Rational(0), Rational(0), false, {}}}, {});
    std::vector<Element> elements(4); // with a shot that goes, with one that stays, with none, and a picture that goes
    for (size_t i = 0; i < elements.size(); ++i) elements[i].id = "e" + std::to_string(i + 1);
    elements[0].shot = document.project().shots[0].id;
    elements[1].shot = document.project().shots[1].id;
    elements[3].kind = ElementKind::Picture;
    elements[3].source = "s1";
    document.setElements(elements, {});
    const Project before = document.project();
    document.removeSources({0});
    QCOMPARE(document.project().shots.size(), size_t(1));
    QVERIFY(document.project().beds.empty());
    QCOMPARE(document.project().elements, (std::vector{elements[1], elements[2]}));
    document.undoStack().undo();
    QVERIFY(document.project() == before);
  }

  // Words that go along with a shot stay over the same pictures where it is split, trimmed, held or duplicated.
  void wordsStayOnTheirPictures() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}}, Document::AsShots::Yes);
    Element e;
    e.id = "e1";
    e.text = "Vale";
    e.shot = document.project().shots[0].id;
    e.in = Rational(1);
    e.out = Rational(4);
    e.fadeIn = e.fadeOut = Rational(1, 2);
    document.setElements({e}, {});
    const Project before = document.project();
    using Stretch = std::pair<Rational, Rational>;
    const auto seen = [&] {
      std::vector<Stretch> all = stretchesOf(document.project());
      std::sort(all.begin(), all.end());
      return all;
    };
    document.splitShot(0, {Rational(2), Rational(3)});
    const std::vector<Stretch> parts{
        {Rational(1), Rational(2)}, {Rational(2), Rational(3)}, {Rational(3), Rational(4)}};
    QCOMPARE(seen(), parts);
    const std::vector<Element> over = document.project().elements;
    QCOMPARE(over[0].fadeIn, Rational(1, 2));
    QCOMPARE(over[0].fadeOut, Rational(0));
    QCOMPARE(over[1].fadeIn + over[1].fadeOut, Rational(0));
    QCOMPARE(over[2].fadeOut, Rational(1, 2));
    document.undoStack().undo();
    QVERIFY(document.project() == before);

    document.holdPicture(0, Rational(2), Rational(2) + Rational(1, 25), Rational(2));
    const std::vector<Stretch> held = seen();
    QCOMPARE(held.front().first, Rational(1));
    QCOMPARE(held.back().second, Rational(6));
    for (size_t i = 1; i < held.size(); ++i) QCOMPARE(held[i].first, held[i - 1].second);
    document.undoStack().undo();

    Shot shot = document.project().shots[0];
    shot.in = Rational(1, 2);
    document.changeShots({shot}, {});
    QCOMPARE(seen(), (std::vector<Stretch>{{Rational(1, 2), Rational(7, 2)}}));
    document.undoStack().undo();

    document.duplicateShots({0});
    QCOMPARE(document.project().elements.size(), size_t(2));
    const Rational length = document.project().shotStarts()[1];
    QCOMPARE(seen(), (std::vector<Stretch>{{Rational(1), Rational(4)}, {length + Rational(1), length + Rational(4)}}));
    document.undoStack().undo();
    QVERIFY(document.project() == before);
  }

  // Where a source's picture becomes another, what was put on it stays on what it showed: subjects, windows and the
  // keys of moves, in every shot of that source and no other, in one step.
  void whatWasFramedStaysOnThePicture() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}, {media("/b.mp4"), {}}}, Document::AsShots::Yes);
    document.duplicateShots({0});
    document.addDeliverable(shape(document, {1080, 1080}));
    Framing framing;
    framing.windows[0].follows = false;
    framing.windows[0].x = 0.4;
    framing.windows[0].move = {{Rational(1), 0.4, 0.5, 1.5, Ease::Linear, {}},
                               {Rational(3), 0.6, 0.25, 2, Ease::Hold, {}}};
    std::vector<Shot> shots = document.project().shots;
    for (Shot& shot : shots) {
      shot.subjects.emplace_back();
      shot.subjects[0].move.front().x = 0.3;
      shot.subjects[0].move.front().y = 0.25;
    }
    document.changeShots(shots, {});
    document.setFramings({{{0, 0}, framing}, {{1, 0}, framing}, {{2, 0}, framing}}, {});
    const Project before = document.project();
    const int steps = document.undoStack().count();
    Source cut = before.sources[0];
    cut.bars = {0, 135, 0, 135}; // 810 lines are left of 1080: 0.25 of the one is 135 lines below the bar
    document.changeSources({cut}, QStringLiteral("cut"));
    QCOMPARE(document.undoStack().count(), steps + 1);
    for (const int row : {0, 1}) {
      const Shot& shot = document.project().shots[size_t(row)];
      QVERIFY(shot.subjects[0].move.front().x == 0.3);
      QVERIFY(std::abs(shot.subjects[0].move.front().y - (270.0 - 135) / 810) < 1e-12);
      const Window window = document.project().deliverables[0].framingOf(shot.id).windows[0];
      QVERIFY(window.x == 0.4);
      QVERIFY(std::abs(window.move[1].y - (270.0 - 135) / 810) < 1e-12);
      QVERIFY(window.move[1].zoom == 2);
      QVERIFY(window.move[0].y == 0.5);
      QVERIFY(window.move[1].time == Rational(3));
    }
    QVERIFY(document.project().shots[2] == before.shots[2]);
    QVERIFY(document.project().deliverables[0].framingOf("h2") == framing);
    document.undoStack().undo();
    QVERIFY(document.project() == before);
    // Bars that leave nothing lose nothing: places stay as they are, through to the next that are right.
    for (const Bars& bars : {Bars{0, 4000, 0, 0}, Bars{1000, 0, 920, 0}, Bars{}}) {
      Source wrong = before.sources[0];
      wrong.bars = bars;
      document.changeSources({wrong}, QStringLiteral("cut"));
      QVERIFY(document.project().shots == before.shots);
      QVERIFY(document.project().deliverables == before.deliverables);
    }
    // Another name changes nothing of it, and the same again is no step at all.
    Source named = before.sources[0];
    named.name = "Ridge";
    document.changeSources({named}, QStringLiteral("rename"));
    QVERIFY(document.project().shots == before.shots);
    QVERIFY(document.project().deliverables == before.deliverables);
    const int count = document.undoStack().count();
    document.changeSources({named}, QStringLiteral("rename"));
    QCOMPARE(document.undoStack().count(), count);
  }

  // A still under a picture is a source like others: what becomes of it is seen in the cells that lie on it.
  void aStillUnderAPictureIsASource() {
    Document document;
    SheetModel model(document);
    MediaInfo still = media("/ground.png", {800, 600});
    still.kind = MediaKind::Still;
    document.addFootage({{media("/a.mp4"), {}}, {still, {}}}, Document::AsShots::Yes);
    document.addDeliverable(shape(document, {1080, 1920}));
    Framing framing;
    (void)framingByName("backdrop", framing);
    framing.ground = Ground::Still;
    framing.still = "s2";
    document.setFramings({{{0, 0}, framing}}, {});
    QVERIFY(document.shows(0, {QStringLiteral("s2")}));
    QVERIFY(!document.shows(1, {QStringLiteral("s1")}));
    QCOMPARE(document.cell({0, 0}).placements.front().kind, Placement::Kind::Still);
    const auto codes = [&] {
      QStringList all;
      for (const Finding& each : preflight(document.project(), document.footage()))
        all << QString::fromStdString(each.code + " " + each.shot);
      return all;
    };
    QVERIFY2(codes().contains(QLatin1String("soft-still A")), qPrintable(codes().join(QLatin1Char(','))));
    QSignalSpy seen(&model, &QAbstractItemModel::dataChanged);
    document.setMedia({{"s2", fail(ErrorCode::Missing, say("the file is not there"), "/ground.png")}});
    QVERIFY(seen.count() > 0);
    QVERIFY(document.cell({0, 0}).state == Cell::State::Unusable);
    QVERIFY(document.cell({0, 0}).reason.contains(QLatin1String("/ground.png")));
    QVERIFY2(codes().contains(QLatin1String("source-missing A, Ground")), qPrintable(codes().join(QLatin1Char(','))));
    const auto plan = Plan::build(document.project(), document.footage(), document.project().deliverables[0].id);
    QVERIFY(!plan);
    QVERIFY(plan.error().code == ErrorCode::Missing);
    QVERIFY(plan.error().path == "/ground.png");
    // When it goes, a copy takes its place; and it comes back.
    const Project before = document.project();
    document.removeSources({1});
    QVERIFY(document.cell({0, 0}).framing.ground == Ground::Copy);
    QVERIFY(document.cell({0, 0}).framing.still.empty());
    document.undoStack().undo();
    QVERIFY(document.project() == before);
  }

  void footageIsFilteredByWhatItIs() {
    Document document;
    MediaInfo fast = media("/fast run.mp4");
    fast.video->clock = FrameClock(FrameRate(Rational(100)), 1000);
    MediaInfo small = media("/archive.mp4", {720, 576});
    small.video->pixelAspect = Rational(16, 11);
    small.video->scan = Scan::TopFieldFirst;
    small.duration = Rational(3);
    MediaInfo tune = media("/tune.wav");
    tune.kind = MediaKind::Audio;
    tune.video.reset();
    tune.audio.emplace_back();
    document.addFootage({{media("/wide.mp4"), {}}, {fast, {}}, {small, {}}, {tune, {}}}, Document::AsShots::No);
    document.addDeliverable(shape(document, {1080, 1080}));
    FootageModel model(document);
    FootageFilter filter(model);
    const auto names = [&] {
      QStringList shown;
      for (int row = 0; row < filter.rowCount(); ++row) shown << filter.index(row, 0).data().toString();
      return shown.join(QLatin1Char(','));
    };
    using Fact = FootageFilter::Fact;
    const std::tuple<Fact, const char*> rows[] = {{Fact::Any, "wide,fast run,archive,tune"},
                                                  {Fact::FastRate, "fast run"},
                                                  {Fact::Interlaced, "archive"},
                                                  {Fact::NotSquare, "archive"},
                                                  {Fact::Sound, "tune"},
                                                  {Fact::Silent, "wide,fast run,archive"},
                                                  {Fact::Unused, "wide,fast run,archive,tune"},
                                                  {Fact::Missing, ""},
                                                  {Fact::SofterThan, "archive"}};
    for (const auto& [fact, expected] : rows) {
      filter.setFact(fact, "d1");
      QCOMPARE(names(), QString::fromLatin1(expected));
    }
    // What the project knows better than the file counts.
    Source answered = document.project().sources[1];
    answered.slowMotion = true;
    answered.bars = {0, 40, 0, 40};
    document.changeSources({answered}, {});
    MediaInfo wide = media("/wide.mp4", {3840, 2160});
    wide.duration = Rational(20);
    wide.video->colour.transfer = 16; // SMPTE ST 2084
    wide.video->clock = FrameClock({0, 1, 3, 4}, Rational(1, 25), FrameRate());
    wide.video->bitDepth = 10;
    wide.sizeBytes = 5'000;
    MediaInfo still = small;
    still.kind = MediaKind::Still;
    document.setMedia({{"s1", wide}, {"s3", still}});
    for (const auto& [fact, expected] : {std::pair(Fact::SlowMotion, "fast run"),
                                         {Fact::Bars, "fast run"},
                                         {Fact::Hdr, "wide"},
                                         {Fact::Variable, "wide"},
                                         {Fact::Still, "archive"},
                                         {Fact::Video, "wide,fast run"}}) {
      filter.setFact(fact);
      QCOMPARE(names(), QString::fromLatin1(expected));
    }
    filter.setFact(Fact::Any);
    using Order = FootageFilter::Order;
    for (const auto& [order, first] : {std::pair(Order::Length, "wide"),
                                       {Order::Pixels, "wide"},
                                       {Order::BitDepth, "wide"},
                                       {Order::Colour, "wide"},
                                       {Order::FileSize, "wide"},
                                       {Order::Channels, "tune"},
                                       {Order::Scan, "archive"}}) {
      filter.setOrder(order, true);
      QVERIFY2(names().startsWith(QLatin1String(first)), qPrintable(names()));
    }
    filter.setOrder(Order::BroughtIn, false);
    document.setMedia({{"s1", media("/wide.mp4")}, {"s3", small}});
    filter.setText(QStringLiteral("interlaced"));
    QCOMPARE(names(), QStringLiteral("archive"));
    filter.setText({});
    filter.setOrder(FootageFilter::Order::Rate, true);
    QVERIFY(names().startsWith(QLatin1String("fast run")));
    filter.setOrder(FootageFilter::Order::Name, false);
    QCOMPARE(names(), QStringLiteral("archive,fast run,tune,wide"));
    document.setGroups({{"g1", "Card", "", {}}, {"g2", "Inner", "g1", {}}}, {});
    Source moved = document.project().sources[1];
    moved.group = "g2";
    moved.slowMotion = true;
    document.changeSources({moved}, {});
    filter.setGroup(QStringLiteral("g1")); // groups nest
    QCOMPARE(names(), QStringLiteral("fast run"));
    // What follows: 1080 lines fill 1080×1080 at detail 1.00; 576 lines do not; slow motion is not matched.
    const auto said = [&](size_t source) {
      QString all;
      for (const Consequence& c : consequencesOf(document, document.project().sources[source]))
        all += c.about + QLatin1Char(' ') + c.text + QLatin1Char('|');
      return all;
    };
    QVERIFY2(said(0).contains(QStringLiteral("detail 1.00 · every frame once")), qPrintable(said(0)));
    QVERIFY(said(1).contains(QLatin1String("every frame once")));
    QVERIFY(said(1).contains(QLatin1String("slow motion")));
    QVERIFY(said(2).contains(QLatin1String("soft 0.36")));
    QVERIFY(said(2).contains(QLatin1String("not square (16/11)")));
    QVERIFY(said(2).contains(QLatin1String("interlaced: de-interlaced")));
    Source known = document.project().sources[2];
    known.scan = Scan::Progressive;
    document.changeSources({known}, {});
    QVERIFY(said(2).contains(QLatin1String("progressive, though the file says interlaced")));
  }

  void bringingInGoesOnPastBadFiles() {
    const QString clip = m_folder.filePath("clip.mp4");
    test::writeClip(clip.toStdString(), {640, 360}, FrameRate(), 10,
                    [](int n, int x, int y) { return y < 40 || y >= 320 ? test::Yuv{} : test::texture(n, x, y); });
    QFile text(m_folder.filePath("a letter.txt"));
    QVERIFY(text.open(QIODevice::WriteOnly));
    text.write("words");
    text.close();
    Document document;
    FootageImport import(document);
    MeasureService measuring(document, m_folder.filePath("measured"));
    QSignalSpy finished(&import, &FootageImport::finished);
    QSignalSpy refused(&import, &FootageImport::refused);
    import.bringIn({m_folder.path()}, Document::AsShots::Yes);
    QVERIFY(finished.wait(test::kPatience));
    QCOMPARE(document.project().shots.size(), size_t(1));
    QVERIFY(refused.size() == 1);
    QVERIFY(refused[0][0].toStringList().first().contains(QLatin1String("a letter.txt")));
    // Measured beside it: the bars are cut away without a step of undo, and the file counts as changed.
    QTRY_VERIFY_WITH_TIMEOUT(!measuring.busy(), test::kPatience);
    QCOMPARE(document.project().sources[0].bars, (Bars{0, 42, 0, 42}));
    QCOMPARE(document.undoStack().count(), 1);
    QVERIFY(document.modified());
    QVERIFY(!document.project().sources[0].fingerprint.empty());
    // A file already there is recognised by its path, and a copy by its contents.
    QVERIFY(QFile::copy(clip, m_folder.filePath("renamed.mp4")));
    import.bringIn({clip, m_folder.filePath("renamed.mp4")}, Document::AsShots::Yes);
    QVERIFY(finished.wait(test::kPatience));
    QCOMPARE(document.project().shots.size(), size_t(1));
    QVERIFY(refused.back()[0].toStringList().last().contains(QLatin1String("is a copy of 'clip'")));
    document.undoStack().undo();
    QVERIFY(document.project() == Project{});
    document.undoStack().redo();
    QCOMPARE(document.project().sources[0].bars, (Bars{0, 42, 0, 42}));
    // Kept on purpose: no measure changes that again.
    Source kept = document.project().sources[0];
    kept.bars = {};
    kept.barsBy = FactBy::Hand;
    document.changeSources({kept}, QStringLiteral("keep"));
    document.setMeasured("s1", "", *document.measured("s1"));
    QVERIFY(document.project().sources[0].bars.none());
    document.undoStack().undo();

    PosterService posters(document);
    QSignalSpy ready(&posters, &PosterService::ready);
    QVERIFY(!posters.poster(0));
    QVERIFY(ready.wait(test::kPatience));
    const Poster* poster = posters.poster(0);
    QVERIFY(poster);
    QVERIFY(poster->levels.front().size() == QSize(640, 276)); // without its bars
    QVERIFY(poster->atLeast(100).width() >= 100);
    QVERIFY(poster->atLeast(100).width() < 200);

    // Saved, reopened, the same; a save that fails keeps the document unsaved and the file whole.
    const QString path = m_folder.filePath("p.tromb");
    QVERIFY(document.save(path).has_value());
    QVERIFY(!document.modified());
    const Project saved = document.project();
    document.renameShot(0, QStringLiteral("other"));
    QVERIFY(document.modified());
    QVERIFY(!document.save(QStringLiteral("/proc/p.tromb")).has_value());
    QVERIFY(document.modified());
    QVERIFY(document.load(path).has_value());
    QVERIFY(document.project() == saved);
    QVERIFY(!document.modified());
  }
};

QTEST_MAIN(TestDocument)
#include "tst_document.moc"
