// SPDX-License-Identifier: GPL-3.0-or-later
// Parts of the window by themselves: the timecode field, the flow of a line, the footage list, the running order strip,
// templates, the review of cuts.
#include "app/footage/FootageView.h"
#include "app/footage/SourcePanel.h"
#include "app/order/CutReview.h"
#include "app/order/OrderView.h"
#include "app/shell/OfferBar.h"
#include "app/shell/StartPage.h"
#include "app/spec/PresetDialog.h"
#include "app/style/FlowLayout.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "destination/NewDeliverable.h"
#include "media/read/Probe.h"
#include "project/ProjectFile.h"
#include "support/Patience.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"

#include <QAbstractButton>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QInputDialog>
#include <QLabel>
#include <QListView>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QMouseEvent>
#include <QPushButton>
#include <QSignalSpy>
#include <QSlider>
#include <QSpinBox>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <QTreeWidget>
#include <cmath>

using namespace tromb;

class TestParts : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;

  static MediaInfo sound(const char* path, const Rational& seconds) {
    MediaInfo info;
    info.path = path;
    info.kind = MediaKind::Audio;
    info.duration = seconds;
    info.audio.emplace_back();
    return info;
  }
  template <typename Widget> static Widget* called(const QWidget& root, const QString& accessibleName) {
    for (Widget* widget : root.findChildren<Widget*>())
      if (widget->accessibleName() == accessibleName || widget->property("text").toString() == accessibleName)
        return widget;
    qFatal("nothing is called %s", qPrintable(accessibleName));
  }
  static void type(QLineEdit& field, const QString& text) {
    field.setFocus();
    field.selectAll();
    QTest::keyClicks(&field, text);
    QTest::keyClick(&field, Qt::Key_Return);
  }

private slots:
  void initTestCase() { Theme::apply(*qApp, ThemeChoice::Day); }

  // Typed as timecode at the rate, drop-frame where the rate has it (SMPTE ST 12-1), or as seconds; what cannot be read
  // changes nothing and says why.
  void timecodesAreTyped_data() {
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<QString>("typed");
    QTest::addColumn<Rational>("time"); // −1: refused
    QTest::addColumn<QString>("shown");
    const Rational ntsc(30000, 1001);
    QTest::newRow("timecode") << Rational(25) << "00:00:02:10" << Rational(60, 25) << "00:00:02:10";
    QTest::newRow("seconds") << Rational(25) << "2.4" << Rational(60, 25) << "00:00:02:10";
    QTest::newRow("to the nearest frame") << Rational(25) << "2.41" << Rational(60, 25) << "00:00:02:10";
    QTest::newRow("drop-frame") << ntsc << "00:01:00;02" << Rational(1800) / ntsc << "00:01:00;02";
    QTest::newRow("a label that is left out") << ntsc << "00:01:00;00" << Rational(1800) / ntsc << "00:01:00;02";
    QTest::newRow("a frame back") << Rational(25) << "-1" << Rational(24, 25) << "00:00:00:24";
    QTest::newRow("words") << Rational(25) << "soon" << Rational(-1) << "";
    QTest::newRow("frame beyond the rate") << Rational(25) << "00:00:01:25" << Rational(-1) << "";
    QTest::newRow("before the start") << Rational(25) << "-26" << Rational(-1) << "";
  }
  void timecodesAreTyped() {
    QFETCH(Rational, rate);
    QFETCH(QString, typed);
    QFETCH(Rational, time);
    QFETCH(QString, shown);
    TimecodeField field(QStringLiteral("position"));
    field.show();
    field.setRate(FrameRate(rate));
    field.setTime(Rational(1));
    const QString before = field.text();
    QSignalSpy said(&field, &TimecodeField::timeTyped);
    connect(&field, &TimecodeField::timeTyped, this, [&] { field.setTime(field.time()); }); // as the playhead does
    type(field, typed);
    if (time < Rational(0)) {
      QVERIFY(said.isEmpty());
      QVERIFY(field.time() == Rational(1));
      QVERIFY(!field.styleSheet().isEmpty());
      QVERIFY(field.toolTip().size() > 15);
      field.setTime(Rational(1));
      field.clearFocus();
      QCOMPARE(field.text(), before);
    } else {
      QVERIFY(said.size() == 1);
      QVERIFY(field.time() == time);
      QCOMPARE(field.text(), shown);
      QCOMPARE(field.selectedText(), shown); // what is typed next replaces it
    }
  }

  // Web Content Accessibility Guidelines 2.1: words have a contrast of 4.5 : 1 at least (success criterion 1.4.3),
  // signs of 3 : 1 (1.4.11), by its own formula of relative luminance; and the surround of pictures is a neutral mid
  // grey.
  void themesCanBeRead_data() {
    QTest::addColumn<ThemeChoice>("choice");
    QTest::newRow("day") << ThemeChoice::Day;
    QTest::newRow("dusk") << ThemeChoice::Dusk;
  }
  void themesCanBeRead() {
    QFETCH(ThemeChoice, choice);
    Theme::apply(*qApp, choice);
    const Theme& theme = Theme::current();
    const auto luminance = [](const QColor& colour) {
      const auto linear = [](double value) {
        return value <= 0.03928 ? value / 12.92 : std::pow((value + 0.055) / 1.055, 2.4);
      };
      return 0.2126 * linear(colour.redF()) + 0.7152 * linear(colour.greenF()) + 0.0722 * linear(colour.blueF());
    };
    const auto contrast = [&](const QColor& a, const QColor& b) {
      const double light = std::max(luminance(a), luminance(b));
      return (light + 0.05) / (std::min(luminance(a), luminance(b)) + 0.05);
    };
    QVERIFY(std::abs(contrast(Qt::white, Qt::black) - 21) < 1e-9);
    for (const QColor& under : {theme.paper, theme.sheet, theme.raised}) {
      for (const QColor& word : {theme.ink, theme.faint, theme.good, theme.soft, theme.bars, theme.broken})
        QVERIFY2(contrast(word, under) >= 4.5,
                 qPrintable(QStringLiteral("%1 on %2: %3").arg(word.name(), under.name()).arg(contrast(word, under))));
      QVERIFY(contrast(theme.accent, under) >= 3);
    }
    QVERIFY(contrast(theme.onAccent, theme.accent) >= 4.5);
    QVERIFY(contrast(Qt::white, theme.surround) >= 3);
    // CIE 1976 L* of the surround.
    QVERIFY(std::abs(116 * std::cbrt(luminance(theme.surround)) - 16 - 50) < 2);
    QVERIFY(theme.surround.red() == theme.surround.green());
    QVERIFY(theme.surround.green() == theme.surround.blue());
    Theme::apply(*qApp, ThemeChoice::Day);
  }

  void aLineFlowsOnWhereTheWidthEnds() {
    QWidget line;
    auto* flow = new FlowLayout(&line, 4);
    flow->setContentsMargins(0, 0, 0, 0);
    QList<QWidget*> boxes;
    for (int i = 0; i < 6; ++i) {
      boxes << new QWidget(&line);
      boxes.back()->setFixedSize(50, i == 2 ? 30 : 20);
      flow->addWidget(boxes.back());
    }
    QCOMPARE(flow->heightForWidth(1000), 30);
    QCOMPARE(flow->heightForWidth(158), 30 + 4 + 20); // three a line
    QCOMPARE(flow->heightForWidth(50), 5 * 20 + 30 + 5 * 4);
    line.resize(158, 60);
    line.show();
    QVERIFY(boxes[3]->x() == 0);
    QVERIFY(boxes[3]->y() == 34);
    QVERIFY(boxes[0]->y() == 5);
    QVERIFY(boxes[2]->x() == 108);
    for (int i = 0; i < 3; ++i) boxes[i]->hide();
    QCOMPARE(flow->heightForWidth(158), 20); // what is hidden takes no room
  }

  void theFootageListIsFilteredGroupedAndAnswered() {
    Document document;
    StripService strips(document);
    LightService lights(document, m_folder.filePath("lighter"), 1'000'000);
    Actions actions;
    Session session(document);
    FootageView view(session, actions, strips, lights);
    view.resize(1200, 600);
    view.show();
    document.addFootage({{test::video("/wide.mp4", {1920, 1080}, 25, 10), {}},
                         {test::video("/fast.mp4", {1280, 720}, 100, 4), {}},
                         {sound("/tune.wav", 30), {}}},
                        Document::AsShots::No);
    auto* list = view.findChild<QListView*>(QStringLiteral("footageList"));
    QCOMPARE(list->model()->rowCount(), 3);
    auto* search = called<QLineEdit>(view, QStringLiteral("Find footage by name or fact"));
    QTest::keyClicks(search, QStringLiteral("1280"));
    QCOMPARE(list->model()->rowCount(), 1);
    search->clear();
    auto* fact = called<QComboBox>(view, QStringLiteral("Show only footage with this fact"));
    fact->setCurrentIndex(fact->findText(QStringLiteral("sound only")));
    emit fact->activated(fact->currentIndex());
    QVERIFY(list->model()->rowCount() == 1);
    QVERIFY(list->model()->index(0, 0).data().toString() == QLatin1String("tune"));
    fact->setCurrentIndex(0);
    emit fact->activated(0);
    // "Softer than … needs" comes and goes with the deliverables.
    const int before = fact->count();
    Deliverable d = newDeliverable({}, "vertical-story", nullptr);
    document.addDeliverable(d);
    QVERIFY(fact->count() == before + 1);
    QVERIFY(fact->itemText(before).contains(QLatin1String("Vertical story")));
    fact->setCurrentIndex(before);
    emit fact->activated(before);
    QCOMPARE(list->model()->rowCount(), 2);
    fact->setCurrentIndex(0);
    emit fact->activated(0);

    // A new group, footage moved into it, renamed in place; undone step by step.
    view.newGroup();
    QCOMPARE(document.project().groups.size(), size_t(1));
    auto* tree = view.findChild<QTreeWidget*>(QStringLiteral("groups"));
    QCOMPARE(tree->topLevelItemCount(), 2);
    tree->topLevelItem(1)->setText(0, QStringLiteral("Morning"));
    QCOMPARE(document.project().groups[0].name, std::string("Morning"));
    Source moved = document.project().sources[1];
    moved.group = "g1";
    document.changeSources({moved}, QStringLiteral("move"));
    tree->setCurrentItem(tree->topLevelItem(1));
    QVERIFY(list->model()->rowCount() == 1);
    QVERIFY(view.shownGroup() == "g1");
    tree->setCurrentItem(tree->topLevelItem(0));
    QCOMPARE(list->model()->rowCount(), 3);

    // The answers go to all selected sources.
    list->selectAll();
    auto* slow = called<QToolButton>(view, QStringLiteral("Slow motion material"));
    session.selectSources({1});
    slow->click();
    QVERIFY(document.project().sources[1].slowMotion);
    QVERIFY(!document.project().sources[0].slowMotion);
    document.undoStack().undo();
    QVERIFY(!document.project().sources[1].slowMotion);
    // 25 pictures in 100: offered once that is measured, and taken by a press.
    Measured measured;
    measured.repeats = Repeats{4, 1};
    document.setMeasured(document.project().sources[1].id, "seen", measured);
    auto* made = called<QToolButton>(view, QStringLiteral("Made at 25"));
    QVERIFY(made->isVisible());
    made->click();
    QVERIFY(document.project().sources[1].repeats == measured.repeats);
    QVERIFY(made->isChecked());
    document.undoStack().undo();
    QVERIFY(!document.project().sources[1].repeats);
    QVERIFY(!made->isChecked());
    session.selectSources({0});
    QVERIFY(!made->isVisible());
    called<QToolButton>(view, QStringLiteral("Bars"))->click();
    auto* top = called<QSpinBox>(view, QStringLiteral("Bars at the top, in pixels"));
    QVERIFY(top->isVisible());
    top->setValue(140);
    QVERIFY(document.project().sources[0].bars == (Bars{0, 140, 0, 0}));
    QVERIFY(document.project().sources[0].barsBy == FactBy::Hand);
    called<QToolButton>(view, QStringLiteral("Cut burned-in bars away"))->click();
    QVERIFY(document.project().sources[0].bars.none());

    // A missing file is told above the list.
    auto* find = called<QAbstractButton>(view, QStringLiteral("Look in a folder …"));
    QVERIFY(!find->isVisible());
    document.setMedia({{"s3", fail(ErrorCode::Missing, say("the file is not there"), "/tune.wav")}});
    QVERIFY(find->isVisible());
    // Rows and cards hold the same sources; both are painted.
    view.setForm(FootageDelegate::Form::Card);
    QVERIFY(!view.grab().isNull());
    session.selectSources({2});
    view.removeSelected();
    QCOMPARE(document.project().sources.size(), size_t(2));
    QVERIFY(!find->isVisible());
  }

  // Every size of the window settles: no layout chases its own tail.
  void theViewSettlesAtEverySize() {
    Document document;
    StripService strips(document);
    LightService lights(document, m_folder.filePath("lighter2"), 1'000'000);
    Actions actions;
    Session session(document);
    FootageView view(session, actions, strips, lights);
    document.addFootage({{test::video("/wide.mp4", {1920, 1080}, 25, 10), {}}}, Document::AsShots::No);
    for (int i = 0; i < 6; ++i) document.addDeliverable(newDeliverable(document.project(), "vertical-story", nullptr));
    view.show();
    session.selectSources({0});
    for (int height = 420; height < 900; height += 7) {
      view.resize(1280, height);
      QApplication::processEvents();
    }
    QVERIFY(view.viewer().width() > 100);
  }

  // What a mouse selects in the strip, keys select too: several shots, all, a sound bed, and it is slid.
  void theStripIsSelectedInByKeys_data() {
    QTest::addColumn<QList<int>>("keys"); // with their modifiers
    QTest::addColumn<QString>("selected");
    const int shift = int(Qt::SHIFT);
    QTest::newRow("the next shot") << QList<int>{Qt::Key_PageDown} << "1";
    QTest::newRow("two more") << QList<int>{Qt::Key_PageDown, shift | Qt::Key_PageDown, shift | Qt::Key_PageDown}
                              << "1 2 3";
    QTest::newRow("one less") << QList<int>{Qt::Key_PageDown, shift | Qt::Key_PageDown, shift | Qt::Key_PageDown,
                                            shift | Qt::Key_PageUp}
                              << "1 2";
    QTest::newRow("past where it began") << QList<int>{Qt::Key_PageDown, Qt::Key_PageDown, shift | Qt::Key_PageUp,
                                                       shift | Qt::Key_PageUp}
                                         << "0 1 2";
    QTest::newRow("all") << QList<int>{int(Qt::CTRL) | Qt::Key_A} << "0 1 2 3";
    QTest::newRow("a sound bed") << QList<int>{Qt::Key_Down} << "bed 0";
    QTest::newRow("the last sound bed") << QList<int>{Qt::Key_Down, Qt::Key_Down, Qt::Key_Down} << "bed 1";
    QTest::newRow("back among the shots") << QList<int>{Qt::Key_Down, Qt::Key_Up} << "0";
  }
  void theStripIsSelectedInByKeys() {
    QFETCH(const QList<int>, keys);
    QFETCH(const QString, selected);
    Document document;
    document.addFootage({{test::video("/a.mp4", {1920, 1080}, 25, 5), {}},
                         {test::video("/b.mp4", {1920, 1080}, 25, 5), {}},
                         {test::video("/c.mp4", {1920, 1080}, 25, 5), {}},
                         {test::video("/d.mp4", {1920, 1080}, 25, 5), {}}},
                        Document::AsShots::Yes);
    std::vector<SoundBed> beds(2);
    for (int i = 0; i < 2; ++i) {
      beds[size_t(i)].id = "b" + std::to_string(i);
      beds[size_t(i)].source = document.project().sources[0].id;
      beds[size_t(i)].out = Rational(3);
    }
    document.setBeds(beds, {});
    PosterService posters(document);
    WaveformService waveforms(document);
    Session session(document);
    OrderStrip strip(session, posters, waveforms);
    strip.show();
    for (const int key : keys)
      QTest::keyClick(&strip, Qt::Key(key & ~int(Qt::KeyboardModifierMask)),
                      Qt::KeyboardModifiers(key & int(Qt::KeyboardModifierMask)));
    QStringList now;
    for (const int row : session.shots()) now << QString::number(row);
    if (session.bed() >= 0) now << QStringLiteral("bed %1").arg(session.bed());
    QCOMPARE(now.join(QLatin1Char(' ')), selected);
    if (session.bed() < 0) return;
    QTest::keyClick(&strip, Qt::Key_Right, Qt::AltModifier | Qt::ShiftModifier); // ten frames, at 25 a second
    QCOMPARE(document.project().beds[size_t(session.bed())].start.toDouble(), 0.4);
  }

  // Handles, keys and fields of the strip, in frames; a bed is slid and its fields are typed.
  // Speed, direction and holding are chosen beside the strip and in its menu; its ends are those that are seen,
  // whichever way the source goes. A shot of 10 s from a source of 20 s, seconds 4 to 14.
  void theStripChangesThePace_data() {
    using Do = std::function<void(OrderView&, Actions&)>;
    QTest::addColumn<Do>("what");
    QTest::addColumn<QList<double>>("shots"); // in, out and length of each
    const auto speed = [](double percent) {
      return [percent](OrderView& view, Actions&) {
        called<QDoubleSpinBox>(view, QStringLiteral("Speed of the shot, in percent of its own"))->setValue(percent);
      };
    };
    const auto key = [](int which, Qt::KeyboardModifiers more) {
      return [which, more](OrderView& view, Actions&) {
        QTest::keyClick(&view.strip(), Qt::Key(which), Qt::AltModifier | more);
      };
    };
    const auto action = [](const char* id) { return [id](OrderView&, Actions& all) { all.at(id)->trigger(); }; };
    const auto both = [](const Do& first, const Do& second) {
      return [first, second](OrderView& view, Actions& all) {
        first(view, all);
        second(view, all);
      };
    };
    const Do back = action("backwards");
    using L = QList<double>;
    QTest::newRow("half speed") << Do(speed(50)) << L{4, 14, 20};
    QTest::newRow("eight times") << Do(speed(800)) << L{4, 14, 1.25};
    QTest::newRow("as it was shot") << Do(both(both(speed(50), back), action("own-speed"))) << L{4, 14, 10};
    QTest::newRow("every frame at 50") << Do(action("every-frame")) << L{4, 14, 5};
    QTest::newRow("backwards") << back << L{4, 14, 10};
    QTest::newRow("its end a frame later") << Do(key(Qt::Key_Right, Qt::ShiftModifier)) << L{4, 14.04, 10.04};
    QTest::newRow("backwards, its end a frame later")
        << Do(both(back, key(Qt::Key_Right, Qt::ShiftModifier))) << L{3.96, 14, 10.04};
    QTest::newRow("backwards, its beginning a frame later")
        << Do(both(back, key(Qt::Key_Right, {}))) << L{4, 13.96, 9.96};
    QTest::newRow("backwards, shorter") << Do(both(back, [](OrderView& view, Actions&) {
      type(*called<QLineEdit>(view, QStringLiteral("Length of the shot")), QStringLiteral("00:00:04:00"));
    })) << L{10, 14, 4};
    QTest::newRow("held at the playhead") << Do(action("hold-picture")) << L{4, 7, 3, 7, 7.04, 2, 7, 14, 7};
    const Do held = both(action("hold-picture"), [](OrderView& view, Actions&) {
      QTest::keyClick(&view.strip(), Qt::Key_Home);
      QTest::keyClick(&view.strip(), Qt::Key_PageDown); // to the held picture
      QTest::keyClick(&view.strip(), Qt::Key_Right, Qt::AltModifier | Qt::ShiftModifier);
    });
    QTest::newRow("held for a frame longer") << held << L{4, 7, 3, 7, 7.04, 2.02, 7, 14, 7};
    QTest::newRow("held, which has no direction") << Do(both(held, back)) << L{4, 7, 3, 7, 7.04, 2.02, 7, 14, 7};
    // The playhead stays on its picture: the one of second 7.
    QTest::newRow("split, backwards") << Do(both(back, action("split"))) << L{7, 14, 7, 4, 7, 3};
  }
  void theStripChangesThePace() {
    using Do = std::function<void(OrderView&, Actions&)>;
    QFETCH(Do, what);
    QFETCH(QList<double>, shots);
    Document document;
    document.addFootage({{test::video("/a.mp4", {1920, 1080}, 25, 20), {}}}, Document::AsShots::Yes);
    Deliverable d = newDeliverable({}, "vertical-story", nullptr);
    d.rate = FrameRate(Rational(50));
    document.addDeliverable(d);
    Shot shot = document.project().shots[0];
    shot.in = Rational(4);
    shot.out = Rational(14);
    document.changeShots({shot}, {});
    PosterService posters(document);
    WaveformService waveforms(document);
    Session session(document);
    Actions actions;
    OrderView view(session, actions, posters, waveforms);
    view.resize(1020, 200);
    view.show();
    session.selectShots({0});
    session.setPlayhead(Rational(3));
    view.strip().setFocus();
    what(view, actions);
    QList<double> found;
    for (const Shot& each : document.project().shots)
      found << each.in.toDouble() << each.out.toDouble() << each.duration().toDouble();
    QCOMPARE(found.size(), shots.size());
    for (int i = 0; i < shots.size(); ++i)
      QVERIFY2(std::abs(found[i] - shots[i]) < 1e-6, qPrintable(QString::number(found[i])));
  }

  void theStripTrimsAndSlides() {
    Document document;
    document.addFootage(
        {{test::video("/a.mp4", {1920, 1080}, 25, 10), {}}, {test::video("/b.mp4", {1920, 1080}, 25, 10), {}}},
        Document::AsShots::Yes);
    document.addFootage({{sound("/tune.wav", 12), {}}}, Document::AsShots::No);
    PosterService posters(document);
    WaveformService waveforms(document);
    Session session(document);
    Actions actions;
    OrderView view(session, actions, posters, waveforms);
    view.resize(1020, 200);
    view.show();
    OrderStrip& strip = view.strip();
    const auto& shots = document.project().shots;
    const double perSecond = (strip.width() - 20) / 20.0;
    const auto x = [&](double seconds) { return 10 + seconds * perSecond; };
    const int y = strip.height() - 40;
    // A press on an end that is not selected selects; then the same place is a handle.
    const QPoint end(int(x(10)) - 3, y);
    QTest::mouseClick(&strip, Qt::LeftButton, {}, end);
    QVERIFY(session.shots() == std::vector<int>{0});
    QVERIFY(shots[0].out == Rational(10));
    QTest::mousePress(&strip, Qt::LeftButton, {}, end);
    for (int i = 1; i <= 10; ++i) QTest::mouseMove(&strip, end - QPoint(i * 10, 0));
    QTest::mouseRelease(&strip, Qt::LeftButton, {}, end - QPoint(100, 0));
    const Rational frames = shots[0].out * Rational(25);
    QVERIFY(frames.den() == 1);
    QVERIFY(std::abs(shots[0].out.toDouble() - (10 - 100 / perSecond)) < 0.05);
    QCOMPARE(document.undoStack().count(), 3); // one gesture, one step
    document.undoStack().undo();
    QVERIFY(shots[0].out == Rational(10));

    type(*called<QLineEdit>(view, QStringLiteral("Length of the shot")), QStringLiteral("00:00:04:05"));
    QVERIFY(shots[0].out == Rational(105, 25));
    called<QDoubleSpinBox>(view, QStringLiteral("Level of the shot's sound"))->setValue(-7.5);
    called<QToolButton>(view, QStringLiteral("Mute the shot"))->click();
    QVERIFY(shots[0].levelDb == -7.5);
    QVERIFY(shots[0].muted);
    type(*called<QLineEdit>(view, QStringLiteral("Position in the running order")), QStringLiteral("00:00:02:03"));
    QVERIFY(session.playhead() == Rational(53, 25));
    strip.setFocus();
    QTest::keyClick(&strip, Qt::Key_PageDown);
    QVERIFY(session.playhead() == Rational(105, 25));
    QVERIFY(session.shots() == std::vector<int>{1});
    QTest::keyClick(&strip, Qt::Key_End);
    QVERIFY(session.playhead() == document.project().duration());
    QTest::keyClick(&strip, Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(session.playhead() == document.project().duration() - Rational(10, 25));
    QTest::keyClick(&strip, Qt::Key_Home);
    QVERIFY(session.playhead() == Rational(0));
    session.setPlayhead(Rational(999));
    QVERIFY(session.playhead() == document.project().duration()); // stopped at the end

    // Counted in another deliverable's frames.
    Deliverable d = newDeliverable({}, "vertical-story", nullptr);
    d.rate = FrameRate(Rational(30000, 1001));
    document.addDeliverable(d);
    QVERIFY(session.rate() == d.rate);
    QVERIFY(
        called<QLineEdit>(view, QStringLiteral("Position in the running order"))->text().contains(QLatin1Char(';')));

    document.setBeds({{"b1", "s3", Rational(0), Rational(0), Rational(12), 0, Rational(0), Rational(0), false, {}}},
                     {});
    QApplication::processEvents();
    const QPoint bed(200, strip.height() - 20);
    QTest::mousePress(&strip, Qt::LeftButton, {}, bed);
    for (int i = 1; i <= 8; ++i) QTest::mouseMove(&strip, bed + QPoint(i * 10, 0));
    QTest::mouseRelease(&strip, Qt::LeftButton, {}, bed + QPoint(80, 0));
    const SoundBed& moved = document.project().beds[0];
    QVERIFY(session.bed() == 0);
    QVERIFY(moved.start > Rational(0));
    QCOMPARE((moved.start * d.rate.value()).den(), int64_t(1)); // on a frame
    called<QDoubleSpinBox>(view, QStringLiteral("Length of the fade in, seconds"))->setValue(1.5);
    called<QDoubleSpinBox>(view, QStringLiteral("Level of the sound bed"))->setValue(-12);
    called<QToolButton>(view, QStringLiteral("Duck under speech"))->click();
    QVERIFY(document.project().beds[0].fadeIn == Rational(3, 2));
    QVERIFY(document.project().beds[0].levelDb == -12);
    QVERIFY(document.project().beds[0].duck);
    QVERIFY(!strip.grab().isNull());
    // Zoomed in, the strip scrolls to the playhead; all of it again.
    strip.zoomBy(20);
    session.setPlayhead(Rational(0));
    session.setPlayhead(Rational(8));
    strip.showAll();
    view.removeSelected();
    QVERIFY(document.project().beds.empty());
    // A region of the same name moves instead of doubling.
    session.selectShots({0});
    view.nameRegion(QStringLiteral("Part"));
    session.selectShots({0, 1});
    view.nameRegion(QStringLiteral("Part"));
    QVERIFY(document.project().regions.size() == 1);
    QVERIFY(document.project().regions[0].out == document.project().duration());
    view.nameRegion(QStringLiteral("   "));
    QCOMPARE(document.project().regions.size(), size_t(1));
  }

  // Which of several sound streams is heard is told, chosen in the source's own panel, and undone.
  void theHeardSoundIsChosen() {
    const QString file = m_folder.filePath("three.mkv");
    (void)test::run("ffmpeg",
                    QStringLiteral("-v error -y -f lavfi -i color=s=64x64:r=25:d=1 -f lavfi -i sine=d=1 -f lavfi -i "
                                   "anullsrc=cl=5.1:d=1 -map 0 -map 1 -map 1 -map 2 -c:v ffv1 -c:a pcm_s16le "
                                   "-metadata:s:a:2 title=ambience -t 1 %1")
                        .arg(file)
                        .split(' '));
    Document document;
    LightService lights(document, m_folder.filePath("lighter4"), 1'000'000);
    document.addFootage({{*probe(file.toStdString()), {}}}, Document::AsShots::No);
    SourcePanel panel(document, lights);
    panel.show();
    panel.setSources({0});
    const auto said = [&panel] {
      QString all;
      for (const QWidget* each : panel.findChildren<QWidget*>()) all += each->accessibleName() + QLatin1Char('\n');
      return all;
    };
    QVERIFY2(said().contains("1 is left, 2 is right"), qPrintable(said()));
    QToolButton* choice = nullptr;
    for (QToolButton* each : panel.findChildren<QToolButton*>())
      if (each->text() == "Sound") choice = each;
    QVERIFY(choice);
    QVERIFY(choice->isVisible());
    emit choice->menu()->aboutToShow();
    QStringList offered;
    for (QAction* each : choice->menu()->actions()) offered << each->text();
    QVERIFY2(offered.contains("3: 6 channels 44.1 kHz · ambience"), qPrintable(offered.join('|')));
    QVERIFY2(offered.contains("1 and 2 as left and right"), qPrintable(offered.join('|')));
    choice->menu()->actions().last()->trigger();
    QCOMPARE(document.project().sources[0].sound, (std::vector<int>{2}));
    QCoreApplication::processEvents();
    QVERIFY2(said().contains("3 of its 3 streams is heard"), qPrintable(said()));
    QVERIFY2(said().contains("in stereo mixed down"), qPrintable(said()));
    document.undoStack().undo();
    QVERIFY(document.project().sources[0].sound.empty());
  }

  // What a file says of its colours is overruled, and taken back.
  void coloursAreOverruled() {
    const QString file = m_folder.filePath("claims.mp4");
    test::writeClip(file.toStdString(), {160, 90}, FrameRate(), 5, test::texture);
    Document document;
    LightService lights(document, m_folder.filePath("lighter5"), 1'000'000);
    document.addFootage({{*probe(file.toStdString()), {}}}, Document::AsShots::No);
    SourcePanel panel(document, lights);
    panel.show();
    panel.setSources({0});
    const auto* colour = panel.findChild<QToolButton*>(QStringLiteral("colour"));
    QVERIFY(colour);
    const auto choose = [&](const QString& text) {
      emit colour->menu()->aboutToShow();
      for (QAction* each : colour->menu()->actions())
        if (each->text() == text) return each->trigger();
      QFAIL(qPrintable(text));
    };
    choose(QStringLiteral("Rec. 2100 HLG"));
    QVERIFY(document.project().sources[0].colour == kHlg);
    choose(QStringLiteral("Full range"));
    QVERIFY(document.project().sources[0].colour == ColourTags({9, 18, 9, true}));
    QCoreApplication::processEvents();
    QStringList said;
    for (const QWidget* each : panel.findChildren<QWidget*>()) said << each->accessibleName();
    QVERIFY2(said.join('\n').contains("taken as Rec. 2100 HLG, full range, though the file says Rec. 709"),
             qPrintable(said.join('\n')));
    document.undoStack().undo();
    QVERIFY(document.project().sources[0].colour == kHlg);
    choose(QStringLiteral("As the file says"));
    QVERIFY(!document.project().sources[0].colour);
  }

  // The length of a source is dragged: playhead, in and out point; keys do the same, and a shot begins with them.
  void theViewersStretchIsDragged() {
    const QString file = m_folder.filePath("look.mp4");
    test::writeClip(file.toStdString(), {160, 90}, FrameRate(), 100, test::texture, true);
    Document document;
    LightService lights(document, m_folder.filePath("lighter3"), 1'000'000);
    document.addFootage({{*probe(file.toStdString()), {}}}, Document::AsShots::No);
    Session session(document);
    SourceViewer viewer(session, lights);
    viewer.resize(500, 400);
    viewer.show();
    viewer.setSource("s1");
    auto* bar = viewer.findChild<StretchBar*>();
    const auto x = [bar](int frame) { return 10 + (bar->width() - 20) * frame / 100; };
    const auto drag = [&](int from, int to) {
      QTest::mousePress(bar, Qt::LeftButton, {}, QPoint(from, 15));
      for (int i = 1; i <= 5; ++i) {
        const QPointF now(from + (to - from) * i / 5.0, 15);
        QMouseEvent move(QEvent::MouseMove, now, bar->mapToGlobal(now), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(bar, &move);
      }
      QTest::mouseRelease(bar, Qt::LeftButton, {}, QPoint(to, 15));
    };
    const auto frames = [&] {
      const auto [in, out] = session.stretchSeconds(viewer.source());
      return std::pair((in * Rational(25)).nearest(), (out * Rational(25)).nearest());
    };
    QVERIFY(frames() == std::pair(int64_t(0), int64_t(100)));
    drag(x(40), x(60));
    QVERIFY2(std::abs(viewer.frame() - 60) <= 1, qPrintable(QString::number(viewer.frame())));
    drag(x(0) - 3, x(20)); // the handle of the in point lies before it
    QVERIFY2(std::abs(frames().first - 20) <= 1, qPrintable(QString::number(frames().first)));
    QVERIFY2(viewer.frame() == frames().first, qPrintable(QString::number(frames().first)));
    drag(x(100) + 3, x(70));
    QVERIFY2(std::abs(frames().second - 70) <= 1, qPrintable(QString::number(frames().second)));
    drag(x(int(frames().second)) + 3, x(5)); // never before the in point
    QCOMPARE(frames().second, frames().first + 1);
    viewer.setFocus();
    QTest::keyClick(&viewer, Qt::Key_A); // all of it again
    QVERIFY(frames() == std::pair(int64_t(0), int64_t(100)));
    QTest::keyClick(&viewer, Qt::Key_End);
    QCOMPARE(viewer.frame(), int64_t(99));
    QTest::keyClick(&viewer, Qt::Key_Left, Qt::ShiftModifier);
    QCOMPARE(viewer.frame(), int64_t(89));
    QTest::keyClick(&viewer, Qt::Key_O);
    QTest::keyClick(&viewer, Qt::Key_Home);
    QTest::keyClick(&viewer, Qt::Key_Right);
    QTest::keyClick(&viewer, Qt::Key_I);
    QVERIFY(frames() == std::pair(int64_t(1), int64_t(90)));
    QTest::keyClick(&viewer, Qt::Key_End, Qt::ShiftModifier);
    QCOMPARE(viewer.frame(), int64_t(89));
    QTest::keyClick(&viewer, Qt::Key_Home, Qt::ShiftModifier);
    QCOMPARE(viewer.frame(), int64_t(1));
    // Run and stopped; what is typed is gone to.
    QTest::keyClick(&viewer, Qt::Key_L);
    QTRY_VERIFY_WITH_TIMEOUT(viewer.frame() > 3, test::kPatience);
    viewer.playOrPause();
    const int64_t stopped = viewer.frame();
    QTest::qWait(120);
    QVERIFY(viewer.frame() <= stopped + 1);
    type(*called<QLineEdit>(viewer, QStringLiteral("Position in the source")), QStringLiteral("00:00:02:00"));
    QCOMPARE(viewer.frame(), int64_t(50));
    QSignalSpy added(&viewer, &SourceViewer::addRequested);
    viewer.setFocus();
    QTest::keyClick(&viewer, Qt::Key_Return);
    QCOMPARE(added.size(), 1);
    // Each source keeps its own stretch while the window is open.
    viewer.setSource({});
    viewer.setSource("s1");
    QVERIFY(frames() == std::pair(int64_t(1), int64_t(90)));
  }

  // Shots are chosen as in a list; the ruler takes the playhead along; regions are renamed, gone to and removed.
  void theStripIsChosenFromAndRegionsAreKept() {
    Document document;
    document.addFootage({{test::video("/a.mp4", {1920, 1080}, 25, 5), {}},
                         {test::video("/b.mp4", {1920, 1080}, 25, 5), {}},
                         {test::video("/c.mp4", {1920, 1080}, 25, 5), {}},
                         {test::video("/d.mp4", {1920, 1080}, 25, 5), {}}},
                        Document::AsShots::Yes);
    PosterService posters(document);
    WaveformService waveforms(document);
    Session session(document);
    Actions actions;
    OrderView view(session, actions, posters, waveforms);
    view.resize(1020, 200);
    view.show();
    OrderStrip& strip = view.strip();
    const double perSecond = (strip.width() - 20) / 20.0;
    const auto at = [&](double seconds, int y) { return QPoint(int(10 + seconds * perSecond), y); };
    const int y = strip.height() - 40;
    const auto chosen = [&] {
      QStringList rows;
      for (const int row : session.shots()) rows << QString::number(row);
      return rows.join(QLatin1Char(','));
    };
    QTest::mouseClick(&strip, Qt::LeftButton, {}, at(7, y));
    QCOMPARE(chosen(), QStringLiteral("1"));
    QTest::mouseClick(&strip, Qt::LeftButton, Qt::ShiftModifier, at(17, y));
    QCOMPARE(chosen(), QStringLiteral("1,2,3"));
    QTest::mouseClick(&strip, Qt::LeftButton, Qt::ControlModifier, at(12, y));
    QCOMPARE(chosen(), QStringLiteral("1,3"));
    QTest::mouseDClick(&strip, Qt::LeftButton, {}, at(12, y));
    QVERIFY(session.playhead() == Rational(10)); // to its beginning
    QTest::mousePress(&strip, Qt::LeftButton, {}, at(2, 6));
    for (const double seconds : {4.0, 6.0, 8.0}) {
      const QPointF now = at(seconds, 6);
      QMouseEvent move(QEvent::MouseMove, now, strip.mapToGlobal(now), Qt::NoButton, Qt::LeftButton, {});
      QApplication::sendEvent(&strip, &move);
    }
    QTest::mouseRelease(&strip, Qt::LeftButton, {}, at(8, 6));
    QVERIFY2(std::abs(session.playhead().toDouble() - 8) < 0.1,
             qPrintable(QString::number(session.playhead().toDouble())));
    const auto wheel = [&](int by, Qt::KeyboardModifiers keys) {
      QWheelEvent turn(at(8, y), strip.mapToGlobal(at(8, y)), {}, {0, by}, Qt::NoButton, keys, Qt::NoScrollPhase,
                       false);
      QApplication::sendEvent(&strip, &turn);
    };
    wheel(960, Qt::ControlModifier); // closer: what was under the pointer lies elsewhere
    wheel(-240, {});
    strip.showAll();
    QTest::mouseClick(&strip, Qt::LeftButton, {}, at(2, y));
    QCOMPARE(chosen(), QStringLiteral("0"));

    view.nameRegion(QStringLiteral("Start"));
    session.selectShots({2, 3});
    view.nameRegion(QStringLiteral("Close & end"));
    QCOMPARE(document.project().regions.size(), size_t(2));
    QMenu* regions = nullptr;
    for (QMenu* menu : view.findChildren<QMenu*>())
      if (emit menu->aboutToShow(); menu->actions().size() >= 3 && menu->actions()[1]->menu()) regions = menu;
    QVERIFY(regions);
    const auto entry = [&](int region, const char* text) {
      emit regions->aboutToShow();
      for (QAction* action : regions->actions()[1 + region]->menu()->actions())
        if (action->text() == QString::fromUtf8(text)) return action->trigger();
      QFAIL(text);
    };
    entry(1, "Go to it");
    QVERIFY(session.playhead() == Rational(10));
    QSignalSpy exported(&view, &OrderView::exportRegionRequested);
    entry(1, "Export it …");
    QCOMPARE(exported.front()[0].toString(), QStringLiteral("Close & end"));
    for (const auto& [typed, now] : {std::pair("Start", "Close & end"), {"  ", "Close & end"}, {"Ending", "Ending"}}) {
      QTimer::singleShot(30, qApp, [typed = QString::fromLatin1(typed)] {
        auto* input = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        if (!input) return;
        input->setTextValue(typed);
        input->accept();
      });
      entry(1, "Rename …");
      QCOMPARE(document.project().regions[1].name, std::string(now)); // a name that is taken, or none, changes nothing
    }
    entry(0, "Remove");
    QVERIFY(document.project().regions.size() == 1);
    QVERIFY(document.project().regions[0].name == "Ending");
  }

  // Groups by their menu, and footage by its own: renamed, moved, removed with what is in them kept.
  void groupsHaveAMenu() {
    Document document;
    StripService strips(document);
    LightService lights(document, m_folder.filePath("lighter4"), 1'000'000);
    Actions actions;
    Session session(document);
    FootageView view(session, actions, strips, lights);
    view.resize(1200, 600);
    view.show();
    document.addFootage(
        {{test::video("/a.mp4", {1920, 1080}, 25, 5), {}}, {test::video("/b.mp4", {1280, 720}, 25, 5), {}}},
        Document::AsShots::No);
    document.setGroups({{"g1", "Card", "", {}}, {"g2", "Inner", "g1", {}}}, {});
    auto* tree = view.findChild<QTreeWidget*>(QStringLiteral("groups"));
    auto* list = view.findChild<QListView*>(QStringLiteral("footageList"));
    // The menu that opens at a place of a widget, and its entry.
    const auto choose = [&](QWidget& widget, const QPoint& at, const QStringList& path) {
      QTimer::singleShot(30, qApp, [path] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        QMenu* first = menu;
        for (const QString& text : path)
          for (QAction* action : menu ? menu->actions() : QList<QAction*>())
            if (QString(action->text()).remove('&') == text) {
              if (action->menu())
                menu = action->menu();
              else
                action->trigger();
              break;
            }
        if (first) first->close();
      });
      emit static_cast<QAbstractItemView&>(widget).customContextMenuRequested(at);
    };
    list->setCurrentIndex(list->model()->index(0, 0));
    choose(*list, list->visualRect(list->model()->index(0, 0)).center(),
           {QStringLiteral("Move to group"), QStringLiteral("Inner")});
    QCOMPARE(document.project().sources[0].group, std::string("g2"));
    const QTreeWidgetItem* card = tree->topLevelItem(1);
    QCOMPARE(card->text(0), QStringLiteral("Card"));
    choose(*tree, tree->visualItemRect(card).center(), {QStringLiteral("New group")});
    QCOMPARE(document.project().groups.size(), size_t(3));
    document.undoStack().undo();
    // What was in a removed group lies in the one round it; one undo brings it back.
    const Project before = document.project();
    choose(*tree, tree->visualItemRect(tree->topLevelItem(1)->child(0)).center(),
           {QStringLiteral("Remove the group, keep its footage")});
    QVERIFY(document.project().groups.size() == 1);
    QVERIFY(document.project().sources[0].group == "g1");
    choose(*tree, tree->visualItemRect(tree->topLevelItem(1)).center(),
           {QStringLiteral("Remove the group, keep its footage")});
    QVERIFY(document.project().groups.empty());
    QVERIFY(document.project().sources[0].group.empty());
    document.undoStack().undo();
    document.undoStack().undo();
    QVERIFY(document.project() == before);
    QSignalSpy added(&view, &FootageView::addRequested);
    list->setCurrentIndex(list->model()->index(1, 0));
    choose(*list, list->visualRect(list->model()->index(1, 0)).center(), {QStringLiteral("Add as a shot")});
    QCOMPARE(added.size(), 1);
    view.removeSelected();
    QCOMPARE(document.project().sources.size(), size_t(1));
  }

  void theOfferIsMadeOnce() {
    Settings::setLeft(QStringLiteral("offer/vertical-story"), 0); // as nobody has chosen yet
    Document document;
    OfferBar offer(document);
    QVERIFY(offer.isHidden());
    document.addFootage({{sound("/tune.wav", 5), {}}}, Document::AsShots::No);
    QVERIFY(offer.isHidden()); // nothing can be said of shapes yet
    document.addFootage(
        {{test::video("/small.mp4", {1280, 720}, 100, 2), {}}, {test::video("/large.mp4", {3840, 2160}, 25, 2), {}}},
        Document::AsShots::No);
    QVERIFY(!offer.isHidden());
    auto boxes = offer.findChildren<QCheckBox*>();
    QVERIFY(boxes.size() == 4);
    auto sizes = offer.findChildren<QComboBox*>();
    QVERIFY(sizes[0]->currentText().contains(QStringLiteral("3840×2160 · 25"))); // of the sharpest
    QCOMPARE(sizes[1]->currentText(), QStringLiteral("1080×1920 · 25, sharp"));
    QVERIFY2(!sizes[1]->isEnabled(), "the usual size is sharp: there is nothing to choose");
    boxes[3]->setChecked(false);
    offer.findChild<QAbstractButton*>(QStringLiteral("takeOffer"))->click();
    QVERIFY(document.project().deliverables.size() == 3);
    QVERIFY(offer.isHidden());
    QCOMPARE(document.undoStack().count(), 3);
    document.undoStack().undo();
    QVERIFY(offer.isHidden()); // answered is answered
    document.startNew();
    document.addFootage({{test::video("/other.mp4", {1920, 1080}, 50, 2), {}}}, Document::AsShots::No);
    QVERIFY(!offer.isHidden());
    // Of softer footage both sizes are offered with what they mean, the usual one first.
    sizes = offer.findChildren<QComboBox*>();
    QCOMPARE(sizes[1]->currentText(), QStringLiteral("1080×1920 · 25, enlarged 1.8×, or two stacked at 1.12"));
    QCOMPARE(sizes[1]->itemText(1), QStringLiteral("606×1080 · 25, sharp"));
    sizes[1]->setCurrentIndex(1);
    offer.findChild<QAbstractButton*>(QStringLiteral("takeOffer"))->click();
    QCOMPARE(document.project().deliverables[1].canvas, (Size{606, 1080}));
    // What was chosen last time comes first.
    document.startNew();
    document.addFootage({{test::video("/third.mp4", {1920, 1080}, 50, 2), {}}}, Document::AsShots::No);
    sizes = offer.findChildren<QComboBox*>();
    QCOMPARE(sizes[1]->currentText(), QStringLiteral("606×1080 · 25, sharp"));
    called<QPushButton>(offer, QStringLiteral("Not now"))->click();
    QVERIFY(offer.isHidden());
    QVERIFY(document.project().deliverables.empty());
  }

  // An empty project begins with shapes alone, or goes on with a project of late, which has its picture.
  void theStartPageLeadsOn() {
    PresetStore store(m_folder.filePath("sets").toStdString());
    Project kept;
    kept.deliverables = {newDeliverable({}, "kiosk", nullptr), newDeliverable({}, "wall", nullptr)};
    kept.deliverables[1].id = "d2";
    QVERIFY(store.save(presetOf(kept, "Foyer"), true).has_value());
    const QString path = m_folder.filePath("Open day.tromb");
    QVERIFY(saveProject({}, path.toStdString()).has_value());
    QImage red(640, 360, QImage::Format_RGB32);
    red.fill(Qt::red);
    keepProjectPicture(path, red);
    Settings::setRecentProjects({path, m_folder.filePath("gone.tromb")});
    QWidget window;
    const Actions actions(&window);
    StartPage page(actions, store);
    Project begun;
    QString opened;
    connect(&page, &StartPage::startAsked, this, [&begun](const Project& project) { begun = project; });
    connect(&page, &StartPage::openAsked, this, [&opened](const QString& which) { opened = which; });
    page.resize(1200, 700);
    page.show();
    called<QPushButton>(page, QStringLiteral("Begin with the set 'Five shapes'"))->click();
    QCOMPARE(begun.deliverables.size(), size_t(5));
    called<QPushButton>(page, QStringLiteral("Begin with the set 'Foyer'"))->click();
    QCOMPARE(begun.deliverables.size(), size_t(2));
    QCOMPARE(begun.deliverables[1].destination, std::string("wall"));
    auto* lately = called<QToolButton>(page, QStringLiteral("Open the project 'Open day'"));
    QCOMPARE(lately->icon().pixmap(128, 72).toImage().pixelColor(64, 36), QColor(Qt::red));
    lately->click();
    QCOMPARE(opened, path);
    for (const QToolButton* each : page.findChildren<QToolButton*>())
      QVERIFY2(!each->accessibleName().contains(QLatin1String("gone")), "what is not there any more is not offered");
    Settings::setRecentProjects({});
  }

  void presetsAreKeptByTheDialog() {
    Document document;
    document.addDeliverable(newDeliverable({}, "vertical-story", nullptr));
    Session session(document);
    Spec spec(session);
    PresetStore store(m_folder.filePath("presets").toStdString());
    PresetDialog dialog(spec, store);
    dialog.show();
    const auto answer = [](const QString& text) {
      QTimer::singleShot(50, [text] {
        auto* input = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        if (!input) return;
        input->setTextValue(text);
        input->accept();
      });
    };
    auto* kind = called<QComboBox>(dialog, QStringLiteral("What is saved"));
    kind->setCurrentIndex(int(PresetKind::Set));
    answer(QStringLiteral("Club night"));
    called<QPushButton>(dialog, QStringLiteral("&Save as a preset …"))->click();
    kind->setCurrentIndex(int(PresetKind::Encoding));
    answer(QStringLiteral("Usual encoding"));
    called<QPushButton>(dialog, QStringLiteral("&Save as a preset …"))->click();
    QCOMPARE(store.all().size(), size_t(2));
    auto* list = dialog.findChild<QListWidget*>();
    QCOMPARE(list->count(), 2);
    list->setCurrentRow(0);
    called<QPushButton>(dialog, QStringLiteral("Start &new projects like this"))->click();
    QCOMPARE(store.defaultName(), std::string("Club night"));
    QVERIFY(list->currentItem()->text().contains(QLatin1String("new projects")));
    list->setCurrentRow(1);
    called<QPushButton>(dialog, QStringLiteral("Start &new deliverables with this"))->click();
    QCOMPARE(store.defaultEncoding(), std::string("Usual encoding"));
    QCOMPARE(store.defaultName(), std::string("Club night"));
    list->setCurrentRow(0);
    answer(QStringLiteral("a/b"));
    called<QPushButton>(dialog, QStringLiteral("&Rename …"))->click();
    bool told = false;
    for (const QLabel* label : dialog.findChildren<QLabel*>())
      told = told || label->text().contains(QLatin1String("nothing can be saved under the name 'a/b'"));
    QVERIFY2(told, "a name that no file can have is refused in words");
    QCOMPARE(store.all()[0].name, std::string("Club night"));
    document.addDeliverable(newDeliverable(document.project(), "square-feed-post", nullptr));
    called<QPushButton>(dialog, QStringLiteral("Save &changes into it"))->click();
    QCOMPARE(store.all()[0].project.deliverables.size(), size_t(2));
    // Found by letters, by star and by what fits; the starred come first.
    auto* find = called<QLineEdit>(dialog, QStringLiteral("Find presets by name, tag or comment"));
    find->setText(QStringLiteral("usual"));
    QCOMPARE(list->count(), 1);
    called<QPushButton>(dialog, QStringLiteral("St&ar"))->click();
    find->clear();
    QVERIFY2(list->item(0)->text().contains(QLatin1String("Usual encoding")), "the starred one comes first");
    called<QCheckBox>(dialog, QStringLiteral("starre&d"))->click();
    QCOMPARE(list->count(), 1);
    // What it is for, and words to find it by, are typed beside it and kept.
    auto* comment = called<QLineEdit>(dialog, QStringLiteral("Comment on the preset"));
    auto* tags = called<QLineEdit>(dialog, QStringLiteral("Tags of the preset"));
    comment->setFocus();
    QTest::keyClicks(comment, QStringLiteral("for the wall by the door\r"));
    tags->setFocus();
    QTest::keyClicks(tags, QStringLiteral("wall, saturday , wall,\r"));
    QCOMPARE(store.read("Usual encoding")->comment, std::string("for the wall by the door"));
    QCOMPARE(store.read("Usual encoding")->tags, (std::vector<std::string>{"wall", "saturday"}));
    QCOMPARE(tags->text(), QStringLiteral("wall, saturday"));
    tags->selectAll();
    QTest::keyClicks(tags, QString(61, QLatin1Char('x')) + QLatin1Char('\r'));
    QVERIFY2(dialog.findChild<QLabel*>(QStringLiteral("message"))->text().contains(QLatin1String("60 bytes")),
             "what no file takes is refused in words");
    QCOMPARE(store.read("Usual encoding")->tags.size(), size_t(2));
    Preset written = *store.read("Usual encoding"); // as somebody else may write it
    written.comment = "two\nlines";
    written.tags = {"doors, and windows"};
    QVERIFY(store.save(written, true));
    find->setText(QStringLiteral("x"));
    find->clear();
    list->setCurrentRow(0);
    QTest::keyClick(comment, Qt::Key_Return);
    QVERIFY2(*store.read("Usual encoding") == written, "what nobody typed stays");
    list->setCurrentRow(0);
    // Laid on what is chosen, as one step.
    document.changeDeliverables(
        [&] {
          Deliverable changed = document.project().deliverables[0];
          changed.encoding.bitRate = 1'234'000;
          return std::vector<Deliverable>{changed};
        }(),
        {});
    list->setCurrentRow(0);
    called<QPushButton>(dialog, QStringLiteral("&Lay it on what is chosen"))->click();
    QCOMPARE(document.project().deliverables[0].encoding.bitRate, int64_t(8'000'000));
    QCOMPARE(document.project().deliverables[0].preset, std::string("Usual encoding"));
    // Removed, and brought back.
    called<QPushButton>(dialog, QStringLiteral("Re&move"))->click();
    QCOMPARE(store.all().size(), size_t(1));
    called<QPushButton>(dialog, QStringLiteral("Bring 'Usual encoding' bac&k"))->click();
    QCOMPARE(store.all().size(), size_t(2));
    QVERIFY2(store.read("Usual encoding")->starred, "as it was");
    QVERIFY2(store.defaultEncoding() == "Usual encoding", "with what began with it");
    // A file that cannot be read is told, and hides no other.
    QFile spoiled(m_folder.filePath("presets/spoiled.tromb-preset"));
    QVERIFY(spoiled.open(QIODevice::WriteOnly));
    spoiled.write("{");
    spoiled.close();
    const PresetDialog again(spec, store);
    QCOMPARE(again.findChild<QListWidget*>()->count(), 2);
    told = false;
    for (const QLabel* label : again.findChildren<QLabel*>())
      told = told || label->text().contains(QLatin1String("spoiled.tromb-preset"));
    QVERIFY2(told, "which, and why");
  }

  // The threshold is moved without looking again; single cuts are refused and doubtful ones accepted by hand.
  void cutsAreReviewedOneByOne() {
    const QString file = m_folder.filePath("edit.mp4");
    test::writeClip(file.toStdString(), {160, 90}, FrameRate(), 120, [](int n, int x, int y) {
      const int base = n < 30 ? 50 : n < 60 ? 95 : n < 90 ? 150 : 160; // the last change is small
      return test::Yuv{base + (x * 3 + y * (n < 60 ? 1 : 4)) % 60, 128, n < 60 ? 110 : 150};
    });
    Document document;
    document.addFootage({{*probe(file.toStdString()), {}}}, Document::AsShots::Yes);
    CutReview review(document, 0);
    review.show();
    QTRY_VERIFY_WITH_TIMEOUT(!review.searching(), test::kPatience);
    auto* list = review.findChild<QListWidget*>();
    auto* accept = review.findChild<QAbstractButton*>(QStringLiteral("acceptCuts"));
    const auto times = [&] {
      QStringList all;
      for (const Rational& time : review.chosenTimes()) all << QString::number((time * Rational(25)).num());
      return all.join(QLatin1Char(','));
    };
    review.setThreshold(6);
    QCOMPARE(times(), QStringLiteral("30,60"));
    review.setThreshold(1.5);
    QCOMPARE(times(), QStringLiteral("30,60,90"));
    QVERIFY(review.findChild<QSlider*>()->value() == 15);
    QVERIFY(list->count() == 3);
    list->item(0)->setCheckState(Qt::Unchecked);
    QCOMPARE(times(), QStringLiteral("60,90"));
    review.setThreshold(6); // what was refused stays so
    QCOMPARE(times(), QStringLiteral("60"));
    QVERIFY(accept->isEnabled());
    QVERIFY(accept->text().contains(QLatin1String("1 cut")));
    called<QPushButton>(review, QStringLiteral("Choose &none"))->click();
    QVERIFY(!accept->isEnabled());
    called<QPushButton>(review, QStringLiteral("Choose &all"))->click();
    QCOMPARE(times(), QStringLiteral("30,60"));
    QTRY_VERIFY_WITH_TIMEOUT(!list->item(0)->data(Qt::UserRole + 1).value<QImage>().isNull(), test::kPatience);
  }
};

QTEST_MAIN(TestParts)
#include "tst_parts.moc"
