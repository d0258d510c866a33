// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/ElementsDialog.h"

#include "app/style/FlowLayout.h"
#include "app/style/Icons.h"
#include "io/AtomicFile.h"
#include "model/ElementPictures.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QListWidget>
#include <QMessageBox>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <iterator>
#include <numeric>

namespace tromb {
namespace {

const Rational kTextLength{4}; ///< seconds that words get at first
const Rational kCaptionLength{2};

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
  auto* rows = new FlowLayout(nullptr);
  const auto button = [&](const QString& drawing, const QString& text, const QString& tip, auto what) {
    auto* made = drawing.isEmpty() ? new QPushButton(text, this) : new QPushButton(icon(drawing), text, this);
    made->setToolTip(tip);
    made->setAutoDefault(false);
    connect(made, &QPushButton::clicked, this, what);
    rows->addWidget(made);
    return made;
  };
  button(QStringLiteral("plus"), tr("&Words"), tr("Adds words at the playhead"), [this] { addText(); });
  button(QStringLiteral("plus"), tr("Ca&ption"), tr("Adds a caption at the playhead"),
         [this] { addText(ElementKind::Caption); });
  m_up = button(QStringLiteral("arrow-up"), tr("&Over"), tr("Lays it over what lies over it now"), [this] { lift(1); });
  m_down = button(QStringLiteral("arrow-down"), tr("&Under"), tr("Lays it under what lies under it now"),
                  [this] { lift(-1); });
  m_split = button({}, tr("&Split"), tr("Makes two captions of it: at the playhead, the words where the cursor stands"),
                   [this] { split(); });
  m_join = button({}, tr("&Join"), tr("Makes one caption of it and the next"), [this] { join(); });
  m_remove = button(QStringLiteral("trash-2"), tr("&Remove"), {}, [this] { remove(); });
  button(QStringLiteral("folder-open"), tr("&Take captions …"), tr("From a SubRip or WebVTT file"),
         [this] { takeCaptions(); });
  m_write = button(QStringLiteral("save"), tr("Write &captions …"), tr("Into a SubRip or WebVTT file"),
                   [this] { writeCaptions(); });
  all->addLayout(rows);
  auto* area = new QScrollArea(this);
  area->setWidget(m_form);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  all->addWidget(area, 1);
  resize(420, 700);
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
            m_document.changeElement(m_chosen, how, text, gesture);
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
  const auto stretches = stretchesOf(project);
  std::vector<size_t> order(project.elements.size());
  std::iota(order.begin(), order.end(), size_t(0));
  std::ranges::stable_sort(order, {}, [&](size_t i) { return stretches[i].first; });
  m_filling = true;
  // Where there are thousands, only what is another is told the list.
  while (m_list->count() > int(order.size())) delete m_list->takeItem(m_list->count() - 1);
  for (size_t row = 0; row < order.size(); ++row) {
    const Element& e = project.elements[order[row]];
    const QString what = elementWords(project, e);
    const QString words = tr("%1  %2").arg(QString::fromStdString(clockText(stretches[order[row]].first)),
                                           what.isEmpty() ? tr("(no words)") : what);
    QListWidgetItem* item = int(row) < m_list->count() ? m_list->item(int(row)) : new QListWidgetItem(m_list);
    if (item->text() != words) item->setText(words);
    const QString id = QString::fromStdString(e.id);
    if (item->data(Qt::UserRole).toString() != id) item->setData(Qt::UserRole, id);
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
  const Project& project = m_document.project();
  const int place = chosen();
  const Element* e = place < 0 ? nullptr : &project.elements[size_t(place)];
  const bool caption = e && e->kind == ElementKind::Caption;
  m_remove->setEnabled(e != nullptr);
  m_up->setEnabled(e && place + 1 < int(project.elements.size()));
  m_down->setEnabled(place > 0);
  m_split->setEnabled(caption);
  m_join->setEnabled(caption && captionAfter(place) >= 0);
  m_write->setEnabled(
      std::ranges::any_of(project.elements, [](const Element& each) { return each.kind == ElementKind::Caption; }));
  if (!e) return m_form->show(nullptr);
  const Element shown = e->styled(project.captionStyle);
  m_form->show(&shown);
}

void ElementsDialog::addText(ElementKind kind) {
  const Project& project = m_document.project();
  std::vector<Element> elements = project.elements;
  const bool caption = kind == ElementKind::Caption;
  Element e;
  e.kind = kind;
  e.id = freshId(elements, "e");
  e.text = (caption ? tr("Caption") : tr("Words")).toStdString();
  const Rational end = project.duration();
  e.in = std::min(m_session.playhead(), std::max(Rational(0), end - Rational(1)));
  e.out = std::min(e.in + (caption ? kCaptionLength : kTextLength), std::max(end, e.in + Rational(1)));
  m_chosen = e.id;
  elements.push_back(std::move(e));
  m_document.setElements(std::move(elements), caption ? tr("Add a caption") : tr("Add words"));
  m_form->focusText();
}

int ElementsDialog::captionAfter(int place) const {
  const Project& project = m_document.project();
  const auto stretches = stretchesOf(project);
  int next = -1;
  for (int i = 0; i < int(stretches.size()); ++i) {
    const bool later = project.elements[size_t(i)].kind == ElementKind::Caption && i != place &&
                       stretches[size_t(i)].first >= stretches[size_t(place)].first;
    if (later && (next < 0 || stretches[size_t(i)].first < stretches[size_t(next)].first)) next = i;
  }
  return next;
}

void ElementsDialog::split() {
  const int place = chosen();
  if (place < 0) return;
  std::vector<Element> elements = m_document.project().elements;
  Element& first = elements[size_t(place)];
  const auto [begin, end] = stretchOf(m_document.project(), first);
  // At the playhead, or in the middle where that is elsewhere.
  const bool within = m_session.playhead() > begin && m_session.playhead() < end;
  const Rational at = within ? m_session.playhead() : (begin + end) / Rational(2);
  const QString words = QString::fromStdString(first.text);
  const auto cursor = m_form->cursor() > 0 ? m_form->cursor() : words.indexOf(QLatin1Char(' '), words.size() / 2);
  Element second = first;
  second.id = freshId(elements, "e");
  const Project& project = m_document.project();
  if (const int shot = placeOf(project.shots, first.shot); shot >= 0) {
    const Rational start = project.shotStarts()[size_t(shot)];
    bind(first, project.shots[size_t(shot)], start, begin, at);
    bind(second, project.shots[size_t(shot)], start, at, end);
  } else {
    first.out = second.in = at;
  }
  if (cursor > 0) {
    first.text = words.left(cursor).trimmed().toStdString();
    second.text = words.mid(cursor).trimmed().toStdString();
  }
  elements.insert(elements.begin() + place + 1, std::move(second));
  m_document.setElements(std::move(elements), tr("Split a caption"));
}

void ElementsDialog::join() {
  const int place = chosen();
  const int next = place < 0 ? -1 : captionAfter(place);
  if (next < 0) return;
  std::vector<Element> elements = m_document.project().elements;
  const auto [begin, end] = stretchOf(m_document.project(), elements[size_t(place)]);
  const Rational last = std::max(end, stretchOf(m_document.project(), elements[size_t(next)]).second);
  Element& first = elements[size_t(place)];
  const std::string joined = first.text + "\n" + elements[size_t(next)].text;
  if (joined.size() > kMostTextBytes) return;
  first.text = joined;
  const Project& project = m_document.project();
  const int shot = placeOf(project.shots, first.shot);
  if (shot >= 0 && first.shot == elements[size_t(next)].shot) {
    bind(first, project.shots[size_t(shot)], project.shotStarts()[size_t(shot)], begin, last);
  } else { // over a cut it can go along with neither
    first.shot.clear();
    first.in = begin;
    first.out = last;
  }
  elements.erase(elements.begin() + next);
  m_document.setElements(std::move(elements), tr("Join captions"));
}

void ElementsDialog::complain(const Error& error) {
  QMessageBox::warning(this, tr("Captions"), said(error));
}

void ElementsDialog::takeCaptions() {
  const QString path =
      QFileDialog::getOpenFileName(this, tr("Take captions"), QString(), tr("Captions (*.srt *.vtt);;All files (*)"));
  if (path.isEmpty()) return;
  const auto read = readCaptions(QFile::encodeName(path).toStdString());
  if (!read) return complain(read.error());
  std::vector<Element> elements = m_document.project().elements;
  std::vector<Element> taken = captionElements(m_document.project(), read->captions);
  if (elements.size() + taken.size() > kMostElements)
    return complain({ErrorCode::InvalidArgument,
                     say("there would be more than %1 words and pictures over the shots", kMostElements),
                     path.toStdString(),
                     {},
                     say("Take fewer")});
  if (!taken.empty()) m_chosen = taken.front().id;
  std::ranges::move(taken, std::back_inserter(elements));
  m_document.setElements(std::move(elements), tr("Take captions"));
  if (read->dropped > 0)
    QMessageBox::information(
        this, tr("Captions"),
        tr("%n captions of the file are broken and were left out, the first in line %1.", nullptr, int(read->dropped))
            .arg(read->firstDropped));
}

void ElementsDialog::writeCaptions() {
  QString path =
      QFileDialog::getSaveFileName(this, tr("Write captions"), QString(), tr("SubRip (*.srt);;WebVTT (*.vtt)"));
  if (path.isEmpty()) return;
  if (QFileInfo(path).suffix().isEmpty()) path += QStringLiteral(".srt");
  const CaptionFormat format =
      path.endsWith(QLatin1String(".vtt"), Qt::CaseInsensitive) ? CaptionFormat::WebVtt : CaptionFormat::SubRip;
  const Status written =
      writeFileAtomically(QFile::encodeName(path).toStdString(), captionFile(captionsOf(m_document.project()), format));
  if (!written) complain(written.error());
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
