// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/watch/WatchStage.h"

#include "app/style/Theme.h"
#include "project/Sharing.h"

#include <QFileInfo>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kGap = 14;

/// Lays boxes of these sizes in lines of at most `width`, scaled; the rectangles, and how high they are in all.
std::vector<QRectF> inLines(const std::vector<QSizeF>& sizes, double scale, double width, double below, double& high) {
  std::vector<QRectF> rects;
  double x = 0;
  double top = 0;
  double line = 0;
  size_t first = 0;
  const auto centre = [&] {
    // Every line stands in the middle, its pictures on one foot.
    for (size_t i = first; i < rects.size(); ++i)
      rects[i].translate((width - (x - kGap)) / 2, line - rects[i].height());
    first = rects.size();
  };
  for (const QSizeF& size : sizes) {
    const QSizeF made = size * scale;
    if (x > 0 && x + made.width() > width + 0.5) {
      centre();
      top += line + below + kGap;
      x = line = 0;
    }
    rects.emplace_back(QPointF(x, top), made);
    x += made.width() + kGap;
    line = std::max(line, made.height());
  }
  centre();
  high = top + line + below;
  return rects;
}

} // namespace

WatchStage::WatchStage(Session& session, Watch& watch, Actions& actions, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_watch(watch), m_actions(actions) {
  setObjectName(QStringLiteral("watchStage"));
  setAccessibleName(tr("What is watched"));
  setFocusPolicy(Qt::StrongFocus);
  const auto again = [this] { arrange(); };
  connect(&watch, &Watch::fileChanged, this, again);
  connect(&watch, &Watch::pictured, this, [this] {
    m_failed.clear();
    update();
  });
  connect(&watch, &Watch::failed, this, [this](const QString& reason) {
    m_failed = reason;
    update();
  });
  connect(&session, &Session::selectionChanged, this, again);
  connect(&m_document, &Document::reset, this, again);
  connect(&m_document, &Document::deliverablesInserted, this, again);
  connect(&m_document, &Document::deliverablesRemoved, this, again);
  connect(&m_document, &Document::deliverableMoved, this, again);
  connect(&m_document, &Document::deliverableChanged, this, again);
  for (const char* id : {"thirds", "safe-areas", "covered"})
    connect(m_actions.at(id), &QAction::toggled, this, qOverload<>(&QWidget::update));
}

void WatchStage::setWatched(const WatchLayout& layout) {
  if (layout == m_layout) return;
  m_layout = layout;
  arrange();
}

void WatchStage::setBare(bool bare) {
  m_bare = bare;
  arrange();
}

double WatchStage::captionHeight() const {
  return m_bare ? 0 : fontMetrics().height() + 6;
}

/// Finds the largest pictures that fit, and asks for them.
void WatchStage::arrange() {
  m_screens.clear();
  m_rects.clear();
  const auto& all = m_document.project().deliverables;
  std::vector<QSizeF> sizes;
  const auto add = [&](int column, bool source, QSizeF size, bool file = false) {
    if (!m_layout.trueSizes) size = {size.width() / size.height(), 1};
    m_screens.push_back({column, source, {}, file});
    sizes.push_back(size);
  };
  const auto& file = m_watch.file();
  const int finished = file ? placeOf(all, file->deliverable) : -1;
  for (size_t i = 0; i < all.size(); ++i) {
    // A finished file is held against its deliverable alone.
    const bool wanted = finished >= 0  ? int(i) == finished
                        : m_layout.all ? framesItself(all[i])
                                       : int(i) == m_session.current().deliverable;
    if (wanted) add(int(i), false, {double(all[i].shownSize().width), double(all[i].canvas.height)});
  }
  if (finished >= 0) {
    const SizeF upright = file->media.video->shape().uprightWithBars();
    add(finished, false, {upright.width, upright.height}, true);
  }
  if (m_layout.source && !sizes.empty()) {
    // Footage is horizontal; what is not is drawn in the middle of its room.
    const double high = m_layout.trueSizes ? sizes.front().height() : 1;
    add(m_session.current().deliverable, true, {high * 16 / 9, high});
  }
  if (!isVisible() || sizes.empty()) {
    m_screens.clear();
    m_watch.setScreens(this, {});
    return update();
  }
  const double margin = m_bare ? 0 : kGap;
  const QRectF room = QRectF(rect()).adjusted(margin, margin, -margin, -margin);
  double least = 0;
  double most = 1e6;
  double high = 0;
  for (int i = 0; i < 60; ++i) {
    const double scale = (least + most) / 2;
    const bool wide = std::any_of(sizes.begin(), sizes.end(),
                                  [&](const QSizeF& size) { return size.width() * scale > room.width(); });
    (void)inLines(sizes, scale, room.width(), captionHeight(), high);
    (wide || high > room.height() ? most : least) = scale;
  }
  m_rects = inLines(sizes, least, room.width(), captionHeight(), high);
  for (size_t i = 0; i < m_rects.size(); ++i) {
    m_rects[i].translate(room.left(), room.top() + (room.height() - high) / 2);
    m_screens[i].most = (m_rects[i].size() * devicePixelRatioF()).toSize();
  }
  m_watch.setScreens(this, m_screens);
  update();
}

QString WatchStage::nameOf(size_t screen) const {
  const Deliverable& d = m_document.project().deliverables[size_t(m_screens[screen].column)];
  if (m_screens[screen].file && m_watch.file())
    return QFileInfo(QString::fromStdString(m_watch.file()->media.path)).fileName();
  if (!m_screens[screen].source) return QString::fromStdString(d.name);
  const int row = m_session.underPlayhead().row;
  return row < 0 ? tr("the source")
                 : tr("source of %1").arg(QString::fromStdString(m_document.project().shots[size_t(row)].name));
}

std::vector<PaintedPart> WatchStage::paintedParts() const {
  std::vector<PaintedPart> parts;
  const std::vector<Watch::Picture> pictures = m_watch.pictures(this);
  for (size_t i = 0; i < m_screens.size(); ++i) {
    const int64_t frame =
        i < pictures.size() ? (m_screens[i].source ? pictures[i].sourceFrame : pictures[i].frame) : -1;
    parts.push_back({nameOf(i), frame < 0 ? tr("no picture yet") : tr("frame %1").arg(frame),
                     m_rects[i].toAlignedRect(), m_screens[i].column == m_session.current().deliverable,
                     !m_screens[i].source});
  }
  return parts;
}

void WatchStage::pressPart(int part) {
  m_session.setDeliverable(m_screens[size_t(part)].column);
}

void WatchStage::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), m_bare ? QColor(Qt::black) : Theme::current().surround);
  painter.setPen(Qt::white);
  if (m_screens.empty() || !m_failed.isEmpty()) {
    painter.drawText(rect().adjusted(24, 24, -24, -24), int(Qt::AlignCenter) | Qt::TextWordWrap,
                     m_failed.isEmpty() ? tr("There is nothing to watch yet") : m_failed);
    return;
  }
  const CanvasGuides guides{m_actions.at("safe-areas")->isChecked(), m_actions.at("covered")->isChecked(),
                            m_actions.at("thirds")->isChecked()};
  const std::vector<Watch::Picture> pictures = m_watch.pictures(this);
  for (size_t i = 0; i < m_screens.size() && i < pictures.size(); ++i) {
    const QRectF& at = m_rects[i];
    const QImage& image = pictures[i].image;
    const bool smaller = image.width() < int(at.width() * devicePixelRatioF()) - 4;
    painter.setRenderHint(QPainter::SmoothPixmapTransform, smaller || m_screens[i].source);
    if (image.isNull()) {
      painter.fillRect(at, QColor(0, 0, 0, 60));
    } else if (m_screens[i].source) {
      const QSizeF fits = QSizeF(image.size()).scaled(at.size(), Qt::KeepAspectRatio);
      painter.drawImage(QRectF(at.center() - QPointF(fits.width(), fits.height()) / 2, fits), image);
    } else {
      painter.drawImage(at, image);
      if (!m_screens[i].file)
        paintGuides(painter, at, m_document.project().deliverables[size_t(m_screens[i].column)], guides);
    }
    if (m_bare) continue;
    const bool current = m_layout.all && !m_watch.file() && !m_screens[i].source &&
                         m_screens[i].column == m_session.current().deliverable;
    if (current) {
      painter.setPen(QPen(Theme::current().accent, 2));
      painter.setBrush(Qt::NoBrush);
      painter.drawRect(at.adjusted(-2, -2, 2, 2));
    }
    const QRectF line(at.left(), at.bottom() + 4, std::max(at.width(), 60.0), captionHeight());
    const int64_t number = m_screens[i].source ? pictures[i].sourceFrame : pictures[i].frame;
    const QString frame = number < 0 ? QString() : QString::number(number);
    const double wide = fontMetrics().horizontalAdvance(frame);
    painter.setPen(Qt::white);
    painter.drawText(line, int(Qt::AlignLeft | Qt::AlignTop),
                     fontMetrics().elidedText(nameOf(i), Qt::ElideRight, int(line.width() - wide - 8)));
    painter.setPen(QColor(255, 255, 255, 190));
    painter.drawText(line, int(Qt::AlignRight | Qt::AlignTop), frame);
  }
}

void WatchStage::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  arrange();
}

void WatchStage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  arrange();
}

void WatchStage::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  m_watch.setScreens(this, {});
}

void WatchStage::mousePressEvent(QMouseEvent* event) {
  for (size_t i = 0; i < m_rects.size(); ++i)
    if (m_rects[i].contains(event->position()) && !m_screens[i].source) m_session.setDeliverable(m_screens[i].column);
}

void WatchStage::keyPressEvent(QKeyEvent* event) {
  const int frames = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  const auto& all = m_document.project().deliverables;
  const int column = m_session.current().deliverable;
  switch (event->key()) {
  case Qt::Key_Left:
    return m_watch.step(-frames);
  case Qt::Key_Right:
    return m_watch.step(frames);
  case Qt::Key_Up:
    if (column > 0) m_session.setDeliverable(column - 1);
    return;
  case Qt::Key_Down:
    if (column + 1 < int(all.size())) m_session.setDeliverable(column + 1);
    return;
  case Qt::Key_Home:
    return m_session.setPlayhead(Rational(0));
  case Qt::Key_End:
    return m_session.setPlayhead(m_session.starts().back());
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tromb
