// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/SettingsDialog.h"

#include "app/style/Settings.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>
#include <algorithm>
#include <cstdlib>
#include <functional>

namespace tromb {
namespace {

constexpr int kTypes[] = {100, 125, 150};
constexpr int kHeights[] = {0, 96, 132, 180, 240, 320}; ///< of the sheet's pictures; 0: as fits
constexpr int kPathWidth = 240;

} // namespace

SettingsDialog::SettingsDialog(LightService& lights, QWidget* parent) : QDialog(parent), m_lights(lights) {
  setWindowTitle(tr("Settings"));
  auto* rows = new QVBoxLayout(this);
  auto* columns = new QHBoxLayout;
  columns->setSpacing(28);
  rows->addLayout(columns);
  addLooks(*columns);
  addWork(*columns);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  rows->addSpacing(8);
  rows->addWidget(buttons);
}

/// Makes it as high as its words are, which go over several lines.
void SettingsDialog::fit() {
  layout()->activate();
  const int wide = std::max(width(), minimumSizeHint().width());
  setMinimumHeight(layout()->totalHeightForWidth(wide));
  resize(wide, minimumHeight());
}

void SettingsDialog::showEvent(QShowEvent* event) {
  QDialog::showEvent(event);
  fit();
}

void SettingsDialog::changeEvent(QEvent* event) {
  QDialog::changeEvent(event);
  if (event->type() == QEvent::FontChange && isVisible()) fit();
}

QFormLayout& SettingsDialog::addColumn(QHBoxLayout& columns, const QString& head) {
  auto* column = new QVBoxLayout;
  auto* title = new QLabel(head, this);
  title->setProperty("rank", "head");
  column->addWidget(title);
  auto* form = new QFormLayout;
  form->setHorizontalSpacing(16);
  form->setVerticalSpacing(9);
  column->addLayout(form);
  column->addStretch();
  columns.addLayout(column, 1);
  return *form;
}

void SettingsDialog::add(QFormLayout& form, const QString& label, QWidget* field, const QString& changes,
                         QLayout* line) {
  auto* both = new QVBoxLayout;
  both->setSpacing(1);
  if (line)
    both->addLayout(line);
  else
    both->addWidget(field);
  auto* words = new QLabel(changes, this);
  words->setProperty("rank", "faint");
  words->setWordWrap(true);
  both->addWidget(words);
  field->setAccessibleDescription(changes);
  form.addRow(label, both);
  if (auto* name = qobject_cast<QLabel*>(form.labelForField(both))) name->setBuddy(field);
}

/// How the program looks on this desk.
void SettingsDialog::addLooks(QHBoxLayout& columns) {
  QFormLayout& form = addColumn(columns, tr("How it looks here"));
  const auto told = [this] { emit changed(); };
  add(form, tr("&Theme"),
      choice(tr("Theme"), {tr("as the desktop"), tr("day"), tr("dusk")}, int(Settings::theme()),
             [](int at) {
               Settings::setTheme(ThemeChoice(at));
               Theme::apply(*qApp, ThemeChoice(at));
             }),
      tr("colours of the program; never of your pictures"));
  int type = 0;
  for (int i = 0; i < 3; ++i)
    if (kTypes[i] == Settings::typePercent()) type = i;
  add(form, tr("T&ype"),
      choice(tr("Type size"), {tr("as the desktop"), tr("larger"), tr("largest")}, type,
             [](int at) {
               Settings::setTypePercent(kTypes[at]);
               Theme::applyType(*qApp, kTypes[at]);
             }),
      tr("size of all words and numbers"));
  add(form, tr("&Running order"),
      choice(tr("Place of the running order"), {tr("below the views"), tr("above them")},
             Settings::orderAbove() ? 1 : 0,
             [told](int at) {
               Settings::setOrderAbove(at == 1);
               told();
             }),
      tr("where it stands in the window"));
  add(form, tr("&Pictures in it"),
      choice(tr("Pictures in the running order"),
             {tr("all along every shot"), tr("one at the beginning of every shot"), tr("none, for a slow machine")},
             int(Settings::stripPictures()),
             [told](int at) {
               Settings::setStripPictures(Settings::StripPictures(at));
               told();
             }),
      tr("fewer are sooner there"));
  QStringList heights{tr("as high as lets every cell be seen")};
  int height = 0;
  const int kept = Settings::left(QStringLiteral("sheetHeight"), 0).toInt();
  for (int i = 1; i < int(std::size(kHeights)); ++i) {
    heights << tr("%1 pixels high").arg(kHeights[i]);
    if (kept > 0 && (height == 0 || std::abs(kHeights[i] - kept) < std::abs(kHeights[height] - kept))) height = i;
  }
  add(form, tr("&Sheet's pictures"),
      choice(tr("Height of the sheet's pictures"), heights, height,
             [told](int at) {
               Settings::setLeft(QStringLiteral("sheetHeight"), kHeights[at]);
               told();
             }),
      tr("what a window begins with; the sheet's own slider changes it"));
  auto* offers = new QCheckBox(tr("&Offer deliverables"), this);
  offers->setChecked(Settings::offersDeliverables());
  connect(offers, &QCheckBox::toggled, this, [told](bool on) {
    Settings::setOffersDeliverables(on);
    told();
  });
  add(form, QString(), offers, tr("asks for shapes when footage is brought into an empty project"));
}

/// What new work has, and where it lies.
void SettingsDialog::addWork(QHBoxLayout& columns) {
  QFormLayout& form = addColumn(columns, tr("What new work has"));
  const auto told = [this] { emit changed(); };
  add(form, tr("&Usual rates"),
      choice(tr("Usual rates"),
             {tr("50 Hz: 25 and 50"), tr("60 Hz: 29.97 and 59.94"), tr("film: 24 and 23.976"), tr("web: 30 and 60")},
             int(Settings::rateFamily()),
             [told](int at) {
               Settings::setRateFamily(RateFamily(at));
               told();
             }),
      tr("offered first, and what a deliverable has before there is footage"));
  add(form, tr("Soun&d"),
      choice(tr("Sample rate of sound"), {tr("48 kHz"), tr("44.1 kHz")}, Settings::sampleRate() == 48'000 ? 0 : 1,
             [](int at) { Settings::setSampleRate(at == 0 ? 48'000 : 44'100); }),
      tr("of new deliverables, where their destination takes it"));
  auto* line = new QDoubleSpinBox(this);
  line->setRange(Settings::kLeastLine, Settings::kMostLine);
  line->setDecimals(1);
  line->setButtonSymbols(QAbstractSpinBox::NoButtons);
  line->setSuffix(tr(" Mb/s"));
  line->setValue(Settings::lineMegabits());
  line->setAccessibleName(tr("Speed of the line that files are sent over"));
  connect(line, &QDoubleSpinBox::valueChanged, this, [told](double megabits) {
    Settings::setLineMegabits(megabits);
    told();
  });
  add(form, tr("F&iles are sent at"), line, tr("how long the spec says that sending a file takes"));
  add(form, tr("&Footage lies in"),
      folder(tr("Folder that footage is brought in from"), Settings::footageFolder(), &Settings::setFootageFolder),
      tr("where bringing in begins to look"));
  add(form, tr("&Exports go to"),
      folder(tr("Folder that exports go to"), Settings::exportFolder(), &Settings::setExportFolder),
      tr("those of projects that are not saved; others go into a folder beside the project"));

  auto* limit = new QSpinBox(this);
  limit->setRange(1, 10'000);
  limit->setButtonSymbols(QAbstractSpinBox::NoButtons);
  limit->setSuffix(tr(" GB"));
  limit->setValue(Settings::lighterCopiesGigabytes());
  limit->setAccessibleName(tr("Most that lighter copies may take"));
  connect(limit, &QSpinBox::valueChanged, this, [this](int gigabytes) {
    Settings::setLighterCopiesGigabytes(gigabytes);
    m_lights.copies().setLimit(Settings::lighterCopiesBytes());
    refreshCopies();
  });
  auto* remove = new QPushButton(tr("Remove them &all"), this);
  remove->setAutoDefault(false); // Return removes nothing
  remove->setToolTip(tr("They are made again when they are wanted"));
  connect(remove, &QPushButton::clicked, this, [this] {
    m_lights.cancel();
    m_lights.copies().empty();
    refreshCopies();
  });
  auto* copies = new QHBoxLayout;
  m_copies = new QLabel(this);
  m_copies->setObjectName(QStringLiteral("lighterCopies"));
  m_copies->setProperty("rank", "faint");
  copies->addWidget(limit);
  copies->addSpacing(8);
  copies->addWidget(m_copies, 1);
  copies->addWidget(remove);
  add(form, tr("&Lighter copies, at most"), limit,
      tr("smaller copies of heavy sources, for looking through them; exports never use them"), copies);
  refreshCopies();
}

QPushButton* SettingsDialog::folder(const QString& name, const QString& now, void (*take)(const QString&)) {
  auto* button = new QPushButton(this);
  button->setAutoDefault(false);
  const auto show = [button, name](const QString& path) {
    button->setText(path.isEmpty() ? tr("none chosen yet …")
                                   : button->fontMetrics().elidedText(path, Qt::ElideMiddle, kPathWidth));
    button->setAccessibleName(path.isEmpty() ? name : QStringLiteral("%1: %2").arg(name, path));
  };
  show(now);
  connect(button, &QPushButton::clicked, this, [this, name, now, take, show] {
    const QString path = QFileDialog::getExistingDirectory(this, name, now);
    if (path.isEmpty()) return;
    take(path);
    show(path);
  });
  return button;
}

QComboBox* SettingsDialog::choice(const QString& name, const QStringList& entries, int now,
                                  const std::function<void(int)>& chosen) {
  auto* box = new QComboBox(this);
  box->addItems(entries);
  box->setCurrentIndex(now);
  box->setAccessibleName(name);
  box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon); // long entries make no wide dialog
  box->setMinimumContentsLength(22);
  connect(box, &QComboBox::activated, this, chosen);
  return box;
}

void SettingsDialog::refreshCopies() {
  m_copies->setText(tr("%1 used").arg(QString::fromStdString(bytesText(m_lights.copies().totalBytes()))));
}

} // namespace tromb
