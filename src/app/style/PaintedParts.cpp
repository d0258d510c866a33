// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/PaintedParts.h"

#include <QAccessibleWidget>
#include <QAction>
#include <QActionGroup>
#include <QScrollArea>
#include <QToolButton>
#include <QWidget>

namespace tromb {
namespace {

/// One part; belongs to the interface of its widget.
class PartInterface final : public QAccessibleInterface, public QAccessibleActionInterface {
public:
  PartInterface(QWidget* widget, PaintedParts* parts, int place) : m_widget(widget), m_parts(parts), m_place(place) {}

  [[nodiscard]] bool isValid() const override { return m_place < int(m_parts->paintedParts().size()); }
  [[nodiscard]] QObject* object() const override { return nullptr; }
  [[nodiscard]] QWindow* window() const override { return m_widget->window()->windowHandle(); }
  [[nodiscard]] QAccessibleInterface* parent() const override {
    return QAccessible::queryAccessibleInterface(m_widget);
  }
  [[nodiscard]] QAccessibleInterface* child(int) const override { return nullptr; }
  [[nodiscard]] QAccessibleInterface* childAt(int, int) const override { return nullptr; }
  [[nodiscard]] int childCount() const override { return 0; }
  [[nodiscard]] int indexOfChild(const QAccessibleInterface*) const override { return -1; }
  [[nodiscard]] QString text(QAccessible::Text kind) const override {
    const PaintedPart its = part();
    return kind == QAccessible::Name ? its.name : kind == QAccessible::Value ? its.value : QString();
  }
  void setText(QAccessible::Text, const QString&) override {}
  [[nodiscard]] QRect rect() const override {
    const QRect its = part().rect;
    return {m_widget->mapToGlobal(its.topLeft()), its.size()};
  }
  [[nodiscard]] QAccessible::Role role() const override {
    return m_parts->paintedRole() == QAccessible::List ? QAccessible::ListItem : QAccessible::Indicator;
  }
  [[nodiscard]] QAccessible::State state() const override {
    QAccessible::State its;
    its.selectable = part().canBePressed;
    its.selected = part().selected;
    its.invisible = !m_widget->isVisible();
    return its;
  }
  void* interface_cast(QAccessible::InterfaceType type) override {
    return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
  }
  [[nodiscard]] QStringList actionNames() const override {
    return part().canBePressed ? QStringList{pressAction()} : QStringList();
  }
  void doAction(const QString& name) override {
    if (name == pressAction()) m_parts->pressPart(m_place);
  }
  [[nodiscard]] QStringList keyBindingsForAction(const QString&) const override { return {}; }

private:
  [[nodiscard]] PaintedPart part() const {
    const std::vector<PaintedPart> all = m_parts->paintedParts();
    return m_place < int(all.size()) ? all[size_t(m_place)] : PaintedPart();
  }
  QWidget* m_widget;
  PaintedParts* m_parts;
  int m_place;
};

class PaintedInterface final : public QAccessibleWidget {
public:
  PaintedInterface(QWidget* widget, PaintedParts* parts)
      : QAccessibleWidget(widget, parts->paintedRole()), m_parts(parts) {}
  ~PaintedInterface() override {
    for (const QAccessible::Id id : m_children) QAccessible::deleteAccessibleInterface(id);
  }

  [[nodiscard]] int childCount() const override {
    return QAccessibleWidget::childCount() + int(m_parts->paintedParts().size());
  }
  [[nodiscard]] QAccessibleInterface* child(int index) const override {
    const int widgets = QAccessibleWidget::childCount();
    if (index < widgets) return QAccessibleWidget::child(index);
    const int place = index - widgets;
    if (place >= int(m_parts->paintedParts().size())) return nullptr;
    while (int(m_children.size()) <= place)
      m_children.push_back(
          QAccessible::registerAccessibleInterface(new PartInterface(widget(), m_parts, int(m_children.size()))));
    return QAccessible::accessibleInterface(m_children[size_t(place)]);
  }
  [[nodiscard]] int indexOfChild(const QAccessibleInterface* child) const override {
    for (size_t i = 0; i < m_children.size(); ++i)
      if (QAccessible::accessibleInterface(m_children[i]) == child) return QAccessibleWidget::childCount() + int(i);
    return QAccessibleWidget::indexOfChild(child);
  }
  [[nodiscard]] QAccessibleInterface* childAt(int x, int y) const override {
    const QPoint at = widget()->mapFromGlobal(QPoint(x, y));
    const std::vector<PaintedPart> all = m_parts->paintedParts();
    for (size_t i = 0; i < all.size(); ++i)
      if (all[i].rect.contains(at)) return child(QAccessibleWidget::childCount() + int(i));
    return QAccessibleWidget::childAt(x, y);
  }
  [[nodiscard]] QString text(QAccessible::Text kind) const override {
    return kind == QAccessible::Value ? m_parts->paintedValue() : QAccessibleWidget::text(kind);
  }

private:
  PaintedParts* m_parts;
  mutable std::vector<QAccessible::Id> m_children;
};

/// Describes a button of an action. Pressing it triggers the action, whatever kind of button it is.
class ActionButtonInterface final : public QAccessibleWidget {
public:
  explicit ActionButtonInterface(QToolButton* button) : QAccessibleWidget(button, roleOf(*button)) {}

  [[nodiscard]] QAccessible::State state() const override {
    QAccessible::State its = QAccessibleWidget::state();
    its.checkable = button().isCheckable();
    its.checked = button().isChecked();
    return its;
  }
  [[nodiscard]] QString text(QAccessible::Text kind) const override {
    if (kind == QAccessible::Accelerator && button().defaultAction())
      return button().defaultAction()->shortcut().toString(QKeySequence::NativeText);
    return QAccessibleWidget::text(kind);
  }
  [[nodiscard]] QStringList actionNames() const override {
    return {button().isCheckable() ? toggleAction() : pressAction()};
  }
  void doAction(const QString& name) override {
    if (name == pressAction() || name == toggleAction())
      button().click();
    else
      QAccessibleWidget::doAction(name);
  }

private:
  static QAccessible::Role roleOf(const QToolButton& button) {
    const QAction* action = button.defaultAction();
    if (action->actionGroup() && action->actionGroup()->isExclusive()) return QAccessible::RadioButton;
    return action->isCheckable() ? QAccessible::CheckBox : QAccessible::PushButton;
  }
  [[nodiscard]] QToolButton& button() const { return *static_cast<QToolButton*>(widget()); }
};

QAccessibleInterface* makeInterface(const QString&, QObject* object) {
  auto* widget = qobject_cast<QWidget*>(object);
  if (auto* parts = dynamic_cast<PaintedParts*>(object)) return new PaintedInterface(widget, parts);
  if (auto* button = qobject_cast<QToolButton*>(object); button && button->defaultAction())
    return new ActionButtonInterface(button);
  if (qobject_cast<QScrollArea*>(object)) return new QAccessibleWidget(widget, QAccessible::Pane);
  return nullptr;
}

} // namespace

void installAccessibility() {
  static const bool once = [] {
    QAccessible::installFactory(makeInterface);
    return true;
  }();
  (void)once;
}

} // namespace tromb
