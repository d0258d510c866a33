// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Kept.h"

#include <QHash>
#include <QImage>
#include <QObject>
#include <functional>

class QPainter;

namespace tromb {

/// What an element is called: the beginning of its words in one line, or its picture's name.
[[nodiscard]] QString elementWords(const Project& project, const Element& element);

/// Pictures of what lies over shots, drawn beside the window's thread by what draws them in an export, and kept. For
/// the window's thread.
class ElementPictures : public QObject {
  Q_OBJECT

public:
  explicit ElementPictures(const Document& document, QObject* parent = nullptr);

  /// Paints what lies over a deliverable's canvas at a moment of the running order. What is not drawn yet is left out,
  /// or shown as it was before it changed, and `ready` says when to paint again.
  void paint(QPainter& painter, const QRectF& canvas, int column, const Rational& moment);
  /// The id of the uppermost element whose picture a point lies on; empty where that is none.
  [[nodiscard]] std::string at(const QPointF& point, const QRectF& canvas, double dense, int column,
                               const Rational& moment);
  /// The moment of a shot at which the sheet shows it: its middle, or, where nothing lies over that, the middle of the
  /// first thing that does.
  [[nodiscard]] Rational momentOf(int row);
  [[nodiscard]] bool idle() const { return m_pictures.idle(); }

signals:
  void ready();

private:
  struct Picture {
    QImage image;
    QPoint at; ///< in the pixels of the canvas as it is drawn
  };
  /// Where shots begin and elements are seen.
  struct Times {
    std::vector<Rational> starts;
    std::vector<std::pair<Rational, Rational>> elements;
    std::vector<std::pair<double, double>> about; ///< the same roughly, to pass over most of them quickly
    /// Whether element i is perhaps seen between two moments.
    [[nodiscard]] bool near(size_t i, double from, double to) const {
      return about[i].first <= to + 1e-3 && about[i].second >= from - 1e-3;
    }
  };
  [[nodiscard]] const Times& times();
  /// Calls `each` for what is seen of a deliverable at a moment and is drawn already, the lowest first.
  void forAllSeen(const QRectF& canvas, double dense, int column, const Rational& moment,
                  const std::function<void(const Element& element, const Picture& picture, const QRectF& at,
                                           double opacity)>& each);
  [[nodiscard]] const Picture* picture(const Element& element, const Deliverable& deliverable, QSize drawn);

  const Document& m_document;
  std::optional<Times> m_times;
  QHash<QString, QString> m_before; ///< the key of what an element was last shown as, by itself, deliverable and size
  Kept<Picture> m_pictures;
};

} // namespace tromb
