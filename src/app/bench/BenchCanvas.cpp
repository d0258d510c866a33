// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BenchCanvas.h"

#include <QMouseEvent>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kAroundCanvas = 8;
constexpr double kLeastBoxSide = 8; ///< pixels of the picture
constexpr double kCorner = 9;
constexpr double kSubjectReach = 13;
constexpr double kSnapReach = 7;   ///< pixels of the screen
constexpr double kUsualBox = 0.12; ///< of the picture's longer side

} // namespace

BenchCanvas::BenchCanvas(Bench& bench, QWidget* parent) : QWidget(parent), m_bench(bench), m_held(bench.document()) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(320, 200);
  setAccessibleName(tr("The source picture with all windows"));
  connect(&bench, &Bench::changed, this, qOverload<>(&QWidget::update));
  connect(&bench, &Bench::moved, this, qOverload<>(&QWidget::update));
}

void BenchCanvas::setPicture(const QImage& picture) {
  m_picture = picture;
  m_drawn = {};
  update();
}

void BenchCanvas::setLoupe(bool shown) {
  m_loupe = shown;
  update();
}

void BenchCanvas::setFound(std::shared_ptr<const FramingService::Found> found) {
  if (found == m_found) return;
  m_found = std::move(found);
  update();
}

void BenchCanvas::setThirds(bool shown) {
  m_thirds = shown;
  update();
}

void BenchCanvas::setBoxing(bool boxing) {
  if (m_boxing == boxing) return;
  m_boxing = boxing;
  m_box = {};
  setCursor(boxing ? Qt::CrossCursor : Qt::ArrowCursor);
  update();
  if (!boxing) emit boxingEnded();
}

QRectF BenchCanvas::usualBox() const {
  const SizeF whole = m_bench.picture();
  const double side = kUsualBox * std::max(whole.width, whole.height);
  const QPointF centre = m_bench.subject().value_or(QPointF(whole.width / 2, whole.height / 2));
  return QRectF(centre.x() - side / 2, centre.y() - side / 2, side, side) & QRectF(0, 0, whole.width, whole.height);
}

QRectF BenchCanvas::pictureRect() const {
  const SizeF picture = m_bench.picture();
  const QRectF room = QRectF(rect()).adjusted(kAroundCanvas, kAroundCanvas, -kAroundCanvas, -kAroundCanvas);
  const double scale = std::min(room.width() / picture.width, room.height() / picture.height);
  const QSizeF size(picture.width * scale, picture.height * scale);
  return {room.center() - QPointF(size.width() / 2, size.height() / 2), size};
}

QPointF BenchCanvas::toScreen(QPointF at) const {
  const QRectF shown = pictureRect();
  return shown.topLeft() + at * (shown.width() / m_bench.picture().width);
}

QPointF BenchCanvas::toPicture(QPointF screen) const {
  const QRectF shown = pictureRect();
  return (screen - shown.topLeft()) * (m_bench.picture().width / shown.width());
}

QRectF BenchCanvas::toScreen(const QRectF& picture) const {
  return {toScreen(picture.topLeft()), toScreen(picture.bottomRight())};
}

/// Puts each name in a corner of its window so that no two names overlap.
std::vector<QRectF> BenchCanvas::labelRects() const {
  const auto& all = m_bench.document().project().deliverables;
  std::vector<QRectF> placed(all.size());
  const double height = fontMetrics().height();
  const auto place = [&](int column) {
    const QRectF window = toScreen(m_bench.windowRect(column, 0)) & QRectF(rect());
    const double width = fontMetrics().horizontalAdvance(QString::fromStdString(all[size_t(column)].name)) + 8.0;
    const double left = window.left() + 2;
    const double right = window.right() - width - 2;
    for (const double down : {0.0, 1.0, 2.0, 3.0, 4.0})
      for (const bool top : {true, false})
        for (const double x : {left, right}) {
          const double step = down * (height + 2);
          const QRectF label(x, top ? window.top() + 2 + step : window.bottom() - height - 2 - step, width, height);
          const bool free = std::none_of(placed.begin(), placed.end(), [&](const QRectF& other) {
            return other.adjusted(-2, -1, 2, 1).intersects(label);
          });
          if (free && window.height() > height) {
            placed[size_t(column)] = label;
            return;
          }
        }
  };
  if (!all.empty()) place(m_bench.column());
  for (const int column : m_bench.columns())
    if (column != m_bench.column()) place(column);
  return placed;
}

std::vector<PaintedPart> BenchCanvas::paintedParts() const {
  std::vector<PaintedPart> parts;
  if (!m_bench.media()) return parts;
  const auto& all = m_bench.document().project().deliverables;
  const auto place = [](QPointF at) { return tr("at %1, %2").arg(qRound(at.x())).arg(qRound(at.y())); };
  for (const int column : m_bench.columns()) {
    const QRectF window = m_bench.windowRect(column, 0);
    const Cell cell = m_bench.cell(column);
    PaintedPart part;
    part.name = tr("Window of %1").arg(QString::fromStdString(all[size_t(column)].name));
    part.value = tr("%1×%2 %3, %4")
                     .arg(qRound(window.width()))
                     .arg(qRound(window.height()))
                     .arg(place(window.center()), cell.framing.byHand() ? tr("by hand") : tr("follows the subject"));
    part.rect = toScreen(window).toAlignedRect();
    part.selected = column == m_bench.column() && !m_bench.placesSubject();
    parts.push_back(part);
  }
  if (const auto subject = m_bench.subject()) {
    const QPoint at = toScreen(*subject).toPoint();
    parts.push_back({tr("Subject"), place(*subject), QRect(at - QPoint(8, 8), QSize(16, 16)), m_bench.placesSubject()});
  }
  return parts;
}

QString BenchCanvas::paintedValue() const {
  const Shot* shot = m_bench.shot();
  return shot ? tr("%1, frame %2").arg(QString::fromStdString(shot->name)).arg(m_bench.frame()) : tr("no shot");
}

void BenchCanvas::pressPart(int part) {
  const std::vector<int> columns = m_bench.columns();
  m_bench.setPlacesSubject(part >= int(columns.size()));
  if (part < int(columns.size())) m_bench.session().setDeliverable(columns[size_t(part)]);
}

BenchCanvas::Under BenchCanvas::under(QPointF screen) const {
  if (!m_bench.media()) return {};
  // Keys of a path are tried first because they are drawn last. The key at the present frame is left out, because the
  // subject or the window stands there.
  if (const Move* move = m_bench.moves().move(); move && move->size() > 1) {
    const auto now = m_bench.moves().keyAt(m_bench.time());
    for (int key = 0; key < int(move->size()); ++key) {
      const MoveKey& each = (*move)[size_t(key)];
      const QPointF at = toScreen(QPointF(each.x * m_bench.picture().width, each.y * m_bench.picture().height));
      if (now != key && QLineF(at, screen).length() < kCorner) return {Grip::Key, m_bench.column(), key};
    }
  }
  if (const auto subject = m_bench.subject(); subject && QLineF(toScreen(*subject), screen).length() < kSubjectReach)
    return {Grip::Subject, m_bench.column(), m_bench.window()};
  const QRectF active = toScreen(m_bench.windowRect(m_bench.column(), m_bench.window()));
  for (const QPointF corner : {active.topLeft(), active.topRight(), active.bottomLeft(), active.bottomRight()})
    if (std::abs(corner.x() - screen.x()) < kCorner && std::abs(corner.y() - screen.y()) < kCorner)
      return {Grip::Corner, m_bench.column(), m_bench.window()};
  const std::vector<QRectF> labels = labelRects();
  for (const int column : m_bench.columns())
    if (labels[size_t(column)].contains(screen)) return {Grip::Window, column, 0};
  const Cell cell = m_bench.cell(m_bench.column());
  for (int window = 0; window < int(cell.framing.windows.size()); ++window)
    if (toScreen(m_bench.windowRect(m_bench.column(), window)).contains(screen))
      return {Grip::Window, m_bench.column(), window};
  for (const int column : m_bench.columns())
    if (toScreen(m_bench.windowRect(column, 0)).contains(screen)) return {Grip::Window, column, 0};
  return {};
}

void BenchCanvas::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  m_grabbed = toPicture(event->position());
  if (m_boxing) return;
  const Under there = under(event->position());
  m_grip = there.grip;
  if (there.column >= 0 && there.column != m_bench.column()) m_bench.session().setDeliverable(there.column);
  m_key = there.grip == Grip::Key ? there.window : -1;
  if (there.grip == Grip::Window && there.window != m_bench.window()) m_bench.setWindow(there.window);
  if (there.grip != Grip::None && there.grip != Grip::Key) m_bench.setPlacesSubject(there.grip == Grip::Subject);
  m_grabbedRect = m_bench.windowRect(m_bench.column(), m_bench.window());
  if (m_bench.media()) m_grabbedZoom = windowNow(m_bench.cell(m_bench.column()), size_t(m_bench.window())).zoom;
  m_gesture = m_bench.document().newGesture();
}

void BenchCanvas::mouseMoveEvent(QMouseEvent* event) {
  m_pointer = event->position();
  const QPointF at = toPicture(event->position());
  if (m_boxing) {
    if (event->buttons() & Qt::LeftButton) {
      const SizeF whole = m_bench.picture();
      m_box = QRectF(m_grabbed, at).normalized() & QRectF(0, 0, whole.width, whole.height);
      update();
    }
    return;
  }
  const bool free = event->modifiers() & Qt::AltModifier; // Alt turns snapping off
  switch (m_grip) {
  case Grip::Subject:
    m_bench.placing().placeSubject(at, m_gesture);
    break;
  case Grip::Key:
    if (const Move* move = m_bench.moves().move(); move && m_key < int(move->size())) {
      MoveKey key = (*move)[size_t(m_key)];
      key.x = at.x() / m_bench.picture().width;
      key.y = at.y() / m_bench.picture().height;
      m_bench.moves().changeKey(m_key, key, m_gesture);
    }
    break;
  case Grip::Window:
    if (event->buttons() & Qt::LeftButton && (at - m_grabbed).manhattanLength() > 1e-6)
      m_bench.placing().placeWindow(m_grabbedRect.center() + at - m_grabbed,
                                    free ? 0 : kSnapReach * m_bench.picture().width / pictureRect().width(), m_gesture);
    break;
  case Grip::Corner: {
    // The window keeps its shape, so only the distance of the pointer from its centre matters.
    const QPointF centre = m_grabbedRect.center();
    const double before = QLineF(centre, m_grabbed).length();
    const double now = std::max(1.0, QLineF(centre, at).length());
    if (before > 1) m_bench.placing().zoomWindow(m_grabbedZoom * before / now, !free, m_gesture);
    break;
  }
  case Grip::None: {
    const Under there = under(event->position());
    setCursor(there.grip == Grip::Subject  ? Qt::CrossCursor
              : there.grip == Grip::Key    ? Qt::SizeAllCursor
              : there.grip == Grip::Corner ? Qt::SizeFDiagCursor
              : there.grip == Grip::Window ? Qt::OpenHandCursor
                                           : Qt::ArrowCursor);
  }
  }
  if (m_loupe) update();
}

void BenchCanvas::mouseReleaseEvent(QMouseEvent*) {
  if (m_boxing && !m_box.isEmpty()) {
    const QRectF box = m_box;
    setBoxing(false);
    emit boxed(box);
  }
  m_grip = Grip::None;
}

void BenchCanvas::mouseDoubleClickEvent(QMouseEvent* event) {
  if (!pictureRect().contains(event->position())) return;
  m_bench.setPlacesSubject(true);
  m_bench.placing().placeSubject(toPicture(event->position()), 0);
}

void BenchCanvas::zoomBy(double factor) {
  if (!m_bench.media()) return;
  const double zoom = windowNow(m_bench.cell(m_bench.column()), size_t(m_bench.window())).zoom;
  m_bench.setPlacesSubject(false);
  m_bench.placing().zoomWindow(zoom * factor, false, m_held.of(QStringLiteral("zoom")));
}

void BenchCanvas::wheelEvent(QWheelEvent* event) {
  zoomBy(std::pow(1.05, event->angleDelta().y() / 120.0));
  event->accept();
}

void BenchCanvas::leaveEvent(QEvent*) {
  m_pointer = {-1, -1};
  update();
}

/// Moves the box with the arrow keys, or its right and lower edges if Shift is held. A step is a hundredth of the
/// picture, with Ctrl a pixel. False for other keys.
bool BenchCanvas::placeBox(int key, Qt::KeyboardModifiers modifiers) {
  const int across = key == Qt::Key_Left ? -1 : key == Qt::Key_Right ? 1 : 0;
  const int down = key == Qt::Key_Up ? -1 : key == Qt::Key_Down ? 1 : 0;
  if (across == 0 && down == 0) return false;
  const SizeF whole = m_bench.picture();
  const double step = modifiers & Qt::ControlModifier ? 1 : whole.width / 100;
  QRectF box = m_box.isEmpty() ? usualBox() : m_box;
  if (modifiers & Qt::ShiftModifier) {
    box.setWidth(std::clamp(box.width() + across * step, kLeastBoxSide, whole.width - box.left()));
    box.setHeight(std::clamp(box.height() + down * step, kLeastBoxSide, whole.height - box.top()));
  } else {
    box.moveLeft(std::clamp(box.left() + across * step, 0.0, whole.width - box.width()));
    box.moveTop(std::clamp(box.top() + down * step, 0.0, whole.height - box.height()));
  }
  m_box = box;
  update();
  return true;
}

void BenchCanvas::keyPressEvent(QKeyEvent* event) {
  const int step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  const auto nudge = [&](int x, int y) {
    m_bench.placing().nudge(x * step, y * step, m_held.of(QStringLiteral("slide")));
  };
  if (m_boxing && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)) {
    const QRectF box = m_box.isEmpty() ? usualBox() : m_box;
    setBoxing(false);
    emit boxed(box);
    return;
  }
  if (m_boxing && event->key() == Qt::Key_Escape) return setBoxing(false);
  if (m_boxing && placeBox(event->key(), event->modifiers())) return;
  switch (event->key()) {
  case Qt::Key_Left:
    return nudge(-1, 0);
  case Qt::Key_Right:
    return nudge(1, 0);
  case Qt::Key_Up:
    return nudge(0, -1);
  case Qt::Key_Down:
    return nudge(0, 1);
  case Qt::Key_Plus:
  case Qt::Key_Equal:
    return zoomBy(1.05);
  case Qt::Key_Minus:
    return zoomBy(1 / 1.05);
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tromb
