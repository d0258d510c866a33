// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/CutReview.h"

#include "app/style/Theme.h"
#include "time/Timecode.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

namespace tromb {
namespace {

constexpr QSize kCutPicture{192, 108};
constexpr int kBeforeRole = Qt::UserRole + 1;
constexpr int kAfterRole = Qt::UserRole + 2;
constexpr int kDoubtRole = Qt::UserRole + 3;
constexpr int kFrameRole = Qt::UserRole + 4;
constexpr int kSliderScale = 10; ///< steps a percent

/// A box to tick, the picture before, the picture after, and words.
class CutDelegate : public QStyledItemDelegate {
public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {620, kCutPicture.height() + 12};
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Theme& theme = Theme::current();
    painter->save();
    painter->setRenderHint(QPainter::SmoothPixmapTransform);
    if (option.state & QStyle::State_Selected) {
      QColor wash = theme.accent;
      wash.setAlphaF(0.16F);
      painter->fillRect(option.rect, wash);
    }
    const bool chosen = index.data(Qt::CheckStateRole).toInt() == Qt::Checked;
    const QRectF box(option.rect.left() + 10, option.rect.center().y() - 8, 16, 16);
    painter->setRenderHint(QPainter::Antialiasing);
    painter->setPen(QPen(chosen ? theme.accent : theme.faint, 1.4));
    painter->setBrush(chosen ? theme.accent : theme.sheet);
    painter->drawRoundedRect(box, 3, 3);
    if (chosen) {
      painter->setPen(QPen(theme.onAccent, 2));
      painter->drawPolyline(
          QPolygonF{box.topLeft() + QPointF(4, 8), box.topLeft() + QPointF(7, 11), box.topLeft() + QPointF(12, 5)});
    }
    QRect picture(QPoint(option.rect.left() + 38, option.rect.top() + 6), kCutPicture);
    for (const int role : {kBeforeRole, kAfterRole}) {
      painter->fillRect(picture, theme.surround);
      if (const auto image = index.data(role).value<QImage>(); !image.isNull()) {
        const QSize size = image.size().scaled(kCutPicture, Qt::KeepAspectRatio);
        painter->drawImage(QRect(picture.center() - QPoint(size.width() / 2, size.height() / 2), size), image);
      }
      picture.translate(kCutPicture.width() + 10, 0);
    }
    const bool doubtful = index.data(kDoubtRole).toBool();
    const QRect words(picture.left() + 6, option.rect.top(), option.rect.right() - picture.left() - 6,
                      option.rect.height());
    if (doubtful) drawStatusShape(*painter, QRectF(words.left(), words.center().y() - 24, 10, 10), Cell::State::Soft);
    painter->setPen(chosen ? theme.ink : theme.faint);
    painter->setFont(option.font);
    painter->drawText(words.adjusted(doubtful ? 16 : 0, 0, 0, 0), Qt::AlignVCenter | Qt::TextWordWrap,
                      index.data(Qt::DisplayRole).toString());
    painter->setPen(theme.line);
    painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
    if (option.state & QStyle::State_HasFocus) {
      painter->setPen(QPen(theme.accent, 2));
      painter->setBrush(Qt::NoBrush);
      painter->drawRect(option.rect.adjusted(1, 1, -1, -2));
    }
    painter->restore();
  }
};

} // namespace

CutReview::CutReview(Document& document, int row, QWidget* parent)
    : QDialog(parent), m_document(document), m_shot(document.project().shots[size_t(row)]), m_words(new QLabel(this)),
      m_progress(new QProgressBar(this)), m_slider(new QSlider(Qt::Horizontal, this)), m_sliderWords(new QLabel(this)),
      m_list(new QListWidget(this)), m_accept(new QPushButton(this)) {
  setObjectName(QStringLiteral("cutReview"));
  setWindowTitle(tr("Split '%1' at cuts").arg(QString::fromStdString(m_shot.name)));
  auto* rows = new QVBoxLayout(this);
  m_words->setWordWrap(true);
  rows->addWidget(m_words);
  m_progress->setRange(0, 1000);
  m_progress->setTextVisible(false);
  m_progress->setAccessibleName(tr("Looking for cuts"));
  rows->addWidget(m_progress);
  auto* line = new QHBoxLayout;
  auto* label = new QLabel(tr("&Smallest change"), this);
  label->setBuddy(m_slider);
  m_slider->setRange(1 * kSliderScale, 30 * kSliderScale);
  m_slider->setValue(int(m_threshold * kSliderScale));
  m_slider->setAccessibleName(tr("Smallest change that counts as a cut, in percent"));
  line->addWidget(label);
  line->addWidget(m_slider, 1);
  line->addWidget(m_sliderWords);
  rows->addLayout(line);
  m_list->setAccessibleName(tr("Cuts that were found"));
  m_list->setItemDelegate(new CutDelegate(m_list));
  m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  rows->addWidget(m_list, 1);
  auto* buttons = new QHBoxLayout;
  auto* all = new QPushButton(tr("Choose &all"), this);
  auto* none = new QPushButton(tr("Choose &none"), this);
  auto* cancel = new QPushButton(tr("Cancel"), this);
  m_accept->setProperty("main", true);
  m_accept->setDefault(true);
  m_accept->setObjectName(QStringLiteral("acceptCuts"));
  buttons->addWidget(all);
  buttons->addWidget(none);
  buttons->addStretch();
  buttons->addWidget(m_accept);
  buttons->addWidget(cancel);
  rows->addLayout(buttons);
  resize(760, 640);

  const auto choose = [this](bool on) {
    for (int i = 0; i < m_list->count(); ++i) m_list->item(i)->setCheckState(on ? Qt::Checked : Qt::Unchecked);
  };
  connect(all, &QPushButton::clicked, this, [choose] { choose(true); });
  connect(none, &QPushButton::clicked, this, [choose] { choose(false); });
  connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
  connect(m_accept, &QPushButton::clicked, this, &QDialog::accept);
  connect(m_slider, &QSlider::valueChanged, this, [this](int value) { setThreshold(double(value) / kSliderScale); });
  connect(m_list, &QListWidget::itemChanged, this, [this](const QListWidgetItem* item) {
    const int64_t frame = item->data(kFrameRole).toLongLong();
    const bool chosen = item->checkState() == Qt::Checked;
    if (item->data(kDoubtRole).toBool()) {
      m_accepted.erase(frame);
      if (chosen) m_accepted.insert(frame);
    } else {
      m_refused.erase(frame);
      if (!chosen) m_refused.insert(frame);
    }
    refreshCount();
  });
  connect(m_list, &QListWidget::itemDoubleClicked, this, [](QListWidgetItem* item) {
    item->setCheckState(item->checkState() == Qt::Checked ? Qt::Unchecked : Qt::Checked);
  });
  connect(m_list, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
    if (m_list->mapFromGlobal(QCursor::pos()).x() < 38)
      item->setCheckState(item->checkState() == Qt::Checked ? Qt::Unchecked : Qt::Checked);
  });
  connect(&m_search, &CutSearch::progress, this,
          [this](double fraction) { m_progress->setValue(int(fraction * 1000)); });
  connect(&m_search, &CutSearch::failed, this, [this](const QString& reason) {
    m_searching = false;
    m_progress->setVisible(false);
    m_words->setText(reason);
    m_words->setStyleSheet(QStringLiteral("color: %1").arg(Theme::current().broken.name()));
  });
  connect(&m_search, &CutSearch::finished, this, [this] {
    m_searching = false;
    m_progress->setVisible(false);
    evaluate();
    emit found();
  });
  connect(&m_search, &CutSearch::pictured, this, [this](qint64 frame, const QImage& before, const QImage& after) {
    m_pictures[frame] = {before, after};
    const QSignalBlocker quiet(m_list);
    for (int i = 0; i < m_list->count(); ++i)
      if (m_list->item(i)->data(kFrameRole).toLongLong() == frame) {
        m_list->item(i)->setData(kBeforeRole, before);
        m_list->item(i)->setData(kAfterRole, after);
      }
    m_list->viewport()->update();
  });

  m_words->setText(tr("Looking for the places where the picture changes …"));
  const Result<MediaInfo>* media = document.media(m_shot.source);
  const Source* source = document.project().source(m_shot.source);
  if (media && *media && (*media)->kind == MediaKind::Video && source) {
    m_clock = (*media)->video->clock;
    const int64_t first = m_clock.nearest(m_shot.in);
    m_search.start(*source, **media, first, std::max(first + 1, m_clock.cutAt(m_shot.out)));
  } else {
    m_searching = false;
    m_progress->setVisible(false);
    m_words->setText(tr("This shot has no moving picture to look for cuts in."));
  }
  refreshCount();
}

void CutReview::setThreshold(double percent) {
  m_threshold = percent;
  if (m_slider->value() != int(percent * kSliderScale)) m_slider->setValue(int(percent * kSliderScale));
  evaluate();
}

void CutReview::evaluate() {
  m_cuts = findCuts(m_search.samples(), m_threshold);
  {
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    const FrameRate& rate = m_clock.rate();
    std::vector<FoundCut> unseen;
    for (const FoundCut& cut : m_cuts) {
      const QString at = QString::fromStdString(timecode(cut.frame, rate, hasDropFrame(rate)));
      auto* item = new QListWidgetItem(
          cut.dissolve ? tr("%1\nin doubt: dissolves over %n frames\nchange %2 %", nullptr, int(cut.to - cut.from))
                             .arg(at)
                             .arg(cut.strength, 0, 'f', 1)
                       : tr("%1\ncut\nchange %2 %").arg(at).arg(cut.strength, 0, 'f', 1),
          m_list);
      item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
      item->setData(kFrameRole, qint64(cut.frame));
      item->setData(kDoubtRole, cut.dissolve);
      const bool chosen = cut.dissolve ? m_accepted.contains(cut.frame) : !m_refused.contains(cut.frame);
      item->setCheckState(chosen ? Qt::Checked : Qt::Unchecked);
      if (const auto at_ = m_pictures.find(cut.frame); at_ != m_pictures.end()) {
        item->setData(kBeforeRole, at_->second.first);
        item->setData(kAfterRole, at_->second.second);
      } else {
        unseen.push_back(cut);
      }
    }
    if (!unseen.empty()) m_search.fetch(unseen, kCutPicture * 2);
  }
  refreshCount();
}

void CutReview::refreshCount() {
  m_sliderWords->setText(tr("%1 %").arg(m_threshold, 0, 'f', 1));
  const auto chosen = int(chosenTimes().size());
  m_accept->setText(tr("Split at %n cuts", nullptr, chosen));
  m_accept->setEnabled(!m_searching && chosen > 0);
  if (m_searching || m_search.samples().empty()) return;
  const auto doubtful = std::count_if(m_cuts.begin(), m_cuts.end(), [](const FoundCut& c) { return c.dissolve; });
  const auto hard = int(m_cuts.size()) - int(doubtful);
  m_words->setText(
      m_cuts.empty() ? tr("No cut was found. Lower the smallest change to find weaker ones.")
      : doubtful > 0 ? tr("%1, %2. Tick what is to be split; the pictures show the last frame "
                          "before and the first after.")
                           .arg(tr("%n cuts", nullptr, int(m_cuts.size())))
                           .arg(tr("%n of them in doubt", nullptr, int(doubtful)))
                     : tr("%1. Tick what is to be split; the pictures show the last frame before and the first after.")
                           .arg(tr("%n cuts", nullptr, hard)));
}

std::vector<Rational> CutReview::chosenTimes() const {
  std::vector<Rational> times;
  for (const FoundCut& cut : m_cuts)
    if (cut.dissolve ? m_accepted.contains(cut.frame) : !m_refused.contains(cut.frame))
      times.push_back(m_clock.timeOf(cut.frame));
  return times;
}

} // namespace tromb
