// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/Choices.h"

#include <QAbstractItemView>
#include <QCheckBox>
#include <QFocusEvent>
#include <QStylePainter>
#include <cmath>

namespace tromb {
namespace {

constexpr int kUsualLetters = 9; ///< that a closed list has room for at least

QString changeOf(const QString& name) {
  return Spec::tr("Change: %1").arg(name);
}

} // namespace

ListChoice::ListChoice(Spec& spec, About about, QWidget* parent)
    : QComboBox(parent), m_spec(spec), m_about(std::move(about)) {
  setAccessibleName(m_about.name);
  // Long entries do not widen the panel; the list that opens has room for them.
  setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  setMinimumContentsLength(kUsualLetters);
  setPlaceholderText(tr("differs"));
  connect(this, &QComboBox::activated, this, [this](int index) {
    const QVariant chosen = itemData(index);
    m_spec.change(changeOf(m_about.name), [&](Deliverable& d) { m_about.choose(d, chosen); });
    refresh();
  });
}

void ListChoice::paintEvent(QPaintEvent*) {
  QStylePainter painter(this);
  QStyleOptionComboBox option;
  initStyleOption(&option);
  if (currentIndex() < 0) {
    option.palette.setBrush(QPalette::ButtonText, option.palette.placeholderText());
    option.currentText = placeholderText();
  }
  painter.drawComplexControl(QStyle::CC_ComboBox, option);
  const QRect field = style()->subControlRect(QStyle::CC_ComboBox, &option, QStyle::SC_ComboBoxEditField, this);
  option.currentText = fontMetrics().elidedText(option.currentText, Qt::ElideRight, field.width() - 2);
  painter.drawControl(QStyle::CE_ComboBoxLabel, option);
}

void ListChoice::refresh() {
  const Deliverable* current = m_spec.current();
  if (!current) return;
  Entries entries = m_about.entries(*current);
  const auto alike = m_spec.common<QVariant>(m_about.value);
  const auto has = [&](const QVariant& value) {
    return std::any_of(entries.begin(), entries.end(), [&](const auto& each) { return each.second == value; });
  };
  if (alike && m_about.other && !has(*alike)) entries.emplace_back(m_about.other(*current), *alike);
  bool same = count() == entries.size();
  for (int i = 0; same && i < count(); ++i) same = itemText(i) == entries[i].first && itemData(i) == entries[i].second;
  if (!same) {
    clear();
    for (const auto& [words, value] : entries) addItem(words, value);
    constexpr int kMargins = 24;
    view()->setMinimumWidth(view()->sizeHintForColumn(0) + kMargins);
  }
  const int chosen = alike ? findData(*alike) : -1;
  if (currentIndex() != chosen) setCurrentIndex(chosen);
  setEnabled(count() > 1 || chosen < 0);
}

NumberChoice::NumberChoice(Spec& spec, About about, QWidget* parent)
    : QDoubleSpinBox(parent), m_spec(spec), m_about(std::move(about)) {
  setAccessibleName(m_about.name);
  setButtonSymbols(QAbstractSpinBox::NoButtons);
  setDecimals(m_about.decimals);
  setRange(m_about.least, m_about.most);
  setSingleStep(m_about.step);
  setSuffix(m_about.suffix);
  connect(this, &QDoubleSpinBox::valueChanged, this, [this](double value) {
    if (m_showing) return;
    if (std::exchange(m_differs, false)) setSuffix(m_about.suffix);
    if (m_gesture == 0) m_gesture = m_spec.document().newGesture();
    m_spec.change(
        changeOf(m_about.name), [&](Deliverable& d) { m_about.choose(d, value); }, m_gesture);
  });
}

void NumberChoice::refresh() {
  if (!m_spec.current()) return;
  const auto alike = m_spec.common<double>(m_about.value);
  m_showing = true;
  const bool differed = std::exchange(m_differs, !alike);
  const double half = std::pow(10.0, -decimals()) / 2;
  if (alike && (differed || std::abs(value() - *alike) >= half)) setValue(*alike);
  if (differed != m_differs) setSuffix(m_differs ? QString() : m_about.suffix); // shows the text anew
  m_showing = false;
}

QString NumberChoice::textFromValue(double value) const {
  return m_differs ? tr("differs") : QDoubleSpinBox::textFromValue(value);
}

QValidator::State NumberChoice::validate(QString& text, int& at) const {
  if (m_differs && text.startsWith(tr("differs"))) return QValidator::Intermediate;
  return QDoubleSpinBox::validate(text, at);
}

void NumberChoice::focusInEvent(QFocusEvent* event) {
  m_gesture = m_spec.document().newGesture();
  QDoubleSpinBox::focusInEvent(event);
}

TextChoice::TextChoice(Spec& spec, About about, QWidget* parent)
    : QLineEdit(parent), m_spec(spec), m_about(std::move(about)) {
  setAccessibleName(m_about.name);
  setMaxLength(m_about.mostLetters);
  connect(this, &QLineEdit::editingFinished, this, [this] {
    if (!isModified()) return;
    setModified(false);
    const QString typed = text().trimmed();
    m_spec.change(changeOf(m_about.name), [&](Deliverable& d) { m_about.choose(d, typed); });
  });
}

void TextChoice::refresh() {
  if (!m_spec.current() || isModified()) return; // somebody is typing
  const auto alike = m_spec.common<QString>(m_about.value);
  if (text() != alike.value_or(QString())) setText(alike.value_or(QString()));
  setPlaceholderText(alike ? QString() : tr("differs"));
}

CheckChoice::CheckChoice(Spec& spec, About about, QWidget* parent)
    : QObject(parent), m_spec(spec), m_about(std::move(about)), m_box(new QCheckBox(m_about.text, parent)) {
  connect(m_box, &QCheckBox::clicked, this, [this] {
    m_box->setTristate(false);
    const bool on = m_box->isChecked();
    m_spec.change(changeOf(m_about.text), [&](Deliverable& d) { m_about.choose(d, on); });
  });
}

void CheckChoice::refresh() {
  if (!m_spec.current()) return;
  const auto alike = m_spec.common<bool>(m_about.value);
  m_box->setTristate(!alike);
  m_box->setCheckState(!alike ? Qt::PartiallyChecked : *alike ? Qt::Checked : Qt::Unchecked);
}

} // namespace tromb
