// SPDX-License-Identifier: GPL-3.0-or-later
// tromb-screenshots DEMO-FOLDER OUT-FOLDER: drives the real window with the demo project and writes a picture of
// each main view. Exports one deliverable of the demo project on the way.
#include "app/bench/BenchView.h"
#include "app/bench/FramingDialog.h"
#include "app/dispatch/DispatchView.h"
#include "app/dispatch/FindingsPanel.h"
#include "app/dispatch/HandOverDialog.h"
#include "app/dispatch/WeightsDialog.h"
#include "app/footage/FootageView.h"
#include "app/order/CutReview.h"
#include "app/order/OrderView.h"
#include "app/sheet/SheetView.h"
#include "app/shell/ActionsDialog.h"
#include "app/shell/MainWindow.h"
#include "app/shell/RecoveryDialog.h"
#include "app/shell/SettingsDialog.h"
#include "app/spec/ChoicePanel.h"
#include "app/spec/DestinationDialog.h"
#include "app/spec/DestinationForm.h"
#include "app/spec/PresetDialog.h"
#include "app/spec/SampleDialog.h"
#include "app/spec/SpecView.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "destination/DestinationStore.h"
#include "handover/StandInService.h"
#include "project/Choices.h"
#include "project/ProjectFile.h"

#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QDir>
#include <QElapsedTimer>
#include <QFile>
#include <QFileInfo>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QRadioButton>
#include <QSpinBox>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QToolButton>
#include <QTreeWidget>
#include <cstdio>

namespace {

void runUntil(const std::function<bool()>& done, int milliseconds) {
  QElapsedTimer since;
  since.start();
  while (!done() && since.elapsed() < milliseconds) QApplication::processEvents(QEventLoop::AllEvents, 50);
}

void settle(tromb::MainWindow& window) {
  runUntil([&] { return false; }, 150);
  runUntil([&] { return window.settled(); }, 60'000);
  runUntil([&] { return false; }, 150);
}

} // namespace

int main(int argc, char** argv) {
  QStandardPaths::setTestModeEnabled(true);
  const QTemporaryDir data; // with a queue of its own
  qputenv("XDG_DATA_HOME", data.path().toLocal8Bit());
  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("tromb-screenshots"));
  if (argc != 3) {
    std::fprintf(stderr, "usage: tromb-screenshots DEMO-FOLDER OUT-FOLDER\n");
    return 2;
  }
  const QString project = QDir(QString::fromLocal8Bit(argv[1])).filePath(QStringLiteral("fennick-vale.tromb"));
  const QDir out(QString::fromLocal8Bit(argv[2]));
  const auto shoot = [&](QWidget& widget, const char* name) {
    (void)widget.grab().save(out.filePath(QLatin1String(name) + QStringLiteral(".png")));
  };
  // A sample of what is specified, and its pictures.
  const auto sample = [&](tromb::MainWindow& window) {
    tromb::SampleService& samples = window.spec().samples();
    samples.begin(window.spec().spec().current()->id);
    runUntil([&] { return !samples.busy(); }, 600'000);
    settle(window);
  };
  // The dispatch: two files under way, done, and one compared with what it was made from and with the other.
  const auto lookAtDispatch = [&](tromb::MainWindow& window) {
    const QString folder = QDir::tempPath() + QStringLiteral("/fennick-vale-exports");
    QDir(folder).removeRecursively();
    window.showExport();
    tromb::SendForm& form = window.dispatch().form();
    form.setFolder(folder);
    settle(window);
    const std::vector<tromb::SendForm::Candidate> all = form.candidates();
    for (const auto& each : all)
      form.choose(each.id, each.name == QLatin1String("Story") || each.name == QLatin1String("Square"));
    form.send();
    runUntil([] { return false; }, 8000);
    shoot(window, "dispatch-running");
    runUntil([&] { return window.queue().left() == 0; }, 300'000);
    runUntil([] { return false; }, 1500);
    QTreeWidget& list = window.dispatch().list();
    list.setCurrentItem(list.topLevelItem(1)->child(0));
    settle(window);
    shoot(window, "dispatch-done");
    window.actions().at("job-compare")->trigger();
    tromb::CompareView& comparing = window.dispatch().comparing();
    const auto compared = [&] { return comparing.service().isOpen() && comparing.service().measured(); };
    runUntil(compared, 120'000);
    runUntil([] { return false; }, 500);
    shoot(window, "compare");
    for (auto* way : comparing.findChildren<QRadioButton*>()) {
      if (way->isChecked()) continue;
      way->click();
      runUntil([] { return false; }, 600);
      shoot(window, qPrintable("look-compare-" + way->text().remove('&').section(' ', -1).toLower()));
    }
    comparing.findChild<QRadioButton*>()->click();
    comparing.findChild<QCheckBox*>("compareExact")->click();
    runUntil([] { return false; }, 600);
    shoot(window, "look-compare-exact");
    emit comparing.left();
    const QTemporaryDir service;
    const auto standIn = tromb::StandInService::start({service.path().toStdString(), "a-token", 0, 0, {}});
    const auto& made = window.queue().jobs().back().record.results.front();
    tromb::HandOverService handing;
    QStringList others;
    for (const auto& each : window.queue().finished()) others << QString::fromStdString(each.result->path);
    tromb::HandOverDialog handOver(handing, QString::fromStdString(made.path), others, {}, &window);
    handOver.show();
    settle(window);
    shoot(handOver, "look-hand-over");
    if (standIn) {
      handOver.findChildren<QRadioButton*>().last()->click();
      handOver.findChildren<QLineEdit*>()[1]->setText(QString::fromStdString((*standIn)->address()));
      handOver.findChildren<QLineEdit*>()[2]->setText("a-token");
      handOver.findChild<QPushButton*>("handOverBegin")->click();
      runUntil([&] { return !handing.busy(); }, 300'000);
      runUntil([] { return false; }, 300);
      shoot(handOver, "hand-over");
    }
    QDir(folder).removeRecursively();
  };
  // The states of the spec: one deliverable, several, all unfolded, and nothing that holds.
  const auto lookAtSpec = [&](tromb::MainWindow& window) {
    using tromb::Deliverable;
    tromb::Spec& spec = window.spec().spec();
    window.session().selectDeliverables({1});
    window.showView(tromb::MainWindow::View::Spec);
    settle(window);
    shoot(window, "look-spec");
    window.actions().at(QStringLiteral("high-version"))->trigger();
    settle(window);
    shoot(window, "look-spec-high");
    for (auto* const each : window.spec().findChildren<QToolButton*>())
      if (each->isCheckable() && each->text().startsWith(QLatin1String("Compare"))) {
        each->setChecked(true);
        settle(window);
        shoot(window, "look-spec-compared");
        each->setChecked(false);
      }
    {
      tromb::DestinationStore store((QDir::tempPath() + QStringLiteral("/tromb-look/destinations")).toStdString());
      (void)store.save(tromb::destinationFrom(*spec.current(), "House screen"), true);
      tromb::DestinationDialog own(spec, store, &window);
      own.show();
      runUntil([] { return false; }, 300);
      shoot(own, "look-destinations");
      tromb::DestinationForm form(
          *tromb::destination("vertical-story"), [](const tromb::Destination&) { return tromb::Status(); }, &window);
      form.show();
      runUntil([] { return false; }, 300);
      shoot(form, "look-destination-form");
    }
    {
      window.actions().at(QStringLiteral("add-deliverable"))->trigger();
      QMenu* menu = window.actions().menu(tromb::MenuId::AddForMenu);
      shoot(*menu, "look-add");
      QMenu* upright = menu->findChildren<QMenu*>().first();
      upright->popup({0, 0});
      shoot(*upright, "look-add-upright");
      upright->close();
      menu->close();
    }
    window.showView(tromb::MainWindow::View::Sheet);
    settle(window);
    shoot(window, "look-sheet-high");
    window.document().undoStack().undo();
    window.session().selectDeliverables({1});
    window.showView(tromb::MainWindow::View::Spec);
    settle(window);
    spec.change(QStringLiteral("few bits"), [](Deliverable& d) {
      chooseRateControl(d, tromb::RateControl::ConstantQuality);
      d.encoding.crf = 26;
    });
    sample(window);
    shoot(window, "look-spec-sample");
    {
      const Deliverable& d = *spec.current();
      tromb::SampleDialog closer(*window.spec().samples().report(d), tromb::resolvedEncoding(d), &window);
      closer.show();
      runUntil([] { return false; }, 300);
      shoot(closer, "look-spec-closer");
    }
    window.document().undoStack().undo();
    window.session().selectDeliverables({0, 1, 3});
    settle(window);
    shoot(window, "look-spec-several");
    window.session().selectDeliverables({1});
    for (tromb::ChoiceGroup* group : window.spec().choices().groups()) group->unfold(true);
    settle(window);
    shoot(window, "look-spec-unfolded");
    for (tromb::ChoiceGroup* group : window.spec().choices().groups()) group->unfold(false);
    spec.change(QStringLiteral("all wrong"), [](Deliverable& d) {
      d.name = "A story with a name that is far too long for anything";
      d.canvas = {1280, 1000};
      d.rate = tromb::FrameRate(tromb::Rational(50));
      d.destination = "message";
      d.encoding.bitRate = 40'000'000;
      d.encoding.level = "1";
      d.encoding.sound.codec = tromb::SoundCodec::Mp3;
    });
    settle(window);
    shoot(window, "look-spec-broken");
    window.actions().at(QStringLiteral("show-preflight"))->trigger();
    settle(window);
    shoot(window, "look-preflight");
    {
      tromb::PreflightService& preflight = window.preflight();
      std::vector<int> soft;
      for (int i = 0; i < int(preflight.findings().size()); ++i)
        if (preflight.findings()[size_t(i)].code == "soft") soft.push_back(i);
      preflight.accept(preflight.acceptable(soft), QStringLiteral("seen from afar, on a wall"));
      settle(window);
      QTreeWidget& list = window.findings().list();
      for (int i = 0; i < list.topLevelItemCount(); ++i)
        if (list.topLevelItem(i)->data(0, Qt::UserRole + 1).toString() == QLatin1String("soft+")) {
          list.topLevelItem(i)->setExpanded(true);
          list.setCurrentItem(list.topLevelItem(i));
          list.scrollToItem(list.topLevelItem(i), QAbstractItemView::PositionAtTop);
        }
      shoot(window, "look-accepted");
      window.showView(tromb::MainWindow::View::Sheet);
      settle(window);
      shoot(window, "look-preflight-sheet");
      tromb::WeightsDialog weights(window.document(), preflight, &window);
      weights.show();
      runUntil([] { return false; }, 300);
      shoot(weights, "look-weights");
      window.document().undoStack().undo();
      window.showView(tromb::MainWindow::View::Spec);
      settle(window);
    }
    window.actions().at(QStringLiteral("show-preflight"))->trigger();
    window.document().undoStack().undo();
  };

  using tromb::Theme;
  using tromb::ThemeChoice;
  Theme::apply(application, ThemeChoice::Day);
  tromb::Settings::setFramesNewShots(false); // it is asked for where it is shown
  {
    tromb::MainWindow empty;
    empty.resize(1280, 800);
    empty.show();
    settle(empty);
    shoot(empty, "start");
  }
  if (const QString look = qEnvironmentVariable("TROMB_LOOK"); !look.isEmpty()) {
    // To be looked at and not kept: every view and dialog, in "day", "dusk" or "large" type, and in the language of
    // TROMB_TRANSLATION.
    if (look == QLatin1String("dusk")) Theme::apply(application, ThemeChoice::Dusk);
    if (look == QLatin1String("large")) Theme::applyType(application, 150);
    tromb::MainWindow window;
    window.resize(1280, 800);
    window.show();
    settle(window);
    if (qEnvironmentVariable("TROMB_LOOK_AT") == QLatin1String("spec")) {
      window.showView(tromb::MainWindow::View::Spec);
      settle(window);
      shoot(window, "look-spec-empty");
      window.files().open(project);
      settle(window);
      lookAtSpec(window);
      window.document().undoStack().setClean();
      return 0;
    }
    if (qEnvironmentVariable("TROMB_LOOK_AT") == QLatin1String("words")) {
      window.files().open(project);
      settle(window);
      window.showView(tromb::MainWindow::View::Sheet);
      window.actions().at(QStringLiteral("elements"))->trigger();
      settle(window);
      shoot(window, "look-words-sheet");
      auto* dialog = window.findChild<QDialog*>(QStringLiteral("elementsDialog"));
      shoot(*dialog, "look-words");
      window.showView(tromb::MainWindow::View::Bench);
      {
        std::vector<tromb::Element> elements = window.document().project().elements;
        for (tromb::Element& e : tromb::captionElements(
                 window.document().project(),
                 {{tromb::Rational(12), tromb::Rational(14), "Stand back a little, she is about to lift off"},
                  {tromb::Rational(14), tromb::Rational(16), "Two more burns and we are over the ridge"}}))
          elements.push_back(e);
        window.document().setElements(elements, {});
        window.session().setPlayhead(tromb::Rational(13));
        window.showView(tromb::MainWindow::View::Sheet);
        window.sheet().scrollTo(window.sheet().model()->index(2, 0));
        settle(window);
        auto* list = dialog->findChild<QListWidget*>();
        list->setCurrentRow(2);
        settle(window);
        shoot(*dialog, "look-words-caption");
        shoot(window, "look-words-captions");
      }
      window.showView(tromb::MainWindow::View::Bench);
      window.session().setPlayhead(tromb::Rational(1));
      window.session().setDeliverable(1);
      settle(window);
      shoot(window, "look-words-bench");
      window.document().undoStack().setClean();
      return 0;
    }
    if (qEnvironmentVariable("TROMB_LOOK_AT") == QLatin1String("dispatch")) {
      window.files().open(project);
      settle(window);
      lookAtDispatch(window);
      return 0;
    }
    shoot(window, "look-start");
    window.showView(tromb::MainWindow::View::Sources);
    window.bringIn({QFileInfo(project).path()});
    settle(window);
    shoot(window, "look-first-footage");
    window.document().undoStack().setClean();
    window.files().open(project);
    settle(window);
    window.showView(tromb::MainWindow::View::Sources);
    window.session().selectSources({2});
    window.session().selectBed(0);
    settle(window);
    shoot(window, "look-footage");
    window.session().selectShots({3});
    window.showView(tromb::MainWindow::View::Sheet);
    settle(window);
    shoot(window, "look-sheet");
    window.showView(tromb::MainWindow::View::Bench);
    window.session().lookAt(1);
    window.session().setDeliverable(1);
    window.bench().bench().setPlacesSubject(true);
    settle(window);
    shoot(window, "look-bench");
    window.bench().bench().setPlacesSubject(false);
    window.session().lookAt(2);
    window.actions().at(QStringLiteral("bars"))->trigger();
    settle(window);
    shoot(window, "look-bench-bars");
    emit window.bench().bars()->done();
    for (int shot = 0; shot < int(window.document().project().shots.size()); ++shot) {
      // A cell that has a move, and one that is soft and has ways to fill.
      if (window.document().cell({shot, 1}).state != tromb::Cell::State::Soft) continue;
      window.session().lookAt(shot);
      break;
    }
    settle(window);
    shoot(window, "look-bench-soft");

    const QString there = QDir::tempPath() + QStringLiteral("/tromb-look");
    tromb::PresetStore presets((there + QStringLiteral("/presets")).toStdString());
    (void)presets.save(tromb::presetOf(window.document().project(), "Every Saturday"), true);
    (void)presets.save(tromb::presetOf(window.document().project().deliverables[1], tromb::PresetKind::Deliverable,
                                       "Story for phones"),
                       true);
    tromb::FramingStore framings((there + QStringLiteral("/framings")).toStdString());
    (void)framings.save("Two speakers, one above the other", window.document().cell({1, 1}).framing, true);
    tromb::RecoveryCopy copy;
    copy.project.name = "Balloon morning";
    copy.projectPath = project.toStdString();
    copy.writtenAt = 1'790'000'000;
    tromb::LightService lights(window.document(), {}, 1);
    const auto lookAt = [&](QDialog& dialog, const char* name) {
      dialog.show();
      settle(window);
      shoot(dialog, name);
    };
    lookAtSpec(window);
    {
      tromb::SettingsDialog dialog(lights, &window);
      lookAt(dialog, "look-settings");
    }
    {
      tromb::ActionsDialog dialog(window.actions(), &window);
      lookAt(dialog, "look-actions");
    }
    {
      tromb::PresetDialog dialog(window.spec().spec(), presets, &window);
      lookAt(dialog, "look-presets");
    }
    {
      tromb::FramingDialog dialog(
          window.document().cell({1, 1}).framing, framings, [](const tromb::Framing&) {}, &window);
      lookAt(dialog, "look-framings");
    }
    {
      tromb::RecoveryDialog dialog({copy, copy}, &window);
      lookAt(dialog, "look-recovery");
    }
    {
      tromb::CutReview dialog(window.document(), 0, &window);
      dialog.show();
      runUntil([&] { return !dialog.searching(); }, 60'000);
      runUntil([] { return false; }, 1000);
      shoot(dialog, "look-cuts");
    }
    window.document().undoStack().setClean();
    QDir(there).removeRecursively();
    return 0;
  }
  for (const bool dusk : {false, true}) {
    Theme::apply(application, dusk ? ThemeChoice::Dusk : ThemeChoice::Day);
    tromb::MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.files().open(project);
    settle(window);
    for (int row = 1; row < 3; ++row)
      for (int column = 1; column < 4; ++column)
        window.sheet().selectionModel()->select(window.sheet().model()->index(row, column),
                                                QItemSelectionModel::Select);
    window.sheet().selectionModel()->setCurrentIndex(window.sheet().model()->index(1, 1),
                                                     QItemSelectionModel::NoUpdate);
    window.sheet().setFocus();
    settle(window);
    shoot(window, dusk ? "sheet-dusk" : "sheet-day");
    window.showView(tromb::MainWindow::View::Sources);
    window.session().selectSources({2});
    window.session().selectShots({3});
    window.session().setPlayhead(tromb::Rational(12));
    settle(window);
    shoot(window, dusk ? "look-footage-dusk" : "footage-day");
    window.session().selectShots({1});
    window.showView(tromb::MainWindow::View::Bench);
    window.session().lookAt(1);
    window.session().setDeliverable(1);
    window.bench().bench().setPlacesSubject(true);
    settle(window);
    shoot(window, dusk ? "bench-dusk" : "bench-day");
    if (dusk) break;
    {
      // The balloon that crosses, followed from a box drawn round it; the made move is taken back.
      tromb::Bench& bench = window.bench().bench();
      const QPointF at = bench.subject().value_or(QPointF());
      emit window.bench().canvas().boxed(QRectF(at.x() - 110, at.y() - 130, 220, 260));
      settle(window);
      shoot(window, "bench-follow");
      window.document().undoStack().undo();
      bench.setPlacesSubject(false);
      window.session().selectShots({2});
      window.actions().at(QStringLiteral("bars"))->trigger();
      settle(window);
      shoot(window, "bench-bars");
      emit window.bench().bars()->done();
      window.session().selectShots({1});
      window.session().setPlayhead(tromb::Rational(7));
      window.showView(tromb::MainWindow::View::Watch);
      settle(window);
      shoot(window, "watch");
      window.showView(tromb::MainWindow::View::Bench);
    }
    settle(window);
    if (qEnvironmentVariableIsSet("TROMB_BENCH")) {
      shoot(window, "look-bench-window");
      tromb::Framing framing;
      (void)tromb::framingByName("backdrop", framing);
      framing.ground = tromb::Ground::Still;
      framing.still = window.document().project().sources.front().id;
      for (const tromb::Source& source : window.document().project().sources)
        if (source.path.ends_with("poster.png")) framing.still = source.id;
      window.document().setFramings({{{1, 1}, framing}}, {});
      settle(window);
      shoot(window, "look-bench-still");
      std::vector<tromb::Shot> shots = window.document().project().shots;
      for (tromb::Shot& shot : shots) shot.subjects.clear();
      window.document().changeShots(shots, {});
      window.framing().frameAll();
      settle(window);
      window.showView(tromb::MainWindow::View::Sheet);
      settle(window);
      shoot(window, "look-sheet-suggested");
      return 0;
    }
    window.showView(tromb::MainWindow::View::Sources);
    window.footage().setForm(tromb::FootageDelegate::Form::Card);
    window.session().selectSources({8});
    window.session().selectBed(0);
    settle(window);
    shoot(window, "footage-grid");
    {
      // A finished edit, added whole, is looked through for its cuts.
      const tromb::Project& open = window.document().project();
      const tromb::Source& edit = open.sources[7];
      window.document().addShots({tromb::newShot(open, edit, **window.document().media(edit.id))}, 7);
      tromb::CutReview review(window.document(), 7, &window);
      review.show();
      runUntil([&] { return !review.searching(); }, 60'000);
      runUntil([] { return false; }, 2500);
      shoot(review, "split-at-cuts");
      window.document().undoStack().undo();
    }

    window.session().selectDeliverables({1});
    window.showView(tromb::MainWindow::View::Spec);
    settle(window);
    sample(window);
    shoot(window, "spec");
    window.spec().spec().change(QStringLiteral("odd"), [](tromb::Deliverable& d) { d.canvas.width = 1081; });
    settle(window);
    shoot(window, "look-odd-size");
    window.document().undoStack().undo();

    // Framed by what is found alone, and why.
    tromb::Project plain = window.document().project();
    for (tromb::Shot& shot : plain.shots) shot.subjects.clear();
    for (tromb::Deliverable& d : plain.deliverables) d.framings.clear();
    const QString alone = QDir::tempPath() + QStringLiteral("/fennick-vale-plain.tromb");
    if (!tromb::saveProject(plain, alone.toStdString())) return 1;
    window.document().undoStack().setClean();
    window.files().open(alone);
    settle(window);
    window.showView(tromb::MainWindow::View::Sheet);
    settle(window);
    window.framing().frameAll();
    settle(window);
    shoot(window, "sheet-found");
    for (int i = 0; i < 2; ++i) { // the second deliverable
      window.actions().at("next-question")->trigger();
      settle(window);
    }
    shoot(window, "sheet-question");
    window.findChild<QWidget*>(QStringLiteral("questionBar"))->hide();
    window.session().lookAt(1);
    window.showView(tromb::MainWindow::View::Bench);
    settle(window);
    window.actions().at("show-found")->trigger();
    settle(window);
    shoot(window, "bench-found");
    window.actions().at("show-found")->trigger();
    window.document().undoStack().setClean();
    window.files().open(project);
    QFile::remove(alone);
    settle(window);

    lookAtDispatch(window);
  }
  return 0;
}
