// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/CanvasChoices.h"

#include "app/style/FlowLayout.h"
#include "app/style/Icons.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "geometry/LegalSize.h"
#include "geometry/StandardSizes.h"
#include "model/Translation.h"
#include "project/Choices.h"
#include "project/Sharing.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScreen>
#include <QToolButton>
#include <cmath>

namespace tromb {
namespace {

QString sizeWords(Size size) {
  return QString::fromStdString(sizeText(size));
}

/// A shape as an outline; all have the same area, so that none looks more important.
QIcon shapeIcon(double ratio) {
  constexpr int kSide = 28;
  constexpr double kArea = 15;
  QPixmap pixmap(kSide * 2, kSide * 2);
  pixmap.setDevicePixelRatio(2);
  pixmap.fill(Qt::transparent);
  QPainter painter(&pixmap);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(Theme::current().ink, 1.4));
  painter.setBrush(Theme::current().surround.lighter(150));
  const double width = std::min(kSide - 2.0, kArea * std::sqrt(ratio));
  const double height = width / ratio;
  painter.drawRect(QRectF((kSide - width) / 2, (kSide - height) / 2, width, height));
  return pixmap;
}

const std::pair<Rational, const char*> kPixels[] = {
    {Rational(1), QT_TRANSLATE_NOOP("tromb::CanvasChoices", "Square")},
    {Rational(4, 3), QT_TRANSLATE_NOOP("tromb::CanvasChoices", "4/3, as 1440×1080 shown 16:9")},
    {Rational(16, 15), QT_TRANSLATE_NOOP("tromb::CanvasChoices", "16/15, as SD of 576 lines shown 4:3")},
    {Rational(64, 45), QT_TRANSLATE_NOOP("tromb::CanvasChoices", "64/45, as SD of 576 lines shown 16:9")},
    {Rational(8, 9), QT_TRANSLATE_NOOP("tromb::CanvasChoices", "8/9, as SD of 480 lines shown 4:3")},
    {Rational(32, 27), QT_TRANSLATE_NOOP("tromb::CanvasChoices", "32/27, as SD of 480 lines shown 16:9")},
};

} // namespace

CanvasChoices::CanvasChoices(Spec& spec, QWidget* parent)
    : ChoiceGroup(spec, tr("Canvas"), QStringLiteral("canvas"), parent), m_shapes(new QButtonGroup(this)),
      m_shared(new QLabel(this)), m_own(new QPushButton(tr("Make them its &own"), this)) {
  layout()->addWidget(buildSharing());
  layout()->addWidget(buildShapes());
  layout()->removeItem(&seen()); // the shapes come first
  static_cast<QVBoxLayout*>(layout())->addLayout(&seen());
  addRow(seen(), tr("Pi&xels"), buildSides());
  add(seen(), tr("Usual si&zes"),
      new ListChoice(spec,
                     {.name = tr("Usual sizes"),
                      .entries = [this](const Deliverable& d) { return sizes(d); },
                      .value = [](const Deliverable& d) { return QSize(d.canvas.width, d.canvas.height); },
                      .choose =
                          [](Deliverable& d, const QVariant& value) {
                            chooseCanvas(d, {value.toSize().width(), value.toSize().height()});
                          },
                      .other = [](const Deliverable& d) { return tr("%1, as typed").arg(sizeWords(d.canvas)); }},
                     this));
  add(folded(), tr("Pixel shape"),
      new ListChoice(spec,
                     {.name = tr("Pixel shape"),
                      .entries =
                          [](const Deliverable&) {
                            ListChoice::Entries entries;
                            for (const auto& [aspect, words] : kPixels)
                              entries.emplace_back(tr(words), QString::fromStdString(aspect.toString()));
                            return entries;
                          },
                      .value = [](const Deliverable& d) { return QString::fromStdString(d.pixelAspect.toString()); },
                      .choose =
                          [](Deliverable& d, const QVariant& value) {
                            if (const auto aspect = Rational::parse(value.toString().toStdString()))
                              d.pixelAspect = *aspect;
                          },
                      .other = [](const Deliverable& d) { return QString::fromStdString(d.pixelAspect.toString()); }},
                     this));
  auto* sharp = keep(new CheckChoice(spec,
                                     {.text = tr("Never enlarge a picture"),
                                      .value = [](const Deliverable& d) { return d.sharpOnly; },
                                      .choose = [](Deliverable& d, bool on) { d.sharpOnly = on; }},
                                     this));
  sharp->box()->setToolTip(tr("Windows stop where the picture would become soft; a shot that cannot fill says so"));
  folded().addRow(sharp->box());
}

QWidget* CanvasChoices::buildSharing() {
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  m_shared->setWordWrap(true);
  m_shared->setProperty("rank", "faint");
  m_own->setToolTip(tr("Canvas, rate and framings stay as they are, and are changed alone from now on"));
  row->addWidget(m_shared, 1);
  row->addWidget(m_own);
  connect(m_own, &QPushButton::clicked, this,
          [this] { spec().change(tr("Share no longer"), [](Deliverable& d) { d.sharesWith.clear(); }); });
  return line;
}

QWidget* CanvasChoices::buildShapes() {
  auto* line = new QWidget(this);
  auto* row = new FlowLayout(line, 3); // large type needs two rows
  row->setContentsMargins(0, 0, 0, 0);
  m_shapes->setExclusive(false);
  int place = 0;
  for (const StandardShape& shape : standardShapes()) {
    auto* button = new QToolButton(line);
    button->setText(QString::fromUtf8(shape.name.data(), qsizetype(shape.name.size())));
    button->setIcon(shapeIcon(shape.sizes.front().ratio()));
    button->setIconSize({28, 28});
    button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    button->setCheckable(true);
    button->setMinimumWidth(button->fontMetrics().averageCharWidth() * 7);
    button->setAccessibleName(tr("Shape %1").arg(button->text()));
    button->setProperty("shape", true);
    m_shapes->addButton(button, place++);
    row->addWidget(button);
    connect(button, &QToolButton::clicked, this, [this, &shape] {
      spec().change(tr("Change: shape"), [&shape](Deliverable& d) {
        if (standardShapeOf(d.canvas) != &shape) chooseCanvas(d, sizeLike(shape, d.canvas));
      });
      refresh();
    });
  }
  return line;
}

QWidget* CanvasChoices::buildSides() {
  auto* line = new QWidget(this);
  auto* row = new FlowLayout(line, 3);
  row->setContentsMargins(0, 0, 0, 0);
  const auto side = [&](const QString& name, bool width) {
    auto* field = keep(
        new NumberChoice(spec(),
                         {.name = name,
                          .suffix = {},
                          .decimals = 0,
                          .least = kSmallestSide,
                          .most = kLargestSide,
                          .step = 2,
                          .value = [width](const Deliverable& d) { return width ? d.canvas.width : d.canvas.height; },
                          .choose = [this, width](Deliverable& d, double value) { chooseSide(d, width, int(value)); }},
                         line));
    field->setAlignment(Qt::AlignRight);
    field->setMinimumWidth(field->fontMetrics().horizontalAdvance(tr("differs")) + 15);
    return field;
  };
  NumberChoice* width = side(tr("Width in pixels"), true);
  row->addWidget(width);
  row->addWidget(new QLabel(QStringLiteral("×"), line));
  row->addWidget(side(tr("Height in pixels"), false));
  auto* turn = new QToolButton(line);
  turn->setIcon(icon(QStringLiteral("arrow-left-right")));
  turn->setText(tr("Turn"));
  turn->setAccessibleName(tr("Turn: swap width and height"));
  turn->setToolTip(tr("Swap width and height"));
  turn->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  connect(turn, &QToolButton::clicked, this, [this] {
    spec().change(tr("Turn the canvas"), [](Deliverable& d) {
      chooseCanvas(d, {d.canvas.height, d.canvas.width});
      d.pixelAspect = Rational(1) / d.pixelAspect;
    });
    if (const Deliverable* d = spec().current()) m_ratio = d->canvas.ratio();
  });
  m_keep = new QToolButton(line);
  m_keep->setIcon(icon(QStringLiteral("lock")));
  m_keep->setText(tr("Keep shape"));
  m_keep->setAccessibleName(tr("Keep the shape"));
  m_keep->setToolTip(tr("When one side is typed, the other follows"));
  m_keep->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  m_keep->setCheckable(true);
  connect(m_keep, &QToolButton::toggled, this, [this] {
    if (const Deliverable* d = spec().current()) m_ratio = d->canvas.ratio();
  });
  row->addWidget(turn);
  row->addWidget(m_keep);
  line->setFocusProxy(width);
  return line;
}

void CanvasChoices::chooseSide(Deliverable& d, bool width, int pixels) const {
  Size canvas = d.canvas;
  (width ? canvas.width : canvas.height) = pixels;
  if (m_keep->isChecked())
    (width ? canvas.height : canvas.width) = width ? legalHeightFor(pixels, m_ratio) : legalWidthFor(pixels, m_ratio);
  chooseCanvas(d, canvas);
}

/// Those of the shape; the largest that stay sharp for the footage at hand; and that of this screen.
ListChoice::Entries CanvasChoices::sizes(const Deliverable& d) const {
  ListChoice::Entries entries;
  const auto add = [&entries](const QString& words, Size size) {
    const QSize value(size.width, size.height);
    for (const auto& each : entries)
      if (each.second.toSize() == value) return;
    entries.emplace_back(words, value);
  };
  Size all{};
  Size best{};
  for (const SourceInCanvas& each : sourcesIn(spec().document().project(), spec().document().footage(), d)) {
    const Size sharp = largestSharpCanvas(each.shape, d.canvas.ratio());
    if (all.width == 0 || sharp.width < all.width) all = sharp;
    if (sharp.width > best.width) best = sharp;
  }
  constexpr int kLeast = 240;
  if (std::min(best.width, best.height) >= kLeast)
    add(best == all ? tr("%1, the largest that stays sharp").arg(sizeWords(best))
                    : tr("%1, the largest that the sharpest footage fills").arg(sizeWords(best)),
        best);
  if (std::min(all.width, all.height) >= kLeast)
    add(tr("%1, the largest that all footage fills sharply").arg(sizeWords(all)), all);
  if (const StandardShape* shape = standardShapeOf(d.canvas))
    for (const Size size : shape->sizes) add(sizeWords(size), size);
  const QSize pixels = screen()->size() * screen()->devicePixelRatio();
  const Size here{legalNeighbours(pixels.width()).first, legalNeighbours(pixels.height()).first};
  add(tr("%1, this screen").arg(sizeWords(here)), here);
  return entries;
}

QString CanvasChoices::foldedWords() const {
  const Deliverable* d = spec().current();
  return (d->pixelAspect == Rational(1) ? tr("Square pixels")
                                        : tr("Pixels of %1").arg(QString::fromStdString(d->pixelAspect.toString()))) +
         QStringLiteral(" · ") + (d->sharpOnly ? tr("never enlarged") : tr("pictures may be enlarged"));
}

void CanvasChoices::refresh() {
  ChoiceGroup::refresh();
  const Project& project = spec().document().project();
  const Deliverable& now = *spec().current();
  const Deliverable* normal = framesItself(now) ? nullptr : project.deliverable(now.sharesWith);
  const auto sharers = int(sharersOf(project.deliverables, now).size());
  m_shared->parentWidget()->setVisible(sharers > 1);
  m_own->setVisible(normal);
  m_shared->setText(normal ? tr("Canvas, rate and framing are those of '%1', and change with it.")
                                 .arg(QString::fromStdString(normal->name))
                           : tr("Canvas, rate and framing hold for %n high versions, too.", nullptr, sharers - 1));
  const auto shape =
      spec().common<const StandardShape*>([](const Deliverable& d) { return standardShapeOf(d.canvas); });
  for (QAbstractButton* button : m_shapes->buttons()) {
    const StandardShape& each = standardShapes()[size_t(m_shapes->id(button))];
    button->setChecked(shape && *shape == &each);
  }
}

} // namespace tromb
