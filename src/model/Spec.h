// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Session.h"
#include "preflight/Spec.h"

#include <functional>
#include <optional>

namespace tromb {

/// The deliverables that are being specified: those that the session has chosen. What they have in common, changes of
/// all of them as one undo step, and what follows from their choices. Lives in the window's thread.
class Spec : public QObject {
  Q_OBJECT

public:
  explicit Spec(Session& session, QObject* parent = nullptr);

  [[nodiscard]] Session& session() const { return m_session; }
  [[nodiscard]] Document& document() const { return m_session.document(); }
  [[nodiscard]] std::vector<int> columns() const { return m_session.deliverables(); }
  /// The one that what is offered goes by: the current one. Null where there is none.
  [[nodiscard]] const Deliverable* current() const;

  /// What all chosen deliverables have alike; nothing where they differ, or there is none.
  template <typename Value>
  [[nodiscard]] std::optional<Value> common(const std::function<Value(const Deliverable&)>& of) const {
    std::optional<Value> alike;
    for (const int column : columns()) {
      Value value = of(document().project().deliverables[size_t(column)]);
      if (alike && !(*alike == value)) return {};
      alike = std::move(value);
    }
    return alike;
  }
  /// Changes all chosen deliverables as one undo step. Calls with the same `gesture` (> 0) merge.
  void change(const QString& text, const std::function<void(Deliverable&)>& change, int gesture = 0);

  /// What follows from a deliverable's choices; made when asked for, kept until something changes.
  [[nodiscard]] const std::vector<SpecLine>& lines(int column) const;
  void setLineSpeed(int64_t bitsASecond);
  /// What tells the bytes of a deliverable's file by a sample; to be set again where that has changed.
  void setMeasuredBytes(std::function<std::optional<int64_t>(const Deliverable&)> measured);
  [[nodiscard]] const SpecGrounds& grounds() const { return m_grounds; }

signals:
  void changed(); ///< the choice of deliverables, or anything that is shown of them; once for many edits

private:
  void changedSoon();

  Session& m_session;
  SpecGrounds m_grounds;
  mutable std::map<std::string, std::vector<SpecLine>> m_lines; ///< by Deliverable::id
  bool m_changing = false;
};

} // namespace tromb
