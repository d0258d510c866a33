// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sheet/CellDelegate.h"

#include "app/style/CadenceDrawing.h"
#include "app/style/Theme.h"
#include "model/SheetModel.h"
#include "render/Pictures.h"

#include <QPainter>
#include <QPixmapCache>
#include <algorithm>
#include <cmath>

namespace tromb {

namespace {
constexpr int kCacheKilobytes = 96'000;
constexpr int kCadenceHeight = DrawnCadence::kHeight + 4;
} // namespace

CellDelegate::CellDelegate(PosterService& posters, QObject* parent) : QStyledItemDelegate(parent), m_posters(posters) {
  QPixmapCache::setCacheLimit(kCacheKilobytes);
}

QRectF CellDelegate::canvasRect(const QRect& cell, Size canvas, const QFontMetrics& metrics) {
  const QRectF room = QRectF(cell).adjusted(kPad, kPad, -kPad - 1, -kPad - captionHeight(metrics) - 1);
  const double scale = std::min(room.width() / canvas.width, room.height() / canvas.height);
  const QSizeF size(canvas.width * scale, canvas.height * scale);
  return {room.center() - QPointF(size.width() / 2, size.height() / 2), size};
}

int CellDelegate::footHeight(const QFontMetrics& metrics) const {
  return captionHeight(metrics) + (m_showsCadence ? kCadenceHeight : 0);
}

QRectF CellDelegate::canvasIn(const QRect& cell, Size canvas, const QFontMetrics& metrics) const {
  return canvasRect(cell.adjusted(0, 0, 0, m_showsCadence ? -kCadenceHeight : 0), canvas, metrics);
}

namespace {

/// The mean of the first or last row, or column.
QColor edgeMean(const QImage& image, bool upright, bool last) {
  const QRect edge = upright ? QRect(0, last ? image.height() - 1 : 0, image.width(), 1)
                             : QRect(last ? image.width() - 1 : 0, 0, 1, image.height());
  return image.copy(edge).scaled(1, 1, Qt::IgnoreAspectRatio, Qt::SmoothTransformation).pixelColor(0, 0);
}

/// Scales a part of an image with the core's scaler. Returns a null image if that fails.
QImage resized(const QImage& image, const QRectF& part, QSize size, Kernel kernel) {
  // The kernel also needs the pixels just outside the part.
  const QRectF all(image.rect());
  const double reach = 4 * std::max({1.0, part.width() / size.width(), part.height() / size.height()}) + 2;
  const QRect near = (part.adjusted(-reach, -reach, reach, reach) & all).toAlignedRect();
  const QImage bytes = image.copy(near).convertToFormat(QImage::Format_RGB32);
  const QRectF inside = (part & all).translated(-near.topLeft());
  const auto made =
      resampled(bytes.constBits(), bytes.bytesPerLine(), {bytes.width(), bytes.height()},
                {inside.x(), inside.y(), inside.width(), inside.height()}, {size.width(), size.height()}, kernel);
  if (!made) return {};
  return QImage(made->bytes.data(), size.width(), size.height(), size.width() * 4, QImage::Format_RGB32).copy();
}

/// The ground's copy as Composer makes it, at the size it is drawn at. Y′ halved and C′ by a quarter less, which in
/// R′G′B′ is three quarters less a quarter of Y′.
QImage groundCopy(const QImage& picture, const QRectF& window, Size canvas, QSize drawn) {
  constexpr int kShrink = 24;
  const QSize size(std::max(16, canvas.width / kShrink / 2 * 2), std::max(16, canvas.height / kShrink / 2 * 2));
  QImage small = resized(picture, window, size, Kernel::Sharp);
  for (int y = 0; y < small.height(); ++y)
    for (int x = 0; x < small.width(); ++x) {
      const QRgb at = small.pixel(x, y);
      const double luma = 0.2126 * qRed(at) + 0.7152 * qGreen(at) + 0.0722 * qBlue(at);
      const auto less = [luma](int value) { return std::clamp(int(std::lround(0.75 * value - 0.25 * luma)), 0, 255); };
      small.setPixel(x, y, qRgb(less(qRed(at)), less(qGreen(at)), less(qBlue(at))));
    }
  return small.isNull() ? small : resized(small, small.rect(), drawn, Kernel::Smooth);
}

/// Fills `to` with the largest centred part of a picture that has its shape.
void drawStill(QPainter& painter, const QRectF& to, const Poster& poster) {
  const QImage& whole = poster.levels.front();
  const double scale = std::max(to.width() / whole.width(), to.height() / whole.height());
  const QImage& image = poster.atLeast(whole.width() * scale);
  const double enlarged = scale * whole.width() / image.width();
  const QSizeF part = to.size() / enlarged;
  painter.drawImage(to, image,
                    {QPointF((image.width() - part.width()) / 2, (image.height() - part.height()) / 2), part});
}

void drawPlacements(QPainter& painter, const QRectF& target, const Cell& cell, const Poster& poster,
                    const Poster* under) {
  painter.setRenderHint(QPainter::SmoothPixmapTransform);
  const double across = target.width() / cell.canvas.width;
  const double down = target.height() / cell.canvas.height;
  const SizeF picture = cell.shape.picture();
  for (const Placement& p : cell.placements) {
    const QRectF to(target.x() + p.canvas.x * across, target.y() + p.canvas.y * down, p.canvas.width * across,
                    p.canvas.height * down);
    if (p.kind == Placement::Kind::Colour) {
      painter.fillRect(to, QColor(p.colour.red, p.colour.green, p.colour.blue));
      continue;
    }
    if (p.kind == Placement::Kind::Gradient) {
      const QImage& small = poster.levels.back();
      QLinearGradient gradient(to.topLeft(), p.upright ? to.bottomLeft() : to.topRight());
      gradient.setColorAt(0, edgeMean(small, p.upright, false));
      gradient.setColorAt(1, edgeMean(small, p.upright, true));
      painter.fillRect(to, gradient);
      continue;
    }
    if (p.kind == Placement::Kind::Still) {
      if (under) drawStill(painter, to, *under);
      continue;
    }
    const double shown = p.window.width / picture.width;
    const bool copy = p.kind == Placement::Kind::Copy;
    const QImage& image = poster.atLeast((copy ? p.canvas.width / 2.0 : to.width()) / shown);
    const double fx = image.width() / picture.width;
    const double fy = image.height() / picture.height;
    const QRectF from(p.window.x * fx, p.window.y * fy, p.window.width * fx, p.window.height * fy);
    if (copy) {
      // The backdrop is not drawn again while the window is dragged.
      const QSize size = (to.size() * painter.device()->devicePixelRatioF()).toSize();
      const QString key = QStringLiteral("ground %1 %2,%3,%4 %5,%6 %7,%8")
                              .arg(image.cacheKey())
                              .arg(from.x(), 0, 'g', 12)
                              .arg(from.y(), 0, 'g', 12)
                              .arg(from.width(), 0, 'g', 12)
                              .arg(p.canvas.width)
                              .arg(p.canvas.height)
                              .arg(size.width())
                              .arg(size.height());
      QPixmap ground;
      if (!QPixmapCache::find(key, &ground)) {
        ground = QPixmap::fromImage(groundCopy(image, from, {p.canvas.width, p.canvas.height}, size));
        QPixmapCache::insert(key, ground);
      }
      painter.drawPixmap(to, ground, QRectF(ground.rect()));
    } else {
      painter.drawImage(to, image, from);
    }
  }
}

} // namespace

void paintCanvas(QPainter& painter, const QRectF& target, const Cell& cell, const Poster* poster, const Poster* under) {
  painter.fillRect(target, Qt::black);
  if (!poster) return;
  // An edit repaints the whole sheet but changes few cells, so drawn cells are cached.
  const double dense = painter.device()->devicePixelRatioF();
  QString key = QStringLiteral("cell %1 %2 %3 %4 %5 %6")
                    .arg(poster->levels.front().cacheKey())
                    .arg(under ? under->levels.front().cacheKey() : 0)
                    .arg(target.width())
                    .arg(target.height())
                    .arg(cell.canvas.width)
                    .arg(dense);
  for (const Placement& p : cell.placements)
    key += QStringLiteral("|%1,%2,%3,%4,%5,%6,%7")
               .arg(p.window.x, 0, 'g', 12)
               .arg(p.window.y, 0, 'g', 12)
               .arg(p.window.width, 0, 'g', 12)
               .arg(p.canvas.x)
               .arg(p.canvas.y)
               .arg(int(p.kind))
               .arg(QColor(p.colour.red, p.colour.green, p.colour.blue).rgb());
  QPixmap drawn;
  if (!QPixmapCache::find(key, &drawn)) {
    drawn = QPixmap((target.size() * dense).toSize());
    drawn.setDevicePixelRatio(dense);
    drawn.fill(Qt::black);
    QPainter inside(&drawn);
    drawPlacements(inside, QRectF(QPointF(), target.size()), cell, *poster, under);
    inside.end();
    QPixmapCache::insert(key, drawn);
  }
  painter.drawPixmap(target.topLeft(), drawn);
}

void CellDelegate::setLive(int row, const QImage& picture, double sourceSeconds, const Rational& moment) {
  m_liveRow = row;
  m_live = row < 0 ? Poster() : posterOf(picture);
  m_liveSeconds = sourceSeconds;
  m_liveMoment = moment;
}

void CellDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
  const Theme& theme = Theme::current();
  const auto cell = index.data(SheetModel::CellRole).value<Cell>();
  // What is accepted is still said, and no longer complains.
  const bool complains = cell.complains() && !index.data(SheetModel::SettledRole).toBool();
  const bool selected = option.state & QStyle::State_Selected;
  const bool current = selected && (option.state & QStyle::State_HasFocus);
  painter->save();
  QColor wash = theme.accent;
  wash.setAlphaF(0.16F);
  painter->fillRect(option.rect, theme.paper);
  if (selected) painter->fillRect(option.rect, wash);

  const int caption = captionHeight(option.fontMetrics);
  const int foot = footHeight(option.fontMetrics);
  const QRectF room = QRectF(option.rect).adjusted(kPad - 2, kPad - 2, -kPad + 1, -kPad - foot + 1);
  painter->setRenderHint(QPainter::Antialiasing);
  painter->setPen(Qt::NoPen);
  painter->setBrush(theme.surround);
  painter->drawRoundedRect(room, 3, 3);
  const QRectF canvas = canvasIn(option.rect, cell.shown, option.fontMetrics);
  if (index.row() == m_liveRow && !cell.placements.empty()) {
    Cell now = cell;
    turnTo(now, m_liveSeconds);
    painter->save();
    painter->fillRect(canvas, Qt::black);
    drawPlacements(*painter, canvas, now, m_live, m_posters.under(cell));
    painter->restore();
  } else {
    paintCanvas(*painter, canvas, cell, m_posters.poster(index.row()), m_posters.under(cell));
  }
  if (m_elements && !cell.placements.empty())
    m_elements->paint(*painter, canvas, index.column(),
                      index.row() == m_liveRow ? m_liveMoment : m_elements->momentOf(index.row()));

  const QRect line(option.rect.left() + kPad, option.rect.bottom() - foot - 1, option.rect.width() - 2 * kPad, caption);
  const double box = option.fontMetrics.ascent() * 0.72;
  const QRectF shape(line.left() + 1, line.center().y() - box / 2 + 1, box, box);
  drawStatusShape(*painter, shape, complains || !cell.complains() ? cell.state : Cell::State::Waiting);
  painter->setFont(option.font);
  painter->setPen(complains ? statusColour(cell.state) : theme.faint);
  QRect words = line.adjusted(int(box) + 7, 0, 0, 0);
  // How much else is amiss stands at the end.
  if (const int more = index.data(SheetModel::AmissRole).toInt(); more > 0) {
    const QString count = tr("+%1").arg(more);
    painter->setPen(statusColour(Cell::State::Soft));
    painter->drawText(words, Qt::AlignVCenter | Qt::AlignRight, count);
    words.setRight(words.right() - option.fontMetrics.horizontalAdvance(count) - 5);
    painter->setPen(complains ? statusColour(cell.state) : theme.faint);
  }
  QString text = cellWords(cell);
  if (option.fontMetrics.horizontalAdvance(text) > words.width()) text = cellNumber(cell);
  // The layout is said when there is room for it.
  const QString longer = text + QStringLiteral(" · ") + layoutWords(cell.framing);
  if (cell.state != Cell::State::Unusable && option.fontMetrics.horizontalAdvance(longer) <= words.width())
    text = longer;
  // The mark of a cell that was framed by hand and does not follow its subject.
  if (cell.framing.byHand() && cell.framing.guess <= 0 && !cell.placements.empty()) {
    const QPointF at(canvas.right() - 9, canvas.top() + 9);
    painter->setPen(QPen(QColor(0, 0, 0, 140), 1));
    painter->setBrush(Qt::white);
    painter->drawRect(QRectF(at - QPointF(4, 4), QSizeF(8, 8)));
    painter->setPen(Qt::NoPen);
    painter->setBrush(theme.accent);
    painter->drawRect(QRectF(at - QPointF(2, 2), QSizeF(4, 4)));
    painter->setBrush(Qt::NoBrush);
    painter->setPen(complains ? statusColour(cell.state) : theme.faint);
  }
  painter->drawText(words, Qt::AlignVCenter | Qt::AlignLeft,
                    option.fontMetrics.elidedText(text, Qt::ElideRight, words.width()));

  if (m_showsCadence)
    if (const auto cadence = index.data(SheetModel::CadenceRole).value<std::optional<ShotCadence>>())
      DrawnCadence(*cadence).paint(*painter,
                                   QRectF(line.left(), line.bottom() + 1, line.width(), DrawnCadence::kHeight));

  if (selected || current) {
    painter->setBrush(Qt::NoBrush);
    painter->setPen(QPen(theme.accent, current ? 2.5 : 1));
    painter->drawRoundedRect(QRectF(option.rect).adjusted(1.5, 1.5, -2.5, -2.5), 4, 4);
  }
  painter->restore();
}

} // namespace tromb
