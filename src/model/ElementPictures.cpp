// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/ElementPictures.h"

#include "model/PictureKey.h"
#include "project/ElementJson.h"
#include "project/Sharing.h"
#include "render/ElementPainter.h"

#include <QPainter>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kElementKilobytes = 64'000;

/// An element as one deliverable has it, with nothing that its picture does not depend on.
Element drawnIn(const Element& element, const std::string& deliverable) {
  Element alone = element;
  alone.id.clear();
  alone.shot.clear();
  alone.in = alone.fadeIn = alone.fadeOut = Rational(0);
  alone.out = Rational(1);
  alone.place = element.placeIn(deliverable);
  alone.text = element.textIn(deliverable);
  alone.own.clear();
  alone.unknown.clear();
  // A caption is drawn as a text; its style is its own by now.
  if (alone.kind == ElementKind::Caption) alone.kind = ElementKind::Text;
  return alone;
}

QString wordsOf(const ElementCanvas& canvas) {
  const auto share = [](const RectF& r) {
    return QStringLiteral("|%1,%2,%3,%4").arg(r.x).arg(r.y).arg(r.width).arg(r.height);
  };
  QString words = QStringLiteral("%1×%2").arg(canvas.shown.width).arg(canvas.shown.height) + share(canvas.within);
  for (const RectF& part : canvas.covered) words += share(part);
  return words;
}

} // namespace

QString elementWords(const Project& project, const Element& element) {
  constexpr int kMostLetters = 80;
  if (element.hasText()) return QString::fromStdString(element.text).simplified().left(kMostLetters);
  const Source* source = project.source(element.source);
  return source ? QString::fromStdString(sourceName(*source)) : QString();
}

ElementPictures::ElementPictures(const Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_pictures(kElementKilobytes, 2) {
  const auto forget = [this] { m_times.reset(); };
  for (const auto signal : {&Document::reset, &Document::shotsInserted, &Document::shotsRemoved, &Document::shotMoved,
                            &Document::elementsChanged})
    connect(&document, signal, this, forget);
  connect(&document, &Document::shotChanged, this, forget);
  connect(&document, &Document::aboutToReset, this, [this] { m_before.clear(); });
}

const ElementPictures::Times& ElementPictures::times() {
  if (m_times) return *m_times;
  const Project& project = m_document.project();
  Times& times = m_times.emplace();
  times.starts = project.shotStarts();
  times.elements = stretchesOf(project);
  times.about.reserve(times.elements.size());
  for (const auto& [in, out] : times.elements) times.about.emplace_back(in.toDouble(), out.toDouble());
  return times;
}

Rational ElementPictures::momentOf(int row) {
  const Times& known = times();
  const Rational& begin = known.starts[size_t(row)];
  const Rational& end = known.starts[size_t(row) + 1];
  const Rational middle = (begin + end) / Rational(2);
  std::optional<Rational> first;
  for (size_t i = 0; i < known.elements.size(); ++i) {
    if (!known.near(i, begin.toDouble(), end.toDouble())) continue;
    const auto& [in, out] = known.elements[i];
    if (in <= middle && middle < out) return middle;
    const Rational from = std::max(in, begin);
    const Rational to = std::min(out, end);
    if (!first && from < to) first = (from + to) / Rational(2);
  }
  return first.value_or(middle);
}

const ElementPictures::Picture* ElementPictures::picture(const Element& element, const Deliverable& deliverable,
                                                         QSize drawn) {
  std::optional<Reading> reading;
  const Element alone = drawnIn(element, framedAs(deliverable));
  QString key = QString::fromStdString(toJson(alone).dump());
  if (element.kind == ElementKind::Picture) {
    const Source* source = m_document.project().source(element.source);
    const Result<MediaInfo>* media = source ? m_document.media(element.source) : nullptr;
    if (!media || !*media || !(*media)->video) return nullptr;
    reading = readingOf(*source, **media);
    key += pictureKey(*source, **media);
  }
  const ElementCanvas canvas = elementCanvasOf(deliverable);
  key += QStringLiteral("|%1|%2×%3").arg(wordsOf(canvas)).arg(drawn.width()).arg(drawn.height());
  const QString which = QStringLiteral("%1|%2|%3×%4")
                            .arg(QString::fromStdString(element.id), QString::fromStdString(deliverable.id))
                            .arg(drawn.width())
                            .arg(drawn.height());
  const auto make = [alone, reading, canvas, drawn](const std::stop_token& stop) -> std::optional<Kept<Picture>::Made> {
    const auto made = drawElement(alone, reading, {}, canvas, {drawn.width(), drawn.height()}, stop);
    if (!made) return {};
    const QImage image = made->bytes.empty() ? QImage()
                                             : QImage(made->bytes.data(), made->at.width, made->at.height,
                                                      made->at.width * 4, QImage::Format_ARGB32_Premultiplied)
                                                   .copy();
    return Kept<Picture>::Made{{image, {made->at.x, made->at.y}}, qint64(made->bytes.size())};
  };
  const auto then = [this] { emit ready(); };
  if (const Picture* there = m_pictures.find(key, make, then)) {
    m_before[which] = key;
    return there;
  }
  const auto before = m_before.constFind(which);
  return before == m_before.constEnd() ? nullptr : m_pictures.findKept(*before);
}

void ElementPictures::forAllSeen(
    const QRectF& canvas, double dense, int column, const Rational& moment,
    const std::function<void(const Element& element, const Picture& picture, const QRectF& at, double opacity)>& each) {
  const Project& project = m_document.project();
  if (project.elements.empty()) return;
  const Deliverable& deliverable = project.deliverables[size_t(column)];
  const QSize drawn = (canvas.size() * dense).toSize().expandedTo({1, 1});
  const Times& known = times();
  const double roughly = moment.toDouble();
  for (size_t i = 0; i < project.elements.size(); ++i) {
    if (!known.near(i, roughly, roughly)) continue;
    const auto& [begin, end] = known.elements[i];
    if (moment < begin || moment >= end) continue;
    const Element& stored = project.elements[i];
    if (stored.kind == ElementKind::Caption && deliverable.encoding.captions != CaptionPlace::Burned) continue;
    const Element element = stored.styled(project.captionStyle);
    if (element.placeIn(framedAs(deliverable)).hidden) continue;
    const double opacity = opacityAt(element, moment - begin, end - begin);
    const Picture* there = opacity > 0 ? picture(element, deliverable, drawn) : nullptr;
    if (!there || there->image.isNull()) continue;
    each(element, *there, {canvas.topLeft() + QPointF(there->at) / dense, QSizeF(there->image.size()) / dense},
         opacity);
  }
}

void ElementPictures::paint(QPainter& painter, const QRectF& canvas, int column, const Rational& moment) {
  forAllSeen(canvas, painter.device()->devicePixelRatioF(), column, moment,
             [&](const Element&, const Picture& picture, const QRectF& at, double opacity) {
               painter.save();
               painter.setClipRect(canvas, Qt::IntersectClip);
               painter.setOpacity(opacity);
               painter.setRenderHint(QPainter::SmoothPixmapTransform);
               painter.drawImage(at, picture.image);
               painter.restore();
             });
}

std::string ElementPictures::at(const QPointF& point, const QRectF& canvas, double dense, int column,
                                const Rational& moment) {
  std::string found;
  if (canvas.contains(point))
    forAllSeen(canvas, dense, column, moment, [&](const Element& element, const Picture&, const QRectF& at, double) {
      if (at.contains(point)) found = element.id;
    });
  return found;
}

} // namespace tromb
