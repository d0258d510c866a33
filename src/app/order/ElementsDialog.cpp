// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/ElementsDialog.h"

#include "app/style/Icons.h"
#include "time/Timecode.h"

#include <QHBoxLayout>
#include <QListWidget>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <numeric>

namespace tromb {
namespace {

const Rational kTextLength{4}; ///< seconds that words get at first

} // namespace

ElementsDialog::ElementsDialog(Session& session, QWidget* parent)
    : QDialog(parent), m_session(session), m_document(session.document()), m_list(new QListWidget(this)),
      m_form(new ElementForm(session, this)) {
  setObjectName(QStringLiteral("elementsDialog"));
  setWindowTitle(tr("Words and pictures over the shots"));
  setAttribute(Qt::WA_DeleteOnClose);
  auto* all = new QVBoxLayout(this);
  m_list->setAccessibleName(tr("Words and pictures over the shots"));
  m_list->setFixedHeight(m_list->fontMetrics().height() * 5 + 12);
  all->addWidget(m_list);
  auto* line = new QHBoxLayout;
  auto* add = new QPushButton(icon(QStringLiteral("plus")), tr("&Words"), this);
  add->setToolTip(tr("Adds words at the playhead"));
  m_up = new QPushButton(icon(QStringLiteral("arrow-up")), tr("&Over"), this);
  m_up->setToolTip(tr("Lays it over what lies over it now"));
  m_down = new QPushButton(icon(QStringLiteral("arrow-down")), tr("&Under"), this);
  m_down->setToolTip(tr("Lays it under what lies under it now"));
  m_remove = new QPushButton(icon(QStringLiteral("trash-2")), tr("&Remove"), this);
  for (QPushButton* each : {add, m_up, m_down, m_remove}) {
    each->setAutoDefault(false);
    line->addWidget(each);
  }
  line->addStretch(1);
  all->addLayout(line);
  auto* area = new QScrollArea(this);
  area->setWidget(m_form);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  all->addWidget(area, 1);
  resize(400, 640);
  connect(add, &QPushButton::clicked, this, &ElementsDialog::addText);
  connect(m_up, &QPushButton::clicked, this, [this] { lift(1); });
  connect(m_down, &QPushButton::clicked, this, [this] { lift(-1); });
  connect(m_remove, &QPushButton::clicked, this, &ElementsDialog::remove);
  connect(m_list, &QListWidget::currentRowChanged, this, [this] {
    if (m_filling) return;
    const QListWidgetItem* item = m_list->currentItem();
    m_chosen = item ? item->data(Qt::UserRole).toString().toStdString() : std::string();
    showChosen();
    if (const int place = chosen(); place >= 0) { // what is worked at is seen
      const auto [begin, end] = stretchOf(m_document.project(), m_document.project().elements[size_t(place)]);
      if (m_session.playhead() < begin || m_session.playhead() >= end)
        m_session.setPlayhead((begin + end) / Rational(2));
    }
  });
  connect(m_form, &ElementForm::changed, this,
          [this](const std::function<void(Element&)>& how, const QString& text, int gesture) {
            const int place = chosen();
            if (place < 0) return;
            std::vector<Element> elements = m_document.project().elements;
            how(elements[size_t(place)]);
            m_document.setElements(std::move(elements), text, gesture);
          });
  for (const auto signal :
       {&Document::elementsChanged, &Document::shotsInserted, &Document::shotsRemoved, &Document::shotMoved})
    connect(&m_document, signal, this, &ElementsDialog::refresh);
  connect(&m_document, &Document::shotChanged, this, &ElementsDialog::refresh);
  connect(&m_document, &Document::aboutToReset, this, &QDialog::close);
  refresh();
}

int ElementsDialog::chosen() const {
  return placeOf(m_document.project().elements, m_chosen);
}

void ElementsDialog::choose(const std::string& id) {
  m_chosen = id;
  refresh();
}

void ElementsDialog::refresh() {
  const Project& project = m_document.project();
  const std::vector<Rational> starts = project.shotStarts();
  std::vector<size_t> order(project.elements.size());
  std::iota(order.begin(), order.end(), size_t(0));
  std::vector<std::pair<Rational, Rational>> stretches;
  for (const Element& each : project.elements) stretches.push_back(stretchOf(project, each, starts));
  std::ranges::stable_sort(order, {}, [&](size_t i) { return stretches[i].first; });
  m_filling = true;
  m_list->clear();
  for (const size_t i : order) {
    const Element& e = project.elements[i];
    const Source* source = project.source(e.source);
    const QString what = e.kind == ElementKind::Text ? QString::fromStdString(e.text).simplified()
                         : source                    ? QString::fromStdString(sourceName(*source))
                                                     : QString();
    auto* item = new QListWidgetItem(tr("%1  %2").arg(QString::fromStdString(clockText(stretches[i].first)),
                                                      what.isEmpty() ? tr("(no words)") : what),
                                     m_list);
    item->setData(Qt::UserRole, QString::fromStdString(e.id));
    if (e.id == m_chosen) m_list->setCurrentItem(item);
  }
  if (chosen() < 0) {
    m_chosen = m_list->count() > 0 ? m_list->item(0)->data(Qt::UserRole).toString().toStdString() : std::string();
    m_list->setCurrentRow(m_list->count() > 0 ? 0 : -1);
  }
  m_filling = false;
  showChosen();
}

void ElementsDialog::showChosen() {
  const int place = chosen();
  const auto count = int(m_document.project().elements.size());
  m_remove->setEnabled(place >= 0);
  m_up->setEnabled(place >= 0 && place + 1 < count);
  m_down->setEnabled(place > 0);
  m_form->show(place < 0 ? nullptr : &m_document.project().elements[size_t(place)]);
}

void ElementsDialog::addText() {
  const Project& project = m_document.project();
  std::vector<Element> elements = project.elements;
  Element e;
  e.id = freshId(elements, "e");
  e.text = tr("Words").toStdString();
  const Rational end = project.duration();
  e.in = std::min(m_session.playhead(), std::max(Rational(0), end - Rational(1)));
  e.out = std::min(e.in + kTextLength, std::max(end, e.in + Rational(1)));
  m_chosen = e.id;
  elements.push_back(std::move(e));
  m_document.setElements(std::move(elements), tr("Add words"));
  m_form->focusText();
}

void ElementsDialog::remove() {
  const int place = chosen();
  if (place < 0) return;
  std::vector<Element> elements = m_document.project().elements;
  elements.erase(elements.begin() + place);
  m_document.setElements(std::move(elements), tr("Remove words or a picture"));
}

void ElementsDialog::lift(int by) {
  const int place = chosen();
  std::vector<Element> elements = m_document.project().elements;
  if (place < 0 || place + by < 0 || place + by >= int(elements.size())) return;
  std::swap(elements[size_t(place)], elements[size_t(place + by)]);
  m_document.setElements(std::move(elements), tr("Over or under"));
}

} // namespace tromb
