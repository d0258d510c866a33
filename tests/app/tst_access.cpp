// SPDX-License-Identifier: GPL-3.0-or-later
// What a screen reader gets of every view and dialog, where the keyboard goes in them, and whether all of it can be
// said in another language.
#include "app/bench/BenchView.h"
#include "app/bench/FramingDialog.h"
#include "app/dispatch/DispatchView.h"
#include "app/footage/FootageView.h"
#include "app/order/CutReview.h"
#include "app/order/OrderView.h"
#include "app/sheet/SheetView.h"
#include "app/shell/ActionsDialog.h"
#include "app/shell/MainWindow.h"
#include "app/shell/RulesDialog.h"
#include "app/shell/SettingsDialog.h"
#include "app/spec/ChoicePanel.h"
#include "app/spec/DestinationDialog.h"
#include "app/spec/DestinationForm.h"
#include "app/spec/PresetDialog.h"
#include "app/spec/SpecView.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "destination/Destination.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QAbstractButton>
#include <QComboBox>
#include <QLabel>
#include <QMenuBar>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QTranslator>

using namespace tromb;

class TestAccess : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  std::unique_ptr<MainWindow> m_window;
  std::unique_ptr<QDialog> m_dialog;
  QByteArray m_shownBy; ///< the test that has made the window
  QTranslator m_madeUp; ///< into no language, for one of them

  void closeWindow() {
    if (m_window) m_window->document().undoStack().setClean();
    m_window.reset();
    QCoreApplication::removeTranslator(&m_madeUp);
  }
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  static void row(const char* name) { QTest::newRow(name) << QString::fromLatin1(name); }
  static void places() {
    QTest::addColumn<QString>("place");
    for (const char* name :
         {"footage", "sheet", "bench", "bench with bars", "spec", "spec unfolded", "preflight", "destinations",
          "a destination", "dispatch", "dispatch, done", "settings", "rules", "actions", "presets", "saved framings",
          "cuts", "start"}) // which leaves nothing for others
      row(name);
  }
  /// Shows one view or dialog, and gives its window.
  QWidget* show(const QString& place) {
    Document& document = m_window->document();
    if (place == QLatin1String("start")) document.startNew();
    if (place == QLatin1String("footage")) m_window->showView(MainWindow::View::Sources);
    if (place == QLatin1String("sheet")) m_window->showView(MainWindow::View::Sheet);
    if (place.startsWith(QLatin1String("bench"))) m_window->showView(MainWindow::View::Bench);
    if (place.endsWith(QLatin1String("bars"))) m_window->actions().at(QStringLiteral("bars"))->trigger();
    if (place.startsWith(QLatin1String("spec"))) m_window->showView(MainWindow::View::Spec);
    for (ChoiceGroup* group : m_window->spec().choices().groups())
      group->unfold(place.endsWith(QLatin1String("unfolded")));
    if (place == QLatin1String("preflight")) m_window->actions().at(QStringLiteral("show-preflight"))->trigger();
    if (place == QLatin1String("destinations"))
      m_dialog = std::make_unique<DestinationDialog>(m_window->spec().spec(), m_destinations);
    if (place == QLatin1String("a destination"))
      m_dialog = std::make_unique<DestinationForm>(*destination("vertical-story"),
                                                   [](const Destination&) { return Status(); });
    if (place.startsWith(QLatin1String("dispatch"))) m_window->showView(MainWindow::View::Dispatch);
    if (place == QLatin1String("dispatch, done")) {
      // A job that is over, with a proof of its file that falls short.
      const Queue queue(Queue::usualFolder());
      Job job;
      job.deliverables = {"d1"};
      job.folder = at("out").toStdString();
      const std::string id = *queue.add(job, document.project());
      JobRecord record = queue.find(id)->record;
      record.state = JobRecord::State::Done;
      record.results[0].state = JobResult::State::Short;
      record.results[0].path = at("out/a.mp4").toStdString();
      record.results[0].proof.emplace();
      record.results[0].proof->checks = {{"frames", verbatim("50"), verbatim("49"), false, true}};
      (void)queue.write(id, record);
      (void)QTest::qWaitFor([&] { return m_window->queue().job(id) != nullptr; }, test::kPatience);
      m_window->dispatch().list().setCurrent({QueueList::Place::Kind::File, id, "d1"});
    }
    if (place == QLatin1String("settings")) m_dialog = std::make_unique<SettingsDialog>(m_lights);
    if (place == QLatin1String("rules")) m_dialog = std::make_unique<RulesDialog>();
    if (place == QLatin1String("actions")) m_dialog = std::make_unique<ActionsDialog>(m_window->actions());
    if (place == QLatin1String("presets"))
      m_dialog = std::make_unique<PresetDialog>(m_window->spec().spec(), m_presets);
    if (place == QLatin1String("saved framings"))
      m_dialog = std::make_unique<FramingDialog>(Framing(), m_framings, [](const Framing&) {});
    if (place == QLatin1String("cuts")) m_dialog = std::make_unique<CutReview>(document, 0);
    QWidget* top = m_dialog ? static_cast<QWidget*>(m_dialog.get()) : m_window.get();
    top->show();
    top->activateWindow();
    (void)QTest::qWaitForWindowActive(top);
    (void)QTest::qWaitFor([this] { return m_window->settled(); }, test::kPatience);
    QTest::qWait(1); // what unfolds is laid out
    return top;
  }
  static QString told(const QAccessibleInterface& each) {
    const QString kind = each.object() ? QString::fromLatin1(each.object()->metaObject()->className()) : QString();
    return QStringLiteral("%1 '%2' role %3").arg(kind, each.text(QAccessible::Name)).arg(int(each.role()));
  }
  /// All of what is seen, from the top down.
  static void walk(QAccessibleInterface* top, const std::function<void(QAccessibleInterface&)>& see, int depth = 0) {
    if (!top || !top->isValid() || depth > 40) return;
    if (depth > 0 && top->state().invisible) return;
    see(*top);
    const int count = std::min(top->childCount(), 200);
    for (int i = 0; i < count; ++i) walk(top->child(i), see, depth + 1);
  }

  Document m_other;
  LightService m_lights{m_other, {}, 1};
  DestinationStore m_destinations{m_folder.filePath("destinations").toStdString()};
  PresetStore m_presets{m_folder.filePath("presets").toStdString()};
  FramingStore m_framings{m_folder.filePath("framings").toStdString()};

  /// What of a text has not gone through the made-up translation, which puts everything in brackets. Names that people
  /// have given, units, and names of standards are the same in every language.
  static QString untranslated(QString text) {
    static const QRegularExpression kTranslated(QStringLiteral("⟦[^⟦⟧]*⟧"));
    static const QRegularExpression kSame(QStringLiteral(
        "Story|Square|Tromb|HEVC|MP4|\\bMOV\\b|Rec\\. "
        "709|Rec\\. 2100|HLG|^Matroska$|^WebM$|^AAC$|^FLAC$|^Opus$|^Close$|(ultra|super|very)?(fast|slow)(er)?$|^"
        "medium$|^(high|main|baseline)(10|422)?$|a\\.mp4|H\\.264|yuv420p|LUFS|dBTP|/"
        "\\S*|<[^>]*>|"
        "\\{(project|region|deliverable|size|rate)\\}|"
        "(Ctrl|Shift|Alt|Del|Backspace|Return|Enter|Space|Left|Right|Up|Down|Home|End|PgUp|PgDown|Esc|Menu|F\\d+)"));
    while (text.contains(kTranslated)) text.remove(kTranslated);
    const auto data = destinationData();
    for (const ProjectTemplate& each : data->templates) text.remove(QString::fromStdString(each.name));
    for (const Destination& each : data->destinations) {
      for (const auto& [key, because] : each.because) text.remove(QString::fromStdString(because.why));
      for (const std::string& word : {each.summary, each.name}) text.remove(QString::fromStdString(word));
    }
    text.remove(kSame);
    static const QRegularExpression kWord(QStringLiteral("[A-Za-z]{3,}"));
    return text.contains(kWord) ? text : QString();
  }
  /// All that a widget says, by every way in which it can.
  static QStringList wordsOf(const QWidget& widget) {
    QStringList words{widget.toolTip(), widget.accessibleName(), widget.windowTitle(), widget.statusTip()};
    if (const auto* button = qobject_cast<const QAbstractButton*>(&widget)) words << button->text();
    if (const auto* label = qobject_cast<const QLabel*>(&widget)) words << label->text();
    if (const auto* combo = qobject_cast<const QComboBox*>(&widget))
      for (int i = 0; i < combo->count(); ++i) words << combo->itemText(i);
    if (const auto* field = qobject_cast<const QLineEdit*>(&widget)) words << field->placeholderText();
    for (const QAction* action : widget.actions()) words << action->text() << action->toolTip() << action->statusTip();
    return words;
  }

private slots:
  void initTestCase() {
    qputenv("XDG_DATA_HOME", at("data").toLocal8Bit());
    QStandardPaths::setTestModeEnabled(true);
    QGuiApplication::setQuitOnLastWindowClosed(false);
    QCoreApplication::setApplicationName(QStringLiteral("tst_access"));
    Settings::setRecentProjects({}); // their names are in no language
    QSettings(QStringLiteral("tromb"), QStringLiteral("tst_access")).clear();
    Settings::setFramesNewShots(false); // tests of other things
    Theme::apply(*qApp, ThemeChoice::Day);
    test::writeClip(at("a.mp4").toStdString(), {640, 360}, FrameRate(), 50, test::texture, true);
  }
  /// One window for all places of a test.
  void init() {
    if (m_window && m_shownBy == QTest::currentTestFunction()) return;
    closeWindow();
    m_shownBy = QTest::currentTestFunction();
    if (m_shownBy == "allOfItIsTranslated") {
      QVERIFY(m_madeUp.load(QStringLiteral(TROMB_BINARY_DIR "/tests/made-up.qm")));
      QCoreApplication::installTranslator(&m_madeUp);
    }
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->show();
    m_window->bringIn({at("a.mp4")});
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled() && !m_window->document().project().sources.empty(), test::kPatience);
    m_window->document().duplicateShots({0});
    std::vector<Deliverable> shapes(2);
    shapes[0].id = "d1";
    shapes[0].name = "Story";
    shapes[0].canvas = {1080, 1920};
    shapes[1].id = "d2";
    shapes[1].name = "Square";
    shapes[1].canvas = {720, 720};
    m_window->document().addDeliverables(shapes, {});
    SoundBed bed;
    bed.id = "b1";
    bed.source = m_window->document().project().sources[0].id;
    m_window->document().setBeds({bed}, {});
    m_window->session().selectCells({{0, 0}}, {0, 0});
  }
  void cleanup() { m_dialog.reset(); }
  void cleanupTestCase() { closeWindow(); }

  // Whatever takes the keyboard says what it is: its name, and a role that is more than a box on the screen.
  void everythingIsNamed_data() { places(); }
  void everythingIsNamed() {
    QFETCH(const QString, place);
    QWidget* top = show(place);
    QStringList nameless;
    int seen = 0;
    walk(QAccessible::queryAccessibleInterface(top), [&](QAccessibleInterface& each) {
      auto* widget = qobject_cast<QWidget*>(each.object());
      const bool item = !widget && each.object() == nullptr;
      const bool inner = widget && (widget->objectName().startsWith(QLatin1String("qt_")) || widget->focusProxy() ||
                                    qobject_cast<QMenu*>(widget));
      const bool control = widget && widget->focusPolicy() & Qt::TabFocus && widget->isEnabled() && !inner;
      if (!control && !item) return;
      ++seen;
      const QAccessible::Role role = each.role();
      const bool vague = role == QAccessible::NoRole || role == QAccessible::Client || role == QAccessible::Window;
      const bool silent = each.text(QAccessible::Name).trimmed().isEmpty() &&
                          each.text(QAccessible::Value).trimmed().isEmpty() && role != QAccessible::Separator &&
                          role != QAccessible::Pane; // the corner of a table
      if ((control && vague) || silent) nameless << told(each);
    });
    QVERIFY2(nameless.isEmpty(), qPrintable(nameless.join(QLatin1String("; "))));
    QVERIFY(seen > 2);
  }

  // One letter with Alt means one thing.
  void mnemonicsDiffer_data() { places(); }
  void mnemonicsDiffer() {
    QFETCH(const QString, place);
    QWidget* top = show(place);
    QHash<QString, QString> letters;
    const auto take = [&](const QString& text) {
      const QKeySequence letter = QKeySequence::mnemonic(text);
      if (letter.isEmpty()) return;
      const QString key = letter.toString();
      QVERIFY2(!letters.contains(key), qPrintable(key + ": " + letters.value(key) + " and " + text));
      letters.insert(key, text);
    };
    for (const QAbstractButton* each : top->findChildren<QAbstractButton*>())
      if (each->isVisible()) take(each->text());
    for (const QLabel* each : top->findChildren<QLabel*>())
      if (each->isVisible() && each->buddy()) take(each->text());
    if (top == m_window.get())
      for (const QAction* each : m_window->menuBar()->actions()) take(each->text());
  }

  // Tab goes round: always to something that is seen, and back to where it began.
  void tabGoesRound_data() { places(); }
  void tabGoesRound() {
    QFETCH(const QString, place);
    QWidget* top = show(place);
    QTest::keyClick(top, Qt::Key_Tab);
    const QWidget* first = QApplication::focusWidget();
    QVERIFY2(first, "the keyboard is somewhere");
    QList<const QWidget*> passed;
    for (int i = 0; i < 150; ++i) {
      const QWidget* now = QApplication::focusWidget();
      QVERIFY2(now, qPrintable(QStringLiteral("lost after %1").arg(i)));
      QVERIFY2(now->isVisible(), qPrintable(QStringLiteral("lost after %1").arg(i)));
      QVERIFY2(now->isEnabled(), qPrintable(QStringLiteral("lost after %1").arg(i)));
      if (i > 0 && now == first) break;
      QVERIFY2(!passed.contains(now), qPrintable(QStringLiteral("%1 comes twice").arg(now->accessibleName())));
      passed << now;
      QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    }
    QVERIFY2(QApplication::focusWidget() == first, "it comes back");
  }

  // From anywhere a key leads to each part of the window, and the keyboard is somewhere that is seen afterwards.
  void keysLeadThere_data() {
    QTest::addColumn<QString>("id");
    QTest::addColumn<QString>("name"); // of what has the keyboard then
    QTest::addColumn<bool>("empty");   // in a project without anything
    QTest::newRow("footage") << "view-footage"
                             << "Sources" << false;
    QTest::newRow("sheet") << "view-sheet"
                           << "Contact sheet" << false;
    QTest::newRow("bench") << "view-bench"
                           << "The source picture with all windows" << false;
    QTest::newRow("spec") << "view-spec"
                          << "Deliverables" << false;
    QTest::newRow("running order") << "to-order"
                                   << "Running order" << false;
    QTest::newRow("keys") << "to-curves"
                          << "The move along the shot" << false;
    QTest::newRow("results") << "to-results"
                             << "The shot in every deliverable" << false;
    QTest::newRow("top bar") << "to-top"
                             << "Footage" << false;
    QTest::newRow("sheet of nothing") << "view-sheet"
                                      << "Bring in footage …" << true;
    QTest::newRow("bench of nothing") << "view-bench"
                                      << "Bring in footage …" << true;
  }
  void keysLeadThere() {
    QFETCH(const QString, id);
    QFETCH(const QString, name);
    QFETCH(const bool, empty);
    show(QStringLiteral("bench"));
    if (empty) m_window->document().startNew();
    QApplication::processEvents();
    m_window->activateWindow();
    QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : m_window.get(),
                    Qt::Key(m_window->actions().at(id)->shortcut()[0].key()),
                    m_window->actions().at(id)->shortcut()[0].keyboardModifiers());
    const QWidget* now = QApplication::focusWidget();
    QVERIFY2(now, "it is somewhere");
    QVERIFY2(now->isVisible(), "it is somewhere");
    const auto* button = qobject_cast<const QAbstractButton*>(now);
    QCOMPARE(now->accessibleName().isEmpty() && button ? button->text() : now->accessibleName(), name);
  }

  // What is painted is told: shots, beds, results, windows, keys, with what is selected and what can be done.
  void paintedThingsSpeak_data() {
    QTest::addColumn<QString>("which");
    QTest::addColumn<QString>("name"); // of one of its parts
    QTest::newRow("shots") << "Running order"
                           << "Shot 2, A";
    QTest::newRow("results") << "The shot in every deliverable"
                             << "Square 720×720";
    QTest::newRow("windows") << "The source picture with all windows"
                             << "Window of Square";
    QTest::newRow("keys") << "The move along the shot"
                          << "Key 2 of 2";
  }
  void paintedThingsSpeak() {
    QFETCH(const QString, which);
    QFETCH(const QString, name);
    show(QStringLiteral("bench"));
    m_window->bench().bench().moves().startAndEnd();
    QApplication::processEvents();
    QAccessibleInterface* found = nullptr;
    for (QWidget* each : m_window->findChildren<QWidget*>())
      if (each->accessibleName() == which) found = QAccessible::queryAccessibleInterface(each);
    QVERIFY2(found, "it is there");
    QStringList names;
    QAccessibleInterface* part = nullptr;
    for (int i = 0; i < found->childCount(); ++i) {
      names << found->child(i)->text(QAccessible::Name);
      if (names.last() == name) part = found->child(i);
    }
    QVERIFY2(part, qPrintable(names.join(QLatin1String("; "))));
    QCOMPARE(part->parent(), found);
    QVERIFY(!part->text(QAccessible::Value).isEmpty());
    QVERIFY(!part->rect().isEmpty());
    auto* does = static_cast<QAccessibleActionInterface*>(part->interface_cast(QAccessible::ActionInterface));
    QVERIFY2(does, "it can be pressed");
    QVERIFY2(does->actionNames().contains(QAccessibleActionInterface::pressAction()), "it can be pressed");
    QVERIFY(part->state().selectable);
    does->doAction(QAccessibleActionInterface::pressAction());
    QApplication::processEvents();
    QVERIFY2(found->child(int(names.indexOf(name)))->state().selected, "and is chosen then");
  }

  // The buttons of the views are one choice, for a screen reader too.
  void viewsAreOneChoice() {
    show(QStringLiteral("sheet"));
    QAccessibleInterface* bench = nullptr;
    for (QAbstractButton* each : m_window->findChildren<QAbstractButton*>())
      if (each->accessibleName() == QLatin1String("Bench")) bench = QAccessible::queryAccessibleInterface(each);
    QVERIFY(bench);
    QCOMPARE(bench->role(), QAccessible::RadioButton);
    QVERIFY(!bench->state().checked);
    auto* does = static_cast<QAccessibleActionInterface*>(bench->interface_cast(QAccessible::ActionInterface));
    does->doAction(does->actionNames().front());
    QVERIFY(m_window->bench().isVisible());
    QVERIFY(bench->state().checked);
  }

  // Everything can be translated, what the core says as well, and is as wide as it needs when it is a third longer.
  void allOfItIsTranslated_data() { places(); }
  void allOfItIsTranslated() {
    QFETCH(const QString, place);
    QWidget* top = show(place);
    QStringList left;
    QStringList narrow;
    for (QWidget* each : top->findChildren<QWidget*>()) {
      for (const QString& words : wordsOf(*each)) {
        const QString english = untranslated(words);
        if (!english.isEmpty()) left << QString::fromLatin1(each->metaObject()->className()) + ": " + english;
      }
      if (!each->isVisible()) continue;
      const auto* label = qobject_cast<const QLabel*>(each);
      const bool wraps = label && (label->wordWrap() || label->text().isEmpty());
      if ((label || qobject_cast<QAbstractButton*>(each)) && !wraps && each->width() < each->minimumSizeHint().width())
        narrow << wordsOf(*each).join(QLatin1Char(' ')) +
                      QStringLiteral(" %1 of %2").arg(each->width()).arg(each->minimumSizeHint().width());
    }
    walk(QAccessible::queryAccessibleInterface(top), [&](QAccessibleInterface& each) {
      if (each.object()) return; // is a widget
      for (const auto what : {QAccessible::Name, QAccessible::Value, QAccessible::Description})
        if (const QString english = untranslated(each.text(what)); !english.isEmpty()) left << "part: " + english;
    });
    left.removeDuplicates();
    QVERIFY2(left.isEmpty(), qPrintable("not translated: " + left.join(QLatin1String("; "))));
    QVERIFY2(narrow.isEmpty(), qPrintable("too narrow: " + narrow.join(QLatin1String("; "))));
  }

  void cellsSayThatTheyAreByHand() {
    const QAbstractItemModel* model = m_window->sheet().model();
    const auto words = [&] { return model->index(0, 0).data(Qt::AccessibleTextRole).toString(); };
    QVERIFY2(!words().contains(QLatin1String("by hand")), qPrintable(words()));
    m_window->sheet().nudge(40, 0);
    QVERIFY2(words().contains(QLatin1String("by hand")), qPrintable(words()));
  }
};

QTEST_MAIN(TestAccess)
#include "tst_access.moc"
