// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/ConsequencePanel.h"

#include "app/style/ElidedLabel.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "model/Translation.h"
#include "project/Sharing.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kMostName = 180; ///< pixels of a name on a button

/// A few words that no line ends within, nor in "H.264" or "Mb/s".
QString keptTogether(QString words) {
  constexpr int kFew = 44; // letters, that fit on a line of their own at every size of type
  if (words.size() > kFew) return words;
  words.replace(QLatin1Char(' '), QChar::Nbsp);
  for (const char sign : {'.', '/'})
    words.replace(QLatin1Char(sign), QLatin1Char(sign) + QStringLiteral("\u2060")); // a word joiner
  return words;
}

} // namespace

ConsequencePanel::ConsequencePanel(Spec& spec, SampleService& samples, QWidget* parent)
    : QWidget(parent), m_spec(spec), m_head(new ElidedLabel(this)), m_compare(new QToolButton(this)),
      m_drawing(new CanvasDrawing(this)), m_sample(new SamplePanel(spec, samples, this)), m_held(new QLabel(this)) {
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  setAccessibleName(tr("Consequences"));
  // It scrolls only where type is large or the window low.
  auto* whole = new QVBoxLayout(this);
  whole->setContentsMargins(0, 0, 0, 0);
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setAccessibleName(accessibleName());
  whole->addWidget(scroll);
  m_inside = new QWidget;
  scroll->setWidget(m_inside);
  auto* rows = new QVBoxLayout(m_inside);
  rows->setContentsMargins(16, 10, 14, 10);
  rows->setSpacing(8);
  m_head->setProperty("rank", "title");
  m_compare->setCheckable(true);
  m_compare->setToolTip(
      tr("Line by line beside the other one that is chosen, beside its normal version, or beside what the destination "
         "recommends"));
  connect(m_compare, &QToolButton::toggled, this, &ConsequencePanel::refresh);
  auto* top = new QHBoxLayout;
  top->addWidget(m_head, 1);
  top->addWidget(m_compare);
  rows->addLayout(top);
  const auto list = [this](SpecTopic topic, const QString& head) {
    auto* box = new QWidget(this);
    box->setAccessibleName(head);
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(1);
    Part& made = part(topic);
    made.head = new QLabel(head, box);
    made.head->setProperty("rank", "head");
    column->addWidget(made.head);
    made.list = new QVBoxLayout;
    made.list->setSpacing(2);
    column->addLayout(made.list);
    return box;
  };
  auto* footage = new QBoxLayout(QBoxLayout::LeftToRight);
  m_footage = footage;
  footage->setSpacing(12);
  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area->setAccessibleName(tr("Consequences for each source"));
  area->setMaximumHeight(CanvasDrawing::kMostHeight);
  auto* sources = list(SpecTopic::Source, tr("Your footage in it"));
  static_cast<QVBoxLayout*>(sources->layout())->addStretch();
  area->setWidget(sources);
  footage->addWidget(m_drawing, 2); // both are at most as high, so that room that is left stays at the foot
  footage->addWidget(area, 4);
  rows->addLayout(footage, 1);
  rows->addWidget(list(SpecTopic::Playing, tr("To play it")));
  rows->addWidget(list(SpecTopic::Size, tr("To send it")));
  rows->addWidget(m_sample);
  auto* to = list(SpecTopic::Destination, {});
  m_held->setWordWrap(true);
  to->layout()->addWidget(m_held);
  rows->addWidget(to);
  rows->addStretch(0);
}

SpecLineRow* ConsequencePanel::row(const std::string& code) const {
  for (const Part& each : m_parts)
    for (SpecLineRow* row : each.rows)
      if (!row->isHidden() && row->line().code == code) return row;
  return nullptr;
}

/// Where there is little room for its type, the drawing stands above the list of sources.
void ConsequencePanel::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  constexpr int kLetters = 78;
  const bool narrow = width() < kLetters * fontMetrics().averageCharWidth();
  m_footage->setDirection(narrow ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
}

void ConsequencePanel::show(Part& part, const std::vector<SpecLine>& lines, const std::vector<SpecLine>& beside) {
  while (part.rows.size() < lines.size()) {
    auto* row = new SpecLineRow(part.head->parentWidget());
    part.list->addWidget(row);
    part.rows.push_back(row);
    connect(row, &SpecLineRow::fixAsked, this, [this, row](int fix) { this->fix(*row, fix); });
  }
  for (size_t i = 0; i < part.rows.size(); ++i) {
    if (i < lines.size()) {
      const auto same = std::find_if(beside.begin(), beside.end(), [&](const SpecLine& each) {
        return each.code == lines[i].code && each.what == lines[i].what;
      });
      part.rows[i]->show(lines[i], beside.empty()         ? QString()
                                   : same == beside.end() ? QStringLiteral("–")
                                                          : said(same->value));
    }
    part.rows[i]->setVisible(i < lines.size());
  }
}

std::optional<Deliverable> ConsequencePanel::other() const {
  const auto& all = m_spec.document().project().deliverables;
  const std::vector<int> chosen = m_spec.columns();
  const int now = m_spec.session().current().deliverable;
  if (chosen.size() > 1) return all[size_t(chosen[0] == now ? chosen[1] : chosen[0])];
  if (!framesItself(all[size_t(now)])) return *m_spec.document().project().deliverable(all[size_t(now)].sharesWith);
  const auto to = destination(all[size_t(now)].destination);
  if (!to) return {};
  Deliverable wanted = all[size_t(now)];
  wanted.name = to->name;
  wanted.rate = matchedRate(to->id, wanted.rate);
  recommend(wanted, *to);
  return wanted;
}

void ConsequencePanel::fix(const SpecLineRow& row, int fix) {
  const SpecLine line = row.line(); // the row will show another
  const QString text = tr("%1: %2").arg(said(line.what), said(line.fixes[size_t(fix)].words));
  m_spec.change(text, line.fixes[size_t(fix)].change);
}

void ConsequencePanel::refresh() {
  const Deliverable* d = m_spec.current();
  m_inside->setVisible(d != nullptr);
  if (!d) return;
  const int column = m_spec.session().current().deliverable;
  const size_t chosen = m_spec.columns().size();
  m_head->setText(chosen > 1
                      ? tr("%1, the first of %n chosen", nullptr, int(chosen)).arg(QString::fromStdString(d->name))
                      : QString::fromStdString(d->name));
  const auto with = other();
  m_compare->setEnabled(with.has_value());
  m_compare->setText(
      with ? tr("Compare with '%1'")
                 .arg(fontMetrics().elidedText(QString::fromStdString(with->name), Qt::ElideRight, kMostName))
           : tr("Compare"));
  std::vector<SpecLine> beside;
  if (with && m_compare->isChecked())
    beside = specLines(m_spec.document().project(), m_spec.document().footage(), *with, m_spec.grounds());
  m_drawing->show(*d, sourcesIn(m_spec.document().project(), m_spec.document().footage(), *d));
  m_sample->refresh();
  std::array<std::vector<SpecLine>, 4> byTopic;
  QStringList held;
  for (const SpecLine& line : m_spec.lines(column)) {
    const bool holds = line.standing == Standing::Met || line.standing == Standing::Told;
    if (line.topic == SpecTopic::Destination && holds && beside.empty())
      held << tr("%1 %2").arg(said(line.what).toLower(), said(line.value));
    else
      byTopic[size_t(line.topic)].push_back(line);
  }
  auto& sources = byTopic[size_t(SpecTopic::Source)];
  std::stable_sort(sources.begin(), sources.end(),
                   [](const SpecLine& a, const SpecLine& b) { return a.standing > b.standing; });
  if (!beside.empty()) // what stands in which column
    for (const SpecTopic topic : {SpecTopic::Source, SpecTopic::Playing}) {
      const auto named = [topic](const std::string& name) {
        return SpecLine{"names", topic, Standing::Told, {}, verbatim(name), {}, {}};
      };
      auto& lines = byTopic[size_t(topic)];
      lines.insert(lines.begin(), named(d->name));
      beside.push_back(named(with->name));
    }
  for (size_t i = 0; i < m_parts.size(); ++i) show(m_parts[i], byTopic[i], beside);
  const auto to = destination(d->destination);
  Part& limits = part(SpecTopic::Destination);
  limits.head->setText(to ? tr("Limits of '%1'").arg(QString::fromStdString(to->name))
                       : d->destination.empty()
                           ? tr("No destination is chosen: nothing limits it")
                           : tr("The destination '%1' is not here").arg(QString::fromStdString(d->destination)));
  m_held->setVisible(!held.isEmpty());
  m_held->setAccessibleName(tr("Met: %1").arg(held.join(QStringLiteral(" · "))));
  for (QString& each : held) each = keptTogether(each);
  m_held->setText(tr("Met: %1").arg(held.join(QStringLiteral(" · "))));
}

} // namespace tromb
