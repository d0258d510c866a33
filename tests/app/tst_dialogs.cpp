// SPDX-License-Identifier: GPL-3.0-or-later
// The dialog for an export: what follows from what is chosen, and what cannot be.
#include "app/dispatch/ExportDialog.h"
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

private slots:
  void initTestCase() { Theme::apply(*qApp, ThemeChoice::Day); }

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
    // What cannot be made cannot be chosen; what is merely wrong is asked about, and made if somebody agrees.
    const auto box = [&](const char* text) { return button<QCheckBox>(dialog, QString::fromLatin1(text)); };
    QVERIFY(box("Good")->isChecked());
    QVERIFY(box("Soft")->isChecked());
    QVERIFY(box("Held")->isChecked());
    QVERIFY(!box("Odd")->isEnabled());
    auto* start = dialog.findChild<QPushButton*>(QStringLiteral("startExport"));
    box("Good")->click();
    box("Soft")->click();
    QString asked;
    const auto answer = [&asked](const QString& with) {
      QTimer::singleShot(30, qApp, [&asked, with] {
        auto* question = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        QVERIFY(question);
        asked = question->text() + question->informativeText();
        button<QPushButton>(*question, with)->click();
      });
    };
    answer(QStringLiteral("Go back"));
    start->click();
    QVERIFY2(asked.contains(QLatin1String("1 error")), qPrintable(asked));
    QVERIFY2(asked.contains(QLatin1String("Held: A: the picture is enlarged")), qPrintable(asked));
    QVERIFY(!dialog.running());
    answer(QStringLiteral("Export despite them"));
    start->click();
    QVERIFY(dialog.running());
    QTRY_VERIFY_WITH_TIMEOUT(!dialog.running(), test::kPatience);
    QVERIFY2(QFile::exists(at("out/New project Held.mp4")), qPrintable(QDir(at("out")).entryList().join(' ')));
    box("Held")->click();
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
    button<QCheckBox>(again, QStringLiteral("Held"))->click();
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
