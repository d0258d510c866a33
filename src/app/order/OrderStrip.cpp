// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/OrderStrip.h"

#include "analysis/Waveform.h"
#include "app/style/Theme.h"
#include "time/Timecode.h"

#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kEdge = 10; ///< left and right of the running order
constexpr int kShotPicture = 42;
constexpr int kShotSound = 12; ///< at the foot of the picture
constexpr int kGap = 2;
constexpr int kScroll = 12;
constexpr double kGripWidth = 7;
constexpr double kLeastPicture = 14; ///< narrower shots are drawn without a picture
constexpr double kLeastDetailed = 5; ///< pixels of width
constexpr double kMostMagnified = 400;

} // namespace

OrderStrip::OrderStrip(Session& session, PosterService& posters, WaveformService& waveforms, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_posters(posters), m_waveforms(waveforms),
      m_scroll(new QScrollBar(Qt::Horizontal, this)) {
  setObjectName(QStringLiteral("orderStrip"));
  setAccessibleName(tr("Running order"));
  setAccessibleDescription(tr("Shots in proportion. Arrow keys move by a frame, Page Up and Page Down by a shot."));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  m_scroll->setFocusPolicy(Qt::NoFocus);
  connect(m_scroll, &QScrollBar::valueChanged, this, qOverload<>(&QWidget::update));
  connect(&m_document, &Document::reset, this, [this] {
    m_zoom = 1;
    documentChanged();
  });
  const auto changed = [this] { documentChanged(); };
  connect(&m_document, &Document::shotsInserted, this, changed);
  connect(&m_document, &Document::shotsRemoved, this, changed);
  connect(&m_document, &Document::shotMoved, this, changed);
  connect(&m_document, &Document::shotChanged, this, changed);
  connect(&m_document, &Document::sourceChanged, this, changed);
  connect(&m_document, &Document::mediaChanged, this, changed);
  connect(&m_document, &Document::regionsChanged, this, changed);
  connect(&m_document, &Document::bedsChanged, this, changed);
  connect(&session, &Session::selectionChanged, this, qOverload<>(&QWidget::update));
  connect(&session, &Session::playheadMoved, this, &OrderStrip::showPlayhead);
  connect(&posters, &PosterService::ready, this, qOverload<>(&QWidget::update));
  connect(&waveforms, &WaveformService::ready, this, qOverload<>(&QWidget::update));
  documentChanged();
}

QSize OrderStrip::sizeHint() const {
  const Project& p = m_document.project();
  const int regions = p.regions.empty() ? 0 : regionHeight();
  return {600,
          rulerHeight() + regions + shotHeight() + 2 * kGap + int(p.beds.size()) * (bedHeight() + kGap) + kScroll + 4};
}

// Lanes are as high as the desktop's type asks.
int OrderStrip::rulerHeight() const {
  return fontMetrics().height() + 3;
}
int OrderStrip::regionHeight() const {
  return fontMetrics().height() + 1;
}
int OrderStrip::shotHeight() const {
  return kShotPicture + fontMetrics().height() + 1;
}
int OrderStrip::bedHeight() const {
  return fontMetrics().height() + 11;
}

int OrderStrip::shotsTop() const {
  return rulerHeight() + (m_document.project().regions.empty() ? 0 : regionHeight()) + kGap;
}

int OrderStrip::bedsTop() const {
  return shotsTop() + shotHeight() + kGap;
}

void OrderStrip::documentChanged() {
  const int before = minimumHeight();
  if (sizeHint().height() != before) setFixedHeight(sizeHint().height());
  layOut();
  update();
}

void OrderStrip::layOut() {
  const double total = std::max(0.1, m_session.starts().back().toDouble());
  const double room = std::max(50, width() - 2 * kEdge);
  // While an end is dragged the scale stays, or the end would run away from the pointer.
  const bool trimming = m_hold.moving && (m_hold.grip == Grip::In || m_hold.grip == Grip::Out);
  if (!trimming) m_pixelsPerSecond = room / total * m_zoom;
  const int beyond = int(std::ceil(total * m_pixelsPerSecond - room));
  m_scroll->setRange(0, std::max(0, beyond));
  m_scroll->setPageStep(int(room));
  m_scroll->setSingleStep(40);
  m_scroll->setVisible(beyond > 0);
  m_scroll->setGeometry(kEdge, height() - kScroll, width() - 2 * kEdge, kScroll);
}

void OrderStrip::resizeEvent(QResizeEvent*) {
  layOut();
}

double OrderStrip::xOf(double seconds) const {
  return kEdge + seconds * m_pixelsPerSecond - m_scroll->value();
}

double OrderStrip::xOf(const Rational& seconds) const {
  return xOf(seconds.toDouble());
}

Rational OrderStrip::timeAt(double x) const {
  const double seconds = (x - kEdge + m_scroll->value()) / m_pixelsPerSecond;
  const auto frame = int64_t(std::lround(std::max(0.0, seconds) * m_session.rate().toDouble()));
  return std::clamp(m_session.rate().timeOf(frame), Rational(0), m_session.starts().back());
}

int OrderStrip::shotAt(double x) const {
  const double seconds = (x - kEdge + m_scroll->value()) / m_pixelsPerSecond;
  for (size_t i = 0; i + 1 < m_session.starts().size(); ++i)
    if (seconds >= m_session.starts()[i].toDouble() && seconds < m_session.starts()[i + 1].toDouble()) return int(i);
  return -1;
}

QRectF OrderStrip::shotRect(int row) const {
  const double left = xOf(m_session.starts()[size_t(row)]);
  const double right = xOf(m_session.starts()[size_t(row) + 1]);
  return {left, double(shotsTop()), std::max(2.0, right - left), double(shotHeight())};
}

QRectF OrderStrip::bedRect(int place) const {
  const SoundBed& bed = m_document.project().beds[size_t(place)];
  // It ends with the running order, as an export does.
  const Rational length = std::min(bed.out - bed.in, m_session.starts().back() - bed.start);
  return {xOf(bed.start), double(bedsTop() + place * (bedHeight() + kGap)),
          std::max(8.0, length.toDouble() * m_pixelsPerSecond), double(bedHeight())};
}

/// Brings the playhead into what is seen.
void OrderStrip::showPlayhead() {
  const double x = xOf(m_session.playhead());
  if (x < kEdge || x > width() - kEdge)
    m_scroll->setValue(int(m_session.playhead().toDouble() * m_pixelsPerSecond - width() / 2.0));
  update();
}

void OrderStrip::zoomBy(double factor) {
  const double middle = m_session.playhead().toDouble();
  const double at = xOf(m_session.playhead());
  m_zoom = factor == 0 ? 1 : std::clamp(m_zoom * factor, 1.0, kMostMagnified);
  layOut();
  m_scroll->setValue(int(kEdge + middle * m_pixelsPerSecond - at));
  update();
}

void OrderStrip::trim(const Shot& was, bool out, const Rational& sourceTime, int gesture) {
  const Result<MediaInfo>* media = m_document.media(was.source);
  if (!media || !*media || !(*media)->video) return;
  const MediaInfo& info = **media;
  Shot shot = was;
  if (info.kind == MediaKind::Still) {
    // A still has no frames of its own; the deliverable's will do. It always begins at 0.
    const Rational length = (out ? sourceTime : was.in + was.out - sourceTime) - was.in;
    shot.out =
        shot.in + std::max(m_session.rate().frameDuration(), m_session.rate().timeOf(m_session.rate().frameAt(length)));
  } else {
    const FrameClock& clock = info.video->clock;
    const auto timeOf = [&](int64_t frame) {
      return frame >= clock.frameCount() ? info.duration : clock.timeOf(frame);
    };
    const int64_t in = clock.nearest(was.in);
    const int64_t end = std::max(in + 1, clock.cutAt(was.out));
    const int64_t to = clock.cutAt(std::max(Rational(0), sourceTime));
    if (out)
      shot.out = timeOf(std::clamp<int64_t>(to, in + 1, clock.frameCount()));
    else
      shot.in = timeOf(std::clamp<int64_t>(to, 0, end - 1));
  }
  m_document.changeShots({shot}, out ? tr("Move the out point") : tr("Move the in point"), gesture);
}

void OrderStrip::trimSelected(bool out, int frames) {
  for (const int row : m_session.shots()) {
    const Shot& shot = m_document.project().shots[size_t(row)];
    const Result<MediaInfo>* media = m_document.media(shot.source);
    if (!media || !*media || !(*media)->video) continue;
    const FrameRate& rate = (*media)->kind == MediaKind::Still ? m_session.rate() : (*media)->video->clock.rate();
    trim(shot, out, (out ? shot.out : shot.in) + rate.timeOf(1) * Rational(frames), 0);
  }
}

void OrderStrip::drop(int before) {
  const std::vector<int> rows = m_session.shots();
  if (before >= 0 && !rows.empty()) m_document.placeShots(rows, before);
}

OrderStrip::Hold OrderStrip::gripAt(const QPointF& point) const {
  Hold hold;
  hold.start = point;
  if (point.y() < shotsTop()) {
    hold.grip = Grip::Playhead;
    return hold;
  }
  for (int bed = 0; bed < int(m_document.project().beds.size()); ++bed)
    if (bedRect(bed).contains(point)) {
      hold.grip = Grip::Bed;
      hold.place = bed;
      hold.bed = m_document.project().beds[size_t(bed)];
      return hold;
    }
  if (point.y() >= bedsTop()) return hold;
  const int row = shotAt(point.x());
  if (row < 0) return hold;
  hold.place = row;
  hold.shot = m_document.project().shots[size_t(row)];
  hold.grip = Grip::Shot;
  const QRectF rect = shotRect(row);
  // Only a selected shot is trimmed, so that a hasty press between two shots moves neither's ends.
  if (m_session.isSelected(row) && rect.width() > 3 * kGripWidth) {
    if (point.x() < rect.left() + kGripWidth) hold.grip = Grip::In;
    if (point.x() > rect.right() - kGripWidth) hold.grip = Grip::Out;
  }
  return hold;
}

void OrderStrip::clicked(int row, Qt::KeyboardModifiers modifiers) {
  std::vector<int> rows;
  if (modifiers & Qt::ControlModifier) {
    rows = m_session.shots();
    if (std::erase(rows, row) == 0) rows.insert(std::upper_bound(rows.begin(), rows.end(), row), row);
    m_anchor = row;
  } else if (modifiers & Qt::ShiftModifier) {
    const int last = std::min(std::max(row, m_anchor), int(m_document.project().shots.size()) - 1);
    for (int r = std::min(row, m_anchor); r <= last; ++r) rows.push_back(r);
  } else {
    rows = {row};
    m_anchor = row;
  }
  m_session.selectShots(rows);
}

void OrderStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  m_hold = gripAt(event->position());
  m_hold.gesture = m_document.newGesture();
  switch (m_hold.grip) {
  case Grip::Playhead:
    m_session.setPlayhead(timeAt(event->position().x()));
    break;
  case Grip::Bed:
    m_session.selectBed(m_hold.place);
    break;
  case Grip::Shot:
    if (!m_session.isSelected(m_hold.place) || event->modifiers() != Qt::NoModifier)
      clicked(m_hold.place, event->modifiers());
    break;
  case Grip::None:
    m_session.selectShots({});
    break;
  default:
    break;
  }
}

void OrderStrip::mouseMoveEvent(QMouseEvent* event) {
  const QPointF point = event->position();
  if (!(event->buttons() & Qt::LeftButton)) {
    const Grip grip = gripAt(point).grip;
    setCursor(grip == Grip::In || grip == Grip::Out ? Qt::SizeHorCursor : Qt::ArrowCursor);
    return;
  }
  if (!m_hold.moving && (point - m_hold.start).manhattanLength() < 4) return;
  m_hold.moving = true;
  const Rational moved(int64_t(std::lround((point.x() - m_hold.start.x()) / m_pixelsPerSecond * 100'000)), 100'000);
  switch (m_hold.grip) {
  case Grip::Playhead:
    m_session.setPlayhead(timeAt(point.x()));
    break;
  case Grip::In:
  case Grip::Out: {
    const bool out = m_hold.grip == Grip::Out;
    const Shot& shot = m_hold.shot;
    trim(shot, out, shot.sourceTime(moved) + (out ? shot.out - shot.in : Rational(0)), m_hold.gesture);
    break;
  }
  case Grip::Bed: {
    std::vector<SoundBed> beds = m_document.project().beds;
    SoundBed& bed = beds[size_t(m_hold.place)];
    const Rational start = std::max(Rational(0), m_hold.bed.start + moved);
    bed.start = m_session.rate().timeOf(m_session.rate().frameAt(start));
    m_document.setBeds(beds, tr("Move sound"), m_hold.gesture);
    break;
  }
  case Grip::Shot: {
    const int over = shotAt(point.x());
    const int count = int(m_document.project().shots.size());
    m_hold.dropBefore = over < 0                                  ? (point.x() < kEdge ? 0 : count)
                        : point.x() > shotRect(over).center().x() ? over + 1
                                                                  : over;
    update();
    break;
  }
  case Grip::None:
    break;
  }
}

void OrderStrip::mouseReleaseEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const Hold hold = m_hold;
  m_hold = {};
  if (hold.grip == Grip::Shot && hold.moving)
    drop(hold.dropBefore);
  else if (hold.grip == Grip::Shot && event->modifiers() == Qt::NoModifier)
    clicked(hold.place, Qt::NoModifier);
  layOut();
  update();
}

void OrderStrip::mouseDoubleClickEvent(QMouseEvent* event) {
  if (const int row = shotAt(event->position().x()); row >= 0 && event->position().y() < bedsTop())
    m_session.setPlayhead(m_session.starts()[size_t(row)]);
}

void OrderStrip::wheelEvent(QWheelEvent* event) {
  if (event->modifiers() & Qt::ControlModifier)
    zoomBy(std::pow(1.2, event->angleDelta().y() / 120.0));
  else
    m_scroll->setValue(m_scroll->value() - event->angleDelta().y() - event->angleDelta().x());
  event->accept();
}

void OrderStrip::keyPressEvent(QKeyEvent* event) {
  const int step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  const int64_t frame = m_session.rate().frameAt(m_session.playhead());
  const Session::Under under = m_session.underPlayhead();
  const int count = int(m_document.project().shots.size());
  switch (event->key()) {
  case Qt::Key_Left:
  case Qt::Key_Right: {
    const int by = event->key() == Qt::Key_Left ? -step : step;
    if (event->modifiers() & Qt::AltModifier)
      trimSelected(event->modifiers() & Qt::ShiftModifier, by > 0 ? 1 : -1);
    else
      m_session.setPlayhead(m_session.rate().timeOf(frame + by));
    return;
  }
  case Qt::Key_PageUp:
  case Qt::Key_PageDown: {
    if (count == 0) return;
    // The neighbouring cut; the shot that begins there is selected.
    int row = under.row < 0 ? count : under.row;
    if (event->key() == Qt::Key_PageDown)
      row = std::min(count - 1, row + 1);
    else if (row == count || m_session.playhead() == m_session.starts()[size_t(row)])
      row = std::max(0, row - 1);
    m_session.setPlayhead(m_session.starts()[size_t(row)]);
    m_session.selectShots({row});
    return;
  }
  case Qt::Key_Home:
    return m_session.setPlayhead(Rational(0));
  case Qt::Key_End:
    return m_session.setPlayhead(m_session.starts().back());
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (under.row >= 0) m_session.selectShots({under.row});
    return;
  default:
    QWidget::keyPressEvent(event);
  }
}

void OrderStrip::paintRuler(QPainter& painter) const {
  const Theme& theme = Theme::current();
  // The smallest step of whole seconds (or frames) whose labels do not touch.
  const double label = fontMetrics().horizontalAdvance(QStringLiteral("00:00:00:00 "));
  Rational step = m_session.rate().frameDuration();
  for (const Rational& each : {m_session.rate().timeOf(5), Rational(1), Rational(2), Rational(5), Rational(10),
                               Rational(30), Rational(60), Rational(300), Rational(600), Rational(3600)}) {
    if (step.toDouble() * m_pixelsPerSecond >= label) break;
    step = each;
  }
  painter.setPen(theme.faint);
  const auto first = std::max<int64_t>(0, (timeAt(0) / step).floor());
  for (int64_t i = first;; ++i) {
    const Rational time = step * Rational(i);
    const double x = xOf(time);
    if (x > width() || time > m_session.starts().back()) break;
    painter.drawLine(QPointF(x, rulerHeight() - 5), QPointF(x, rulerHeight() - 1));
    const QString words = QString::fromStdString(
        timecode(m_session.rate().frameAt(time), m_session.rate(), hasDropFrame(m_session.rate())));
    if (x + label < width()) painter.drawText(QPointF(x + 3, rulerHeight() - 5), words);
  }
}

void OrderStrip::paintRegions(QPainter& painter) const {
  const Theme& theme = Theme::current();
  for (const Region& region : m_document.project().regions) {
    const QRectF rect(xOf(region.in), rulerHeight(), xOf(region.out) - xOf(region.in), regionHeight() - 2);
    QColor wash = theme.accent;
    wash.setAlphaF(0.22F);
    painter.fillRect(rect, wash);
    painter.setPen(QPen(theme.accent, 1.4));
    painter.drawLine(rect.topLeft(), rect.bottomLeft());
    painter.drawLine(rect.topRight(), rect.bottomRight());
    painter.setPen(theme.ink);
    painter.drawText(
        rect.adjusted(4, -1, -4, 0), Qt::AlignVCenter | Qt::AlignLeft,
        fontMetrics().elidedText(QString::fromStdString(region.name), Qt::ElideRight, int(rect.width()) - 8));
  }
}

void OrderStrip::paintShot(QPainter& painter, int row) {
  const Theme& theme = Theme::current();
  const Shot& shot = m_document.project().shots[size_t(row)];
  const QRectF rect = shotRect(row);
  if (rect.right() < 0 || rect.left() > width()) return;
  const QRectF inside = rect.adjusted(0.5, 0, -1.5, 0);
  const int words = fontMetrics().height() + 1;
  const QRectF picture(inside.left(), inside.top(), inside.width(), inside.height() - words);
  const Result<MediaInfo>* media = m_document.media(shot.source);
  const bool unusable = media && !*media;
  const bool selected = m_session.isSelected(row);
  if (inside.width() < kLeastDetailed) { // hundreds at once: nothing in it could be made out
    painter.fillRect(picture, selected ? theme.accent : unusable ? theme.broken : theme.surround);
    return;
  }
  painter.save();
  painter.setClipRect(inside);
  painter.fillRect(inside, theme.sheet);
  painter.fillRect(picture, theme.surround);
  if (const Poster* poster = inside.width() < kLeastPicture ? nullptr : m_posters.poster(row)) {
    const QImage& image = poster->atLeast(picture.height() * 16 / 9);
    const double tile = picture.height() * image.width() / std::max(1, image.height());
    const double from = std::max(picture.left(), picture.left() + std::floor(-picture.left() / tile) * tile);
    for (double x = from; x < std::min(picture.right(), double(width())); x += tile)
      painter.drawImage(QRectF(x, picture.top(), tile, picture.height()), image);
  }
  // Its sound, where it is heard, over the foot of its picture.
  if (media && *media && !(*media)->audio.empty() && !shot.muted && shot.speed == Rational(1)) {
    const QRectF foot(picture.left(), picture.bottom() - kShotSound, picture.width(), kShotSound);
    painter.fillRect(foot, QColor(0, 0, 0, 110));
    painter.setPen(QColor(255, 255, 255, 210));
    const double level = std::pow(10, shot.levelDb / 20);
    paintWaveform(painter, foot, shot.source, shot.in, [level](double) { return level; });
  }
  if (unusable) {
    painter.fillRect(picture, theme.raised);
    drawStatusShape(painter, QRectF(picture.left() + 5, picture.center().y() - 5, 10, 10), Cell::State::Unusable);
  }
  QString label = QStringLiteral("%1  %2").arg(row + 1).arg(QString::fromStdString(shot.name));
  if (shot.muted) label += tr(" · muted");
  if (shot.speed != Rational(1)) label += QStringLiteral(" · %1×").arg(shot.speed.toDouble(), 0, 'g', 3);
  if (inside.width() > 18) {
    painter.setPen(unusable ? theme.broken : theme.ink);
    painter.drawText(QRectF(std::max(inside.left(), 0.0) + 4, picture.bottom(), inside.width() - 6, words),
                     Qt::AlignVCenter | Qt::AlignLeft,
                     fontMetrics().elidedText(label, Qt::ElideRight, int(inside.width()) - 8));
  }
  painter.restore();
  painter.setPen(QPen(selected ? theme.accent : theme.line, selected ? 2.5 : 1));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(inside.adjusted(selected ? 1 : 0, selected ? 1 : 0, selected ? -1 : 0, selected ? -1 : 0));
  if (selected && rect.width() > 3 * kGripWidth)
    for (const double x : {inside.left() + 1, inside.right() - kGripWidth + 1}) {
      const QRectF grip(x, picture.center().y() - 12, kGripWidth - 2, 24);
      painter.setPen(Qt::NoPen);
      painter.setBrush(theme.accent);
      painter.drawRoundedRect(grip, 2, 2);
    }
}

void OrderStrip::paintWaveform(QPainter& painter, const QRectF& rect, const std::string& source, const Rational& in,
                               const std::function<double(double)>& gain) {
  const WaveformService::Peaks* peaks = m_waveforms.peaks(source);
  if (!peaks) return;
  for (int x = int(std::max(0.0, rect.left())); x < std::min(rect.right(), double(width())); ++x) {
    const double at = (x - rect.left()) / m_pixelsPerSecond;
    const auto from = size_t(std::max(0.0, (at + in.toDouble()) * kPeaksASecond));
    const size_t to = from + std::max<size_t>(1, size_t(kPeaksASecond / m_pixelsPerSecond));
    float peak = 0;
    for (size_t i = from; i < std::min(to, peaks->size()); ++i) peak = std::max(peak, (*peaks)[i]);
    // In decibels down to −48: what is heard as half as loud is drawn so.
    const double level = std::max(0.0, 1 + std::log10(std::max(1e-6, double(peak) * gain(at))) / 2.4);
    const double half = std::min(1.0, level) * rect.height() / 2;
    painter.drawLine(QPointF(x, rect.center().y() - half), QPointF(x, rect.center().y() + half));
  }
}

void OrderStrip::paintBed(QPainter& painter, int place) {
  const Theme& theme = Theme::current();
  const SoundBed& bed = m_document.project().beds[size_t(place)];
  const QRectF rect = bedRect(place);
  const bool selected = place == m_session.bed();
  painter.save();
  painter.setClipRect(rect.adjusted(-1, -1, 1, 1));
  painter.fillRect(rect, theme.raised);
  const double gain = std::pow(10, bed.levelDb / 20);
  const double length = rect.width() / m_pixelsPerSecond;
  painter.setPen(theme.accent);
  paintWaveform(painter, rect.adjusted(0, 2, 0, -2), bed.source, bed.in, [&](double at) {
    if (const double in = bed.fadeIn.toDouble(); at < in) return gain * at / in;
    if (const double out = bed.fadeOut.toDouble(); length - at < out) return gain * std::max(0.0, (length - at) / out);
    return gain;
  });
  QString label = tr("sound");
  if (const Source* source = m_document.project().source(bed.source))
    label = QString::fromStdString(sourceName(*source));
  if (bed.levelDb != 0) label += QStringLiteral(" · %1 dB").arg(bed.levelDb);
  if (bed.duck) label += tr(" · down under speech");
  const QRectF words(std::max(rect.left(), 0.0) + 5, rect.top(), fontMetrics().horizontalAdvance(label) + 8.0,
                     rect.height());
  QColor back = theme.sheet;
  back.setAlphaF(0.8F);
  painter.fillRect(words.adjusted(-3, 5, -3, -5), back);
  painter.setPen(theme.ink);
  painter.drawText(words, Qt::AlignVCenter | Qt::AlignLeft, label);
  painter.setPen(QPen(selected ? theme.accent : theme.line, selected ? 2.5 : 1));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5));
  painter.restore();
}

void OrderStrip::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  painter.fillRect(rect(), theme.paper);
  if (m_document.project().shots.empty()) {
    painter.setPen(theme.faint);
    painter.drawText(rect(), Qt::AlignCenter, tr("The running order is empty: add a shot from the footage"));
    return;
  }
  paintRuler(painter);
  paintRegions(painter);
  for (int row = 0; row < int(m_document.project().shots.size()); ++row) paintShot(painter, row);
  for (int bed = 0; bed < int(m_document.project().beds.size()); ++bed) paintBed(painter, bed);
  if (m_hold.grip == Grip::Shot && m_hold.moving && m_hold.dropBefore >= 0) {
    const double x = xOf(m_session.starts()[size_t(m_hold.dropBefore)]);
    painter.fillRect(QRectF(x - 2, shotsTop() - 3, 4, shotHeight() + 6), theme.accent);
  }
  const double x = xOf(m_session.playhead());
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme.ink, 1.5));
  painter.drawLine(QPointF(x, rulerHeight() - 6), QPointF(x, height() - (m_scroll->isVisible() ? kScroll : 0) - 2));
  painter.setBrush(theme.ink);
  painter.drawPolygon(QPolygonF{
      {x - 5, double(rulerHeight() - 12)}, {x + 5, double(rulerHeight() - 12)}, {x, double(rulerHeight() - 4)}});
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 1));
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  }
}

} // namespace tromb
