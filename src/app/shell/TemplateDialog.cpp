// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/TemplateDialog.h"

#include "app/style/Theme.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace tromb {

TemplateDialog::TemplateDialog(const Document& document, TemplateStore& store, QWidget* parent)
    : QDialog(parent), m_document(document), m_store(store), m_list(new QListWidget(this)),
      m_contents(new QLabel(this)), m_message(new QLabel(this)) {
  setObjectName(QStringLiteral("templateDialog"));
  setWindowTitle(tr("Project templates"));
  auto* rows = new QVBoxLayout(this);
  auto* words = new QLabel(tr("A template keeps a project's deliverables with their canvases, rates, destinations and "
                              "encodings, and none of its footage."),
                           this);
  words->setWordWrap(true);
  words->setProperty("rank", "faint");
  rows->addWidget(words);
  auto* columns = new QHBoxLayout;
  m_list->setAccessibleName(tr("Templates"));
  columns->addWidget(m_list, 2);
  m_contents->setWordWrap(true);
  m_contents->setAlignment(Qt::AlignTop);
  m_contents->setMargin(10);
  columns->addWidget(m_contents, 3);
  const auto button = [this](const QString& text, auto run) {
    auto* made = new QPushButton(text, this);
    connect(made, &QPushButton::clicked, this, run);
    return made;
  };
  auto* commands = new QVBoxLayout;
  auto* add = button(tr("&Save this project as a template …"), [this] { saveNew(); });
  add->setEnabled(!document.project().deliverables.empty());
  m_update = button(tr("&Update it from this project"), [this] {
    if (say(m_store.save(chosen().toStdString(), m_document.project(), true))) refresh(chosen());
  });
  m_rename = button(tr("&Rename …"), [this] {
    bool accepted = false;
    const QString name =
        QInputDialog::getText(this, tr("Rename template"), tr("Name"), QLineEdit::Normal, chosen(), &accepted)
            .trimmed();
    if (accepted && say(m_store.rename(chosen().toStdString(), name.toStdString()))) refresh(name);
  });
  m_remove = button(tr("Re&move"), [this] {
    if (say(m_store.remove(chosen().toStdString()))) refresh();
  });
  m_default = button(tr("Start &new projects like this"), [this] {
    const bool was = m_store.defaultName() == chosen().toStdString();
    if (say(m_store.setDefault(was ? std::string() : chosen().toStdString()))) refresh(chosen());
  });
  m_default->setCheckable(true);
  auto* bring = button(tr("&Bring in from a file …"), [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("Bring in a template"), {},
                                                      tr("Templates and projects (*.tromb-template *.tromb)"));
    if (path.isEmpty()) return;
    const auto name = m_store.importFile(path.toStdString());
    if (say(name ? Status() : Status(tl::unexpected(name.error())))) refresh(QString::fromStdString(*name));
  });
  m_write = button(tr("&Write to a file …"), [this] {
    const QString path =
        QFileDialog::getSaveFileName(this, tr("Write the template to a file"),
                                     chosen() + QStringLiteral(".tromb-template"), tr("Templates (*.tromb-template)"));
    if (!path.isEmpty()) (void)say(m_store.exportFile(chosen().toStdString(), path.toStdString()));
  });
  for (QPushButton* each : {add, m_update, m_rename, m_remove, m_default, bring, m_write}) commands->addWidget(each);
  commands->addStretch();
  auto* close = button(tr("Close"), [this] { accept(); });
  commands->addWidget(close);
  columns->addLayout(commands);
  rows->addLayout(columns, 1);
  m_message->setWordWrap(true);
  m_message->setStyleSheet(QStringLiteral("color: %1").arg(Theme::current().broken.name()));
  rows->addWidget(m_message);
  connect(m_list, &QListWidget::currentRowChanged, this, &TemplateDialog::refreshChosen);
  resize(780, 420);
  refresh();
}

QString TemplateDialog::chosen() const {
  return m_list->currentItem() ? m_list->currentItem()->data(Qt::UserRole).toString() : QString();
}

bool TemplateDialog::say(const Status& done) {
  m_message->setText(done ? QString() : QString::fromStdString(sentence(done.error())));
  return done.has_value();
}

void TemplateDialog::saveNew() {
  bool accepted = false;
  const QString name = QInputDialog::getText(this, tr("Save as a template"), tr("Name of the template"),
                                             QLineEdit::Normal, m_document.title(), &accepted)
                           .trimmed();
  if (accepted && say(m_store.save(name.toStdString(), m_document.project(), false))) refresh(name);
}

void TemplateDialog::refresh(const QString& chosen) {
  m_list->clear();
  const std::string standard = m_store.defaultName();
  for (const SavedTemplate& each : m_store.all()) {
    const QString name = QString::fromStdString(each.name);
    auto* item = new QListWidgetItem(each.name == standard ? tr("%1  (new projects)").arg(name) : name, m_list);
    item->setData(Qt::UserRole, name);
    QStringList lines;
    for (const Deliverable& d : each.project.deliverables)
      lines << QString::fromStdString(d.name + "  " + sizeText(d.canvas) + " · " + d.rate.name());
    item->setData(Qt::UserRole + 1, lines.join(QLatin1Char('\n')));
    if (name == chosen) m_list->setCurrentItem(item);
  }
  if (m_list->currentRow() < 0 && m_list->count() > 0) m_list->setCurrentRow(0);
  refreshChosen();
}

void TemplateDialog::refreshChosen() {
  const QListWidgetItem* item = m_list->currentItem();
  m_contents->setText(item                   ? item->data(Qt::UserRole + 1).toString()
                      : m_list->count() == 0 ? tr("No template was saved yet.")
                                             : QString());
  for (QPushButton* each : {m_update, m_rename, m_remove, m_default, m_write}) each->setEnabled(item != nullptr);
  if (item && m_document.project().deliverables.empty()) m_update->setEnabled(false);
  m_default->setChecked(item && m_store.defaultName() == chosen().toStdString());
}

} // namespace tromb
