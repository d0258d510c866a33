// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/RateChoices.h"

#include "app/style/CadenceDrawing.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "model/Translation.h"
#include "project/Timing.h"
#include "time/Cadence.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

namespace tromb {
namespace {

constexpr int kMostDrawn = 2; ///< rates of the footage: more are told where its sources are listed

} // namespace

RateChoices::RateChoices(Spec& spec, QWidget* parent)
    : ChoiceGroup(spec, tr("Rate"), QStringLiteral("rate"), parent), m_asShot(new QPushButton(this)),
      m_wrong(new QLabel(this)) {
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  auto* rate = keep(
      new ListChoice(spec,
                     {.name = tr("Frame rate"),
                      .entries =
                          [](const Deliverable&) {
                            ListChoice::Entries entries;
                            for (const FrameRate& each : offeredRates(Settings::rateFamily()))
                              entries.emplace_back(QString::fromStdString(each.name()),
                                                   QString::fromStdString(each.value().toString()));
                            return entries;
                          },
                      .value = [](const Deliverable& d) { return QString::fromStdString(d.rate.value().toString()); },
                      .choose =
                          [](Deliverable& d, const QVariant& value) {
                            if (const auto chosen = FrameRate::parse(value.toString().toStdString())) d.rate = *chosen;
                          },
                      .other = [](const Deliverable& d) { return QString::fromStdString(d.rate.name()); }},
                     line));
  row->addWidget(rate, 1);
  row->addWidget(m_asShot, 1);
  line->setFocusProxy(rate);
  addRow(seen(), tr("Frames a &second"), line);
  add(seen(), tr("&Between frames"),
      new ListChoice(spec,
                     {.name = tr("Between frames"),
                      .entries =
                          [](const Deliverable&) {
                            ListChoice::Entries entries;
                            const QStringList names = CadenceDrawing::treatmentNames();
                            for (int i = 0; i < names.size(); ++i) entries.emplace_back(names[i], i);
                            return entries;
                          },
                      .value = [](const Deliverable& d) { return int(d.treatment); },
                      .choose = [](Deliverable& d, const QVariant& value) { d.treatment = Treatment(value.toInt()); }},
                     this))
      ->setToolTip(tr("For every shot that says nothing else"));
  for (int i = 0; i < kMostDrawn; ++i) {
    Row made{new QWidget(this), new QLabel(this), new CadenceDrawing(this)};
    auto* rows = new QVBoxLayout(made.all);
    rows->setContentsMargins(0, 2, 0, 2);
    rows->setSpacing(3);
    made.words->setProperty("rank", "faint");
    made.words->setWordWrap(true);
    rows->addWidget(made.words);
    rows->addWidget(made.drawing);
    seen().addRow(made.all);
    m_rows.push_back(made);
  }
  addRow(folded(), tr("An&y rate"),
         keep(new TextChoice(spec,
                             {.name = tr("Any frame rate"),
                              .mostLetters = 40,
                              .value =
                                  [](const Deliverable& d) {
                                    const Rational& at = d.rate.value();
                                    return QString::fromStdString(at.den() == 1 ? std::to_string(at.num())
                                                                                : at.toString());
                                  },
                              .choose = [this](Deliverable& d, const QString& typed) { typeRate(d, typed); }},
                             this)));
  m_wrong->setWordWrap(true);
  m_wrong->hide();
  folded().addRow(m_wrong);
  connect(m_asShot, &QPushButton::clicked, this, [this] {
    const auto shot = FrameRate::parse(m_asShot->property("rate").toString().toStdString());
    if (shot) this->spec().change(tr("Change: frame rate"), [&](Deliverable& d) { d.rate = *shot; });
  });
}

QString RateChoices::foldedWords() const {
  return tr("Any other rate");
}

void RateChoices::typeRate(Deliverable& d, const QString& typed) {
  const auto rate = FrameRate::parse(typed.toStdString());
  m_wrong->setVisible(!rate);
  if (rate)
    d.rate = *rate;
  else
    m_wrong->setText(said(rate.error()));
}

/// The rates of the running order's footage, or of all footage where there are no shots yet; most of it first.
std::vector<RateChoices::Shot> RateChoices::rates() const {
  const Document& document = spec().document();
  const Project& project = document.project();
  std::map<std::string, Shot> found;
  const auto add = [&](const Source& source, const Rational& seconds) {
    const auto* media = document.media(source.id);
    if (!media || !*media || (*media)->kind != MediaKind::Video || (*media)->video->clock.variable()) return;
    Shot& each = found[shotRate(source, **media).value().toString()];
    each.source = &source;
    each.media = &**media;
    each.seconds = each.seconds + seconds;
  };
  for (const tromb::Shot& shot : project.shots) add(*project.source(shot.source), shot.duration());
  if (project.shots.empty())
    for (const Source& source : project.sources) add(source, Rational(1));
  std::vector<Shot> rates;
  for (const auto& [name, each] : found) rates.push_back(each);
  std::stable_sort(rates.begin(), rates.end(), [](const Shot& a, const Shot& b) { return a.seconds > b.seconds; });
  return rates;
}

void RateChoices::draw(const std::vector<Shot>& rates) {
  const Deliverable& d = *spec().current();
  size_t row = 0;
  for (const Shot& each : rates) {
    if (row == m_rows.size()) break;
    const ShotCadence cadence = cadenceIn(d, wholeShot(d, *each.source, *each.media), *each.source, *each.media);
    const auto speed = cadence.frames.time().speed();
    if (Cadence(cadence.clock.rate(), d.rate, *speed).even() && speed == Rational(1)) continue;
    const QString words = said(cadence.words());
    if (m_rows[row].words->text() != words || m_rows[row].all->property("treatment") != int(d.treatment)) {
      m_rows[row].words->setText(words);
      m_rows[row].all->setProperty("treatment", int(d.treatment));
      m_rows[row].drawing->setCadence(cadence);
    }
    m_rows[row++].all->setVisible(true);
  }
  for (; row < m_rows.size(); ++row) m_rows[row].all->setVisible(false);
}

void RateChoices::refresh() {
  ChoiceGroup::refresh();
  const std::vector<Shot> shot = rates();
  draw(shot);
  m_asShot->setVisible(!shot.empty());
  if (shot.empty()) return;
  const FrameRate rate = shotRate(*shot.front().source, *shot.front().media);
  m_asShot->setText(tr("As shot: %1").arg(QString::fromStdString(rate.name())));
  m_asShot->setProperty("rate", QString::fromStdString(rate.value().toString()));
  const auto alike = spec().common<FrameRate>([](const Deliverable& d) { return d.rate; });
  m_asShot->setEnabled(!alike || *alike != rate);
}

} // namespace tromb
