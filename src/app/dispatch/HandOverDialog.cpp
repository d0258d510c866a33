// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/HandOverDialog.h"

#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "app/style/WrappedLabel.h"
#include "encoding/Encoding.h"
#include "io/FreeSpace.h"
#include "model/Translation.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QRadioButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {

HandOverDialog::HandOverDialog(HandOverService& service, const QString& path, const QStringList& others,
                               const std::string& project, QWidget* parent)
    : QDialog(parent), m_service(service), m_path(path), m_project(project) {
  setObjectName(QStringLiteral("handOver"));
  setWindowTitle(tr("Hand over"));
  auto* rows = new QVBoxLayout(this);
  rows->setSpacing(10);
  auto* head = new QLabel(
      tr("%1, %2").arg(QFileInfo(path).fileName(), QString::fromStdString(bytesText(QFileInfo(path).size()))), this);
  head->setProperty("rank", "head");
  rows->addWidget(head);
  rows->addWidget(buildPlaces());
  m_progress = new QProgressBar(this);
  m_progress->setAccessibleName(tr("How far it is"));
  m_progress->setRange(0, 1000);
  m_progress->setTextVisible(false);
  m_progress->setVisible(false);
  rows->addWidget(m_progress);
  m_said = wrappedLabel(this);
  m_said->setObjectName(QStringLiteral("handOverSaid"));
  m_said->setVisible(false);
  rows->addWidget(m_said);
  m_renditions = new QTreeWidget(this);
  m_renditions->setObjectName(QStringLiteral("renditions"));
  m_renditions->setAccessibleName(tr("What viewers will see"));
  m_renditions->setHeaderLabels({tr("Viewers see"), tr("size"), tr("bit rate"), tr("SSIM"), tr("PSNR"), tr("made of")});
  m_renditions->setRootIsDecorated(false);
  m_renditions->setVisible(false);
  m_renditions->header()->setSectionResizeMode(QHeaderView::Stretch);
  rows->addWidget(m_renditions, 1);
  rows->addStretch(0);
  auto* buttons = new QHBoxLayout;
  m_compare = new QPushButton(tr("&Compare with what was sent"), this);
  m_compare->setVisible(false);
  m_begin = new QPushButton(this);
  m_begin->setObjectName(QStringLiteral("handOverBegin"));
  m_begin->setDefault(true);
  auto* close = new QPushButton(tr("Close"), this);
  for (QPushButton* each : {m_compare, close}) each->setAutoDefault(false);
  buttons->addStretch(1);
  for (QPushButton* each : {m_compare, m_begin, close}) buttons->addWidget(each);
  rows->addLayout(buttons);
  connect(m_begin, &QPushButton::clicked, this, [this] {
    if (m_service.busy())
      m_service.stop();
    else
      begin();
  });
  connect(m_compare, &QPushButton::clicked, this, [this] {
    if (const auto* chosen = m_renditions->currentItem()) {
      emit compareWanted(chosen->data(0, Qt::UserRole).toString());
      accept();
    }
  });
  connect(close, &QPushButton::clicked, this, &HandOverDialog::reject);
  connect(&service, &HandOverService::progress, this, &HandOverDialog::showProgress);
  connect(&service, &HandOverService::handed, this, &HandOverDialog::showHanded);
  connect(&service, &HandOverService::failed, this, [this](const Error& error) {
    m_progress->setVisible(false);
    say(error.code == ErrorCode::Cancelled ? tr("Stopped: what has arrived is not sent twice") : said(error),
        error.code != ErrorCode::Cancelled);
    refresh();
  });
  connect(&service, &HandOverService::over, this, &HandOverDialog::refresh);
  m_beside->addItem(tr("no other file"));
  for (const QString& other : others)
    if (other != path) m_beside->addItem(QFileInfo(other).fileName(), other);
  for (QWidget* each : m_besideRow) each->setVisible(m_beside->count() > 1);
  m_folder->setText(Settings::handOverFolder());
  m_address->setText(Settings::serviceAddress());
  m_toFolder->setChecked(m_address->text().isEmpty() || !m_folder->text().isEmpty());
  m_toService->setChecked(!m_toFolder->isChecked());
  resize(QSize(620, 300).expandedTo(sizeHint()));
  refresh();
}

QWidget* HandOverDialog::buildPlaces() {
  auto* places = new QWidget(this);
  auto* grid = new QGridLayout(places);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(10);
  m_toFolder = new QRadioButton(tr("To a &folder, of a stick, a card or a phone"), places);
  m_folder = new QLineEdit(places);
  m_folder->setAccessibleName(tr("The folder"));
  auto* choose = new QPushButton(tr("C&hoose …"), places);
  choose->setAutoDefault(false);
  m_room = new QLabel(places);
  m_room->setProperty("rank", "faint");
  m_toService = new QRadioButton(tr("To a publishing &service on this machine, to see what it makes of it"), places);
  m_address = new QLineEdit(places);
  m_address->setPlaceholderText(QStringLiteral("http://127.0.0.1:8080"));
  m_token = new QLineEdit(places);
  m_token->setEchoMode(QLineEdit::Password);
  auto* address = new QLabel(tr("&Address"), places);
  address->setBuddy(m_address);
  auto* token = new QLabel(tr("&Token"), places);
  token->setBuddy(m_token);
  grid->addWidget(m_toFolder, 0, 0, 1, 3);
  grid->addWidget(m_folder, 1, 1);
  grid->addWidget(choose, 1, 2);
  grid->addWidget(m_room, 2, 1, 1, 2);
  grid->addWidget(m_toService, 3, 0, 1, 3);
  for (QLabel* each : {address, token}) each->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  grid->addWidget(address, 4, 0);
  grid->addWidget(m_address, 4, 1, 1, 2);
  grid->addWidget(token, 5, 0);
  grid->addWidget(m_token, 5, 1, 1, 2);
  m_beside = new QComboBox(places);
  m_beside->setObjectName(QStringLiteral("handOverBeside"));
  m_beside->setToolTip(
      tr("Another finished file is sent as well, and what viewers get of both is held against this one"));
  m_beside->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  m_beside->setMinimumContentsLength(20);
  auto* beside = new QLabel(tr("&With it"), places);
  beside->setBuddy(m_beside);
  beside->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  m_besideRow = {beside, m_beside};
  grid->addWidget(beside, 6, 0);
  grid->addWidget(m_beside, 6, 1, 1, 2);
  grid->setColumnMinimumWidth(0, 70);
  grid->setColumnStretch(1, 1);
  connect(choose, &QPushButton::clicked, this, [this] {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("Hand it over into"), m_folder->text());
    if (folder.isEmpty()) return;
    m_folder->setText(folder);
    m_toFolder->setChecked(true);
  });
  connect(m_folder, &QLineEdit::textChanged, this, &HandOverDialog::refresh);
  connect(m_address, &QLineEdit::textChanged, this, &HandOverDialog::refresh);
  connect(m_token, &QLineEdit::textChanged, this, &HandOverDialog::refresh);
  connect(m_toFolder, &QRadioButton::toggled, this, &HandOverDialog::refresh);
  return places;
}

void HandOverDialog::refresh() {
  const bool busy = m_service.busy();
  const bool folder = m_toFolder->isChecked();
  for (QWidget* each : std::initializer_list<QWidget*>{m_toFolder, m_toService}) each->setEnabled(!busy);
  m_folder->setEnabled(!busy && folder);
  for (QWidget* each : std::initializer_list<QWidget*>{m_address, m_token, m_beside})
    each->setEnabled(!busy && !folder);
  const bool ready = folder ? !m_folder->text().isEmpty() : !m_address->text().isEmpty() && !m_token->text().isEmpty();
  m_begin->setEnabled(busy || ready);
  m_begin->setText(busy ? tr("&Stop") : tr("&Hand it over"));
  const int64_t missing = QFileInfo(m_path).size() - freeBytes(m_folder->text().toStdString()).value_or(0);
  const bool there = QFileInfo(m_folder->text()).isDir();
  const auto bytes = [](int64_t count) { return QString::fromStdString(bytesText(count)); };
  m_room->setText(m_folder->text().isEmpty() ? QString()
                  : !there                   ? tr("There is no such folder just now")
                  : missing > 0              ? tr("%1 are missing there").arg(bytes(missing))
                                             : tr("%1 are free there").arg(bytes(QFileInfo(m_path).size() - missing)));
  colourWords(m_room, there && missing > 0 ? Theme::current().broken : Theme::current().faint);
}

void HandOverDialog::say(const QString& words, bool amiss) {
  m_said->setText(words);
  m_said->setVisible(!words.isEmpty());
  colourWords(m_said, amiss ? Theme::current().broken : Theme::current().ink);
}

void HandOverDialog::begin() {
  m_renditions->setVisible(false);
  m_compare->setVisible(false);
  say({}, false);
  m_progress->setValue(0);
  m_progress->setVisible(true);
  const std::string path = m_path.toStdString();
  if (m_toFolder->isChecked()) {
    Settings::setHandOverFolder(m_folder->text());
    m_service.toFolder(path, m_folder->text().toStdString(), m_project);
  } else {
    Settings::setServiceAddress(m_address->text());
    std::vector<std::string> paths{path};
    if (const QString other = m_beside->currentData().toString(); !other.isEmpty())
      paths.push_back(other.toStdString());
    m_service.toService(paths, m_address->text().trimmed().toStdString(), m_token->text().trimmed().toStdString(),
                        m_project);
  }
  refresh();
}

void HandOverDialog::showProgress(HandOverService::Stage stage, double fraction) {
  m_progress->setValue(int(1000 * fraction));
  switch (stage) {
  case HandOverService::Stage::Sending:
    return say(tr("It is being sent"), false);
  case HandOverService::Stage::Checking:
    return say(tr("It is being read back, byte for byte"), false);
  case HandOverService::Stage::Compressing:
    return say(tr("The service compresses it for its viewers"), false);
  case HandOverService::Stage::Fetching:
    return say(tr("What viewers will see is being fetched"), false);
  case HandOverService::Stage::Measuring:
    return say(tr("What it has lost is being measured"), false);
  }
}

void HandOverDialog::showHanded(const HandedFile& file, const std::vector<SeenRendition>& renditions) {
  m_progress->setVisible(false);
  QString words = file.wasThere ? tr("It was there already, as it is here") : tr("It arrived as it was sent");
  if (m_toFolder->isChecked()) words += QStringLiteral(": ") + QString::fromStdString(file.path);
  if (file.freeBytes) words += tr("\n%1 are left there").arg(QString::fromStdString(bytesText(*file.freeBytes)));
  words += tr("\nSHA-256 %1").arg(QString::fromStdString(file.digest));
  say(words, false);
  m_renditions->clear();
  for (const SeenRendition& each : renditions) {
    const Rendition& r = each.rendition;
    auto* item = new QTreeWidgetItem(
        m_renditions, {tr("%1×%2").arg(r.canvas.width).arg(r.canvas.height), QString::fromStdString(bytesText(r.bytes)),
                       QString::fromStdString(bitRateText(r.bitRate)), QString::number(each.ssim, 'f', 4),
                       tr("%1 dB").arg(each.psnr, 0, 'f', 1), QFileInfo(QString::fromStdString(each.of)).fileName()});
    item->setData(0, Qt::UserRole, QString::fromStdString(r.path));
  }
  const bool several = std::any_of(renditions.begin(), renditions.end(),
                                   [&](const SeenRendition& each) { return each.of != renditions.front().of; });
  m_renditions->setColumnHidden(5, !several);
  if (several) m_renditions->sortItems(0, Qt::AscendingOrder); // each size of both together
  if (!renditions.empty()) m_renditions->setCurrentItem(m_renditions->topLevelItem(0));
  m_renditions->setVisible(!renditions.empty());
  m_compare->setVisible(!renditions.empty());
  refresh();
  if (!renditions.empty()) { // with room for all that services usually make, in any size of type
    m_renditions->setMinimumHeight(fontMetrics().height() * 9);
    resize(size().expandedTo(sizeHint()));
  }
  emit handed();
}

void HandOverDialog::reject() {
  if (m_service.busy()) m_service.stop();
  QDialog::reject();
}

} // namespace tromb
