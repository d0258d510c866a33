// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/spec/CanvasDrawing.h"
#include "app/spec/SamplePanel.h"
#include "app/spec/SpecLineRow.h"
#include "model/Spec.h"

#include <QWidget>

class QBoxLayout;
class QLabel;
class QToolButton;
class QVBoxLayout;

namespace tromb {

/// What follows from the choices in the current deliverable, for the footage at hand: always in sight. A line that does
/// not hold turns, and has a button for what mends it. With several deliverables chosen, a button mends those that have
/// the same line.
class ConsequencePanel : public QWidget {
  Q_OBJECT

public:
  ConsequencePanel(Spec& spec, SampleService& samples, QWidget* parent = nullptr);
  void refresh();
  /// The row of a line with this code; null where there is none.
  [[nodiscard]] SpecLineRow* row(const std::string& code) const;

protected:
  void resizeEvent(QResizeEvent* event) override;

private:
  /// A head with rows below it.
  struct Part {
    QLabel* head = nullptr;
    QVBoxLayout* list = nullptr;
    std::vector<SpecLineRow*> rows;
  };
  Part& part(SpecTopic topic) { return m_parts[size_t(topic)]; }
  void show(Part& part, const std::vector<SpecLine>& lines, const std::vector<SpecLine>& beside);
  void fix(const SpecLineRow& row, int fix);
  /// What the current one is compared with: the other one of two that are chosen, else what its destination recommends;
  /// nothing where there is neither.
  [[nodiscard]] std::optional<Deliverable> other() const;

  Spec& m_spec;
  QWidget* m_inside = nullptr;
  QLabel* m_head;
  QToolButton* m_compare;
  QBoxLayout* m_footage = nullptr; ///< the drawing and the list of sources
  CanvasDrawing* m_drawing;
  SamplePanel* m_sample;
  QLabel* m_held; ///< the limits that are met, in one paragraph
  std::array<Part, 4> m_parts;
};

} // namespace tromb
