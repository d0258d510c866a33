// SPDX-License-Identifier: GPL-3.0-or-later
// The window's commands with the dialogs that they open, answered as a user would.
#include "app/bench/BenchView.h"
#include "app/dispatch/DispatchView.h"
#include "app/footage/FootageView.h"
#include "app/order/OrderView.h"
#include "app/sheet/SheetView.h"
#include "app/shell/ActionsDialog.h"
#include "app/shell/MainWindow.h"
#include "app/spec/SpecView.h"
#include "app/style/Folders.h"
#include "app/style/Settings.h"
#include "destination/NewDeliverable.h"
#include "project/FramingStore.h"
#include "project/ProjectFile.h"
#include "support/Patience.h"
#include "support/TestMedia.h"
#include "support/Thoroughness.h"

#include <QAction>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMenu>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScreen>
#include <QSettings>
#include <QSlider>
#include <QSpinBox>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <QTreeWidget>

using namespace tromb;

class TestCommands : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  std::unique_ptr<MainWindow> m_window;

  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] Document& document() { return m_window->document(); }
  [[nodiscard]] const Project& project() { return m_window->document().project(); }
  QAction* command(const QString& id) {
    QAction* action = m_window->actions().at(id);
    m_window->actions().refresh();
    return action;
  }
  /// Answers the dialogs that come one after another while `run` goes on; each must come.
  static void answering(QList<std::function<bool(QWidget&)>> answers, const std::function<void()>& run) {
    QTimer timer;
    QObject::connect(&timer, &QTimer::timeout, &timer, [&] {
      QWidget* dialog = QApplication::activeModalWidget();
      if (dialog && !answers.isEmpty() && answers.front()(*dialog)) answers.removeFirst();
    });
    timer.start(15);
    run();
    QTRY_VERIFY_WITH_TIMEOUT(answers.isEmpty(), test::kPatience);
  }
  static std::function<bool(QWidget&)> text(const QString& text) {
    return [text](QWidget& dialog) {
      auto* input = qobject_cast<QInputDialog*>(&dialog);
      if (!input) return false;
      if (input->inputMode() == QInputDialog::IntInput)
        input->setIntValue(text.toInt());
      else
        input->setTextValue(text);
      input->accept();
      return true;
    };
  }
  static std::function<bool(QWidget&)> file(const QString& path) {
    return [path](QWidget& dialog) {
      auto* files = qobject_cast<QFileDialog*>(&dialog);
      if (!files) return false;
      for (QLineEdit* line : files->findChildren<QLineEdit*>()) line->setText(path);
      static_cast<QDialog*>(files)->accept();
      return true;
    };
  }
  static std::function<bool(QWidget&)> button(const QString& words) {
    return [words](QWidget& dialog) {
      for (QAbstractButton* each : dialog.findChildren<QAbstractButton*>())
        if (QString(each->text()).remove('&') == words) {
          each->click();
          return true;
        }
      return false;
    };
  }
  /// What the window complains about, soon; empty when it does not.
  QString complaint(int milliseconds = test::kPatience) {
    const auto find = [this] { return m_window->findChild<QMessageBox*>(QStringLiteral("complaint")); };
    (void)QTest::qWaitFor([&] { return find() != nullptr; }, milliseconds);
    auto* box = find();
    const QString words = box ? box->text() : QString();
    if (box) delete box;
    return words;
  }
  void activate() { // a dialog has taken the place of the active window
    m_window->activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
  }
  void select(int row, int column) {
    m_window->sheet().selectionModel()->setCurrentIndex(m_window->sheet().model()->index(row, column),
                                                        QItemSelectionModel::ClearAndSelect);
  }

private slots:
  void initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    qputenv("XDG_DATA_HOME", at("data").toLocal8Bit());
    QGuiApplication::setQuitOnLastWindowClosed(false);
    QCoreApplication::setApplicationName(QStringLiteral("tst_commands"));
    QDir(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation)).removeRecursively();
    QSettings(QStringLiteral("tromb"), QCoreApplication::applicationName()).clear();
    Settings::setFramesNewShots(false); // tests of other things
    Theme::apply(*qApp, ThemeChoice::Day);
    test::writeClip(at("a.mp4").toStdString(), {320, 180}, FrameRate(), 50, test::texture);
    test::writeClip(
        at("b.mp4").toStdString(), {320, 180}, FrameRate(), 25,
        [](int n, int x, int y) { return test::texture(n + 40, x + 90, y); }, true);
  }
  void init() {
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->resize(1280, 800);
    m_window->show();
    activate();
    m_window->bringIn({at("a.mp4"), at("b.mp4")});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled() && project().sources.size() == 2, test::kPatience);
    Deliverable story = newDeliverable({}, "vertical-story", nullptr);
    story.canvas = {100, 178};
    Deliverable square = newDeliverable(project(), "square-feed-post", nullptr);
    square.id = "d2";
    square.canvas = {160, 160};
    std::vector<int> all;
    for (int i = 0; i < int(project().deliverables.size()); ++i) all.push_back(i);
    document().removeDeliverables(all);
    document().addDeliverables({story, square}, {});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    m_window->showView(MainWindow::View::Sheet);
    QCOMPARE(project().shots.size(), size_t(2));
    select(0, 0);
  }
  void cleanup() {
    document().undoStack().setClean();
    m_window.reset();
  }

  // No menu is longer than can be looked over, and each letter in it means one thing.
  void menusAreShortAndTheirLettersDiffer() {
    QList<QMenu*> menus;
    for (QAction* title : m_window->menuBar()->actions()) menus << title->menu();
    QString bar;
    const auto letterOf = [](const QAction* each) {
      const QString text = each->text();
      return text.contains('&') ? text.at(text.indexOf('&') + 1).toLower() : QChar();
    };
    for (QAction* title : m_window->menuBar()->actions()) {
      QVERIFY2(!letterOf(title).isNull(), qPrintable(title->text()));
      QVERIFY2(!bar.contains(letterOf(title)), qPrintable(title->text()));
      bar += letterOf(title);
    }
    for (int i = 0; i < menus.size(); ++i) {
      QString letters;
      int entries = 0;
      for (QAction* each : menus[i]->actions()) {
        if (each->isSeparator()) continue;
        ++entries;
        if (each->menu()) menus << each->menu();
        const bool listed = menus[i]->title().contains("recent") || menus[i]->title().contains("a set");
        if (listed) continue; // names that somebody gave
        QVERIFY2(!letterOf(each).isNull(), qPrintable("no letter: " + each->text()));
        QVERIFY2(!letters.contains(letterOf(each)), qPrintable("twice: " + each->text()));
        letters += letterOf(each);
      }
      QVERIFY2(entries < 20, qPrintable(menus[i]->title()));
    }
    QVERIFY(menus.size() > 9);
  }
  // A menu that was opened by keyboard runs nothing but what is chosen in it, whatever is behind it.
  void lettersInAnOpenMenuRunNothingElse_data() {
    QTest::addColumn<int>("menu");
    QTest::addColumn<int>("view");
    const MainWindow window;
    const QList<QAction*> menus = window.menuBar()->actions();
    for (int menu = 0; menu < menus.size(); ++menu)
      for (const auto& [view, name] :
           {std::pair(MainWindow::View::Sheet, "sheet"), std::pair(MainWindow::View::Bench, "bench")})
        QTest::addRow("%s over the %s", qPrintable(menus[menu]->text().remove('&')), name) << menu << int(view);
  }
  void lettersInAnOpenMenuRunNothingElse() {
    if (test::leftOut()) return;
    QFETCH(const int, menu);
    QFETCH(const int, view);
    m_window->showView(MainWindow::View(view));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    if (MainWindow::View(view) == MainWindow::View::Sheet) select(0, 0);
    document().renameShot(0, QStringLiteral("There is something to undo"));
    const Project before = project();
    const QString title = m_window->menuBar()->actions()[menu]->text();
    const int opening = title.at(title.indexOf('&') + 1).toUpper().unicode();
    for (const char letter : QByteArray("abcdefghijklmnopqrstuvwxyz0123456789+-,.")) {
      QTest::keyClick(m_window.get(), Qt::Key(opening), Qt::AltModifier);
      auto* open = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      QVERIFY2(open, "the menu opens");
      const auto chooses = [letter](const QAction* each) {
        return each->text().contains('&' + QString(QLatin1Char(letter)), Qt::CaseInsensitive);
      };
      const auto actions = open->actions();
      if (std::none_of(actions.begin(), actions.end(), chooses)) {
        QTest::keyClick(open, letter);
        QVERIFY2(project() == before, qPrintable(QStringLiteral("'%1' changes the project").arg(letter)));
        QVERIFY2(QApplication::activePopupWidget() == open, "and the menu stays");
      }
      while (QWidget* popup = QApplication::activePopupWidget()) popup->close();
      m_window->menuBar()->setActiveAction(nullptr);
    }
    // While the menu bar alone has the keyboard, too.
    m_window->menuBar()->setFocus();
    for (const char letter : QByteArray("wghkmstx23")) QTest::keyClick(m_window->menuBar(), letter);
    QVERIFY(project() == before);
    while (QWidget* popup = QApplication::activePopupWidget()) popup->close();
  }

  // What an entry of a menu does is told while it is chosen by keys, and goes with the menu.
  void whatAnEntryDoesIsTold() {
    const auto* tip = m_window->findChild<QLabel*>(QStringLiteral("statusTip"));
    QVERIFY2(tip, "nothing is told by itself");
    QVERIFY2(!tip->isVisible(), "nothing is told by itself");
    QTest::keyClick(m_window.get(), Qt::Key_A, Qt::AltModifier);
    auto* open = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    QVERIFY(open);
    while (open->activeAction() != m_window->actions().at(QStringLiteral("add-deliverable")))
      QTest::keyClick(open, Qt::Key_Down);
    QVERIFY(tip->isVisible());
    QCOMPARE(tip->text(), QStringLiteral("A canvas with its frame rate and encoding: one more column of the sheet"));
    QTest::keyClick(open, Qt::Key_Escape);
    QVERIFY2(!tip->isVisible(), "it goes with the menu");
    while (QWidget* popup = QApplication::activePopupWidget()) popup->close();
  }

  // Removing, renaming and adding act on what is seen: never on what another view has selected.
  void keysActOnWhatIsSeen_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<int>("view");
    const auto row = [](const char* name, const char* text, MainWindow::View view) {
      QTest::newRow(name) << text << int(view);
    };
    row("removing on the bench", "remove", MainWindow::View::Bench);
    row("removing deliverables on the bench", "remove-deliverables", MainWindow::View::Bench);
    row("removing deliverables among footage", "remove-deliverables", MainWindow::View::Sources);
    row("adding on the sheet", "add-shot", MainWindow::View::Sheet);
    row("adding on the bench", "add-shot", MainWindow::View::Bench);
    row("laying sound on the sheet", "add-bed", MainWindow::View::Sheet);
  }
  void keysActOnWhatIsSeen() {
    QFETCH(const QString, text);
    QFETCH(const int, view);
    m_window->showView(MainWindow::View::Sources);
    m_window->footage().findChild<QListView*>()->selectAll();
    m_window->showView(MainWindow::View::Sheet);
    select(0, 0);
    m_window->showView(MainWindow::View(view));
    if (MainWindow::View(view) == MainWindow::View::Sources)
      m_window->footage().findChild<QListView*>()->clearSelection();
    const Project before = project();
    command(text)->trigger();
    QVERIFY(project() == before);
  }
  // Delete at a group takes the group and leaves its footage, whatever is selected beside it.
  void aGroupIsRemovedByKeys() {
    m_window->showView(MainWindow::View::Sources);
    m_window->session().selectSources({0});
    m_window->footage().newGroup();
    auto* groups = m_window->footage().findChild<QTreeWidget*>(QStringLiteral("groups"));
    QVERIFY(groups);
    activate();
    groups->setFocus();
    groups->setCurrentItem(groups->topLevelItem(1));
    const size_t sources = project().sources.size();
    QVERIFY2(command(QStringLiteral("remove"))->text().contains(QLatin1String("group")),
             qPrintable(command(QStringLiteral("remove"))->text()));
    QTest::keyClick(groups, Qt::Key_Delete);
    QCOMPARE(project().groups.size(), size_t(0));
    QCOMPARE(project().sources.size(), sources);
    document().undoStack().undo();
    QCOMPARE(project().groups.size(), size_t(1));
  }
  void onTheBenchItsShotIsRenamed() {
    m_window->showView(MainWindow::View::Bench);
    m_window->session().lookAt(1);
    answering({text(QStringLiteral("Seen"))}, [&] { command(QStringLiteral("rename"))->trigger(); });
    QCOMPARE(project().shots[1].name, std::string("Seen"));
  }

  // What belongs to a view that is not to be seen rests, also in the menus.
  void commandsOfHiddenViewsRest_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<bool>("sheet");
    QTest::addColumn<bool>("bench");
    QTest::newRow("fill") << "fill" << true << false;
    QTest::newRow("follow") << "follow" << true << true;
    QTest::newRow("copy") << "copy-framing" << true << false;
    QTest::newRow("turn") << "turn-right" << false << true;
    QTest::newRow("key") << "set-key" << false << true;
  }
  void commandsOfHiddenViewsRest() {
    QFETCH(const QString, text);
    QFETCH(const bool, sheet);
    QFETCH(const bool, bench);
    QTRY_COMPARE_WITH_TIMEOUT(command(text)->isEnabled(), sheet, test::kPatience);
    m_window->showView(MainWindow::View::Bench);
    QTRY_COMPARE_WITH_TIMEOUT(command(text)->isEnabled(), bench, test::kPatience);
    m_window->showView(MainWindow::View::Sources);
    QTRY_COMPARE_WITH_TIMEOUT(command(text)->isEnabled(), false, test::kPatience);
  }

  // A project is exported beside itself, until another folder is chosen for it; another project has its own.
  void everyProjectHasItsExportFolder() {
    QVERIFY(QDir().mkpath(at("one")));
    QVERIFY(m_window->files().saveTo(at("one/job.tromb")));
    const auto offered = [&](const QString& chosen) {
      m_window->showExport();
      SendForm& form = m_window->dispatch().form();
      const QString folder = form.folder();
      form.folderField().setText(chosen);
      m_window->showView(MainWindow::View::Sheet);
      return folder;
    };
    QCOMPARE(offered(at("elsewhere")), at("one/exports"));
    QCOMPARE(offered(at("elsewhere")), at("elsewhere"));
    QDir().mkpath(at("two"));
    QVERIFY(QFile::copy(at("one/job.tromb"), at("two/job.tromb")));
    QVERIFY(m_window->files().open(at("two/job.tromb")));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QCOMPARE(offered(at("two/exports")), at("two/exports"));
  }

  void projectsAreSavedOpenedAndBegun() {
    answering({file(at("job"))}, [&] { command(QStringLiteral("save-as"))->trigger(); });
    QVERIFY(QFile::exists(at("job.tromb")));
    QVERIFY(!m_window->isWindowModified());
    QCOMPARE(document().title(), QStringLiteral("job"));
    document().renameShot(0, QStringLiteral("Changed"));
    command(QStringLiteral("save"))->trigger();
    QVERIFY(!m_window->isWindowModified());
    const Project saved = project();
    // New ones begin like this one, when that is wanted; a template of the shipped ones brings its own shapes.
    command(QStringLiteral("start-like-this"))->trigger();
    QVERIFY(complaint(0).isEmpty());
    command(QStringLiteral("new"))->trigger();
    QVERIFY(project().sources.empty());
    QVERIFY(project().deliverables.size() == 2);
    QVERIFY(project().deliverables[0].canvas == saved.deliverables[0].canvas);
    auto* from = m_window->findChildren<QMenu*>()[0];
    for (QMenu* menu : m_window->findChildren<QMenu*>())
      if (menu->title().contains(QLatin1String("a set"))) from = menu;
    emit from->aboutToShow();
    QVERIFY(from->actions().size() >= 3);
    answering({button(QStringLiteral("Throw them away"))}, [&] {
      document().addDeliverable(newDeliverable(project(), "square-feed-post", nullptr));
      from->actions().front()->trigger();
    });
    QVERIFY(!project().deliverables.empty());
    QVERIFY(project().shots.empty());
    answering({file(at("job.tromb"))}, [&] { command(QStringLiteral("open"))->trigger(); });
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QVERIFY(project() == saved);
    // Of what was open before, the last is first; dropped on the window, it opens too.
    command(QStringLiteral("new"))->trigger();
    QMimeData mime;
    mime.setUrls({QUrl::fromLocalFile(at("job.tromb"))});
    QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(m_window.get(), &enter);
    QDropEvent drop(QPointF(300, 300), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(m_window.get(), &drop);
    QVERIFY(project() == saved);
    const auto before = QApplication::topLevelWidgets().size();
    command(QStringLiteral("new-window"))->trigger();
    QVERIFY(QApplication::topLevelWidgets().size() > before);
    for (QWidget* each : QApplication::topLevelWidgets())
      if (qobject_cast<MainWindow*>(each) && each != m_window.get()) each->close();
  }

  void shotsAndDeliverablesAreChanged() {
    const Project before = project();
    answering({text(QStringLiteral("Take two"))}, [&] { command(QStringLiteral("rename"))->trigger(); });
    QCOMPARE(project().shots[0].name, std::string("Take two"));
    command(QStringLiteral("later"))->trigger();
    QVERIFY(project().shots[1].name == "Take two");
    select(1, 1);
    command(QStringLiteral("earlier"))->trigger();
    QVERIFY(project().shots[0].name == "Take two");
    activate();
    m_window->order().strip().setFocus();
    m_window->session().selectShots({1});
    answering({text(QStringLiteral("Second"))}, [&] { command(QStringLiteral("rename"))->trigger(); });
    QCOMPARE(project().shots[1].name, std::string("Second"));
    select(0, 1);
    command(QStringLiteral("edit-deliverable"))->trigger();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->spec().isVisible(), test::kPatience);
    for (QLineEdit* line : m_window->spec().findChildren<QLineEdit*>())
      if (line->text() == QLatin1String("Square feed post")) {
        line->selectAll();
        QTest::keyClicks(line, QStringLiteral("Cube"));
        QTest::keyClick(line, Qt::Key_Return);
      }
    QCOMPARE(project().deliverables[1].name, std::string("Cube"));
    command(QStringLiteral("remove-deliverables"))->trigger();
    QCOMPARE(project().deliverables.size(), size_t(1));
    m_window->showView(MainWindow::View::Sheet);
    m_window->sheet().setFocus();
    select(1, 0);
    command(QStringLiteral("remove"))->trigger();
    QVERIFY(project().shots.size() == 1);
    QVERIFY(project().shots[0].name == "Take two");
    m_window->session().selectShots({0});
    activate();
    m_window->order().strip().setFocus();
    command(QStringLiteral("remove"))->trigger();
    QVERIFY(project().shots.empty());
    m_window->showView(MainWindow::View::Sources);
    m_window->session().selectSources({1});
    m_window->footage().setFocus();
    command(QStringLiteral("remove"))->trigger();
    QCOMPARE(project().sources.size(), size_t(1));
    while (document().undoStack().canUndo() && !(project() == before)) document().undoStack().undo();
    QVERIFY(project() == before);
  }

  // Words are laid by key at the playhead, typed over, held elsewhere by a click, otherwise in one shape alone, and
  // seen in the cells; each is a step that can be taken back.
  void wordsAreLaidOverShots() {
    const Project before = project();
    m_window->sheet().setPictureHeight(160); // whatever room there is
    const auto seen = [&](int column) {
      const QRect cell = m_window->sheet().visualRect(m_window->sheet().model()->index(0, column));
      return m_window->sheet().viewport()->grab(cell.adjusted(8, 8, -8, -40)).toImage();
    };
    const std::array<QImage, 2> plain{seen(0), seen(1)};
    m_window->session().setPlayhead(Rational(1, 2));
    QTest::keyClick(m_window.get(), Qt::Key_L, Qt::ControlModifier);
    auto* dialog = m_window->findChild<QDialog*>(QStringLiteral("elementsDialog"));
    QVERIFY(dialog && dialog->isVisible());
    QCOMPARE(project().elements.size(), size_t(1));
    QCOMPARE(project().elements[0].in, Rational(1, 2));
    auto* words = dialog->findChild<QPlainTextEdit*>();
    QTest::keyClicks(words, QStringLiteral("Fennick Vale"));
    QCOMPARE(project().elements[0].text, std::string("Fennick Vale"));
    document().undoStack().undo();
    QCOMPARE(project().elements.size(), size_t(1)); // all that was typed is one step
    QVERIFY(project().elements[0].text != "Fennick Vale");
    document().undoStack().redo();
    const auto named = [&](const QString& name) {
      for (auto* each : dialog->findChildren<QWidget*>())
        if (each->accessibleName() == name) return each;
      return static_cast<QWidget*>(nullptr);
    };
    QTest::mouseClick(named(QStringLiteral("Held at the top")), Qt::LeftButton);
    QCOMPARE(project().elements[0].place.anchor, Anchor::Top);
    QTRY_VERIFY_WITH_TIMEOUT(seen(0) != plain[0] && seen(1) != plain[1], test::kPatience);

    auto* shapes = qobject_cast<QComboBox*>(named(QStringLiteral("Where the place counts")));
    QCOMPARE(shapes->count(), 3);
    shapes->setFocus();
    QTest::keyClick(shapes, Qt::Key_End);
    auto* size = qobject_cast<QDoubleSpinBox*>(named(QStringLiteral("Size, of the canvas's shorter side")));
    size->selectAll();
    QTest::keyClicks(size, QStringLiteral("12"));
    QTest::keyClick(size, Qt::Key_Return);
    QCOMPARE(project().elements[0].placeIn("d2").size, 12.0);
    QCOMPARE(project().elements[0].place.size, ElementPlace().size);
    QCOMPARE(project().elements[0].own.size(), size_t(1));
    for (auto* box : dialog->findChildren<QCheckBox*>())
      if (box->text() == QLatin1String("not here")) QTest::mouseClick(box, Qt::LeftButton, {}, {5, box->height() / 2});
    QTRY_COMPARE_WITH_TIMEOUT(seen(1), plain[1], test::kPatience);
    QVERIFY(seen(0) != plain[0]);
    for (auto* button : dialog->findChildren<QToolButton*>())
      if (button->text() == QLatin1String("as elsewhere")) QTest::mouseClick(button, Qt::LeftButton);
    QVERIFY(project().elements[0].own.empty());
    for (auto* box : dialog->findChildren<QCheckBox*>())
      if (box->text() == QLatin1String("goes along with its shot"))
        QTest::mouseClick(box, Qt::LeftButton, {}, {5, box->height() / 2});
    QCOMPARE(project().elements[0].shot, project().shots[0].id);
    command(QStringLiteral("later"))->trigger(); // the shot, and the words with it
    QCOMPARE(stretchOf(project(), project().elements[0]).first, project().shotStarts()[1] + Rational(1, 2));
    for (auto* button : dialog->findChildren<QPushButton*>())
      if (button->text() == QLatin1String("&Remove")) QTest::mouseClick(button, Qt::LeftButton);
    QVERIFY(project().elements.empty());
    while (document().undoStack().canUndo() && !(project() == before)) document().undoStack().undo();
    QVERIFY(project() == before);
    dialog->close();
  }

  // On the bench words are dragged where they are seen, for that shape alone, as one step; a double click says what
  // they are.
  void wordsAreDraggedOnTheBench() {
    Element e;
    e.id = "e1";
    e.text = "Fennick";
    e.place = {Anchor::Centre, 0, 0, 20, false};
    e.out = project().duration();
    document().setElements({e}, {});
    const Project before = project();
    m_window->showView(MainWindow::View::Bench);
    m_window->session().setDeliverable(1); // 160 × 160
    BenchResults& results = m_window->bench().results();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    const QRectF canvas = results.activeRect();
    const QPoint from = canvas.center().toPoint();
    const QPoint to = from + QPoint(0, int(canvas.height() / 4)); // a quarter of the shorter side
    QTest::mousePress(&results, Qt::LeftButton, {}, from);
    QTest::mouseMove(&results, from + QPoint(0, 15));
    QTest::mouseMove(&results, to);
    QTest::mouseRelease(&results, Qt::LeftButton, {}, to);
    const ElementPlace place = project().elements[0].placeIn("d2");
    QVERIFY2(std::abs(place.y - 25) < 1, qPrintable(QString::number(place.y)));
    QCOMPARE(place.x, 0.0);
    QCOMPARE(project().elements[0].place, e.place);
    QCOMPARE(project().elements[0].own.size(), size_t(1));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QTest::mouseDClick(&results, Qt::LeftButton, {}, to);
    auto* dialog = m_window->findChild<QDialog*>(QStringLiteral("elementsDialog"));
    QVERIFY(dialog && dialog->isVisible());
    dialog->close();
    document().undoStack().undo();
    QVERIFY(project() == before);
  }

  // Captions are taken from a file, corrected, split where the cursor and the playhead stand, joined again, looked at
  // all alike, and written to a file.
  void captionsAreTakenAndCorrected() {
    const Project before = project();
    QFile said(at("said.srt"));
    QVERIFY(said.open(QIODevice::WriteOnly));
    said.write(
        "1\n00:00:00,200 --> 00:00:01,200\nOne two three\n\n2\n00:00:01,200 --> 00:00:01,800\nFour\n\n3\n00:00:09,000 "
        "--> 00:00:01,000\nback\n");
    said.close();
    command(QStringLiteral("elements"))->trigger();
    auto* dialog = m_window->findChild<QDialog*>(QStringLiteral("elementsDialog"));
    QVERIFY(dialog && dialog->isVisible());
    const auto press = [&](const QString& text) {
      for (auto* button : dialog->findChildren<QPushButton*>())
        if (button->text() == text) QTest::mouseClick(button, Qt::LeftButton);
    };
    QString told;
    answering({file(at("said.srt")),
               [&](QWidget& box) {
                 auto* message = qobject_cast<QMessageBox*>(&box);
                 if (!message) return false;
                 told = message->text();
                 QTest::keyClick(&box, Qt::Key_Return);
                 return true;
               }},
              [&] { press(QStringLiteral("&Take captions …")); });
    QVERIFY2(told.contains(QLatin1String("1 caption")) && told.contains(QLatin1String("line 10")), qPrintable(told));
    QCOMPARE(captionsOf(project()).size(), size_t(2));
    auto* words = dialog->findChild<QPlainTextEdit*>();
    QCOMPARE(words->toPlainText(), QStringLiteral("One two three"));
    m_window->session().setPlayhead(Rational(4, 5));
    words->setFocus();
    QTest::keyClick(words, Qt::Key_Home);
    for (int i = 0; i < 4; ++i) QTest::keyClick(words, Qt::Key_Right);
    press(QStringLiteral("&Split"));
    using Captions = std::vector<Caption>;
    const Caption four{Rational(6, 5), Rational(9, 5), "Four"};
    QCOMPARE(captionsOf(project()),
             (Captions{{Rational(1, 5), Rational(4, 5), "One"}, {Rational(4, 5), Rational(6, 5), "two three"}, four}));
    press(QStringLiteral("&Join"));
    QCOMPARE(captionsOf(project()), (Captions{{Rational(1, 5), Rational(6, 5), "One\ntwo three"}, four}));
    const std::vector<Element> kept = project().elements;
    const auto seen = [&] { return m_window->sheet().viewport()->grab().toImage(); };
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    const QImage below = seen();
    for (auto* each : dialog->findChildren<QToolButton*>())
      if (each->accessibleName() == QLatin1String("Held at the top")) QTest::mouseClick(each, Qt::LeftButton);
    QCOMPARE(project().captionStyle.place.anchor, Anchor::Top);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled() && seen() != below, test::kPatience);
    QCOMPARE(project().elements, kept);
    answering({file(at("said.vtt"))}, [&] { press(QStringLiteral("Write &captions …")); });
    const auto read = readCaptions(at("said.vtt").toStdString());
    QVERIFY(read);
    QCOMPARE(read->captions, captionsOf(project()));
    while (document().undoStack().canUndo() && !(project() == before)) document().undoStack().undo();
    QVERIFY(project() == before);
    dialog->close();
  }

  // A file that was moved is known again by what is in it, whatever it is called; another one of the same name is not
  // taken for it, and what is missing still is said.
  void missingFilesAreFound() {
    QVERIFY(m_window->files().saveTo(at("moved.tromb")));
    const Project saved = project();
    QDir().mkpath(at("elsewhere/deep"));
    QVERIFY(QFile::rename(at("a.mp4"), at("elsewhere/deep/renamed.mp4")));
    QVERIFY(QFile::rename(at("b.mp4"), at("b.kept")));
    test::writeClip(at("elsewhere/b.mp4").toStdString(), {320, 180}, FrameRate(), 25, [](int, int x, int) {
      return test::Yuv{40 + x / 2, 128, 128};
    }); // another film of that name
    m_window.reset();
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->show();
    QVERIFY(m_window->files().open(at("moved.tromb")));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QCOMPARE(document().cell({0, 0}).state, Cell::State::Unusable);
    m_window->showView(MainWindow::View::Sources);
    QAbstractButton* look = nullptr;
    for (QAbstractButton* each : m_window->findChildren<QAbstractButton*>())
      if (each->text() == QStringLiteral("Look in a folder …")) look = each;
    QVERIFY(look);
    QVERIFY(look->isVisible());
    answering({file(at("elsewhere"))}, [&] { look->click(); });
    QTRY_VERIFY_WITH_TIMEOUT(QString::fromStdString(project().sources[0].path).endsWith("renamed.mp4"),
                             test::kPatience);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QVERIFY(document().cell({0, 0}).state != Cell::State::Unusable);
    const QString words = complaint();
    QVERIFY2(words.contains(QLatin1String("still missing")), qPrintable(words));
    QVERIFY(project().sources[1].path == saved.sources[1].path);
    document().undoStack().undo();
    QVERIFY(project().sources[0].path == saved.sources[0].path);
    QVERIFY(QFile::rename(at("elsewhere/deep/renamed.mp4"), at("a.mp4")));
    QVERIFY(QFile::rename(at("b.kept"), at("b.mp4")));
  }

  void theProjectIsCollected() {
    QDir().mkpath(at("collected"));
    QString said;
    answering({file(at("collected")),
               [&](QWidget& dialog) {
                 auto* box = qobject_cast<QMessageBox*>(&dialog);
                 if (!box) return false;
                 said = box->text();
                 box->accept();
                 return true;
               }},
              [&] { command(QStringLiteral("collect"))->trigger(); });
    QVERIFY2(said.contains(QLatin1String("compared")), qPrintable(said));
    const QStringList projects = QDir(at("collected")).entryList({"*.tromb"}, QDir::Files);
    QCOMPARE(projects.size(), 1);
    const auto copy = loadProject(at("collected/" + projects.front()).toStdString());
    QVERIFY(copy);
    QVERIFY(copy->sources.size() == 2);
    QVERIFY(QFile::exists(QString::fromStdString(copy->sources[1].path)));
    QVERIFY(QString::fromStdString(copy->sources[0].path).startsWith(at("collected")));
    // Where something is already, nothing is written over.
    answering({file(at("collected"))}, [&] { command(QStringLiteral("collect"))->trigger(); });
    const QString words = complaint();
    QVERIFY2(words.contains(QLatin1String("empty folder")), qPrintable(words));
  }

  void whatCannotBeBroughtInIsSaid() {
    QStringList bad;
    for (int i = 0; i < 14; ++i) {
      QFile wrong(at(QStringLiteral("bad%1.mp4").arg(i)));
      QVERIFY(wrong.open(QIODevice::WriteOnly));
      QVERIFY(wrong.write("words") == 5);
      bad << wrong.fileName();
    }
    m_window->bringIn(bad + QStringList{at("a.mp4")});
    const QString words = complaint();
    QVERIFY2(words.contains(QLatin1String("bad3.mp4")), qPrintable(words));
    QVERIFY2(words.contains(QLatin1String("3 more")), qPrintable(words));
    QCOMPARE(project().sources.size(), size_t(2)); // known already
  }

  // What is chosen in the settings holds at once, and is there again when they are opened again.
  void settingsHoldAtOnce() {
    const auto choose = [](const QString& name, int entry) {
      return [name, entry](QWidget& dialog) {
        for (QComboBox* box : dialog.findChildren<QComboBox*>())
          if (box->accessibleName() == name) {
            box->setCurrentIndex(entry);
            emit box->activated(entry);
            static_cast<QDialog&>(dialog).reject();
            return true;
          }
        return false;
      };
    };
    const auto opened = [&](const std::function<bool(QWidget&)>& answer) {
      answering({answer}, [&] { command(QStringLiteral("settings"))->trigger(); });
    };
    const QIcon drawn = command(QStringLiteral("undo"))->icon(); // follows the theme by itself
    const auto ink = [&](QIcon::Mode mode) {
      const QImage picture = drawn.pixmap(40, mode).toImage();
      int darkest = 255;
      for (int i = 0; i < picture.width() * picture.height(); ++i)
        if (const QColor c = picture.pixelColor(i % picture.width(), i / picture.width()); c.alpha() == 255)
          darkest = std::min(darkest, c.lightness());
      return darkest;
    };
    QCOMPARE(ink(QIcon::Normal), Theme::current().ink.lightness());
    QCOMPARE(ink(QIcon::Disabled), Theme::current().faint.lightness());
    opened(choose(QStringLiteral("Theme"), 2));
    QCOMPARE(Settings::theme(), ThemeChoice::Dusk);
    QVERIFY(Theme::current().paper.lightness() < 100);
    QCOMPARE(ink(QIcon::Normal), Theme::current().ink.lightness());
    opened(choose(QStringLiteral("Theme"), 1));
    QVERIFY(Theme::current().paper.lightness() > 200);
    opened(choose(QStringLiteral("Place of the running order"), 1));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->order().geometry().top() < m_window->sheet().mapTo(m_window.get(), QPoint()).y(),
                             test::kPatience);
    opened(choose(QStringLiteral("Place of the running order"), 0));
    QTRY_VERIFY_WITH_TIMEOUT(m_window->order().geometry().top() > m_window->sheet().mapTo(m_window.get(), QPoint()).y(),
                             test::kPatience);
    const double usual = QApplication::font().pointSizeF();
    opened(choose(QStringLiteral("Type size"), 2));
    QVERIFY(std::abs(QApplication::font().pointSizeF() / usual - 1.5) < 0.05);
    opened(choose(QStringLiteral("Type size"), 0));
    QCOMPARE(QApplication::font().pointSizeF(), usual);
    opened(choose(QStringLiteral("Height of the sheet's pictures"), 4));
    QCOMPARE(m_window->sheet().pictureHeight(), 240);
    const auto* size = m_window->findChild<QSlider*>(QStringLiteral("sheetSize"));
    QVERIFY(size);
    QCOMPARE(size->value(), 240);
    opened(choose(QStringLiteral("Height of the sheet's pictures"), 0));
    QVERIFY(m_window->sheet().fits());
    QCOMPARE(size->value(), m_window->sheet().pictureHeight());
    Settings::setFootageFolder(at("footage"));
    opened([this](QWidget& dialog) {
      for (const QPushButton* each : dialog.findChildren<QPushButton*>())
        if (each->accessibleName().endsWith(at("footage"))) {
          static_cast<QDialog&>(dialog).reject();
          return true;
        }
      return false;
    });
    opened([](QWidget& dialog) {
      auto* limit = dialog.findChild<QSpinBox*>();
      if (!limit) return false;
      limit->setValue(7);
      static_cast<QDialog&>(dialog).reject();
      return true;
    });
    QCOMPARE(Settings::lighterCopiesBytes(), int64_t(7'000'000'000));
  }

  // Whatever can be undone says what it was, in the menu and to who reads it.
  void undoSaysWhat_data() {
    QTest::addColumn<QString>("id");
    QTest::addColumn<bool>("bench");
    QTest::addColumn<QString>("text");
    const auto sheet = [](const char* id, const char* text) { QTest::newRow(id) << id << false << text; };
    const auto bench = [](const char* id, const char* text) { QTest::newRow(id) << id << true << text; };
    sheet("fill", "Fill the canvas");
    sheet("whole", "Show the whole picture");
    sheet("two", "Two stacked");
    sheet("three", "Three stacked");
    sheet("backdrop", "Over a backdrop");
    sheet("centre", "Centre");
    sheet("zoom-in", "Zoom");
    sheet("copy-to-deliverables", "Copy the framing");
    sheet("as-before", "Frame as the shot before");
    sheet("follow", "Follow the subject");
    sheet("remove-deliverables", "Remove a deliverable");
    sheet("remove", "Remove a shot");
    sheet("duplicate", "Duplicate a shot");
    sheet("earlier", "Put a shot elsewhere");
    bench("set-key", "Set a key");
    bench("keys-at-ends", "Keys at both ends");
    bench("key-at-cut-before", "A key at the cut");
    bench("turn-right", "Turn the source");
    bench("mirror", "Mirror the source");
    bench("split", "Split the shot");
  }
  void undoSaysWhat() {
    if (test::leftOut()) return;
    QFETCH(const QString, id);
    QFETCH(const bool, bench);
    QFETCH(const QString, text);
    m_window->session().selectCells({{1, 1}}, {1, 1});
    if (bench) m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    if (!bench) m_window->sheet().setFocus();
    m_window->sheet().zoomBy(1.3);
    m_window->sheet().nudge(9, 9); // so that every one of them changes something
    const int before = document().undoStack().index();
    QVERIFY(command(id)->isEnabled());
    command(id)->trigger();
    QCOMPARE(document().undoStack().index(), before + 1);
    QCOMPARE(document().undoStack().undoText(), text);
    QVERIFY(Actions::plainText(m_window->actions().at(QStringLiteral("undo"))).endsWith(text));
  }

  // A window opens as the last was left; the first one, with its frame, on the screen there is.
  void windowsOpenAsTheyWereLeft() {
    m_window->resize(870, 610);
    document().startNew(); // nothing to be saved
    m_window->close();
    const MainWindow next;
    QCOMPARE(next.size(), QSize(870, 610));
    Settings::setLeft(QStringLiteral("window"), QByteArray());
    const MainWindow first;
    QVERIFY(first.height() < first.screen()->availableSize().height());
  }

  // An action is found by letters of its words and done with Return; what cannot be done now is not.
  void actionsAreFoundByTyping_data() {
    QTest::addColumn<QString>("typed");
    QTest::addColumn<QString>("done"); // id; empty: nothing
    QTest::newRow("its words") << "dupl"
                               << "duplicate";
    QTest::newRow("two of them, in any order") << "canv fill"
                                               << "fill";
    QTest::newRow("words of its tip") << "blurred"
                                      << "backdrop";
    QTest::newRow("not now") << "set a key"
                             << "";
    QTest::newRow("nothing of that name") << "qqqq"
                                          << "";
  }
  void actionsAreFoundByTyping() {
    QFETCH(const QString, typed);
    QFETCH(const QString, done);
    QStringList ran;
    for (QAction* action : m_window->actions().all())
      connect(action, &QAction::triggered, this, [&ran, action] { ran << action->objectName(); });
    answering({[&](QWidget& dialog) {
                auto* find = qobject_cast<ActionsDialog*>(&dialog);
                if (!find) return false;
                auto* field = find->findChild<QLineEdit*>();
                QTest::keyClicks(field, typed);
                QTest::keyClick(field, Qt::Key_Return);
                if (find->isVisible()) find->reject();
                return true;
              }},
              [&] { QTest::keyClick(m_window.get(), Qt::Key_F1); });
    ran.removeAll(QStringLiteral("actions"));
    QCOMPARE(ran.join(QLatin1Char(' ')), done);
  }

  // A saved framing is laid on what is selected, its move as long after each shot's beginning as it was.
  void savedFramingsAreLaid() {
    FramingStore store(framingFolder().toStdString());
    Framing framing;
    framing.windows[0].follows = false;
    framing.windows[0].move = {{Rational(1, 5), 0.4, 0.5, 1, Ease::Linear, {}},
                               {Rational(4, 5), 0.6, 0.5, 1.2, Ease::Linear, {}}};
    QVERIFY(store.save("Drift", framing, true).has_value());
    Shot late = project().shots[0];
    late.in = Rational(1);
    document().changeShots({late}, {});
    m_window->sheet().selectAll();
    const auto lay = button(QStringLiteral("Apply to the selected cells"));
    answering({lay}, [&] { command(QStringLiteral("saved-framings"))->trigger(); });
    for (int column = 0; column < 2; ++column) {
      QVERIFY(document().cell({0, column}).framing.windows[0].move[0].time == Rational(6, 5));
      QVERIFY(document().cell({1, column}).framing == framing);
    }
    document().undoStack().undo();
    select(0, 1);
    m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QVERIFY(m_window->bench().bench().row() == 0);
    QVERIFY(m_window->bench().bench().column() == 1);
    answering({button(QStringLiteral("Apply to this cell"))},
              [&] { command(QStringLiteral("saved-framings"))->trigger(); });
    QVERIFY(document().cell({0, 1}).framing.windows[0].move[0].time == Rational(6, 5));
    QVERIFY(document().cell({0, 0}).framing == Framing{});
    QVERIFY(document().cell({1, 1}).framing == Framing{});
    // And saved from there, it is the same one again.
    answering({[](QWidget& dialog) {
                for (QAbstractButton* each : dialog.findChildren<QAbstractButton*>())
                  if (each->text().contains(QLatin1String("Update it"))) each->click();
                return button(QStringLiteral("Close"))(dialog);
              }},
              [&] { command(QStringLiteral("saved-framings"))->trigger(); });
    QVERIFY(store.all().size() == 1);
    QVERIFY(store.all()[0].framing == framing);
  }

  void theBenchShowsWhatIsAskedFor() {
    SheetView& sheet = m_window->sheet();
    emit sheet.doubleClicked(sheet.model()->index(1, 1));
    select(1, 1);
    m_window->showView(MainWindow::View::Bench);
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QVERIFY(m_window->bench().isVisible());
    QVERIFY(m_window->bench().bench().row() == 1);
    // On the bench the running order chooses the shot.
    m_window->session().selectShots({0});
    QCOMPARE(m_window->bench().bench().row(), 0);
    command(QStringLiteral("frame-found"))->trigger();
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    QVERIFY(project().shots[0].subjects.size() == 1);
    QVERIFY(project().shots[1].subjects[0].guess > 0);
    QCOMPARE(document().undoStack().undoText(), QStringLiteral("Frame by what was found"));
    // The sheet says so, beside the shot.
    const QStringList lines = sheet.model()->headerData(0, Qt::Vertical, Qt::ToolTipRole).toString().split('\n');
    QVERIFY2(lines.last().contains(QLatin1String("subject")), qPrintable(lines.last()));
    QVERIFY2(lines.last().endsWith(QLatin1Char('%')), qPrintable(lines.last()));
    command(QStringLiteral("frame-found"))->trigger(); // none is left without
    QVERIFY(document().undoStack().undoText() == QLatin1String("Frame by what was found"));
    document().undoStack().undo();
    QVERIFY(project().shots[0].subjects.empty());
    QVERIFY(project().shots[1].subjects.empty());
  }
};

QTEST_MAIN(TestCommands)
#include "tst_commands.moc"
