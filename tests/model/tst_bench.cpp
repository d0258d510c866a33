// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Bench.h"
#include "project/ProjectFile.h"
#include "support/TestProject.h"

#include <QSignalSpy>
#include <QTest>
#include <random>

using namespace tromb;

/// The placing of one shot, without the view that shows it.
class TestBench : public QObject {
  Q_OBJECT

  Document m_document;
  Session m_session{m_document};
  static Deliverable shape(const char* id, Size canvas) {
    Deliverable d;
    d.id = d.name = id;
    d.canvas = canvas;
    return d;
  }
  [[nodiscard]] double left(int column) const { return m_document.cell({0, column}).placements.front().window.x; }

private slots:
  /// A 3840×2160 source of 10 s at 25, one shot of its seconds 2 to 8, in three shapes.
  void init() {
    m_document.startNew();
    m_document.addFootage({{test::video("/a.mp4", {3840, 2160}, 25, 10), {}}}, Document::AsShots::Yes);
    Shot shot = m_document.project().shots[0];
    shot.in = Rational(2);
    shot.out = Rational(8);
    m_document.changeShots({shot}, {});
    m_document.addDeliverables({shape("wide", {1920, 1080}), shape("story", {1080, 1920}), shape("post", {1080, 1080})},
                               {});
    m_session.setPlayhead(Rational(3)); // the middle of the shot
  }

  void oneMarkFramesAllShapes() {
    Bench bench(m_session);
    QCOMPARE(bench.frame(), int64_t(125)); // the middle
    bench.placing().placeSubject({1000, 1080}, 0);
    QVERIFY(std::abs(left(1) - (1000 - 607.5)) < 1e-6); // 1215 pixels wide
    QVERIFY(std::abs(left(2) - 0) < 1e-6);              // 2160 wide: stopped at the edge
    // A cell that was framed by hand stays, until it is given back.
    m_session.setDeliverable(1);
    bench.placing().placeWindow({2500, 1080}, 0, 0);
    bench.placing().placeSubject({1400, 1080}, 0);
    QVERIFY(std::abs(left(1) - (2500 - 607.5)) < 1e-6);
    QVERIFY(std::abs(left(2) - 320) < 1e-6);
    QVERIFY(m_document.cell({0, 1}).framing.byHand());
    QVERIFY(!m_document.cell({0, 2}).framing.byHand());
    bench.placing().follow();
    QVERIFY(std::abs(left(1) - (1400 - 607.5)) < 1e-6);
    // Adding a deliverable gives it a good framing at once.
    m_document.addDeliverable(shape("tall", {1080, 1350}));
    QVERIFY(std::abs(left(3) - (1400 - 864)) < 1e-6);
    bench.placing().setWanted(1.0 / 3, 0.5);
    QVERIFY(std::abs(left(1) - (1400 - 405)) < 1e-6);
  }

  void placingStopsSnapsAndHolds() {
    Bench bench(m_session);
    m_session.setDeliverable(1);
    bench.placing().placeWindow({-500, 1080}, 0, 0);
    QVERIFY(std::abs(left(1)) < 1e-9); // the edge is the end
    bench.placing().placeWindow({1285, 1080}, 10, 0);
    QVERIFY(std::abs(left(1) - (1280 - 607.5)) < 1e-6); // the picture's first third
    bench.placing().placeWindow({1285, 1080}, 0, 0);
    QVERIFY(std::abs(left(1) - (1285 - 607.5)) < 1e-6);
    // 2160 lines on 1920: detail 1.00 is at zoom 1.125, and zooming is held there.
    bench.placing().zoomWindow(1.15, true, 0);
    QVERIFY(std::abs(m_document.cell({0, 1}).detail - 1) < 1e-9);
    bench.placing().zoomWindow(1.5, true, 0);
    QVERIFY(std::abs(m_document.cell({0, 1}).detail - 0.75) < 1e-9);
    bench.placing().zoomWindow(0.2, false, 0);
    QVERIFY(std::abs(m_document.cell({0, 1}).detail - 1.125) < 1e-9); // never less than the canvas
    const double before = left(1);
    bench.placing().nudge(8, 0, 0); // eight canvas pixels are nine of the picture
    QVERIFY(std::abs(left(1) - before - 9) < 1e-6);
  }

  void keysMakeAMove() {
    Bench bench(m_session);
    m_session.setDeliverable(1);
    bench.goTo(0);
    QCOMPARE(bench.frame(), int64_t(50)); // the shot's first
    bench.placing().placeWindow({800, 1080}, 0, 0);
    bench.moves().setKey();
    bench.goTo(199);
    bench.placing().placeWindow({3000, 1080}, 0, 0); // with a move, placing sets a key
    QCOMPARE(bench.moves().move()->size(), size_t(2));
    bench.moves().setEase(Ease::Linear);
    bench.moves().goToKey(-1);
    QCOMPARE(bench.frame(), int64_t(50));
    bench.moves().setEase(Ease::Linear);
    bench.goTo(50 + 149 / 2);
    const double share = (74.0) / 149;
    QVERIFY(std::abs(bench.windowRect(1, 0).center().x() - (800 + 2200 * share)) < 1e-6);
    // 2200 pixels in 5.96 s, 1215 a window: a width in 3.29 s.
    QVERIFY2(std::abs(bench.placing().secondsAWidth() - 1215.0 / 2200 * 5.96) < 0.02,
             qPrintable(QString::number(bench.placing().secondsAWidth())));
    MoveKey key = bench.moves().move()->front();
    key.time = Rational(9);
    bench.moves().changeKey(0, key, 0); // not past its neighbour
    QVERIFY(bench.moves().move()->front().time == Rational(2));
    bench.moves().reverse();
    bench.goTo(50);
    QVERIFY(std::abs(bench.windowRect(1, 0).center().x() - 3000) < 1e-6);
    // Sliding in the sheet takes the whole move along; both ends stop at the picture's edge.
    const Framing slidAlong = slid(m_document.cell({0, 1}), 100, 0);
    QVERIFY(slidAlong.windows[0].move[0].x < bench.moves().move()->front().x);
    QVERIFY(slidAlong.windows[0].move[1].x < bench.moves().move()->back().x);
    bench.moves().removeKey(0);
    bench.moves().removeKey(0);
    QVERIFY(!bench.moves().move());
    bench.moves().startAndEnd();
    QVERIFY(bench.moves().move());
    QVERIFY(bench.moves().move()->size() == 2);
    m_document.undoStack().undo();
    QVERIFY(!bench.moves().move());

    bench.setPlacesSubject(true);
    bench.goTo(50);
    bench.placing().placeSubject({700, 1080}, 0);
    bench.moves().setKey();
    bench.goTo(150);
    bench.moves().setKey();
    bench.placing().placeSubject({2000, 1080}, 0);
    QCOMPARE(bench.moves().move()->size(), size_t(2));
    QVERIFY(moves(Framing{}, bench.shot()->subjects));
    bench.moves().clearMove();
    QVERIFY(bench.moves().move()->size() == 1);
    QVERIFY(std::abs(bench.subject()->x() - 2000) < 1e-6);
  }

  void movesAreShiftedAndStretched() {
    Bench bench(m_session);
    m_session.setDeliverable(1);
    for (const auto& [frame, x] : {std::pair<int64_t, double>(60, 1000), {100, 2000}}) {
      bench.goTo(frame);
      bench.placing().placeWindow({x, 1080}, 0, 0);
      bench.moves().setKey();
    }
    const auto times = [&] { return std::pair(bench.moves().move()->front().time, bench.moves().move()->back().time); };
    bench.moves().shiftMove(5);
    QVERIFY(times() == std::pair(Rational(65, 25), Rational(105, 25)));
    bench.moves().shiftMove(-99); // stops at the shot's beginning
    QVERIFY(times() == std::pair(Rational(2), Rational(90, 25)));
    bench.moves().stretchMove(Rational(3, 2));
    QVERIFY(times() == std::pair(Rational(2), Rational(110, 25)));
    bench.moves().stretchMove(Rational(9)); // as long as there is room
    QVERIFY(times() == std::pair(Rational(2), Rational(199, 25)));
  }

  // Keys are set at the cuts beside the moment in one action; a move is copied to another window, another shape, the
  // subject and another shot, where it begins as long after the cut.
  void movesAreCopiedAndSetAtTheCuts() {
    Bench bench(m_session);
    m_session.setDeliverable(1);
    bench.goTo(120);
    bench.placing().placeWindow({1000, 1080}, 0, 0);
    const int before = m_document.undoStack().count();
    bench.moves().setKeyAtCut(1);
    QVERIFY(bench.moves().move()->size() == 1);
    QVERIFY(bench.moves().move()->front().time == Rational(199, 25));
    QVERIFY(bench.frame() == 120);
    QCOMPARE(m_document.undoStack().count(), before + 1);
    bench.moves().setKeyAtCut(-1);
    QVERIFY(bench.moves().move()->size() == 2);
    QVERIFY(bench.moves().move()->front().time == Rational(2));
    bench.goTo(199);
    bench.placing().placeWindow({3000, 1080}, 0, 0);
    const Move move = *bench.moves().move();
    bench.moves().copyMove();
    m_session.setDeliverable(2);
    bench.moves().pasteMove();
    QVERIFY(*bench.moves().move() == move);
    bench.setPlacesSubject(true);
    bench.moves().pasteMove(); // and where there is no subject yet, it makes one
    QVERIFY(bench.shot()->subjects.size() == 1);
    QVERIFY(*bench.moves().move() == move);
    bench.setPlacesSubject(false);
    m_document.duplicateShots({0});
    Shot other = m_document.project().shots[1];
    other.in = Rational(1);
    m_document.changeShots({other}, {});
    m_session.lookAt(1);
    m_session.setDeliverable(0);
    bench.moves().pasteMove();
    QVERIFY(bench.moves().move()->front().time == Rational(1));
    QVERIFY(bench.moves().move()->back().time == Rational(199, 25) - Rational(1));
    QVERIFY(bench.moves().move()->front().x == move.front().x);
    QVERIFY(bench.moves().move()->back().zoom == move.back().zoom);
  }

  // What a window that is dragged near something snaps to, in pixels of the 3840×2160 picture. The 9:16 window is 1215
  // wide, the square one 2160.
  void windowsSnap_data() {
    QTest::addColumn<double>("dropped"); // centre
    QTest::addColumn<double>("lands");
    QTest::newRow("middle") << 1930.0 << 1920.0;
    QTest::newRow("first third") << 1271.0 << 1280.0;
    QTest::newRow("second third") << 2566.0 << 2560.0;
    QTest::newRow("left edge") << 617.0 << 607.5;
    QTest::newRow("right edge") << 3222.0 << 3840 - 607.5;
    QTest::newRow("the square's middle") << 1509.0 << 1500.0;
    QTest::newRow("the square's left edge") << 1020.0 << 1500 - 1080 + 607.5;
    QTest::newRow("the square's right edge") << 1980.0 << 1500 + 1080 - 607.5;
    QTest::newRow("nothing near") << 1700.0 << 1700.0;
    QTest::newRow("beyond the edge") << -300.0 << 607.5;
  }
  void windowsSnap() {
    QFETCH(double, dropped);
    QFETCH(double, lands);
    Bench bench(m_session);
    m_session.setDeliverable(2);
    bench.placing().placeWindow({1500, 1080}, 0, 0);
    m_session.setDeliverable(1);
    bench.placing().placeWindow({dropped, 1080}, 12, 0);
    QVERIFY2(std::abs(bench.windowRect(1, 0).center().x() - lands) < 1e-6,
             qPrintable(QString::number(bench.windowRect(1, 0).center().x())));
    bench.placing().placeWindow({dropped, 1080}, 0, 0); // let go of
    QVERIFY(std::abs(bench.windowRect(1, 0).center().x() - std::max(607.5, dropped)) < 1e-6);
  }

  // Two windows of a stack have a subject each; moving one leaves the other.
  void windowsOfAStackHaveTheirOwnSubjects() {
    Bench bench(m_session);
    m_session.setDeliverable(1);
    Framing stack;
    QVERIFY(framingByName("stack2", stack));
    bench.placing().apply(stack, {});
    const auto centre = [&](int window) { return bench.windowRect(1, window).center().x(); };
    QVERIFY(std::abs(centre(0) - 3840 / 4.0) < 256);
    QVERIFY(std::abs(centre(1) - 3840 * 3 / 4.0) < 256);
    bench.setWindow(1);
    bench.placing().placeSubject({2500, 1000}, 0); // of the second first: the other one stays where it is
    QVERIFY(std::abs(centre(0) - 3840 / 4.0) < 256);
    QVERIFY(std::abs(centre(1) - 2500) < 1e-6);
    m_document.undoStack().undo();
    QVERIFY(!bench.subject());
    QVERIFY(bench.shot()->subjects.empty());
    bench.setWindow(0);
    bench.placing().placeSubject({1300, 1000}, 0);
    const double second = centre(1);
    QVERIFY(std::abs(centre(0) - 1300) < 1e-6);
    bench.setWindow(1);
    bench.placing().placeSubject({2400, 1000}, 0);
    QVERIFY(std::abs(centre(0) - 1300) < 1e-6);
    QVERIFY(std::abs(centre(1) - 2400) < 1e-6);
    QVERIFY(second != centre(1));
    QCOMPARE(bench.shot()->subjects.size(), size_t(2));
    QVERIFY(std::abs(bench.subject()->x() - 2400) < 1e-6);
    bench.setWindow(0);
    QVERIFY(std::abs(bench.subject()->x() - 1300) < 1e-6);
    bench.setWindow(9); // there is no such window: the last
    QCOMPARE(bench.window(), 1);
    // By hand, and given back.
    bench.placing().placeWindow({2000, 1080}, 0, 0);
    QVERIFY(std::abs(centre(0) - 1300) < 1e-6);
    QVERIFY(std::abs(centre(1) - 2000) < 1e-6);
    bench.placing().follow();
    QVERIFY(std::abs(centre(1) - 2400) < 1e-6);
    bench.placing().removeSubject();
    QVERIFY(bench.shot()->subjects.empty());
  }

  // A property over chance: whatever is done on the bench, in whatever order, no window leaves the picture, nothing is
  // open, what is never to be enlarged is not, the project can be written and read again, and every step can be undone.
  void whateverIsDoneHolds() {
    std::mt19937 dice(17);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    for (int round = 0; round < 40; ++round) {
      init();
      m_document.duplicateShots({0});
      Deliverable held = m_document.project().deliverables[2];
      held.sharpOnly = true;
      held.canvas = {1400, 1400};
      m_document.editDeliverable(2, held);
      Bench bench(m_session);
      const Project begun = m_document.project();
      const int steps = m_document.undoStack().count();
      QStringList done;
      for (int step = 0; step < 120; ++step) {
        const QPointF at(upTo(4200) - 180.0, upTo(2500) - 170.0);
        const int action = upTo(24);
        done << QString::number(action);
        switch (action) {
        case 0:
          m_session.lookAt(upTo(2));
          break;
        case 1:
          m_session.setDeliverable(upTo(3));
          break;
        case 2:
          bench.setWindow(upTo(3));
          break;
        case 3:
          bench.setPlacesSubject(upTo(2) == 1);
          break;
        case 4:
          bench.goTo(upTo(260));
          break;
        case 5:
          bench.placing().placeSubject(at, 0);
          break;
        case 6:
          bench.placing().placeWindow(at, upTo(2) * 20, 0);
          break;
        case 7:
          bench.placing().zoomWindow(0.5 + upTo(40) / 8.0, upTo(2) == 1, 0);
          break;
        case 8:
          bench.placing().nudge(upTo(41) - 20, upTo(41) - 20, 0);
          break;
        case 9:
          bench.placing().follow();
          break;
        case 10: {
          static const char* const kNames[] = {"fill", "stack2", "stack3", "side2", "side3", "backdrop"};
          Framing framing;
          (void)framingByName(kNames[upTo(6)], framing);
          framing.gap = upTo(3) * 0.02;
          bench.placing().apply(framing, {});
          break;
        }
        case 11:
          if (const auto ways = bench.placing().ways(); !ways.empty())
            bench.placing().applyWay(ways[size_t(upTo(int(ways.size())))]);
          break;
        case 12:
        case 13:
          bench.moves().setKey();
          break;
        case 14:
          bench.moves().removeKey(upTo(3));
          break;
        case 15:
          if (bench.moves().move()) {
            MoveKey key = bench.moves().move()->front();
            key.time = Rational(upTo(300), 25);
            key.x = upTo(300) / 100.0 - 1;
            key.zoom = upTo(900) / 100.0;
            key.ease = Ease(upTo(4));
            bench.moves().changeKey(upTo(3), key, 0);
          }
          break;
        case 16:
          bench.moves().startAndEnd();
          break;
        case 17:
          bench.moves().reverse();
          break;
        case 18:
          bench.moves().shiftMove(upTo(200) - 100);
          break;
        case 19:
          bench.moves().stretchMove(Rational(1 + upTo(8), 4));
          break;
        case 20:
          upTo(2) ? bench.moves().copyMove() : bench.moves().pasteMove();
          break;
        case 21:
          bench.source().setOrientation({90 * upTo(4), upTo(2) == 1, upTo(3) - 1.0}, {});
          break;
        case 22:
          bench.source().setBars({upTo(100), upTo(300), upTo(100), upTo(300)});
          break;
        default:
          upTo(2) ? bench.moves().clearMove() : bench.placing().setWanted(upTo(3) / 2.0, upTo(3) / 2.0);
        }
        for (int row = 0; row < 2; ++row)
          for (int column = 0; column < 3; ++column) {
            Cell cell = m_document.cell({row, column});
            const SizeF picture = cell.shape.picture();
            const double in = m_document.project().shots[size_t(row)].in.toDouble();
            for (int moment = 0; moment < 7; ++moment) {
              turnTo(cell, in + moment);
              for (const Placement& placed : cell.placements)
                QVERIFY2(placed.window.x >= -1e-6 && placed.window.y >= -1e-6 &&
                             placed.window.right() <= picture.width + 1e-6 &&
                             placed.window.bottom() <= picture.height + 1e-6,
                         qPrintable(done.join(QLatin1Char(' '))));
              QVERIFY2(uncoveredPercent(cell.canvas, cell.placements) == 0, qPrintable(done.join(QLatin1Char(' '))));
            }
            Cell widest = cell;
            for (Window& window : widest.framing.windows) {
              window.zoom = 1;
              window.move.clear();
            }
            turnTo(widest, in);
            const double least = std::min(1.0, detail(widest.shape, widest.placements));
            if (cell.sharpOnly) QVERIFY2(cell.detail > least * 0.99, qPrintable(done.join(QLatin1Char(' '))));
          }
        QVERIFY(bench.frame() >= bench.firstFrame());
        QVERIFY(bench.frame() < bench.endFrame());
        const auto again = fromText(toText(m_document.project(), "/"), "/");
        QVERIFY2(again, qPrintable(done.join(QLatin1Char(' ')) + (again ? "" : sentence(again.error()).c_str())));
        QVERIFY2(*again == m_document.project(),
                 qPrintable(done.join(QLatin1Char(' ')) + (again ? "" : sentence(again.error()).c_str())));
      }
      while (m_document.undoStack().count() > steps && m_document.undoStack().index() > steps)
        m_document.undoStack().undo();
      QVERIFY(m_document.project() == begun);
    }
  }

  // A way that trembles becomes a move that does not; how calm is chosen afterwards, in one step a gesture.
  void aTrackBecomesACalmMove() {
    Bench bench(m_session);
    Track track;
    for (int frame = 50; frame < 200; ++frame) {
      const double x = 0.3 + 0.3 * (frame - 50) / 150 + 0.004 * (frame % 3 - 1);
      track.points.push_back({frame, {x - 0.03, 0.45, 0.06, 0.1}});
    }
    const int before = m_document.undoStack().count();
    bench.following().takeTrack(m_document.project().shots[0].id, track);
    QCOMPARE(m_document.undoStack().count(), before + 1);
    QVERIFY(bench.placesSubject());
    QVERIFY(bench.following().track());
    // The way that the made move goes, and how far it is off the subject at most.
    const auto off = [&] {
      double most = 0;
      for (const TrackPoint& point : track.points)
        most = std::max(most, std::abs(placeAt(*bench.moves().move(), double(point.frame) / 25).x - point.x()));
      return most;
    };
    const int gesture = m_document.newGesture();
    bench.following().setCalming(0.1, gesture);
    const double near = off();
    bench.following().setCalming(1, gesture);
    QVERIFY2(off() > near * 2, qPrintable(QStringLiteral("%1 %2").arg(near).arg(off())));
    QVERIFY2(near < 0.03, qPrintable(QStringLiteral("%1 %2").arg(near).arg(off())));
    QVERIFY(bench.moves().move()->size() < 12);
    QCOMPARE(m_document.undoStack().count(), before + 2);
    // At its calmest too, the subject is in the narrowest window at every frame.
    for (const TrackPoint& point : track.points) {
      Cell cell = m_document.cell({0, 1});
      turnTo(cell, double(point.frame) / 25);
      const RectF window = cell.placements.front().window;
      QVERIFY(point.box.x * 3840 >= window.x);
      QVERIFY(point.box.right() * 3840 <= window.right());
    }
    m_document.undoStack().undo();
    m_document.undoStack().undo();
    QVERIFY(m_document.project().shots[0].subjects.empty());
    // It belongs to the picture that it was found in.
    bench.source().setOrientation({90, false, 0}, {});
    QVERIFY(!bench.following().track());
    m_document.undoStack().undo();
    QVERIFY(bench.following().track());
    m_document.startNew();
    QVERIFY(!bench.following().track());
  }

  void whatIsNeverToBeEnlargedIsHeld() {
    Bench bench(m_session);
    m_session.setDeliverable(1);
    bench.placing().zoomWindow(2, false, 0);
    const Framing soft = m_document.cell({0, 1}).framing;
    Deliverable changed = m_document.project().deliverables[1];
    changed.sharpOnly = true;
    m_document.editDeliverable(1, changed); // 2160 lines on 1920: sharp up to zoom 1.125
    QVERIFY(std::abs(m_document.cell({0, 1}).detail - 1) < 1e-9);
    // A canvas that cannot be filled says so, and the ways out are offered.
    changed.canvas = {2160, 3840};
    m_document.editDeliverable(1, changed);
    QVERIFY(cellWords(m_document.cell({0, 1})).startsWith(QLatin1String("cannot fill")));
    QVERIFY(bench.placing().ways().size() > 2);
    // What was chosen is kept, and holds again where it may.
    changed.canvas = {1080, 1920};
    changed.sharpOnly = false;
    m_document.editDeliverable(1, changed);
    QVERIFY(m_document.cell({0, 1}).framing == soft);
    changed.sharpOnly = true;
    m_document.editDeliverable(1, changed);
    bench.placing().zoomWindow(3, false, 0);
    bench.moves().setKey();
    QVERIFY(std::abs(m_document.cell({0, 1}).detail - 1) < 1e-9);
    QVERIFY(std::abs(bench.moves().move()->front().zoom - 1.125) < 1e-9);
  }

  void waysAreOfferedWhereItIsSoft() {
    Bench bench(m_session);
    m_session.setDeliverable(1);
    QVERIFY(bench.placing().ways().empty()); // 2160 lines are enough
    bench.placing().zoomWindow(2, false, 0);
    const auto ways = bench.placing().ways();
    QVERIFY(ways.size() >= 2);
    const Project before = m_document.project();
    for (const WayToFill& way : ways) {
      bench.placing().applyWay(way);
      const Cell cell = m_document.cell({0, 1});
      QVERIFY(cell.uncoveredPercent == 0);
      QVERIFY(std::abs(cell.detail - way.detail) < 1e-9);
      m_document.undoStack().undo();
      QVERIFY(m_document.project() == before);
    }
  }

  void partsOfAFramingAreCarried() {
    Cell source;
    Framing& from = source.framing;
    (void)framingByName("stack2", from);
    from.windows[0].x = 0.2;
    from.windows[0].follows = false;
    from.windows[0].zoom = 2;
    Cell to;
    QVERIFY(carried(to, source, FramingPart::All) == from);
    QVERIFY(carried(to, source, FramingPart::Arrangement).layout == Layout::Stack2);
    const Framing place = carried(to, source, FramingPart::Position);
    QVERIFY(place.layout == Layout::Single);
    QVERIFY(place.windows[0].x == 0.2);
    QVERIFY(place.windows[0].zoom == 1);
    QVERIFY(place.byHand());
    QVERIFY(carried(to, source, FramingPart::Zoom).windows[0].zoom == 2);
    // A move begins as long after the beginning of the one shot as of the other; what lies before the source's is held.
    source.in = Rational(3);
    from.windows[0].move = {{Rational(2), 0.2, 0.5, 1, Ease::Linear, {}}, {Rational(4), 0.4, 0.5, 2, Ease::Linear, {}}};
    to.in = Rational(10);
    Move move = carried(to, source, FramingPart::Keys).windows[0].move;
    QVERIFY(move.size() == 2);
    QVERIFY(move[0].time == Rational(9));
    QVERIFY(move[1].time == Rational(11));
    to.in = Rational(0);
    move = carried(to, source, FramingPart::All).windows[0].move;
    QVERIFY(move.size() == 2);
    QVERIFY(move[0].time == Rational(0));
    QVERIFY(move[1].time == Rational(1));
    QVERIFY(move[1].x == 0.4);
    QVERIFY(std::abs(move[0].x - 0.3) < 1e-12);
    QVERIFY(std::abs(move[0].zoom - std::sqrt(2)) < 1e-12);
    to.in = Rational(-9); // never so, but nothing is lost
    move = carried(to, source, FramingPart::All).windows[0].move;
    QVERIFY(move.size() == 1);
    QVERIFY(move[0].time == Rational(0));
    QVERIFY(move[0].x == 0.4);
  }
};

QTEST_GUILESS_MAIN(TestBench)
#include "tst_bench.moc"
