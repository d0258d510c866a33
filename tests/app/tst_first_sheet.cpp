// SPDX-License-Identifier: GPL-3.0-or-later
// How much is left to do between dropping footage and a sheet that nothing falls short on. Every gesture is one that
// somebody makes with the mouse or a key, and is counted.
#include "app/sheet/SheetView.h"
#include "app/shell/MainWindow.h"
#include "app/shell/QuestionBar.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "project/Sharing.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QAbstractButton>
#include <QApplication>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QLabel>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QWindow>

using namespace tromb;

class TestFirstSheet : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  QString m_demo;
  std::unique_ptr<MainWindow> m_window;
  QStringList m_gestures;

  [[nodiscard]] Document& document() { return m_window->document(); }
  void settle() { QTRY_VERIFY_WITH_TIMEOUT(m_window->settled(), test::kPatience); }
  void drop(const QStringList& files) {
    QList<QUrl> urls;
    for (const QString& each : files) urls << QUrl::fromLocalFile(each);
    QMimeData data;
    data.setUrls(urls);
    QDragEnterEvent enter(QPoint(640, 400), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(m_window.get(), &enter);
    QDropEvent event(QPointF(640, 400), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(m_window.get(), &event);
    m_gestures << QStringLiteral("drop %1 files").arg(files.size());
    QTRY_COMPARE_WITH_TIMEOUT(int(document().project().shots.size()), int(files.size()), test::kPatience);
    settle();
  }
  void click(QWidget* widget, const QString& what) {
    QVERIFY2(widget && widget->isVisible() && widget->isEnabled(), qPrintable(what));
    m_gestures << what;
    QTest::mouseClick(widget, Qt::LeftButton);
    settle();
  }
  void press(Qt::Key key, const QString& what) {
    if (!QApplication::activePopupWidget() && !m_window->isActiveWindow()) { // after a menu, without a display
      m_window->activateWindow();
      m_window->windowHandle()->requestActivate();
      QTRY_VERIFY(m_window->isActiveWindow());
    }
    QWidget* at = QApplication::activePopupWidget() ? QApplication::activePopupWidget() : QApplication::focusWidget();
    if (!at) at = m_window.get();
    m_gestures << what;
    QTest::keyClick(at, key);
    settle();
  }

private slots:
  void initTestCase() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setApplicationName(QStringLiteral("tst_first_sheet"));
    QSettings(QStringLiteral("tromb"), QStringLiteral("tst_first_sheet")).clear();
    Theme::apply(*qApp, ThemeChoice::Day);
    m_demo = test::demoFolder(m_folder.path());
  }

  // The demo's pictures, five shapes.
  void twelveGesturesAtMost() {
    constexpr int kMost = 12;
    m_window = std::make_unique<MainWindow>();
    m_window->resize(1280, 800);
    m_window->show();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
    QStringList files;
    for (const char* name : {"ridge-launch.mp4", "low-crossing.mp4", "burner-check.mp4", "from-the-gate.mp4",
                             "quick-drift-50p.mp4", "older-camera.mp4", "poster.png"})
      files << m_demo + QLatin1Char('/') + QLatin1String(name);
    drop(files);
    click(m_window->findChild<QPushButton*>(QStringLiteral("takeOffer")), QStringLiteral("deliver these"));
    QCOMPARE(document().project().deliverables.size(), 4U);
    QWidget* more = nullptr;
    for (auto* each : m_window->findChildren<QAbstractButton*>())
      if (each->isVisible() && each->text().contains(QStringLiteral("Deliverable"))) more = each;
    click(more, QStringLiteral("one more deliverable"));
    press(Qt::Key_L, QStringLiteral("ultra-wide"));
    press(Qt::Key_Return, QStringLiteral("the first of these"));
    QCOMPARE(document().project().deliverables.size(), 5U);
    const auto* bar = m_window->findChild<QuestionBar*>();
    press(Qt::Key_U, QStringLiteral("U: the next question"));
    while (bar->row() >= 0 || bar->column() >= 0) {
      const QString asked = bar->findChild<QLabel*>()->text().section(QStringLiteral("</b>"), 0, 0).mid(3);
      press(Qt::Key_1, QStringLiteral("1: what loses least, %1").arg(asked));
      QVERIFY2(m_gestures.size() <= kMost, qPrintable(m_gestures.join(QStringLiteral("; "))));
    }
    qInfo().noquote() << m_gestures.size() << "gestures:" << m_gestures.join(QStringLiteral("; "));
    QVERIFY2(m_gestures.size() <= kMost, qPrintable(m_gestures.join(QStringLiteral("; "))));
    for (const Finding& each : m_window->preflight().findings())
      QVERIFY2(each.severity < Severity::Warning,
               qPrintable(QString::fromStdString(each.deliverable + ", " + each.shot + ": " + each.message.text())));
    for (int row = 0; row < int(document().project().shots.size()); ++row)
      for (int column = 0; column < 5; ++column) {
        const Cell cell = document().cell({row, column});
        QVERIFY2(cell.state != Cell::State::Bars, qPrintable(QStringLiteral("%1, %2").arg(row).arg(column)));
      }
  }
  void cleanup() {
    document().undoStack().setClean();
    m_window.reset();
  }
};

QTEST_MAIN(TestFirstSheet)
#include "tst_first_sheet.moc"
