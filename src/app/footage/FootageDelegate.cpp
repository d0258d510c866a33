// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/footage/FootageDelegate.h"

#include "app/style/Theme.h"
#include "model/SourceFacts.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QPainter>
#include <algorithm>

namespace tromb {
namespace {

constexpr QSize kPicture{144, 81};
constexpr int kPad = 8;
constexpr int kCardWidth = kPicture.width() + 2 * kPad + 8;

QString lengthOf(const MediaInfo& media) {
  return media.kind == MediaKind::Still ? QString() : QString::fromStdString(clockText(media.duration));
}

/// Lists what is wrong with a source, the worst first, or says that nothing is.
struct Mark {
  Cell::State state;
  QString text;
};
std::vector<Mark> marksOf(const Document& document, const Source& source) {
  std::vector<Mark> marks;
  int sharp = 0;
  int all = 0;
  for (const Consequence& c : consequencesOf(document, source)) {
    if (c.kind == Consequence::Kind::Deliverable) {
      ++all;
      sharp += c.state == Cell::State::Good ? 1 : 0;
      if (c.state != Cell::State::Good)
        marks.push_back({c.state, QStringLiteral("%1 %2").arg(c.about, c.text.section(QStringLiteral(" · "), 0, 0))});
    } else if (c.kind != Consequence::Kind::Loudness && c.kind != Consequence::Kind::Sound) {
      marks.push_back({c.state, c.kind == Consequence::Kind::Bars && c.state == Cell::State::Good
                                    ? FootageDelegate::tr("bars cut away")
                                : c.kind == Consequence::Kind::Silent      ? FootageDelegate::tr("silent")
                                : c.kind == Consequence::Kind::SlowMotion  ? FootageDelegate::tr("slow motion")
                                : c.kind == Consequence::Kind::Transparent ? FootageDelegate::tr("transparency")
                                : c.kind == Consequence::Kind::Variable    ? FootageDelegate::tr("variable rate")
                                                                           : c.text.section(QLatin1Char(':'), 0, 0)});
    }
  }
  if (all > 0 && sharp == all)
    marks.insert(marks.begin(), {Cell::State::Good, FootageDelegate::tr("sharp in every deliverable")});
  // Worst first: a card has room for little.
  std::stable_sort(marks.begin(), marks.end(), [](const Mark& a, const Mark& b) {
    return (a.state == Cell::State::Good) < (b.state == Cell::State::Good);
  });
  return marks;
}

} // namespace

FootageDelegate::FootageDelegate(FootageFilter& filter, StripService& strips, QObject* parent)
    : QStyledItemDelegate(parent), m_filter(filter), m_strips(strips) {}

void FootageDelegate::setScrub(const QModelIndex& index, double along) {
  m_scrubbed = index;
  m_along = std::clamp(along, 0.0, 1.0);
}

QRect FootageDelegate::pictureRect(const QRect& item) const {
  return {item.topLeft() + QPoint(kPad, kPad), kPicture};
}

QSize FootageDelegate::sizeHint(const QStyleOptionViewItem& option, const QModelIndex&) const {
  const int line = option.fontMetrics.height() + 2;
  if (m_form == Form::Card) return {kCardWidth, kPicture.height() + 2 * kPad + 3 * line};
  return {300, std::max(kPicture.height(), 4 * line) + 2 * kPad};
}

void FootageDelegate::paintPicture(QPainter& painter, const QRect& rect, const QModelIndex& index,
                                   const Source& source) const {
  const Theme& theme = Theme::current();
  painter.fillRect(rect, theme.surround);
  const Result<MediaInfo>* known = m_filter.footage().document().media(source.id);
  if (known && !*known) {
    painter.fillRect(rect, theme.raised);
    drawStatusShape(painter, QRectF(rect.center().x() - 9, rect.center().y() - 9, 18, 18), Cell::State::Unusable);
    return;
  }
  const StripService::Strip* strip = m_strips.strip(source);
  if (!strip || strip->empty()) {
    painter.setPen(Qt::white);
    if (known && *known && !(*known)->video) painter.drawText(rect, Qt::AlignCenter, tr("sound"));
    return;
  }
  const bool scrubbed = m_scrubbed == index;
  const double along = scrubbed ? m_along : 0.45;
  const QImage& image = (*strip)[std::min(strip->size() - 1, size_t(along * double(strip->size())))];
  const QSizeF size = QSizeF(image.size()).scaled(QSizeF(rect.size()), Qt::KeepAspectRatio);
  painter.drawImage(QRectF(rect.center().x() + 0.5 - size.width() / 2, rect.center().y() + 0.5 - size.height() / 2,
                           size.width(), size.height()),
                    image);
  if (scrubbed && strip->size() > 1) {
    painter.fillRect(QRectF(rect.left(), rect.bottom() - 3, rect.width(), 4), QColor(0, 0, 0, 120));
    painter.fillRect(QRectF(rect.left() + along * (rect.width() - 4), rect.bottom() - 5, 4, 6), Qt::white);
  }
}

void FootageDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
  const Theme& theme = Theme::current();
  const int row = m_filter.mapToSource(index).row();
  const Document& document = m_filter.footage().document();
  const Source& source = document.project().sources[size_t(row)];
  const Result<MediaInfo>* known = document.media(source.id);
  const MediaInfo* media = m_filter.footage().media(row);
  painter->save();
  painter->setClipRect(option.rect);
  painter->setRenderHint(QPainter::SmoothPixmapTransform);
  const bool selected = option.state & QStyle::State_Selected;
  if (selected) {
    QColor wash = theme.accent;
    wash.setAlphaF(0.16F);
    painter->fillRect(option.rect, wash);
  }
  const QRect picture = pictureRect(option.rect);
  paintPicture(*painter, picture, index, source);

  const QFontMetrics metrics(option.font);
  const int line = metrics.height() + 2;
  QFont bold(option.font);
  bold.setWeight(QFont::DemiBold);
  const bool card = m_form == Form::Card;
  QRect words = card ? QRect(picture.left(), picture.bottom() + 3, picture.width(), 3 * line)
                     : QRect(picture.right() + 12, picture.top() - 2, option.rect.right() - picture.right() - 12 - kPad,
                             option.rect.height() - kPad);
  const auto say = [&](const QString& text, const QFont& font, const QColor& colour, int height = 0) {
    painter->setFont(font);
    painter->setPen(colour);
    painter->drawText(QRect(words.left(), words.top(), words.width(), line), Qt::AlignLeft | Qt::AlignVCenter,
                      QFontMetrics(font).elidedText(text, Qt::ElideRight, words.width()));
    words.setTop(words.top() + (height > 0 ? height : line));
  };
  const QString length = media ? lengthOf(*media) : QString();
  const QString name = index.data(Qt::DisplayRole).toString();
  if (card || length.isEmpty()) {
    say(name, bold, theme.ink);
  } else {
    painter->setFont(option.font);
    painter->setPen(theme.faint);
    const int room = metrics.horizontalAdvance(length) + 8;
    painter->drawText(QRect(words.left(), words.top(), words.width(), line), Qt::AlignRight | Qt::AlignVCenter, length);
    const QRect all = words;
    words.setRight(words.right() - room);
    say(name, bold, theme.ink);
    words.setRight(all.right());
  }
  if (!known) {
    say(tr("looking …"), option.font, theme.faint);
  } else if (!media) {
    say(known->error().code == ErrorCode::Missing ? tr("the file is missing") : said(known->error().message),
        option.font, theme.broken);
  } else if (card) {
    say(shortFacts(readingOf(source, *media)) + (length.isEmpty() ? QString() : QStringLiteral(" · ") + length),
        option.font, theme.faint);
  } else {
    say(factsLine(readingOf(source, *media)), option.font, theme.faint);
  }
  if (media) {
    // Marks one after the other, as many as fit; in a row two lines of them.
    const double box = metrics.ascent() * 0.72;
    int x = words.left();
    int lines = card ? 1 : 2;
    for (const Mark& mark : marksOf(document, source)) {
      const int width = int(box) + 6 + metrics.horizontalAdvance(mark.text) + 14;
      if (x > words.left() && x + width > words.right()) {
        if (--lines == 0) break;
        x = words.left();
        words.setTop(words.top() + line);
      }
      drawStatusShape(*painter, {x + 1.0, words.top() + (line - box) / 2, box, box}, mark.state);
      painter->setFont(option.font);
      painter->setPen(mark.state == Cell::State::Good ? theme.faint : statusColour(mark.state));
      const QRect place(x + int(box) + 6, words.top(), words.right() - x - int(box) - 6, line);
      painter->drawText(place, Qt::AlignLeft | Qt::AlignVCenter,
                        metrics.elidedText(mark.text, Qt::ElideRight, place.width()));
      x += width;
    }
  }
  if (!card) {
    painter->setPen(theme.line);
    painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
  }
  if (selected && (option.state & QStyle::State_HasFocus)) {
    painter->setPen(QPen(theme.accent, 2));
    painter->setBrush(Qt::NoBrush);
    painter->drawRect(option.rect.adjusted(1, 1, -1, -1));
  }
  painter->restore();
}

} // namespace tromb
