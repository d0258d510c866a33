// SPDX-License-Identifier: GPL-3.0-or-later
// Watching in the real window, by keys and by mouse: large, on the sheet, on the bench. The numbers of the frames are
// written in the pictures.
#include "app/bench/BenchResults.h"
#include "app/bench/BenchView.h"
#include "app/footage/FootageView.h"
#include "app/order/MotionDialog.h"
#include "app/order/OrderView.h"
#include "app/order/SpeedCurve.h"
#include "app/order/SpeedDialog.h"
#include "app/sheet/CellDelegate.h"
#include "app/sheet/SheetView.h"
#include "app/shell/MainWindow.h"
#include "app/style/CadenceDrawing.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "app/style/TimecodeField.h"
#include "app/watch/WatchView.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QMenuBar>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QToolButton>

using namespace tromb;

class TestWatchView : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  std::unique_ptr<MainWindow> m_window;

  [[nodiscard]] Watch& watch() { return m_window->watch(); }
  [[nodiscard]] WatchStage& stage() { return m_window->watching().stage(); }
  [[nodiscard]] int64_t playedFrame() { return (m_window->session().playhead() * Rational(25)).nearest(); }
  template <typename Widget> Widget* named(const char* name) {
    for (Widget* each : m_window->findChildren<Widget*>())
      if (each->isVisible() && (each->accessibleName() == QLatin1String(name) || each->objectName() == name))
        return each;
    qFatal("nothing is called %s", name);
  }
  /// The number in a picture on the screen; stripes lie across `whole`, of which `shown` is seen.
  static int numberIn(const QImage& screen, const QRectF& whole) {
    int number = 0;
    for (int stripe = 0; stripe < 16; ++stripe) {
      const QPointF at(whole.left() + (2 * stripe + 1) * whole.width() / 32, whole.center().y());
      number = number * 2 + (qGray(screen.pixel(at.toPoint())) > 126 ? 1 : 0);
    }
    return number;
  }
  void keys(const QStringList& all) {
    for (const QString& each : all) QTest::keySequence(QApplication::focusWidget(), QKeySequence(each));
  }

private slots:
  void initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setApplicationName(QStringLiteral("tst_watch_view"));
    Theme::apply(*qApp, ThemeChoice::Day);
    test::writeClip(
        m_folder.filePath("numbers.mp4").toStdString(), {640, 360}, FrameRate(), 500,
        [](int n, int x, int y) { // not black to the edges: that would be bars
          return y > 120 && y < 240 ? test::numberStripe(n, x, 640) : test::Yuv{120, 110, 140};
        },
        true);
  }
  void init() {
    QSettings(QStringLiteral("tromb"), QStringLiteral("tst_watch_view")).clear();
    Settings::setFramesNewShots(false); // tests of other things
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->show();
    m_window->bringIn({m_folder.filePath("numbers.mp4")});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    Document& document = m_window->document();
    Deliverable wide;
    wide.id = "w";
    wide.name = "Wide";
    wide.canvas = {640, 360};
    Deliverable small = wide;
    small.id = "s";
    small.name = "Small";
    small.canvas = {320, 180};
    Deliverable story = wide;
    story.id = "t";
    story.name = "Story";
    story.canvas = {360, 640};
    document.addDeliverables({wide, small, story}, {});
    document.splitShot(0, {Rational(10)});
    m_window->showView(MainWindow::View::Sheet);
    m_window->session().setPlayhead(Rational(0));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
  }
  void cleanup() {
    m_window->document().undoStack().setClean();
    m_window.reset();
  }

  // Each as large as there is room, in its own shape, and each the frame that it says.
  void everyShapeSideBySide() {
    m_window->session().setPlayhead(Rational(57, 25));
    keys({QStringLiteral("F8")});
    QVERIFY(stage().isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(!watch().busy(), test::kPatience);
    const std::vector<QRectF> rects = stage().pictureRects();
    QCOMPARE(rects.size(), size_t(3));
    QCOMPARE(rects[0].height(), rects[2].height());
    QVERIFY(std::abs(rects[2].width() / rects[2].height() - 9.0 / 16) < 0.01);
    for (const QRectF& rect : rects) QVERIFY(QRectF(stage().rect()).contains(rect));
    const QImage seen = stage().grab().toImage();
    QCOMPARE(numberIn(seen, rects[0]), 57);
    QCOMPARE(numberIn(seen, rects[1]), 57);
    QCOMPARE(stage().paintedParts()[2].name, QStringLiteral("Story"));
    QCOMPARE(stage().paintedParts()[2].value, QStringLiteral("frame 57"));

    auto* trueSizes = m_window->watching().findChildren<QCheckBox*>()[0];
    trueSizes->click();
    QCOMPARE(stage().pictureRects()[1].width() * 2, stage().pictureRects()[0].width());
    auto* shown = named<QComboBox>("What is shown");
    shown->setCurrentIndex(1);
    emit shown->activated(1);
    QCOMPARE(stage().pictureRects().size(), size_t(1));
    const QRectF large = stage().pictureRects()[0];
    QVERIFY(large.width() > stage().width() * 0.85 || large.height() > stage().height() * 0.85);
    stage().setFocus();
    keys({QStringLiteral("Down")});
    QCOMPARE(m_window->session().current().deliverable, 1);
    keys({QStringLiteral("Up")});
    m_window->watching().findChildren<QCheckBox*>()[1]->click(); // with the source
    QTRY_VERIFY_WITH_TIMEOUT(!watch().busy(), test::kPatience);
    QCOMPARE(stage().pictureRects().size(), size_t(2));
    QCOMPARE(numberIn(stage().grab().toImage(), stage().pictureRects()[1]), 57);
  }

  // By keys alone, from the sheet.
  void itIsPlayedByKeys() {
    keys({QStringLiteral("Space")});
    QTRY_VERIFY_WITH_TIMEOUT(playedFrame() > 5, test::kPatience);
    keys({QStringLiteral("Space")});
    QVERIFY(!watch().playing());
    keys({QStringLiteral("F8"), QStringLiteral("L"), QStringLiteral("L")});
    QCOMPARE(watch().speed(), 2);
    keys({QStringLiteral("J")});
    QCOMPARE(watch().speed(), -1);
    keys({QStringLiteral("Space"), QStringLiteral("Ctrl+PgDown")});
    QCOMPARE(m_window->session().playhead(), Rational(10));
    keys({QStringLiteral("Right"), QStringLiteral("Right"), QStringLiteral("Left")});
    QCOMPARE(m_window->session().playhead(), Rational(251, 25));
    keys({QStringLiteral("Ctrl+PgUp"), QStringLiteral("Ctrl+PgUp")});
    QCOMPARE(m_window->session().playhead(), Rational(0));
    keys({QStringLiteral("Ctrl+Shift+R")});
    QCOMPARE(int(watch().part().kind), int(Watch::Part::Kind::Shot));
    QCOMPARE(named<QComboBox>("What is played")->currentIndex(), 1);
    keys({QStringLiteral("F11")});
    QVERIFY(stage().isVisible() && !m_window->menuBar()->isVisible() && !m_window->order().isVisible());
    keys({QStringLiteral("Escape")});
    QVERIFY(!stage().isVisible() && m_window->menuBar()->isVisible() && m_window->order().isVisible());
    QVERIFY(m_window->sheet().isVisible());
    QCOMPARE(m_window->document().undoStack().count(), 3); // bringing in, deliverables, split: watching is no edit
  }

  // Cells of the sheet, and the source on the bench, move with what is played.
  void itPlaysInPlace_data() {
    QTest::addColumn<bool>("bench");
    QTest::newRow("sheet") << false;
    QTest::newRow("bench") << true;
  }
  void itPlaysInPlace() {
    QFETCH(const bool, bench);
    if (bench) m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    const auto shown = [&] {
      if (bench) {
        BenchCanvas& canvas = m_window->bench().canvas();
        return numberIn(canvas.grab().toImage(), QRectF(canvas.toScreen({0, 0}), canvas.toScreen({640, 360})));
      }
      SheetView& sheet = m_window->sheet();
      const QRect cell = sheet.visualRect(sheet.model()->index(0, 0));
      const QRectF canvas = CellDelegate::canvasRect(cell, {640, 360}, sheet.fontMetrics());
      return numberIn(sheet.viewport()->grab().toImage(), canvas);
    };
    m_window->actions().at("play")->trigger();
    QTRY_VERIFY_WITH_TIMEOUT(playedFrame() > 12, test::kPatience);
    int seen = -1;
    int64_t before = 0;
    // Between two looks the clock may have gone on.
    for (int look = 0; look < 50 && seen < 0; ++look) {
      before = playedFrame();
      const int now = shown();
      if (playedFrame() == before && now == before) seen = now;
      QTest::qWait(15);
    }
    QVERIFY2(seen > 0, qPrintable(QStringLiteral("%1 at %2").arg(shown()).arg(before)));
    m_window->actions().at("play")->trigger();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    if (bench) QCOMPARE(shown(), int(playedFrame())); // paused, it is exactly that picture
  }

  // The footage is looked through by the same clock; every picture is reached, also of a variable rate.
  void theFootageIsWatched_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QList<int>>("numbers"); // written in the pictures that are asked for
    QTest::newRow("constant") << "numbers.mp4" << QList<int>{0, 57, 56, 499, 3};
    QTest::newRow("variable") << "variable.mp4" << QList<int>{};
  }
  void theFootageIsWatched() {
    QFETCH(const QString, file);
    QFETCH(QList<int>, numbers);
    QList<int> asked = numbers;
    if (numbers.isEmpty()) {
      test::ffmpeg(
          QStringLiteral("-i %1 -vf select='not(eq(mod(n\\,7)\\,3)+eq(mod(n\\,11)\\,4))' -vsync vfr -c:v libx264 "
                         "-crf 10 -an %2")
              .arg(m_folder.filePath("numbers.mp4"), m_folder.filePath(file)));
      int kept = 0;
      for (int n = 0; n < 60; ++n)
        if (n % 7 != 3 && n % 11 != 4) {
          asked << kept++;
          numbers << n;
        }
    }
    m_window->showView(MainWindow::View::Sources);
    if (file != QLatin1String("numbers.mp4")) m_window->bringIn({m_folder.filePath(file)});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    m_window->session().selectSources({int(m_window->document().project().sources.size()) - 1});
    SourceViewer& viewer = m_window->footage().viewer();
    auto* screen = named<QLabel>("Picture of the source");
    const auto shown = [&] {
      const QImage image = screen->pixmap().toImage();
      return image.isNull() ? -1 : numberIn(image, image.rect());
    };
    for (int i = 0; i < asked.size(); ++i) {
      viewer.goTo(asked[i]);
      QTRY_VERIFY_WITH_TIMEOUT(!viewer.watch().busy(), test::kPatience);
      QCOMPARE(shown(), numbers[i]);
    }
    viewer.goTo(5);
    viewer.setFocus();
    keys({QStringLiteral("Space")});
    QTRY_VERIFY_WITH_TIMEOUT(viewer.frame() > 20, test::kPatience);
    keys({QStringLiteral("J")});
    QTRY_VERIFY_WITH_TIMEOUT(viewer.frame() < 10, test::kPatience);
    viewer.watch().pause();
    QVERIFY(!watch().playing());
  }

  // Drawn by hand for a dozen frames of the quicker rate: 50 at 25 in 6 frames, 25 at 50 in 13, 30 at 25 in 11 (which
  // leave out 3 and 9), 25 at 30 in 13 (which show 2 and 7 again: ⌈n·5/6 − ½⌉).
  void motionIsDrawn_data() {
    QTest::addColumn<int>("source");
    QTest::addColumn<int>("rate");
    QTest::addColumn<bool>("mixed");
    QTest::addColumn<bool>("backwards");
    QTest::addColumn<QList<int>>("counts"); // left out, again, mixed
    QTest::newRow("25 at 25") << 25 << 25 << false << false << QList<int>{0, 0, 0};
    QTest::newRow("50 at 25") << 50 << 25 << false << false << QList<int>{6, 0, 0};
    QTest::newRow("50 at 25, backwards") << 50 << 25 << false << true << QList<int>{6, 0, 0};
    QTest::newRow("25 at 50") << 25 << 50 << false << false << QList<int>{0, 6, 0};
    QTest::newRow("30 at 25") << 30 << 25 << false << false << QList<int>{2, 0, 0};
    QTest::newRow("25 at 30") << 25 << 30 << false << false << QList<int>{0, 2, 0};
    // The first that is shown again is the 14th: what is drawn begins shortly before it.
    QTest::newRow("24 at 25") << 24 << 25 << false << false << QList<int>{0, 1, 0};
    QTest::newRow("25 at 50, mixed") << 25 << 50 << true << false << QList<int>{0, 0, 6};
  }
  void motionIsDrawn() {
    QFETCH(const int, source);
    QFETCH(const int, rate);
    QFETCH(const bool, mixed);
    QFETCH(const bool, backwards);
    QFETCH(const QList<int>, counts);
    const FrameClock clock(FrameRate(Rational(source)), 400);
    const FrameMap frames(TimeMap(Rational(0), clock.duration(), {1, backwards}), clock, FrameRate(Rational(rate)),
                          mixed ? Treatment::Mixed : Treatment::KeepTime);
    const DrawnCadence::Counts got = DrawnCadence({frames, clock, FrameRate(Rational(rate))}).counts();
    QCOMPARE((QList<int>{got.leftOut, got.again, got.mixed}), counts);
  }

  // Sheet and bench draw it for each cell when asked to; the frames of the source are counted on the screen.
  void motionIsDrawnInTheViews_data() {
    QTest::addColumn<bool>("bench");
    QTest::addColumn<int>("rate");
    QTest::addColumn<int>("boxes"); // frames of the source at 25, below which 13 of the quicker row have room
    QTest::newRow("sheet, 25") << false << 25 << 13;
    QTest::newRow("sheet, 50") << false << 50 << 7;
    QTest::newRow("bench, 25") << true << 25 << 13;
    QTest::newRow("bench, 50") << true << 50 << 7;
  }
  void motionIsDrawnInTheViews() {
    QFETCH(const bool, bench);
    QFETCH(const int, rate);
    QFETCH(const int, boxes);
    Deliverable wide = m_window->document().project().deliverables[0];
    wide.rate = FrameRate(Rational(rate));
    m_window->document().changeDeliverables({wide}, QStringLiteral("Change"));
    if (bench) m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    const QRgb drawn = (bench ? Theme::current().surround.darker(150) : Theme::current().line).rgb();
    const auto counted = [&] { // the most that lie on one line of pixels
      SheetView& sheet = m_window->sheet();
      const QImage screen = bench ? m_window->bench().findChild<BenchResults*>()->grab().toImage()
                                  : sheet.viewport()->grab(sheet.visualRect(sheet.model()->index(0, 0))).toImage();
      int most = 0;
      for (int y = 0; y < screen.height(); ++y) {
        int runs = 0;
        for (int x = 1; x < screen.width(); ++x)
          runs += screen.pixel(x, y) == drawn && screen.pixel(x - 1, y) != drawn ? 1 : 0;
        most = std::max(most, runs);
      }
      return most;
    };
    QVERIFY(counted() < boxes);
    m_window->actions().at("show-cadence")->trigger();
    QCOMPARE(counted(), boxes);
  }

  // The dialog follows the playhead, and what is chosen in it is a step of undo, for all shots that are selected.
  void motionIsChosen() {
    keys({QStringLiteral("Ctrl+Shift+M")});
    auto* dialog = m_window->findChild<MotionDialog*>();
    QVERIFY(dialog && dialog->isVisible());
    QCOMPARE(dialog->findChildren<CadenceDrawing*>().size(), 3);
    QComboBox* shot = dialog->findChildren<QComboBox*>()[0];
    for (const Treatment each : {Treatment::EveryFrame, Treatment::Interpolated, Treatment::Mixed}) {
      shot->setCurrentIndex(1 + int(each));
      emit shot->activated(1 + int(each));
      QVERIFY(m_window->document().project().shots[0].treatment == each);
    }
    m_window->document().undoStack().undo();
    m_window->document().undoStack().undo();
    m_window->session().setPlayhead(Rational(15));
    QCOMPARE(shot->currentIndex(), 0);
    m_window->document().undoStack().undo();
    QVERIFY(!m_window->document().project().shots[0].treatment);
    dialog->close();
  }

  // The speed of a shot is drawn: keys are set by a double click and dragged, stepped through and changed by the
  // keyboard, and taken away; what is typed as a length becomes a speed.
  void speedIsDrawn() {
    m_window->session().setPlayhead(Rational(0));
    keys({QStringLiteral("Ctrl+Shift+Y")});
    auto* dialog = m_window->findChild<SpeedDialog*>();
    QVERIFY(dialog && dialog->isVisible());
    auto* curve = dialog->findChild<SpeedCurve*>();
    const auto shot = [&]() -> const Shot& { return m_window->document().project().shots[0]; };
    const Shot before = shot();
    const auto at = [&](const Rational& seconds, const Rational& speed) {
      return curve->pointOf(before.in + seconds, speed).toPoint();
    };
    QTest::mouseDClick(curve, Qt::LeftButton, {}, at(Rational(1), Rational(1)));
    QTest::mouseDClick(curve, Qt::LeftButton, {}, at(Rational(2), Rational(1)));
    QCOMPARE(shot().pace.keys.size(), size_t(2));
    QCOMPARE(shot().pace.keys[1].speed, Rational(1));
    QTest::mousePress(curve, Qt::LeftButton, {}, at(Rational(2), Rational(1)));
    QTest::mouseMove(curve, at(Rational(2), Rational(2)));
    QTest::mouseRelease(curve, Qt::LeftButton, {}, at(Rational(2), Rational(2)));
    QCOMPARE(shot().pace.keys[1].speed, Rational(2)); // near a line it is the line's
    const Rational reached = shot().pace.keys[1].time;
    curve->setFocus();
    QTest::keyClick(curve, Qt::Key_Down);
    QCOMPARE(shot().pace.keys[1].speed, Rational(19048, 10000)); // 2 / 1.05
    QTest::keyClick(curve, Qt::Key_Right);
    QCOMPARE(shot().pace.keys[1].time - reached, Rational(1, 25));
    QTest::keyClick(curve, Qt::Key_PageUp);
    QCOMPARE(dialog->pacing().chosen(), 0);
    QTest::keyClick(curve, Qt::Key_Backspace);
    QTest::keyClick(curve, Qt::Key_PageDown);
    QTest::keyClick(curve, Qt::Key_Backspace);
    QVERIFY(shot().pace.keys.empty());
    auto* length = dialog->findChild<TimecodeField*>();
    length->selectAll();
    QTest::keyClicks(length, QStringLiteral("00:00:08:00"));
    QTest::keyClick(length, Qt::Key_Return);
    QCOMPARE(shot().pace.speed, (before.out - before.in) / Rational(8));
    QVERIFY(dialog->isVisible());
    while (shot().pace != before.pace) m_window->document().undoStack().undo();
    dialog->close();
  }

  // The space bar presses what has the keyboard and can be pressed, and plays elsewhere.
  void spacePressesButtonsFirst() {
    keys({QStringLiteral("F8")});
    auto* box = m_window->watching().findChildren<QCheckBox*>()[0];
    box->setFocus();
    keys({QStringLiteral("Space")});
    QVERIFY(box->isChecked());
    QVERIFY(!watch().playing());
    m_window->order().strip().setFocus();
    keys({QStringLiteral("Space")});
    QVERIFY(watch().playing());
    keys({QStringLiteral("Ctrl+1")});
    m_window->actions().at("play")->trigger(); // of the footage, where no source is chosen
    QVERIFY(watch().playing());
  }
};

QTEST_MAIN(TestWatchView)
#include "tst_watch_view.moc"
