// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/TrackBar.h"

#include "app/style/FlowLayout.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QLabel>
#include <QProgressBar>
#include <QSlider>
#include <QToolButton>
#include <algorithm>
#include <cmath>

namespace tromb {

TrackBar::TrackBar(Bench& bench, BenchCanvas& canvas, Actions& actions, QWidget* parent)
    : QWidget(parent), m_bench(bench), m_document(bench.document()), m_canvas(canvas), m_track(actions.at("track")),
      m_stop(new QToolButton(this)), m_searched(new QProgressBar(this)), m_calmWords(new QLabel(tr("calm"), this)),
      m_calm(new QSlider(Qt::Horizontal, this)) {
  auto* row = new FlowLayout(this, 4);
  row->setContentsMargins(0, 0, 0, 0);
  row->addWidget(actions.button("track", Qt::ToolButtonTextBesideIcon, this));
  m_searched->setRange(0, 1000);
  m_searched->setFixedWidth(140);
  m_searched->setAccessibleName(tr("How far it is tracked"));
  row->addWidget(m_searched);
  m_stop->setText(tr("Stop"));
  m_stop->setToolTip(tr("Stop tracking"));
  m_stop->setFocusPolicy(Qt::TabFocus);
  connect(m_stop, &QToolButton::clicked, &m_search, &SubjectSearch::cancel);
  row->addWidget(m_stop);
  m_calmWords->setProperty("rank", "faint");
  m_calmWords->setBuddy(m_calm);
  row->addWidget(m_calmWords);
  m_calm->setRange(0, 100);
  m_calm->setFixedWidth(110);
  m_calm->setTracking(false); // smoothing the path of a long shot takes a tenth of a second
  m_calm->setAccessibleName(tr("How much the way is calmed"));
  m_calm->setToolTip(tr("From where the subject is to as far off as all windows allow"));
  connect(m_calm, &QSlider::valueChanged, this, [this](int value) {
    if (m_showing || !m_bench.following().track()) return;
    m_bench.following().setCalming(value / 100.0, m_document.newGesture());
  });
  row->addWidget(m_calm);

  actions.bind(
      "track",
      [this] {
        m_canvas.setFocus();
        m_canvas.setBoxing(m_track->isChecked());
        refresh();
      },
      [this] { return m_bench.media() && m_bench.media()->kind == MediaKind::Video && !m_search.running(); });
  connect(&m_document, &Document::aboutToReset, this, [this] {
    m_search.cancel();
    m_said.clear();
  });
  connect(&m_canvas, &BenchCanvas::boxed, this, &TrackBar::followBox);
  connect(&m_canvas, &BenchCanvas::boxingEnded, this, &TrackBar::refresh);
  connect(&m_search, &SubjectSearch::progress, this, [this, &actions](double fraction) {
    m_searched->setValue(int(fraction * 1000));
    refresh();
    actions.refreshSoon();
  });
  connect(&m_search, &SubjectSearch::failed, this, &TrackBar::say);
  connect(&m_search, &SubjectSearch::followed, this, &TrackBar::takeTrack);
  connect(&m_search, &SubjectSearch::finished, this, [this, &actions] {
    refresh();
    actions.refreshSoon();
  });
  refresh();
}

std::optional<SubjectSearch::Stretch> TrackBar::stretchOf(const Shot& shot) const {
  const Source* source = m_document.project().source(shot.source);
  const Result<MediaInfo>* known = m_document.media(shot.source);
  if (!source || !known || !*known || !(*known)->video || (*known)->kind == MediaKind::Audio) return {};
  const auto [first, end] = framesOf(shot, **known);
  return SubjectSearch::Stretch{shot.id, readingOf(*source, **known), first, end};
}

void TrackBar::followBox(const QRectF& box) {
  const auto stretch = m_bench.shot() ? stretchOf(*m_bench.shot()) : std::nullopt;
  if (!stretch) return;
  const SizeF whole = m_bench.picture();
  m_said.clear();
  m_search.follow(
      *stretch, m_bench.frame(),
      {box.x() / whole.width, box.y() / whole.height, box.width() / whole.width, box.height() / whole.height});
}

void TrackBar::takeTrack(const std::string& shot, const Track& track) {
  if (track.points.empty()) return say(tr("There is no picture to track it in"));
  m_bench.following().takeTrack(shot, track);
  const Shot* at = m_document.project().shot(shot);
  const auto stretch = at ? stretchOf(*at) : std::nullopt;
  if (!stretch) return;
  const FrameRate rate = stretch->reading.file.video->clock.rate();
  const auto time = [&](int64_t frame) {
    return QString::fromStdString(timecode(frame - stretch->first, rate, hasDropFrame(rate)));
  };
  const int64_t first = track.points.front().frame;
  const int64_t last = track.points.back().frame;
  QStringList words;
  if (first > stretch->first) words << tr("not there before %1").arg(time(first));
  if (last + 1 < stretch->end) words << tr("lost at %1").arg(time(last));
  say(words.isEmpty() ? tr("tracked through the whole shot") : words.join(QStringLiteral(", ")));
}

void TrackBar::say(const QString& words) {
  m_said = words;
  refresh();
}

void TrackBar::refresh() {
  const bool running = m_search.running();
  if (!m_canvas.boxing()) m_track->setChecked(false);
  m_searched->setVisible(running);
  m_stop->setVisible(running);
  const Track* track = running ? nullptr : m_bench.following().track();
  m_calm->setVisible(track);
  m_calmWords->setVisible(track);
  m_showing = true;
  m_calm->setValue(int(std::lround(m_bench.following().calming() * 100)));
  m_showing = false;
  emit said(m_track->isChecked() ? tr("Draw a box round it, or press Return") : m_said);
}

} // namespace tromb
