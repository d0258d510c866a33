// SPDX-License-Identifier: GPL-3.0-or-later
// The spec in a real window: choices by keys and by mouse, several deliverables at once, and lines that turn.
#include "app/bench/BenchView.h"
#include "app/dispatch/FindingsPanel.h"
#include "app/sheet/SheetView.h"
#include "app/shell/MainWindow.h"
#include "app/spec/ChoicePanel.h"
#include "app/spec/ConsequencePanel.h"
#include "app/spec/DeliverableList.h"
#include "app/spec/DestinationDialog.h"
#include "app/spec/DestinationForm.h"
#include "app/spec/SampleDialog.h"
#include "app/spec/SpecView.h"
#include "app/style/Folders.h"
#include "app/style/Settings.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "io/Digest.h"
#include "media/read/Probe.h"
#include "model/SheetModel.h"
#include "project/Choices.h"
#include "support/Patience.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"

#include <QAbstractButton>
#include <QCheckBox>
#include <QFile>
#include <QInputDialog>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QStandardPaths>

#include <QAbstractSpinBox>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <QTreeWidget>
#include <QWheelEvent>

using namespace tromb;

class TestSpecView : public QObject {
  Q_OBJECT

  std::unique_ptr<MainWindow> m_window;

  [[nodiscard]] Document& document() { return m_window->document(); }
  [[nodiscard]] const Deliverable& deliverable(size_t at) { return document().project().deliverables[at]; }
  void add(const char* destinationId) {
    document().addDeliverable(newDeliverable(document().project(), destinationId, nullptr));
  }
  void showSpec(const std::vector<int>& columns) {
    m_window->session().selectDeliverables(columns);
    m_window->showView(MainWindow::View::Spec);
    (void)QTest::qWaitForWindowActive(m_window.get());
    QApplication::processEvents();
  }
  template <typename Widget> Widget* find(const char* name) {
    for (Widget* each : m_window->spec().findChildren<Widget*>())
      if (each->accessibleName() == QLatin1String(name)) return each;
    qFatal("%s is not there", name);
  }
  static void typeIn(QWidget* field, const QString& text) {
    field->setFocus();
    QTest::keyClick(field, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
  }
  /// Chooses an entry by keys: by its place in the list.
  static void choose(QComboBox* box, const QString& words) {
    box->setFocus();
    const int to = box->findText(words, Qt::MatchStartsWith);
    QVERIFY2(to >= 0, qPrintable(words));
    for (int steps = 0; box->currentIndex() != to; ++steps) {
      QVERIFY2(steps < box->count(), qPrintable(words)); // a choice on the way has led back
      const int before = box->currentIndex();
      QTest::keyClick(box, before < to ? Qt::Key_Down : Qt::Key_Up);
      QVERIFY2(box->currentIndex() != before, qPrintable(words));
    }
  }
  SpecLineRow* row(const char* code) {
    QApplication::processEvents();
    return m_window->spec().consequences().row(code);
  }

private slots:
  void initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setApplicationName(QStringLiteral("tst_spec_view"));
    // What an earlier run has left would answer for this one.
    QVERIFY(QDir(folderIn(QStandardPaths::CacheLocation, "samples")).removeRecursively());
  }
  void init() {
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->show();
    document().addFootage({{test::video("/wide.mp4", {1920, 1080}, Rational(25), Rational(20)), {}}},
                          Document::AsShots::Yes);
  }
  void cleanup() {
    document().undoStack().clear();
    m_window.reset();
    useOwnDestinations({});
  }

  // From nothing to a right deliverable, by keys alone: what is offered says what it means for the footage, and what is
  // taken holds every limit of where it goes.
  void fromNothingByKeys_data() {
    QTest::addColumn<int>("shape");
    QTest::addColumn<QString>("entry");
    QTest::addColumn<QByteArray>("destination");
    QTest::addColumn<Size>("canvas");
    QTest::newRow("story") << int(Qt::Key_U) << "Vertical story: 1080×1920 · 25, enlarged 1.8×, or two stacked at 1.12"
                           << QByteArray("vertical-story") << Size{1080, 1920};
    QTest::newRow("sharp story") << int(Qt::Key_U) << "Vertical story: 606×1080 · 25, sharp"
                                 << QByteArray("vertical-story") << Size{606, 1080};
    QTest::newRow("web") << int(Qt::Key_W) << "Wide web video: 1920×1080 · 25, sharp" << QByteArray("wide-web-video")
                         << Size{1920, 1080};
    QTest::newRow("broadcast") << int(Qt::Key_W) << "Broadcast review copy, 50 Hz: 1920×1080 · 25, sharp"
                               << QByteArray("broadcast-review-50") << Size{1920, 1080};
  }
  void fromNothingByKeys() {
    QFETCH(int, shape);
    QFETCH(QString, entry);
    QFETCH(QByteArray, destination);
    QFETCH(Size, canvas);
    m_window->showView(MainWindow::View::Sheet);
    m_window->actions().at(QStringLiteral("add-deliverable"))->trigger();
    QMenu* menu = m_window->actions().menu(MenuId::AddForMenu);
    QVERIFY(menu->isVisible());
    QTest::keyClick(menu, Qt::Key(shape));
    QTRY_VERIFY_WITH_TIMEOUT(QApplication::activePopupWidget() != menu, test::kPatience);
    auto* shapes = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    for (int i = 0; i < 60 && (!shapes->activeAction() || shapes->activeAction()->text() != entry); ++i)
      QTest::keyClick(shapes, Qt::Key_Down);
    QVERIFY2(shapes->activeAction() && shapes->activeAction()->text() == entry, "it is offered");
    QTest::keyClick(shapes, Qt::Key_Return);
    QCOMPARE(document().project().deliverables.size(), size_t(1));
    QTRY_VERIFY2_WITH_TIMEOUT(m_window->spec().isVisible(), "it is specified", test::kPatience);
    QCOMPARE(deliverable(0).destination, destination.toStdString());
    QCOMPARE(deliverable(0).canvas, canvas);
    for (const SpecLine& line : m_window->spec().spec().lines(0))
      if (line.topic != SpecTopic::Source && line.code != "limit-canvas")
        QVERIFY2(line.standing != Standing::Broken, line.value.text().c_str());
    document().undoStack().undo();
    QVERIFY(document().project().deliverables.empty());
    m_window->actions().at(QStringLiteral("add-deliverable"))->trigger();
    QCOMPARE(menu->actions().front()->text(), entry); // what was chosen last time comes first, in its size
    menu->close();
  }

  // What differs among several is said, and set for all of them as one step.
  void severalAreSetTogether() {
    add("vertical-story");
    add("square-feed-post");
    add("wide-web-video");
    showSpec({0, 2});
    auto* width = find<NumberChoice>("Width in pixels");
    auto* bitRate = find<NumberChoice>("Bit rate of the picture");
    auto* to = find<ListChoice>("Destination");
    QCOMPARE(width->text(), QStringLiteral("differs"));
    QCOMPARE(to->currentText(), QString());
    QCOMPARE(to->placeholderText(), QStringLiteral("differs"));
    QVERIFY2(bitRate->text().startsWith(QLatin1String("8")), "they have this alike");
    QVERIFY2(!find<TextChoice>("Name")->isVisible(), "no two have one name");
    const int before = document().undoStack().index();
    typeIn(bitRate, QStringLiteral("6"));
    QCOMPARE(deliverable(0).encoding.bitRate, int64_t(6'000'000));
    QCOMPARE(deliverable(2).encoding.bitRate, int64_t(6'000'000));
    QVERIFY2(deliverable(1).encoding.bitRate != 6'000'000, "it is not chosen");
    QCOMPARE(document().undoStack().index(), before + 1);
    typeIn(width, QStringLiteral("720"));
    QCOMPARE(deliverable(0).canvas, (Size{720, 1920}));
    QCOMPARE(deliverable(2).canvas, (Size{720, 1080}));
    QTRY_COMPARE_WITH_TIMEOUT(width->text(), QStringLiteral("720"), test::kPatience);
    choose(find<ListChoice>("Codec of the picture"), QStringLiteral("HEVC"));
    QVERIFY(deliverable(0).encoding.codec == Codec::Hevc && deliverable(2).encoding.codec == Codec::Hevc);
    while (document().undoStack().index() > before) document().undoStack().undo();
    QCOMPARE(deliverable(0).canvas, (Size{1080, 1920}));
    QCOMPARE(deliverable(2).encoding.bitRate, int64_t(8'000'000));
    QTRY_COMPARE_WITH_TIMEOUT(width->text(), QStringLiteral("differs"), test::kPatience);
  }

  // A mouse that chooses in the list is followed by everything, and the list follows the session.
  void theListIsTheSelection() {
    add("vertical-story");
    add("square-feed-post");
    showSpec({0});
    DeliverableList& list = m_window->spec().list();
    QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.visualItemRect(list.item(1)).center());
    QCOMPARE(m_window->session().deliverables(), std::vector<int>{1});
    QTRY_COMPARE_WITH_TIMEOUT(find<NumberChoice>("Height in pixels")->text(), QStringLiteral("1080"), test::kPatience);
    QTest::mouseClick(list.viewport(), Qt::LeftButton, Qt::ControlModifier, list.visualItemRect(list.item(0)).center());
    QCOMPARE(m_window->session().deliverables(), (std::vector<int>{0, 1}));
    m_window->session().selectDeliverables({0});
    QTRY_VERIFY_WITH_TIMEOUT(list.item(0)->isSelected() && !list.item(1)->isSelected(), test::kPatience);
    list.setFocus();
    m_window->actions().refresh();
    QTest::keyClick(&list, Qt::Key_Delete);
    QCOMPARE(document().project().deliverables.size(), size_t(1));
    QCOMPARE(deliverable(0).destination, std::string("square-feed-post"));
  }

  // A high version by one key: framed with the normal one, so that the sheet shows both as one column; and its own
  // again.
  void highVersionsByKeys() {
    add("vertical-story");
    showSpec({0});
    m_window->actions().refresh();
    QTest::keyClick(&m_window->spec().list(), Qt::Key_H, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(document().project().deliverables.size(), size_t(2));
    QCOMPARE(m_window->session().deliverables(), std::vector<int>{1});
    QCOMPARE(deliverable(1).name, std::string("Vertical story high"));
    QVERIFY(deliverable(1).encoding.bitRate > deliverable(0).encoding.bitRate);
    const DeliverableList& list = m_window->spec().list();
    QTRY_COMPARE_WITH_TIMEOUT(list.count(), 2, test::kPatience);
    const QString told = list.item(1)->data(Qt::AccessibleTextRole).toString();
    QVERIFY2(told.contains(QLatin1String("framed as Vertical story")), qPrintable(told));
    typeIn(find<NumberChoice>("Width in pixels"), QStringLiteral("720"));
    QCOMPARE(deliverable(0).canvas, (Size{720, 1920}));
    m_window->showView(MainWindow::View::Sheet);
    SheetView* const sheet = &m_window->sheet();
    QVERIFY(!sheet->isColumnHidden(0));
    QVERIFY(sheet->isColumnHidden(1));
    const auto* model = qobject_cast<const SheetModel*>(sheet->model());
    QCOMPARE(model->deliverableLines(0)[1], QStringLiteral("720×1920 · 2 versions"));
    showSpec({1});
    for (QPushButton* each : m_window->spec().findChildren<QPushButton*>())
      if (each->text().remove('&') == QLatin1String("Make them its own")) QTest::mouseClick(each, Qt::LeftButton);
    QCOMPARE(deliverable(1).sharesWith, std::string());
    QVERIFY(!sheet->isColumnHidden(1));
  }

  // Sizes follow what is typed; what is typed is one step to undo.
  void sizesAreTyped() {
    add("vertical-story");
    showSpec({0});
    auto* width = find<NumberChoice>("Width in pixels");
    QTest::mouseClick(find<QAbstractButton>("Keep the shape"), Qt::LeftButton);
    const int before = document().undoStack().index();
    typeIn(width, QStringLiteral("1234")); // the other side follows, as near to the shape as 4:2:0 lets it
    QCOMPARE(deliverable(0).canvas, (Size{1234, legalHeightFor(1234, 1080.0 / 1920)}));
    QCOMPARE(document().undoStack().index(), before + 1);
    QVERIFY2(deliverable(0).encoding.bitRate == 0, "the usual one of the new size");
    QTest::mouseClick(find<QAbstractButton>("Shape 1:1"), Qt::LeftButton);
    QCOMPARE(deliverable(0).canvas.width, deliverable(0).canvas.height);
    choose(find<ListChoice>("Usual sizes"), QStringLiteral("1080×1080"));
    QCOMPARE(deliverable(0).canvas, (Size{1080, 1080}));
    typeIn(width, QStringLiteral("501"));
    QVERIFY(row("size"));
    QVERIFY2(row("size")->accessibleName().contains(QStringLiteral("video cannot have 501×")),
             qPrintable(row("size")->accessibleName()));
    for (QAbstractButton* each : row("size")->findChildren<QAbstractButton*>())
      if (each->text().startsWith(QStringLiteral("Use 502×"))) {
        each->setFocus();
        QTest::keyClick(each, Qt::Key_Space);
        break;
      }
    QCOMPARE(deliverable(0).canvas.width, 502);
    QVERIFY(!row("size"));
  }

  // Each line of a limit that is broken has turned, and its button mends it, for all that are chosen.
  void linesTurnAndAreMended() {
    add("vertical-story");
    add("vertical-story");
    showSpec({0, 1});
    QVERIFY2(!row("limit-rate"), "what is met is said in short");
    choose(find<ListChoice>("Frame rate"), QStringLiteral("50"));
    SpecLineRow* line = row("limit-rate");
    QVERIFY(line);
    QVERIFY(line->line().standing == Standing::Broken);
    QVERIFY2(line->accessibleName().contains(QLatin1String("does not hold")), qPrintable(line->accessibleName()));
    QVERIFY2(!line->toolTip().isEmpty(), "why is said");
    QTest::mouseClick(line->findChild<QAbstractButton*>(), Qt::LeftButton);
    QCOMPARE(deliverable(0).rate.value(), Rational(25));
    QCOMPARE(deliverable(1).rate.value(), Rational(25));
    QVERIFY(!row("limit-rate"));
  }

  // A destination that is chosen limits; what it recommends is taken over by one button.
  void destinationsAreTakenOver() {
    add("vertical-story");
    showSpec({0});
    choose(find<ListChoice>("Destination"), QStringLiteral("Broadcast review copy, 60 Hz"));
    QCOMPARE(deliverable(0).destination, std::string("broadcast-review-60"));
    QCOMPARE(deliverable(0).canvas, (Size{1080, 1920}));
    QVERIFY(row("limit-canvas"));
    for (QAbstractButton* each : m_window->spec().findChildren<QAbstractButton*>())
      if (each->text() == QLatin1String("Ta&ke over")) QTest::mouseClick(each, Qt::LeftButton);
    QCOMPARE(deliverable(0).canvas, (Size{1920, 1080}));
    QCOMPARE(deliverable(0).rate.value(), Rational(60000, 1001) / Rational(2));
    QVERIFY(!row("limit-canvas"));
    QVERIFY(!row("limit-rate"));
  }

  // A name must be there and be its own.
  void namesAreTheirOwn() {
    add("vertical-story");
    add("square-feed-post");
    showSpec({0});
    auto* name = find<TextChoice>("Name");
    const auto said = [this](const char* words) {
      for (const QLabel* each : m_window->spec().findChildren<QLabel*>())
        if (each->isVisible() && each->text() == QLatin1String(words)) return true;
      return false;
    };
    const auto type = [&](const char* text) {
      name->setFocus();
      name->selectAll();
      QTest::keyClicks(name, QString::fromLatin1(text));
    };
    type("Square feed post");
    QVERIFY(said("Another deliverable has this name"));
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(deliverable(0).name, std::string("Vertical story"));
    QTRY_COMPARE_WITH_TIMEOUT(name->text(), QStringLiteral("Vertical story"), test::kPatience);
    type(" ");
    QVERIFY(said("It needs a name"));
    type("Mine");
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(deliverable(0).name, std::string("Mine"));
  }

  // A project may come from a machine with graphics hardware: that is kept, said and can be given up, and nothing that
  // hardware cannot be told is offered beside it.
  void hardwareIsAskedFor() {
    add("square-feed-post");
    document().changeDeliverables(
        [&] {
          Deliverable wanted = deliverable(0);
          wanted.encoding.hardware = true;
          return std::vector<Deliverable>{wanted};
        }(),
        {});
    showSpec({0});
    for (ChoiceGroup* group : m_window->spec().choices().groups()) group->unfold(true);
    auto* encoder = find<ListChoice>("Encoder");
    QCOMPARE(encoder->currentText(), QStringLiteral("In graphics hardware, on machines that have it"));
    QVERIFY2(!find<ListChoice>("Speed of the encoder")->isVisible(), "its speed is its own");
    QCOMPARE(find<ListChoice>("Rate control")->findText(QStringLiteral("Constant bit rate")), -1);
    choose(encoder, QStringLiteral("In software"));
    QVERIFY(!deliverable(0).encoding.hardware);
    QTRY_VERIFY_WITH_TIMEOUT(find<ListChoice>("Speed of the encoder")->isVisible(), test::kPatience);
    QVERIFY(find<ListChoice>("Rate control")->findText(QStringLiteral("Constant bit rate")) >= 0);
    QTRY_VERIFY2_WITH_TIMEOUT(!encoder->isVisible(), "this machine has none", test::kPatience);
    for (ChoiceGroup* group : m_window->spec().choices().groups()) group->unfold(false);
  }

  // What is folded away reaches the encoding, and only what can be made is offered beside the rest.
  void finePointsAreChosen() {
    add("vertical-story");
    showSpec({0});
    for (ChoiceGroup* group : m_window->spec().choices().groups()) group->unfold(true);
    choose(find<ListChoice>("B pictures in a row"), QStringLiteral("At most 2 in a row"));
    QCOMPARE(deliverable(0).encoding.bPictures.value_or(-1), 2);
    choose(find<ListChoice>("Pictures that one may lean on"), QStringLiteral("4 pictures"));
    QCOMPARE(deliverable(0).encoding.references, 4);
    choose(find<ListChoice>("Entropy coding"), QStringLiteral("CAVLC"));
    QVERIFY(deliverable(0).encoding.entropy == Entropy::Cavlc);
    for (QCheckBox* box : m_window->spec().findChildren<QCheckBox*>())
      if (box->text() == QLatin1String("Pictures may lean beyond a key frame")) QTest::mouseClick(box, Qt::LeftButton);
    QVERIFY(deliverable(0).encoding.openGroups);
    choose(find<ListChoice>("Profile"), QStringLiteral("baseline"));
    QVERIFY2(encodable(resolvedEncoding(deliverable(0)), pictureOf(deliverable(0))), "what the profile has not, goes");
    QTRY_COMPARE_WITH_TIMEOUT(find<ListChoice>("B pictures in a row")->findText(QStringLiteral("At most 2 in a row")),
                              -1, test::kPatience);
    QCOMPARE(find<ListChoice>("Entropy coding")->findText(QStringLiteral("CABAC: smaller")), -1);
    choose(find<ListChoice>("Codec of the picture"), QStringLiteral("VP9"));
    QTRY_VERIFY2_WITH_TIMEOUT(!find<ListChoice>("Entropy coding")->isVisible(), "it has one", test::kPatience);
    for (ChoiceGroup* group : m_window->spec().choices().groups()) group->unfold(false);
  }

  // The wheel scrolls past lists and numbers, and changes nothing on its way.
  void scrollingChangesNothing() {
    add("vertical-story");
    showSpec({0});
    const Deliverable before = deliverable(0);
    int fields = 0;
    for (QWidget* field : m_window->spec().choices().findChildren<QWidget*>()) {
      if (!qobject_cast<QComboBox*>(field) && !qobject_cast<QAbstractSpinBox*>(field)) continue;
      if (!field->isVisible()) continue;
      ++fields;
      for (const int turn : {-120, 120, 120}) {
        const QPointF at = field->rect().center();
        QWheelEvent wheel(at, field->mapToGlobal(at), {}, {0, turn}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                          false);
        QApplication::sendEvent(field, &wheel);
      }
      const QByteArray name = field->accessibleName().toUtf8();
      QVERIFY2(deliverable(0) == before, name.constData());
      QVERIFY2(!field->hasFocus(), name.constData());
    }
    QVERIFY(fields > 4);
    // A number that has the focus goes with it.
    auto* quality = find<QAbstractSpinBox>("Bit rate of the picture");
    quality->setFocus();
    const QPointF at = quality->rect().center();
    QWheelEvent wheel(at, quality->mapToGlobal(at), {}, {0, 120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                      false);
    QApplication::sendEvent(quality, &wheel);
    QTRY_VERIFY_WITH_TIMEOUT(deliverable(0).encoding.bitRate != before.encoding.bitRate, test::kPatience);
  }

  // Pictures that are as asked for are copied where that is ticked; a bit rate ends it, since it cannot be kept to.
  void copyingIsTicked() {
    add("vertical-story");
    showSpec({0});
    for (ChoiceGroup* group : m_window->spec().choices().groups()) group->unfold(true);
    QCheckBox* copies = nullptr;
    for (QCheckBox* box : m_window->spec().findChildren<QCheckBox*>())
      if (box->text() == QLatin1String("Copy pictures that are as asked for already")) copies = box;
    QVERIFY(copies);
    QCOMPARE(row("copying"), nullptr);
    copies->setFocus();
    QTest::keyClick(copies, Qt::Key_Space);
    QVERIFY(deliverable(0).encoding.copies);
    QCOMPARE(resolvedEncoding(deliverable(0)).rateControl, std::optional(RateControl::ConstantQuality));
    QVERIFY2(encodable(resolvedEncoding(deliverable(0)), pictureOf(deliverable(0))), "it can be made");
    QVERIFY2(row("copying"), "the spec tells what is copied");
    choose(find<ListChoice>("Rate control"), QStringLiteral("Average"));
    QVERIFY(!deliverable(0).encoding.copies);
    QCOMPARE(row("copying"), nullptr);
    for (ChoiceGroup* group : m_window->spec().choices().groups()) group->unfold(false);
  }

  // What somebody usually delivers is set once, says what it changes, and is what new deliverables have.
  void settingsFillInWhatIsUsual() {
    QTimer::singleShot(30, qApp, [] {
      auto* settings = QApplication::activeModalWidget();
      QVERIFY(settings);
      const auto choose = [settings](const char* name, int at) {
        for (QComboBox* each : settings->findChildren<QComboBox*>())
          if (each->accessibleName() == QLatin1String(name)) {
            QVERIFY2(!each->accessibleDescription().isEmpty(), "it says what it changes");
            each->setFocus();
            for (int i = 0; i < at; ++i) QTest::keyClick(each, Qt::Key_Down);
          }
      };
      choose("Usual rates", 2); // film
      choose("Sample rate of sound", 1);
      QTest::keyClick(settings, Qt::Key_Escape);
    });
    m_window->actions().at(QStringLiteral("settings"))->trigger();
    QCOMPARE(Settings::habits().rate.value(), Rational(24));
    add("vertical-story");
    showSpec({0});
    QCOMPARE(find<ListChoice>("Frame rate")->itemText(0), QStringLiteral("24"));
    for (const ProjectTemplate& each : destinationData()->templates)
      for (const Deliverable& d : projectOf(each, Settings::habits()).deliverables)
        QVERIFY2(destination(d.destination)->takes(d.rate), d.name.c_str());
    Settings::setRateFamily(RateFamily::Fifty);
    Settings::setSampleRate(48'000);
  }

  // What falls short is listed by kind, leads to where it is, and is mended from there.
  void findingsLeadThere() {
    add("vertical-story");
    m_window->showView(MainWindow::View::Sheet);
    document().changeDeliverables(
        [&] {
          Deliverable changed = deliverable(0);
          changed.rate = FrameRate(Rational(50));
          return std::vector<Deliverable>{changed};
        }(),
        {});
    m_window->actions().at(QStringLiteral("show-preflight"))->trigger();
    QTreeWidget& list = m_window->findings().list();
    const auto kind = [&list](const char* code) -> QTreeWidgetItem* {
      for (int i = 0; i < list.topLevelItemCount(); ++i)
        if (list.topLevelItem(i)->data(0, Qt::UserRole + 1).toString() == QLatin1String(code))
          return list.topLevelItem(i);
      return nullptr;
    };
    QTRY_VERIFY_WITH_TIMEOUT(kind("limit-rate"), test::kPatience);
    QVERIFY(m_window->actions().at(QStringLiteral("show-preflight"))->text().contains(QLatin1String("warning")));
    list.setFocus();
    list.setCurrentItem(kind("limit-rate")->child(0));
    QVERIFY(list.currentItem()->text(1).contains(QLatin1String("50 of up to 30")));
    QTest::keyClick(&list, Qt::Key_Return);
    QTRY_VERIFY2_WITH_TIMEOUT(m_window->spec().isVisible(), "it is shown where it can be changed", test::kPatience);
    for (QPushButton* each : m_window->findings().findChildren<QPushButton*>())
      if (each->text() == QLatin1String("Deliver at 25")) QTest::mouseClick(each, Qt::LeftButton);
    QCOMPARE(deliverable(0).rate.value(), Rational(25));
    QTRY_VERIFY_WITH_TIMEOUT(!kind("limit-rate"), test::kPatience);
    QVERIFY(kind("soft"));
    // By keys: one is accepted with a word, and no longer; a kind is ignored.
    const auto press = [this](const QString& text) {
      for (QPushButton* each : m_window->findings().findChildren<QPushButton*>())
        if (each->text() == text && each->isVisible()) {
          each->setFocus();
          QTest::keyClick(each, Qt::Key_Space);
          return true;
        }
      return false;
    };
    list.setCurrentItem(kind("soft"));
    QVERIFY(press(QStringLiteral("Accept …")));
    QWidget* word = QApplication::focusWidget();
    QTest::keyClick(word, Qt::Key_Escape);
    QVERIFY2(list.hasFocus(), "nothing was accepted");
    QVERIFY(press(QStringLiteral("Accept …")));
    QTest::keyClick(word, Qt::Key_Return);
    QVERIFY2(word->isVisible(), "a word is needed");
    QTest::keyClicks(word, QStringLiteral("seen from afar"));
    QTest::keyClick(word, Qt::Key_Return);
    QTRY_VERIFY_WITH_TIMEOUT(!kind("soft") && kind("soft+"), test::kPatience);
    QVERIFY(kind("soft+")->child(0)->text(2).contains(QLatin1String("seen from afar")));
    list.setCurrentItem(kind("soft+"));
    QVERIFY(press(QStringLiteral("Accept no longer")));
    QTRY_VERIFY_WITH_TIMEOUT(kind("soft"), test::kPatience);
    QTimer::singleShot(30, qApp, [] {
      QWidget* weights = QApplication::activeModalWidget();
      QVERIFY(weights);
      for (QComboBox* each : weights->findChildren<QComboBox*>())
        if (each->accessibleName() == QLatin1String("Enlarged picture")) {
          each->setFocus();
          QTest::keyClick(each, Qt::Key_Down); // ignored
        }
      QTest::keyClick(weights, Qt::Key_Escape);
    });
    QVERIFY(press(QStringLiteral("What counts …")));
    QCOMPARE(document().project().checks.severities.at("soft"), Severity::Ignored);
    QTRY_VERIFY_WITH_TIMEOUT(!kind("soft"), test::kPatience);
    document().undoStack().undo();
    QTRY_VERIFY_WITH_TIMEOUT(kind("soft"), test::kPatience);
    list.setCurrentItem(kind("soft")->child(0));
    QTest::keyClick(&list, Qt::Key_Return);
    QTRY_VERIFY2_WITH_TIMEOUT(m_window->bench().isVisible(), "a shot is shown on the bench", test::kPatience);
    m_window->actions().at(QStringLiteral("show-preflight"))->trigger();
    QVERIFY(!m_window->findings().isVisible());
  }

  // Comparing with what the destination recommends, and with another deliverable, is one press.
  void linesAreCompared() {
    add("vertical-story");
    add("square-feed-post");
    document().changeDeliverables(
        [&] {
          Deliverable changed = deliverable(0);
          changed.encoding.bitRate = 5'000'000;
          return std::vector<Deliverable>{changed};
        }(),
        {});
    showSpec({0});
    QAbstractButton* compare = nullptr;
    for (QToolButton* each : m_window->spec().findChildren<QToolButton*>())
      if (each->text().startsWith(QLatin1String("Compare"))) compare = each;
    QVERIFY(compare);
    QCOMPARE(compare->text(), QStringLiteral("Compare with 'Vertical story'"));
    QTest::mouseClick(compare, Qt::LeftButton);
    QVERIFY(row("density")->accessibleName().contains(QLatin1String("there 0.154")));
    QVERIFY2(row("limit-rate"), "what is met is a line too");
    m_window->session().selectDeliverables({0, 1});
    QTRY_VERIFY_WITH_TIMEOUT(compare->text().contains(QLatin1String("Square feed post")), test::kPatience);
    QVERIFY2(row("work")->accessibleName().contains(QLatin1String("there 29.2 million")),
             qPrintable(row("work")->accessibleName()));
    QVERIFY2(row("names")->accessibleName().contains(QLatin1String("there Square feed post")), "its column says whose");
    QTest::mouseClick(compare, Qt::LeftButton);
    QVERIFY2(!row("names"), "nothing stands beside");
    QVERIFY(!row("work")->accessibleName().contains(QLatin1String("there")));
    Deliverable named = deliverable(1);
    named.name = "Post";
    document().changeDeliverables({named}, {});
    m_window->session().selectDeliverables({1});
    m_window->actions().at(QStringLiteral("high-version"))->trigger();
    QTRY_COMPARE_WITH_TIMEOUT(compare->text(), QStringLiteral("Compare with 'Post'"),
                              test::kPatience); // with its normal one, wherever it goes
  }

  // A sample by keys: begun, cancelled, begun again, found again after the setting was changed and changed back, looked
  // at closely, and its knee taken over.
  void samplesAreEncoded() {
    QTemporaryDir folder;
    const std::string clip = folder.filePath(QStringLiteral("clip.mp4")).toStdString();
    test::writeClip(clip, {640, 360}, FrameRate(), 50, test::texture);
    document().removeShots({0});
    document().addFootage({{*probe(clip), {}}}, Document::AsShots::Yes);
    add("vertical-story");
    showSpec({0});
    m_window->spec().spec().change({}, [](Deliverable& d) {
      chooseCanvas(d, {202, 360});
      d.encoding.speed = "ultrafast";
      chooseRateControl(d, RateControl::ConstantQuality);
      d.encoding.crf = 30;
    });
    QTRY_VERIFY_WITH_TIMEOUT(row("bytes"), test::kPatience);
    QVERIFY2(row("bytes")->accessibleName().contains(QLatin1String("depends on the pictures")),
             qPrintable(row("bytes")->accessibleName()));
    SampleService& samples = m_window->spec().samples();
    auto* begin = find<QPushButton>("Encode a sample");
    const auto pressed = [](QPushButton* button) {
      button->setFocus();
      QTest::keyClick(button, Qt::Key_Space);
    };
    pressed(begin);
    QVERIFY(samples.busy());
    QPushButton* cancel = nullptr;
    for (QPushButton* each : m_window->spec().findChildren<QPushButton*>())
      if (each->text() == QLatin1String("Cancel")) cancel = each;
    QTRY_VERIFY_WITH_TIMEOUT(cancel && cancel->isVisible(), test::kPatience);
    pressed(cancel);
    QVERIFY(!samples.busy());
    QVERIFY2(!samples.report(deliverable(0)), "nothing comes of what was cancelled");
    QTRY_VERIFY_WITH_TIMEOUT(begin->isVisible() && begin->isEnabled(), test::kPatience);
    pressed(begin);
    QTRY_VERIFY_WITH_TIMEOUT(!samples.busy(), test::kPatience);
    const QString fault = samples.fault(deliverable(0).id);
    QVERIFY2(fault.isEmpty(), qPrintable(fault));
    const SampleReport* report = samples.report(deliverable(0));
    QVERIFY(report);
    QCOMPARE(report->rungs.size(), size_t(5));
    QTRY_VERIFY2_WITH_TIMEOUT(row("bytes")->accessibleName().contains(QLatin1String("by a sample")),
                              qPrintable(row("bytes")->accessibleName()), test::kPatience);
    const auto setQuality = [&](double crf) {
      m_window->spec().spec().change({}, [crf](Deliverable& d) { d.encoding.crf = crf; });
    };
    setQuality(28.5); // between two
    QVERIFY(samples.point(deliverable(0)).has_value());
    setQuality(10);
    QVERIFY2(!samples.point(deliverable(0)), "nothing is known of what lies beyond");
    document().undoStack().undo();
    document().undoStack().undo();
    QVERIFY2(samples.point(deliverable(0)).has_value(), "what was encoded is found again");
    {
      SampleService another(document(), folderIn(QStandardPaths::CacheLocation, "samples"), {});
      QVERIFY2(another.point(deliverable(0)).has_value(), "on another day, too");
    }

    SampleDialog closer(*report, resolvedEncoding(deliverable(0)), m_window.get());
    closer.show();
    QVERIFY(QTest::qWaitForWindowExposed(&closer));
    const int first = closer.shown();
    QCOMPARE(report->rungs[size_t(first)].encoding.crf, std::optional(30.0));
    const QPoint corner = closer.view().corner();
    QTest::keyClick(&closer.view(), Qt::Key_Space);
    QCOMPARE(closer.shown(), int(report->rungs.size()));
    QTest::keyClick(&closer.view(), Qt::Key_Space);
    QCOMPARE(closer.shown(), first);
    QCOMPARE(closer.view().corner(), corner);
    closer.close();
  }
  // A curve that was kept on another day, its knee between two of its settings: taken over by a key, for the
  // deliverable whose curve it is and for no other.
  void kneesAreTakenOver_data() {
    QTest::addColumn<bool>("byQuality");
    QTest::newRow("constant quality") << true;
    QTest::newRow("average bit rate") << false;
  }
  void kneesAreTakenOver() {
    QFETCH(bool, byQuality);
    add("vertical-story");
    add("square-feed-post");
    showSpec({0, 1});
    // A sample is known by what its sources are: nothing of them is still being measured. It is kept before the window
    // asks for it, since a window asks once; what is chosen differs from what it has asked for.
    QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience);
    const auto choice = [&](Deliverable& d) {
      chooseRateControl(d, byQuality ? RateControl::ConstantQuality : RateControl::Variable);
      if (!byQuality) chooseBitRate(d, 4'000'000);
      d.encoding.tune = "film";
    };
    Deliverable chosen = deliverable(0);
    choice(chosen);
    // Gains of 0.008 and 0.002 for twice the bytes, so that 0.004 lies two thirds of the way between their middles.
    const double likeness[] = {0.9, 0.908, 0.91, 0.911};
    SampleReport report;
    for (int i = 0; i < 4; ++i) {
      SampleRung rung;
      rung.encoding = resolvedEncoding(chosen);
      rung.encoding.crf = 32 - 4 * i;
      rung.encoding.bitRate = 1'000'000 << i;
      rung.fileBytes = 1'000'000 << i;
      rung.ssim = likeness[i];
      rung.psnr = 40;
      report.rungs.push_back(rung);
    }
    SampleStore(folderIn(QStandardPaths::CacheLocation, "samples").toStdString())
        .keep(cacheName(sampledShots(document().project(), document().footage())) + cacheName(sampledSettings(chosen)),
              report);
    m_window->spec().spec().change({}, choice);
    const Deliverable before = deliverable(1);
    QPushButton* take = nullptr;
    const QString words = byQuality ? QStringLiteral("Use quality 27.5") : QStringLiteral("Use 2.2 Mb/s");
    const auto found = [&] {
      for (QPushButton* each : m_window->spec().consequences().findChildren<QPushButton*>())
        if (each->isVisible() && each->text() == words) take = each;
      return take != nullptr;
    };
    QTRY_VERIFY2_WITH_TIMEOUT(found(), qPrintable(words), test::kPatience);
    take->setFocus();
    QTest::keyClick(take, Qt::Key_Space);
    if (byQuality)
      QCOMPARE(deliverable(0).encoding.crf, std::optional(27.5));
    else
      QCOMPARE(deliverable(0).encoding.bitRate, int64_t(2'200'000));
    QCOMPARE(deliverable(1).encoding.crf, before.encoding.crf);
    QCOMPARE(deliverable(1).encoding.bitRate, before.encoding.bitRate);
  }
  // A size that the file is to keep within: the bit rate follows, in two passes, for all that are chosen.
  void sizesAreKeptTo_data() {
    QTest::addColumn<QString>("typed");
    QTest::addColumn<qint64>("least"); // bit/s that the picture gets for 20 s without sound
    QTest::addColumn<qint64>("most");
    QTest::newRow("a size") << "10 MB" << qint64(3'800'000) << qint64(4'000'000);
    QTest::newRow("a time at 20 Mb/s") << "2 s" << qint64(1'900'000) << qint64(2'000'000);
    QTest::newRow("too little") << "20 kB" << qint64(0) << qint64(0);
    QTest::newRow("nonsense") << "much" << qint64(0) << qint64(0);
  }
  void sizesAreKeptTo() {
    QFETCH(QString, typed);
    QFETCH(qint64, least);
    QFETCH(qint64, most);
    add("vertical-story");
    add("square-feed-post");
    showSpec({0, 1});
    const int before = document().undoStack().index();
    typeIn(find<QLineEdit>("The file is to have at most"), typed);
    QCOMPARE(document().undoStack().index() - before, least > 0 ? 1 : 0);
    for (size_t i = 0; i < 2 && least > 0; ++i) {
      const int64_t is = deliverable(i).encoding.bitRate;
      QVERIFY2(is >= least && is <= most, qPrintable(QString::number(is)));
      QCOMPARE(deliverable(i).encoding.passes, 2);
    }
  }

  // Destinations of one's own are made from a deliverable, and known at once.
  void ownDestinationsAreMade() {
    QTemporaryDir folder;
    DestinationStore store(folder.path().toStdString());
    add("square-feed-post");
    showSpec({0});
    DestinationDialog dialog(m_window->spec().spec(), store);
    dialog.show();
    const auto answer = [](const QString& name) {
      QTimer::singleShot(50, qApp, [name] {
        auto* input = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        QVERIFY(input);
        input->setTextValue(name);
        input->accept();
      });
    };
    const auto button = [&dialog](const char* text) {
      for (QPushButton* each : dialog.findChildren<QPushButton*>())
        if (QString(each->text()).remove('&') == QString::fromUtf8(text)) return each;
      qFatal("no button %s", text);
    };
    // As where the deliverable goes, whole and under an id of its own.
    answer(QStringLiteral("Longer post"));
    button("Make one like 'Square feed post' …")->click();
    QVERIFY(destination("own-longer-post") && destination("own-longer-post")->own);
    Destination like = *destination("own-longer-post");
    like.id = "square-feed-post";
    like.name = "Square feed post";
    like.own = false;
    QVERIFY(like == *destination("square-feed-post"));
    answer(QStringLiteral("Evening show"));
    button("Make one from the chosen deliverable …")->click();
    QVERIFY(destination("own-evening-show"));
    QVERIFY(dialog.findChild<QListWidget*>()->currentItem()->text() == QLatin1String("Evening show"));
    button("Star")->click();
    QVERIFY(destination("own-evening-show")->starred);
    m_window->spec().readAgain(); // the starred one comes first
    choose(find<ListChoice>("Destination"), QStringLiteral("No destination"));
    choose(find<ListChoice>("Destination"), QStringLiteral("★ Evening show"));
    QCOMPARE(deliverable(0).destination, std::string("own-evening-show"));
    const auto told = [&dialog](const QString& words) {
      const auto labels = dialog.findChildren<QLabel*>();
      return std::any_of(labels.begin(), labels.end(),
                         [&](const QLabel* each) { return each->text().contains(words); });
    };
    const auto write = [&](const QByteArray& text) {
      QFile file(folder.filePath("Evening show.json"));
      QVERIFY(file.open(QIODevice::WriteOnly | QIODevice::Truncate));
      file.write(text);
      file.close();
      button("Read them again")->click();
    };
    // One that becomes another says which deliverables it disagrees with from now on.
    QVERIFY(!told(QStringLiteral("Disagrees")));
    QFile before(folder.filePath("Evening show.json"));
    QVERIFY(before.open(QIODevice::ReadOnly));
    QJsonObject changed = QJsonDocument::fromJson(before.readAll()).object();
    before.close();
    changed["canvases"] = QJsonArray{QJsonObject{{"width", 1920}, {"height", 1080}}};
    write(QJsonDocument(changed).toJson());
    QVERIFY(told(QStringLiteral("Disagrees with it: %1 (canvas").arg(QString::fromStdString(deliverable(0).name))));
    // One that is spoiled in an editor is told, and the deliverable keeps its name.
    write("{}");
    QVERIFY2(told(QStringLiteral("'format' is missing")), "why is said");
    QVERIFY(!destination("own-evening-show"));
    QCOMPARE(deliverable(0).destination, std::string("own-evening-show"));
  }

  // Every value of an own destination is typed in a form: what is kept is in its file and known everywhere, what makes
  // no sense is said beside its name, and the form stays open.
  void ownDestinationsAreEdited_data() {
    QTest::addColumn<QString>("field");
    QTest::addColumn<QString>("typed");
    QTest::addColumn<QString>("refused"); // empty: kept
    QTest::addColumn<QByteArray>("key");
    QTest::addColumn<QByteArray>("value"); // in the file
    const auto row = [](const char* name, const char* field, const char* typed, const char* key, const char* value) {
      QTest::newRow(name) << QString::fromUtf8(field) << QString::fromUtf8(typed) << QString() << QByteArray(key)
                          << QByteArray(value);
    };
    const auto refused = [](const char* name, const char* field, const char* typed, const char* why) {
      QTest::newRow(name) << QString::fromUtf8(field) << QString::fromUtf8(typed) << QString::fromUtf8(why)
                          << QByteArray() << QByteArray();
    };
    row("summary", "Summary", "by the door", "summary", R"("by the door")");
    row("canvases", "Canvases", "1080x1080, 720 × 720", "canvases",
        R"([{"height":1080,"width":1080},{"height":720,"width":720}])");
    row("rates", "Frames a second", "25, 23.976", "rates", R"({"only":["25/1","24000/1001"]})");
    row("length at most", "Seconds at most", "90.5", "length", R"({"most":"181/2"})");
    row("file", "Megabytes at most", "12.5", "bytes", "12500000");
    row("codecs", "Codecs of the picture", "hevc, H.264", "codecs", R"(["hevc","h264"])");
    row("no container", "Containers", "", "containers", "");
    row("colours", "Colours", "rec709", "colours", R"(["rec709"])");
    row("depth", "Bits of a sample at least", "10", "depth", "10");
    row("bit rate", "Megabits a second usually", "5", "bitRates",
        R"([{"least":3500000,"most":14000000,"pixels":1166400,"rate":"25/1","usual":5000000}])");
    row("no sound", "Codecs of sound; none: a silent file", "", "sound", "");
    row("sound", "Channels of sound", "mono, Stereo", "sound",
        R"({"bitRate":192000,"channels":[1,2],"codecs":["aac"],"sampleRates":[48000]})");
    row("kept free", "Percent kept free at the top", "12.5", "safe", R"({"bottom":0,"left":0,"right":0,"top":0.125})");
    refused("odd", "Canvases", "1081×1080", "Canvas: ");
    refused("no size", "Canvases", "1080", "Canvas: '1080' is no size");
    refused("none", "Canvases", " ", "Canvas: a size");
    refused("no rate", "Frames a second", "29.9", "Frames a second: ");
    refused("no codec", "Codecs of the picture", "H.246", "Codecs: 'H.246' is none of H.264, ");
    refused("goes into none", "Containers", "WebM", "goes into none of the containers");
    refused("falling", "Megabits a second at least", "30", "Bit rate: ");
    refused("no sample rate", "Sample rates in kilohertz", "fast", "Sound: 'fast'");
  }
  void ownDestinationsAreEdited() {
    QFETCH(QString, field);
    QFETCH(QString, typed);
    QFETCH(QString, refused);
    QFETCH(QByteArray, key);
    QFETCH(QByteArray, value);
    Deliverable square;
    square.canvas = {1080, 1080};
    square.encoding.bitRate = 7'000'000;
    square.encoding.sound.bitRate = 192'000;
    const Destination before = destinationFrom(square, "Door");
    std::optional<Destination> kept;
    DestinationForm form(before, [&](const Destination& edited) -> Status {
      const auto read = parseDestination(destinationText(edited)); // as a store does
      if (!read) return tl::unexpected(read.error());
      kept = edited;
      return {};
    });
    form.show();
    QWidget* at = nullptr;
    for (QWidget* each : form.findChildren<QWidget*>())
      if (each->accessibleName() == field) at = each;
    QVERIFY(at);
    at->setFocus();
    QTest::keyClick(at, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClick(at, Qt::Key_Delete);
    QTest::keyClicks(at, typed);
    QTest::keyClick(at, Qt::Key_Return);
    if (!refused.isEmpty()) {
      QVERIFY2(!kept && form.isVisible(), "it stays open");
      const QString said = form.findChild<QLabel*>(QStringLiteral("message"))->text();
      QVERIFY2(said.contains(refused), qPrintable(said));
      return;
    }
    QVERIFY2(kept && !form.isVisible(), qPrintable(form.findChild<QLabel*>(QStringLiteral("message"))->text()));
    const auto members = [](const Destination& d) {
      return QJsonDocument::fromJson(QByteArray::fromStdString(destinationText(d))).object();
    };
    QJsonObject was = members(before);
    QJsonObject is = members(*kept);
    QJsonValue found = is.take(QString::fromUtf8(key));
    was.remove(QString::fromUtf8(key));
    if (value.isEmpty()) {
      QVERIFY(found.isUndefined());
    } else {
      const QJsonArray wanted = QJsonDocument::fromJson("[" + value + "]").array();
      QVERIFY2(found == wanted[0], QJsonDocument(QJsonArray{found}).toJson().constData());
    }
    // Every value that is there has its reason, and nothing else has changed.
    QCOMPARE(kept->because.contains(key.toStdString()), !value.isEmpty() && key != "summary");
    QJsonObject reasons = is["because"].toObject();
    QJsonObject reasonsBefore = was["because"].toObject();
    reasons.remove(QString::fromUtf8(key));
    reasonsBefore.remove(QString::fromUtf8(key));
    QCOMPARE(reasons, reasonsBefore);
    is.remove(QStringLiteral("because"));
    was.remove(QStringLiteral("because"));
    QCOMPARE(is, was);
  }

  // What nobody touches stays as exact as it was, also where the form shows fewer digits.
  void untouchedValuesStay() {
    Destination before = *destination("vertical-story");
    before.leastSeconds = Rational(10, 3);
    before.mostBytes = 12'345'678;
    before.bitRates = {{3'000'000, before.mostRate, 6'666'667, 13'333'333, 26'666'667}};
    before.sound->bitRate = 127'999;
    before.sound->channels = {2, 4};
    before.summary = "two\nlines ";
    before.because["rates"].why = "also\ntwo";
    before.loudness = LoudnessLimit{-14.26, 0.33, -1.04};
    before.safe = {0.07, 1.0 / 3, 0.07, 0};
    before.covered = {{{1.0 / 3, 0.07, 1.0 / 7, 0.07}, "buttons, and a name that is longer than forty letters"}};
    before.because["safe"] = {Sureness::Guess, "by eye"};
    std::optional<Destination> kept;
    DestinationForm form(before, [&kept](const Destination& edited) {
      kept = edited;
      return Status();
    });
    form.accept();
    QVERIFY(kept.has_value());
    QCOMPARE(QByteArray::fromStdString(destinationText(*kept)), QByteArray::fromStdString(destinationText(before)));
  }

  // Nothing that is needed for choosing scrolls at 1280×800, and nothing is cut off.
  void nothingScrolls_data() {
    QTest::addColumn<QByteArray>("to");
    for (const char* id : {"vertical-story", "wide-film-hdr", "lossless-master", "web-loop", "message"})
      QTest::newRow(id) << QByteArray(id);
  }
  void nothingScrolls() {
    QFETCH(QByteArray, to);
    add(to.constData());
    showSpec({0});
    const QScrollArea& choices = m_window->spec().choices();
    QVERIFY2(choices.widget()->height() <= choices.viewport()->height(), "the choices fit");
    QVERIFY2(choices.widget()->minimumSizeHint().width() <= choices.viewport()->width(), "none is cut off");
    QVERIFY2(m_window->size() == QSize(1280, 800), "and the window has not grown");
  }
};

QTEST_MAIN(TestSpecView)
#include "tst_spec_view.moc"
