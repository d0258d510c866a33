// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/FootageModel.h"
#include "model/StripService.h"

#include <QStyledItemDelegate>

namespace tromb {

/// Paints a source: its picture, which follows the pointer along the source's length, its name, what it is, and what
/// follows from it. As a row (`Row`) or as a card (`Card`).
class FootageDelegate : public QStyledItemDelegate {
  Q_OBJECT

public:
  enum class Form { Row, Card };

  FootageDelegate(FootageFilter& filter, StripService& strips, QObject* parent = nullptr);

  void setForm(Form form) { m_form = form; }
  [[nodiscard]] Form form() const { return m_form; }
  /// Which source the pointer is over, and how far along its picture, 0 to 1; an invalid index for none.
  void setScrub(const QModelIndex& index, double along);
  [[nodiscard]] QRect pictureRect(const QRect& item) const;

  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;

private:
  void paintPicture(QPainter& painter, const QRect& rect, const QModelIndex& index, const Source& source) const;

  FootageFilter& m_filter;
  StripService& m_strips;
  Form m_form = Form::Row;
  QPersistentModelIndex m_scrubbed;
  double m_along = 0.5;
};

} // namespace tromb
