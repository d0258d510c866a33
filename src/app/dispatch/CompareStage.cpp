// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/CompareStage.h"

#include "app/style/Theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kRoundPictures = 10;
constexpr double kHandle = 9; ///< half of the handle of the line, and how near to it the mouse has to be
constexpr int kFarStep = 10;  ///< frames
constexpr double kWipeStep = 0.02;
constexpr double kPanStep = 64; ///< pixels of the picture

} // namespace

CompareStage::CompareStage(CompareService& service, QWidget* parent) : QWidget(parent), m_service(service) {
  setObjectName(QStringLiteral("compareStage"));
  setFocusPolicy(Qt::StrongFocus);
  connect(&service, &CompareService::pictured, this, &CompareStage::take);
}

void CompareStage::setNames(const QString& first, const QString& second) {
  m_names[0] = first;
  m_names[1] = second;
  update();
}

void CompareStage::setWay(CompareWay way) {
  m_way = way;
  ask();
  update();
}

void CompareStage::setPixelForPixel(bool on) {
  m_exact = on;
  m_centre = {-1, -1};
  setCursor(on ? Qt::OpenHandCursor : Qt::ArrowCursor);
  update();
}

void CompareStage::setSaid(const QString& words) {
  m_said = words;
  update();
}

/// Asks for pictures that fit.
void CompareStage::ask() {
  if (m_service.pair().frame < 0) {
    m_service.setMost((QSizeF(size()) * devicePixelRatioF()).toSize() / 2);
    return;
  }
  m_service.setMost((pictureRect(0).size() * devicePixelRatioF()).toSize());
}

void CompareStage::take() {
  ask();
  setAccessibleName(tr("The two pictures, frame %1").arg(m_service.pair().frame));
  update();
}

void CompareStage::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  ask();
}

QRectF CompareStage::pictureRect(int side) const {
  const double head = fontMetrics().height() + 6;
  const QRectF all = QRectF(rect()).adjusted(kRoundPictures, kRoundPictures, -kRoundPictures, -kRoundPictures);
  const QImage& small = m_service.pair().smallFirst;
  const QSizeF shape = small.isNull() ? QSizeF(16, 9) : QSizeF(small.size());
  const auto fitted = [&](const QRectF& cell) {
    const QRectF room = cell.adjusted(0, head, 0, 0);
    if (m_exact) return room;
    QSizeF size = shape.scaled(room.size(), Qt::KeepAspectRatio);
    return QRectF(
        QPointF(std::round(room.center().x() - size.width() / 2), std::round(room.center().y() - size.height() / 2)),
        QSizeF(std::round(size.width()), std::round(size.height())));
  };
  if (m_way != CompareWay::Beside) return fitted(all);
  const auto half = [&](bool across) {
    QRectF cell = all;
    if (across) {
      cell.setWidth((all.width() - kRoundPictures) / 2);
      if (side == 1) cell.moveRight(all.right());
    } else {
      cell.setHeight((all.height() - kRoundPictures) / 2);
      if (side == 1) cell.moveBottom(all.bottom());
    }
    QRectF its = fitted(cell);
    // Beside each other they stand close, so that the eye has a short way.
    if (across && side == 0) its.moveRight(cell.right());
    if (across && side == 1) its.moveLeft(cell.left());
    return its;
  };
  return across() ? half(true) : half(false);
}

/// Whether two pictures are larger beside each other than above each other.
bool CompareStage::across() const {
  const double head = fontMetrics().height() + 6;
  const QSizeF all = QSizeF(size()) - QSizeF(2 * kRoundPictures, 2 * kRoundPictures);
  if (m_exact) return all.width() >= all.height();
  const QImage& small = m_service.pair().smallFirst;
  const QSizeF shape = small.isNull() ? QSizeF(16, 9) : QSizeF(small.size());
  const auto width = [&](double wide, double high) {
    return shape.scaled(QSizeF(wide, std::max(1.0, high - head)), Qt::KeepAspectRatio).width();
  };
  return width((all.width() - kRoundPictures) / 2, all.height()) >=
         width(all.width(), (all.height() - kRoundPictures) / 2);
}

void CompareStage::paintPicture(QPainter& painter, const QImage& exact, const QImage& small, const QRectF& to) const {
  if (!m_exact) {
    painter.drawImage(to, small);
    return;
  }
  // One pixel of the picture is one of the screen.
  const double dense = devicePixelRatioF();
  const QPointF centre = m_centre.x() < 0 ? QRectF(exact.rect()).center() : m_centre;
  const QSizeF seen = to.size() * dense;
  const QPointF corner(std::floor(centre.x() - seen.width() / 2), std::floor(centre.y() - seen.height() / 2));
  const QRectF from = QRectF(corner, seen).intersected(QRectF(exact.rect()));
  painter.drawImage(QRectF(to.topLeft() + (from.topLeft() - corner) / dense, from.size() / dense), exact, from);
}

QString CompareStage::captionOf(int side) const {
  const int64_t frame = side == 0 ? m_service.pair().frame : m_service.pair().otherFrame;
  return frame < 0 ? m_names[side] : tr("%1 · frame %2").arg(m_names[side]).arg(frame);
}

/// Words above a picture, from `left` to `right`.
void CompareStage::caption(QPainter& painter, double top, double left, double right, Qt::Alignment where,
                           const QString& words) const {
  painter.setPen(Qt::white);
  const QRectF line(left, top - fontMetrics().height() - 4, right - left, fontMetrics().height());
  painter.drawText(line, int(where | Qt::AlignVCenter),
                   fontMetrics().elidedText(words, Qt::ElideMiddle, int(line.width())));
}

void CompareStage::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), Theme::current().surround);
  const CompareService::Pair& pair = m_service.pair();
  if (pair.frame < 0 || !m_said.isEmpty()) {
    painter.setPen(Qt::white);
    painter.drawText(rect().adjusted(20, 20, -20, -20), Qt::AlignCenter | Qt::TextWordWrap, m_said);
  } else {
    painter.setRenderHint(QPainter::SmoothPixmapTransform, !m_exact);
    const QRectF first = pictureRect(0);
    const double from = kRoundPictures;
    const double to = width() - kRoundPictures;
    switch (m_way) {
    case CompareWay::Beside:
      for (int side = 0; side < 2; ++side) {
        paintPicture(painter, side ? pair.second : pair.first, side ? pair.smallSecond : pair.smallFirst,
                     pictureRect(side));
        const QRectF its = pictureRect(side);
        if (side == 0 && across())
          caption(painter, its.top(), from, its.right(), Qt::AlignRight, captionOf(side));
        else
          caption(painter, its.top(), its.left(), to, Qt::AlignLeft, captionOf(side));
      }
      break;
    case CompareWay::Wipe: {
      const double at = std::round(first.left() + m_wipe * first.width());
      for (int side = 0; side < 2; ++side) {
        painter.save();
        painter.setClipRect(side ? QRectF(QPointF(at, first.top()), first.bottomRight())
                                 : QRectF(first.topLeft(), QPointF(at, first.bottom())));
        paintPicture(painter, side ? pair.second : pair.first, side ? pair.smallSecond : pair.smallFirst, first);
        painter.restore();
      }
      painter.setRenderHint(QPainter::Antialiasing);
      painter.setPen(QPen(Qt::black, 3));
      painter.drawLine(QPointF(at, first.top()), QPointF(at, first.bottom()));
      painter.setPen(QPen(Qt::white, 1));
      painter.drawLine(QPointF(at, first.top()), QPointF(at, first.bottom()));
      painter.setBrush(Qt::white);
      painter.setPen(QPen(Qt::black, 1));
      painter.drawEllipse(QPointF(at, first.center().y()), kHandle, kHandle);
      const double middle = first.center().x();
      caption(painter, first.top(), from, middle - kRoundPictures, Qt::AlignRight, captionOf(0));
      caption(painter, first.top(), middle + kRoundPictures, to, Qt::AlignLeft, captionOf(1));
      break;
    }
    case CompareWay::InTurns:
      paintPicture(painter, m_secondUp ? pair.second : pair.first, m_secondUp ? pair.smallSecond : pair.smallFirst,
                   first);
      caption(painter, first.top(), from, to, Qt::AlignHCenter, captionOf(m_secondUp ? 1 : 0));
      break;
    case CompareWay::Difference:
      if (!pair.difference.isNull()) paintPicture(painter, pair.difference, pair.smallDifference, first);
      caption(painter, first.top(), from, to, Qt::AlignHCenter,
              tr("What they differ by, × %1 · frame %2").arg(m_service.gain()).arg(pair.frame));
      break;
    }
  }
  if (hasFocus()) {
    painter.setRenderHint(QPainter::Antialiasing, false);
    painter.setPen(QPen(Theme::current().accent, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

void CompareStage::pan(const QPointF& by) {
  const QRectF all(m_service.pair().first.rect());
  const QPointF from = m_centre.x() < 0 ? all.center() : m_centre;
  m_centre = {std::clamp(from.x() + by.x(), all.left(), all.right()),
              std::clamp(from.y() + by.y(), all.top(), all.bottom())};
  update();
}

void CompareStage::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || m_service.pair().frame < 0) return;
  m_held = event->position();
  const QRectF area = pictureRect(0);
  const double line = area.left() + m_wipe * area.width();
  // Pixel for pixel the pictures are dragged, but for the line.
  m_dragsWipe = m_way == CompareWay::Wipe && (!m_exact || std::abs(m_held.x() - line) <= kHandle);
  if (m_way == CompareWay::InTurns && !m_exact) {
    m_secondUp = !m_secondUp;
    update();
  }
  mouseMoveEvent(event);
}

void CompareStage::mouseMoveEvent(QMouseEvent* event) {
  if (!event->buttons().testFlag(Qt::LeftButton)) return;
  if (m_dragsWipe) {
    const QRectF area = pictureRect(0);
    m_wipe = std::clamp((event->position().x() - area.left()) / std::max(1.0, area.width()), 0.0, 1.0);
    update();
  } else if (m_exact) {
    pan((m_held - event->position()) * devicePixelRatioF());
    m_held = event->position();
  }
}

void CompareStage::mouseReleaseEvent(QMouseEvent*) {
  m_dragsWipe = false;
}

void CompareStage::keyPressEvent(QKeyEvent* event) {
  const bool far = event->modifiers().testFlag(Qt::ShiftModifier);
  const bool pans = event->modifiers().testFlag(Qt::AltModifier) && m_exact;
  const int64_t step = far ? kFarStep : 1;
  switch (event->key()) {
  case Qt::Key_Left:
    return pans ? pan({-kPanStep, 0}) : m_service.show(std::max<int64_t>(0, m_service.wanted() - step));
  case Qt::Key_Right:
    return pans ? pan({kPanStep, 0}) : m_service.show(m_service.wanted() + step);
  case Qt::Key_Home:
    return m_service.show(0);
  case Qt::Key_End:
    return m_service.show(m_service.frames() - 1);
  case Qt::Key_Space:
    emit playAsked();
    return;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    m_secondUp = !m_secondUp;
    return update();
  case Qt::Key_Up:
  case Qt::Key_Down: {
    const int sign = event->key() == Qt::Key_Up ? 1 : -1;
    if (pans) return pan({0, -sign * kPanStep});
    if (m_way == CompareWay::Wipe) {
      m_wipe = std::clamp(m_wipe + sign * kWipeStep, 0.0, 1.0);
      return update();
    }
    if (m_way == CompareWay::Difference) {
      emit gainAsked(std::clamp(sign > 0 ? m_service.gain() * 2 : m_service.gain() / 2, 1, CompareService::kMostGain));
      return;
    }
    break;
  }
  default:
    break;
  }
  QWidget::keyPressEvent(event);
}

} // namespace tromb
