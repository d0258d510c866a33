// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BenchView.h"
#include "app/bench/FramingDialog.h"
#include "app/sheet/SheetView.h"
#include "app/shell/MainWindow.h"
#include "support/TestMedia.h"

#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QMenu>
#include <QPushButton>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QToolButton>

using namespace tromb;

/// Framing by mouse and keys, in the real window.
class TestFraming : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  std::unique_ptr<MainWindow> m_window;

  [[nodiscard]] Document& document() { return m_window->document(); }
  [[nodiscard]] BenchView& view() { return m_window->bench(); }
  [[nodiscard]] Cell cell(int row, int column) { return document().cell({row, column}); }
  [[nodiscard]] double left(int row, int column) { return cell(row, column).placements.front().window.x; }
  void drag(QPointF from, QPointF to, Qt::KeyboardModifiers keys = Qt::NoModifier) {
    BenchCanvas& canvas = view().canvas();
    QTest::mousePress(&canvas, Qt::LeftButton, Qt::NoModifier, canvas.toScreen(from).toPoint());
    for (int step = 1; step <= 4; ++step) {
      const QPointF at = canvas.toScreen(from + (to - from) * step / 4);
      QMouseEvent move(QEvent::MouseMove, at, canvas.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, keys);
      QApplication::sendEvent(&canvas, &move);
    }
    QTest::mouseRelease(&canvas, Qt::LeftButton, keys, canvas.toScreen(to).toPoint());
  }
  template <typename Widget> Widget* named(const QString& name) {
    for (Widget* each : view().findChildren<Widget*>())
      if (each->accessibleName() == name || each->toolTip() == name) return each;
    qFatal("nothing is called %s", qPrintable(name));
  }

private slots:
  void initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setApplicationName(QStringLiteral("tst_framing"));
    Theme::apply(*qApp, ThemeChoice::Day);
    test::writeClip(m_folder.filePath("wide.mp4").toStdString(), {1280, 720}, FrameRate(), 50, test::texture);
  }
  void init() {
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->show();
    m_window->bringIn({m_folder.filePath("wide.mp4")});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), 20000);
    document().duplicateShots({0});
    Deliverable story;
    story.id = "d1";
    story.name = "Story";
    story.canvas = {1080, 1920};
    Deliverable square = story;
    square.id = "d2";
    square.name = "Square";
    square.canvas = {720, 720};
    document().removeDeliverables({0, 1, 2, 3});
    document().addDeliverables({story, square}, {});
    m_window->sheet().selectionModel()->setCurrentIndex(m_window->sheet().model()->index(0, 0),
                                                        QItemSelectionModel::ClearAndSelect);
    m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), 20000);
  }
  void cleanup() {
    document().undoStack().setClean();
    m_window.reset();
  }

  void draggingPlacesTheWindow() {
    QCOMPARE(view().bench().row(), 0);
    QCOMPARE(view().bench().column(), 0);
    const int before = document().undoStack().count();
    drag({640, 360}, {500, 360}, Qt::AltModifier);
    QVERIFY2(std::abs(left(0, 0) - (500 - 202.5)) < 2, qPrintable(QString::number(left(0, 0))));
    QCOMPARE(document().undoStack().count(), before + 1); // one gesture, one step
    QVERIFY(cell(0, 0).framing.byHand() && !cell(0, 1).framing.byHand() && !cell(1, 0).framing.byHand());
    // Near the middle it snaps, unless it is held to be free.
    drag({500, 360}, {642, 360});
    QVERIFY(std::abs(left(0, 0) - (640 - 202.5)) < 1e-6);
    drag({640, 360}, {9000, 360});
    QVERIFY(std::abs(left(0, 0) - (1280 - 405)) < 1e-6); // the edge is the end
    // A corner resizes, and the shape stays.
    const QRectF rect = view().bench().windowRect(0, 0);
    drag(rect.topLeft(), rect.topLeft() + QPointF(rect.width() / 4, rect.height() / 4), Qt::AltModifier);
    const QRectF small = view().bench().windowRect(0, 0);
    QVERIFY2(std::abs(small.height() - 360) < 12, qPrintable(QString::number(small.height())));
    QVERIFY(std::abs(small.width() / small.height() - 1080.0 / 1920) < 1e-9);
  }

  void aSubjectIsFollowedFromABox() {
    BenchCanvas& canvas = view().canvas();
    canvas.setFocus();
    QTest::keyClick(&canvas, Qt::Key_T);
    QVERIFY(canvas.boxing());
    QTest::keyClick(&canvas, Qt::Key_Escape);
    QVERIFY(!canvas.boxing());
    QTest::keyClick(&canvas, Qt::Key_T);
    drag({300, 200}, {420, 330});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), 30000);
    const auto& subjects = document().project().shots[0].subjects;
    QCOMPARE(subjects.size(), size_t(1));
    QVERIFY(std::abs(subjects[0].move.front().x * 1280 - 360) < 12); // nothing moves there
    QCOMPARE(subjects[0].move.size(), size_t(1));
    QVERIFY(view().bench().track() && view().bench().track()->points.size() == 50);
    QVERIFY(std::abs(left(0, 0) - (360 - 202.5)) < 12);
  }

  void suggestionsLeaveWhatWasPlacedAlone() {
    view().bench().placeSubject({300, 360}, 0);
    const Subjects placed = document().project().shots[0].subjects;
    view().suggestSubjects();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), 30000);
    QVERIFY(document().project().shots[0].subjects == placed);
    QCOMPARE(document().project().shots[1].subjects.size(), size_t(1));
    QVERIFY(document().project().shots[1].subjects[0].guess > 0);
    view().showCell(1, 0);
    view().bench().placeSubject({500, 360}, 0); // and what somebody puts is no guess any more
    QVERIFY(document().project().shots[1].subjects[0].guess == 0);
  }

  void layoutsAreSetByHand() {
    auto* layout = named<QComboBox>(QStringLiteral("Layout of the active cell"));
    layout->setCurrentIndex(2);
    emit layout->activated(2);
    QCOMPARE(cell(0, 0).framing.layout, Layout::Stack2);
    named<QDoubleSpinBox>(QStringLiteral("Gap between the windows, of the canvas"))->setValue(5);
    named<QDoubleSpinBox>(QStringLiteral("Share of window 1 of the canvas"))->setValue(60);
    const Framing& framing = cell(0, 0).framing;
    QVERIFY(framing.gap == 0.05 && std::abs(framing.shares[0] - 0.6) < 1e-9);
    const auto shares = canvasShares(framing, {1080, 1920});
    QCOMPARE(shares[0].height, 1094); // six tenths of what 96 lines of gap leave, on an even line
    QCOMPARE(shares[1].y, 1190);
    layout->setCurrentIndex(6);
    emit layout->activated(6);
    auto* ground = named<QComboBox>(QStringLiteral("What lies under the picture"));
    QVERIFY(ground->isVisibleTo(&view()));
    emit ground->activated(2);
    QCOMPARE(cell(0, 0).placements.front().kind, Placement::Kind::Gradient);
  }

  void aSavedFramingIsLaidOnAnotherCell() {
    drag({640, 360}, {500, 360}, Qt::AltModifier);
    FramingStore store(m_folder.filePath("framings").toStdString());
    const Framing saved = cell(0, 0).framing;
    QVERIFY(store.save("Left of it", saved, true).has_value());
    view().bench().setColumn(1);
    FramingDialog dialog(cell(0, 1).framing, store,
                         [this](const Framing& framing) { view().bench().apply(framing, {}); });
    dialog.show();
    for (QPushButton* button : dialog.findChildren<QPushButton*>())
      if (button->text() == QLatin1String("&Lay it on the selected cells")) button->click();
    QVERIFY(!dialog.isVisible() && cell(0, 1).framing == saved);
  }

  // A source that is turned or mirrored is so everywhere, and what was framed stays framed.
  void aTurnedSourceKeepsItsFraming() {
    view().bench().placeSubject({300, 200}, 0);
    auto* mirrored = view().canvas().parentWidget();
    QTest::keyClick(mirrored, Qt::Key_M);
    QVERIFY(document().project().sources[0].orientation.mirrored);
    QVERIFY(std::abs(document().project().shots[0].subjects[0].move[0].x - (1 - 300.0 / 1280)) < 1e-9);
    QVERIFY(std::abs(left(0, 0) - (1280 - 300 - 202.5)) < 1e-6);
    QTest::keyClick(mirrored, Qt::Key_R);
    QCOMPARE(cell(0, 0).shape.picture(), (SizeF{720, 1280}));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), 20000);
    document().undoStack().undo();
    document().undoStack().undo();
    QVERIFY(std::abs(left(0, 0) - (300 - 202.5)) < 1e-6 &&
            document().project().sources[0].orientation == Orientation());
    auto* straighten = named<QDoubleSpinBox>(
        QStringLiteral("Straighten the source: degrees clockwise, enlarged just enough to leave no corner empty"));
    const double before = cell(0, 0).detail;
    straighten->setValue(3);
    QVERIFY(std::abs(cell(0, 0).detail * straightenZoom({1280, 720}, 3) - before) < 1e-9); // and it costs what it costs
  }

  void aDoubleClickMarksTheSubject() {
    BenchCanvas& canvas = view().canvas();
    QTest::mouseDClick(&canvas, Qt::LeftButton, Qt::NoModifier, canvas.toScreen({300, 360}).toPoint());
    QVERIFY(std::abs(left(0, 0) - (300 - 202.5)) < 2 && left(0, 1) < 1e-6);
    drag(*view().bench().subject(), {800, 360});
    QVERIFY(std::abs(left(0, 0) - (800 - 202.5)) < 2 && std::abs(left(0, 1) - (800 - 360)) < 2);
    auto* wanted = named<QComboBox>(QStringLiteral("Where the subject is wanted"));
    wanted->setCurrentIndex(2);
    emit wanted->activated(2); // in the left third
    QVERIFY(std::abs(left(0, 0) - (800 - 135)) < 2);
    // Framed by hand, then given back.
    view().bench().setPlacesSubject(false);
    named<QDoubleSpinBox>(QStringLiteral("Centre from the left, in pixels of the picture"))->setValue(400);
    QVERIFY(std::abs(left(0, 0) - (400 - 202.5)) < 0.1);
    named<QToolButton>(QStringLiteral("Give this cell back to the subject"))->click();
    QVERIFY(std::abs(left(0, 0) - (800 - 135)) < 2);
  }

  void keysAndKeyboard() {
    BenchCanvas& canvas = view().canvas();
    canvas.setFocus();
    QTest::keyClick(&canvas, Qt::Key_Right, Qt::ShiftModifier); // ten canvas pixels are 3.75 of the picture
    QVERIFY(std::abs(left(0, 0) - (437.5 + 3.75)) < 1e-6);
    QTest::keyClick(&canvas, Qt::Key_K);
    QVERIFY(view().bench().move() && view().bench().move()->size() == 1);
    MoveCurves* curves = view().findChild<MoveCurves*>();
    QTest::keyClick(curves, Qt::Key_End);
    QCOMPARE(view().bench().frame(), int64_t(49));
    drag({640, 360}, {900, 360}, Qt::AltModifier);
    QCOMPARE(view().bench().move()->size(), size_t(2));
    QTest::keyClick(curves, Qt::Key_PageUp);
    QCOMPARE(view().bench().frame(), int64_t(25));
    QTest::keyClick(curves, Qt::Key_Backspace);
    QCOMPARE(view().bench().move()->size(), size_t(1));
    QTest::keyClick(&canvas, Qt::Key_N);
    QCOMPARE(view().bench().column(), 1);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), 20000); // drawn without a fault
    QVERIFY(!m_window->grab().isNull());
  }

  void waysToFillAreAppliedToOneAndAll() {
    const auto way = [this](const QString& name) -> QToolButton* {
      for (QToolButton* each : view().findChildren<QToolButton*>())
        if (each->accessibleName().startsWith(name)) return each;
      return nullptr;
    };
    QTRY_VERIFY(way(QStringLiteral("two stacked")) != nullptr);
    way(QStringLiteral("two stacked"))->click();
    QTRY_COMPARE(cell(0, 0).framing.layout, Layout::Stack2);
    QVERIFY(cell(1, 0).framing.layout == Layout::Single);
    document().undoStack().undo();
    QTRY_VERIFY(way(QStringLiteral("backdrop")) != nullptr);
    way(QStringLiteral("backdrop"))->menu()->actions().front()->trigger();
    QTRY_COMPARE(cell(1, 0).framing.layout, Layout::Backdrop);
    QVERIFY(cell(0, 0).detail > 1 && cell(1, 1).framing.layout == Layout::Single);
  }

  void framingsAreCarriedOnTheSheet() {
    SheetView& sheet = m_window->sheet();
    m_window->showView(MainWindow::View::Sheet);
    document().setFramings({{{0, 0}, slid(cell(0, 0), 100, 0)}}, {});
    const auto select = [&](int row, int column) {
      sheet.selectionModel()->setCurrentIndex(sheet.model()->index(row, column), QItemSelectionModel::ClearAndSelect);
    };
    select(0, 0);
    sheet.copyFraming();
    select(1, 0);
    sheet.pasteFraming(FramingPart::All);
    QCOMPARE(cell(1, 0).framing, cell(0, 0).framing);
    select(0, 0);
    sheet.spreadFraming(SheetView::Spread::Row);
    QCOMPARE(cell(0, 1).framing, cell(0, 0).framing);
    select(1, 1);
    sheet.takeFromBefore();
    QCOMPARE(cell(1, 1).framing, cell(0, 1).framing);
    sheet.followSelected();
    QVERIFY(!cell(1, 1).framing.byHand());
    select(0, 0);
    sheet.spreadFraming(SheetView::Spread::SameSource);
    QCOMPARE(cell(1, 0).framing, cell(0, 0).framing);
  }
};

QTEST_MAIN(TestFraming)
#include "tst_framing.moc"
