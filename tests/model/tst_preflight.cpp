// SPDX-License-Identifier: GPL-3.0-or-later
// What falls short, looked for beside the window, and mended as one step.
#include "destination/NewDeliverable.h"
#include "model/PreflightService.h"
#include "model/SheetModel.h"
#include "project/Choices.h"
#include "project/Sharing.h"
#include "support/Patience.h"
#include "support/TestProject.h"

#include <QSignalSpy>
#include <QTest>

using namespace tromb;

using Change = void (*)(Deliverable&);
Q_DECLARE_METATYPE(Change)

class TestPreflight : public QObject {
  Q_OBJECT

  std::unique_ptr<Document> m_document;
  std::unique_ptr<PreflightService> m_preflight;

  void add(const char* destinationId, Change change) {
    const auto* media = m_document->media(m_document->project().sources[0].id);
    Deliverable d = newDeliverable(m_document->project(), destinationId, &**media);
    change(d);
    m_document->addDeliverable(d);
  }
  void settle() {
    QTRY_VERIFY_WITH_TIMEOUT(!m_preflight->busy(), test::kPatience);
    QCoreApplication::processEvents();
  }
  [[nodiscard]] std::vector<int> placesOf(const QByteArray& code) const {
    std::vector<int> places;
    for (int i = 0; i < int(m_preflight->findings().size()); ++i)
      if (m_preflight->findings()[size_t(i)].code == code.toStdString()) places.push_back(i);
    return places;
  }

private slots:
  void init() {
    m_document = std::make_unique<Document>();
    m_preflight = std::make_unique<PreflightService>(*m_document);
    m_document->addFootage({{test::video("/a.mp4", {1920, 1080}, Rational(30), Rational(10)), {}},
                            {test::video("/b.mp4", {1920, 1080}, Rational(30), Rational(10)), {}}},
                           Document::AsShots::Yes);
  }
  void cleanup() {
    m_preflight.reset();
    m_document.reset();
    joinWorkers();
  }

  // Of each kind several: all are found where they are, mended at once, as one step, and come back with undo.
  void kindsAreMendedAtOnce_data() {
    QTest::addColumn<QByteArray>("code");
    QTest::addColumn<int>("count");
    QTest::addColumn<Change>("spoil");
    const auto row = [](const char* code, int count, Change spoil) {
      QTest::newRow(code) << QByteArray(code) << count << spoil;
    };
    row("odd-size", 2, [](Deliverable& d) { d.canvas = {1081, 1920}; });
    row("level-too-low", 2, [](Deliverable& d) { d.encoding.level = "2"; });
    row("buffer", 2, [](Deliverable& d) {
      d.encoding.level = "4";
      d.encoding.bufferBits = 32'000'000;
    });
    row("profile", 2, [](Deliverable& d) {
      d.encoding.profile = "high";
      d.format.depth = 10;
    });
    row("settings", 2, [](Deliverable& d) { d.encoding.container = Container::Webm; });
    row("limit-rate", 2, [](Deliverable& d) { d.rate = FrameRate(Rational(60)); });
    row("limit-codec", 2, [](Deliverable& d) { chooseCodec(d, Codec::Av1); });
    row("rate-mismatch", 4, [](Deliverable& d) { d.rate = FrameRate(Rational(25)); }); // two shots in each
    row("enlarged-canvas", 2, [](Deliverable& d) { d.canvas = {2160, 3840}; });
    row("bars", 4, [](Deliverable& d) {
      Framing whole;
      (void)framingByName("fit", whole);
      d.framings["h1"] = d.framings["h2"] = whole;
    });
  }
  void kindsAreMendedAtOnce() {
    QFETCH(QByteArray, code);
    QFETCH(int, count);
    QFETCH(Change, spoil);
    QCOMPARE(m_document->project().shots[0].id, std::string("h1"));
    add("vertical-story", spoil);
    add("vertical-story", spoil);
    settle();
    const std::vector<int> places = placesOf(code);
    QCOMPARE(int(places.size()), count);
    for (const int place : places) {
      const Finding& f = m_preflight->findings()[size_t(place)];
      QVERIFY2(placeOf(m_document->project().deliverables, f.deliverableId) >= 0, "it says where");
      QCOMPARE(f.shot.empty(), f.shotId.empty());
      QVERIFY2(!f.fixes.empty(), "it can be mended");
    }
    const int before = m_document->undoStack().index();
    m_preflight->mend(places, QStringLiteral("all of a kind"));
    QCOMPARE(m_document->undoStack().index(), before + 1);
    settle();
    QVERIFY2(placesOf(code).empty(), "mended");
    m_document->undoStack().undo();
    settle();
    QCOMPARE(int(placesOf(code).size()), count);
  }

  // One of its kind is mended, and the others are left.
  void oneIsMendedAlone() {
    add("vertical-story", [](Deliverable& d) { d.canvas = {1081, 1920}; });
    add("vertical-story", [](Deliverable& d) { d.canvas = {1081, 1920}; });
    settle();
    m_preflight->mend({placesOf("odd-size").front()}, {});
    settle();
    QCOMPARE(placesOf("odd-size").size(), size_t(1));
  }

  // What is accepted no longer weighs, comes back when it rests on something else, and with undo; a kind that is
  // ignored is not looked for.
  void whatIsAcceptedIsLeft() {
    add("vertical-story", [](Deliverable& d) { d.canvas = {2160, 3840}; }); // 1080 rows, 3840 wanted: 0.28
    settle();
    QCOMPARE(placesOf("soft").size(), size_t(2));
    const int warnings = m_preflight->all().warnings;
    m_preflight->accept(m_preflight->acceptable(placesOf("soft")), QStringLiteral("seen from afar"));
    settle();
    QCOMPARE(m_preflight->all().warnings, warnings - 2);
    QVERIFY(m_preflight->findings()[size_t(placesOf("soft").front())].accepted);
    m_preflight->takeBack({placesOf("soft").front()});
    settle();
    QCOMPARE(m_preflight->all().warnings, warnings - 1);
    m_document->undoStack().undo();
    settle();
    QCOMPARE(m_preflight->all().warnings, warnings - 2);
    Deliverable d = m_document->project().deliverables[0];
    d.canvas = {1620, 2880};
    m_document->changeDeliverables({d}, {});
    settle();
    QVERIFY2(!m_preflight->findings()[size_t(placesOf("soft").front())].accepted, "it is soft in another way");
    m_preflight->weigh("soft", Severity::Ignored);
    settle();
    QVERIFY(placesOf("soft").empty());
    m_preflight->weigh("soft", {});
    settle();
    QCOMPARE(placesOf("soft").size(), size_t(2));
  }

  // The sheet counts what else is amiss in a cell, and no more what was accepted of it.
  void theSheetCountsWhatIsOpen() {
    SheetModel model(*m_document);
    model.setPreflight(*m_preflight);
    add("vertical-story", [](Deliverable& d) {
      d.canvas = {1080, 1920};
      d.encoding.level = "1";
      d.encoding.bitRate = 100'000;
    });
    Shot shot = m_document->project().shots[1];
    Subject aside;
    aside.move = {{Rational(0), 0.02, 0.5, 1, Ease::Linear, {}}};
    shot.subjects = {aside};
    m_document->changeShots({shot}, {});
    Framing middle;
    middle.windows[0].follows = false;
    m_document->setFramings({{{1, 0}, middle}}, {});
    settle();
    const auto told = [&model](int row, int role) { return model.data(model.index(row, 0), role).toInt(); };
    QCOMPARE(model.deliverableLines(0).last(), QStringLiteral("2 soft · 5 more")); // level, bits (two), canvas, subject
    QCOMPARE(told(0, SheetModel::AmissRole), 0);
    QCOMPARE(told(1, SheetModel::AmissRole), 1);
    QVERIFY(model.data(model.index(1, 0), Qt::ToolTipRole).toString().contains(QLatin1String("cut away")));
    QCOMPARE(model.worstInColumn(0), Cell::State::Unusable);
    m_preflight->accept(m_preflight->acceptable({placesOf("soft")[0], placesOf("subject-outside")[0]}),
                        QStringLiteral("meant so"));
    settle();
    QCOMPARE(model.deliverableLines(0).last(), QStringLiteral("1 soft · 4 more"));
    QCOMPARE(told(0, SheetModel::SettledRole) + told(1, SheetModel::SettledRole), 1);
    QCOMPARE(told(1, SheetModel::AmissRole), 0);
    m_preflight->weigh("soft", Severity::Ignored);
    settle();
    QCOMPARE(model.deliverableLines(0).last(), QStringLiteral("4 to look at"));
  }

  // Findings are counted where they are: in a deliverable, and in one of its cells.
  void findingsAreCountedWhereTheyAre() {
    add("vertical-story", [](Deliverable& d) {
      d.canvas = {606, 1078}; // sharp
      d.encoding.level = "1";
      Framing zoomed;
      zoomed.windows[0].zoom = 2;
      d.framings["h2"] = zoomed;
    });
    add("vertical-story", [](Deliverable& d) { d.canvas = {606, 1078}; });
    settle();
    const auto& all = m_document->project().deliverables;
    QCOMPARE(m_preflight->countsIn(all[0].id).errors, 1);
    QCOMPARE(m_preflight->placesIn(all[0].id, "h1").size(), size_t(0));
    QCOMPARE(m_preflight->placesIn(all[0].id, "h2").size(), size_t(1));
    QCOMPARE(m_preflight->countsIn(all[1].id).errors, 0);
    QCOMPARE(m_preflight->placesIn(all[1].id, "h2").size(), size_t(0));
  }

  // What a normal and a high version share is told once, and of the high one where it goes alone or elsewhere.
  void sharedCellsAreToldOnce() {
    add("vertical-story", [](Deliverable&) {}); // soft in both shots
    const auto& all = m_document->project().deliverables;
    m_document->addDeliverable(*highVersionOf(m_document->project(), all[0], "high"));
    settle();
    QCOMPARE(m_preflight->placesIn(all[0].id, "h1").size(), size_t(1));
    QCOMPARE(m_preflight->placesIn(all[1].id, "h1").size(), size_t(0));
    QCOMPARE(m_preflight->countsIn(all[1].id).warnings, 2); // and holds for both
    const auto soft = [&](const std::vector<std::string>& ids) {
      const auto found = preflight(m_document->project(), m_document->footage(), {}, ids);
      return std::count_if(found.begin(), found.end(), [](const Finding& f) { return f.code == "soft"; });
    };
    QCOMPARE(soft({all[1].id}), 2);
    Deliverable high = all[1];
    high.destination = "vertical-short"; // covers other parts
    m_document->changeDeliverables({high}, QStringLiteral("x"));
    QCOMPARE(soft({}), 4);
  }

  // A shot is mended as one step with the deliverables.
  void shotsAreMendedToo() {
    add("vertical-story", [](Deliverable&) {});
    Shot shot = m_document->project().shots[0];
    shot.out = Rational(12);
    m_document->changeShots({shot}, {});
    settle();
    const int before = m_document->undoStack().index();
    m_preflight->mend(placesOf("beyond-source"), QStringLiteral("all"));
    QCOMPARE(m_document->project().shots[0].out, Rational(10));
    QCOMPARE(m_document->undoStack().index(), before + 1);
    m_document->undoStack().undo();
    QCOMPARE(m_document->project().shots[0].out, Rational(12));
  }

  // A file that has become another under the same name is told, until the project is opened anew.
  void anotherFileIsTold() {
    add("vertical-story", [](Deliverable&) {});
    const std::string id = m_document->project().sources[0].id;
    const auto learn = [&](const char* print) {
      m_document->setMedia({{id, test::video("/a.mp4", {1920, 1080}, Rational(30), Rational(10)), "/a.mp4", print}});
      settle();
    };
    learn("first");
    QVERIFY(placesOf("source-changed").empty());
    learn("second");
    QCOMPARE(placesOf("source-changed").size(), size_t(1));
  }

  // Many edits are looked at once, and the last one counts.
  void editsAreLookedAtOnce() {
    add("vertical-story", [](Deliverable&) {});
    settle();
    QSignalSpy told(m_preflight.get(), &PreflightService::changed);
    Deliverable d = m_document->project().deliverables[0];
    for (int width = 500; width < 560; ++width) {
      d.canvas.width = width;
      m_document->changeDeliverables({d}, {});
    }
    settle();
    QVERIFY2(told.size() <= 2, qPrintable(QString::number(told.size())));
    QCOMPARE(placesOf("odd-size").size(), size_t(1)); // 559
  }
};

QTEST_GUILESS_MAIN(TestPreflight)
#include "tst_preflight.moc"
