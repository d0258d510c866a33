// SPDX-License-Identifier: GPL-3.0-or-later
// drive_window PROJECT FOOTAGE FOLDER [unframed]: a user's day in the real window. Opens the project, brings footage
// in, names the first shot "edited", keeps a recovery copy, saves, exports to the folder, and says what came of it:
// "opened", "saved" and "exported" with 1 or 0 before any words that the window used, "asked" for a question (answered
// by going back). "unframed": nobody looks for subjects in what is brought in. For tst_window_faults.
#include "app/dispatch/DispatchView.h"
#include "app/shell/MainWindow.h"
#include "app/style/Theme.h"
#include "io/Process.h"
#include "model/Worker.h"
#include "queue/Runner.h"
#include "support/Patience.h"

#include <QAbstractButton>
#include <QApplication>
#include <QComboBox>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QTest>
#include <QTimer>
#include <cstdio>

using namespace tromb;

namespace {

constexpr int kStuck = 20'000; ///< milliseconds

void said(const char* what, bool done) {
  std::printf("%s %d\n", what, int(done));
  std::fflush(stdout);
}

void said(const QString& words) {
  std::printf("  %s\n", qPrintable(words));
  std::fflush(stdout);
}

/// What the window has complained about since the last time.
void tellComplaints(QWidget& window) {
  for (auto* box : window.findChildren<QMessageBox*>(QStringLiteral("complaint"))) {
    said(box->text());
    delete box;
  }
}

} // namespace

int main(int argc, char** argv) {
  prepareProcess();
  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("tromb"));
  const bool unframed = argc == 5 && QByteArray(argv[4]) == "unframed";
  if (argc != 4 && !unframed) return 2;
  const QString project = QString::fromLocal8Bit(argv[1]);
  Theme::apply(application, ThemeChoice::Day);
  QTimer answering; // questions that only a person can answer
  QObject::connect(&answering, &QTimer::timeout, [] {
    auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
    if (!box || box->objectName() == QLatin1String("complaint")) return;
    said(QStringLiteral("asked ") + box->text());
    box->reject();
  });
  answering.start(20);
  {
    MainWindow window;
    if (unframed) window.framing().setOn(false);
    window.show();
    said("opened", window.files().open(project));
    tellComplaints(window);
    window.bringIn({QString::fromLocal8Bit(argv[2])});
    if (!QTest::qWaitFor([&] { return window.settled(); }, test::kPatience)) return 3;
    tellComplaints(window);
    if (!window.document().project().shots.empty()) window.document().renameShot(0, QStringLiteral("edited"));
    window.showView(MainWindow::View::Bench);
    if (!QTest::qWaitFor([&] { return window.settled(); }, test::kPatience)) return 3;
    window.files().recovery().write();
    said("saved", window.files().saveTo(project));
    tellComplaints(window);
    window.showExport();
    if (window.dispatch().isVisible()) {
      QString refused;
      QObject::connect(&window.queue(), &QueueService::failed, &window,
                       [&](const Error& error) { refused = QString::fromStdString(sentence(error)); });
      window.dispatch().form().folderField().setText(QString::fromLocal8Bit(argv[3]));
      if (!QTest::qWaitFor([&] { return window.settled(); }, test::kPatience)) return 3;
      auto* clash = window.dispatch().findChild<QComboBox*>(QStringLiteral("clash"));
      clash->setCurrentIndex(clash->findData(int(Clash::Replace)));
      std::string id;
      QObject::connect(&window.queue(), &QueueService::added, &window,
                       [&](const QString& added) { id = added.toStdString(); });
      bool wanted = false;
      QObject::connect(&window.dispatch().form(), &SendForm::wanted, &window, [&] { wanted = true; });
      window.dispatch().form().send();
      // It is refused, or over, or cannot get any further: it waits for room, or its process ends each time.
      const auto last = [&] { return window.queue().job(id); };
      QElapsedTimer since;
      since.start();
      const auto stuck = [&] {
        if (since.elapsed() > kStuck) return true; // what it does cannot even be written down
        return last() && ((last()->progress && last()->progress->missingBytes > 0) || last()->record.tries > 1);
      };
      const auto over = [&] {
        return !refused.isEmpty() || stuck() || (last() && (last()->fault || last()->record.over()));
      };
      if (wanted && !QTest::qWaitFor(over, test::kPatience)) return 3;
      const Queue queue(Queue::usualFolder());
      if (last() && !last()->fault && !last()->record.over()) {
        (void)queue.cancel(last()->id);
        (void)QTest::qWaitFor([&] { return !last() || last()->record.over(); }, kStuck);
      }
      bool exported = false;
      for (const JobResult& result : last() ? last()->record.results : std::vector<JobResult>()) {
        exported = exported || result.made();
        said(resultWords(*last(), result));
      }
      said("exported", exported);
      if (!refused.isEmpty()) said(refused);
      for (auto* label : window.dispatch().findChildren<QLabel*>())
        if (label->isVisible() && !label->text().isEmpty()) said(label->text());
    } else {
      said("exported", false);
    }
    tellComplaints(window);
    window.document().undoStack().setClean();
  }
  joinWorkers();
  // Whoever does the jobs is gone before the next looks at the same folders.
  const Queue queue(Queue::usualFolder());
  return QTest::qWaitFor([&] { return !isRun(queue); }, test::kPatience) ? 0 : 3;
}
