// SPDX-License-Identifier: GPL-3.0-or-later
// The real window, driven as a user does. Run by ctest offscreen, and once more under a virtual X server.
#include "app/dispatch/DispatchView.h"
#include "app/footage/FootageView.h"
#include "app/order/CutReview.h"
#include "app/order/OrderView.h"
#include "app/sheet/CellDelegate.h"
#include "app/sheet/SheetView.h"
#include "app/shell/MainWindow.h"
#include "app/shell/RecoveryDialog.h"
#include "app/spec/ChoicePanel.h"
#include "app/spec/ConsequencePanel.h"
#include "app/spec/SpecView.h"
#include "app/style/Folders.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "project/ProjectFile.h"
#include "render/Pictures.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QAbstractButton>
#include <QAccessible>
#include <QAction>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QSpinBox>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <QWheelEvent>
#include <csignal>
#include <sys/resource.h>

using namespace tromb;

class TestWindow : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  /// Runs `work` in the next dialog that opens.
  template <typename Dialog, typename Work> static void inNextDialog(Work work) {
    auto* timer = new QTimer;
    QObject::connect(timer, &QTimer::timeout, timer, [timer, work] {
      auto* dialog = qobject_cast<Dialog*>(QApplication::activeModalWidget());
      if (!dialog) return;
      timer->deleteLater();
      timer->stop();
      work(*dialog);
      if (dialog->isVisible()) dialog->reject(); // after a failure inside: do not wait for ever
    });
    timer->start(20);
  }
  static QPoint cellPoint(const SheetView& sheet, int row, int column) {
    return sheet.visualRect(sheet.model()->index(row, column)).center() - QPoint(0, 12);
  }

  /// A recovery copy, the only one, as a window leaves it that ended without closing.
  static Project leaveACopy() {
    QDir(recoveryFolder()).removeRecursively();
    Project lost;
    lost.name = "Lost";
    lost.deliverables = {newDeliverable({}, "vertical-story", nullptr)};
    auto file = RecoveryFile::create(recoveryFolder().toStdString());
    if (!file || !file->write(lost, "")) qFatal("no recovery copy can be written");
    return lost;
  }

private slots:
  void initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    qputenv("XDG_DATA_HOME", at("data").toLocal8Bit());
    QSettings(QStringLiteral("tromb"), QCoreApplication::applicationName()).clear();
    Settings::setFramesNewShots(false); // tests of other things
    Theme::apply(*qApp, ThemeChoice::Day);
    test::writeClip(at("wide.mp4").toStdString(), {640, 360}, FrameRate(), 30, test::texture, true);
  }

  // Bring in, add a deliverable, slide, undo, save, reopen, export: and the pixels are the ones asked for.
  void fromAWideClipToAVerticalFile() {
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    QVERIFY(QTest::qWaitForWindowExposed(&window));
    // Dropped, as from a file view.
    QMimeData mime;
    mime.setUrls({QUrl::fromLocalFile(at("wide.mp4"))});
    QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&window, &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(300, 300), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&window, &drop);
    QTRY_COMPARE_WITH_TIMEOUT(window.document().project().shots.size(), size_t(1), test::kPatience);

    // Added from the menu, and specified in the view that it opens.
    QMenu* menu = window.actions().menu(MenuId::AddForMenu);
    window.actions().at(QStringLiteral("add-deliverable"))->trigger();
    QVERIFY(menu->isVisible());
    menu->close();
    menu->actions().back()->trigger();
    QCOMPARE(window.document().project().deliverables.size(), size_t(1));
    QTRY_VERIFY_WITH_TIMEOUT(window.spec().isVisible(), test::kPatience);
    const auto find = [&window](const char* name) {
      for (QWidget* each : window.spec().findChildren<QWidget*>())
        if (each->accessibleName() == QLatin1String(name) && each->isVisible()) return each;
      qFatal("%s is not there", name);
    };
    const auto size = [&window] { return window.document().project().deliverables[0].canvas; };
    const auto typeIn = [](QWidget* field, const char* keys) {
      field->setFocus();
      QTest::keyClick(field, Qt::Key_A, Qt::ControlModifier);
      QTest::keyClicks(field, QString::fromLatin1(keys));
      QTest::keyClick(field, Qt::Key_Return);
    };
    typeIn(find("Width in pixels"), "203"); // 4:2:0 cannot have it
    QCOMPARE(size().width, 203);
    QTRY_VERIFY_WITH_TIMEOUT(window.spec().consequences().row("size"), test::kPatience);
    for (QAbstractButton* b : window.spec().consequences().row("size")->findChildren<QAbstractButton*>())
      if (b->text().startsWith(QStringLiteral("Use 202×"))) QTest::mouseClick(b, Qt::LeftButton);
    QCOMPARE(size().width, 202);
    typeIn(find("Height in pixels"), "360");
    QTest::mouseClick(find("Turn: swap width and height"), Qt::LeftButton);
    QCOMPARE(size(), (Size{360, 202}));
    window.actions().at(QStringLiteral("undo"))->trigger();
    QCOMPARE(size(), (Size{202, 360}));
    typeIn(find("Name"), "Story");
    QCOMPARE(window.document().project().deliverables[0].name, std::string("Story"));
    window.showView(MainWindow::View::Sheet);

    SheetView& sheet = window.sheet();
    QTRY_VERIFY_WITH_TIMEOUT(window.settled(), test::kPatience);
    const auto windowX = [&] { return window.document().cell({0, 0}).placements.front().window.x; };
    const double centre = windowX();
    // Click selects; a drag inside the selected cell slides by exactly the pixels that the pointer passed.
    QTest::mouseClick(sheet.viewport(), Qt::LeftButton, {}, cellPoint(sheet, 0, 0));
    const QRectF canvas =
        CellDelegate::canvasRect(sheet.visualRect(sheet.model()->index(0, 0)), {202, 360}, sheet.fontMetrics());
    const QPoint from = canvas.center().toPoint();
    QTest::mousePress(sheet.viewport(), Qt::LeftButton, {}, from);
    for (int i = 1; i <= 12; ++i) QTest::mouseMove(sheet.viewport(), from + QPoint(i, 0));
    QTest::mouseRelease(sheet.viewport(), Qt::LeftButton, {}, from + QPoint(12, 0));
    const double expected = centre - 12 * (202 / canvas.width());
    QVERIFY2(std::abs(windowX() - expected) < 1e-6, qPrintable(QString::number(windowX() - expected)));
    // Keys: one and ten canvas pixels (at detail 1, source pixels too); one undo step a burst.
    const double before = windowX();
    QApplication::setActiveWindow(&window);
    sheet.setFocus();
    QTest::keyClick(&sheet, Qt::Key_Left, Qt::AltModifier);
    QVERIFY(std::abs(windowX() - before - 202.0 / 202) < 0.01);
    QTest::keyClick(&sheet, Qt::Key_Left, Qt::AltModifier | Qt::ShiftModifier);
    QVERIFY(std::abs(windowX() - before - 11) < 0.03);
    for (int i = 0; i < 60; ++i) QTest::keyClick(&sheet, Qt::Key_Left, Qt::AltModifier | Qt::ShiftModifier);
    QVERIFY(std::abs(windowX() - (640 - 202)) < 0.01); // stopped at the picture's edge
    window.document().undoStack().undo();
    QVERIFY(std::abs(windowX() - before) < 1e-9);
    // The wheel zooms, and detail falls below one with it.
    QWheelEvent wheel(from, sheet.viewport()->mapToGlobal(from), {}, {0, 240}, Qt::NoButton, Qt::ControlModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(sheet.viewport(), &wheel);
    QCOMPARE(window.document().cell({0, 0}).state, Cell::State::Soft);
    window.document().undoStack().undo();
    QTest::keyClick(&sheet, Qt::Key_W);
    QCOMPARE(window.document().cell({0, 0}).state, Cell::State::Bars);
    QTest::keyClick(&sheet, Qt::Key_F);
    QVERIFY(std::abs(windowX() - before) < 1e-9);

    QVERIFY(window.files().saveTo(at("job.tromb")));
    QVERIFY(!window.isWindowModified());
    MainWindow second;
    second.resize(1280, 800);
    second.show();
    // The project is open in the first window: the second is told, and need not open it.
    bool told = false;
    inNextDialog<QMessageBox>([&told](QMessageBox& question) {
      told = question.objectName() == QLatin1String("elsewhere");
      question.reject();
    });
    QVERIFY(!second.files().open(at("job.tromb")));
    QVERIFY(told);
    QVERIFY(window.close());
    QVERIFY(second.files().open(at("job.tromb")));
    QTRY_VERIFY_WITH_TIMEOUT(second.settled(), test::kPatience);
    QVERIFY(second.document().project() == window.document().project());

    second.showExport();
    second.dispatch().form().folderField().setText(at("out"));
    QTest::mouseClick(static_cast<QWidget*>(&second.dispatch().form().sendButton()), Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(!second.queue().jobs().empty() && second.queue().left() == 0, test::kPatience);
    const QueuedJob& job = second.queue().jobs().back();
    const QString words = resultWords(job, job.record.results.front()); // where it falls short, it is said why
    const auto file = probe(at("out/job Story.mp4").toStdString());
    QVERIFY2(file.has_value(), qPrintable(words));
    // FFmpeg cuts the same part out of the source, to a quarter of a pixel: the outside judge. Seen in blocks of 4×4
    // pixels, so that the encoding counts little; three pixels beside the place it is another picture.
    const Frame found = *VideoReader::open(*file)->frameAt(10);
    const auto block = [](const Frame& frame, int x, int y) {
      int sum = 0;
      for (int i = 0; i < 16; ++i) sum += test::lumaAt(frame, 4 * x + i % 4, 4 * y + i / 4);
      return sum / 16.0;
    };
    const auto difference = [&](double left) {
      (void)test::run("ffmpeg",
                      {"-v", "error", "-y", "-i", at("wide.mp4"), "-vf",
                       QStringLiteral("scale=2560:1440:flags=bicubic,crop=808:1440:%1:0,scale=202:360:flags=area")
                           .arg(std::lround(left * 4)),
                       "-qp", "1", at("cut.mp4")});
      const Frame wanted = *VideoReader::open(*probe(at("cut.mp4").toStdString()))->frameAt(10);
      double sum = 0;
      for (int y = 0; y < 90; ++y)
        for (int x = 0; x < 50; ++x) sum += std::abs(block(found, x, y) - block(wanted, x, y)) / (90 * 50);
      return sum;
    };
    const double here = difference(windowX());
    QVERIFY2(here < 8, std::to_string(here).c_str());
    for (const double aside : {-3.0, 3.0}) {
      const double there = difference(windowX() + aside);
      QVERIFY2(there > 1.8 * here, std::to_string(there).c_str());
    }
  }

  // Commands act on every selected cell; in a stack the drag moves the window under the pointer only.
  void commandsActOnAllSelectedCells() {
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.bringIn({at("wide.mp4")});
    QTRY_COMPARE_WITH_TIMEOUT(window.document().project().shots.size(), size_t(1), test::kPatience);
    for (const Size canvas : {Size{202, 360}, Size{360, 360}, Size{270, 360}}) {
      Deliverable d = newDeliverable(window.document().project(), "", nullptr);
      d.canvas = canvas;
      d.name = freeDeliverableName(window.document().project(), "shape");
      window.document().addDeliverable(d);
    }
    QTRY_VERIFY_WITH_TIMEOUT(window.settled(), test::kPatience);
    SheetView& sheet = window.sheet();
    sheet.selectAll();
    sheet.applyLayout("stack2", QStringLiteral("stack"));
    for (int column = 0; column < 3; ++column)
      QCOMPARE(window.document().cell({0, column}).framing.layout, Layout::Stack2);
    sheet.nudge(-4, 0);
    window.document().undoStack().undo();
    window.document().undoStack().undo();
    for (int column = 0; column < 3; ++column) QCOMPARE(window.document().cell({0, column}).framing, Framing{});
    window.document().undoStack().redo();

    sheet.selectionModel()->setCurrentIndex(sheet.model()->index(0, 0), QItemSelectionModel::ClearAndSelect);
    const QRectF canvas =
        CellDelegate::canvasRect(sheet.visualRect(sheet.model()->index(0, 0)), {202, 360}, sheet.fontMetrics());
    const QPoint from(int(canvas.center().x()), int(canvas.bottom() - canvas.height() / 4));
    const Framing before = window.document().cell({0, 0}).framing;
    QTest::mousePress(sheet.viewport(), Qt::LeftButton, {}, from);
    QTest::mouseMove(sheet.viewport(), from + QPoint(9, 0));
    QTest::mouseRelease(sheet.viewport(), Qt::LeftButton, {}, from + QPoint(9, 0));
    const Framing after = window.document().cell({0, 0}).framing;
    QCOMPARE(after.windows[0], before.windows[0]);
    QVERIFY(after.windows[1].x < before.windows[1].x);
    // Typing a place in the strip changes that number alone.
    auto* strip = window.findChild<QWidget*>(QStringLiteral("cellStrip"));
    const auto fields = strip->findChildren<QDoubleSpinBox*>();
    QCOMPARE(fields.size(), 3);
    fields[2]->setValue(1.5);
    QCOMPARE(window.document().cell({0, 0}).framing.windows[0].zoom, 1.5);
    QCOMPARE(window.document().cell({0, 0}).framing.windows[1], after.windows[1]);
    window.document().undoStack().setClean();
  }

  // The sheet by keys, wheel and slider: cells are slid, zoomed and chosen, pictures grow and shrink in their true
  // shapes.
  void theSheetIsDrivenByKeysAndWheel() {
    MainWindow window;
    window.resize(1280, 800);
    window.resize(1280, 800);
    window.show();
    QVERIFY(QTest::qWaitForWindowExposed(&window));
    window.activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(&window));
    window.bringIn({at("wide.mp4")});
    QTRY_COMPARE_WITH_TIMEOUT(window.document().project().shots.size(), size_t(1), test::kPatience);
    for (const Size canvas : {Size{202, 360}, Size{360, 360}}) {
      Deliverable d = newDeliverable(window.document().project(), "", nullptr);
      d.canvas = canvas;
      d.name = freeDeliverableName(window.document().project(), "shape");
      window.document().addDeliverable(d);
    }
    window.document().duplicateShots({0});
    QTRY_VERIFY_WITH_TIMEOUT(window.settled(), test::kPatience);
    SheetView& sheet = window.sheet();
    sheet.setFocus();
    const auto zoom = [&](int row, int column) {
      return window.document().cell({row, column}).framing.windows[0].zoom;
    };
    const auto window0 = [&](int row, int column) {
      return window.document().cell({row, column}).placements[0].window;
    };
    sheet.selectionModel()->setCurrentIndex(sheet.model()->index(0, 0), QItemSelectionModel::ClearAndSelect);
    // The wheel over a cell that is not selected selects it.
    const auto wheel = [&](int row, int column, int by) {
      const QPointF at = cellPoint(sheet, row, column);
      QWheelEvent turn(at, sheet.viewport()->mapToGlobal(at), {}, {0, by}, Qt::NoButton, Qt::ControlModifier,
                       Qt::NoScrollPhase, false);
      QApplication::sendEvent(sheet.viewport(), &turn);
    };
    wheel(0, 1, 240);
    QVERIFY(sheet.currentIndex() == sheet.model()->index(0, 1));
    QVERIFY(std::abs(zoom(0, 1) - 1.05 * 1.05) < 1e-9);
    QCOMPARE(zoom(0, 0), 1.0);
    // All four ways, by canvas pixels: one is 360/360/zoom source pixels here.
    const RectF before = window0(0, 1);
    const double pixel = before.width / 360;
    QTest::keyClick(&sheet, Qt::Key_Right, Qt::AltModifier);
    QVERIFY(std::abs(window0(0, 1).x - (before.x - pixel)) < 1e-9);
    QTest::keyClick(&sheet, Qt::Key_Left, Qt::AltModifier | Qt::ShiftModifier);
    QVERIFY(std::abs(window0(0, 1).x - (before.x + 9 * pixel)) < 1e-9);
    QTest::keyClick(&sheet, Qt::Key_Up, Qt::AltModifier);
    QVERIFY(std::abs(window0(0, 1).y - (before.y + pixel)) < 1e-9);
    QTest::keyClick(&sheet, Qt::Key_Down, Qt::AltModifier);
    QVERIFY(std::abs(window0(0, 1).y - before.y) < 1e-9);
    QTest::keyClick(&sheet, Qt::Key_C);
    QVERIFY(std::abs(window0(0, 1).x + window0(0, 1).width / 2 - 320) < 1e-9);
    QTest::keyClick(&sheet, Qt::Key_Plus);
    QVERIFY(zoom(0, 1) > 1.15);
    for (int i = 0; i < 9; ++i) QTest::keyClick(&sheet, Qt::Key_Minus);
    QCOMPARE(zoom(0, 1), 1.0); // never less than the canvas
    // Selected as in a spreadsheet: a row by its head, a rectangle with Shift, all of it; and all of them are changed.
    sheet.selectRow(1);
    QCOMPARE(window.session().cells().size(), size_t(2));
    QTest::mouseClick(sheet.viewport(), Qt::LeftButton, {}, cellPoint(sheet, 0, 0));
    QTest::mouseClick(sheet.viewport(), Qt::LeftButton, Qt::ShiftModifier, cellPoint(sheet, 1, 1));
    QCOMPARE(window.session().cells().size(), size_t(4));
    QTest::keyClick(&sheet, Qt::Key_Plus);
    for (int cell = 0; cell < 4; ++cell) QVERIFY(std::abs(zoom(cell / 2, cell % 2) - 1.05) < 1e-9);
    QTest::mouseClick(sheet.viewport(), Qt::LeftButton, {}, cellPoint(sheet, 1, 0));
    QCOMPARE(window.session().cells().size(), size_t(1)); // a click without a drag
    // Pictures keep their shape at every size.
    for (const int height : {72, 130, 320, 9999, 1}) {
      sheet.setPictureHeight(height);
      const QRectF tall =
          CellDelegate::canvasRect(sheet.visualRect(sheet.model()->index(0, 0)), {202, 360}, sheet.fontMetrics());
      const QRectF square =
          CellDelegate::canvasRect(sheet.visualRect(sheet.model()->index(0, 1)), {360, 360}, sheet.fontMetrics());
      QVERIFY(std::abs(tall.width() / tall.height() - 202.0 / 360) < 1e-6);
      QVERIFY(std::abs(square.width() - square.height()) < 1e-6);
      QVERIFY(tall.height() >= 60);
      QVERIFY(tall.height() <= 330);
    }
    window.document().undoStack().setClean();
  }

  // Footage to running order with keys and commands: look through, in and out, add, split, trim, order, name a part,
  // lay sound under it, split at cuts; and the offer for the first footage.
  void fromFootageToARunningOrder() {
    test::writeClip(
        at("edit.mp4").toStdString(), {320, 180}, FrameRate(), 60,
        [](int n, int x, int y) {
          return n < 25 ? test::texture(n, x, y) : test::Yuv{60 + x / 4 + (n > 45 ? y / 2 : 0), 100 + y / 4, 150};
        },
        true);
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    QVERIFY(QTest::qWaitForWindowExposed(&window));
    window.showView(MainWindow::View::Sources);
    window.bringIn({at("edit.mp4"), at("wide.mp4")});
    QTRY_COMPARE_WITH_TIMEOUT(window.document().project().sources.size(), size_t(2), test::kPatience);
    QVERIFY(window.document().project().shots.empty());
    auto* offer = window.findChild<QWidget*>(QStringLiteral("offerBar"));
    QTRY_VERIFY_WITH_TIMEOUT(offer->isVisible(), test::kPatience);
    QTest::mouseClick(window.findChild<QAbstractButton*>(QStringLiteral("takeOffer")), Qt::LeftButton);
    QCOMPARE(window.document().project().deliverables.size(), size_t(3)); // 360 lines: no vertical that is worth it
    QVERIFY(!offer->isVisible());

    window.session().selectSources({0});
    SourceViewer& viewer = window.footage().viewer();
    viewer.setFocus();
    viewer.goTo(10);
    QTest::keyClick(&viewer, Qt::Key_I);
    viewer.goTo(50);
    QTest::keyClick(&viewer, Qt::Key_Left);
    QTest::keyClick(&viewer, Qt::Key_O);
    QVERIFY(window.session().stretchSeconds(viewer.source()) == std::make_pair(Rational(10, 25), Rational(50, 25)));
    QTest::keyClick(&viewer, Qt::Key_Return);
    const auto& shots = window.document().project().shots;
    QVERIFY(shots.size() == 1);
    QVERIFY(shots[0].in == Rational(10, 25));
    QVERIFY(shots[0].out == Rational(50, 25));
    window.session().selectSources({1});
    QTest::keyClick(&viewer, Qt::Key_Return);
    QCOMPARE(shots.size(), size_t(2));

    OrderStrip& strip = window.order().strip();
    strip.setFocus();
    window.session().setPlayhead(Rational(8, 25));
    QTest::keyClick(&strip, Qt::Key_Right);
    window.order().splitAtPlayhead();
    QVERIFY(shots.size() == 3);
    QVERIFY(shots[1].in == Rational(19, 25));
    window.session().selectShots({1});
    QTest::keyClick(&strip, Qt::Key_Right, Qt::AltModifier); // the in point, a frame later
    QTest::keyClick(&strip, Qt::Key_Left, Qt::AltModifier | Qt::ShiftModifier);
    QVERIFY(shots[1].in == Rational(20, 25));
    QVERIFY(shots[1].out == Rational(49, 25));
    for (int i = 0; i < 200; ++i) strip.trimSelected(true, 1);
    QVERIFY(shots[1].out == Rational(60, 25)); // the source's end
    window.actions().at(QStringLiteral("later"))->trigger();
    QVERIFY(shots[2].in == Rational(20, 25));
    window.order().nameRegion(QStringLiteral("Ending"));
    QCOMPARE(window.document().project().regions.size(), size_t(1));
    QVERIFY(window.document().project().regions[0].out == window.document().project().duration());
    window.order().removeSelected();
    QCOMPARE(shots.size(), size_t(2));
    window.document().undoStack().undo();
    // A drag of the first shot behind the second.
    const int y = strip.height() / 2 + 6;
    QTest::mousePress(&strip, Qt::LeftButton, {}, QPoint(30, y));
    for (int x = 30; x < strip.width() / 2; x += 20) QTest::mouseMove(&strip, QPoint(x, y));
    QTest::mouseRelease(&strip, Qt::LeftButton, {}, QPoint(strip.width() / 2, y));
    QVERIFY(shots[0].source == "s2");
    QVERIFY(shots[1].source == "s1");
    window.document().undoStack().undo();

    window.session().selectSources({0});
    window.actions().at(QStringLiteral("add-bed"))->trigger();
    QVERIFY(window.document().project().beds.size() == 1);
    QVERIFY(window.session().bed() == 0);
    window.order().removeSelected();
    QVERIFY(window.document().project().beds.empty());

    window.session().selectSources({0});
    viewer.wholeSource();
    QTest::keyClick(&viewer, Qt::Key_Return);
    const int row = int(shots.size()) - 1;
    inNextDialog<CutReview>([](CutReview& review) {
      QTRY_VERIFY_WITH_TIMEOUT(!review.searching(), test::kPatience);
      QVERIFY(review.chosenTimes() == (std::vector<Rational>{Rational(25, 25), Rational(46, 25)}));
      review.findChild<QAbstractButton*>(QStringLiteral("acceptCuts"))->click();
    });
    window.session().selectShots({row});
    window.actions().at(QStringLiteral("split-at-cuts"))->trigger();
    QVERIFY(shots.size() == size_t(row) + 3);
    QVERIFY(shots[size_t(row) + 1].in == Rational(1));
    window.document().undoStack().setClean();
  }

  // What a window that ended without closing left is offered, and is unsaved when it is opened.
  void unsavedWorkIsOffered() {
    const Project lost = leaveACopy();
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.files().offerRecovery();
    auto* dialog = window.findChild<RecoveryDialog*>();
    QVERIFY(dialog);
    for (QAbstractButton* button : dialog->findChildren<QAbstractButton*>())
      if (button->text() == QLatin1String("&Open the copy")) button->click();
    QVERIFY(window.document().project() == lost);
    QVERIFY(window.isWindowModified());
    // The copy is this window's own now, and goes when the work is thrown away on purpose.
    QVERIFY(abandonedCopies(recoveryFolder().toStdString()).empty());
    QCOMPARE(QDir(recoveryFolder()).entryList({"*.tromb-recovery"}, QDir::Files).size(), 1);
    inNextDialog<QMessageBox>([](QMessageBox& question) {
      for (QAbstractButton* button : question.buttons())
        if (button->text() == QLatin1String("Throw them away")) button->click();
    });
    QVERIFY(window.close());
    QVERIFY(QDir(recoveryFolder()).entryList({"*.tromb-recovery"}, QDir::Files).isEmpty());
  }

  // A copy that could not be written anew is the only one: it stays.
  void recoveredWorkIsNotLostOnAFullDisk() {
    const Project lost = leaveACopy();
    rlimit limit{};
    getrlimit(RLIMIT_FSIZE, &limit);
    const rlimit small{100, limit.rlim_max};
    std::signal(SIGXFSZ, SIG_IGN);
    {
      MainWindow window;
      window.resize(1280, 800);
      setrlimit(RLIMIT_FSIZE, &small);
      window.files().openRecovered(abandonedCopies(recoveryFolder().toStdString()).at(0));
      setrlimit(RLIMIT_FSIZE, &limit);
    } // ended without closing
    const auto copies = abandonedCopies(recoveryFolder().toStdString());
    QCOMPARE(copies.size(), size_t(1));
    QVERIFY(copies[0].project == lost);
    QDir(recoveryFolder()).removeRecursively();
  }

  // What is open stays open and held until another project is; nobody writes over what another window holds.
  void aProjectIsHeldUntilAnotherIsOpen() {
    MainWindow first;
    first.resize(1280, 800);
    MainWindow second;
    second.resize(1280, 800);
    QVERIFY(first.files().saveTo(at("first.tromb")));
    QVERIFY(second.files().saveTo(at("second.tromb")));
    QFile bad(at("bad.tromb"));
    QVERIFY(bad.open(QIODevice::WriteOnly));
    bad.write("{}");
    bad.close();
    QVERIFY(!first.files().open(at("bad.tromb")));
    QCOMPARE(first.document().path(), at("first.tromb"));
    first.findChild<QMessageBox*>(QStringLiteral("complaint"))->reject();
    bool told = false;
    inNextDialog<QMessageBox>([&told](QMessageBox& question) {
      told = question.objectName() == QLatin1String("elsewhere");
      question.reject();
    });
    QVERIFY2(!second.files().open(at("first.tromb")), "the first project is still held");
    QVERIFY2(told, "the first project is still held");

    const auto contents = [this] { return loadProject(at("first.tromb").toStdString()); };
    const auto before = contents();
    second.document().addDeliverable(newDeliverable({}, "vertical-story", nullptr));
    QVERIFY2(!second.files().saveTo(at("first.tromb")), "it is open in the first window");
    QVERIFY(*contents() == *before);
    QCOMPARE(second.document().path(), at("second.tromb"));

    // Another program writes the file: saving asks first.
    QVERIFY(saveProject(second.document().project(), at("first.tromb").toStdString()));
    first.document().addDeliverable(newDeliverable({}, destinationData()->destinations[0].id, nullptr));
    const auto outside = contents();
    inNextDialog<QMessageBox>([&told](QMessageBox& question) {
      told = question.objectName() == QLatin1String("changedOutside");
      question.reject();
    });
    told = false;
    QVERIFY2(!first.files().saveTo(at("first.tromb")), "asked, and gone back");
    QVERIFY2(told, "asked, and gone back");
    QVERIFY(*contents() == *outside);
    for (MainWindow* window : {&first, &second}) window->document().undoStack().clear();
  }

  // Closed with changes thrown away: nothing that is gone is told of it.
  void changesThrownAwayTellNobody() {
    auto document = std::make_unique<Document>();
    document->startNew();
    int told = 0;
    connect(document.get(), &Document::identityChanged, this, [&told] { ++told; });
    document->addDeliverable(newDeliverable({}, "vertical-story", nullptr));
    QVERIFY(document->modified());
    told = 0;
    document.reset();
    QCOMPARE(told, 0);
  }

  void everyControlHasANameAndTheKeyboard() {
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.document().addDeliverable(newDeliverable({}, "vertical-story", nullptr));
    window.showView(MainWindow::View::Spec);
    for (ChoiceGroup* group : window.spec().choices().groups()) group->unfold(true);
    for (const auto view : {MainWindow::View::Spec, MainWindow::View::Dispatch}) {
      window.showView(view);
      const QWidget* root = &window;
      for (QWidget* widget : root->findChildren<QWidget*>()) {
        const bool control = qobject_cast<QAbstractButton*>(widget) || qobject_cast<QAbstractSpinBox*>(widget) ||
                             qobject_cast<QComboBox*>(widget) ||
                             (qobject_cast<QLineEdit*>(widget) && !qobject_cast<QAbstractSpinBox*>(widget->parent()));
        if (!control || !widget->isVisibleTo(root) || widget->objectName().startsWith(QLatin1String("qt_")) ||
            qobject_cast<QHeaderView*>(widget->parent()) || qobject_cast<QTableView*>(widget->parent()))
          continue;
        const QAccessibleInterface* accessible = QAccessible::queryAccessibleInterface(widget);
        QVERIFY2(accessible, widget->metaObject()->className());
        QVERIFY2(!accessible->text(QAccessible::Name).isEmpty(), widget->metaObject()->className());
        QVERIFY2(widget->focusPolicy() & Qt::TabFocus || !widget->isEnabled(),
                 qPrintable(accessible->text(QAccessible::Name)));
      }
    }
    // Every command is in a menu and no two share a key.
    QHash<QString, QString> keys;
    for (const QAction* action : window.findChildren<QAction*>()) {
      const QString key = action->shortcut().toString();
      if (key.isEmpty()) continue;
      QVERIFY2(!keys.contains(key), qPrintable(key + ": " + keys.value(key) + " and " + action->text()));
      keys.insert(key, action->text());
    }
  }

  void badProjectsAreToldAndNothingIsLost_data() {
    QTest::addColumn<QByteArray>("contents"); // of the file; none: there is no file
    QTest::addColumn<QString>("told");
    QTest::newRow("of a later version") << QByteArray("{\"format\":\"tromb-project\",\"version\":99}")
                                        << "later version";
    QTest::newRow("something else") << QByteArray("{\"format\":\"a recipe\",\"version\":1}")
                                    << "not a Tromb project file";
    QTest::newRow("cut off") << QByteArray("{\"format\":\"tromb-project\",\"ver") << "cut off or spoiled";
    QTest::newRow("no text at all") << QByteArray("\x89PNG\r\n") << "cut off or spoiled";
    QTest::newRow("a shot of nothing") << QByteArray("{\"format\":\"tromb-project\",\"version\":1,\"sources\":[],"
                                                     "\"deliverables\":[],\"shots\":[{\"id\":\"h1\","
                                                     "\"source\":\"s1\",\"in\":\"0/1\",\"out\":\"1/1\"}]}")
                                       << "/shots/0/source";
    QTest::newRow("empty") << QByteArray("") << "cut off or spoiled";
    QTest::newRow("not there") << QByteArray() << "not there";
  }
  void badProjectsAreToldAndNothingIsLost() {
    QFETCH(const QByteArray, contents);
    QFETCH(const QString, told);
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.document().addDeliverable(newDeliverable({}, "vertical-story", nullptr));
    const Project before = window.document().project();
    QFile file(at("bad.tromb"));
    file.remove();
    if (!contents.isNull()) {
      QVERIFY(file.open(QIODevice::WriteOnly));
      file.write(contents);
      file.close();
    }
    QVERIFY(!window.files().open(at("bad.tromb")));
    auto* box = window.findChild<QMessageBox*>(QStringLiteral("complaint"));
    QVERIFY(box);
    QVERIFY2(box->text().contains(told), qPrintable(box->text()));
    QVERIFY2(box->text().contains(QLatin1String("bad.tromb")), qPrintable(box->text()));
    box->close();
    QVERIFY(window.document().project() == before);
    // Closing asks, and going back keeps the window.
    inNextDialog<QMessageBox>([](QMessageBox& question) { question.reject(); });
    QVERIFY(!window.close());
    inNextDialog<QMessageBox>([](QMessageBox& question) {
      for (QAbstractButton* button : question.buttons())
        if (button->text() == QLatin1String("Throw them away")) button->click();
    });
    QVERIFY(window.close());
  }

  void themesAndLargeTypeClipNothing_data() {
    QTest::addColumn<bool>("dusk");
    QTest::addColumn<int>("percent");
    for (const bool dusk : {false, true})
      for (const int percent : {100, 125, 150})
        QTest::addRow("%s %d %%", dusk ? "dusk" : "day", percent) << dusk << percent;
  }
  void themesAndLargeTypeClipNothing() {
    QFETCH(const bool, dusk);
    QFETCH(const int, percent);
    Theme::apply(*qApp, dusk ? ThemeChoice::Dusk : ThemeChoice::Day);
    Theme::applyType(*qApp, percent);
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.document().addDeliverable(newDeliverable({}, "vertical-story", nullptr));
    QTest::qWait(50);
    // What the bar counts makes its words longer while the window stays as it is.
    window.bringIn({at("wide.mp4")});
    const auto counts = [&] {
      const auto buttons = window.findChildren<QToolButton*>();
      return std::any_of(buttons.begin(), buttons.end(),
                         [](const QToolButton* each) { return each->text().endsWith(QLatin1String("to look at")); });
    };
    QTRY_VERIFY_WITH_TIMEOUT(counts(), test::kPatience);
    QTest::qWait(50);
    QStringList clipped;
    const auto shown = window.findChildren<QAbstractButton*>();
    for (const QAbstractButton* one : shown)
      for (const QAbstractButton* other : shown)
        if (one < other && one->parentWidget() == other->parentWidget() && one->isVisible() && other->isVisible() &&
            one->geometry().intersects(other->geometry()))
          clipped << one->text() + " over " + other->text();
    for (const QAbstractButton* button : window.findChildren<QAbstractButton*>()) {
      const auto* tool = qobject_cast<const QToolButton*>(button);
      if (tool && tool->toolButtonStyle() == Qt::ToolButtonIconOnly) continue; // its words are not shown
      if (button->isVisible() && !button->text().isEmpty() &&
          button->width() < button->fontMetrics().horizontalAdvance(QString(button->text()).remove('&')))
        clipped << button->text();
    }
    const int width = window.centralWidget()->minimumSizeHint().width();
    Theme::applyType(*qApp, 100);
    window.document().undoStack().setClean();
    QVERIFY2(clipped.isEmpty(), qPrintable(clipped.join(QLatin1String(", "))));
    QVERIFY2(width <= 1280, qPrintable(QString::number(width)));
  }
};

QTEST_MAIN(TestWindow)
#include "tst_window.moc"
