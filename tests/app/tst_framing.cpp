// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BenchView.h"
#include "app/bench/FramingDialog.h"
#include "app/sheet/CellDelegate.h"
#include "app/sheet/SheetView.h"
#include "app/shell/MainWindow.h"
#include "app/shell/QuestionBar.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "export/Exporter.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "render/Pictures.h"
#include "support/DrawnScenes.h"
#include "support/Patience.h"
#include "support/TestMedia.h"
#include "support/Thoroughness.h"

#include <QAction>
#include <QApplication>
#include <QColorDialog>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QPainter>
#include <QPushButton>
#include <QSignalSpy>
#include <QSpinBox>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <QWheelEvent>

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
    Settings::setFramesNewShots(false); // tests of other things
    Theme::apply(*qApp, ThemeChoice::Day);
    test::writeClip(m_folder.filePath("wide.mp4").toStdString(), {1280, 720}, FrameRate(), 50, test::texture);
  }
  void init() {
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->resize(1280, 800);
    m_window->show();
    m_window->bringIn({m_folder.filePath("wide.mp4")});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
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
    m_window->session().setPlayhead(Rational(1)); // the middle of the first shot
    m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
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
    QVERIFY(cell(0, 0).framing.byHand());
    QVERIFY(!cell(0, 1).framing.byHand());
    QVERIFY(!cell(1, 0).framing.byHand());
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

  // Nothing can be placed without a shape: the sheet is shown, which offers one, until there is one again.
  void theBenchNeedsAShape() {
    document().removeDeliverables({0, 1});
    m_window->grab(); // drawn without a fault
    QVERIFY(!view().bench().shot());
    QTRY_VERIFY_WITH_TIMEOUT(!view().isVisible(), test::kPatience);
    m_window->showView(MainWindow::View::Bench);
    for (QWidget* each : view().findChildren<QWidget*>()) each->grab();
    document().undoStack().undo();
    QTRY_VERIFY_WITH_TIMEOUT(view().isVisible(), test::kPatience);
    QCOMPARE(view().bench().row(), 0);
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
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    const auto& subjects = document().project().shots[0].subjects;
    QCOMPARE(subjects.size(), size_t(1));
    QVERIFY(std::abs(subjects[0].move.front().x * 1280 - 360) < 12); // nothing moves there
    QCOMPARE(subjects[0].move.size(), size_t(1));
    QVERIFY(view().bench().following().track());
    QVERIFY(view().bench().following().track()->points.size() == 50);
    QVERIFY(std::abs(left(0, 0) - (360 - 202.5)) < 12);
  }

  // The box round what is tracked is placed by keys as well as drawn.
  void aBoxIsPlacedByKeys() {
    BenchCanvas& canvas = view().canvas();
    QSignalSpy boxed(&canvas, &BenchCanvas::boxed);
    m_window->actions().at(QStringLiteral("track"))->trigger();
    QVERIFY(canvas.boxing());
    for (int i = 0; i < 5; ++i) QTest::keyClick(&canvas, Qt::Key_Left); // a hundredth of 1280 pixels each
    QTest::keyClick(&canvas, Qt::Key_Up, Qt::ControlModifier);          // one pixel
    QTest::keyClick(&canvas, Qt::Key_Right, Qt::ShiftModifier);         // wider
    QTest::keyClick(&canvas, Qt::Key_Return);
    QCOMPARE(boxed.count(), 1);
    const QRectF box = boxed.front().front().toRectF();
    const double side = box.height(); // as it was, since only its width was changed
    QCOMPARE(box.width(), side + 12.8);
    QCOMPARE(box.left(), 640 - side / 2 - 5 * 12.8);
    QCOMPARE(box.top(), 360 - side / 2 - 1);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
  }

  void suggestionsLeaveWhatWasPlacedAlone() {
    view().bench().placing().placeSubject({300, 360}, 0);
    const Subjects placed = document().project().shots[0].subjects;
    m_window->framing().frameAll();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QVERIFY(document().project().shots[0].subjects == placed);
    QCOMPARE(document().project().shots[1].subjects.size(), size_t(1));
    QVERIFY(document().project().shots[1].subjects[0].guess > 0);
    m_window->session().lookAt(1);
    view().bench().placing().placeSubject({500, 360}, 0); // and what somebody puts is no guess any more
    QVERIFY(document().project().shots[1].subjects[0].guess == 0);
  }

  // New shots come framed; what is in doubt is stepped through by keys, and taken by number.
  void doubtIsSteppedThrough() {
    const auto file = [&](const std::string& name) {
      for (const test::DrawnScene& each : test::drawnScenes())
        if (each.name == name) return QString::fromStdString(test::sceneFile(each, m_folder.path().toStdString()));
      qFatal("no such scene");
    };
    Settings::setFramesNewShots(true);
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->show();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
    Deliverable story;
    story.id = "d1";
    story.name = "Story";
    story.canvas = {1080, 1920};
    document().addDeliverables({story}, {});
    m_window->bringIn({file("talks at the right, large"), file("many things move"), file("nothing but scenery")});
    auto* bar = m_window->findChild<QuestionBar*>();
    QTRY_VERIFY_WITH_TIMEOUT(bar->isVisible() && m_window->settled(), test::kPatience);
    const QString told = bar->findChild<QLabel*>()->text();
    QCOMPARE(told, QStringLiteral("3 of 3 shots framed by what was found, 2 of them in doubt"));
    const auto shot = [&](int row) { return document().project().shots[size_t(row)]; };
    QVERIFY(shot(0).subjects[0].guess > kSureEnough);
    QTest::keyClick(m_window->focusWidget() ? m_window->focusWidget() : m_window.get(), Qt::Key_U);
    QCOMPARE(bar->row(), 1);
    QVERIFY(bar->hasFocus());
    auto* second = bar->findChild<QToolButton*>(QStringLiteral("alternative2"));
    QTRY_VERIFY_WITH_TIMEOUT(second->isVisible() && m_window->settled(), test::kPatience);
    QVERIFY(!second->icon().isNull());
    QStringList said; // no two say the same: what comes after the number
    for (const auto* choice : bar->findChildren<QToolButton*>(QRegularExpression(QStringLiteral("^alternative"))))
      if (choice->isVisible()) said << choice->text().section(QStringLiteral(": "), 1);
    QVERIFY2(said.size() >= 2 && QSet<QString>(said.begin(), said.end()).size() == said.size(),
             qPrintable(said.join(QStringLiteral(" | "))));
    const int steps = document().undoStack().count();
    QTest::keyClick(bar, Qt::Key_2);
    QCOMPARE(document().undoStack().count(), steps + 1);
    QVERIFY(subjectIsOpen(shot(2)) && !subjectIsOpen(shot(1)));
    QCOMPARE(bar->row(), 2); // and on to the next
    auto* first = bar->findChild<QToolButton*>(QStringLiteral("alternative1"));
    QTRY_VERIFY_WITH_TIMEOUT(first->isVisible() && m_window->settled(), test::kPatience);
    QTest::mouseClick(first, Qt::LeftButton);
    QVERIFY(!subjectIsOpen(shot(2)));
    QCOMPARE(bar->row(), -1);
    QTest::keyClick(bar, Qt::Key_Escape);
    QVERIFY(!bar->isVisible());
    // Why: what was found lies over the picture.
    m_window->session().lookAt(0);
    m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    const QImage plain = view().canvas().grab().toImage();
    QTest::keyClick(&view().canvas(), Qt::Key_U, Qt::ShiftModifier);
    QVERIFY(view().canvas().grab().toImage() != plain);
    QTest::keyClick(&view().canvas(), Qt::Key_U, Qt::ShiftModifier);
    QVERIFY(view().canvas().grab().toImage() == plain);
    Settings::setFramesNewShots(false);
  }

  // What falls short is asked about, a deliverable at a time: 1 takes what loses least, for all its cells.
  void shortfallIsSteppedThrough_data() {
    QTest::addColumn<int>("key");
    QTest::addColumn<bool>("changes"); // framings; else they are accepted as they are
    QTest::newRow("the best") << int(Qt::Key_1) << true;
    QTest::newRow("let it be") << 0 << false;
  }
  void shortfallIsSteppedThrough() {
    QFETCH(int, key);
    QFETCH(const bool, changes);
    m_window->showView(MainWindow::View::Sheet);
    const auto* bar = m_window->findChild<QuestionBar*>();
    const auto complaints = [&](int column) {
      int count = 0;
      for (const Finding& each : m_window->preflight().findings())
        count += each.deliverableId == document().project().deliverables[size_t(column)].id && each.code == "soft" &&
                         !each.accepted
                     ? 1
                     : 0;
      return count;
    };
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QCOMPARE(complaints(0), 2); // two shots of 1280×720 in 1080×1920
    QTest::keyClick(m_window->focusWidget() ? m_window->focusWidget() : m_window.get(), Qt::Key_U);
    QCOMPARE(bar->column(), 0);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QCOMPARE(m_window->session().cells().size(), 2U); // all that the answer holds for
    for (int i = 1; i <= 3 && key == 0; ++i)
      if (bar->findChild<QToolButton*>(QStringLiteral("alternative%1").arg(i))
              ->text()
              .contains(QStringLiteral("let it be")))
        key = Qt::Key_0 + i;
    QVERIFY(key != 0);
    const int steps = document().undoStack().count();
    QTest::keyClick(bar->focusProxy() ? bar->focusProxy() : m_window->focusWidget(), Qt::Key(key));
    QCOMPARE(document().undoStack().count(), steps + 1);
    QVERIFY(bar->column() != 0);
    QCOMPARE(cell(0, 0).framing.layout != Layout::Single && cell(1, 0).framing.layout != Layout::Single, changes);
    QCOMPARE(document().project().checks.accepted.empty(), changes);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled() && complaints(0) == 0, test::kPatience);
    document().undoStack().undo();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled() && complaints(0) == 2, test::kPatience);
  }

  void layoutsAreSetByHand() {
    auto* layout = named<QComboBox>(QStringLiteral("Layout of the active cell"));
    layout->setCurrentIndex(2);
    emit layout->activated(2);
    QCOMPARE(cell(0, 0).framing.layout, Layout::Stack2);
    named<QDoubleSpinBox>(QStringLiteral("Gap between the windows, of the canvas"))->setValue(5);
    named<QDoubleSpinBox>(QStringLiteral("Share of window 1 of the canvas"))->setValue(60);
    const Framing& framing = cell(0, 0).framing;
    QVERIFY(framing.gap == 0.05);
    QVERIFY(std::abs(framing.shares[0] - 0.6) < 1e-9);
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
    m_window->session().setDeliverable(1);
    FramingDialog dialog(cell(0, 1).framing, store,
                         [this](const Framing& framing) { view().bench().placing().apply(framing, {}); });
    dialog.show();
    QTest::keyClick(dialog.findChild<QListWidget*>(), Qt::Key_Return); // what is done with an entry, by far most often
    QVERIFY(!dialog.isVisible());
    QVERIFY(cell(0, 1).framing == saved);
  }

  // A source that is turned or mirrored is so everywhere, and what was framed stays framed.
  void aTurnedSourceKeepsItsFraming() {
    view().bench().placing().placeSubject({300, 200}, 0);
    auto* mirrored = view().canvas().parentWidget();
    QTest::keyClick(mirrored, Qt::Key_M);
    QVERIFY(document().project().sources[0].orientation.mirrored);
    QVERIFY(std::abs(document().project().shots[0].subjects[0].move[0].x - (1 - 300.0 / 1280)) < 1e-9);
    QVERIFY(std::abs(left(0, 0) - (1280 - 300 - 202.5)) < 1e-6);
    QTest::keyClick(mirrored, Qt::Key_R);
    QCOMPARE(cell(0, 0).shape.picture(), (SizeF{720, 1280}));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    document().undoStack().undo();
    document().undoStack().undo();
    QVERIFY(std::abs(left(0, 0) - (300 - 202.5)) < 1e-6);
    QVERIFY(document().project().sources[0].orientation == Orientation());
    auto* straighten = named<QDoubleSpinBox>(
        QStringLiteral("Straighten the source: degrees clockwise, enlarged just enough to leave no corner empty"));
    const double before = cell(0, 0).detail;
    straighten->setValue(3);
    QVERIFY(std::abs(cell(0, 0).detail * straightenZoom({1280, 720}, 3) - before) < 1e-9); // and it costs what it costs
  }

  // Bars are dragged on the whole picture or typed; they go from the source in every shot, and what was framed stays.
  void barsAreDraggedOnThePicture() {
    view().bench().placing().placeSubject({300, 360}, 0);
    QTest::keyClick(&view().canvas(), Qt::Key_X);
    QVERIFY(view().bars());
    QVERIFY(!view().canvas().isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    BarsCanvas& bars = view().bars()->canvas();
    const auto pull = [&](QPointF from, QPointF to) {
      QTest::mousePress(&bars, Qt::LeftButton, Qt::NoModifier, bars.toScreen(from).toPoint());
      QTest::mouseMove(&bars, bars.toScreen(to).toPoint());
      QTest::mouseRelease(&bars, Qt::LeftButton, Qt::NoModifier, bars.toScreen(to).toPoint());
    };
    const int before = document().undoStack().count();
    pull({0.5, 0}, {0.5, 0.125});
    const Source& source = document().project().sources[0];
    QVERIFY2(std::abs(source.bars.top - 90) <= 1, qPrintable(QString::number(source.bars.top)));
    QVERIFY2(source.bars.bottom == 0, qPrintable(QString::number(source.bars.top)));
    QCOMPARE(document().undoStack().count(), before + 1);
    named<QSpinBox>(QStringLiteral("Cut away at the bottom, in pixels of the source"))->setValue(90);
    named<QSpinBox>(QStringLiteral("Cut away at the top, in pixels of the source"))->setValue(90);
    QCOMPARE(source.bars, (Bars{0, 90, 0, 90}));
    QVERIFY(source.barsBy == FactBy::Hand);
    QVERIFY(cell(1, 0).shape.picture() == (SizeF{1280, 540}));
    QVERIFY(std::abs(left(0, 0) - (300 - 540.0 * 9 / 16 / 2)) < 1e-6);
    QVERIFY(cell(0, 0).uncoveredPercent == 0);
    pull({0.5, 1 - 0.125}, {0.5, 0.01}); // as far as the other side lets it
    QCOMPARE(source.bars.bottom, 720 - 90 - BenchSource::kLeastKept);
    named<QToolButton>(QStringLiteral("Keep the whole picture"))->click();
    QVERIFY(source.bars.none());
    // What is dragged follows the picture as it is shown: the top of one that lies on its side is a side of its file.
    document().undoStack().undo();
    document().undoStack().undo();
    view().bench().source().setOrientation({90, false, 0}, {});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QCOMPARE(view().bench().source().bars(), (Bars{90, 0, 90, 0}));
    pull({1 - 0.125, 0.5}, {0.75, 0.5});
    QVERIFY(std::abs(source.bars.top - 180) <= 1);
    QVERIFY(source.bars.bottom == 90);
    QVERIFY(source.bars.left == 0);
    named<QToolButton>(QStringLiteral("Back to the windows (Escape)"))->click();
    QVERIFY(!view().bars());
    QVERIFY(view().canvas().isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
  }

  void keysAreDraggedOnThePath() {
    Bench& bench = view().bench();
    bench.placing().placeSubject({300, 300}, 0);
    bench.setPlacesSubject(true);
    bench.moves().startAndEnd();
    bench.goTo(bench.endFrame() - 1);
    bench.placing().placeSubject({900, 300}, 0);
    drag({300, 300}, {420, 500}); // the first key, seen from the last frame
    const Move& move = document().project().shots[0].subjects[0].move;
    QCOMPARE(move.size(), size_t(2));
    QVERIFY(std::abs(move[0].x * 1280 - 420) < 2);
    QVERIFY(std::abs(move[0].y * 720 - 500) < 2);
    QVERIFY(std::abs(move[1].x * 1280 - 900) < 1e-6);
    QVERIFY(bench.frame() == bench.endFrame() - 1);
  }

  // What is drawn beside the picture is what is exported: both at the size they are drawn at, SSIM as FFmpeg's filter
  // counts it, for each layout and each way of moving.
  void theBenchShowsWhatIsExported_data() {
    QTest::addColumn<QString>("layout");
    QTest::addColumn<int>("ease");
    QTest::addColumn<int>("ground");
    const char* const layouts[] = {"fill", "stack2", "stack3", "side2", "side3"};
    for (int i = test::kSanitized ? 4 : 0; i < 5; ++i)
      QTest::addRow("%s %s", layouts[i], easeWord(Ease(i % 4))) << layouts[i] << i % 4 << 0;
    if (test::kSanitized) return;
    for (int i = 0; i < 4; ++i) QTest::addRow("backdrop, ground %d", i) << "backdrop" << 0 << i;
  }
  void theBenchShowsWhatIsExported() {
    QFETCH(QString, layout);
    QFETCH(int, ease);
    QFETCH(int, ground);
    constexpr int kAt = 17;
    const QString footage = m_folder.filePath("soft.mp4");
    if (!QFile::exists(footage))
      test::writeClip(footage.toStdString(), {1280, 720}, FrameRate(), 25, [](int n, int x, int y) {
        const double light = 118 + 30 * std::sin(x * 0.05 + y * 0.02 + n * 0.01) + 25 * std::cos(y * 0.09 - x * 0.04) +
                             18 * std::sin((x + y) * 0.19);
        return test::Yuv{int(light), int(128 + 25 * std::sin(x * 0.008)), int(128 + 25 * std::cos(y * 0.011))};
      });
    // A still of another shape, larger than the canvas is high.
    const QString under = m_folder.filePath("under.png");
    if (!QFile::exists(under)) {
      QImage still(3000, 2000, QImage::Format_RGB32);
      for (int y = 0; y < still.height(); ++y)
        for (int x = 0; x < still.width(); ++x)
          still.setPixel(x, y, qRgb(128 + int(90 * std::sin(x * 0.01)), 128 + int(80 * std::sin(y * 0.013)), x / 16));
      QVERIFY(still.save(under));
    }
    m_window->bringIn({footage, under});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled() && document().project().sources.size() == 3, test::kPatience);
    document().addShots({newShot(document().project(), document().project().sources[1],
                                 **document().media(document().project().sources[1].id))},
                        0);
    Framing framing;
    (void)framingByName(layout.toStdString(), framing);
    framing.gap = 0.02;
    framing.colour = {30, 90, 120};
    framing.ground = Ground(ground);
    framing.still = document().project().sources[2].id;
    const bool backdrop = framing.layout == Layout::Backdrop;
    framing.windows.back().follows = false;
    if (!backdrop)
      framing.windows.back().move = {{Rational(0), 0.4, 0.5, 1.2, Ease(ease), {}},
                                     {Rational(1), 0.7, 0.45, 1.5, Ease(ease), {}}};
    document().setFramings({{{0, 0}, framing}}, {});
    Project p = document().project();
    p.shots.resize(1);
    p.shots[0].out = Rational(kAt + 2, 25);
    p.deliverables[0].encoding.rateControl = RateControl::ConstantQuality;
    p.deliverables[0].encoding.crf = 4;
    p.deliverables[0].encoding.speed = "ultrafast";
    ExportRequest request;
    request.plans.push_back(*Plan::build(p, probeFootage(p), "d1"));
    request.folder = m_folder.filePath("out").toStdString();
    request.overwrite = true;
    request.proof = false;
    const auto files = exportPlans(request, {});
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());

    constexpr Size kDrawn{216, 384};
    const auto saved = [&](const QImage& image, const char* name) {
      const QString path = m_folder.filePath(QLatin1String(name));
      image.save(path);
      return path;
    };
    const auto media = probe(files->front().path);
    const auto theirs = toScreen(*VideoReader::open(*media)->frameAt(kAt), kDrawn);
    const MediaInfo& source = **document().media(p.shots[0].source);
    const auto whole =
        sourcePicture(readAsStated(source), request.plans[0].pieces()[0].sourceFrame(kAt), {1920, 1920}, false);
    const auto imageOf = [](const ScreenPicture& picture) {
      return QImage(picture.bytes.data(), picture.size.width, picture.size.height, picture.size.width * 4,
                    QImage::Format_RGB32)
          .copy();
    };
    const Poster poster = posterOf(imageOf(*whole));
    Cell shown = cell(0, 0);
    turnTo(shown, double(kAt) / 25);
    QImage drawn(kDrawn.width, kDrawn.height, QImage::Format_RGB32);
    QPainter painter(&drawn);
    QTRY_VERIFY_WITH_TIMEOUT(ground != int(Ground::Still) || m_window->posters().under(shown), test::kPatience);
    paintCanvas(painter, QRectF(drawn.rect()), shown, &poster, m_window->posters().under(shown));
    painter.end();
    const QString words = test::run(QStringLiteral("ffmpeg"),
                                    {"-i", saved(drawn, "drawn.png"), "-i", saved(imageOf(*theirs), "exported.png"),
                                     "-lavfi", "ssim", "-f", "null", "-"});
    const double ssim = words.mid(words.lastIndexOf(QLatin1String("All:")) + 4).section(' ', 0, 0).toDouble();
    if (backdrop && ground == 0) {
      imageOf(*theirs).save("/tmp/exported.png");
    }
    qInfo("%.4f", ssim);
    QVERIFY2(ssim >= 0.99, qPrintable(QString::number(ssim)));
  }

  void aDoubleClickMarksTheSubject() {
    BenchCanvas& canvas = view().canvas();
    QTest::mouseDClick(&canvas, Qt::LeftButton, Qt::NoModifier, canvas.toScreen({300, 360}).toPoint());
    QVERIFY(std::abs(left(0, 0) - (300 - 202.5)) < 2);
    QVERIFY(left(0, 1) < 1e-6);
    drag(*view().bench().subject(), {800, 360});
    QVERIFY(std::abs(left(0, 0) - (800 - 202.5)) < 2);
    QVERIFY(std::abs(left(0, 1) - (800 - 360)) < 2);
    auto* wanted = named<QComboBox>(QStringLiteral("Where the subject is wanted"));
    wanted->setCurrentIndex(2);
    emit wanted->activated(2); // in the left third
    QVERIFY(std::abs(left(0, 0) - (800 - 135)) < 2);
    // Framed by hand, then given back.
    view().bench().setPlacesSubject(false);
    named<QDoubleSpinBox>(QStringLiteral("Centre from the left, in pixels of the picture"))->setValue(400);
    QVERIFY(std::abs(left(0, 0) - (400 - 202.5)) < 0.1);
    named<QToolButton>(QStringLiteral("Follow the subject"))->click();
    QVERIFY(std::abs(left(0, 0) - (800 - 135)) < 2);
  }

  // The pointer on the picture: a click on another shape's name makes it active, the wheel zooms in one step, a corner
  // is held where the picture would become soft, the subject is dragged, and its keys move it by canvas pixels.
  void thePointerPlacesEverything() {
    Bench& bench = view().bench();
    BenchCanvas& canvas = view().canvas();
    // The square's label lies at its window's upper left, a line below the first shape's.
    const QPointF label =
        canvas.toScreen(bench.windowRect(1, 0).topLeft()) + QPointF(8, canvas.fontMetrics().height() + 8);
    QTest::mouseClick(&canvas, Qt::LeftButton, {}, label.toPoint());
    QCOMPARE(bench.column(), 1);
    const int before = document().undoStack().count();
    const QPointF middle = canvas.toScreen({640, 360});
    for (int i = 0; i < 5; ++i) {
      QWheelEvent turn(middle, canvas.mapToGlobal(middle), {}, {0, 120}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
      QApplication::sendEvent(&canvas, &turn);
    }
    QCOMPARE(document().undoStack().count(), before + 1);
    QVERIFY(std::abs(cell(0, 1).framing.windows[0].zoom - std::pow(1.05, 5)) < 1e-9);
    document().undoStack().undo();
    // 720 lines on 720: every corner drag inwards is past detail 1.00, and near to it is held there.
    Deliverable square = document().project().deliverables[1];
    square.canvas = {600, 600};
    document().editDeliverable(1, square); // sharp down to 600 pixels of the picture
    const QRectF rect = bench.windowRect(1, 0);
    drag(rect.topLeft(), rect.topLeft() + QPointF(62, 62));
    QVERIFY2(std::abs(bench.windowRect(1, 0).width() - 600) < 1e-6,
             qPrintable(QString::number(bench.windowRect(1, 0).width())));
    QCOMPARE(cell(0, 1).state, Cell::State::Good);
    drag(bench.windowRect(1, 0).topLeft(), bench.windowRect(1, 0).topLeft() + QPointF(60, 60), Qt::AltModifier);
    QVERIFY(bench.windowRect(1, 0).width() < 500);
    QVERIFY(cell(0, 1).state == Cell::State::Soft);
    // The subject, put by a double click, dragged, and moved by keys.
    QTest::mouseDClick(&canvas, Qt::LeftButton, {}, canvas.toScreen({700, 300}).toPoint());
    drag(*bench.subject(), {500, 250});
    QVERIFY(std::abs(bench.subject()->x() - 500) < 2);
    QVERIFY(std::abs(bench.subject()->y() - 250) < 2);
    canvas.setFocus();
    const QPointF at = *bench.subject();
    QTest::keyClick(&canvas, Qt::Key_Down);
    QTest::keyClick(&canvas, Qt::Key_Right, Qt::ShiftModifier);
    const double pixel = bench.windowRect(1, 0).width() / 600;
    QVERIFY(std::abs(bench.subject()->y() - at.y() - pixel) < 1e-6);
    QVERIFY(std::abs(bench.subject()->x() - at.x() - 10 * pixel) < 1e-6);
    // Return takes a box of the usual size round it.
    QTest::keyClick(&canvas, Qt::Key_T);
    QVERIFY(canvas.boxing());
    QTest::keyClick(&canvas, Qt::Key_Return);
    QVERIFY(!canvas.boxing());
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QVERIFY(bench.following().track());
    QVERIFY(bench.following().track()->points.size() == 50);
    // The results beside it are chosen from by keys, too.
    auto* results = view().findChild<BenchResults*>();
    results->setFocus();
    QTest::keyClick(results, Qt::Key_Left);
    QCOMPARE(bench.column(), 0);
    QTest::keyClick(results, Qt::Key_Left);
    QCOMPARE(bench.column(), 0);
    QVERIFY(!canvas.grab().isNull());
  }

  // What is amiss in a cell beside what its state says is counted at its result.
  void resultsCountWhatIsAmiss() {
    const auto words = [this] {
      QStringList all;
      for (const PaintedPart& each : view().findChild<BenchResults*>()->paintedParts()) all << each.value;
      return all;
    };
    Deliverable square = document().project().deliverables[1];
    square.rate = FrameRate(Rational(50));
    document().changeDeliverables({square}, {});
    QTRY_VERIFY_WITH_TIMEOUT(!m_window->preflight().busy(), test::kPatience);
    QCOMPARE(words().filter(QStringLiteral("more to look at")), QStringList());
    m_window->preflight().weigh("doubled-frames", Severity::Warning);
    QTRY_VERIFY2_WITH_TIMEOUT(words()[1].endsWith(QLatin1String(", 1 more to look at")), qPrintable(words()[1]),
                              test::kPatience);
    QVERIFY2(!words()[0].contains(QLatin1String("more")), qPrintable(words()[0]));
  }

  // Shares of three windows: what one takes the others give in proportion, down to what each must have.
  void sharesAreTyped() {
    emit named<QComboBox>(QStringLiteral("Layout of the active cell"))->activated(3);
    QCOMPARE(cell(0, 0).framing.layout, Layout::Stack3);
    const auto share = [&](int window) {
      return named<QDoubleSpinBox>(QStringLiteral("Share of window %1 of the canvas").arg(window));
    };
    share(1)->setValue(50);
    const auto shares = [&] { return cell(0, 0).framing.shares; };
    QVERIFY(std::abs(shares()[0] - 0.5) < 1e-9);
    QVERIFY(std::abs(shares()[1] - 0.25) < 1e-9);
    share(3)->setValue(10);
    QVERIFY(std::abs(shares()[0] - 0.6) < 1e-9);
    QVERIFY(std::abs(shares()[1] - 0.3) < 1e-9);
    QVERIFY(std::abs(shares()[2] - 0.1) < 1e-9);
    share(2)->setValue(80);
    for (int i = 0; i < 3; ++i) QVERIFY(shares()[size_t(i)] >= kLeastShare - 1e-9);
    QVERIFY(std::abs(shares()[0] + shares()[1] + shares()[2] - 1) < 1e-9);
    QVERIFY(shares()[1] > 0.79);
    const auto rects = canvasShares(cell(0, 0).framing, {1080, 1920});
    QVERIFY(rects[2].y + rects[2].height == 1920);
    QVERIFY(cell(0, 0).uncoveredPercent == 0);
    // Each is a step; back at the beginning they are equal.
    for (int i = 0; i < 3; ++i) document().undoStack().undo();
    QVERIFY(shares().empty());
    QVERIFY(std::abs(share(2)->value() - 33.3) < 0.1);
  }

  // The ways out by their buttons: the largest sharp canvas changes the deliverable, and all of a column at once.
  void everyWayIsTaken() {
    const auto way = [this](const QString& text) -> QToolButton* {
      for (QToolButton* each : view().findChildren<QToolButton*>())
        if (each->accessibleName().startsWith(text)) return each;
      return nullptr;
    };
    const auto scope = [this](int entry) {
      named<QComboBox>(QStringLiteral("What a way to fill is applied to"))->setCurrentIndex(entry);
    };
    QTRY_VERIFY_WITH_TIMEOUT(way(QStringLiteral("404×720")) != nullptr, test::kPatience);
    QVERIFY(way(QStringLiteral("404×720"))->text().contains(QLatin1String("14 % of the pixels")));
    QVERIFY(way(QStringLiteral("fill"))->text().contains(QStringLiteral("enlarged 2.7×")));
    QVERIFY(way(QStringLiteral("backdrop"))->text().contains(QLatin1String("68 % backdrop")));
    way(QStringLiteral("404×720"))->click();
    QTRY_COMPARE_WITH_TIMEOUT(document().project().deliverables[0].canvas, (Size{404, 720}), test::kPatience);
    QTRY_VERIFY_WITH_TIMEOUT(way(QStringLiteral("fill")) == nullptr, test::kPatience); // nothing is soft any more
    document().undoStack().undo();
    QTRY_VERIFY_WITH_TIMEOUT(way(QStringLiteral("three stacked")) != nullptr, test::kPatience);
    // Where it helps, in all deliverables at once: the square is soft with a larger canvas, and the wide one is not.
    Deliverable square = document().project().deliverables[1];
    square.canvas = {900, 900};
    document().editDeliverable(1, square);
    Deliverable wide = square;
    wide.id = "d3";
    wide.name = "Wide";
    wide.canvas = {1280, 720};
    document().addDeliverable(wide);
    QVERIFY(cell(0, 1).state == Cell::State::Soft);
    QVERIFY(cell(0, 2).state == Cell::State::Good);
    QTRY_VERIFY_WITH_TIMEOUT(way(QStringLiteral("two stacked")) != nullptr, test::kPatience);
    scope(2);
    way(QStringLiteral("two stacked"))->click();
    QTRY_VERIFY_WITH_TIMEOUT(cell(1, 0).framing.layout == Layout::Stack2, test::kPatience);
    for (int row = 0; row < 2; ++row) {
      QVERIFY(cell(row, 0).framing.layout == Layout::Stack2);
      QVERIFY(cell(row, 1).framing.layout == Layout::Stack2);
      QVERIFY(cell(row, 1).detail > 0.8);
      QVERIFY(cell(row, 2).framing.layout == Layout::Single);
    }
    for (int i = 0; i < 3; ++i) document().undoStack().undo();
    QVERIFY(cell(0, 1).framing.layout == Layout::Single);
    QVERIFY(document().project().deliverables.size() == 2);
    QTRY_VERIFY_WITH_TIMEOUT(way(QStringLiteral("three stacked")) != nullptr, test::kPatience);
    scope(3);
    way(QStringLiteral("three stacked"))->click();
    QTRY_VERIFY_WITH_TIMEOUT(cell(1, 0).framing.layout == Layout::Stack3 && cell(0, 0).framing.layout == Layout::Stack3,
                             test::kPatience);
    QVERIFY(cell(0, 1).framing.layout == Layout::Single);
  }

  // At 1280×800 the picture that is framed takes two fifths of the window, the active result can be judged, and no name
  // lies over another, whatever shapes there are.
  void thePictureHasTheRoom_data() {
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<double>("least"); // height of the active result
    QTest::newRow("vertical") << Size{1080, 1920} << 200.0;
    QTest::newRow("square") << Size{1080, 1080} << 200.0;
    QTest::newRow("wide") << Size{1920, 1080} << 200.0;
    QTest::newRow("ultra-wide, as wide as there is room") << Size{2560, 1080} << 150.0;
  }
  void thePictureHasTheRoom() {
    QFETCH(const Size, canvas);
    QFETCH(const double, least);
    Deliverable changed = document().project().deliverables[0];
    changed.canvas = canvas;
    document().editDeliverable(0, changed);
    for (int i = 0; i < 4; ++i) { // that all have their windows at the same place
      Deliverable more = changed;
      more.id = "m" + std::to_string(i);
      more.name = "Another of this shape";
      document().addDeliverable(more);
    }
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QApplication::processEvents();
    const QRectF picture = view().canvas().pictureRect();
    const double share = picture.width() * picture.height() / (1280.0 * 800);
    QVERIFY2(share >= 0.4, std::to_string(share).c_str());
    const double high = view().findChild<BenchResults*>()->activeRect().height();
    QVERIFY2(high >= least, std::to_string(high).c_str());
    const std::vector<QRectF> labels = view().canvas().labelRects();
    for (size_t i = 0; i < labels.size(); ++i)
      for (size_t j = 0; j < i; ++j) QVERIFY2(!labels[i].intersects(labels[j]), "a name lies over another");
  }

  // Below the picture a double click makes a key and a drag gives it another time and value, as one step.
  void curvesAreEdited() {
    Bench& bench = view().bench();
    bench.placing().placeWindow({640, 360}, 0, 0);
    auto* curves = view().findChild<MoveCurves*>();
    // The lanes: across, down, zoom, under a ruler of 16 pixels; in the first, 0 is at its top and 1 at its bottom.
    // They unfold once there is a move.
    const int folded = curves->height();
    QTest::mouseDClick(curves, Qt::LeftButton, Qt::NoModifier, {curves->width() / 2, 26});
    QTRY_VERIFY_WITH_TIMEOUT(curves->height() > folded, test::kPatience);
    const double lane = (curves->height() - 18) / 3.0;
    const QPoint at(curves->width() / 2, int(16 + lane / 2));
    QVERIFY(bench.moves().move());
    QVERIFY(bench.moves().move()->size() == 1);
    const Rational first = bench.moves().move()->front().time;
    QVERIFY(first == bench.time());
    QVERIFY(std::abs(bench.frame() - 25) < 4);
    const int before = document().undoStack().count();
    const QPoint to = at + QPoint(curves->width() / 5, int((lane - 6) * 0.4));
    QTest::mousePress(curves, Qt::LeftButton, Qt::NoModifier, at);
    for (int step = 1; step <= 4; ++step) {
      const QPointF now = QPointF(at) + QPointF(to - at) * step / 4;
      QMouseEvent move(QEvent::MouseMove, now, curves->mapToGlobal(now), Qt::NoButton, Qt::LeftButton, {});
      QApplication::sendEvent(curves, &move);
    }
    QTest::mouseRelease(curves, Qt::LeftButton, Qt::NoModifier, to);
    QCOMPARE(document().undoStack().count(), before + 1);
    const MoveKey key = bench.moves().move()->front();
    QVERIFY2(std::abs(key.x - 0.5 - int((lane - 6) * 0.4) / (lane - 6)) < 0.06, qPrintable(QString::number(key.x)));
    QVERIFY2(key.y == 0.5, qPrintable(QString::number(key.x)));
    QVERIFY2(key.zoom == 1, qPrintable(QString::number(key.x)));
    QVERIFY(first < key.time);
    QVERIFY(std::abs((key.time - first).toDouble() * 25 - 50 / 5.0) < 3);
    // A press beside a key takes the moment along instead; the arrows go by frames.
    QTest::mouseClick(curves, Qt::LeftButton, Qt::NoModifier, QPoint(curves->width() - 60, int(16 + lane * 2.5)));
    QVERIFY(bench.frame() > 40);
    const int64_t frame = bench.frame();
    curves->setFocus();
    QTest::keyClick(curves, Qt::Key_Left);
    QTest::keyClick(curves, Qt::Key_Left, Qt::ShiftModifier);
    QCOMPARE(bench.frame(), frame - 11);
    QTest::keyClick(curves, Qt::Key_Home);
    QCOMPARE(bench.frame(), int64_t(0));
  }

  // Two stacked windows by keys alone: the next one, typed centre and width, keys at the cuts, a copied move.
  void stacksAreFramedByKeys() {
    Bench& bench = view().bench();
    BenchCanvas& canvas = view().canvas();
    auto* layout = named<QComboBox>(QStringLiteral("Layout of the active cell"));
    emit layout->activated(2);
    canvas.setFocus();
    QTest::keyClick(&canvas, Qt::Key_N, Qt::ShiftModifier);
    QCOMPARE(bench.window(), 1);
    named<QDoubleSpinBox>(QStringLiteral("Centre from the left, in pixels of the picture"))->setValue(500);
    named<QDoubleSpinBox>(QStringLiteral("Width of the window, in pixels of the picture"))->setValue(405);
    QVERIFY(std::abs(bench.windowRect(0, 1).width() - 405) < 0.05);
    QVERIFY(std::abs(bench.windowRect(0, 1).center().x() - 500) < 0.05);
    QCOMPARE(cell(0, 0).framing.windows[0], Framing::follower(0.25));
    QTest::keyClick(&canvas, Qt::Key_PageDown, Qt::ShiftModifier);
    QTest::keyClick(&canvas, Qt::Key_PageUp, Qt::ShiftModifier);
    QVERIFY(bench.moves().move());
    QVERIFY(bench.moves().move()->size() == 2);
    QVERIFY(bench.moves().move()->back().time == Rational(49, 25));
    QTest::keyClick(&canvas, Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
    QTest::keyClick(&canvas, Qt::Key_N, Qt::ShiftModifier);
    QCOMPARE(bench.window(), 0);
    QTest::keyClick(&canvas, Qt::Key_V, Qt::ControlModifier | Qt::ShiftModifier);
    QVERIFY(cell(0, 0).framing.windows[0].move == cell(0, 0).framing.windows[1].move);
    QTest::keyClick(&canvas, Qt::Key_S);
    QVERIFY(bench.placesSubject());
  }

  // Guides lie where their sources put them: EBU R 95 keeps 3.5 % of the edges free of action; what buttons and
  // captions cover is the destination's own list. Read from the picture that is drawn.
  void guidesLieWhereTheyShould_data() {
    QTest::addColumn<int>("entry"); // of the menu of what is shown
    QTest::addColumn<QRectF>("changed");
    QTest::newRow("safe areas") << 2 << QRectF(0.035, 0.035, 0.93, 0.93);
    QTest::newRow("covered parts") << 3 << QRectF(0, 0, 1, 1); // from the top's 12 % to the caption's last line
  }
  void guidesLieWhereTheyShould() {
    QFETCH(int, entry);
    QFETCH(QRectF, changed);
    Deliverable story = document().project().deliverables[0];
    story.destination = "vertical-story";
    document().editDeliverable(0, story);
    document().removeDeliverables({1});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    auto* results = view().findChild<BenchResults*>();
    const QRectF shown = results->activeRect();
    QVERIFY2(std::abs(shown.width() / shown.height() - 9.0 / 16) < 0.02, qPrintable(QString::number(shown.width())));
    const QImage before = results->grab().toImage();
    QAction* action = named<QToolButton>(QStringLiteral("What is shown beside the picture and over the results"))
                          ->menu()
                          ->actions()[entry];
    action->trigger();
    const QImage after = results->grab().toImage();
    QRect differs;
    int middle = 0; // of the canvas, between the covered parts and inside the safe areas
    for (int y = 0; y < after.height(); ++y)
      for (int x = 0; x < after.width(); ++x)
        if (after.pixel(x, y) != before.pixel(x, y)) {
          differs |= QRect(x, y, 1, 1);
          middle += QRectF(shown.left() + shown.width() * 0.1, shown.top() + shown.height() * 0.2, shown.width() * 0.7,
                           shown.height() * 0.5)
                        .contains(QPointF(x, y));
        }
    QCOMPARE(middle, 0);
    const QRectF found((differs.left() - shown.left()) / shown.width(), (differs.top() - shown.top()) / shown.height(),
                       differs.width() / shown.width(), differs.height() / shown.height());
    const auto near = [](double a, double b) { return std::abs(a - b) < 0.02; };
    QVERIFY2(
        near(found.left(), changed.left()),
        qPrintable(
            QStringLiteral("%1 %2 %3 %4").arg(found.left()).arg(found.top()).arg(found.width()).arg(found.height())));
    QVERIFY2(
        near(found.top(), changed.top()),
        qPrintable(
            QStringLiteral("%1 %2 %3 %4").arg(found.left()).arg(found.top()).arg(found.width()).arg(found.height())));
    QVERIFY2(
        near(found.width(), changed.width()),
        qPrintable(
            QStringLiteral("%1 %2 %3 %4").arg(found.left()).arg(found.top()).arg(found.width()).arg(found.height())));
    QVERIFY2(
        near(found.height(), changed.height()),
        qPrintable(
            QStringLiteral("%1 %2 %3 %4").arg(found.left()).arg(found.top()).arg(found.width()).arg(found.height())));
    action->trigger();
    QVERIFY(results->grab().toImage() == before);
  }

  // The loupe shows the source's own pixels, one for one.
  void theLoupeShowsOwnPixels() {
    auto* show = named<QToolButton>(QStringLiteral("What is shown beside the picture and over the results"));
    show->menu()->actions()[0]->trigger();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    BenchCanvas& canvas = view().canvas();
    const QPointF place(400, 60);
    const QPointF pointer = canvas.toScreen(place);
    QMouseEvent move(QEvent::MouseMove, pointer, canvas.mapToGlobal(pointer), Qt::NoButton, Qt::NoButton, {});
    QApplication::sendEvent(&canvas, &move);
    const QImage drawn = canvas.grab().toImage();
    const MediaInfo& media = **document().media(document().project().sources[0].id);
    const auto whole = sourcePicture(readAsStated(media), view().bench().frame(), {16384, 16384}, false);
    QCOMPARE(whole->size, (Size{1280, 720}));
    const QImage source(whole->bytes.data(), 1280, 720, 1280 * 4, QImage::Format_RGB32);
    const QPoint middle = (pointer + QPointF(18 + 110, 18 + 110)).toPoint(); // of the loupe beside the pointer
    double least = 1e9;
    for (int dx = -1; dx <= 1; ++dx)
      for (int dy = -1; dy <= 1; ++dy) {
        double sum = 0;
        for (int y = -40; y < 40; ++y)
          for (int x = -40; x < 40; ++x)
            sum += std::abs(qGray(drawn.pixel(middle + QPoint(x, y))) -
                            qGray(source.pixel(int(place.x()) + x + dx, int(place.y()) + y + dy)));
        least = std::min(least, sum / 6400);
      }
    QVERIFY2(least < 8, qPrintable(QString::number(least)));
    show->menu()->actions()[0]->trigger();
  }

  void aColourIsChosen() {
    auto* layout = named<QComboBox>(QStringLiteral("Layout of the active cell"));
    emit layout->activated(6);
    auto* ground = named<QComboBox>(QStringLiteral("What lies under the picture"));
    // Without a still in the project there is none to choose.
    QVERIFY(!(ground->model()->flags(ground->model()->index(3, 0)) & Qt::ItemIsEnabled));
    emit ground->activated(1);
    QTimer::singleShot(0, qApp, [] {
      auto* dialog = qobject_cast<QColorDialog*>(QApplication::activeModalWidget());
      QVERIFY(dialog);
      dialog->setCurrentColor(QColor(10, 200, 30));
      dialog->accept();
    });
    named<QToolButton>(
        QStringLiteral("Colour of the gap, of the ground, and of what shows through a transparent picture"))
        ->click();
    QCOMPARE(cell(0, 0).placements.front().colour, (Colour{10, 200, 30}));
    QCOMPARE(cell(0, 0).placements.front().kind, Placement::Kind::Colour);
  }

  // Saved framings by their dialog: saved, updated, renamed, written out, brought in, removed; and what cannot be done
  // is said and changes nothing.
  void savedFramingsAreKept() {
    drag({640, 360}, {500, 360}, Qt::AltModifier);
    FramingStore store(m_folder.filePath("kept").toStdString());
    FramingDialog dialog(cell(0, 0).framing, store, [](const Framing&) {});
    dialog.show();
    const auto press = [&](const char* text) {
      for (QPushButton* button : dialog.findChildren<QPushButton*>())
        if (button->text() == QString::fromUtf8(text)) return button->click();
      QFAIL(text);
    };
    const auto answer = [](const QString& text) {
      QTimer::singleShot(0, qApp, [text] {
        if (auto* input = qobject_cast<QInputDialog*>(QApplication::activeModalWidget())) {
          input->setTextValue(text);
          input->accept();
        } else if (auto* files = qobject_cast<QFileDialog*>(QApplication::activeModalWidget())) {
          for (QLineEdit* line : files->findChildren<QLineEdit*>()) line->setText(text);
          static_cast<QDialog*>(files)->accept();
        }
      });
    };
    const auto said = [&] {
      QString all;
      for (const QLabel* label : dialog.findChildren<QLabel*>()) all += label->text() + '\n';
      return all;
    };
    answer(QStringLiteral("Left"));
    press("&Save the current cell's framing …");
    QVERIFY(store.all().size() == 1);
    QVERIFY(store.all()[0].framing == cell(0, 0).framing);
    answer(QStringLiteral("Left of the middle"));
    press("&Rename …");
    QCOMPARE(store.all()[0].name, std::string("Left of the middle"));
    QApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
    const QString file = m_folder.filePath("written.tromb-framing");
    answer(file);
    press("&Write to a file …");
    QVERIFY2(QFile::exists(file), qPrintable(said()));
    answer(file);
    press("&Bring in from a file …");
    QCOMPARE(store.all().size(), size_t(2));
    QFile odd(m_folder.filePath("odd.tromb-framing"));
    QVERIFY(odd.open(QIODevice::WriteOnly));
    QVERIFY(odd.write("{}") == 2);
    odd.close();
    answer(odd.fileName());
    press("&Bring in from a file …");
    QVERIFY2(store.all().size() == 2, qPrintable(said()));
    QVERIFY2(said().contains(QLatin1String("odd.tromb-framing")), qPrintable(said()));
    const auto asked = [](const char* words) { // answers the question before removing
      QTimer::singleShot(0, qApp, [words] {
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        QVERIFY(box);
        if (!words) return QTest::keyClick(box, Qt::Key_Return);
        for (QAbstractButton* each : box->buttons())
          if (each->text() == QLatin1String(words)) each->click();
      });
    };
    asked(nullptr);
    press("Re&move");
    QCOMPARE(store.all().size(), size_t(2)); // Return keeps it
    for (int n = 0; n < 2; ++n) {
      asked("Remove it");
      press("Re&move");
    }
    QVERIFY(store.all().empty());
    QVERIFY(said().contains(QLatin1String("No framing was saved yet.")));
  }

  void keysAndKeyboard() {
    BenchCanvas& canvas = view().canvas();
    canvas.setFocus();
    QTest::keyClick(&canvas, Qt::Key_Right, Qt::ShiftModifier); // ten canvas pixels are 3.75 of the picture
    QVERIFY(std::abs(left(0, 0) - (437.5 + 3.75)) < 1e-6);
    // A key that is held is one step, as a drag is.
    const int steps = document().undoStack().index();
    for (int n = 0; n < 5; ++n) QTest::keyClick(&canvas, n % 2 ? Qt::Key_Right : Qt::Key_Left, Qt::ShiftModifier);
    QCOMPARE(document().undoStack().index(), steps);
    document().undoStack().undo();
    QVERIFY(std::abs(left(0, 0) - 437.5) < 1e-6);
    QTest::keyClick(&canvas, Qt::Key_Right, Qt::ShiftModifier);
    QTest::keyClick(&canvas, Qt::Key_K);
    QVERIFY(view().bench().moves().move());
    QVERIFY(view().bench().moves().move()->size() == 1);
    MoveCurves* curves = view().findChild<MoveCurves*>();
    QTest::keyClick(curves, Qt::Key_End);
    QCOMPARE(view().bench().frame(), int64_t(49));
    drag({640, 360}, {900, 360}, Qt::AltModifier);
    QCOMPARE(view().bench().moves().move()->size(), size_t(2));
    QTest::keyClick(curves, Qt::Key_PageUp);
    QCOMPARE(view().bench().frame(), int64_t(25));
    QTest::keyClick(curves, Qt::Key_Backspace);
    QCOMPARE(view().bench().moves().move()->size(), size_t(1));
    QTest::keyClick(&canvas, Qt::Key_N);
    QCOMPARE(view().bench().column(), 1);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience); // drawn without a fault
    QVERIFY(!m_window->grab().isNull());
  }

  // A combo box is searched by typing: no letter of it sets a key.
  void lettersInACombo() {
    int combos = 0;
    for (QComboBox* combo : view().findChildren<QComboBox*>()) {
      if (!combo->isVisible() || !combo->isEnabled()) continue;
      ++combos;
      combo->setFocus();
      QTest::keyClick(combo, Qt::Key_K);
      QVERIFY2(!view().bench().moves().move(), qPrintable(combo->accessibleName()));
    }
    QVERIFY(combos > 0);
  }

  // Where nobody has placed a subject, its keys place one in the middle: seen at once, and one step.
  void keysPlaceASubject_data() {
    QTest::addColumn<int>("key");
    QTest::addColumn<double>("x"); // pixels of the picture from its middle
    QTest::newRow("an arrow") << int(Qt::Key_Right) << 3.75;
    QTest::newRow("a key of the move") << int(Qt::Key_K) << 0.0;
  }
  void keysPlaceASubject() {
    QFETCH(const int, key);
    QFETCH(const double, x);
    BenchCanvas& canvas = view().canvas();
    canvas.setFocus();
    QTest::keyClick(&canvas, Qt::Key_S);
    QVERIFY(view().bench().placesSubject());
    QVERIFY(!view().bench().subject());
    const int steps = document().undoStack().index();
    QTest::keyClick(&canvas, Qt::Key(key), key == Qt::Key_K ? Qt::NoModifier : Qt::ShiftModifier);
    QVERIFY(view().bench().subject());
    QVERIFY2(std::abs(view().bench().subject()->x() - (640 + x)) < 1e-6,
             qPrintable(QString::number(view().bench().subject()->x())));
    QCOMPARE(document().undoStack().index(), steps + 1);
    document().undoStack().undo();
    QVERIFY(!view().bench().subject());
  }

  void waysToFillAreAppliedToOneAndAll() {
    const auto way = [this](const QString& name) -> QToolButton* {
      for (QToolButton* each : view().findChildren<QToolButton*>())
        if (each->accessibleName().startsWith(name)) return each;
      return nullptr;
    };
    QTRY_VERIFY_WITH_TIMEOUT(way(QStringLiteral("two stacked")) != nullptr, test::kPatience);
    way(QStringLiteral("two stacked"))->click();
    QTRY_COMPARE_WITH_TIMEOUT(cell(0, 0).framing.layout, Layout::Stack2, test::kPatience);
    QVERIFY(cell(1, 0).framing.layout == Layout::Single);
    document().undoStack().undo();
    QTRY_VERIFY_WITH_TIMEOUT(way(QStringLiteral("backdrop")) != nullptr, test::kPatience);
    named<QComboBox>(QStringLiteral("What a way to fill is applied to"))->setCurrentIndex(1);
    way(QStringLiteral("backdrop"))->click();
    QTRY_COMPARE_WITH_TIMEOUT(cell(1, 0).framing.layout, Layout::Backdrop, test::kPatience);
    QVERIFY(cell(0, 0).detail > 1);
    QVERIFY(cell(1, 1).framing.layout == Layout::Single);
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
