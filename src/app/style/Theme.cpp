// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/Theme.h"

#include "io/DataFolder.h"

#include <QDir>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QProxyStyle>
#include <QStyleFactory>
#include <QStyleOptionToolButton>
#include <QWidget>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

// Status colours after the palette of Okabe and Ito (2008), which colour-blind readers tell apart; darkened for day
// and lightened for dusk so that words in them stay readable.
const Theme kDay{QColor("#f5f1ea"), QColor("#fdfbf7"), QColor("#ece6db"), QColor("#d6cdbf"), QColor("#2b2926"),
                 QColor("#6d665c"), QColor("#17606b"), QColor("#ffffff"), QColor("#777777"), QColor("#00714f"),
                 QColor("#8f5a00"), QColor("#b3410a"), QColor("#8a2f62")};
const Theme kDusk{QColor("#2b2927"), QColor("#353230"), QColor("#36332f"), QColor("#4d4943"), QColor("#ece6dc"),
                  QColor("#aba294"), QColor("#5fb2bd"), QColor("#122326"), QColor("#777777"), QColor("#4cc39d"),
                  QColor("#e6b04a"), QColor("#ee8a55"), QColor("#dd93bd")};

constexpr qreal kUsualPoints = 9.75; ///< size of the type that icons and fields are made for

/// The Fusion style, but icon and text of a button are centred together with equal room on both sides.
class Dress : public QProxyStyle {
public:
  Dress() : QProxyStyle(QStyleFactory::create(QStringLiteral("Fusion"))) {}

  int pixelMetric(PixelMetric metric, const QStyleOption* option, const QWidget* widget) const override {
    const int pixels = QProxyStyle::pixelMetric(metric, option, widget);
    switch (metric) { // icons and boxes are as large as the words beside them
    case PM_ButtonIconSize:
    case PM_SmallIconSize:
    case PM_IndicatorWidth:
    case PM_IndicatorHeight:
    case PM_ExclusiveIndicatorWidth:
    case PM_ExclusiveIndicatorHeight:
      return std::max(pixels, int(std::lround(pixels * QApplication::font().pointSizeF() / kUsualPoints)));
    default:
      return pixels;
    }
  }
  /// Draws check boxes and radio buttons that are visible in the dusk theme, too.
  void drawPrimitive(PrimitiveElement element, const QStyleOption* option, QPainter* painter,
                     const QWidget* widget) const override {
    const bool round = element == PE_IndicatorRadioButton;
    if (element != PE_IndicatorCheckBox && element != PE_IndicatorItemViewItemCheck && !round)
      return QProxyStyle::drawPrimitive(element, option, painter, widget);
    const Theme& theme = Theme::current();
    const bool enabled = option->state & State_Enabled;
    const bool on = option->state & State_On;
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(option->rect).adjusted(0.5, 0.5, -0.5, -0.5);
    painter->setPen(QPen(!enabled ? theme.line : on || option->state & State_HasFocus ? theme.accent : theme.faint, 1));
    painter->setBrush(on && enabled ? theme.accent : on ? theme.line : theme.sheet);
    if (round) {
      painter->drawEllipse(box);
      painter->setPen(Qt::NoPen);
      painter->setBrush(theme.onAccent);
      if (on) painter->drawEllipse(box.center(), box.width() * 0.2, box.width() * 0.2);
    } else {
      painter->drawRoundedRect(box, 3, 3);
      painter->setPen(QPen(theme.onAccent, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
      const auto at = [&](double x, double y) { return box.topLeft() + QPointF(box.width() * x, box.height() * y); };
      if (on) painter->drawPolyline(QPolygonF{at(0.25, 0.52), at(0.44, 0.71), at(0.77, 0.31)});
    }
    painter->restore();
  }
  void drawControl(ControlElement element, const QStyleOption* option, QPainter* painter,
                   const QWidget* widget) const override {
    const auto* button = qstyleoption_cast<const QStyleOptionToolButton*>(option);
    if (element != CE_ToolButtonLabel || !button || button->toolButtonStyle != Qt::ToolButtonTextBesideIcon ||
        button->icon.isNull())
      return QProxyStyle::drawControl(element, option, painter, widget);
    const QSize icon = button->iconSize;
    const int words = button->fontMetrics.horizontalAdvance(button->text);
    QRect rect = button->rect;
    rect.setLeft(rect.left() + std::max(0, (rect.width() - icon.width() - kIconGap - words) / 2));
    const bool enabled = button->state & State_Enabled;
    button->icon.paint(painter, QRect(rect.topLeft(), QSize(icon.width(), rect.height())), Qt::AlignCenter,
                       enabled ? QIcon::Normal : QIcon::Disabled, button->state & State_On ? QIcon::On : QIcon::Off);
    drawItemText(painter, rect.adjusted(icon.width() + kIconGap, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                 button->palette, enabled, button->text, QPalette::ButtonText);
  }
  QSize sizeFromContents(ContentsType type, const QStyleOption* option, const QSize& size,
                         const QWidget* widget) const override {
    const auto* button = qstyleoption_cast<const QStyleOptionToolButton*>(option);
    QSize wanted = size;
    if (type == CT_ToolButton && button && button->toolButtonStyle == Qt::ToolButtonTextBesideIcon &&
        !button->icon.isNull())
      wanted.setWidth(button->iconSize.width() + kIconGap + button->fontMetrics.horizontalAdvance(button->text) + 2);
    return QProxyStyle::sizeFromContents(type, option, wanted, widget);
  }

private:
  static constexpr int kIconGap = 6;
};

Theme s_current = kDay;
ThemeChoice s_choice = ThemeChoice::AsDesktop;

QString sheetFor(const Theme& t) {
  QString css = QStringLiteral(R"(
    QWidget { color: @ink; }
    QMainWindow, QDialog { background: @paper; }
    QToolTip { background: @sheet; color: @ink; border: 1px solid @line; padding: 4px; }
    QMenuBar { background: @raised; padding: 2px 6px; }
    QMenuBar::item { padding: 5px 10px; background: transparent; }
    QMenuBar::item:selected, QMenu::item:selected { background: @accent; color: @onAccent; }
    QMenu { background: @sheet; border: 1px solid @line; padding: 4px; }
    QMenu::item { padding: 5px 26px 5px 24px; }
    QMenu::item:disabled { color: @faint; }
    QMenu::separator { height: 1px; background: @line; margin: 4px 8px; }
    QPushButton, QToolButton { background: @sheet; border: 1px solid @line; border-radius: 5px; padding: 5px 11px; }
    QToolButton { padding: 5px 8px; }
    QPushButton:hover, QToolButton:hover { border-color: @accent; }
    QPushButton:focus, QToolButton:focus { border: 2px solid @accent; padding: 4px 10px; }
    QToolButton:focus { padding: 4px 7px; }
    QToolButton[popupMode="2"] { padding-right: 20px; }
    QToolButton[popupMode="2"]:focus { padding-right: 19px; }
    QToolButton::menu-indicator { image: url("@chevron"); width: 10px; height: 10px; subcontrol-origin: border; subcontrol-position: right center; right: 7px; }
    QPushButton:disabled, QToolButton:disabled { color: @faint; background: @raised; }
    QPushButton[small="true"] { padding: 1px 8px; font-size: @small; }
    QPushButton[small="true"]:focus { padding: 0px 7px; }
    QToolButton[shape="true"] { padding: 2px 0px; font-size: @small; }
    QToolButton[shape="true"]:focus { padding: 1px 0px; }
    QToolButton[best="true"] { border-color: @accent; }
    QPushButton[main="true"] { background: @accent; color: @onAccent; border-color: @accent; font-weight: 600; }
    QPushButton[main="true"]:disabled { background: @raised; color: @faint; border-color: @line; }
    QToolButton[autoRaise="true"] { background: transparent; border-color: transparent; padding: 2px 5px; font-size: @small; }
    QToolButton[autoRaise="true"]:hover:enabled { border-color: @accent; }
    QToolButton[autoRaise="true"]:focus { border: 2px solid @accent; padding: 1px 4px; }
    QToolButton:checked { background: @accent; color: @onAccent; border-color: @accent; }
    QToolButton[fold="true"], QToolButton[fold="true"]:checked { color: @faint; background: transparent; border-color: transparent; }
    QToolButton[fold="true"]:focus { border: 2px solid @accent; }
    QLineEdit, QSpinBox, QDoubleSpinBox, QComboBox { background: @sheet; border: 1px solid @line; border-radius: 4px; padding: 4px 6px; selection-background-color: @accent; selection-color: @onAccent; }
    QLineEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus, QComboBox:focus { border: 2px solid @accent; padding: 3px 5px; }
    QLineEdit:disabled, QComboBox:disabled, QSpinBox:disabled, QDoubleSpinBox:disabled { color: @faint; background: @paper; }
    QComboBox::drop-down { border: none; width: 24px; }
    QComboBox::down-arrow { image: url("@chevron"); width: 14px; height: 14px; }
    QComboBox QAbstractItemView { background: @sheet; selection-background-color: @accent; selection-color: @onAccent; }
    QProgressBar { background: @raised; border: 1px solid @line; border-radius: 4px; min-height: 12px; max-height: 12px; text-align: center; }
    QProgressBar::chunk { background: @accent; border-radius: 3px; }
    QTreeView, QListView { background: @sheet; border: none; outline: none; }
    QTreeView#groups { background: transparent; }
    QListWidget::item { padding: 5px 4px; border: 1px solid transparent; }
    QListWidget::item:selected { background: @accent; color: @onAccent; border-radius: 3px; }
    QTreeView { selection-background-color: transparent; }
    QTreeView::branch { background: transparent; }
    QTreeView::branch:selected { background: @accent; }
    QTreeView::item { padding: 4px 2px; }
    QTreeView::item:selected { background: @accent; color: @onAccent; }
    QSplitter::handle { background: @line; }
    QCheckBox { spacing: 6px; }
    QTableView { background: @paper; border: none; gridline-color: @line; }
    QHeaderView { background: @raised; border: none; }
    QHeaderView::section { background: @raised; border: none; }
    QScrollBar:vertical { background: @paper; width: 12px; margin: 0; }
    QScrollBar:horizontal { background: @paper; height: 12px; margin: 0; }
    QScrollBar::handle { background: @line; border-radius: 4px; min-height: 28px; min-width: 28px; margin: 2px; }
    QScrollBar::handle:hover { background: @faint; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
    QSlider::groove:horizontal { height: 4px; background: @line; border-radius: 2px; }
    QSlider::handle:horizontal { width: 14px; margin: -6px 0; border-radius: 7px; background: @accent; }
    QSlider::handle:horizontal:focus { background: @ink; }
    QWidget[bar="true"] { background: @raised; }
    QLabel[rank="title"] { font-size: @title; font-weight: 600; }
    QLabel[rank="head"] { font-weight: 600; }
    QLabel[rank="verdict"] { font-size: @verdict; font-weight: 600; }
    QLabel[rank="faint"] { color: @faint; }
    QLabel#statusTip { background: @raised; border-top: 1px solid @line; border-right: 1px solid @line; border-top-right-radius: 4px; padding: 5px 12px; }
    QFrame[rule="true"] { background: @line; max-height: 1px; min-height: 1px; border: none; }
  )");
  const std::pair<const char*, const QColor&> names[] = {
      {"@paper", t.paper}, {"@sheet", t.sheet}, {"@raised", t.raised},     {"@line", t.line},
      {"@ink", t.ink},     {"@faint", t.faint}, {"@onAccent", t.onAccent}, {"@accent", t.accent}};
  css.replace(QLatin1String("@chevron"), QString::fromStdString(dataFolder()) +
                                             (t.paper.lightness() < 128 ? QStringLiteral("/icons/chevron-dusk.svg")
                                                                        : QStringLiteral("/icons/chevron-day.svg")));
  // Sizes are relative to the application's font, which the user may enlarge.
  const qreal points = QApplication::font().pointSizeF() > 0 ? QApplication::font().pointSizeF() : kUsualPoints;
  css.replace(QLatin1String("@verdict"), QStringLiteral("%1pt").arg(points * 1.15));
  css.replace(QLatin1String("@title"), QStringLiteral("%1pt").arg(points * 1.3));
  css.replace(QLatin1String("@small"), QStringLiteral("%1pt").arg(points * 0.85));
  for (const auto& [name, colour] : names) css.replace(QLatin1String(name), colour.name());
  return css;
}

void loadFont(QApplication& application) {
  static const bool once = [&] {
    const QDir folder(QString::fromStdString(dataFolder() + "/fonts"));
    for (const QString& file : folder.entryList({QStringLiteral("*.ttf")}))
      QFontDatabase::addApplicationFont(folder.filePath(file));
    QFont font(QStringLiteral("Lato"));
    // The desktop's own type size is the base, because people who enlarged it need it large.
    const qreal points = application.font().pointSizeF();
    if (points > 0) font.setPointSizeF(std::max(points, kUsualPoints));
    application.setFont(font);
    return true;
  }();
  (void)once;
}

} // namespace

const Theme& Theme::current() {
  return s_current;
}

ThemeChoice Theme::choice() {
  return s_choice;
}

void Theme::apply(QApplication& application, ThemeChoice choice) {
  static const bool desktopIsDark = application.palette().color(QPalette::Window).lightness() < 128;
  loadFont(application);
  s_choice = choice;
  s_current = choice == ThemeChoice::Dusk || (choice == ThemeChoice::AsDesktop && desktopIsDark) ? kDusk : kDay;
  const Theme& t = s_current;
  QPalette palette;
  palette.setColor(QPalette::Window, t.paper);
  palette.setColor(QPalette::Base, t.sheet);
  palette.setColor(QPalette::AlternateBase, t.raised);
  palette.setColor(QPalette::Button, t.sheet);
  for (const QPalette::ColorRole role :
       {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText}) {
    palette.setColor(role, t.ink);
    palette.setColor(QPalette::Disabled, role, t.faint);
  }
  palette.setColor(QPalette::PlaceholderText, t.faint);
  palette.setColor(QPalette::ToolTipBase, t.sheet);
  palette.setColor(QPalette::Highlight, t.accent);
  palette.setColor(QPalette::HighlightedText, t.onAccent);
  palette.setColor(QPalette::Link, t.accent);
  application.setStyle(new Dress);
  application.setPalette(palette);
  application.setStyleSheet(sheetFor(t));
}

void Theme::applyType(QApplication& application, int percent) {
  loadFont(application);
  static const qreal usual = application.font().pointSizeF();
  if (usual <= 0) return; // the desktop gives its type size in pixels, which is not to be changed
  QFont font = application.font();
  font.setPointSizeF(usual * percent / 100);
  if (font.pointSizeF() == application.font().pointSizeF()) return;
  application.setFont(font);
  application.setStyleSheet(sheetFor(s_current));
}

namespace {

QColor statusColourOf(Cell::State state, const Theme& t) {
  switch (state) {
  case Cell::State::Good:
    return t.good;
  case Cell::State::Soft:
    return t.soft;
  case Cell::State::Bars:
    return t.bars;
  case Cell::State::Unusable:
    return t.broken;
  case Cell::State::Waiting:
    return t.faint;
  }
  return t.ink;
}

} // namespace

QColor statusColour(Cell::State state) {
  return statusColourOf(state, Theme::current());
}

QColor statusColourOnSurround(Cell::State state) {
  return statusColourOf(state, kDusk).lighter(120);
}

void colourWords(QWidget* label, const QColor& colour) {
  const QString sheet = QStringLiteral("color: %1").arg(colour.name());
  if (label->styleSheet() != sheet) label->setStyleSheet(sheet);
}

void drawStatusShape(QPainter& painter, const QRectF& box, Cell::State state, const QColor& other) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  const QColor colour = other.isValid() ? other : statusColour(state);
  painter.setPen(Qt::NoPen);
  painter.setBrush(colour);
  switch (state) {
  case Cell::State::Good:
    painter.drawEllipse(box.adjusted(1, 1, -1, -1));
    break;
  case Cell::State::Soft:
    painter.drawPolygon(QPolygonF{{box.center().x(), box.top()}, box.bottomRight(), box.bottomLeft()});
    break;
  case Cell::State::Bars: // two bars with a gap: a letterbox
    painter.drawRect(QRectF(box.left(), box.top() + 0.5, box.width(), box.height() * 0.32));
    painter.drawRect(QRectF(box.left(), box.bottom() - 0.5 - box.height() * 0.32, box.width(), box.height() * 0.32));
    break;
  case Cell::State::Unusable:
    painter.setPen(QPen(colour, 2.2));
    painter.drawLine(box.topLeft() + QPointF(1, 1), box.bottomRight() - QPointF(1, 1));
    painter.drawLine(box.topRight() + QPointF(-1, 1), box.bottomLeft() + QPointF(1, -1));
    break;
  case Cell::State::Waiting:
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(colour, 1.4));
    painter.drawEllipse(box.adjusted(1, 1, -1, -1));
    break;
  }
  painter.restore();
}

} // namespace tromb
