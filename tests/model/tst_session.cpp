// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Bench.h"
#include "support/TestProject.h"

#include <QSignalSpy>
#include <QTest>
#include <cmath>
#include <functional>

using namespace tromb;

using Edit = std::function<void(Document&)>;
Q_DECLARE_METATYPE(Edit)

/// What is selected and where the playhead stands, while the project is edited. Three shots of 10, 5 and 10 s at 25
/// frames a second, of one source of 10 s, in two shapes.
class TestSession : public QObject {
  Q_OBJECT

  Document m_document;
  Session m_session{m_document};

  [[nodiscard]] QStringList names() const {
    QStringList found;
    for (const int row : m_session.shots())
      found << QString::fromStdString(m_document.project().shots[size_t(row)].name);
    return found;
  }
  [[nodiscard]] double seconds() const { return m_session.playhead().toDouble(); }

private slots:
  void init() {
    m_document.startNew();
    m_document.addFootage({{test::video("/a.mp4", {1920, 1080}, 25, 10), {}}}, Document::AsShots::Yes);
    m_document.duplicateShots({0});
    m_document.duplicateShots({1});
    std::vector<Shot> shots = m_document.project().shots;
    for (size_t i = 0; i < shots.size(); ++i) shots[i].name = std::string(1, char('A' + i));
    shots[1].in = Rational(2);
    shots[1].out = Rational(7);
    m_document.changeShots(shots, {});
    std::vector<Deliverable> shapes(2);
    shapes[0].id = "d1";
    shapes[1].id = "d2";
    m_document.addDeliverables(shapes, {});
  }

  // The playhead stays on its picture while other things change, and at its time where that picture is gone.
  void thePlayheadStaysOnItsPicture_data() {
    QTest::addColumn<double>("from");
    QTest::addColumn<Edit>("edit");
    QTest::addColumn<double>("to");
    const auto cut = [](size_t row, const Rational& in, const Rational& out) {
      return Edit([=](Document& document) {
        Shot shot = document.project().shots[row];
        shot.in = in;
        shot.out = out;
        document.changeShots({shot}, {});
      });
    };
    QTest::newRow("an earlier shot is removed") << 12.0 << Edit([](Document& d) { d.removeShots({0}); }) << 2.0;
    QTest::newRow("a later shot is removed") << 12.0 << Edit([](Document& d) { d.removeShots({2}); }) << 12.0;
    QTest::newRow("its shot moves") << 12.0 << Edit([](Document& d) { d.moveShot(1, 0); }) << 2.0;
    QTest::newRow("an earlier shot is doubled") << 12.0 << Edit([](Document& d) { d.duplicateShots({0}); }) << 22.0;
    QTest::newRow("its shot is removed") << 12.0 << Edit([](Document& d) { d.removeShots({1}); }) << 12.0;
    QTest::newRow("the last is removed") << 24.0 << Edit([](Document& d) { d.removeShots({2}); }) << 15.0;
    QTest::newRow("its shot begins later") << 12.0 << cut(1, Rational(3), Rational(7)) << 11.0;
    QTest::newRow("its shot begins behind it") << 12.0 << cut(1, Rational(6), Rational(7)) << 12.0;
    QTest::newRow("its shot is cut there") << 12.0 << Edit([](Document& d) { d.splitShot(1, {Rational(4)}); }) << 12.0;
    // Cut where the playhead is, the part behind it put in front of the other: the playhead goes with what it shows.
    QTest::newRow("the last is cut there and put in front") << 22.0 << Edit([](Document& d) {
      d.splitShot(2, {Rational(7)});
      d.moveShot(3, 2);
    }) << 15.0;
    QTest::newRow("it begins behind the playhead and is put elsewhere") << 12.0 << Edit([=](Document& d) {
      cut(1, Rational(9, 2), Rational(7))(d);
      d.moveShot(1, 0);
    }) << 2.0;
    QTest::newRow("its shot is removed and comes back") << 12.0 << Edit([](Document& d) {
      d.removeShots({0, 1});
      d.undoStack().undo();
    }) << 12.0;
    const auto pace = [](const Pace& given) {
      return Edit([given](Document& document) {
        Shot shot = document.project().shots[1];
        shot.pace = given;
        document.changeShots({shot}, {});
      });
    };
    QTest::newRow("its shot is slowed") << 12.0 << pace({{1, 2}}) << 14.0;
    QTest::newRow("its shot goes backwards") << 12.0 << pace({1, true}) << 13.0;
    QTest::newRow("its shot is held") << 12.0 << pace({1, false, 6}) << 12.0;
    QTest::newRow("its shot is held for less") << 12.0 << pace({1, false, 1}) << 11.0;
    QTest::newRow("its shot becomes faster: from 1 to 3, evenly")
        << 12.0 << pace({1, false, 0, {{2, 1, SpeedEase::Even}, {6, 3, SpeedEase::Even}}}) << 10 + (std::sqrt(5.0) - 1);
    QTest::newRow("at the end") << 25.0 << Edit([](Document& d) { d.removeShots({0}); }) << 15.0;
    QTest::newRow("all is removed") << 12.0 << Edit([](Document& d) { d.removeShots({0, 1, 2}); }) << 0.0;
  }
  void thePlayheadStaysOnItsPicture() {
    QFETCH(const double, from);
    QFETCH(const Edit, edit);
    QFETCH(const double, to);
    m_session.setPlayhead(Rational(std::lround(from)));
    edit(m_document);
    QVERIFY2(std::abs(seconds() - to) < 1e-8, qPrintable(QString::number(seconds(), 'f', 9)));
  }

  void underThePlayhead_data() {
    QTest::addColumn<double>("at");
    QTest::addColumn<int>("row");
    QTest::addColumn<double>("sourceTime");
    QTest::newRow("the beginning") << 0.0 << 0 << 0.0;
    QTest::newRow("in a shot") << 11.0 << 1 << 3.0;
    QTest::newRow("a cut belongs to what begins") << 10.0 << 1 << 2.0;
    QTest::newRow("the end belongs to the last") << 25.0 << 2 << 10.0;
    QTest::newRow("beyond it") << 99.0 << 2 << 10.0;
    QTest::newRow("before all") << -1.0 << 0 << 0.0;
  }
  void underThePlayhead() {
    QFETCH(const double, at);
    QFETCH(const int, row);
    QFETCH(const double, sourceTime);
    m_session.setPlayhead(Rational(std::lround(at)));
    QCOMPARE(m_session.underPlayhead().row, row);
    QCOMPARE(m_session.underPlayhead().sourceTime.toDouble(), sourceTime);
  }

  // The bench has no moment of its own: what it shows is what is under the playhead, and going to a frame moves it.
  void theBenchIsAtThePlayhead() {
    Bench bench(m_session);
    m_session.setPlayhead(Rational(11));
    QCOMPARE(bench.row(), 1);
    QCOMPARE(bench.frame(), int64_t(75));
    bench.goTo(100);
    QCOMPARE(seconds(), 12.0);
    bench.goTo(9999); // the last of its shot: not the first of the next
    QCOMPARE(bench.row(), 1);
    QCOMPARE(bench.frame(), int64_t(174));
    m_session.lookAt(2);
    QCOMPARE(seconds(), 20.0);
    m_session.setPlayhead(Rational(16));
    m_session.lookAt(2); // it is there already
    QCOMPARE(seconds(), 16.0);
  }

  // Backwards a frame is shown from its end on: frames 50 to 174, the last of them first.
  void theBenchGoesBackwards_data() {
    QTest::addColumn<int>("frame");
    QTest::addColumn<double>("at");
    QTest::newRow("the last") << 174 << 10.0;
    QTest::newRow("in the middle") << 100 << 12.96;
    QTest::newRow("the first") << 50 << 14.96;
  }
  void theBenchGoesBackwards() {
    QFETCH(int, frame);
    QFETCH(double, at);
    Shot shot = m_document.project().shots[1];
    shot.pace.reversed = true;
    m_document.changeShots({shot}, {});
    Bench bench(m_session);
    m_session.setPlayhead(Rational(11));
    QCOMPARE(bench.frame(), int64_t(149));
    bench.goTo(frame);
    QCOMPARE(bench.frame(), int64_t(frame));
    QCOMPARE(seconds(), at);
  }

  void selectionsFollowWhatTheyAreOf_data() {
    QTest::addColumn<Edit>("edit");
    QTest::addColumn<QStringList>("shots");
    QTest::addColumn<int>("cells");
    const QStringList both{"A", "C"};
    QTest::newRow("moved") << Edit([](Document& d) { d.moveShot(2, 0); }) << QStringList{"C", "A"} << 2;
    QTest::newRow("one removed") << Edit([](Document& d) { d.removeShots({0}); }) << QStringList{"C"} << 1;
    QTest::newRow("another removed") << Edit([](Document& d) { d.removeShots({1}); }) << both << 2;
    QTest::newRow("their deliverable removed") << Edit([](Document& d) { d.removeDeliverables({1}); }) << both << 0;
    QTest::newRow("another removed") << Edit([](Document& d) { d.removeDeliverables({0}); }) << both << 2;
    QTest::newRow("another project") << Edit([](Document& d) { d.startNew(); }) << QStringList() << 0;
  }
  void selectionsFollowWhatTheyAreOf() {
    QFETCH(const Edit, edit);
    QFETCH(const QStringList, shots);
    QFETCH(const int, cells);
    m_session.selectCells({{0, 1}, {2, 1}}, {2, 1});
    edit(m_document);
    QCOMPARE(names(), shots);
    QCOMPARE(int(m_session.cells().size()), cells);
  }

  void selectingShotsKeepsTheirDeliverables() {
    m_session.selectCells({{0, 1}}, {0, 1});
    m_session.selectShots({1, 2});
    QCOMPARE(m_session.cells(), (std::vector<CellPlace>{{1, 1}, {2, 1}}));
    m_session.setDeliverable(0);
    QCOMPARE(m_session.cells(), (std::vector<CellPlace>{{1, 0}, {2, 0}}));
    QCOMPARE(m_session.current(), (CellPlace{1, 0}));
    QSignalSpy told(&m_session, &Session::selectionChanged);
    m_session.setDeliverable(0);
    m_session.selectCells(m_session.cells(), m_session.current());
    QCOMPARE(told.count(), 0); // nothing has become another
  }

  void aSoundBedIsSelectedAlone() {
    SoundBed bed;
    bed.id = "b1";
    bed.source = m_document.project().sources[0].id;
    m_document.setBeds({bed}, {});
    m_session.selectCells({{0, 0}}, {0, 0});
    m_session.selectBed(0);
    QCOMPARE(m_session.shots().size() + m_session.cells().size(), size_t(0));
    QCOMPARE(m_session.bed(), 0);
    m_document.setBeds({}, {});
    QCOMPARE(m_session.bed(), -1);
  }

  // In and out points are of a source, whichever is looked at, and fit what it is by now.
  void stretchesAreKept_data() {
    QTest::addColumn<qlonglong>("in");
    QTest::addColumn<qlonglong>("end");
    QTest::addColumn<double>("from"); // seconds that come back
    QTest::addColumn<double>("to");
    QTest::newRow("a part") << 25LL << 100LL << 1.0 << 4.0;
    QTest::newRow("to the end") << 25LL << 250LL << 1.0 << 10.0;
    QTest::newRow("beyond the end: all") << 25LL << 251LL << 0.0 << 10.0;
    QTest::newRow("nothing: all") << 100LL << 100LL << 0.0 << 10.0;
  }
  void stretchesAreKept() {
    QFETCH(const qlonglong, in);
    QFETCH(const qlonglong, end);
    m_document.addFootage({{test::video("/b.mp4", {1920, 1080}, 25, 10), {}}}, Document::AsShots::No);
    m_session.selectSources({0});
    const std::string id = m_document.project().sources[0].id;
    m_session.setStretch(id, {in, end});
    m_session.selectSources({1});
    const auto [from, to] = m_session.stretchSeconds(id);
    QTEST(from.toDouble(), "from");
    QTEST(to.toDouble(), "to");
    QCOMPARE(m_session.stretchSeconds(m_document.project().sources[1].id).second, Rational(10));
  }

  void selectedSourcesFollowTheFootage() {
    m_document.addFootage({{test::video("/b.mp4", {1920, 1080}, 25, 10), {}}}, Document::AsShots::No);
    m_session.selectSources({1, 0});
    QCOMPARE(m_session.sources(), (std::vector<int>{1, 0}));
    m_document.removeSources({0});
    QCOMPARE(m_session.sources(), (std::vector<int>{0}));
    m_document.startNew();
    QCOMPARE(m_session.sources(), std::vector<int>());
  }
};

QTEST_GUILESS_MAIN(TestSession)
#include "tst_session.moc"
