// SPDX-License-Identifier: GPL-3.0-or-later
// What the actions of the whole window do.
#include "app/bench/BenchView.h"
#include "app/dispatch/DispatchView.h"
#include "app/dispatch/FindingsPanel.h"
#include "app/footage/FootageView.h"
#include "app/order/OrderView.h"
#include "app/sheet/SheetView.h"
#include "app/shell/ActionsDialog.h"
#include "app/shell/MainWindow.h"
#include "app/shell/OfferBar.h"
#include "app/shell/QuestionBar.h"
#include "app/shell/RulesDialog.h"
#include "app/shell/SettingsDialog.h"
#include "app/shell/StartPage.h"
#include "app/shell/TopBar.h"
#include "app/spec/DestinationDialog.h"
#include "app/spec/PresetDialog.h"
#include "app/spec/SpecView.h"
#include "app/style/Folders.h"
#include "app/style/Icons.h"
#include "app/style/Settings.h"
#include "app/watch/WatchView.h"

#include <QActionGroup>
#include <QApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QMenuBar>
#include <QMessageBox>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QTreeWidget>

namespace tromb {

void MainWindow::bindActions() {
  m_actions.bind("new-window", [] {
    auto* window = new MainWindow;
    window->setAttribute(Qt::WA_DeleteOnClose);
    window->show();
  });
  m_actions.bind("quit", [this] { close(); });
  m_actions.bind(
      "export",
      [this] {
        if (m_view == View::Dispatch && m_dispatch->form().isVisible())
          m_dispatch->form().send();
        else
          showExport();
      },
      [this] { return exportable(); });
  m_actions.bind("bring-in", [this] {
    const QString last = Settings::footageFolder();
    const QStringList paths = QFileDialog::getOpenFileNames(
        this, tr("Bring in footage"),
        last.isEmpty() ? QStandardPaths::writableLocation(QStandardPaths::MoviesLocation) : last);
    if (!paths.isEmpty()) Settings::setFootageFolder(QFileInfo(paths.front()).path());
    bringIn(paths);
  });
  m_actions.bind("new-group", [this] {
    showView(View::Sources);
    m_footage->newGroup();
  });
  m_actions.bind(
      "frame-found", [this] { m_framing.frameAll(); }, [this] { return exportable() && !m_framing.busy(); });
  m_actions.at("frame-new-shots")->setChecked(Settings::framesNewShots());
  m_framing.setRules(Settings::framingRules());
  m_actions.bind("framing-rules", [this] {
    RulesDialog dialog(this);
    connect(&dialog, &RulesDialog::changed, this, [this] { m_framing.setRules(Settings::framingRules()); });
    dialog.exec();
  });
  m_framing.setOn(Settings::framesNewShots());
  m_actions.bind("frame-new-shots", [this] {
    const bool on = m_actions.at("frame-new-shots")->isChecked();
    Settings::setFramesNewShots(on);
    m_framing.setOn(on);
  });
  m_actions.bind(
      "next-question",
      [this] {
        if (m_view != View::Bench) showView(View::Sheet);
        m_questions->stepOn();
      },
      [this] { return exportable(); });
  auto* views = new QActionGroup(this);
  const std::pair<const char*, View> pages[] = {{"view-footage", View::Sources},   {"view-sheet", View::Sheet},
                                                {"view-bench", View::Bench},       {"view-spec", View::Spec},
                                                {"view-dispatch", View::Dispatch}, {"watch", View::Watch}};
  for (const auto& [id, view] : pages) {
    views->addAction(m_actions.at(id));
    m_actions.bind(id, [this, view = view] { showView(view); });
  }
  bindWatching();
  m_actions.at("show-order")->setChecked(true);
  m_actions.bind("show-order", [this] { refresh(); });
  m_actions.bind(
      "to-order", [this] { m_order->strip().setFocus(Qt::ShortcutFocusReason); },
      [this] { return m_order->isVisible(); });
  m_actions.bind("to-top", [this] { m_top->setFocus(Qt::ShortcutFocusReason); });
  m_actions.bind("presets", [this] {
    PresetDialog(m_spec->spec(), m_files->presets(), this).exec();
    m_spec->readAgain();
  });
  m_actions.bind("destinations", [this] {
    DestinationStore store(destinationFolder().toStdString());
    DestinationDialog(m_spec->spec(), store, this).exec();
    m_spec->readAgain();
    m_preflight.lookAgain();
  });
  m_actions.bind("show-preflight", [this] {
    const bool shown = m_actions.at("show-preflight")->isChecked();
    m_findings->setVisible(shown);
    if (shown) m_findings->list().setFocus(Qt::ShortcutFocusReason);
  });
  m_actions.bind("settings", [this] {
    SettingsDialog dialog(m_lights, this);
    connect(&dialog, &SettingsDialog::changed, this, [this] {
      m_offer->refresh();
      m_order->strip().readSettings();
      m_sheet->readSettings();
      m_spec->readAgain();
      m_start->refresh();
      placeOrder();
    });
    dialog.exec();
  });
  m_actions.bind("actions", [this] {
    m_actions.refresh();
    ActionsDialog dialog(m_actions, this);
    if (dialog.exec() == QDialog::Accepted && dialog.chosen()) dialog.chosen()->trigger();
  });
  m_actions.bind("about", [this] {
    QMessageBox::about(this, tr("About Tromb"),
                       tr("<b>Tromb %1</b><br>Delivers horizontal footage in every shape.<br><br>Free software under "
                          "the GNU General Public License, version 3 or later; it comes without any warranty.")
                           .arg(QApplication::applicationVersion()));
  });
}

void MainWindow::bindWatching() {
  m_actions.bind(
      "watch", [this] { showView(m_view == View::Watch ? m_watchedFrom : View::Watch); },
      [this] { return exportable(); });
  m_actions.bind(
      "play",
      [this] {
        if (m_pages->currentWidget() == m_footage)
          m_footage->viewer().playOrPause();
        else
          m_watch.playOrPause();
      },
      [this] { return m_pages->currentWidget() == m_footage || exportable(); });
  m_actions.bind(
      "full-screen",
      [this] {
        const bool full = m_actions.at("full-screen")->isChecked();
        if (full) showView(View::Watch);
        setFullScreen(full);
      },
      [this] { return exportable(); });
  m_actions.belongTo(Where::OnOrder, m_order, [this] { return m_order->isVisible(); });
  m_actions.belongTo(Where::OnWatch, m_watching, [this] { return m_watching->isVisible(); });
  m_actions.bind(
      "watch-file", [this] { watchFile(); }, [this] { return exportable(); });
  connect(m_watching, &WatchView::left, this, [this] { showView(m_watchedFrom); });
  connect(&m_watch, &Watch::failed, this, [this](const QString& reason) {
    if (!m_watching->isVisible()) complain(tr("This cannot be played.\n\n%1").arg(reason));
  });
  const auto state = [this] {
    m_actions.at("round")->setChecked(m_watch.part().kind != Watch::Part::Kind::All);
    m_actions.at("play")->setIcon(icon(m_watch.playing() ? QStringLiteral("pause") : QStringLiteral("play")));
  };
  connect(&m_watch, &Watch::stateChanged, this, state);
}

/// Nothing but the pictures that are watched, or the whole window again.
void MainWindow::setFullScreen(bool full) {
  if (full == m_fullScreen) return;
  m_fullScreen = full;
  m_actions.at("full-screen")->setChecked(full);
  m_watching->setFullScreen(full);
  menuBar()->setVisible(!full);
  m_top->setVisible(!full);
  if (full) {
    m_findings->hide();
    m_order->hide();
    m_offer->hide();
    setWindowState(windowState() | Qt::WindowFullScreen);
  } else {
    m_findings->setVisible(m_actions.at("show-preflight")->isChecked());
    m_offer->refresh();
    setWindowState(windowState() & ~Qt::WindowFullScreen);
    refresh();
  }
}

/// Asks for a finished file, and watches it beside what it was made from.
void MainWindow::watchFile() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Watch a finished file"), exportFolder(),
                                                    tr("Films (*.mp4 *.mov *.mkv *.webm);;All files (*)"));
  if (path.isEmpty()) return;
  m_watch.watchFile(path);
  showView(View::Watch);
}

} // namespace tromb
