// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/FoundBar.h"

#include "app/sheet/CellDelegate.h"
#include "app/style/Icons.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QToolButton>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kChoices = 3;
constexpr int kPictureHeight = 112;

QString wordsOf(FramingService::Alternative::Of of) {
  using Of = FramingService::Alternative::Of;
  switch (of) {
  case Of::Face:
    return FoundBar::tr("a face");
  case Of::Motion:
    return FoundBar::tr("what moves");
  case Of::Detail:
    return FoundBar::tr("what stands out");
  case Of::Two:
    return FoundBar::tr("two that matter");
  case Of::Whole:
    return FoundBar::tr("the whole picture");
  case Of::Middle:
    break;
  }
  return FoundBar::tr("the middle");
}

} // namespace

FoundBar::FoundBar(Session& session, FramingService& framing, PosterService& posters, Actions& actions, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_framing(framing), m_posters(posters),
      m_words(new QLabel(this)), m_next(actions.button("next-in-doubt", Qt::ToolButtonTextOnly, this)),
      m_alike(new QToolButton(this)), m_close(new QToolButton(this)) {
  setObjectName(QStringLiteral("foundBar"));
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  setAccessibleName(tr("Framed by what was found"));
  setFocusPolicy(Qt::StrongFocus);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 6, 10, 6);
  row->setSpacing(10);
  m_words->setMinimumWidth(360);
  row->addWidget(m_words);
  for (int i = 0; i < kChoices; ++i) {
    auto* choice = new QToolButton(this);
    choice->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    choice->setFocusPolicy(Qt::TabFocus);
    choice->setObjectName(QStringLiteral("alternative%1").arg(i + 1));
    connect(choice, &QToolButton::clicked, this, [this, i] { take(size_t(i)); });
    m_choices.push_back(choice);
    row->addWidget(choice);
  }
  row->addStretch(1);
  m_alike->setText(tr("Frame them so too"));
  m_alike->setObjectName(QStringLiteral("frameAlike"));
  m_alike->setFocusPolicy(Qt::TabFocus);
  connect(m_alike, &QToolButton::clicked, this, [this] {
    const auto& shots = m_document.project().shots;
    std::vector<int> rows;
    for (const std::string& id : m_others)
      if (const int other = placeOf(shots, id); other >= 0 && subjectIsOpen(shots[size_t(other)]))
        rows.push_back(other);
    const int from = placeOf(shots, m_corrected);
    leave();
    if (from >= 0 && !rows.empty()) m_framing.carry(from, rows);
  });
  row->addWidget(m_alike);
  row->addWidget(m_next);
  m_close->setIcon(icon(QStringLiteral("x")));
  m_close->setAccessibleName(tr("Close"));
  m_close->setToolTip(tr("Close; what is in doubt stays marked"));
  m_close->setAutoRaise(true);
  m_close->setFocusPolicy(Qt::TabFocus);
  row->addWidget(m_close);
  connect(m_close, &QToolButton::clicked, this, &FoundBar::leave);
  connect(&framing, &FramingService::framed, this, &FoundBar::tell);
  connect(&framing, &FramingService::corrected, this, &FoundBar::offerFor);
  connect(&framing, &FramingService::looked, this, &FoundBar::refresh);
  connect(&posters, &PosterService::ready, this, &FoundBar::refresh);
  connect(&m_document, &Document::reset, this, &FoundBar::leave);
  connect(&m_document, &Document::shotChanged, this, &FoundBar::refresh);
  connect(&m_document, &Document::shotsRemoved, this, &FoundBar::refresh);
  setVisible(false);
}

int FoundBar::row() const {
  return placeOf(m_document.project().shots, m_asked);
}

void FoundBar::tell(int shots, int unsure) {
  m_others.clear();
  const auto all = int(m_document.project().shots.size());
  m_told = unsure > 0
               ? tr("%1 of %n shots framed by what was found, %2 of them in doubt", nullptr, all).arg(shots).arg(unsure)
               : tr("%1 of %n shots framed by what was found", nullptr, all).arg(shots);
  setVisible(true);
  refresh();
}

/// What somebody has put right in one shot may be wrong in others of the same source, too.
void FoundBar::offerFor(int row, const std::vector<int>& others) {
  if (!m_asked.empty()) return;
  const auto& shots = m_document.project().shots;
  m_corrected = shots[size_t(row)].id;
  m_others.clear();
  for (const int each : others) m_others.push_back(shots[size_t(each)].id);
  m_told = tr("%n other shots of the same source are framed by a guess", nullptr, int(others.size()));
  setVisible(true);
  refresh();
}

void FoundBar::leave() {
  const bool had = hasFocus() || isAncestorOf(focusWidget());
  m_asked.clear();
  m_told.clear();
  m_others.clear();
  setVisible(false);
  if (had && nextInFocusChain()) nextInFocusChain()->setFocus(Qt::OtherFocusReason);
}

void FoundBar::stepOn() {
  const std::vector<int> rows = m_framing.unsure();
  if (rows.empty()) {
    m_asked.clear();
    m_told = tr("No shot is in doubt");
    setVisible(true);
    refresh();
    return;
  }
  const auto next = std::find_if(rows.begin(), rows.end(), [now = row()](int each) { return each > now; });
  m_others.clear();
  const int to = next == rows.end() ? rows.front() : *next;
  m_asked = m_document.project().shots[size_t(to)].id;
  setVisible(true);
  refresh();
  if (parentWidget()->layout()) parentWidget()->layout()->activate(); // so that the cell stays in sight
  const CellPlace at{to, std::max(0, m_framing.narrowest(to))};
  m_session.selectCells({at}, at);
  m_session.lookAt(to);
  setFocus(Qt::ShortcutFocusReason);
}

QPixmap FoundBar::drawn(int row, const FramedShot& framed) const {
  const Project& project = m_document.project();
  const int column = m_framing.narrowest(row);
  Shot shot = project.shots[size_t(row)];
  const Source* source = project.source(shot.source);
  if (column < 0 || !source) return {};
  Deliverable shown = project.deliverables[size_t(column)];
  shot.subjects = framed.subjects;
  if (const auto own = framed.framings.find(shown.id); own != framed.framings.end())
    shown.framings[shot.id] = own->second;
  else
    shown.framings.erase(shot.id);
  const Cell cell = cellOf(shown, shot, *source, m_document.media(shot.source));
  const double dense = devicePixelRatioF();
  const double scale = std::min(double(kPictureHeight) / cell.canvas.height, 1.6 * kPictureHeight / cell.canvas.width);
  const QSizeF size(cell.canvas.width * scale, cell.canvas.height * scale);
  QPixmap picture((size * dense).toSize());
  picture.setDevicePixelRatio(dense);
  picture.fill(Qt::black);
  QPainter painter(&picture);
  paintCanvas(painter, QRectF(QPointF(), size), cell, m_posters.poster(row));
  return picture;
}

void FoundBar::refresh() {
  if (!isVisibleTo(parentWidget())) return;
  const int at = row();
  const std::vector<int> rows = m_framing.unsure();
  const auto place = std::find(rows.begin(), rows.end(), at);
  const bool asking = at >= 0 && place != rows.end();
  if (!asking) m_asked.clear();
  const auto all = asking ? m_framing.alternatives(at) : std::vector<FramingService::Alternative>();
  if (asking && all.empty()) m_framing.ask(m_asked);
  for (size_t i = 0; i < m_choices.size(); ++i) {
    m_choices[i]->setVisible(i < all.size());
    if (i >= all.size()) continue;
    const QPixmap picture = drawn(at, all[i].framed);
    m_choices[i]->setIcon(QIcon(picture));
    m_choices[i]->setIconSize((QSizeF(picture.size()) / picture.devicePixelRatio()).toSize());
    m_choices[i]->setText(tr("%1: %2", "key, what it is").arg(i + 1).arg(wordsOf(all[i].of)));
  }
  if (asking) {
    const QString name = QString::fromStdString(m_document.project().shots[size_t(at)].name).toHtmlEscaped();
    const QString which = tr("in doubt, %1 of %2").arg(place - rows.begin() + 1).arg(rows.size());
    m_words->setText(
        QStringLiteral("<b>%1</b> · %2<br>%3")
            .arg(name, which,
                 all.empty() ? tr("looking at it …")
                             : tr("What matters in it? Take one with its number, or place the subject yourself.")));
  } else {
    m_words->setText(m_told);
  }
  m_alike->setVisible(!asking && !m_others.empty());
  m_next->setVisible(rows.size() > (asking ? 1U : 0U));
  if (!asking && m_told.isEmpty()) leave();
}

void FoundBar::take(size_t alternative) {
  const int at = row();
  if (at < 0) return;
  m_framing.take(at, alternative);
  const std::vector<int> rows = m_framing.unsure();
  if (rows.empty()) m_told = tr("No shot is in doubt any more");
  if (rows.empty())
    refresh();
  else
    stepOn();
}

void FoundBar::keyPressEvent(QKeyEvent* event) {
  const int choice = event->key() - Qt::Key_1;
  if (row() >= 0 && choice >= 0 && choice < kChoices && event->modifiers() == Qt::NoModifier)
    return take(size_t(choice));
  if (event->key() == Qt::Key_Escape) return leave();
  QWidget::keyPressEvent(event);
}

} // namespace tromb
