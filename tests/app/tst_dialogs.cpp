// SPDX-License-Identifier: GPL-3.0-or-later
// The dialogs for a shape and for an export: what follows from what is chosen, and what cannot be.
#include "app/dispatch/ExportDialog.h"
#include "app/spec/DeliverableDialog.h"
#include "app/spec/ShapeButton.h"
#include "app/style/Theme.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "media/read/Probe.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QRegularExpression>
#include <QSpinBox>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>

using namespace tromb;

class TestDialogs : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  /// A document with one shot of a source that is only said to be there.
  static void addShot(Document& document, Size stored, const Rational& rate) {
    MediaInfo info;
    info.path = "/a.mp4";
    info.duration = Rational(4);
    info.video.emplace();
    info.video->stored = stored;
    info.video->clock = FrameClock(FrameRate(rate), (Rational(4) * rate).nearest());
    document.addFootage({{info, {}}}, Document::AsShots::Yes);
  }
  static QString saidIn(const QWidget& dialog) {
    QString all;
    for (const QLabel* label : dialog.findChildren<QLabel*>())
      if (label->isVisibleTo(&dialog)) all += label->text() + QLatin1Char('\n');
    return all;
  }
  template <typename Button> static Button* button(const QWidget& dialog, const QString& text) {
    for (Button* each : dialog.findChildren<Button*>())
      if (QString(each->text()).remove('&') == text) return each;
    qFatal("no button %s", qPrintable(text));
  }
  static QLineEdit* name(const QWidget& dialog) {
    for (QLineEdit* line : dialog.findChildren<QLineEdit*>())
      if (line->maxLength() == 80) return line;
    qFatal("no name");
  }

private slots:
  void initTestCase() { Theme::apply(*qApp, ThemeChoice::Day); }

  // Each place it may go to brings its canvas, bit rate and name; the name is free.
  void destinationsFillTheShape() {
    QVERIFY(destinationData().has_value());
    Document document;
    document.addDeliverable(newDeliverable({}, destinationData()->destinations[0].id, nullptr));
    DeliverableDialog dialog(document, -1);
    dialog.show();
    const auto shapes = dialog.findChildren<ShapeButton*>();
    QCOMPARE(size_t(shapes.size()), destinationData()->destinations.size());
    for (const Destination& to : destinationData()->destinations) {
      for (ShapeButton* shape : shapes)
        if (shape->text() == QString::fromStdString(to.name)) {
          shape->click();
          QVERIFY(shape->isChecked());
          QVERIFY(!shape->toolTip().isEmpty());
          QVERIFY(shape->sizeHint().isValid());
        }
      const Deliverable& d = dialog.deliverable();
      QVERIFY2(d.destination == to.id, to.id.c_str());
      QVERIFY2(d.canvas == to.canvas, to.id.c_str());
      QVERIFY2(d.encoding.bitRate == to.bitRate, to.id.c_str());
      QVERIFY2(QString::fromStdString(d.name).startsWith(QString::fromStdString(to.name)), d.name.c_str());
      QVERIFY(!document.project().deliverableNamed(d.name));
      QVERIFY(button<QPushButton>(dialog, QStringLiteral("Add it"))->isEnabled());
    }
  }

  void whatIsTypedFollows() {
    Document document;
    document.addDeliverable(newDeliverable({}, "square-feed-post", nullptr));
    addShot(document, {1920, 1080}, Rational(50));
    DeliverableDialog dialog(document, -1);
    dialog.show();
    const auto sides = dialog.findChildren<QSpinBox*>();
    const Deliverable& d = dialog.deliverable();
    auto* keep = button<QToolButton>(dialog, QStringLiteral("Keep ratio"));
    keep->click();
    for (const int width : {720, 1000, 1234}) {
      sides[0]->setValue(width); // the other side follows, as near to the shape as 4:2:0 lets it
      QCOMPARE(d.canvas.height, legalHeightFor(width, 1080.0 / 1920));
      QVERIFY(d.destination.empty());
      QVERIFY(sides[1]->value() == d.canvas.height);
    }
    keep->click();
    sides[1]->setValue(500);
    QCOMPARE(d.canvas, (Size{1234, 500}));
    button<QToolButton>(dialog, QStringLiteral("Swap"))->click();
    QCOMPARE(d.canvas, (Size{500, 1234}));
    QCOMPARE(d.name, std::string("500×1234")); // it is no "Vertical story" any more
    auto* add = button<QPushButton>(dialog, QStringLiteral("Add it"));
    sides[0]->setValue(501);
    QVERIFY(!add->isEnabled());
    QVERIFY(saidIn(dialog).contains(QStringLiteral("Video cannot have 501×1234")));
    button<QPushButton>(dialog, QStringLiteral("502×1234"))->click();
    QVERIFY(add->isEnabled());
    QVERIFY(d.canvas == (Size{502, 1234}));
    // The bit rate is the usual one until it is typed.
    QVERIFY(d.encoding.bitRate == 0);
    dialog.findChild<QDoubleSpinBox*>()->setValue(7.3);
    QVERIFY(d.encoding.bitRate == 7'300'000);
    QVERIFY(resolvedEncoding(d).rateControl == RateControl::Variable);
    for (QComboBox* box : dialog.findChildren<QComboBox*>()) {
      const bool rate = box->accessibleName() == QLatin1String("Frame rate");
      if (!rate && box->accessibleName() != QLatin1String("Encoder effort")) continue;
      box->setCurrentIndex(box->findText(rate ? QStringLiteral("25") : QStringLiteral("slow")));
      emit box->activated(box->currentIndex());
      emit box->textActivated(box->currentText());
    }
    QVERIFY(d.rate.value() == Rational(25));
    QVERIFY(d.encoding.speed == "slow");
    dialog.findChild<QCheckBox*>()->click();
    QVERIFY(d.sharpOnly);
    // A name must be there and be its own.
    name(dialog)->selectAll();
    name(dialog)->insert(QStringLiteral("Square feed post"));
    QVERIFY(!add->isEnabled());
    QVERIFY(saidIn(dialog).contains(QLatin1String("Another deliverable has this name")));
    name(dialog)->selectAll();
    name(dialog)->insert(QStringLiteral("  "));
    QVERIFY(!add->isEnabled());
    QVERIFY(saidIn(dialog).contains(QLatin1String("It needs a name")));
    name(dialog)->insert(QStringLiteral("Mine"));
    QVERIFY(add->isEnabled());
    QVERIFY(d.name == "Mine");
    button<QToolButton>(dialog, QStringLiteral("Swap"))->click();
    QCOMPARE(d.name, std::string("Mine"));
  }

  // A project may come from a machine with graphics hardware: that is kept, said and can be given up, and nothing that
  // hardware cannot be told is offered beside it.
  void hardwareIsAskedFor() {
    Document document;
    document.addDeliverable(newDeliverable({}, "square-feed-post", nullptr));
    Deliverable wanted = document.project().deliverables.front();
    wanted.encoding.hardware = true;
    document.editDeliverable(0, wanted);
    DeliverableDialog dialog(document, 0);
    dialog.show();
    const auto boxes = dialog.findChildren<QComboBox*>();
    const auto box = [&](const char* name) {
      return *std::find_if(boxes.begin(), boxes.end(),
                           [&](const QComboBox* each) { return each->accessibleName() == QLatin1String(name); });
    };
    QCOMPARE(box("Encoder")->currentText(), QStringLiteral("In graphics hardware, on machines that have it"));
    QVERIFY2(!box("Encoder effort")->isVisible(), "its speed is its own");
    QCOMPARE(box("Rate control")->findText(QStringLiteral("Constant bit rate")), -1);
    box("Encoder")->setCurrentIndex(0);
    emit box("Encoder")->activated(0);
    QVERIFY(!dialog.deliverable().encoding.hardware);
    QVERIFY(box("Encoder effort")->isVisible());
    QVERIFY(box("Rate control")->findText(QStringLiteral("Constant bit rate")) >= 0);
    QVERIFY2(!box("Encoder")->isVisible(), "this machine has none");
    // What is not shown takes no room, also once everything was filled anew while the dialog is open.
    Document usual;
    usual.addDeliverable(newDeliverable({}, "square-feed-post", nullptr));
    DeliverableDialog other(usual, 0);
    other.show();
    const int height = other.height();
    QTest::qWait(500); // the machine's hardware has been tried
    QCOMPARE(other.height(), height);
  }

  // What follows for each shot is said before anything is added.
  void consequencesAreSaid_data() {
    QTest::addColumn<Size>("source");
    QTest::addColumn<Rational>("rate");
    QTest::addColumn<Size>("canvas");
    QTest::addColumn<QString>("words");
    QTest::newRow("soft") << Size{1920, 1080} << Rational(25) << Size{1080, 1920} << "soft 0.56";
    QTest::newRow("sharp") << Size{3840, 2160} << Rational(25) << Size{1080, 1920} << "detail 1.12";
    QTest::newRow("every other") << Size{1920, 1080} << Rational(50) << Size{1080, 1080} << "every other frame";
    QTest::newRow("every one") << Size{1920, 1080} << Rational(25) << Size{1080, 1080} << "every frame once";
    QTest::newRow("uneven") << Size{1920, 1080} << Rational(30) << Size{1080, 1080} << "1 in 6 dropped";
  }
  void consequencesAreSaid() {
    QFETCH(Size, source);
    QFETCH(Rational, rate);
    QFETCH(Size, canvas);
    QFETCH(QString, words);
    Document document;
    addShot(document, source, rate);
    Deliverable d = newDeliverable({}, "", nullptr);
    d.canvas = canvas;
    document.addDeliverable(d);
    DeliverableDialog dialog(document, 0);
    dialog.show();
    QVERIFY(dialog.windowTitle() == QLatin1String("Change a deliverable"));
    bool said = false;
    for (const QWidget* each : dialog.findChildren<QWidget*>()) said = said || each->accessibleName().contains(words);
    QVERIFY2(said || saidIn(dialog).contains(words), qPrintable(saidIn(dialog)));
  }

  void exportsSayWhatFallsShort() {
    test::writeClip(at("a.mp4").toStdString(), {320, 180}, FrameRate(), 75, test::texture, true);
    Document document;
    document.addFootage({{*probe(at("a.mp4").toStdString()), {}}}, Document::AsShots::Yes);
    const auto add = [&](const char* named, Size canvas, bool sharpOnly) {
      Deliverable d = newDeliverable(document.project(), "", nullptr);
      d.name = named;
      d.canvas = canvas;
      d.sharpOnly = sharpOnly;
      d.encoding.speed = "ultrafast";
      document.addDeliverable(d);
    };
    add("Good", {180, 180}, false);
    add("Soft", {180, 320}, false);
    add("Held", {180, 320}, true);
    add("Odd", {181, 180}, false);
    document.setRegions({{"r1", "Part", Rational(1), Rational(2), {}}}, {});
    ExportDialog dialog(document, at("out"));
    dialog.show();
    const QString said = saidIn(dialog);
    QVERIFY2(said.contains(QLatin1String("Nothing falls short")), qPrintable(said));
    QVERIFY2(said.contains(QLatin1String("1 shot soft")), qPrintable(said));
    QVERIFY2(said.contains(QLatin1String("never to be")), qPrintable(said));
    QVERIFY2(said.contains(QLatin1String("must be even")), qPrintable(said));
    // What cannot be exported cannot be chosen.
    const auto box = [&](const char* text) { return button<QCheckBox>(dialog, QString::fromLatin1(text)); };
    QVERIFY(box("Good")->isChecked());
    QVERIFY(box("Soft")->isChecked());
    QVERIFY(!box("Held")->isEnabled());
    QVERIFY(!box("Odd")->isEnabled());
    auto* start = dialog.findChild<QPushButton*>(QStringLiteral("startExport"));
    box("Good")->click();
    box("Soft")->click();
    QVERIFY(!start->isEnabled()); // nothing is chosen
    box("Good")->click();
    QVERIFY(start->isEnabled());

    // Names: a pattern is shown as it comes out, and a wrong one is told and not taken.
    QLineEdit* naming = nullptr;
    for (QLineEdit* line : dialog.findChildren<QLineEdit*>())
      if (line->accessibleName().startsWith(QLatin1String("Pattern"))) naming = line;
    const auto pattern = [&](const QString& text) {
      naming->selectAll();
      naming->insert(text);
      emit naming->editingFinished();
    };
    pattern(QStringLiteral("{project} {size}"));
    QVERIFY(!start->isEnabled());
    QVERIFY(document.project().output.naming.empty());
    pattern(QStringLiteral("{deliverable} at {rate}"));
    QVERIFY(start->isEnabled());
    QVERIFY(document.project().output.naming == "{deliverable} at {rate}");
    QVERIFY2(saidIn(dialog).contains(QLatin1String("Good at 25.mp4")), qPrintable(saidIn(dialog)));
    QComboBox* loudness = nullptr;
    for (QComboBox* each : dialog.findChildren<QComboBox*>())
      if (each->accessibleName() == QLatin1String("Loudness of the whole")) loudness = each;
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

    QDir().mkpath(at("chosen"));
    QTimer::singleShot(30, qApp, [&] {
      auto* files = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
      QVERIFY(files);
      for (QLineEdit* line : files->findChildren<QLineEdit*>()) line->setText(at("chosen"));
      static_cast<QDialog*>(files)->accept();
    });
    button<QPushButton>(dialog, QStringLiteral("Choose …"))->click();
    QCOMPARE(dialog.folder(), at("chosen"));
    dialog.setRegion(QStringLiteral("Part"));
    start->click();
    QVERIFY(dialog.running());
    QTRY_VERIFY_WITH_TIMEOUT(!dialog.running(), test::kPatience);
    const auto made = probe(at("chosen/Good at 25 Part.mp4").toStdString());
    QVERIFY(made);
    QVERIFY(made->video->clock.frameCount() == 25); // the part alone
    QVERIFY2(saidIn(dialog).contains(QLatin1String("proof"), Qt::CaseInsensitive), qPrintable(saidIn(dialog)));

    // What is there is not written over unless that is wished.
    ExportDialog again(document, at("chosen"));
    again.setRegion(QStringLiteral("Part"));
    again.show();
    auto* repeat = again.findChild<QPushButton*>(QStringLiteral("startExport"));
    QVERIFY(!repeat->isEnabled());
    QVERIFY(saidIn(again).contains(QLatin1String("There already: Good at 25 Part.mp4")));
    auto* over = button<QCheckBox>(again, QStringLiteral("Replace files that are there"));
    QVERIFY(over->isVisible());
    over->click();
    QVERIFY(repeat->isEnabled());
    // A folder that cannot be made is told, and the dialog stays.
    for (QLineEdit* line : again.findChildren<QLineEdit*>())
      if (line->objectName() == QLatin1String("exportFolder")) line->setText(QStringLiteral("/proc/nowhere"));
    repeat->click();
    QTRY_VERIFY_WITH_TIMEOUT(!again.running(), test::kPatience);
    QTRY_VERIFY2_WITH_TIMEOUT(saidIn(again).contains(QLatin1String("/proc/nowhere")), qPrintable(saidIn(again)), 5000);
    QVERIFY(again.isVisible());
    QVERIFY(repeat->isVisible());
  }

  // A part of the running order has its own size, and only what is in it falls short; what keeps an export from being
  // begun is said.
  void aPartSaysItsOwn() {
    test::writeClip(at("one.mp4").toStdString(), {320, 180}, FrameRate(), 100, test::texture);
    Document document;
    document.addFootage({{*probe(at("one.mp4").toStdString()), {}}}, Document::AsShots::Yes);
    document.duplicateShots({0});
    Deliverable d = newDeliverable({}, "", nullptr);
    d.canvas = {100, 178};
    d.encoding.bitRate = 8'000'000;
    document.addDeliverable(d);
    Framing soft;
    soft.windows[0].zoom = 2;
    document.setFramings({{{0, 0}, soft}}, {});
    Region second;
    second.id = "r1";
    second.name = "Second";
    second.in = Rational(4);
    second.out = Rational(8);
    document.setRegions({second}, {});
    ExportDialog dialog(document, at("part"));
    dialog.show();
    const auto megabytes = [&] {
      return QRegularExpression("([0-9.]+) MB").match(saidIn(dialog)).captured(1).toDouble();
    };
    QVERIFY2(saidIn(dialog).contains(QLatin1String("1 shot soft")), qPrintable(saidIn(dialog)));
    const double all = megabytes();
    QVERIFY(all > 7); // 8 Mb/s for 8 s are 8 MB, and the sound
    dialog.setRegion(QStringLiteral("Second"));
    QVERIFY2(saidIn(dialog).contains(QLatin1String("Nothing falls short")), qPrintable(saidIn(dialog)));
    QVERIFY2(std::abs(megabytes() - all / 2) < 0.2, qPrintable(saidIn(dialog)));
    for (QCheckBox* box : dialog.findChildren<QCheckBox*>())
      if (box->isVisible()) box->setChecked(false);
    QVERIFY(!dialog.findChild<QPushButton*>(QStringLiteral("startExport"))->isEnabled());
    QVERIFY2(saidIn(dialog).contains(QLatin1String("Tick what is to be exported")), qPrintable(saidIn(dialog)));
  }

  // Stopped in the middle, nothing is left, and it can be begun again.
  void anExportIsCancelled() {
    test::writeClip(at("long.mp4").toStdString(), {320, 180}, FrameRate(), 500, test::texture);
    Document document;
    document.addFootage({{*probe(at("long.mp4").toStdString()), {}}}, Document::AsShots::Yes);
    Deliverable d = newDeliverable({}, "", nullptr);
    d.canvas = {1280, 720};
    d.encoding.speed = "slow";
    document.addDeliverable(d);
    ExportDialog dialog(document, at("cancelled"));
    dialog.show();
    dialog.start();
    QTRY_VERIFY_WITH_TIMEOUT(QDir(at("cancelled")).entryList(QDir::Files | QDir::Hidden).size() > 0, test::kPatience);
    // Return, which began it, does not end it; Escape asks first, and asked by Return it goes on.
    auto* cancel = button<QPushButton>(dialog, QStringLiteral("Cancel the export"));
    QTest::keyClick(cancel, Qt::Key_Return);
    QCOMPARE(cancel->text(), QStringLiteral("Cancel the export"));
    bool asked = false;
    QTimer answering;
    QObject::connect(&answering, &QTimer::timeout, &answering, [&] {
      auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
      if (!box || asked) return;
      asked = true;
      QTest::keyClick(box, Qt::Key_Return);
    });
    answering.start(15);
    QTest::keyClick(&dialog, Qt::Key_Escape);
    QVERIFY(asked);
    QVERIFY(dialog.running());
    QCOMPARE(cancel->text(), QStringLiteral("Cancel the export"));
    cancel->click();
    QTRY_VERIFY_WITH_TIMEOUT(!dialog.running(), test::kPatience);
    QTRY_VERIFY2_WITH_TIMEOUT(saidIn(dialog).contains(QLatin1String("No half-made file")), qPrintable(saidIn(dialog)),
                              5000);
    QVERIFY(dialog.isVisible());
    QVERIFY(QDir(at("cancelled")).entryList(QDir::Files | QDir::Hidden).isEmpty());
    QVERIFY(dialog.findChild<QPushButton*>(QStringLiteral("startExport"))->isEnabled());
    button<QPushButton>(dialog, QStringLiteral("Close"))->click();
    QVERIFY(!dialog.isVisible());
  }
};

QTEST_MAIN(TestDialogs)
#include "tst_dialogs.moc"
