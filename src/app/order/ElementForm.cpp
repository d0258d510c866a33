// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/ElementForm.h"

#include "app/style/Theme.h"
#include "app/style/TimecodeField.h"
#include "element/ElementDrawing.h"
#include "project/Sharing.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QColorDialog>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPlainTextEdit>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr std::array<int, 5> kWeights{300, 400, 600, 700, 900};
const Rational kLeastShown{1, 25}; ///< seconds

QLabel* heading(const QString& words, QWidget* parent) {
  auto* label = new QLabel(words, parent);
  label->setProperty("rank", "faint");
  return label;
}

/// A canvas with a mark where something is held.
QIcon anchorPicture(int place) {
  QIcon made;
  for (const auto& [state, ink] :
       {std::pair(QIcon::Off, Theme::current().ink), std::pair(QIcon::On, Theme::current().onAccent)}) {
    QPixmap drawn(20, 12);
    drawn.fill(Qt::transparent);
    QPainter painter(&drawn);
    painter.fillRect(place % 3 * 7 + 1, place / 3 * 4 + 1, 4, 2, ink);
    painter.end();
    made.addPixmap(drawn, QIcon::Normal, state);
  }
  return made;
}

QWidget* beside(const QList<QWidget*>& widgets, QWidget* parent) {
  auto* line = new QWidget(parent);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  for (QWidget* each : widgets) row->addWidget(each);
  row->addStretch(1);
  return line;
}

Rational rationalOf(double seconds) {
  return {std::llround(seconds * 100), 100};
}

} // namespace

ElementForm::ElementForm(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_text(new QPlainTextEdit(this)) {
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  m_text->setAccessibleName(tr("Words"));
  m_text->setPlaceholderText(tr("Words"));
  m_text->setTabChangesFocus(true);
  m_text->setFixedHeight(m_text->fontMetrics().height() * 3 + 14);
  connect(m_text, &QPlainTextEdit::textChanged, this, [this] {
    if (m_showing || !m_element) return;
    const std::string words = m_text->toPlainText().toStdString();
    const std::string in = shape();
    tell(
        tr("Change words"),
        [words, in](Element& e) {
          const auto own = e.own.find(in);
          if (own != e.own.end() && e.kind == ElementKind::Text)
            own->second.text = words == e.text ? std::nullopt : std::optional(words);
          else
            e.text = words;
        },
        m_text);
  });
  all->addWidget(m_text);
  m_forAll = heading(tr("Place and look are those of all captions"), this);
  all->addWidget(m_forAll);
  all->addWidget(buildPlace());
  m_look = buildLook();
  all->addWidget(m_look);
  all->addWidget(buildTime());
  all->addStretch(1);
  const auto shapes = [this] { refresh(); };
  for (const auto signal :
       {&Document::deliverablesInserted, &Document::deliverablesRemoved, &Document::deliverableMoved})
    connect(&m_document, signal, this, shapes);
  connect(&m_document, &Document::deliverableChanged, this, shapes);
  refresh();
}

QDoubleSpinBox* ElementForm::number(const QString& name, double least, double most, const QString& unit, int places,
                                    const std::function<void(double, QDoubleSpinBox*)>& typed) {
  auto* field = new QDoubleSpinBox(this);
  field->setAccessibleName(name);
  field->setToolTip(name);
  field->setRange(least, most);
  field->setDecimals(places);
  field->setSingleStep(places > 1 ? 0.05 : 0.5);
  field->setSuffix(unit);
  field->setButtonSymbols(QAbstractSpinBox::NoButtons);
  field->setAlignment(Qt::AlignRight);
  connect(field, &QDoubleSpinBox::valueChanged, this, [this, typed, field](double value) {
    if (!m_showing) typed(value, field);
  });
  return field;
}

QToolButton* ElementForm::colour(const QString& name, Colour& (*of)(TextLook&)) {
  auto* button = new QToolButton(this);
  button->setAccessibleName(name);
  button->setToolTip(name);
  button->setFocusPolicy(Qt::TabFocus);
  connect(button, &QToolButton::clicked, this, [this, of, name] {
    if (!m_element) return;
    const Colour now = of(m_element->look);
    const QColor chosen = QColorDialog::getColor({now.red, now.green, now.blue}, this, name);
    if (!chosen.isValid()) return;
    tell(name, [of, chosen](Element& e) {
      of(e.look) = {uint8_t(chosen.red()), uint8_t(chosen.green()), uint8_t(chosen.blue())};
    });
  });
  return button;
}

QWidget* ElementForm::buildPlace() {
  auto* part = new QWidget(this);
  auto* rows = new QVBoxLayout(part);
  rows->setContentsMargins(0, 6, 0, 0);
  m_shape = new QComboBox(part);
  m_shape->setAccessibleName(tr("Where the place counts"));
  m_shape->setToolTip(tr("What is set below counts in all shapes, or in this one alone"));
  connect(m_shape, &QComboBox::activated, this, &ElementForm::refresh);
  m_giveBack = new QToolButton(part);
  m_giveBack->setText(tr("as elsewhere"));
  m_giveBack->setToolTip(tr("Gives up what was set for this shape alone"));
  m_giveBack->setFocusPolicy(Qt::TabFocus);
  connect(m_giveBack, &QToolButton::clicked, this, [this] {
    const std::string in = shape();
    tell(tr("As elsewhere"), [in](Element& e) { e.own.erase(in); });
  });
  m_hidden = new QCheckBox(tr("not here"), part);
  m_hidden->setToolTip(tr("It is not seen in this shape"));
  connect(m_hidden, &QCheckBox::clicked, this,
          [this](bool on) { place(tr("Show or hide it"), [on](ElementPlace& p) { p.hidden = on; }); });
  rows->addWidget(beside({heading(tr("place in"), part), m_shape, m_giveBack, m_hidden}, part));

  auto* grid = new QWidget(part);
  auto* cells = new QGridLayout(grid);
  cells->setContentsMargins(0, 0, 0, 0);
  cells->setSpacing(2);
  m_anchors = new QButtonGroup(this);
  const std::array<QString, 9> names{
      tr("Held at the top left"),    tr("Held at the top"),    tr("Held at the top right"),
      tr("Held at the left"),        tr("Held in the middle"), tr("Held at the right"),
      tr("Held at the bottom left"), tr("Held at the bottom"), tr("Held at the bottom right")};
  for (int i = 0; i < 9; ++i) {
    auto* button = new QToolButton(grid);
    button->setCheckable(true);
    button->setAccessibleName(names[size_t(i)]);
    button->setToolTip(names[size_t(i)]);
    button->setFixedSize(30, 20);
    button->setIconSize({20, 12});
    button->setIcon(anchorPicture(i));
    button->setFocusPolicy(Qt::TabFocus);
    m_anchors->addButton(button, i);
    cells->addWidget(button, i / 3, i % 3);
  }
  connect(m_anchors, &QButtonGroup::idClicked, this, [this](int id) {
    place(tr("Hold it elsewhere"), [id](ElementPlace& p) {
      p.anchor = Anchor(id);
      p.x = p.y = 0;
    });
  });
  const auto placed = [this](const QString& name, double least, double most, double ElementPlace::*value) {
    return number(name, least, most, QStringLiteral(" %"), 1, [this, name, value](double now, QDoubleSpinBox* field) {
      place(
          name, [value, now](ElementPlace& p) { p.*value = now; }, field);
    });
  };
  m_size = placed(tr("Size, of the canvas's shorter side"), kLeastTextSize, kMostElementOffset, &ElementPlace::size);
  m_across = placed(tr("To the right of there, of the canvas's shorter side"), -kMostElementOffset, kMostElementOffset,
                    &ElementPlace::x);
  m_down = placed(tr("Below there, of the canvas's shorter side"), -kMostElementOffset, kMostElementOffset,
                  &ElementPlace::y);
  auto* numbers = new QWidget(part);
  auto* form = new QFormLayout(numbers);
  form->setContentsMargins(0, 0, 0, 0);
  form->setVerticalSpacing(4);
  form->addRow(heading(tr("size"), numbers), m_size);
  form->addRow(heading(tr("across"), numbers), m_across);
  form->addRow(heading(tr("down"), numbers), m_down);
  m_overButtons = new QCheckBox(tr("also under a destination's buttons"), part);
  m_overButtons->setToolTip(tr("Else it keeps clear of what a destination lays over the picture"));
  connect(m_overButtons, &QCheckBox::clicked, this,
          [this](bool on) { tell(tr("Also under buttons"), [on](Element& e) { e.overButtons = on; }); });
  rows->addWidget(beside({grid, numbers}, part));
  rows->addWidget(m_overButtons);
  return part;
}

QWidget* ElementForm::buildLook() {
  auto* part = new QWidget(this);
  auto* form = new QFormLayout(part);
  form->setContentsMargins(0, 6, 0, 0);
  form->setVerticalSpacing(4);
  m_family = new QComboBox(part);
  m_family->setAccessibleName(tr("Font"));
  m_family->setMaximumWidth(190);
  connect(m_family, &QComboBox::textActivated, this, [this](const QString& family) {
    tell(tr("Font"), [family = family.toStdString()](Element& e) { e.look.family = family; });
  });
  m_weight = new QComboBox(part);
  m_weight->setAccessibleName(tr("Weight"));
  m_weight->addItems({tr("light"), tr("regular"), tr("semibold"), tr("bold"), tr("black")});
  connect(m_weight, &QComboBox::activated, this, [this](int choice) {
    tell(tr("Weight"), [choice](Element& e) { e.look.weight = kWeights[size_t(choice)]; });
  });
  m_italic = new QCheckBox(tr("italic"), part);
  connect(m_italic, &QCheckBox::clicked, this,
          [this](bool on) { tell(tr("Italic"), [on](Element& e) { e.look.italic = on; }); });
  m_colour = colour(tr("Colour of the letters"), [](TextLook& look) -> Colour& { return look.colour; });
  m_align = new QComboBox(part);
  m_align->setAccessibleName(tr("Lines to each other"));
  m_align->addItems({tr("even at the beginning"), tr("in the middle"), tr("even at the end")});
  connect(m_align, &QComboBox::activated, this, [this](int choice) {
    tell(tr("Lines to each other"), [choice](Element& e) { e.look.align = TextAlign(choice); });
  });
  const auto look = [this](const QString& name, double least, double most, const QString& unit, int places,
                           double TextLook::*value, double times = 1) {
    return number(name, least, most, unit, places, [this, name, value, times](double now, QDoubleSpinBox* field) {
      tell(
          name, [=](Element& e) { e.look.*value = now / times; }, field);
    });
  };
  const QString percent = QStringLiteral(" %");
  m_measure = look(tr("Longest line, of the width there is"), 5, 100, percent, 0, &TextLook::measure);
  m_lines = look(tr("From line to line, of the letters' height"), 50, 300, percent, 0, &TextLook::lineSpacing, 100);
  m_leastSize = look(tr("The smallest that it may become to fit, of the canvas's shorter side"), kLeastTextSize,
                     kMostTextSize, percent, 1, &TextLook::leastSize);
  m_shadow = look(tr("How dark its shadow is"), 0, 100, percent, 0, &TextLook::shadow, 100);
  m_outline = look(tr("Outline, of the letters' height"), 0, 30, percent, 0, &TextLook::outline, 100);
  m_outlineColour = colour(tr("Colour of the outline"), [](TextLook& l) -> Colour& { return l.outlineColour; });
  m_box = look(tr("How opaque the box behind it is"), 0, 100, percent, 0, &TextLook::box, 100);
  m_boxColour = colour(tr("Colour of the box"), [](TextLook& l) -> Colour& { return l.boxColour; });
  form->addRow(heading(tr("font"), part), beside({m_family, m_colour}, part));
  form->addRow(QString(), beside({m_weight, m_italic}, part));
  form->addRow(heading(tr("lines"), part), beside({m_align}, part));
  form->addRow(heading(tr("line up to"), part),
               beside({m_measure, heading(tr("from line to line"), part), m_lines}, part));
  form->addRow(heading(tr("least size"), part), beside({m_leastSize}, part));
  form->addRow(heading(tr("shadow"), part),
               beside({m_shadow, heading(tr("outline"), part), m_outline, m_outlineColour}, part));
  form->addRow(heading(tr("box"), part), beside({m_box, m_boxColour}, part));
  return part;
}

QWidget* ElementForm::buildTime() {
  auto* part = new QWidget(this);
  auto* form = new QFormLayout(part);
  form->setContentsMargins(0, 6, 0, 0);
  form->setVerticalSpacing(4);
  m_in = new TimecodeField(tr("First seen"), part);
  m_out = new TimecodeField(tr("Seen until"), part);
  const auto seen = [this](const QString& text, const Rational& from, const Rational& to) {
    const Project& project = m_document.project();
    const int place = m_element ? placeOf(project.shots, m_element->shot) : -1;
    if (place < 0)
      return tell(text, [from, to](Element& e) {
        e.in = from;
        e.out = to;
      });
    tell(text, [from, to, begin = project.shotStarts()[size_t(place)],
                shot = project.shots[size_t(place)]](Element& e) { bind(e, shot, begin, from, to); });
  };
  connect(m_in, &TimecodeField::timeTyped, this,
          [this, seen] { seen(tr("First seen"), m_in->time(), std::max(m_out->time(), m_in->time() + kLeastShown)); });
  connect(m_out, &TimecodeField::timeTyped, this,
          [this, seen] { seen(tr("Seen until"), m_in->time(), std::max(m_out->time(), m_in->time() + kLeastShown)); });
  const auto fade = [this](const QString& name, Rational Element::*value) {
    return number(name, 0, 60, tr(" s"), 2, [this, name, value](double now, QDoubleSpinBox* field) {
      tell(
          name, [=](Element& e) { e.*value = rationalOf(now); }, field);
    });
  };
  m_fadeIn = fade(tr("Comes in within"), &Element::fadeIn);
  m_fadeOut = fade(tr("Goes out within"), &Element::fadeOut);
  m_withShot = new QCheckBox(tr("goes along with its shot"), part);
  m_withShot->setToolTip(tr("With the shot in which it begins, wherever that goes; else it keeps its time"));
  connect(m_withShot, &QCheckBox::clicked, this, [this](bool on) {
    const Project& project = m_document.project();
    if (!m_element) return;
    const std::vector<Rational> starts = project.shotStarts();
    const auto [begin, end] = stretchOf(project, *m_element);
    if (!on)
      return tell(tr("Keep its time"), [begin = begin, end = end](Element& e) {
        e.shot.clear();
        e.in = begin;
        e.out = std::max(end, begin + kLeastShown);
      });
    const auto after = std::upper_bound(starts.begin(), starts.end(), begin);
    const auto place = size_t(after - starts.begin());
    if (place == 0 || place > project.shots.size()) return refresh();
    tell(tr("Go along with its shot"),
         [begin = begin, end = end, start = starts[place - 1], shot = project.shots[place - 1]](Element& e) {
           bind(e, shot, start, begin, end);
         });
  });
  form->addRow(heading(tr("seen from"), part), beside({m_in, heading(tr("to"), part), m_out}, part));
  form->addRow(heading(tr("fades in"), part), beside({m_fadeIn, heading(tr("out"), part), m_fadeOut}, part));
  form->addRow(QString(), m_withShot);
  return part;
}

void ElementForm::tell(const QString& text, const std::function<void(Element&)>& how, const void* field) {
  if (!m_element || m_showing) return;
  if (!field || field != m_field) m_gesture = field ? m_document.newGesture() : 0;
  m_field = field;
  emit changed(how, text, m_gesture);
}

void ElementForm::place(const QString& text, const std::function<void(ElementPlace&)>& how, const void* field) {
  const std::string in = shape();
  tell(
      text,
      [in, how](Element& e) {
        if (in.empty()) return how(e.place);
        const auto [own, fresh] = e.own.try_emplace(in);
        if (fresh) own->second.place = e.place;
        how(own->second.place);
      },
      field);
}

std::string ElementForm::shape() const {
  return m_shape->currentData().toString().toStdString();
}

void ElementForm::fillShapes() {
  const QVariant before = m_shape->currentData();
  m_shape->clear();
  m_shape->addItem(tr("all shapes"), QString());
  for (const Deliverable& d : m_document.project().deliverables) {
    if (!framesItself(d)) continue;
    const bool own = m_element && m_element->own.contains(d.id);
    m_shape->addItem(own ? tr("%1 (its own)").arg(QString::fromStdString(d.name)) : QString::fromStdString(d.name),
                     QString::fromStdString(d.id));
  }
  m_shape->setCurrentIndex(std::max(0, m_shape->findData(before)));
}

void ElementForm::show(const Element* element) {
  if (!element || !m_element || m_element->id != element->id) m_field = nullptr;
  m_element = element ? std::optional(*element) : std::nullopt;
  refresh();
}

void ElementForm::focusText() {
  m_text->setFocus();
  m_text->selectAll();
}

int ElementForm::cursor() const {
  const int at = m_text->textCursor().position();
  return at > 0 && at < m_text->document()->characterCount() - 1 ? at : -1;
}

void ElementForm::refresh() {
  m_showing = true;
  fillShapes();
  setEnabled(m_element.has_value());
  const Element e = m_element.value_or(Element());
  const std::string in = shape();
  const bool own = e.own.contains(in);
  const bool text = e.hasText();
  const QString words = QString::fromStdString(in.empty() ? e.text : e.textIn(in));
  if (m_text->toPlainText() != words) m_text->setPlainText(words);
  m_text->setVisible(text);
  m_forAll->setVisible(e.kind == ElementKind::Caption);
  m_look->setVisible(text);
  m_giveBack->setVisible(!in.empty());
  m_giveBack->setEnabled(own);
  m_hidden->setVisible(!in.empty());
  const ElementPlace place = in.empty() ? e.place : e.placeIn(in);
  m_hidden->setChecked(place.hidden);
  m_anchors->button(int(place.anchor))->setChecked(true);
  m_size->setValue(place.size);
  m_across->setValue(place.x);
  m_down->setValue(place.y);
  m_overButtons->setChecked(e.overButtons);
  if (m_family->count() == 0)
    for (const std::string& family : fontFamilies()) m_family->addItem(QString::fromStdString(family));
  const QString family = QString::fromStdString(e.look.family);
  if (m_family->findText(family) < 0) m_family->addItem(family);
  m_family->setCurrentText(family);
  const auto weight = std::ranges::min_element(kWeights, {}, [&](int w) { return std::abs(w - e.look.weight); });
  m_weight->setCurrentIndex(int(weight - kWeights.begin()));
  m_italic->setChecked(e.look.italic);
  m_align->setCurrentIndex(int(e.look.align));
  m_measure->setValue(e.look.measure);
  m_lines->setValue(e.look.lineSpacing * 100);
  m_leastSize->setValue(e.look.leastSize);
  m_shadow->setValue(e.look.shadow * 100);
  m_outline->setValue(e.look.outline * 100);
  m_box->setValue(e.look.box * 100);
  const auto swatch = [](QToolButton* button, const Colour& colour) {
    QPixmap filled(16, 16);
    filled.fill(QColor(colour.red, colour.green, colour.blue));
    button->setIcon(filled);
  };
  swatch(m_colour, e.look.colour);
  swatch(m_outlineColour, e.look.outlineColour);
  swatch(m_boxColour, e.look.boxColour);
  const auto [begin, end] = stretchOf(m_document.project(), e);
  for (TimecodeField* field : {m_in, m_out}) field->setRate(m_session.rate());
  m_in->setTime(begin);
  m_out->setTime(end);
  m_fadeIn->setValue(e.fadeIn.toDouble());
  m_fadeOut->setValue(e.fadeOut.toDouble());
  m_withShot->setChecked(!e.shot.empty());
  m_showing = false;
}

} // namespace tromb
