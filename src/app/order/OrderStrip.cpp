// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/OrderStrip.h"

#include "app/style/Theme.h"
#include "model/ElementPictures.h"
#include "time/Timecode.h"

#include <QMouseEvent>
#include <QScrollBar>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <utility>

namespace tromb {
namespace {

constexpr int kShotPicture = 42;
constexpr double kMostMagnified = 400;

} // namespace

OrderStrip::OrderStrip(Session& session, PosterService& posters, WaveformService& waveforms, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_posters(posters), m_waveforms(waveforms),
      m_scroll(new QScrollBar(Qt::Horizontal, this)), m_held(m_document) {
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
  connect(&m_document, &Document::elementsChanged, this, changed);
  connect(&session, &Session::selectionChanged, this, qOverload<>(&QWidget::update));
  connect(&session, &Session::playheadMoved, this, &OrderStrip::showPlayhead);
  connect(&posters, &PosterService::ready, this, qOverload<>(&QWidget::update));
  connect(&waveforms, &WaveformService::ready, this, qOverload<>(&QWidget::update));
  readSettings();
  documentChanged();
}

QSize OrderStrip::sizeHint() const {
  const int regions = regionCount() == 0 ? 0 : regionHeight();
  const int scroll = m_slim && !m_scroll->isVisibleTo(this) ? 0 : kScroll;
  return {600, rulerHeight() + regions + shotHeight() + 2 * kGap + bedCount() * (bedHeight() + kGap) +
                   (elementHeight() > 0 ? elementHeight() + kGap : 0) + scroll + 4};
}

// Lanes are as high as the desktop's type asks.
int OrderStrip::rulerHeight() const {
  return fontMetrics().height() + 3;
}
int OrderStrip::regionHeight() const {
  return fontMetrics().height() + 1;
}
int OrderStrip::shotHeight() const {
  return pictureHeight() + fontMetrics().height() + 1;
}
int OrderStrip::bedHeight() const {
  return fontMetrics().height() + 11;
}

int OrderStrip::pictureHeight() const {
  return m_slim ? 3 : kShotPicture;
}
int OrderStrip::bedCount() const {
  return m_slim ? 0 : int(m_document.project().beds.size());
}
int OrderStrip::regionCount() const {
  return m_slim ? 0 : int(m_document.project().regions.size());
}

void OrderStrip::readSettings() {
  m_pictures = Settings::stripPictures();
  update();
}

void OrderStrip::setSlim(bool slim) {
  if (m_slim == slim) return;
  m_slim = slim;
  documentChanged();
}

int OrderStrip::shotsTop() const {
  return rulerHeight() + (regionCount() == 0 ? 0 : regionHeight()) + kGap;
}

int OrderStrip::elementHeight() const {
  return m_slim || m_document.project().elements.empty() ? 0 : fontMetrics().height() + 2;
}

int OrderStrip::elementsTop() const {
  return shotsTop() + shotHeight() + kGap;
}

int OrderStrip::bedsTop() const {
  return elementsTop() + (elementHeight() > 0 ? elementHeight() + kGap : 0);
}

void OrderStrip::documentChanged() {
  m_elements = stretchesOf(m_document.project());
  const int before = minimumHeight();
  if (sizeHint().height() != before) setFixedHeight(sizeHint().height());
  layOut();
  update();
}

void OrderStrip::layOut() {
  const double total = std::max(0.1, m_session.starts().back().toDouble());
  const double room = std::max(50, width() - 2 * kEdge);
  // The scale stays while an end is dragged; otherwise the end would move away from the pointer.
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
  // A bed is drawn only up to the end of the running order, since an export ends there.
  const Rational length = std::min(bed.out - bed.in, m_session.starts().back() - bed.start);
  return {xOf(bed.start), double(bedsTop() + place * (bedHeight() + kGap)),
          std::max(8.0, length.toDouble() * m_pixelsPerSecond), double(bedHeight())};
}

QRectF OrderStrip::elementRect(int element) const {
  const auto& [begin, end] = m_elements[size_t(element)];
  const double left = xOf(begin);
  const double right = xOf(std::min(end, m_session.starts().back()));
  return {left, double(elementsTop()), std::max(3.0, right - left), double(elementHeight())};
}

int OrderStrip::elementAt(double x) const {
  int found = -1;
  for (int i = 0; i < int(m_elements.size()); ++i)
    if (const QRectF at = elementRect(i); x >= at.left() && x < at.right()) found = i;
  return found;
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

std::vector<PaintedPart> OrderStrip::paintedParts() const {
  const Project& project = m_document.project();
  std::vector<PaintedPart> parts;
  for (int row = 0; row < int(project.shots.size()); ++row) {
    const Shot& shot = project.shots[size_t(row)];
    PaintedPart part;
    part.name = tr("Shot %1, %2").arg(row + 1).arg(QString::fromStdString(shot.name));
    part.value = tr("%1 long").arg(QString::fromStdString(clockText(shot.duration())));
    if (shot.muted) part.value += tr(", muted");
    part.rect = shotRect(row).toAlignedRect();
    part.selected = m_session.isSelected(row);
    parts.push_back(part);
  }
  for (int bed = 0; bed < bedCount(); ++bed) {
    const SoundBed& sound = project.beds[size_t(bed)];
    const Source* source = project.source(sound.source);
    PaintedPart part;
    part.name = tr("Sound bed, %1").arg(source ? QString::fromStdString(sourceName(*source)) : QString());
    part.value = tr("from %1, %2 dB").arg(QString::fromStdString(clockText(sound.start))).arg(sound.levelDb);
    part.rect = bedRect(bed).toAlignedRect();
    part.selected = m_session.bed() == bed;
    parts.push_back(part);
  }
  constexpr int kMostNamed = 200;
  for (int i = 0; elementHeight() > 0 && i < std::min(kMostNamed, int(m_elements.size())); ++i) {
    PaintedPart part;
    part.name = tr("Over the shots, %1").arg(elementWords(project, project.elements[size_t(i)]));
    part.value = tr("from %1 to %2")
                     .arg(QString::fromStdString(clockText(m_elements[size_t(i)].first)),
                          QString::fromStdString(clockText(m_elements[size_t(i)].second)));
    part.rect = elementRect(i).toAlignedRect();
    parts.push_back(part);
  }
  return parts;
}

QString OrderStrip::paintedValue() const {
  const FrameRate& rate = m_session.rate();
  const Session::Under under = m_session.underPlayhead();
  const QString at = QString::fromStdString(timecode(rate.frameAt(m_session.playhead()), rate, hasDropFrame(rate)));
  return under.row < 0 ? at : tr("%1, in shot %2").arg(at).arg(under.row + 1);
}

void OrderStrip::pressPart(int part) {
  const int shots = int(m_document.project().shots.size());
  if (part < shots)
    m_session.selectShots({part});
  else if (part - shots < bedCount())
    m_session.selectBed(part - shots);
  else
    m_session.setPlayhead(m_elements[size_t(part - shots - bedCount())].first);
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
    if (out != was.pace.reversed)
      shot.out = timeOf(std::clamp<int64_t>(to, in + 1, clock.frameCount()));
    else
      shot.in = timeOf(std::clamp<int64_t>(to, 0, end - 1));
  }
  m_document.changeShots({shot}, out ? tr("Move the out point") : tr("Move the in point"), gesture);
}

void OrderStrip::hold(const Shot& was, const Rational& length, int gesture) {
  const FrameRate& rate = m_session.rate();
  Shot shot = was;
  shot.pace.held = std::max(rate.frameDuration(), rate.timeOf(rate.frameAt(length)));
  m_document.changeShots({shot}, tr("Change the length"), gesture);
}

void OrderStrip::trimSelected(bool out, int frames) {
  for (const int row : m_session.shots()) {
    const Shot& shot = m_document.project().shots[size_t(row)];
    const Result<MediaInfo>* media = m_document.media(shot.source);
    if (!media || !*media || !(*media)->video) continue;
    const FrameRate& rate = (*media)->kind == MediaKind::Still ? m_session.rate() : (*media)->video->clock.rate();
    const bool back = shot.pace.reversed;
    if (shot.pace.held > Rational(0))
      hold(shot, shot.pace.held + m_session.rate().timeOf(out ? frames : -frames), 0);
    else
      trim(shot, out, (out != back ? shot.out : shot.in) + rate.timeOf(back ? -frames : frames), 0);
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
  for (int bed = 0; bed < bedCount(); ++bed)
    if (bedRect(bed).contains(point)) {
      hold.grip = Grip::Bed;
      hold.place = bed;
      hold.bed = m_document.project().beds[size_t(bed)];
      return hold;
    }
  if (elementHeight() > 0 && point.y() >= elementsTop() && point.y() < bedsTop()) {
    hold.place = elementAt(point.x());
    if (hold.place >= 0) hold.grip = Grip::Element;
    return hold;
  }
  if (point.y() >= bedsTop()) return hold;
  const int row = shotAt(point.x());
  if (row < 0) return hold;
  hold.place = row;
  hold.shot = m_document.project().shots[size_t(row)];
  hold.grip = Grip::Shot;
  const QRectF rect = shotRect(row);
  // Only a selected shot can be trimmed, so that a hasty press between two shots does not move their ends.
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
  case Grip::Element:
    m_session.setPlayhead(timeAt(event->position().x()));
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
  case Grip::Element:
    m_session.setPlayhead(timeAt(point.x()));
    break;
  case Grip::In:
  case Grip::Out: {
    const bool out = m_hold.grip == Grip::Out;
    const Shot& shot = m_hold.shot;
    const TimeMap time = shot.time();
    const Rational length = secondsOf(time.length());
    if (time.held())
      hold(shot, out ? length + moved : length - moved, m_hold.gesture);
    else // by the speed at that end, which may be another than at the other
      trim(shot, out, time.sourceTime(out ? length + moved : moved), m_hold.gesture);
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
  const Hold hold = std::exchange(m_hold, Hold());
  if (hold.grip == Grip::Shot && hold.moving)
    drop(hold.dropBefore);
  else if (hold.grip == Grip::Shot && event->modifiers() == Qt::NoModifier)
    clicked(hold.place, Qt::NoModifier);
  layOut();
  update();
}

void OrderStrip::mouseDoubleClickEvent(QMouseEvent* event) {
  if (const Hold hold = gripAt(event->position()); hold.grip == Grip::Element) {
    emit elementAsked(m_document.project().elements[size_t(hold.place)].id);
    return;
  }
  if (const int row = shotAt(event->position().x()); row >= 0 && event->position().y() < elementsTop())
    m_session.setPlayhead(m_session.starts()[size_t(row)]);
}

void OrderStrip::wheelEvent(QWheelEvent* event) {
  if (event->modifiers() & Qt::ControlModifier)
    zoomBy(std::pow(1.2, event->angleDelta().y() / 120.0));
  else
    m_scroll->setValue(m_scroll->value() - event->angleDelta().y() - event->angleDelta().x());
  event->accept();
}

/// Moves the selection from the shots down to the first sound bed and on through the beds, and back up.
void OrderStrip::selectBeside(int direction) {
  const int bed = m_session.bed() + direction;
  if (bed >= 0 && bed < bedCount()) return m_session.selectBed(bed);
  if (m_session.bed() == 0 && direction < 0) m_session.selectShots({std::max(0, m_session.underPlayhead().row)});
}

/// Extends the selection to the neighbouring shot, from the shot at which selecting began.
void OrderStrip::extendSelection(int direction) {
  const std::vector<int> rows = m_session.shots();
  const int under = std::max(0, m_session.underPlayhead().row);
  if (rows.empty()) m_anchor = under;
  const int last = int(m_document.project().shots.size()) - 1;
  const int far = rows.empty() ? under : rows.front() < m_anchor ? rows.front() : rows.back();
  const int to = std::clamp(rows.empty() ? under : far + direction, 0, last);
  std::vector<int> wanted;
  for (int row = std::min(m_anchor, to); row <= std::max(m_anchor, to); ++row) wanted.push_back(row);
  m_session.selectShots(wanted);
}

void OrderStrip::slideBed(int frames) {
  std::vector<SoundBed> beds = m_document.project().beds;
  SoundBed& bed = beds[size_t(m_session.bed())];
  const FrameRate& rate = m_session.rate();
  bed.start = std::max(Rational(0), rate.timeOf(rate.frameAt(bed.start) + frames));
  m_document.setBeds(beds, tr("Move sound"), m_held.of(QStringLiteral("bed")));
}

void OrderStrip::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::SelectAll)) {
    std::vector<int> all;
    for (int row = 0; row < int(m_document.project().shots.size()); ++row) all.push_back(row);
    m_session.selectShots(all);
    return;
  }
  const int step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  const int64_t frame = m_session.rate().frameAt(m_session.playhead());
  const Session::Under under = m_session.underPlayhead();
  const int count = int(m_document.project().shots.size());
  switch (event->key()) {
  case Qt::Key_Left:
  case Qt::Key_Right: {
    const int by = event->key() == Qt::Key_Left ? -step : step;
    if (event->modifiers() & Qt::AltModifier) {
      if (m_session.bed() >= 0)
        slideBed(event->modifiers() & Qt::ShiftModifier ? by : by > 0 ? 1 : -1);
      else
        trimSelected(event->modifiers() & Qt::ShiftModifier, by > 0 ? 1 : -1);
    } else
      m_session.setPlayhead(m_session.rate().timeOf(frame + by));
    return;
  }
  case Qt::Key_Up:
  case Qt::Key_Down:
    return selectBeside(event->key() == Qt::Key_Up ? -1 : 1);
  case Qt::Key_PageUp:
  case Qt::Key_PageDown: {
    if (count == 0) return;
    if (event->modifiers() & Qt::ShiftModifier) return extendSelection(event->key() == Qt::Key_PageUp ? -1 : 1);
    // The neighbouring cut; the shot that begins there is selected.
    int row = under.row < 0 ? count : under.row;
    if (event->key() == Qt::Key_PageDown)
      row = std::min(count - 1, row + 1);
    else if (row == count || m_session.playhead() == m_session.starts()[size_t(row)])
      row = std::max(0, row - 1);
    m_session.setPlayhead(m_session.starts()[size_t(row)]);
    m_session.selectShots({row});
    m_anchor = row;
    return;
  }
  case Qt::Key_Home:
    return m_session.setPlayhead(Rational(0));
  case Qt::Key_End:
    return m_session.setPlayhead(m_session.starts().back());
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (under.row >= 0) m_session.selectShots({under.row});
    m_anchor = std::max(0, under.row);
    return;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tromb
