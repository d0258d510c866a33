// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/Icons.h"

#include "app/style/Theme.h"
#include "data/DataFolder.h"

#include <QFile>
#include <QPainter>
#include <QPixmap>
#include <QSvgRenderer>

namespace tromb {
namespace {

QPixmap drawn(const QByteArray& svg, const QColor& colour, int pixels) {
  QByteArray coloured = svg;
  coloured.replace("currentColor", colour.name().toLatin1());
  QSvgRenderer renderer(coloured);
  QPixmap pixmap(pixels, pixels);
  pixmap.fill(Qt::transparent);
  QPainter painter(&pixmap);
  renderer.render(&painter);
  return pixmap;
}

} // namespace

QIcon icon(const QString& name, const QColor& colour) {
  QFile file(QString::fromStdString(dataFolder()) + QStringLiteral("/icons/%1.svg").arg(name));
  if (!file.open(QIODevice::ReadOnly)) return {};
  const QByteArray svg = file.readAll();
  QIcon result;
  for (const int pixels : {16, 20, 32, 40}) {
    result.addPixmap(drawn(svg, colour.isValid() ? colour : Theme::current().ink, pixels));
    result.addPixmap(drawn(svg, Theme::current().faint, pixels), QIcon::Disabled);
    result.addPixmap(drawn(svg, Theme::current().onAccent, pixels), QIcon::Normal, QIcon::On); // a checked button
  }
  return result;
}

} // namespace tromb
