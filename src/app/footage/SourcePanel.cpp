// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/footage/SourcePanel.h"

#include "app/style/CadenceDrawing.h"
#include "app/style/FlowLayout.h"
#include "app/style/Icons.h"
#include "app/style/StatusLine.h"
#include "app/style/Theme.h"
#include "destination/NewDeliverable.h"
#include "model/Translation.h"
#include "project/Timing.h"
#include "time/Timecode.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSpinBox>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {

SourcePanel::SourcePanel(Document& document, LightService& lights, QWidget* parent)
    : QWidget(parent), m_document(document), m_lights(lights), m_name(new QLabel(this)), m_facts(new QLabel(this)),
      m_slow(new QToolButton(this)), m_repeats(new QToolButton(this)), m_scan(new QToolButton(this)),
      m_colour(new QToolButton(this)), m_sound(new QToolButton(this)),
      m_bed(new QPushButton(icon(QStringLiteral("music")), tr("Sound bed"), this)), m_light(new QPushButton(this)),
      m_match(new QPushButton(this)) {
  setAccessibleName(tr("Facts of the source, and their consequences"));
  m_bars = buildBars();
  m_name->setProperty("rank", "head");
  m_name->setWordWrap(true);
  m_facts->setWordWrap(true);
  m_facts->setProperty("rank", "faint");
  m_facts->setTextInteractionFlags(Qt::TextSelectableByMouse);
  m_slow->setText(tr("Slow motion"));
  m_slow->setAccessibleName(tr("Slow motion material"));
  m_slow->setIcon(icon(QStringLiteral("gauge")));
  m_slow->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  m_slow->setCheckable(true);
  m_slow->setToolTip(tr("Shot fast to be shown slowly: it is never matched, and new shots show every frame once"));
  buildScan();
  buildColour();
  buildSound();
  m_bed->setAccessibleName(tr("Add its sound as a sound bed"));
  m_light->setToolTip(tr("A smaller copy for looking through it smoothly; exports never use it"));
  m_bed->setToolTip(tr("Its sound becomes a sound bed that starts at the playhead"));

  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 4, 0, 0);
  rows->setSpacing(4);
  rows->addWidget(m_name);
  rows->addWidget(m_facts);
  m_lines = new QVBoxLayout;
  m_lines->setSpacing(0);
  rows->addLayout(m_lines);
  rows->addWidget(m_bars);
  m_setBars = new QToolButton(this);
  m_setBars->setText(tr("Bars"));
  m_setBars->setCheckable(true);
  m_setBars->setToolTip(tr("Burned-in bars, to be cut away or kept"));
  connect(m_setBars, &QToolButton::clicked, this, [this](bool on) {
    m_barsAsked = true;
    m_bars->setVisible(on);
  });
  auto* line = new QWidget(this);
  auto* answers = new FlowLayout(line, 4);
  answers->setContentsMargins(0, 0, 0, 0);
  answers->addWidget(m_setBars);
  answers->addWidget(m_scan);
  answers->addWidget(m_colour);
  answers->addWidget(m_sound);
  answers->addWidget(m_slow);
  answers->addWidget(m_repeats);
  answers->addWidget(m_match);
  answers->addWidget(m_bed);
  answers->addWidget(m_light);
  rows->addWidget(line);
  rows->addStretch(1);

  m_repeats->setCheckable(true);
  m_repeats->setToolTip(
      tr("Its pictures are repeated to a higher rate. Taken at the rate that they were made at, each counts once"));
  connect(m_repeats, &QToolButton::clicked, this, [this](bool taken) {
    change(tr("Take it at the rate of its pictures"), [this, taken](Source& source) {
      const Measured* measured = m_document.measured(source.id);
      source.repeats = taken && measured ? measured->repeats : std::nullopt;
    });
  });
  connect(m_slow, &QToolButton::clicked, this, [this](bool slow) {
    change(slow ? tr("Mark as slow motion") : tr("No slow motion"),
           [slow](Source& source) { source.slowMotion = slow; });
  });
  connect(m_bed, &QPushButton::clicked, this, &SourcePanel::addBedRequested);
  m_match->setToolTip(tr("Gives all deliverables the rate that was shot, as far as their destinations take it"));
  connect(m_match, &QPushButton::clicked, this, [this] {
    const Result<MediaInfo>* media = m_ids.empty() ? nullptr : m_document.media(m_ids.front());
    if (media && *media && (*media)->kind == MediaKind::Video)
      m_document.matchRates(shotRate(*m_document.project().source(m_ids.front()), **media));
  });
  connect(m_light, &QPushButton::clicked, this, [this] {
    for (const std::string& id : m_ids) m_lights.ask(id);
  });
  connect(&lights, &LightService::progress, this, &SourcePanel::refreshLight);
  const auto again = [this] { refresh(); };
  // Only changes of the source that is shown matter: other sources are measured at the same time, and somebody may be
  // typing.
  connect(&document, &Document::sourceChanged, this, [this](int row) {
    if (!m_ids.empty() && m_ids.front() == m_document.project().sources[size_t(row)].id) refresh();
  });
  connect(&document, &Document::mediaChanged, this, [this](const QStringList& ids) {
    if (!m_ids.empty() && ids.contains(QString::fromStdString(m_ids.front()))) refresh();
  });
  connect(&document, &Document::sourcesRemoved, this, again);
  connect(&document, &Document::deliverablesInserted, this, again);
  connect(&document, &Document::deliverablesRemoved, this, again);
  connect(&document, &Document::deliverableChanged, this, again);
  connect(&document, &Document::reset, this, [this] { setSources({}); });
  refresh();
}

QWidget* SourcePanel::buildBars() {
  auto* bars = new QWidget(this);
  auto* row = new FlowLayout(bars, 4);
  row->setContentsMargins(0, 0, 0, 0);
  m_cut = new QToolButton(bars);
  m_cut->setText(tr("Cut away"));
  m_cut->setAccessibleName(tr("Cut burned-in bars away"));
  m_cut->setCheckable(true);
  m_cut->setToolTip(tr("Lines and columns that are cut away from the picture everywhere"));
  row->addWidget(m_cut);
  const QString names[] = {tr("left"), tr("top"), tr("right"), tr("bottom")};
  for (int i = 0; i < 4; ++i) {
    m_sides[i] = new QSpinBox(bars);
    m_sides[i]->setRange(0, 4096);
    m_sides[i]->setAccessibleName(tr("Bars at the %1, in pixels").arg(names[i]));
    m_sides[i]->setToolTip(m_sides[i]->accessibleName());
    m_sides[i]->setButtonSymbols(QAbstractSpinBox::NoButtons);
    m_sides[i]->setKeyboardTracking(false);
    m_sides[i]->setAlignment(Qt::AlignRight);
    auto* label = new QLabel(names[i], bars);
    label->setProperty("rank", "faint");
    m_sides[i]->setFixedWidth(m_sides[i]->fontMetrics().horizontalAdvance(QStringLiteral("0000")) + 16);
    auto* side = new QWidget(bars); // so that a field never stands in another line than its name
    auto* together = new QHBoxLayout(side);
    together->setContentsMargins(0, 0, 0, 0);
    together->setSpacing(4);
    together->addWidget(label);
    together->addWidget(m_sides[i]);
    row->addWidget(side);
    connect(m_sides[i], &QSpinBox::valueChanged, this, [this, i](int value) {
      change(tr("Change the bars"), [i, value](Source& source) {
        int* const sides[] = {&source.bars.left, &source.bars.top, &source.bars.right, &source.bars.bottom};
        *sides[i] = value;
        source.barsBy = FactBy::Hand;
      });
    });
  }
  connect(m_cut, &QToolButton::clicked, this, [this](bool cut) {
    change(cut ? tr("Cut bars away") : tr("Keep the bars"), [this, cut](Source& source) {
      const Measured* measured = m_document.measured(source.id);
      source.bars = cut && measured ? measured->bars : Bars{};
      source.barsBy = FactBy::Hand;
    });
  });
  return bars;
}

namespace {

/// A button that opens a menu, which is returned.
QMenu* menuOf(QToolButton& button, const QString& text, const QString& name, const QString& tip) {
  button.setText(text);
  button.setAccessibleName(name);
  button.setToolTip(tip);
  button.setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(&button);
  button.setMenu(menu);
  return menu;
}

} // namespace

void SourcePanel::buildScan() {
  QMenu* menu = menuOf(*m_scan, tr("Scan"), tr("How the pictures are scanned"),
                       tr("Interlaced pictures are de-interlaced, progressive ones are left as they are"));
  const auto add = [this, menu](const QString& text, auto answer) {
    connect(menu->addAction(text), &QAction::triggered, this,
            [this, answer] { change(tr("Change the scan"), answer); });
  };
  add(tr("As measured"), [this](Source& source) {
    const Measured* measured = m_document.measured(source.id);
    source.scan = measured ? measured->scan : std::nullopt;
    source.scanBy = source.scan ? FactBy::Measure : FactBy::Nobody;
  });
  const auto set = [](std::optional<Scan> scan) {
    return [scan](Source& source) {
      source.scan = scan;
      source.scanBy = FactBy::Hand;
    };
  };
  add(tr("As the file says"), set({}));
  menu->addSeparator();
  add(tr("Progressive: leave as it is"), set(Scan::Progressive));
  add(tr("Interlaced, top field first"), set(Scan::TopFieldFirst));
  add(tr("Interlaced, bottom field first"), set(Scan::BottomFieldFirst));
}

void SourcePanel::buildColour() {
  m_colour->setObjectName(QStringLiteral("colour"));
  QMenu* menu = menuOf(*m_colour, tr("Colour"), tr("What its colours are taken as"),
                       tr("For files without colour labels, or with wrong ones"));
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    const Source* shown = m_ids.empty() ? nullptr : m_document.project().source(m_ids.front());
    const Result<MediaInfo>* media = shown ? m_document.media(shown->id) : nullptr;
    if (!media || !*media || !(*media)->video) return;
    const ColourTags now = colourOf(*shown, *(*media)->video);
    // Each source begins with what its own file says.
    const auto add = [this, menu](const QString& text, bool chosen, const std::function<void(ColourTags&)>& answer) {
      QAction* action = menu->addAction(text);
      action->setCheckable(true);
      action->setChecked(chosen);
      connect(action, &QAction::triggered, this, [this, answer] {
        change(tr("Change what its colours are"), [this, answer](Source& source) {
          const Result<MediaInfo>* its = m_document.media(source.id);
          if (!its || !*its || !(*its)->video) return;
          ColourTags tags = colourOf(source, *(*its)->video);
          answer(tags);
          source.colour = tags;
        });
      });
    };
    QAction* asSaid = menu->addAction(tr("As the file says"));
    asSaid->setCheckable(true);
    asSaid->setChecked(!shown->colour);
    connect(asSaid, &QAction::triggered, this,
            [this] { change(tr("Change what its colours are"), [](Source& source) { source.colour.reset(); }); });
    menu->addSeparator();
    for (const ColourClaim& claim : kColourClaims)
      add(QString::fromUtf8(claim.name.data(), qsizetype(claim.name.size())),
          shown->colour &&
              now == ColourTags{claim.tags.primaries, claim.tags.transfer, claim.tags.matrix, now.fullRange},
          [tags = claim.tags](ColourTags& of) {
            of = {tags.primaries, tags.transfer, tags.matrix, of.fullRange};
          });
    menu->addSeparator();
    for (const bool full : {false, true})
      add(full ? tr("Full range") : tr("Limited range"), shown->colour && now.fullRange == full,
          [full](ColourTags& of) { of.fullRange = full; });
  });
}

void SourcePanel::buildSound() {
  QMenu* menu = menuOf(*m_sound, tr("Sound"), tr("Which of its sound streams is heard"),
                       tr("Which of its sound streams is heard"));
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    const Result<MediaInfo>* media = m_ids.empty() ? nullptr : m_document.media(m_ids.front());
    if (!media || !*media) return;
    const Reading reading = readingOf(*m_document.project().source(m_ids.front()), **media);
    const auto add = [this, menu](const QString& text, bool now, const std::function<void(Source&)>& answer) {
      QAction* action = menu->addAction(text);
      action->setCheckable(true);
      action->setChecked(now);
      connect(action, &QAction::triggered, this, [this, answer] { change(tr("Change what is heard"), answer); });
    };
    const bool chosen = m_document.project().source(m_ids.front())->soundBy == FactBy::Hand;
    add(tr("As usual: what the file prefers, unless that is silent"), !chosen, [this](Source& source) {
      const Measured* measured = m_document.measured(source.id);
      source.sound = measured ? measured->heard : std::vector<int>();
      source.soundBy = source.sound.empty() ? FactBy::Nobody : FactBy::Measure;
    });
    menu->addSeparator();
    const auto streams = [&](const QString& text, const std::vector<int>& places) {
      add(text, chosen && reading.heard == places, [this, places](Source& source) {
        const Result<MediaInfo>* its = m_document.media(source.id);
        const auto there = [&](int place) { return its && *its && place < int((*its)->audio.size()); };
        if (!std::all_of(places.begin(), places.end(), there)) return; // one with fewer streams
        source.sound = places;
        source.soundBy = FactBy::Hand;
      });
    };
    const auto& audio = (*media)->audio;
    for (int place = 0; place < int(audio.size()); ++place) {
      const AudioInfo& stream = audio[size_t(place)];
      QString words = tr("%1: %2").arg(place + 1).arg(streamWords(stream));
      if (!stream.title.empty()) words += QStringLiteral(" · ") + QString::fromStdString(stream.title);
      streams(words, {place});
      if (place + 1 < int(audio.size()) && stream.channels == 1 && audio[size_t(place) + 1].channels == 1)
        streams(tr("%1 and %2 as left and right").arg(place + 1).arg(place + 2), {place, place + 1});
    }
  });
}

void SourcePanel::change(const QString& text, const std::function<void(Source&)>& change) {
  if (m_showing) return;
  std::vector<Source> changed;
  for (const std::string& id : m_ids)
    if (const Source* source = m_document.project().source(id)) {
      changed.push_back(*source);
      change(changed.back());
    }
  m_document.changeSources(changed, text);
}

void SourcePanel::setSources(const std::vector<int>& rows) {
  m_ids.clear();
  m_barsAsked = false;
  for (const int row : rows) m_ids.push_back(m_document.project().sources[size_t(row)].id);
  refresh();
}

void SourcePanel::refresh() {
  m_showing = true;
  while (QLayoutItem* item = m_lines->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  const Source* source = m_ids.empty() ? nullptr : m_document.project().source(m_ids.front());
  const Result<MediaInfo>* known = source ? m_document.media(source->id) : nullptr;
  const MediaInfo* media = known && *known ? &**known : nullptr;
  setEnabled(source != nullptr);
  QString name = source ? QString::fromStdString(sourceName(*source)) : QString();
  if (m_ids.size() > 1) name += tr(" and %1 more").arg(m_ids.size() - 1);
  m_name->setText(name);
  QString facts;
  if (media) {
    facts = factsLine(readingOf(*source, *media));
    if (media->kind != MediaKind::Still)
      facts += QStringLiteral(" · ") + QString::fromStdString(clockText(media->duration));
  } else if (known) {
    facts = said(known->error());
  }
  m_facts->setText(facts);
  if (source && media) {
    for (const Consequence& c : consequencesOf(m_document, *source)) {
      m_lines->addWidget(new StatusLine(c.state, c.about, c.measured ? tr("%1 (measured)").arg(c.text) : c.text, this,
                                        StatusLine::Form::OneLine));
      if (c.cadence) {
        auto* drawing = new CadenceDrawing(this);
        drawing->setCadence(*c.cadence);
        m_lines->addWidget(drawing);
      }
    }
    if (!m_document.measured(source->id))
      m_lines->addWidget(new StatusLine(Cell::State::Waiting, tr("Measuring"),
                                        tr("bars, scan and loudness are being measured"), this,
                                        StatusLine::Form::OneLine));
  }
  const bool picture = media && media->video;
  const Measured* measured = source ? m_document.measured(source->id) : nullptr;
  // The fields are shown if there are bars to cut away, or if the user asked for them.
  m_setBars->setVisible(picture);
  if (picture && !m_barsAsked) m_setBars->setChecked(!source->bars.none() || (measured && !measured->bars.none()));
  m_bars->setVisible(picture && m_setBars->isChecked());
  m_scan->setVisible(picture && media->kind == MediaKind::Video);
  m_colour->setVisible(picture && media->kind == MediaKind::Video);
  m_sound->setVisible(media && media->audio.size() > 1);
  m_slow->setVisible(picture && media->kind == MediaKind::Video);
  const auto repeats = source && source->repeats ? source->repeats : measured ? measured->repeats : std::nullopt;
  m_repeats->setVisible(picture && repeats && !media->video->clock.variable());
  if (picture && repeats) {
    m_repeats->setText(
        tr("Made at %1").arg(QString::fromStdString(repeats->clockOf(media->video->clock).rate().name())));
    m_repeats->setChecked(source->repeats.has_value());
  }
  m_bed->setVisible(media && !media->audio.empty());
  // One action makes the cadence even, where it is not; slow motion material is never matched.
  bool uneven = false;
  if (picture && media->kind == MediaKind::Video && !source->slowMotion && !media->video->clock.variable())
    for (const Deliverable& d : m_document.project().deliverables)
      uneven = uneven || matchedRate(d.destination, shotRate(*source, *media)) != d.rate;
  m_match->setVisible(uneven);
  if (uneven) m_match->setText(tr("Deliver at %1").arg(QString::fromStdString(shotRate(*source, *media).name())));
  if (picture) {
    const int sides[] = {source->bars.left, source->bars.top, source->bars.right, source->bars.bottom};
    for (int i = 0; i < 4; ++i) m_sides[i]->setValue(sides[i]);
    m_cut->setChecked(!source->bars.none());
    m_cut->setEnabled(!source->bars.none() || (measured && !measured->bars.none()));
    m_slow->setChecked(source->slowMotion);
  }
  m_showing = false;
  refreshLight();
}

void SourcePanel::refreshLight() {
  const std::string id = m_ids.empty() ? std::string() : m_ids.front();
  const Result<MediaInfo>* media = m_document.media(id);
  const bool heavy = media && *media && LightCopies::heavy(**media);
  m_light->setVisible(heavy);
  if (!heavy) return;
  const bool underWay = m_lights.underWay(id);
  const bool there = !underWay && m_lights.has(id);
  m_light->setEnabled(!underWay && !there);
  m_light->setText(there      ? tr("Lighter copy used")
                   : underWay ? tr("Lighter copy %1 %").arg(int(m_lights.fraction() * 100))
                              : tr("Lighter copy"));
}

} // namespace tromb
