// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/StartPage.h"

#include "app/style/Folders.h"
#include "app/style/Icons.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "preflight/Preflight.h"

#include <QAction>
#include <QCryptographicHash>
#include <QDir>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr QSize kPicture(128, 72);
constexpr int kMostSets = 4;   ///< that were saved
constexpr int kMostLately = 5; ///< projects

QString pictureFile(const QString& path) {
  const QByteArray name =
      QCryptographicHash::hash(QFileInfo(path).absoluteFilePath().toUtf8(), QCryptographicHash::Sha1);
  return cacheFolder("projects") + QLatin1Char('/') + QString::fromLatin1(name.toHex()) + QStringLiteral(".png");
}

} // namespace

void keepProjectPicture(const QString& path, const QImage& picture) {
  if (path.isEmpty() || picture.isNull()) return;
  QDir().mkpath(cacheFolder("projects"));
  (void)picture.scaled(2 * kPicture, Qt::KeepAspectRatio, Qt::SmoothTransformation).save(pictureFile(path));
}

QImage projectPicture(const QString& path) {
  return QImage(pictureFile(path));
}

StartPage::StartPage(const Actions& actions, const PresetStore& presets, QWidget* parent)
    : QWidget(parent), m_presets(presets), m_head(new QLabel(tr("Drop wide footage here"), this)),
      m_ways(new QVBoxLayout) {
  setAccessibleName(tr("Empty project"));
  auto* rows = new QVBoxLayout(this);
  rows->addStretch(7);
  m_head->setProperty("rank", "title");
  m_head->setAlignment(Qt::AlignCenter);
  auto* text = new QLabel(tr("Every shot becomes a row. Every deliverable becomes a column.\nThe job is finished "
                             "when nothing is left to mend."),
                          this);
  text->setProperty("rank", "faint");
  text->setAlignment(Qt::AlignCenter);
  rows->addWidget(m_head);
  rows->addSpacing(4);
  rows->addWidget(text);
  rows->addSpacing(14);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch();
  for (const char* id : {"bring-in", "open"}) {
    QAction* action = actions.at(id);
    const bool main = buttons->count() == 1;
    auto* button = new QPushButton(Actions::plainText(action), this);
    button->setIcon(icon(QString::fromLatin1(Actions::rowOf(action).icon), main ? Ink::OnAccent : Ink::Text));
    button->setProperty("main", main);
    if (main) setFocusProxy(button);
    connect(button, &QPushButton::clicked, action, &QAction::trigger);
    buttons->addWidget(button);
  }
  buttons->addStretch();
  rows->addLayout(buttons);
  rows->addSpacing(18);
  rows->addLayout(m_ways);
  rows->addStretch(3);
}

void StartPage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void StartPage::refresh() {
  delete m_filled;
  m_filled = new QWidget(this);
  m_ways->addWidget(m_filled);
  auto* rows = new QVBoxLayout(m_filled);
  rows->setContentsMargins(0, 0, 0, 0);
  const auto line = [&](const QString& words) {
    auto* said = new QLabel(words, m_filled);
    said->setProperty("rank", "faint");
    said->setAlignment(Qt::AlignCenter);
    rows->addWidget(said);
    auto* row = new QHBoxLayout;
    row->addStretch();
    rows->addLayout(row);
    rows->addSpacing(10);
    return row;
  };
  QHBoxLayout* shapes = line(tr("or begin with shapes, and bring in footage later"));
  const auto shape = [&](const QString& name, const Project& project) {
    auto* button = new QPushButton(QString(name).replace(QLatin1Char('&'), QLatin1String("&&")), m_filled);
    button->setAutoDefault(true);
    button->setAccessibleName(tr("Begin with the set '%1'").arg(name));
    QStringList sizes;
    for (const Deliverable& d : project.deliverables)
      sizes << QString::fromStdString(d.name + " " + sizeText(d.canvas));
    button->setToolTip(sizes.join(QLatin1Char('\n')));
    connect(button, &QPushButton::clicked, this, [this, project] { emit startAsked(project); });
    shapes->addWidget(button);
  };
  for (const ProjectTemplate& each : destinationData()->templates)
    shape(QString::fromStdString(each.name), projectOf(each, Settings::habits()));
  std::vector<Preset> sets = m_presets.all();
  std::erase_if(sets, [](const Preset& each) { return each.kind != PresetKind::Set; });
  std::stable_sort(sets.begin(), sets.end(), [](const Preset& a, const Preset& b) { return a.starred > b.starred; });
  for (size_t i = 0; i < sets.size() && i < kMostSets; ++i)
    shape(QString::fromStdString(sets[i].name), sets[i].project);
  shapes->addStretch();

  QStringList lately;
  for (const QString& path : Settings::recentProjects())
    if (QFileInfo::exists(path) && lately.size() < kMostLately) lately << path;
  if (lately.isEmpty()) return;
  QHBoxLayout* projects = line(tr("or go on with what you did lately"));
  for (const QString& path : lately) {
    auto* button = new QToolButton(m_filled);
    QPixmap picture(kPicture);
    picture.fill(Theme::current().surround);
    if (const QImage kept = projectPicture(path); !kept.isNull()) {
      QPainter painter(&picture);
      const QImage fitted = kept.scaled(kPicture, Qt::KeepAspectRatio, Qt::SmoothTransformation);
      painter.drawImage((kPicture.width() - fitted.width()) / 2, (kPicture.height() - fitted.height()) / 2, fitted);
    }
    button->setIcon(picture);
    button->setIconSize(kPicture);
    button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    button->setFocusPolicy(Qt::StrongFocus);
    const QString name = QFileInfo(path).completeBaseName();
    button->setText(button->fontMetrics().elidedText(name, Qt::ElideRight, kPicture.width()));
    button->setAccessibleName(tr("Open the project '%1'").arg(name));
    button->setToolTip(QDir::toNativeSeparators(path));
    connect(button, &QToolButton::clicked, this, [this, path] { emit openAsked(path); });
    projects->addWidget(button);
  }
  projects->addStretch();
}

void StartPage::paintEvent(QPaintEvent*) {
  // Draws the idea of the program: one wide picture and the shapes in it.
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  constexpr double kGap = 24;
  const double h = std::min(190.0, m_head->y() - 2 * kGap);
  if (h < kGap) return;
  const QRectF wide((width() - h * 16 / 9) / 2, m_head->y() - kGap - h, h * 16 / 9, h);
  QColor fill = theme.raised;
  painter.setPen(QPen(theme.line, 1.5));
  painter.setBrush(fill);
  painter.drawRoundedRect(wide, 4, 4);
  painter.setBrush(Qt::NoBrush);
  const double centre = wide.left() + wide.width() * 0.58;
  const std::pair<double, double> shapes[] = {{9.0 / 16, 0.94}, {4.0 / 5, 0.86}, {1.0, 0.78}};
  for (const auto& [ratio, size] : shapes) {
    const double side = wide.height() * size;
    painter.setPen(QPen(theme.accent, ratio < 0.6 ? 2.2 : 1.2, ratio < 0.6 ? Qt::SolidLine : Qt::DashLine));
    painter.drawRoundedRect(QRectF(centre - side * ratio / 2, wide.center().y() - side / 2, side * ratio, side), 3, 3);
  }
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme.accent);
  painter.drawEllipse(QPointF(centre, wide.center().y()), 4, 4);
}

} // namespace tromb
