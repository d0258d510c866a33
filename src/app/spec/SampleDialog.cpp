// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/SampleDialog.h"

#include "app/spec/SampleCurve.h"
#include "app/style/Theme.h"
#include "model/ScreenImage.h"
#include "render/Pictures.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLocale>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {

PixelView::PixelView(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("Part of the picture, pixel for pixel"));
  setMinimumSize(320, 240);
  setCursor(Qt::OpenHandCursor);
}

void PixelView::show(const QImage& picture) {
  const bool first = m_picture.isNull();
  m_picture = picture;
  if (first) m_corner = QPoint(picture.width() - width(), picture.height() - height()) / 2;
  move({});
}

void PixelView::move(const QPoint& by) {
  const QPoint at = m_corner + by;
  // A picture that is smaller than the view stands in its middle.
  const auto within = [](int place, int picture, int view) {
    return picture <= view ? (picture - view) / 2 : std::clamp(place, 0, picture - view);
  };
  m_corner = {within(at.x(), m_picture.width(), width()), within(at.y(), m_picture.height(), height())};
  update();
}

void PixelView::resizeEvent(QResizeEvent* event) {
  const QSize grown = event->oldSize().isValid() ? event->size() - event->oldSize() : QSize(0, 0);
  move(-QPoint(grown.width(), grown.height()) / 2);
}

void PixelView::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), Theme::current().surround);
  painter.drawImage(-m_corner, m_picture);
}

void PixelView::mousePressEvent(QMouseEvent* event) {
  m_held = event->pos();
}

void PixelView::mouseMoveEvent(QMouseEvent* event) {
  move(m_held - event->pos());
  m_held = event->pos();
}

void PixelView::keyPressEvent(QKeyEvent* event) {
  const int step = event->modifiers().testFlag(Qt::ShiftModifier) ? 8 : 64;
  switch (event->key()) {
  case Qt::Key_Left:
    return move({-step, 0});
  case Qt::Key_Right:
    return move({step, 0});
  case Qt::Key_Up:
    return move({0, -step});
  case Qt::Key_Down:
    return move({0, step});
  default:
    QWidget::keyPressEvent(event);
  }
}

SampleDialog::SampleDialog(const SampleReport& report, const Encoding& present, QWidget* parent)
    : QDialog(parent), m_report(report), m_view(new PixelView(this)), m_words(new QLabel(this)) {
  setObjectName(QStringLiteral("sampleDialog"));
  setWindowTitle(tr("Look closer"));
  // Those that were kept from an earlier day have no pictures.
  auto& rungs = m_report.rungs;
  rungs.erase(std::remove_if(rungs.begin(), rungs.end(), [](const SampleRung& each) { return !each.picture; }),
              rungs.end());
  m_pictures.resize(rungs.size() + 1);
  auto* rows = new QVBoxLayout(this);
  auto* top = new QHBoxLayout;
  const QString names[] = {tr("&One"), tr("&Other")};
  int nearest = 0;
  const auto size = [](const Encoding& e) {
    return e.crf && *e.rateControl == RateControl::ConstantQuality ? *e.crf : std::log2(double(e.bitRate) + 1);
  };
  for (size_t i = 0; i < rungs.size(); ++i)
    if (std::abs(size(rungs[i].encoding) - size(present)) <
        std::abs(size(rungs[size_t(nearest)].encoding) - size(present)))
      nearest = int(i);
  for (int side = 0; side < 2; ++side) {
    auto* label = new QLabel(names[side], this);
    QComboBox* choice = m_choices[side] = new QComboBox(this);
    label->setBuddy(choice);
    for (const SampleRung& each : rungs)
      choice->addItem(tr("%1, %2").arg(settingSaid(each.encoding), QString::fromStdString(bytesText(each.fileBytes))));
    choice->addItem(tr("before it is encoded"));
    choice->setCurrentIndex(side == 0 ? nearest : int(rungs.size()));
    connect(choice, &QComboBox::currentIndexChanged, this, [this, side] {
      m_side = side;
      refresh();
    });
    top->addWidget(label);
    top->addWidget(choice);
  }
  auto* flip = new QPushButton(tr("&Flip (space)"), this);
  flip->setAutoDefault(false);
  connect(flip, &QPushButton::clicked, this, &SampleDialog::flip);
  top->addWidget(flip);
  top->addStretch();
  rows->addLayout(top);
  m_words->setProperty("rank", "title");
  rows->addWidget(m_words);
  rows->addWidget(m_view, 1);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  rows->addWidget(buttons);
  m_view->installEventFilter(this);
  m_view->setFocus();
  refresh();
}

bool SampleDialog::eventFilter(QObject* watched, QEvent* event) {
  if (watched == m_view && event->type() == QEvent::KeyPress &&
      static_cast<QKeyEvent*>(event)->key() == Qt::Key_Space) {
    flip();
    return true;
  }
  return QDialog::eventFilter(watched, event);
}

int SampleDialog::shown() const {
  return m_choices[m_side]->currentIndex();
}

void SampleDialog::flip() {
  m_side = 1 - m_side;
  refresh();
}

const QImage& SampleDialog::picture(int place) {
  QImage& image = m_pictures[size_t(place)];
  if (image.isNull()) {
    const bool encoded = place < int(m_report.rungs.size());
    const Frame& frame = encoded ? m_report.rungs[size_t(place)].picture : m_report.picture;
    if (const auto made = toScreen(frame)) image = imageOf(*made);
  }
  return image;
}

void SampleDialog::refresh() {
  const int place = shown();
  m_view->show(picture(place));
  const QString what = m_choices[m_side]->currentText();
  m_words->setText(
      place < int(m_report.rungs.size())
          ? tr("%1 · likeness (SSIM) %2").arg(what, QLocale().toString(m_report.rungs[size_t(place)].ssim, 'f', 3))
          : what);
}

} // namespace tromb
