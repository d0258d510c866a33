// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/SavedDialog.h"

#include "app/style/Theme.h"
#include "model/Translation.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>

namespace tromb {

SavedDialog::SavedDialog(Words words, QWidget* parent)
    : QDialog(parent), m_words(std::move(words)), m_list(new QListWidget(this)), m_contents(new QLabel(this)),
      m_message(new QLabel(this)), m_told(new QVBoxLayout), m_commands(new QVBoxLayout) {
  setWindowTitle(m_words.title);
  auto* rows = new QVBoxLayout(this);
  auto* about = new QLabel(m_words.about, this);
  about->setWordWrap(true);
  about->setProperty("rank", "faint");
  rows->addWidget(about);
  auto* columns = new QHBoxLayout;
  m_list->setAccessibleName(m_words.title);
  // Long names are shortened in the list and shown whole in the tool tip.
  m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_list->setTextElideMode(Qt::ElideRight);
  columns->addWidget(m_list, 3);
  m_contents->setWordWrap(true);
  m_contents->setAlignment(Qt::AlignTop);
  m_contents->setMargin(10);
  m_told->addWidget(m_contents, 1);
  columns->addLayout(m_told, 3);
  const auto button = [this](const QString& text, auto run) {
    auto* made = new QPushButton(text, this);
    made->setAutoDefault(false); // Return in the list does what is done with an entry, if anything, and saves nothing
    connect(made, &QPushButton::clicked, this, run);
    m_commands->addWidget(made);
    return made;
  };
  m_new = button(m_words.saveNew,
                 [this] { saveAs(suggestedName(), [this](const std::string& name) { return save(name, false); }); });
  m_update = button(m_words.update, [this] {
    if (say(save(chosen().toStdString(), true))) refresh(chosen());
  });
  m_ofChosen << button(tr("&Rename …"), [this] {
    bool accepted = false;
    const QString name =
        QInputDialog::getText(this, m_words.title, tr("Name"), QLineEdit::Normal, chosen(), &accepted).trimmed();
    if (accepted && say(renameTo(chosen().toStdString(), name.toStdString()))) refresh(name);
  });
  m_ofChosen << button(tr("Re&move"), [this] {
    if (mayRemove() && say(removeNamed(chosen().toStdString()))) refresh();
  });
  button(tr("&Bring in from a file …"), [this] {
    const QString path = QFileDialog::getOpenFileName(this, m_words.bringIn, {}, m_words.filesToBringIn);
    if (path.isEmpty()) return;
    const auto name = importFrom(path.toStdString());
    if (say(name ? Status() : Status(tl::unexpected(name.error())))) refresh(QString::fromStdString(*name));
  });
  m_ofChosen << button(tr("&Write to a file …"), [this] {
    const QString path = QFileDialog::getSaveFileName(this, m_words.title, chosen() + m_words.ending, m_words.files);
    if (!path.isEmpty()) (void)say(exportTo(chosen().toStdString(), path.toStdString()));
  });
  m_commands->addStretch();
  button(tr("Close"), [this] { reject(); });
  columns->addLayout(m_commands);
  rows->addLayout(columns, 1);
  m_message->setObjectName(QStringLiteral("message"));
  m_message->setWordWrap(true);
  m_message->setStyleSheet(QStringLiteral("color: %1").arg(Theme::current().broken.name()));
  rows->addWidget(m_message);
  connect(m_list, &QListWidget::currentRowChanged, this, &SavedDialog::refreshChosen);
  resize(fontMetrics().averageCharWidth() * 120, fontMetrics().height() * 26);
}

void SavedDialog::addTop(QWidget* widget) {
  static_cast<QVBoxLayout*>(layout())->insertWidget(1, widget);
}

void SavedDialog::addBelow(QWidget* widget) {
  m_told->addWidget(widget);
  m_ofChosen << widget;
}

QPushButton* SavedDialog::addButton(const QString& text, const std::function<void()>& run) {
  auto* made = new QPushButton(text, this);
  made->setAutoDefault(false);
  connect(made, &QPushButton::clicked, this, run);
  m_commands->insertWidget(m_commands->count() - 2, made); // above the space and the last
  m_ofChosen << made;
  return made;
}

bool SavedDialog::mayRemove() {
  QMessageBox box(QMessageBox::Question, m_words.title, tr("Remove '%1'? It cannot be brought back.").arg(chosen()),
                  QMessageBox::NoButton, this);
  box.setObjectName(QStringLiteral("removeSaved"));
  const auto* remove = box.addButton(tr("Remove it"), QMessageBox::DestructiveRole);
  box.setDefaultButton(box.addButton(tr("Keep it"), QMessageBox::RejectRole));
  box.exec();
  return box.clickedButton() == remove;
}

QString SavedDialog::chosen() const {
  return m_list->currentItem() ? m_list->currentItem()->data(Qt::UserRole).toString() : QString();
}

bool SavedDialog::say(const Status& done) {
  m_message->setText(done ? QString() : said(done.error()));
  return done.has_value();
}

void SavedDialog::saveAs(const QString& suggested, const std::function<Status(const std::string& name)>& save) {
  bool accepted = false;
  const QString name =
      QInputDialog::getText(this, m_words.title, tr("Name"), QLineEdit::Normal, suggested, &accepted).trimmed();
  if (accepted && say(save(name.toStdString()))) refresh(name);
}

void SavedDialog::refresh(const QString& chosen) {
  m_list->clear();
  for (const Entry& each : entries()) {
    auto* item = new QListWidgetItem(each.label.isEmpty() ? each.name : each.label, m_list);
    item->setData(Qt::UserRole, each.name);
    item->setToolTip(item->text());
    item->setData(Qt::UserRole + 1, each.contents);
    if (each.name == chosen) m_list->setCurrentItem(item);
  }
  if (m_list->currentRow() < 0 && m_list->count() > 0) m_list->setCurrentRow(0);
  refreshChosen();
}

void SavedDialog::refreshChosen() {
  const QListWidgetItem* item = m_list->currentItem();
  m_contents->setText(item                   ? item->data(Qt::UserRole + 1).toString()
                      : m_list->count() == 0 ? m_words.nothingYet
                                             : QString());
  for (QWidget* each : m_ofChosen) each->setEnabled(item != nullptr);
  m_new->setEnabled(canSave());
  m_update->setEnabled(item && canSave());
  chosenChanged();
}

} // namespace tromb
