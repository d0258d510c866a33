// SPDX-License-Identifier: GPL-3.0-or-later
// tromb-bench-window CLIP: a project of 300 sources and 500 shots in 6 deliverables, in the real window: how long until
// it is open and painted, and how long each kind of edit takes until it is painted. Prints a table, and JSON as the
// last line. Times are shown against what a person notices: 2 s for opening, 16.7 ms for an edit.
#include "app/bench/BenchView.h"
#include "app/footage/FootageView.h"
#include "app/order/OrderView.h"
#include "app/sheet/SheetView.h"
#include "app/shell/MainWindow.h"
#include "app/style/Theme.h"
#include "destination/NewDeliverable.h"
#include "media/read/Probe.h"
#include "project/ProjectFile.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QFile>
#include <QFileInfo>
#include <QScrollBar>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <algorithm>
#include <cstdio>

using namespace tromb;

namespace {

double elapsed(const std::function<void()>& work) {
  QElapsedTimer timer;
  timer.start();
  work();
  return double(timer.nsecsElapsed()) / 1e6;
}

Project largeProject(const QString& folder, const QString& clip, const MediaInfo& media) {
  Project p;
  p.name = "Large";
  for (int i = 0; i < 300; ++i) {
    const QString path = QStringLiteral("%1/clip-%2.mp4").arg(folder).arg(i);
    QFile::link(clip, path);
    MediaInfo each = media;
    each.path = path.toStdString();
    p.sources.push_back(newSource(p, each));
    p.sources.back().barsBy = FactBy::Measure;
    p.sources.back().fingerprint = "0-" + std::to_string(i);
  }
  for (int i = 0; i < 500; ++i) p.shots.push_back(newShot(p, p.sources[size_t(i * 7 % 300)], media));
  const Size shapes[] = {{1920, 1080}, {1080, 1920}, {1080, 1350}, {1080, 1080}, {2560, 1080}, {720, 1280}};
  for (const Size shape : shapes) {
    Deliverable d = newDeliverable(p, {}, &media);
    d.canvas = shape;
    d.name = freeDeliverableName(p, sizeText(shape));
    p.deliverables.push_back(d);
  }
  for (int i = 0; i < 300; ++i) { // one in each of the first shots, each beside another of the same time
    Element e;
    e.id = freshId(p.elements, "e");
    e.text = "Over the ridge, " + std::to_string(i);
    e.shot = p.shots[size_t(i / 2)].id;
    e.out = Rational(4);
    e.place.anchor = i % 2 == 0 ? Anchor::Top : Anchor::BottomLeft;
    p.elements.push_back(std::move(e));
  }
  return p;
}

} // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("tromb-bench"));
  if (argc != 2) {
    std::fprintf(stderr, "usage: tromb-bench-window CLIP\n");
    return 2;
  }
  Theme::apply(application, ThemeChoice::Day);
  const QString clip = QFileInfo(QString::fromLocal8Bit(argv[1])).absoluteFilePath();
  const auto media = probe(clip.toStdString());
  if (!media || !media->video) {
    std::fprintf(stderr, "tromb-bench-window: %s is no video\n", argv[1]);
    return 1;
  }
  QTemporaryDir folder;
  const QString path = folder.filePath(QStringLiteral("large.tromb"));
  if (!saveProject(largeProject(folder.path(), clip, *media), path.toStdString())) return 1;

  MainWindow window;
  window.show();
  QApplication::processEvents();
  // Everything that the change has made due: notices, layout, and the parts that are to be painted again.
  const auto painted = [] {
    for (int i = 0; i < 3; ++i) {
      QApplication::sendPostedEvents();
      QApplication::processEvents();
    }
  };
  const double open = elapsed([&] {
    window.files().open(path);
    painted();
  });
  double facts = open;
  facts += elapsed([&] {
    while (window.document().footage().size() < 300) QApplication::processEvents(QEventLoop::AllEvents, 5);
    painted();
  });
  QElapsedTimer settling;
  settling.start();
  while (!window.settled() && settling.elapsed() < 60'000) QApplication::processEvents(QEventLoop::AllEvents, 20);

  Document& document = window.document();
  int n = 0;
  window.sheet().selectionModel()->setCurrentIndex(window.sheet().model()->index(3, 1),
                                                   QItemSelectionModel::ClearAndSelect);
  window.session().selectShots({3});
  Bench& bench = window.bench().bench();
  window.session().lookAt(3);
  window.session().setDeliverable(1);
  QScrollBar* rows = window.sheet().verticalScrollBar();
  const int gesture = document.newGesture();
  (void)document.newGesture();
  const std::pair<const char*, std::function<void()>> edits[] = {
      {"slide a picture", [&] { window.sheet().nudge(n++ % 2 ? 3 : -3, 0); }},
      {"scroll the sheet", [&] { rows->setValue(n++ * 37 % std::max(1, rows->maximum())); }},
      {"drag on the bench",
       [&] {
         bench.placing().placeWindow({900.0 + n++ % 60, 540}, 5, gesture);
       }},
      {"drag a subject",
       [&] {
         bench.placing().placeSubject({900.0 + n++ % 60, 540}, gesture + 1);
       }},
      {"trim a shot", [&] { window.order().strip().trimSelected(true, n++ % 2 ? 1 : -1); }},
      {"rename a shot", [&] { document.renameShot(5, QString::number(n++)); }},
      {"move a shot", [&] { document.moveShot(n % 400, n % 400 + 3), ++n; }},
      {"duplicate a shot", [&] { document.duplicateShots({n++ % 400}); }},
      {"type words",
       [&] {
         std::vector<Element> elements = document.project().elements;
         elements[3].text = "words " + std::to_string(n++);
         document.setElements(std::move(elements), {});
       }},
      {"drag words",
       [&] {
         std::vector<Element> elements = document.project().elements;
         elements[3].place.x = n++ % 20;
         document.setElements(std::move(elements), {}, gesture + 2);
       }},
      {"undo", [&] { document.undoStack().undo(); }},
      {"change a canvas",
       [&] {
         Deliverable d = document.project().deliverables[1];
         d.canvas.width = n++ % 2 ? 1080 : 1090;
         document.editDeliverable(1, d);
       }},
      {"change a bit rate", [&] {
         Deliverable d = document.project().deliverables[1];
         d.encoding.bitRate = n++ % 2 ? 8'000'000 : 9'000'000;
         document.editDeliverable(1, d);
       }}};
  const auto timesOf = [&](const std::function<void()>& edit) {
    std::vector<double> times;
    for (int i = 0; i < 25; ++i)
      times.push_back(elapsed([&] {
        edit();
        painted();
      }));
    std::sort(times.begin(), times.end());
    return times;
  };
  std::printf("%-28s %9.0f ms  (bound 2000)\n%-28s %9.0f ms\n", "open and painted", open, "facts of 300 sources",
              facts);
  QString json =
      QStringLiteral("{\"openMilliseconds\": %1, \"factsMilliseconds\": %2, \"edits\": {").arg(open).arg(facts);
  bool first = true;
  for (const auto view :
       {MainWindow::View::Sheet, MainWindow::View::Sources, MainWindow::View::Bench, MainWindow::View::Spec}) {
    window.showView(view);
    painted();
    for (const auto& [name, edit] : edits) {
      const std::vector<double> times = timesOf(edit);
      const QString where = view == MainWindow::View::Sheet     ? QStringLiteral("sheet")
                            : view == MainWindow::View::Sources ? QStringLiteral("footage")
                            : view == MainWindow::View::Bench   ? QStringLiteral("bench")
                                                                : QStringLiteral("spec");
      std::printf("%-8s %-19s median %6.1f ms  worst %6.1f ms  (bound 16.7)\n", qPrintable(where), name, times[12],
                  times[24]);
      json += QStringLiteral("%1\"%2: %3\": [%4, %5]")
                  .arg(first ? QString() : QStringLiteral(", "), where, QLatin1String(name))
                  .arg(times[12])
                  .arg(times[24]);
      first = false;
    }
  }
  // Until preflight has answered an edit: as it is, then with a subject that moves in every shot, which every window
  // follows, so that every cell is looked at all along.
  json += QStringLiteral("}, \"preflight\": {");
  const auto preflighted = [&](const char* what) {
    std::vector<double> times;
    for (int i = 0; i < 11; ++i) {
      QEventLoop loop; // which waits, as the window does
      const auto told = QObject::connect(&window.preflight(), &PreflightService::changed, &loop, &QEventLoop::quit);
      times.push_back(elapsed([&] {
        document.renameShot(5, QString::number(n++));
        loop.exec();
      }));
      QObject::disconnect(told);
      painted();
    }
    std::sort(times.begin(), times.end());
    std::printf("preflight, %-17s median %6.1f ms  worst %6.1f ms  (bound 100), %zu findings\n", what, times[5],
                times[10], window.preflight().findings().size());
    json += QStringLiteral("%1\"%2\": [%3, %4]")
                .arg(json.endsWith(QLatin1Char('{')) ? QString() : QStringLiteral(", "), QLatin1String(what))
                .arg(times[5])
                .arg(times[10]);
  };
  window.showView(MainWindow::View::Sheet);
  while (window.preflight().busy()) QApplication::processEvents(QEventLoop::AllEvents, 5);
  preflighted("resting");
  std::vector<Shot> shots = document.project().shots;
  for (Shot& shot : shots) {
    Subject subject;
    subject.move = {{shot.in, 0.2, 0.4, 1, Ease::Eased, {}}, {shot.out, 0.8, 0.6, 1, Ease::Eased, {}}};
    shot.subjects = {subject};
  }
  document.changeShots(shots, {});
  while (window.preflight().busy()) QApplication::processEvents(QEventLoop::AllEvents, 5);
  preflighted("all moving");
  // The same edits of the sheet while shots are looked at and framed.
  json += QStringLiteral("}, \"looking\": {");
  shots = document.project().shots;
  for (size_t i = 0; i < shots.size(); ++i) { // each is looked at for itself
    shots[i].subjects.clear();
    shots[i].in = Rational(int64_t(i % 25), 25);
    shots[i].out = Rational(int64_t(50 + i % 50), 25);
  }
  document.changeShots(shots, {});
  QObject::connect(&window.framing(), &FramingService::failed,
                   [](const QString& why) { std::fprintf(stderr, "%s\n", qPrintable(why)); });
  window.framing().frameAll();
  first = true;
  for (const auto& [name, edit] : edits) {
    const std::vector<double> times = timesOf(edit);
    if (window.framing().left() == 0) break; // there was too little to look at
    std::printf("looking  %-19s median %6.1f ms  worst %6.1f ms  (bound 16.7), %d left\n", name, times[12], times[24],
                window.framing().left());
    json += QStringLiteral("%1\"%2\": [%3, %4]")
                .arg(first ? QString() : QStringLiteral(", "), QLatin1String(name))
                .arg(times[12])
                .arg(times[24]);
    first = false;
  }
  std::printf("%d shots are left to be looked at\n", window.framing().left());
  std::printf("%s}}\n", qPrintable(json));
  document.undoStack().setClean();
  return 0;
}
