// SPDX-License-Identifier: GPL-3.0-or-later
// The dispatch: what follows from what is chosen, what cannot be sent, and the queue as it is seen and changed.
#include "app/dispatch/DispatchView.h"
#include "app/dispatch/FileTimeline.h"
#include "app/dispatch/HandOverDialog.h"
#include "app/style/Theme.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "handover/StandInService.h"
#include "media/read/Probe.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMainWindow>
#include <QMenuBar>
#include <QMessageBox>
#include <QPushButton>
#include <QRadioButton>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <cmath>

using namespace tromb;

class TestDispatch : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  static QString saidIn(const QWidget& view) {
    QString all;
    for (const QLabel* label : view.findChildren<QLabel*>())
      if (label->isVisibleTo(&view)) all += label->text() + QLatin1Char('\n');
    return all;
  }
  static QComboBox* combo(const QWidget& view, const QString& name) {
    for (QComboBox* each : view.findChildren<QComboBox*>())
      if (each->accessibleName() == name) return each;
    qFatal("no list %s", qPrintable(name));
  }
  static void settle(const SendForm& form) {
    QTest::qWait(1); // for what has been asked for just now
    QTRY_VERIFY_WITH_TIMEOUT(form.settled(), test::kPatience);
  }
  static SendForm::Candidate candidate(const SendForm& form, const char* name) {
    for (const SendForm::Candidate& each : form.candidates())
      if (each.name == QLatin1String(name)) return each;
    qFatal("no deliverable %s", name);
  }
  /// Presses a button of the question that comes, and gives what was asked.
  static void answer(const QString& with, QString& asked) {
    QTimer::singleShot(30, qApp, [&asked, with] {
      auto* question = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
      QVERIFY(question);
      asked = question->text() + question->informativeText();
      for (QPushButton* each : question->findChildren<QPushButton*>())
        if (QString(each->text()).remove('&') == with) return each->click();
      QFAIL(qPrintable(with));
    });
  }
  /// What the form wants to be sent, if it does.
  struct Sent {
    explicit Sent(SendForm& form) {
      QObject::connect(&form, &SendForm::wanted, &form, [this](const Job& wanted) {
        job = wanted;
        ++times;
      });
    }
    Job job;
    int times = 0;
  };
  /// A document of one shot, with deliverables of these sizes.
  void fill(Document& document, const QString& clip, const std::vector<std::pair<const char*, Size>>& shapes,
            const char* speed = "ultrafast") const {
    document.addFootage({{*probe(clip.toStdString()), {}}}, Document::AsShots::Yes);
    for (const auto& [name, canvas] : shapes) {
      Deliverable d = newDeliverable(document.project(), "", nullptr);
      d.name = name;
      d.canvas = canvas;
      d.encoding.speed = speed;
      document.addDeliverable(d);
    }
  }
  /// The whole view with its menus, as a window has it.
  struct Window {
    explicit Window(Document& document) : queue(Queue::usualFolder()), actions(&frame) {
      actions.fill(*frame.menuBar());
      view = new DispatchView(document, queue, actions, &frame);
      frame.setCentralWidget(view);
      frame.resize(1100, 700);
      frame.show();
      frame.activateWindow();
      (void)QTest::qWaitForWindowActive(&frame);
    }
    ~Window() { delete view; } // before what it uses
    [[nodiscard]] const QueuedJob* last() const { return queue.jobs().empty() ? nullptr : &queue.jobs().back(); }
    QMainWindow frame;
    QueueService queue;
    Actions actions;
    DispatchView* view;
  };

private slots:
  void initTestCase() {
    qputenv("XDG_DATA_HOME", at("data").toLocal8Bit());
    Theme::apply(*qApp, ThemeChoice::Day);
    test::writeClip(at("a.mp4").toStdString(), {320, 180}, FrameRate(), 75, test::texture, true);
    test::writeClip(at("long.mp4").toStdString(), {320, 180}, FrameRate(), 500, test::texture);
  }
  void init() { QDir(at("data")).removeRecursively(); }

  void whatFallsShortIsSaidBefore() {
    Document document;
    fill(document, at("a.mp4"), {{"Good", {180, 180}}, {"Soft", {180, 320}}});
    Deliverable held = newDeliverable(document.project(), "", nullptr);
    held.name = "Held";
    held.canvas = {180, 320};
    held.sharpOnly = true;
    document.addDeliverable(held);
    Deliverable odd = newDeliverable(document.project(), "", nullptr);
    odd.name = "Odd";
    odd.canvas = {181, 180};
    document.addDeliverable(odd);
    SendForm form(document);
    form.setFolder(at("out"));
    form.show();
    settle(form);
    QCOMPARE(candidate(form, "Good").verdict, QStringLiteral("Nothing falls short"));
    QVERIFY(candidate(form, "Soft").verdict.contains(QLatin1String("soft")));
    QVERIFY2(candidate(form, "Held").verdict.contains(QLatin1String("never to be")),
             qPrintable(candidate(form, "Held").verdict));
    QVERIFY2(candidate(form, "Odd").verdict.contains(QLatin1String("must be even")),
             qPrintable(candidate(form, "Odd").verdict));
    // What cannot be made cannot be chosen.
    QVERIFY(candidate(form, "Held").chosen);
    QVERIFY(!candidate(form, "Odd").possible);
    form.choose(candidate(form, "Odd").id, true);
    QVERIFY(!candidate(form, "Odd").chosen);
    // What is merely wrong is asked about, and sent if somebody agrees.
    Sent sent(form);
    QString asked;
    answer(QStringLiteral("Go back"), asked);
    form.send();
    QVERIFY2(asked.contains(QLatin1String("Held: A: the picture is enlarged")), qPrintable(asked));
    QCOMPARE(sent.times, 0);
    answer(QStringLiteral("Export despite them"), asked);
    form.send();
    QCOMPARE(sent.times, 1);
    QCOMPARE(sent.job.deliverables.size(), size_t(3));
    QCOMPARE(QString::fromStdString(sent.job.folder), at("out"));
    // Only what is chosen counts.
    form.choose(candidate(form, "Held").id, false);
    form.send();
    QCOMPARE(sent.times, 2);
    QCOMPARE(sent.job.deliverables.size(), size_t(2));
    for (const char* name : {"Good", "Soft"}) form.choose(candidate(form, name).id, false);
    QVERIFY(!form.sendable());
    QVERIFY2(saidIn(form).contains(QLatin1String("Tick what is to be exported")), qPrintable(saidIn(form)));
  }

  void namesAndLoudnessBelongToTheProject() {
    Document document;
    fill(document, at("a.mp4"), {{"Good", {180, 180}}});
    SendForm form(document);
    form.setFolder(at("out"));
    form.show();
    settle(form);
    QLineEdit* naming = nullptr;
    for (QLineEdit* line : form.findChildren<QLineEdit*>())
      if (line->accessibleName().startsWith(QLatin1String("Pattern"))) naming = line;
    const auto pattern = [&](const QString& text) {
      naming->selectAll();
      QTest::keyClicks(naming, text);
      emit naming->editingFinished();
      settle(form);
    };
    pattern(QStringLiteral("{project} {size}"));
    QVERIFY(!form.sendable());
    QVERIFY(document.project().output.naming.empty());
    pattern(QStringLiteral("{deliverable} at {rate}"));
    QVERIFY(form.sendable());
    QVERIFY(document.project().output.naming == "{deliverable} at {rate}");
    QVERIFY2(saidIn(form).contains(QLatin1String("Good at 25.mp4")), qPrintable(saidIn(form)));
    QComboBox* loudness = combo(form, QStringLiteral("Loudness of the whole"));
    loudness->setCurrentIndex(loudness->findData(-23.0));
    emit loudness->activated(loudness->currentIndex());
    QVERIFY(document.project().output.loudnessLufs == -23);
    Output own = document.project().output;
    own.loudnessLufs = -19; // from a template, say
    document.setOutput(own, {});
    QVERIFY2(loudness->currentText().contains(QLatin1String("19")), qPrintable(loudness->currentText()));
    loudness->setCurrentIndex(0);
    emit loudness->activated(0);
    QVERIFY(!document.project().output.loudnessLufs);
    form.setFolder({});
    QVERIFY(!form.sendable());
    QVERIFY2(saidIn(form).contains(QLatin1String("Choose a folder")), qPrintable(saidIn(form)));
  }

  // A part of the running order has its own size, and only what is in it falls short.
  void aPartSaysItsOwn() {
    Document document;
    fill(document, at("a.mp4"), {});
    document.duplicateShots({0});
    Deliverable d = newDeliverable({}, "", nullptr);
    d.name = "Wide";
    d.canvas = {320, 180};
    d.encoding.bitRate = 8'000'000;
    d.encoding.rateControl = RateControl::Variable;
    document.addDeliverable(d);
    document.setRegions({{"r1", "Second", Rational(3), Rational(6), {}}}, {});
    SendForm form(document);
    form.setFolder(at("part"));
    form.show();
    settle(form);
    const int64_t all = candidate(form, "Wide").bytes;
    form.setRegion(QStringLiteral("Second"));
    settle(form);
    QVERIFY(all > 5'000'000); // 8 Mb/s for 6 s are 6 MB, and the sound
    QVERIFY2(std::abs(double(candidate(form, "Wide").bytes) / double(all) - 0.5) < 0.05,
             std::to_string(candidate(form, "Wide").bytes).c_str());
    Sent sent(form);
    form.send();
    QCOMPARE(QString::fromStdString(sent.job.region), QStringLiteral("Second"));
  }

  void filesThatAreThereAreAskedAbout_data() {
    QTest::addColumn<QString>("answered");
    QTest::addColumn<int>("clash"); // −1: nothing is sent
    QTest::newRow("back") << "Go back" << -1;
    QTest::newRow("number") << "Number the new ones" << int(Clash::Number);
    QTest::newRow("replace") << "Replace them" << int(Clash::Replace);
  }
  void filesThatAreThereAreAskedAbout() {
    QFETCH(QString, answered);
    QFETCH(int, clash);
    Document document;
    fill(document, at("a.mp4"), {{"Good", {180, 180}}});
    SendForm form(document);
    form.setFolder(at("there"));
    form.show();
    settle(form);
    QVERIFY(QDir().mkpath(at("there")));
    QFile file(at("there/New project Good.mp4"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    Sent sent(form);
    QString asked;
    answer(answered, asked);
    form.send();
    QVERIFY2(asked.contains(QLatin1String("New project Good.mp4")), qPrintable(asked));
    QCOMPARE(sent.times, clash < 0 ? 0 : 1);
    if (clash >= 0) QCOMPARE(int(sent.job.clash), clash);
    // Where it was said before, nobody is asked.
    QComboBox* list = combo(form, QStringLiteral("Where a file is there already"));
    list->setCurrentIndex(list->findData(int(Clash::Replace)));
    form.send();
    QCOMPARE(int(sent.job.clash), int(Clash::Replace));
  }

  // The one main job, by keys: sent, seen while it is made, and read afterwards.
  void aFileIsSentAndSeen() {
    Document document;
    fill(document, at("a.mp4"), {{"Good", {180, 180}}, {"Other", {320, 180}}});
    Window window(document);
    window.view->form().setFolder(at("sent"));
    settle(window.view->form());
    window.view->toSending();
    QTest::keyClick(&window.view->form().sendButton(), Qt::Key_Space);
    QTRY_VERIFY_WITH_TIMEOUT(window.last() && window.last()->record.over(), test::kPatience);
    QVERIFY2(QFile::exists(at("sent/New project Good.mp4")), qPrintable(QDir(at("sent")).entryList().join(' ')));
    QCOMPARE(int(window.last()->record.state), int(JobRecord::State::Done));
    // The job is chosen, and Down goes to its files; what the proof found is there to be read.
    QTRY_COMPARE(int(window.view->list().current().kind), int(QueueList::Place::Kind::Job));
    QTest::keyClick(&window.view->list(), Qt::Key_Down);
    QCOMPARE(int(window.view->list().current().kind), int(QueueList::Place::Kind::File));
    QVERIFY2(saidIn(*window.view).contains(QLatin1String("as asked")), qPrintable(saidIn(*window.view)));
    const auto* checks = window.view->findChild<QTreeWidget*>(QStringLiteral("checks"));
    QVERIFY(checks->topLevelItemCount() > 10);
    QVERIFY(window.view->findChild<JobPanel*>()->findChild<FileTimeline*>()->isVisible());
    // The finished pictures stand beside those that were composed: the same, but for what encoding takes.
    auto* stage = window.view->findChild<JobPanel*>()->findChild<CompareStage*>();
    QTRY_VERIFY_WITH_TIMEOUT(stage->isVisible() && stage->pair().frame >= 0, test::kPatience);
    const QImage file = stage->pair().first;
    QCOMPARE(file.size(), QSize(180, 180));
    // Both are grain of the same places: they correlate, though much of it was lost.
    double sums[5] = {};
    for (int y = 0; y < 180; ++y)
      for (int x = 0; x < 180; ++x) {
        const double one = qGray(file.pixel(x, y)) / 255.0;
        const double other = qGray(stage->pair().second.pixel(x, y)) / 255.0;
        const double terms[] = {one, other, one * one, other * other, one * other};
        for (int i = 0; i < 5; ++i) sums[i] += terms[i] / (180.0 * 180);
      }
    const double alike =
        (sums[4] - sums[0] * sums[1]) / std::sqrt((sums[2] - sums[0] * sums[0]) * (sums[3] - sums[1] * sums[1]));
    QVERIFY2(alike > 0.7 && alike < 0.9999, std::to_string(alike).c_str());
    // One key holds them against each other, Escape goes back to the list.
    QTRY_VERIFY(window.actions.at("job-compare")->isEnabled());
    QTest::keyClick(&window.view->list(), Qt::Key_D);
    CompareView& comparing = window.view->comparing();
    QTRY_VERIFY_WITH_TIMEOUT(comparing.isVisible() && comparing.service().measured(), test::kPatience);
    QCOMPARE(comparing.findChild<QComboBox*>("compareFirst")->currentText(), QStringLiteral("New project Good.mp4"));
    QCOMPARE(comparing.findChild<QComboBox*>("compareSecond")->currentText(), QStringLiteral("As composed: Good"));
    QVERIFY(!window.actions.at("job-again")->isEnabled());
    QTest::keyClick(&comparing.stage(), Qt::Key_Escape);
    QVERIFY(window.view->list().hasFocus());
    // It is handed to a folder, by keys; that it was stays to be seen.
    QVERIFY(QDir().mkpath(at("stick")));
    QTRY_VERIFY(window.actions.at("job-hand-over")->isEnabled());
    QString handed;
    QTimer::singleShot(0, window.view, [&] {
      auto* dialog = qobject_cast<HandOverDialog*>(QApplication::activeModalWidget());
      QVERIFY(dialog);
      auto* folder = dialog->findChild<QLineEdit*>();
      folder->setText(at("stick"));
      QTest::keyClick(folder, Qt::Key_Return);
      const auto* words = dialog->findChild<QLabel*>("handOverSaid");
      QTRY_VERIFY_WITH_TIMEOUT(words->text().contains("SHA-256"), test::kPatience);
      handed = words->text();
      QTest::keyClick(dialog, Qt::Key_Escape);
    });
    QTest::keyClick(&window.view->list(), Qt::Key_H);
    QVERIFY2(handed.contains("arrived as it was sent"), qPrintable(handed));
    QVERIFY(QFile::exists(at("stick/New project Good.mp4")));
    window.frame.activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(&window.frame));
    // It can be done again, and taken off the list; the files stay.
    QTRY_VERIFY(window.actions.at("job-again")->isEnabled());
    QTest::keyClick(&window.view->list(), Qt::Key_A);
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(at("sent/New project Good (2).mp4")), test::kPatience);
    QTRY_VERIFY_WITH_TIMEOUT(window.last()->record.over(), test::kPatience);
    QTRY_VERIFY(window.actions.at("job-remove")->isEnabled());
    QTest::keyClick(&window.view->list(), Qt::Key_Backspace);
    QTRY_VERIFY_WITH_TIMEOUT(window.queue.jobs().empty(), test::kPatience);
    QVERIFY(QFile::exists(at("sent/New project Good.mp4")));
  }

  // Two files that differ by four steps of luma in one part of one picture: that is gone to by itself, and seen in each
  // of the ways.
  void filesAreHeldAgainstEachOther() {
    const QString plain = "-v error -y -f lavfi -i color=0x6a6a6a:s=320x180:r=25:d=2 ";
    const QString coded = " -c:v libx264 -qp 0 -pix_fmt yuv420p -colorspace bt709 -color_range tv ";
    test::ffmpeg(plain + "-vf format=yuv420p,lutyuv=y=100" + coded + at("one.mp4"));
    test::ffmpeg(plain +
                 "-vf format=yuv420p,lutyuv=y=100,split[a][b];[b]lutyuv=y=104,crop=40:40:0:0[c];[a][c]overlay=240:60:"
                 "enable=eq(n\\,30)" +
                 coded + at("other.mp4"));
    QueueService queue{std::string()};
    CompareView view(queue);
    view.resize(900, 700);
    view.show();
    view.activateWindow();
    QVERIFY(QTest::qWaitForWindowActive(&view));
    CompareStage& stage = view.stage();
    view.compare({at("one.mp4").toStdString(), {}, {}}, {at("other.mp4").toStdString(), {}, {}}, {});
    const auto shows = [&](int64_t frame) { return !view.service().busy() && stage.pair().frame == frame; };
    QTRY_VERIFY_WITH_TIMEOUT(view.service().measured() && shows(30), test::kPatience);
    const Comparison& measured = *view.service().comparison();
    QCOMPARE(measured.different, int64_t(1));
    QCOMPARE(measured.structure.worstFrame, int64_t(30));
    QVERIFY2(saidIn(view).contains("frame 30 · 00:00:01:05 · SSIM"), qPrintable(saidIn(view)));
    // BT.709: a step of luma is 255/219 of one of RGB.
    const auto within = [](int found, int wanted) { return std::abs(found - wanted) <= 1; };
    const int grey = 98; // (100 − 16) · 255 / 219
    const int lighter = 102;
    /// What is drawn at a place of the picture, as large as it is shown.
    const auto seen = [&](int side, double x, double y) {
      const QRectF area = stage.pictureRect(side);
      return qRed(
          stage.grab().toImage().pixel((area.topLeft() + QPointF(x * area.width(), y * area.height())).toPoint()));
    };
    const double x = 260 / 320.0;
    const double y = 80 / 180.0;
    QVERIFY2(within(seen(0, x, y), grey), std::to_string(seen(0, x, y)).c_str());
    QVERIFY2(within(seen(1, x, y), lighter), std::to_string(seen(1, x, y)).c_str());
    QVERIFY2(within(seen(1, 0.2, y), grey), "elsewhere they are the same");

    const auto turnTo = [&](CompareWay way) {
      for (auto* each : view.findChildren<QRadioButton*>())
        if (view.findChild<QButtonGroup*>()->id(each) == int(way))
          QTest::mouseClick(each, Qt::LeftButton, {}, {8, each->height() / 2});
      QCOMPARE(int(stage.way()), int(way));
      stage.setFocus();
      QTRY_VERIFY_WITH_TIMEOUT(!view.service().busy(), test::kPatience);
    };
    turnTo(CompareWay::Wipe);
    QVERIFY2(within(seen(0, x, y), lighter), "behind the line is the second");
    for (int i = 0; i < 20; ++i) QTest::keyClick(&stage, Qt::Key_Up);
    QVERIFY2(within(seen(0, x, y), grey), "before it is the first");
    const QRectF area = stage.pictureRect(0);
    QTest::mousePress(&stage, Qt::LeftButton, {}, (area.topLeft() + QPointF(area.width() * 0.7, 20)).toPoint());
    QTest::mouseRelease(&stage, Qt::LeftButton);
    QVERIFY2(std::abs(stage.wipe() - 0.7) < 0.01, std::to_string(stage.wipe()).c_str());

    turnTo(CompareWay::InTurns);
    QVERIFY(within(seen(0, x, y), grey));
    QTest::keyClick(&stage, Qt::Key_Return);
    QVERIFY(within(seen(0, x, y), lighter));

    turnTo(CompareWay::Difference);
    const int by8 = seen(0, x, y);
    QVERIFY2(by8 == 32 || by8 == 40, std::to_string(by8).c_str());
    QCOMPARE(seen(0, 0.2, y), 0);
    QTest::keyClick(&stage, Qt::Key_Up);
    QTRY_COMPARE_WITH_TIMEOUT(seen(0, x, y), 2 * by8, test::kPatience);

    // Pixel for pixel the part is as wide as it is.
    turnTo(CompareWay::Difference);
    view.findChild<QCheckBox*>("compareExact")->click();
    const QImage exact = stage.grab().toImage();
    int wide = 0;
    const int line = int(stage.pictureRect(0).center().y()) - 10;
    for (int i = 4; i < exact.width() - 4; ++i) wide += qRed(exact.pixel(i, line)) == 2 * by8 ? 1 : 0;
    QCOMPARE(wide, int(40 / stage.devicePixelRatioF()));

    // Frame by frame they stay in step, up to the last.
    QTest::keyClick(&stage, Qt::Key_Right);
    QTRY_VERIFY_WITH_TIMEOUT(shows(31) && stage.pair().otherFrame == 31, test::kPatience);
    QTest::keyClick(&stage, Qt::Key_End);
    QTRY_VERIFY_WITH_TIMEOUT(shows(49), test::kPatience);
    QTest::keyClick(&stage, Qt::Key_Right);
    QTRY_VERIFY_WITH_TIMEOUT(shows(49), test::kPatience);
    view.findChild<QToolButton*>("compareLeast")->click();
    QTRY_VERIFY_WITH_TIMEOUT(shows(30), test::kPatience);
    QTest::keyClick(&stage, Qt::Key_Space); // plays to the end
    QTRY_VERIFY_WITH_TIMEOUT(shows(49), test::kPatience);

    // What cannot be opened is told in the place of the pictures, and the next is opened all the same.
    view.compare({at("one.mp4").toStdString(), {}, {}}, {at("gone.mp4").toStdString(), {}, {}}, {});
    QTRY_VERIFY_WITH_TIMEOUT(stage.said().contains("gone.mp4"), test::kPatience);
    view.compare({at("other.mp4").toStdString(), {}, {}}, {at("other.mp4").toStdString(), {}, {}}, {});
    QTRY_VERIFY_WITH_TIMEOUT(saidIn(view).contains("the same, to the bit"), test::kPatience);
    QVERIFY(stage.said().isEmpty());
  }

  // What a service makes of a file is listed with its loss, and held against what was sent. What goes wrong is told.
  void aServiceShowsItsRenditions() {
    const auto service = StandInService::start({at("service").toStdString(), "a-token", 0, 0, {}});
    QVERIFY(service);
    test::writeClip(at("other.mp4").toStdString(), {320, 180}, FrameRate(), 75,
                    [](int frame, int x, int y) { return test::texture(frame, x / 2, y / 2); });
    HandOverService handing;
    HandOverDialog dialog(handing, at("a.mp4"), {at("a.mp4"), at("other.mp4")}, at("piece.tromb").toStdString(),
                          nullptr);
    dialog.show();
    const auto buttons = dialog.findChildren<QRadioButton*>();
    QTest::mouseClick(buttons[1], Qt::LeftButton, {}, {8, buttons[1]->height() / 2});
    const auto fields = dialog.findChildren<QLineEdit*>();
    auto* begin = dialog.findChild<QPushButton*>("handOverBegin");
    QVERIFY2(!begin->isEnabled(), "an address and a token are needed");
    fields[1]->setText(QString::fromStdString((*service)->address()));
    fields[2]->setText("wrong");
    QTest::mouseClick(begin, Qt::LeftButton);
    const auto* words = dialog.findChild<QLabel*>("handOverSaid");
    QTRY_VERIFY_WITH_TIMEOUT(words->text().contains("Ask for a new token"), test::kPatience);
    QTRY_VERIFY(begin->isEnabled() && fields[2]->isEnabled());
    fields[2]->setText("a-token");
    QTest::mouseClick(begin, Qt::LeftButton);
    const auto* list = dialog.findChild<QTreeWidget*>("renditions");
    QTRY_COMPARE_WITH_TIMEOUT(list->topLevelItemCount(), 1, test::kPatience);
    QCOMPARE(list->topLevelItem(0)->text(0), QStringLiteral("320×180"));
    const double ssim = list->topLevelItem(0)->text(3).toDouble();
    QVERIFY2(ssim > 0.05 && ssim < 1, qPrintable(list->topLevelItem(0)->text(3)));
    QString compared;
    connect(&dialog, &HandOverDialog::compareWanted, &dialog, [&](const QString& path) { compared = path; });
    for (auto* each : dialog.findChildren<QPushButton*>())
      if (each->text().contains("ompare")) QTest::mouseClick(each, Qt::LeftButton);
    QVERIFY2(QFile::exists(compared), qPrintable(compared));
    QCOMPARE(handOvers(at("piece.tromb").toStdString()).size(), size_t(1));
    QVERIFY2(list->isColumnHidden(5), "there is one file");
    // With another beside it, the viewers' versions of both are held against the first.
    dialog.show();
    auto* beside = dialog.findChild<QComboBox*>("handOverBeside");
    QCOMPARE(beside->count(), 2);
    beside->setCurrentIndex(1);
    QTest::mouseClick(begin, Qt::LeftButton);
    QTRY_COMPARE_WITH_TIMEOUT(list->topLevelItemCount(), 2, test::kPatience);
    QStringList of;
    for (int i = 0; i < 2; ++i) of << list->topLevelItem(i)->text(5) + " " + list->topLevelItem(i)->text(3);
    of.sort();
    QCOMPARE(of[0], "a.mp4 " + QString::number(ssim, 'f', 4));
    QVERIFY2(of[1].startsWith("other.mp4 ") && of[1].section(' ', 1).toDouble() > 0, qPrintable(of[1]));
    QCOMPARE(handOvers(at("piece.tromb").toStdString()).size(), size_t(3));
  }

  void aJobIsPausedAndCancelled() {
    Document document;
    fill(document, at("long.mp4"), {{"Long", {1280, 720}}}, "slow");
    Window window(document);
    window.view->form().setFolder(at("cancelled"));
    settle(window.view->form());
    window.view->form().send();
    QTRY_VERIFY_WITH_TIMEOUT(window.last() && window.last()->progress, test::kPatience);
    window.view->list().setFocus();
    QTRY_VERIFY_WITH_TIMEOUT(window.actions.at("job-pause")->isEnabled(), test::kPatience);
    QTest::keyClick(&window.view->list(), Qt::Key_P);
    QTRY_VERIFY_WITH_TIMEOUT(window.last()->record.state == JobRecord::State::Paused, test::kPatience);
    QTRY_COMPARE(Actions::plainText(window.actions.at("job-pause")), QStringLiteral("Let it go on"));
    QTest::keyClick(&window.view->list(), Qt::Key_P);
    QTRY_VERIFY_WITH_TIMEOUT(window.last()->record.state == JobRecord::State::Running, test::kPatience);
    QTest::keyClick(&window.view->list(), Qt::Key_C, Qt::ShiftModifier);
    QTRY_VERIFY_WITH_TIMEOUT(window.last()->record.state == JobRecord::State::Cancelled, test::kPatience);
    QVERIFY(QDir(at("cancelled")).entryList(QDir::Files | QDir::Hidden).isEmpty());
  }

  // What was sent goes back into the form with all its choices, and can be sent again otherwise.
  void aJobIsSentOtherwise() {
    Document document;
    fill(document, at("a.mp4"), {{"One", {180, 320}}, {"Two", {320, 180}}, {"Three", {180, 180}}});
    Window window(document);
    SendForm& form = window.view->form();
    form.setFolder(at("otherwise"));
    settle(form);
    form.choose(candidate(form, "Two").id, false);
    combo(*window.view, "Where a file is there already")->setCurrentText("replace it");
    combo(*window.view, "What happens when all is done")->setCurrentText("nothing");
    form.send();
    QTRY_VERIFY_WITH_TIMEOUT(window.last() && window.last()->record.over(), test::kPatience);
    const Job sent = window.last()->job;
    form.choose(candidate(form, "Two").id, true);
    form.choose(candidate(form, "One").id, false);
    form.setFolder(at("elsewhere"));
    combo(*window.view, "Where a file is there already")->setCurrentText("ask me");
    combo(*window.view, "What happens when all is done")->setCurrentText("open the folder");
    window.view->list().setFocus();
    QTRY_VERIFY_WITH_TIMEOUT(window.actions.at("job-anew")->isEnabled(), test::kPatience);
    QTest::keyClick(&window.view->list(), Qt::Key_A, Qt::ShiftModifier);
    QTRY_VERIFY(form.sendButton().hasFocus());
    settle(form);
    Sent again(form);
    QTest::keyClick(&form.sendButton(), Qt::Key_Space);
    QTRY_COMPARE_WITH_TIMEOUT(again.times, 1, test::kPatience);
    QCOMPARE(again.job.folder, sent.folder);
    QCOMPARE(again.job.deliverables, sent.deliverables);
    QCOMPARE(int(again.job.clash), int(Clash::Replace));
    QCOMPARE(int(again.job.afterwards), int(Afterwards::Nothing));
  }

  // What was found lies on the file's time, and is gone to by keys and by the mouse.
  void whatWasFoundIsGoneTo() {
    FileTimeline timeline;
    timeline.resize(500, timeline.sizeHint().height());
    ProofCurves curves;
    curves.seconds = 100;
    curves.bitRate.assign(100, 1e6F);
    curves.loudness.assign(100, -23);
    curves.marks = {{"order", 25}, {"sound-level", 75}};
    timeline.setBands(curves.seconds, bandsOf(curves));
    timeline.setMarks(marksOf(curves), {});
    timeline.resize(500, timeline.sizeHint().height());
    timeline.show();
    std::vector<double> wanted;
    connect(&timeline, &FileTimeline::wanted, &timeline, [&](double seconds) { wanted.push_back(seconds); });
    QTest::keyClick(&timeline, Qt::Key_Right);
    QTest::keyClick(&timeline, Qt::Key_Right);
    QTest::keyClick(&timeline, Qt::Key_Return);
    QCOMPARE(wanted, std::vector<double>{75});
    QTest::keyClick(&timeline, Qt::Key_Left);
    QTest::keyClick(&timeline, Qt::Key_Return);
    QCOMPARE(wanted.back(), 25.0);
    // The ends of the time are at the ends of the bands; near a mark a click means it.
    QTest::mouseClick(&timeline, Qt::LeftButton, {}, {timeline.width() - 4, 40});
    QVERIFY2(std::abs(wanted.back() - 100) < 0.5, std::to_string(wanted.back()).c_str());
    const auto left = [&] {
      for (int x = 0; x < timeline.width(); ++x) {
        const size_t before = wanted.size();
        QTest::mouseClick(&timeline, Qt::LeftButton, {}, {x, 40});
        if (wanted.size() > before) return x;
      }
      return -1;
    }();
    const int quarter = left + (timeline.width() - 4 - left) / 4;
    QTest::mouseClick(&timeline, Qt::LeftButton, {}, {quarter + 3, 40});
    QCOMPARE(wanted.back(), 25.0);
    QCOMPARE(timeline.chosen(), 0);
    QTest::mouseClick(&timeline, Qt::LeftButton, {}, {quarter + 20, 40});
    QVERIFY(wanted.back() > 26);
  }

  // What waits is put in another order by keys.
  void whatWaitsIsPutInAnotherOrder() {
    Document document;
    fill(document, at("a.mp4"), {{"Good", {180, 180}}});
    const Queue queue(Queue::usualFolder());
    std::vector<std::string> ids;
    for (int i = 0; i < 3; ++i) {
      Job job;
      job.folder = at("order").toStdString();
      job.deliverables = {document.project().deliverables[0].id};
      ids.push_back(*queue.add(job, document.project()));
      QVERIFY(queue.pause(ids.back())); // so that none is done meanwhile
    }
    Window window(document);
    QTRY_VERIFY_WITH_TIMEOUT(window.queue.jobs().size() == 3, test::kPatience);
    window.view->list().setFocus();
    window.view->list().setCurrent({QueueList::Place::Kind::Job, ids[2], {}});
    QTRY_VERIFY(window.actions.at("job-earlier")->isEnabled());
    QTest::keyClick(&window.view->list(), Qt::Key_Up, Qt::AltModifier);
    QTRY_VERIFY_WITH_TIMEOUT(window.queue.jobs()[1].id == ids[2], test::kPatience);
    QCOMPARE(window.view->list().current().job, ids[2]);
    QTRY_VERIFY(window.actions.at("job-earlier")->isEnabled());
    QTest::keyClick(&window.view->list(), Qt::Key_Up, Qt::AltModifier);
    QTRY_VERIFY_WITH_TIMEOUT(window.queue.jobs()[0].id == ids[2], test::kPatience);
    QTRY_VERIFY(!window.actions.at("job-earlier")->isEnabled());
  }

  // A folder that cannot be made is told where the file is listed.
  void whatCannotBeWrittenIsTold() {
    Document document;
    fill(document, at("a.mp4"), {{"Good", {180, 180}}});
    Window window(document);
    window.view->form().setFolder(QStringLiteral("/proc/nowhere"));
    settle(window.view->form());
    window.view->form().send();
    QTRY_VERIFY_WITH_TIMEOUT(window.last() && window.last()->record.over(), test::kPatience);
    QVERIFY2(resultWords(*window.last(), window.last()->record.results[0]).contains(QLatin1String("/proc/nowhere")),
             qPrintable(resultWords(*window.last(), window.last()->record.results[0])));
  }
};

QTEST_MAIN(TestDispatch)
#include "tst_dispatch.moc"
