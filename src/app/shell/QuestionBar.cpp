// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/QuestionBar.h"

#include "app/sheet/CellDelegate.h"
#include "app/style/Icons.h"
#include "model/Translation.h"
#include "preflight/Filling.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QResizeEvent>
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
    return QuestionBar::tr("a face");
  case Of::Motion:
    return QuestionBar::tr("what moves");
  case Of::Detail:
    return QuestionBar::tr("what stands out");
  case Of::Two:
    return QuestionBar::tr("two that matter");
  case Of::Whole:
    return QuestionBar::tr("the whole picture");
  case Of::Middle:
    break;
  }
  return QuestionBar::tr("the middle");
}

/// Where the subjects of an alternative are, on the whole.
QPointF middleOf(const FramingService::Alternative& alternative) {
  QPointF sum;
  for (const Subject& each : alternative.framed.subjects)
    sum += QPointF(each.move.front().x, each.move.front().y) / double(alternative.framed.subjects.size());
  return sum;
}

/// What an alternative is; of several of one kind, which of them.
QString wordsOf(const std::vector<FramingService::Alternative>& all, size_t which) {
  const QString words = wordsOf(all[which].of);
  std::vector<double> across;
  std::vector<double> down;
  for (const auto& each : all) {
    if (each.of != all[which].of) continue;
    across.push_back(middleOf(each).x());
    down.push_back(middleOf(each).y());
  }
  std::sort(across.begin(), across.end());
  std::sort(down.begin(), down.end());
  const double wide = across.back() - across.front();
  const double high = down.back() - down.front();
  if (wide <= 0 && high <= 0) return words;
  const bool sideways = wide >= high;
  const double here = sideways ? middleOf(all[which]).x() : middleOf(all[which]).y();
  if (here <= (sideways ? across : down).front())
    return (sideways ? QuestionBar::tr("%1, further left") : QuestionBar::tr("%1, higher up")).arg(words);
  if (here >= (sideways ? across : down).back())
    return (sideways ? QuestionBar::tr("%1, further right") : QuestionBar::tr("%1, lower down")).arg(words);
  return QuestionBar::tr("%1, in between").arg(words);
}

} // namespace

QuestionBar::QuestionBar(Session& session, FramingService& framing, FillService& fills, PosterService& posters,
                         Actions& actions, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_framing(framing), m_fills(fills),
      m_posters(posters), m_words(new QLabel(this)),
      m_next(actions.button("next-question", Qt::ToolButtonTextOnly, this)), m_alike(new QToolButton(this)),
      m_close(new QToolButton(this)) {
  setObjectName(QStringLiteral("questionBar"));
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  setAccessibleName(tr("Framed by what was found"));
  setFocusPolicy(Qt::StrongFocus);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 6, 10, 6);
  row->setSpacing(10);
  m_words->setWordWrap(true);
  m_words->setMinimumWidth(fontMetrics().averageCharWidth() * 34);
  m_words->setMaximumWidth(fontMetrics().averageCharWidth() * 62);
  row->addWidget(m_words, 4);
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
    m_others.clear();
    m_told.clear();
    refresh(); // to the question, or away
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
  connect(m_close, &QToolButton::clicked, this, &QuestionBar::leave);
  // What changes at each step of a drag is asked about again when it rests.
  m_soon.setSingleShot(true);
  m_soon.setInterval(100);
  connect(&m_soon, &QTimer::timeout, this, &QuestionBar::refresh);
  connect(&framing, &FramingService::framed, this, &QuestionBar::tell);
  connect(&framing, &FramingService::corrected, this, &QuestionBar::offerFor);
  connect(&framing, &FramingService::looked, &m_soon, qOverload<>(&QTimer::start));
  connect(&fills, &FillService::changed, &m_soon, qOverload<>(&QTimer::start));
  connect(&posters, &PosterService::ready, &m_soon, qOverload<>(&QTimer::start));
  connect(&m_document, &Document::reset, this, &QuestionBar::leave);
  connect(&m_document, &Document::shotChanged, &m_soon, qOverload<>(&QTimer::start));
  connect(&m_document, &Document::shotsRemoved, &m_soon, qOverload<>(&QTimer::start));
  setVisible(false);
}

int QuestionBar::row() const {
  return placeOf(m_document.project().shots, m_asked.shot);
}

int QuestionBar::column() const {
  return placeOf(m_document.project().deliverables, m_asked.deliverable);
}

std::vector<QuestionBar::Question> QuestionBar::questions() const {
  const Project& project = m_document.project();
  std::vector<Question> all;
  for (const int row : m_framing.unsure()) all.push_back({project.shots[size_t(row)].id, {}});
  for (const int column : m_fills.columns()) all.push_back({{}, project.deliverables[size_t(column)].id});
  return all;
}

size_t QuestionBar::asked() const {
  const std::vector<Question> all = questions();
  return size_t(std::find(all.begin(), all.end(), m_asked) - all.begin());
}

void QuestionBar::tell(int shots, int unsure) {
  m_others.clear();
  const auto all = int(m_document.project().shots.size());
  m_told = unsure > 0
               ? tr("%1 of %n shots framed by what was found, %2 of them in doubt", nullptr, all).arg(shots).arg(unsure)
               : tr("%1 of %n shots framed by what was found", nullptr, all).arg(shots);
  setVisible(true);
  refresh();
}

/// What somebody has put right in one shot may be wrong in others of the same source or of the same person, too.
void QuestionBar::offerFor(int row, const std::vector<int>& others) {
  const auto& shots = m_document.project().shots;
  m_corrected = shots[size_t(row)].id;
  m_others.clear();
  for (const int each : others) m_others.push_back(shots[size_t(each)].id);
  const auto ofIts = std::count_if(others.begin(), others.end(),
                                   [&](int each) { return shots[size_t(each)].source == shots[size_t(row)].source; });
  const int count = int(others.size());
  m_told = ofIts == count ? tr("%n other shots of the same source are framed by a guess", nullptr, count)
           : ofIts == 0
               ? tr("%n other shots with the same face are framed by a guess", nullptr, count)
               : tr("%n other shots of the same source or with the same face are framed by a guess", nullptr, count);
  setVisible(true);
  refresh();
}

void QuestionBar::leave() {
  const bool had = hasFocus() || isAncestorOf(focusWidget());
  m_asked = {};
  m_told.clear();
  m_others.clear();
  setVisible(false);
  if (had && nextInFocusChain()) nextInFocusChain()->setFocus(Qt::OtherFocusReason);
}

void QuestionBar::stepOn() {
  const std::vector<Question> all = questions();
  m_others.clear();
  if (all.empty()) {
    m_asked = {};
    m_told = tr("Nothing is in doubt, and no picture falls short of its canvas");
    setVisible(true);
    return refresh();
  }
  const auto now = std::find(all.begin(), all.end(), m_asked);
  m_asked = now == all.end() || now + 1 == all.end() ? all.front() : *(now + 1);
  setVisible(true); // now that there is something to say
  refresh();
  if (parentWidget()->layout()) parentWidget()->layout()->activate(); // so that the cell stays in sight
  if (const int column = this->column(); column >= 0) {
    std::vector<CellPlace> cells;
    for (const int each : m_fills.rows(column)) cells.push_back({each, column});
    if (!cells.empty()) {
      m_session.selectCells(cells, cells.front());
      m_session.lookAt(cells.front().shot);
    }
  } else {
    const CellPlace at{row(), std::max(0, m_framing.narrowest(row()))};
    m_session.selectCells({at}, at);
    m_session.lookAt(at.shot);
  }
  setFocus(Qt::ShortcutFocusReason);
}

QPixmap QuestionBar::drawn(int row, const Deliverable& deliverable, const Shot& shot) const {
  const Source* source = m_document.project().source(shot.source);
  if (!source) return {};
  const Cell cell = cellOf(deliverable, shot, *source, m_document.media(shot.source));
  const double dense = devicePixelRatioF();
  // Three lie beside the words, also in a narrow window.
  const double beside = m_words->minimumWidth() + m_next->sizeHint().width() + m_close->sizeHint().width() + 60.0;
  const double most = std::clamp((width() - beside) / kChoices - 32, 48.0, 1.6 * kPictureHeight);
  const double scale = std::min(double(kPictureHeight) / cell.canvas.height, most / cell.shown.width);
  const QSizeF size(cell.shown.width * scale, cell.canvas.height * scale);
  QPixmap picture((size * dense).toSize());
  picture.setDevicePixelRatio(dense);
  picture.fill(Qt::black);
  QPainter painter(&picture);
  paintCanvas(painter, QRectF(QPointF(), size), cell, m_posters.poster(row));
  return picture;
}

void QuestionBar::setChoice(size_t which, const QPixmap& picture, const QString& text, const QString& tip) {
  QToolButton& choice = *m_choices[which];
  choice.setVisible(true);
  choice.setIcon(QIcon(picture));
  choice.setIconSize((QSizeF(picture.size()) / picture.devicePixelRatio()).toSize());
  choice.setText(tr("%1: %2", "key, what it is").arg(which + 1).arg(text));
  choice.setToolTip(tip);
}

void QuestionBar::showSubject(int row) {
  const auto all = m_framing.alternatives(row);
  if (all.empty()) m_framing.ask(m_asked.shot);
  const std::vector<int> rows = m_framing.unsure();
  const int narrow = m_framing.narrowest(row);
  for (size_t i = 0; i < std::min(all.size(), m_choices.size()) && narrow >= 0; ++i) {
    const FramedShot& framed = all[i].framed;
    Shot shot = m_document.project().shots[size_t(row)];
    Deliverable shown = m_document.project().deliverables[size_t(narrow)];
    shot.subjects = framed.subjects;
    if (const auto own = framed.framings.find(shown.id); own != framed.framings.end())
      shown.framings[shot.id] = own->second;
    else
      shown.framings.erase(shot.id);
    setChoice(i, drawn(row, shown, shot), wordsOf(all, i), {});
  }
  const QString name = QString::fromStdString(m_document.project().shots[size_t(row)].name).toHtmlEscaped();
  const QString which =
      tr("in doubt, %1 of %2").arg(std::find(rows.begin(), rows.end(), row) - rows.begin() + 1).arg(rows.size());
  m_words->setText(QStringLiteral("<b>%1</b> · %2<br>%3")
                       .arg(name, which,
                            all.empty()
                                ? tr("looking at it …")
                                : tr("What matters in it? Take one with its number, or place the subject yourself.")));
}

void QuestionBar::showFill(int column, const std::vector<int>& rows) {
  const std::vector<int> columns = m_fills.columns();
  const Deliverable& deliverable = m_document.project().deliverables[size_t(column)];
  const Shot& shot = m_document.project().shots[size_t(rows.front())];
  const std::vector<WayToFill> ways = m_fills.ways({rows.front(), column});
  const bool known = m_framing.knows(shot);
  if (!known) m_framing.ask(shot.id);
  m_ways.clear();
  for (size_t i = 0; known && i < ways.size() && m_ways.size() < m_choices.size(); ++i) {
    // It may always be let be.
    const bool last = m_ways.size() + 1 == m_choices.size();
    if (last && !ways[i].isNow &&
        std::none_of(m_ways.begin(), m_ways.end(), [](const WayToFill& way) { return way.isNow; }))
      continue;
    Deliverable shown = deliverable;
    shown.framings[shot.id] = ways[i].framing;
    QStringList losses;
    for (const Message& each : lossWords(ways[i].loss)) losses << said(each);
    setChoice(m_ways.size(), drawn(rows.front(), shown, shot),
              QStringLiteral("%1\n%2").arg(ways[i].isNow ? tr("let it be") : said(wayName(ways[i])), losses.first()),
              tr("Gives up: %1").arg(losses.join(QStringLiteral(", "))));
    m_ways.push_back(ways[i]);
  }
  m_words->setText(QStringLiteral("<b>%1</b> · %2<br>%3")
                       .arg(QString::fromStdString(deliverable.name).toHtmlEscaped(),
                            tr("%n cells fall short of the canvas, question %1 of %2", nullptr, int(rows.size()))
                                .arg(std::find(columns.begin(), columns.end(), column) - columns.begin() + 1)
                                .arg(columns.size()),
                            !known ? tr("looking at it …")
                            : m_ways.size() < 2
                                ? tr("No other way gives more detail. 1 lets them be as they are.")
                                : tr("The way that loses least is first. Take one for all of them with its number.")));
}

void QuestionBar::refresh() {
  if (!isVisibleTo(parentWidget())) return;
  const std::vector<Question> all = questions();
  const std::vector<int> rows = column() < 0 ? std::vector<int>() : m_fills.rows(column());
  const bool asking = std::find(all.begin(), all.end(), m_asked) != all.end() && (column() < 0 || !rows.empty());
  if (!asking) m_asked = {};
  for (QToolButton* each : m_choices) each->setVisible(false);
  if (asking && column() >= 0)
    showFill(column(), rows);
  else if (asking)
    showSubject(row());
  else
    m_words->setText(m_told);
  std::erase_if(m_others, [&](const std::string& id) { // somebody has placed them meanwhile
    const Shot* shot = m_document.project().shot(id);
    return !shot || !subjectIsOpen(*shot);
  });
  m_alike->setVisible(!m_others.empty());
  m_alike->setText(asking ? tr("Frame %n others like the last one", nullptr, int(m_others.size()))
                          : tr("Frame them so too"));
  m_next->setVisible(all.size() > (asking ? 1U : 0U));
  if (!asking && m_told.isEmpty()) leave();
}

void QuestionBar::take(size_t choice) {
  if (const int filled = column(); filled >= 0) return takeFill(filled, choice);
  const int at = row();
  if (at < 0) return;
  const size_t place = asked();
  m_framing.take(at, choice);
  goOn(place, tr("No shot is in doubt any more"));
}

void QuestionBar::takeFill(int column, size_t choice) {
  if (choice >= m_ways.size()) return;
  const WayToFill way = m_ways[choice];
  const size_t place = asked();
  const FillService::Taken taken = way.isNow ? m_fills.letBe(column) : m_fills.take(column, way.kind);
  goOn(place, tr("%1: %2 filled another way, %3 let be")
                  .arg(QString::fromStdString(m_document.project().deliverables[size_t(column)].name))
                  .arg(taken.filled)
                  .arg(taken.accepted));
}

/// To the question that comes after the one that was answered; where there is none, what was done last is told.
void QuestionBar::goOn(size_t answered, const QString& told) {
  const std::vector<Question> all = questions();
  m_asked = {};
  m_told = told;
  if (all.empty()) return refresh();
  // What was answered is none any more.
  if (answered > 0) m_asked = all[std::min(answered, all.size()) - 1];
  stepOn();
}

void QuestionBar::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  if (event->size().width() != event->oldSize().width()) refresh();
}

void QuestionBar::keyPressEvent(QKeyEvent* event) {
  const int choice = event->key() - Qt::Key_1;
  if ((row() >= 0 || column() >= 0) && choice >= 0 && choice < kChoices && event->modifiers() == Qt::NoModifier)
    return take(size_t(choice));
  if (event->key() == Qt::Key_Escape) return leave();
  QWidget::keyPressEvent(event);
}

} // namespace tromb
