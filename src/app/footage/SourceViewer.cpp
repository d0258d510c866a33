// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/footage/SourceViewer.h"

#include "app/style/FlowLayout.h"
#include "app/style/Icons.h"
#include "app/style/Theme.h"
#include "app/watch/SystemSound.h"
#include "time/Timecode.h"

#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kMarkRoom = 9;
constexpr int kHandle = 9;
constexpr QSize kMostViewed{960, 540};
constexpr double kKeepsUp = 0.7;     ///< share of frames shown in time that is good enough
constexpr int64_t kJudgedAfter = 25; ///< pictures
constexpr int64_t kMostRate = 240;   ///< at which variable rates are looked at

} // namespace

StretchBar::StretchBar(QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("Length of the source, with in and out point"));
  setFixedHeight(sizeHint().height());
  setCursor(Qt::PointingHandCursor);
}

void StretchBar::setFrames(int64_t count) {
  m_count = std::max<int64_t>(1, count);
  update();
}

void StretchBar::setAt(int64_t frame) {
  m_at = frame;
  update();
}

void StretchBar::setStretch(int64_t in, int64_t end) {
  m_in = in;
  m_end = end;
  update();
}

double StretchBar::xOf(int64_t frame) const {
  return kMarkRoom + double(frame) / double(m_count) * (width() - 2 * kMarkRoom);
}

int64_t StretchBar::frameAt(double x) const {
  return std::clamp<int64_t>(std::lround((x - kMarkRoom) / (width() - 2 * kMarkRoom) * double(m_count)), 0, m_count);
}

void StretchBar::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const double middle = height() / 2.0;
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme.line);
  painter.drawRoundedRect(QRectF(kMarkRoom, middle - 3, width() - 2 * kMarkRoom, 6), 3, 3);
  painter.setBrush(theme.accent);
  painter.drawRect(QRectF(xOf(m_in), middle - 3, xOf(m_end) - xOf(m_in), 6));
  // Handles that open towards the stretch.
  painter.drawRoundedRect(QRectF(xOf(m_in) - kHandle + 1, middle - 9, kHandle, 18), 2, 2);
  painter.drawRoundedRect(QRectF(xOf(m_end) - 1, middle - 9, kHandle, 18), 2, 2);
  painter.setBrush(theme.ink);
  const double x = xOf(m_at);
  painter.drawRect(QRectF(x - 1, 1, 2, height() - 2));
  painter.drawEllipse(QPointF(x, 4), 3.5, 3.5);
}

void StretchBar::mousePressEvent(QMouseEvent* event) {
  const double x = event->position().x();
  m_dragged = Part::At;
  if (x < xOf(m_in) + 1 && x > xOf(m_in) - kHandle - 2) m_dragged = Part::In;
  if (x > xOf(m_end) - 1 && x < xOf(m_end) + kHandle + 2) m_dragged = Part::End;
  if (m_dragged == Part::At) drag(x);
}

std::vector<PaintedPart> StretchBar::paintedParts() const {
  const auto part = [this](const QString& name, int64_t frame) {
    return PaintedPart{name, tr("frame %1").arg(frame), QRect(int(xOf(frame)) - 4, 0, 8, height()), false, false};
  };
  return {part(tr("In point"), m_in), part(tr("Picture shown"), m_at), part(tr("Out point"), m_end - 1)};
}

QString StretchBar::paintedValue() const {
  return tr("frame %1 of %2, in %3, out %4").arg(m_at).arg(m_count).arg(m_in).arg(m_end - 1);
}

void StretchBar::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() & Qt::LeftButton) drag(event->position().x());
}

void StretchBar::drag(double x) {
  const int64_t frame = frameAt(x);
  if (m_dragged == Part::At)
    emit atDragged(std::min(frame, m_count - 1));
  else if (m_dragged == Part::In)
    emit inDragged(std::min(frame, m_count - 1));
  else
    emit endDragged(std::max<int64_t>(1, frame));
}

SourceViewer::SourceViewer(Session& session, LightService& lights, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_lights(lights), m_viewedSession(m_viewed),
      m_watch(m_viewedSession, lights, std::make_unique<SystemSound>()), m_screen(new QLabel(this)),
      m_bar(new StretchBar(this)), m_position(new TimecodeField(tr("Position in the source"), this)) {
  setObjectName(QStringLiteral("sourceViewer"));
  setAccessibleName(tr("Look through the source"));
  setFocusPolicy(Qt::StrongFocus);
  const auto tool = [this](const char* iconName, const QString& name, const QString& keys, auto run) {
    auto* button = new QToolButton(this);
    button->setIcon(icon(QLatin1String(iconName)));
    button->setAccessibleName(name);
    button->setToolTip(QStringLiteral("%1 (%2)").arg(name, keys));
    button->setFocusPolicy(Qt::TabFocus);
    connect(button, &QToolButton::clicked, this, run);
    return button;
  };
  m_play = tool("play", tr("Play or pause"), tr("Space"), [this] { playOrPause(); });
  m_back = tool("step-back", tr("One frame back"), tr("Left"), [this] { goTo(m_frame - 1); });
  m_forward = tool("step-forward", tr("One frame on"), tr("Right"), [this] { goTo(m_frame + 1); });
  m_in = tool("log-in", tr("In point here"), QStringLiteral("I"), [this] { setIn(); });
  m_out = tool("log-out", tr("Out point here"), QStringLiteral("O"), [this] { setOut(); });
  m_whole = tool("arrow-left-right", tr("The whole source"), QStringLiteral("A"), [this] { wholeSource(); });
  m_addEnd = new QPushButton(icon(QStringLiteral("plus"), Ink::OnAccent), tr("Add as a shot"), this);
  m_addEnd->setProperty("main", true);
  m_addEnd->setToolTip(tr("The stretch becomes a shot at the end of the running order (Enter)"));
  m_addHere = new QPushButton(tr("At the playhead"), this);
  m_addHere->setToolTip(tr("The stretch becomes a shot at the running order's playhead (Shift+Enter)"));
  m_screen->setAlignment(Qt::AlignCenter);
  m_screen->setMinimumSize(240, 135);
  // The height is not fixed because the rows may wrap, which makes them taller than their size hint.
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Minimum);
  m_screen->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  m_screen->setAccessibleName(tr("Picture of the source"));
  m_screen->installEventFilter(this);

  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(4);
  rows->addWidget(m_screen);
  rows->addWidget(m_bar);
  auto* moving = new QWidget(this);
  auto* line = new FlowLayout(moving, 4);
  line->setContentsMargins(0, 0, 0, 0);
  line->addWidget(m_position);
  for (QToolButton* button : {m_back, m_play, m_forward, m_in, m_out, m_whole}) line->addWidget(button);
  rows->addWidget(moving);
  auto* adding = new QWidget(this);
  auto* add = new FlowLayout(adding, 4);
  add->setContentsMargins(0, 0, 0, 0);
  add->addWidget(m_addEnd);
  add->addWidget(m_addHere);
  rows->addWidget(adding);

  connect(m_bar, &StretchBar::atDragged, this, [this](qint64 frame) { goTo(frame); });
  connect(m_bar, &StretchBar::inDragged, this, [this](qint64 frame) {
    const int64_t end = stretch().end;
    m_session.setStretch(m_source, {std::min<int64_t>(frame, end - 1), end});
    goTo(stretch().in);
  });
  connect(m_bar, &StretchBar::endDragged, this, [this](qint64 frame) {
    const int64_t in = stretch().in;
    m_session.setStretch(m_source, {in, std::max<int64_t>(frame, in + 1)});
    goTo(stretch().end - 1);
  });
  connect(m_position, &TimecodeField::timeTyped, this, [this] {
    if (media()) goTo(media()->video->clock.nearest(m_position->time()));
  });
  connect(m_addEnd, &QPushButton::clicked, this, [this] { emit addRequested(false); });
  connect(m_addHere, &QPushButton::clicked, this, [this] { emit addRequested(true); });
  connect(&m_watch, &Watch::pictured, this, &SourceViewer::takePicture);
  connect(&m_watch, &Watch::stateChanged, this, &SourceViewer::refresh);
  connect(&m_watch, &Watch::failed, this, [this](const QString& reason) {
    m_picture = {};
    m_screen->setText(reason);
  });
  connect(&lights, &LightService::ready, this, [this](const QString& id) {
    if (id.toStdString() == m_source) refresh();
  });
  connect(&m_document, &Document::mediaChanged, this, [this](const QStringList& ids) {
    if (ids.contains(QString::fromStdString(m_source))) reopen();
  });
  connect(&m_document, &Document::sourceChanged, this, [this] {
    const Source* source = m_document.project().source(m_source);
    if (source &&
        (source->bars != m_shown.bars || source->scan != m_shown.scan || source->orientation != m_shown.orientation))
      reopen();
  });
  connect(&m_document, &Document::sourcesRemoved, this, [this] {
    if (!m_document.project().source(m_source)) setSource({});
  });
  connect(&m_document, &Document::reset, this, [this] { setSource({}); });
  connect(&session, &Session::stretchChanged, this, [this](const std::string& id) {
    if (id == m_source) refresh();
  });
  setSource({});
}

const MediaInfo* SourceViewer::media() const {
  const Result<MediaInfo>* known = m_document.media(m_source);
  return known && *known && (*known)->video ? &**known : nullptr;
}

int64_t SourceViewer::count() const {
  return media() ? media()->video->clock.frameCount() : 1;
}

void SourceViewer::setSource(const std::string& id) {
  if (id == m_source && !id.empty()) return;
  m_source = id;
  m_frame = 0;
  reopen();
}

void SourceViewer::reopen() {
  m_picture = {};
  m_screen->clear();
  m_watch.pause();
  const Source* source = m_document.project().source(m_source);
  if (const MediaInfo* info = media(); info && source) {
    m_shown = *source;
    m_frame = std::clamp<int64_t>(m_frame, 0, count() - 1);
    if (m_frame == 0) m_frame = stretch().in;
    Project alone;
    alone.sources = {*source};
    alone.shots = {newShot(alone, *source, *info)};
    alone.shots[0].id = alone.sources[0].id;
    alone.shots[0].pace = {};
    Deliverable whole;
    whole.id = source->id;
    whole.rate = viewedRate();
    whole.encoding.codec = Codec::Ffv1; // which has no limits
    whole.encoding.container = Container::Mkv;
    alone.deliverables = {whole};
    m_viewed.open(alone, {});
    m_viewed.setMedia({{source->id, *info}});
    m_viewedSession.setRate(whole.rate);
    askScreen();
    goTo(m_frame);
  } else {
    m_watch.setScreens(this, {});
    m_screen->setText(!source                                 ? tr("Choose a source to look through it")
                      : m_document.media(m_source) == nullptr ? tr("looking …")
                                                              : tr("There is no picture to show"));
  }
  refresh();
}

/// The rate at which every picture of the source comes up: its own, or of a variable rate that of its shortest picture.
FrameRate SourceViewer::viewedRate() const {
  const FrameClock& clock = media()->video->clock;
  const std::vector<int64_t>* stamps = clock.stamps();
  if (!stamps) return clock.rate();
  Rational shortest = clock.rate().frameDuration();
  for (size_t i = 1; i < stamps->size(); ++i)
    if ((*stamps)[i] > (*stamps)[i - 1])
      shortest = std::min(shortest, Rational((*stamps)[i] - (*stamps)[i - 1]) * clock.tick());
  return FrameRate(Rational(std::min(kMostRate, (Rational(1) / shortest).ceil())));
}

void SourceViewer::askScreen() {
  const QSize most = (m_screen->size() * devicePixelRatioF()).boundedTo(kMostViewed * 2);
  if (media()) m_watch.setScreens(this, {{0, true, most}});
}

void SourceViewer::takePicture() {
  const std::vector<Watch::Picture> pictures = m_watch.pictures(this);
  if (pictures.empty() || pictures[0].image.isNull()) return;
  m_picture = pictures[0].image;
  if (m_watch.playing()) {
    m_frame = pictures[0].sourceFrame;
    // If playing cannot keep up with the rate, a lighter copy is made.
    const Watch::Pace& pace = m_watch.pace();
    if (pace.shown + pace.leftOut > kJudgedAfter &&
        double(pace.leftOut) > (1 - kKeepsUp) * double(pace.shown + pace.leftOut))
      m_lights.ask(m_source);
  }
  showPicture();
  refresh();
}

void SourceViewer::goTo(int64_t frame) {
  if (!media()) return;
  m_watch.pause();
  m_frame = std::clamp<int64_t>(frame, 0, count() - 1);
  const FrameRate rate = viewedRate();
  m_viewedSession.setPlayhead(rate.timeOf(rate.frameAt(media()->video->clock.timeOf(m_frame))));
  refresh();
}

void SourceViewer::setIn() {
  if (!media()) return;
  const int64_t end = stretch().end;
  m_session.setStretch(m_source, {m_frame, end > m_frame ? end : count()});
}

void SourceViewer::setOut() {
  if (!media()) return;
  const int64_t in = stretch().in;
  m_session.setStretch(m_source, {in <= m_frame ? in : 0, m_frame + 1});
}

void SourceViewer::wholeSource() {
  if (media()) m_session.setStretch(m_source, {0, count()});
}

void SourceViewer::playOrPause() {
  if (!media() || media()->kind != MediaKind::Video) return;
  if (!m_watch.playing() && m_frame + 1 >= count()) goTo(stretch().in);
  m_watch.playOrPause();
}

void SourceViewer::refresh() {
  const MediaInfo* info = media();
  const bool video = info && info->kind == MediaKind::Video;
  for (QWidget* each :
       std::initializer_list<QWidget*>{m_bar, m_position, m_play, m_back, m_forward, m_in, m_out, m_whole})
    each->setEnabled(video);
  m_addEnd->setEnabled(info != nullptr);
  m_addHere->setEnabled(info != nullptr && !m_document.project().shots.empty());
  m_play->setIcon(icon(m_watch.playing() ? QStringLiteral("pause") : QStringLiteral("play")));
  if (!info) {
    m_addEnd->setText(tr("Add as a shot"));
    m_bar->setFrames(1);
    m_bar->setAt(0);
    m_bar->setStretch(0, 1);
    return;
  }
  const FrameClock& clock = info->video->clock;
  m_position->setRate(clock.rate());
  m_position->setLabels(info->video->timecode, clock.frameCount());
  m_position->setTime(clock.timeOf(m_frame));
  const Session::Stretch s = stretch();
  m_bar->setFrames(count());
  m_bar->setAt(m_frame);
  m_bar->setStretch(s.in, s.end);
  const auto [in, out] = m_session.stretchSeconds(m_source);
  m_addEnd->setText(video ? tr("Add %1 as a shot")
                                .arg(QString::fromStdString(
                                    timecode(clock.rate().frameAt(out - in), clock.rate(), hasDropFrame(clock.rate()))))
                          : tr("Add as a shot of %1 s").arg(kStillLength.toDouble()));
}

void SourceViewer::showPicture() {
  if (m_picture.isNull()) return;
  const double scale = devicePixelRatioF();
  QPixmap pixmap =
      QPixmap::fromImage(m_picture.scaled(m_screen->size() * scale, Qt::KeepAspectRatio,
                                          m_watch.playing() ? Qt::FastTransformation : Qt::SmoothTransformation));
  pixmap.setDevicePixelRatio(scale);
  m_screen->setPixmap(pixmap);
}

void SourceViewer::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  // The words below need their room too.
  m_screen->setFixedHeight(std::clamp(width() * 9 / 16, 135, std::max(136, window()->height() * 3 / 10)));
  askScreen();
  showPicture();
}

bool SourceViewer::eventFilter(QObject* watched, QEvent* event) {
  if (watched == m_screen && event->type() == QEvent::Paint) {
    QPainter painter(m_screen);
    painter.fillRect(m_screen->rect(), Theme::current().surround);
    if (m_screen->pixmap().isNull()) {
      painter.setPen(Qt::white);
      painter.drawText(m_screen->rect().adjusted(12, 0, -12, 0), int(Qt::AlignCenter) | Qt::TextWordWrap,
                       m_screen->text());
    } else {
      const QSizeF size = QSizeF(m_screen->pixmap().size()) / m_screen->pixmap().devicePixelRatio();
      painter.drawPixmap(QPointF((m_screen->width() - size.width()) / 2, (m_screen->height() - size.height()) / 2),
                         m_screen->pixmap());
    }
    return true;
  }
  return QWidget::eventFilter(watched, event);
}

void SourceViewer::keyPressEvent(QKeyEvent* event) {
  const int step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (event->key()) {
  case Qt::Key_Left:
    return goTo(m_frame - step);
  case Qt::Key_Right:
    return goTo(m_frame + step);
  case Qt::Key_Home:
    return goTo(event->modifiers() & Qt::ShiftModifier ? stretch().in : 0);
  case Qt::Key_End:
    return goTo(event->modifiers() & Qt::ShiftModifier ? stretch().end - 1 : count() - 1);
  case Qt::Key_I:
    return setIn();
  case Qt::Key_O:
    return setOut();
  case Qt::Key_A:
    return wholeSource();
  case Qt::Key_L:
    return m_watch.playFaster(false);
  case Qt::Key_J:
    return m_watch.playFaster(true);
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (media()) emit addRequested(event->modifiers() & Qt::ShiftModifier);
    return;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tromb
