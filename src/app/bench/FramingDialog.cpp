// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/FramingDialog.h"

#include "model/Cell.h"

#include <QPushButton>

namespace tromb {

FramingDialog::FramingDialog(std::optional<Framing> current, FramingStore& store,
                             std::function<void(const Framing&)> apply, QWidget* parent)
    : SavedDialog({tr("Saved framings"),
                   tr("A saved framing keeps a cell's layout, places, zoom and move, for any canvas. A "
                      "still under a picture stays with its project: a copy takes its place."),
                   tr("&Save the current cell's framing …"), tr("&Update it from the current cell"),
                   tr("Bring in a framing"), tr("No framing was saved yet."), tr("Framings (*.tromb-framing)"),
                   tr("Framings (*.tromb-framing)"), QStringLiteral(".tromb-framing")},
                  parent),
      m_current(std::move(current)), m_store(store), m_apply(std::move(apply)) {
  setObjectName(QStringLiteral("framingDialog"));
  m_applyButton = addButton(tr("&Apply to the selected cells"), [this] {
    for (const SavedFraming& each : m_store.all())
      if (each.name == chosen().toStdString()) m_apply(each.framing);
    accept();
  });
  m_applyButton->setProperty("main", true);
  m_applyButton->setDefault(true);
  refresh();
}

void FramingDialog::forOneCell() {
  m_applyButton->setText(tr("&Apply to this cell"));
}

QString FramingDialog::suggestedName() const {
  return m_current ? layoutWords(*m_current) : QString();
}

std::vector<SavedDialog::Entry> FramingDialog::entries() const {
  std::vector<Entry> entries;
  for (const SavedFraming& each : m_store.all()) {
    QStringList lines{layoutWords(each.framing)};
    int number = 0;
    for (const Window& window : each.framing.windows) {
      ++number;
      lines << tr("window %1: %2, zoom %3")
                   .arg(number)
                   .arg(window.follows
                            ? tr("follows the subject")
                            : tr("at %1 %, %2 %").arg(window.x * 100, 0, 'f', 0).arg(window.y * 100, 0, 'f', 0))
                   .arg(window.zoom, 0, 'f', 2);
      if (!window.move.empty()) lines << tr("a move of %n keys", nullptr, int(window.move.size()));
    }
    entries.push_back({QString::fromStdString(each.name), lines.join(QLatin1Char('\n')), {}});
  }
  return entries;
}

} // namespace tromb
