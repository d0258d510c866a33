// SPDX-License-Identifier: GPL-3.0-or-later
// What falls short, looked for beside the window, and mended as one step.
#include "destination/NewDeliverable.h"
#include "model/PreflightService.h"
#include "project/Choices.h"
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
