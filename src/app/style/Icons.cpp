// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/Icons.h"

#include "app/style/Theme.h"
#include "io/DataFolder.h"

#include <QFile>
#include <QHash>
#include <QIconEngine>
#include <QPainter>
#include <QPixmap>
#include <QPixmapCache>
#include <QSvgRenderer>
#include <algorithm>
#include <utility>

namespace tromb {
namespace {

const QByteArray& fileOf(const QString& name) {
  static QHash<QString, QByteArray> files;
  auto at = files.find(name);
  if (at == files.end()) {
    QFile file(QString::fromStdString(dataFolder()) + QStringLiteral("/icons/%1.svg").arg(name));
    at = files.insert(name, file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray());
  }
  return *at;
}

/// Draws the icon only when it is needed, since most icons are in menus that are not open.
class IconEngine : public QIconEngine {
public:
  IconEngine(QString name, Ink ink) : m_name(std::move(name)), m_ink(ink) {}

  void paint(QPainter* painter, const QRect& place, QIcon::Mode mode, QIcon::State state) override {
    QByteArray svg = fileOf(m_name);
    if (svg.isEmpty()) return;
    svg.replace("currentColor", colourOf(mode, state).name().toLatin1());
    const int side = std::min(place.width(), place.height());
    QRect square(0, 0, side, side);
    square.moveCenter(place.center());
    QSvgRenderer(svg).render(painter, square);
  }
  QPixmap pixmap(const QSize& size, QIcon::Mode mode, QIcon::State state) override {
    const QString key = QStringLiteral("icon %1 %2 %3×%4")
                            .arg(m_name, colourOf(mode, state).name())
                            .arg(size.width())
                            .arg(size.height());
    QPixmap drawn;
    if (QPixmapCache::find(key, &drawn)) return drawn;
    drawn = QPixmap(size);
    drawn.fill(Qt::transparent);
    {
      QPainter painter(&drawn);
      paint(&painter, QRect({0, 0}, size), mode, state);
    }
    QPixmapCache::insert(key, drawn);
    return drawn;
  }
  [[nodiscard]] QIconEngine* clone() const override { return new IconEngine(*this); }
  QString iconName() override { return m_name; }
  bool isNull() override { return fileOf(m_name).isEmpty(); }

private:
  [[nodiscard]] QColor colourOf(QIcon::Mode mode, QIcon::State state) const {
    const Theme& theme = Theme::current();
    if (mode == QIcon::Disabled) return theme.faint;
    return state == QIcon::On || m_ink == Ink::OnAccent ? theme.onAccent : theme.ink;
  }

  QString m_name;
  Ink m_ink;
};

} // namespace

QIcon icon(const QString& name, Ink ink) {
  return QIcon(new IconEngine(name, ink));
}

} // namespace tromb
