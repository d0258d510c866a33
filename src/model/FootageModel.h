// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QAbstractListModel>
#include <QSortFilterProxyModel>

namespace tromb {

/// The project's sources, in the order in which they were brought in. Follows the document exactly.
class FootageModel : public QAbstractListModel {
  Q_OBJECT

public:
  explicit FootageModel(Document& document, QObject* parent = nullptr);

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] bool setData(const QModelIndex& index, const QVariant& value, int role) override; ///< renames
  [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
  [[nodiscard]] Document& document() const { return m_document; }
  [[nodiscard]] const Source& source(int row) const { return m_document.project().sources[size_t(row)]; }
  /// Returns the facts of a row's file. Returns null while it is looked at, or if it cannot be used.
  [[nodiscard]] const MediaInfo* media(int row) const;
  /// True while no shot and no bed is made from it.
  [[nodiscard]] bool unused(int row) const;

private:
  Document& m_document;
};

/// What footage is shown, and in which order.
class FootageFilter : public QSortFilterProxyModel {
  Q_OBJECT

public:
  enum class Order { BroughtIn, Name, Length, Pixels, Rate, Scan, BitDepth, Colour, Channels, Loudness, FileSize };
  enum class Fact {
    Any,
    Video,
    Still,
    Sound,
    FastRate,
    Interlaced,
    Variable,
    NotSquare,
    Bars,
    Hdr,
    Silent,
    SlowMotion,
    Unused,
    Missing,
    SofterThan
  };

  explicit FootageFilter(FootageModel& model, QObject* parent = nullptr);

  void setText(const QString& text);     ///< in the name, the path or the facts, whatever the case
  void setGroup(const QString& groupId); ///< Shows this group with all groups in it; empty shows everything.
  /// `deliverable` (an id) goes with SofterThan: softer than its canvas needs.
  void setFact(Fact fact, const std::string& deliverable = {});
  void setOrder(Order order, bool descending);
  [[nodiscard]] FootageModel& footage() const { return m_model; }

protected:
  [[nodiscard]] bool filterAcceptsRow(int row, const QModelIndex& parent) const override;
  [[nodiscard]] bool lessThan(const QModelIndex& left, const QModelIndex& right) const override;

private:
  [[nodiscard]] bool inGroup(const std::string& group) const;
  [[nodiscard]] bool hasFact(int row) const;
  [[nodiscard]] double key(int row) const;

  FootageModel& m_model;
  QString m_text;
  std::string m_group;
  Fact m_fact = Fact::Any;
  std::string m_deliverable;
  Order m_order = Order::BroughtIn;
};

} // namespace tromb
