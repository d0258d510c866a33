// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/RecoveryDialog.h"

#include "model/Translation.h"
#include "project/ProjectFile.h"

#include <QDateTime>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QLocale>
#include <QPushButton>
#include <QVBoxLayout>

namespace tromb {

RecoveryDialog::RecoveryDialog(std::vector<RecoveryCopy> copies, QWidget* parent)
    : QDialog(parent), m_copies(std::move(copies)), m_list(new QListWidget(this)) {
  setObjectName(QStringLiteral("recoveryDialog"));
  setWindowTitle(tr("Unsaved work was found"));
  auto* rows = new QVBoxLayout(this);
  auto* words = new QLabel(tr("Tromb ended without saving. These copies hold what was not saved; opening one changes "
                              "no file until you save."),
                           this);
  words->setWordWrap(true);
  rows->addWidget(words);
  m_list->setAccessibleName(tr("Copies with unsaved work"));
  m_list->setWordWrap(true);
  for (const RecoveryCopy& copy : m_copies) {
    const QString path = QString::fromStdString(copy.projectPath);
    QString name = QString::fromStdString(copy.project.name);
    if (name.isEmpty()) name = path.isEmpty() ? tr("New project") : QFileInfo(path).completeBaseName();
    const QString when = QLocale().toString(QDateTime::fromSecsSinceEpoch(copy.writtenAt), QLocale::ShortFormat);
    QString what = tr("it was never saved");
    if (!path.isEmpty()) {
      const auto saved = loadProject(copy.projectPath);
      what = saved ? tr("against the saved file: %1").arg(said(differences(*saved, copy.project)))
                   : tr("the saved file cannot be read");
    }
    m_list->addItem(QStringLiteral("%1\n%2 · %3%4")
                        .arg(name, when, what, path.isEmpty() ? QString() : QStringLiteral("\n") + path));
  }
  m_list->setCurrentRow(0);
  rows->addWidget(m_list, 1);
  auto* buttons = new QHBoxLayout;
  auto* remove = new QPushButton(tr("&Remove the copy"), this);
  auto* later = new QPushButton(tr("&Later"), this);
  auto* open = new QPushButton(tr("&Open the copy"), this);
  open->setProperty("main", true);
  open->setDefault(true);
  buttons->addWidget(remove);
  buttons->addStretch();
  buttons->addWidget(later);
  buttons->addWidget(open);
  rows->addLayout(buttons);
  resize(fontMetrics().averageCharWidth() * 84, fontMetrics().height() * 20);
  connect(later, &QPushButton::clicked, this, &QDialog::reject);
  connect(open, &QPushButton::clicked, this, [this] {
    if (m_list->currentRow() >= 0) m_toOpen = m_copies[size_t(m_list->currentRow())];
    accept();
  });
  connect(remove, &QPushButton::clicked, this, [this] {
    const int row = m_list->currentRow();
    if (row < 0) return;
    removeCopy(m_copies[size_t(row)]);
    m_copies.erase(m_copies.begin() + row);
    delete m_list->takeItem(row);
    if (m_copies.empty()) reject();
  });
}

} // namespace tromb
