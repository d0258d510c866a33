// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/CompareView.h"

#include "app/style/FlowLayout.h"
#include "app/style/Folders.h"
#include "app/style/Icons.h"
#include "app/style/Theme.h"
#include "encoding/Encoding.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QRadioButton>
#include <QSpinBox>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kUsualGain = 8;
constexpr int kTickMilliseconds = 8;
constexpr double kLeastPsnr = 20; ///< dB, of the drawing
constexpr double kMostPsnr = 60;

/// What one side is, in a line.
QString factsOf(const Comparison::Side& side) {
  QStringList facts{CompareView::tr("%1×%2").arg(side.canvas.width).arg(side.canvas.height),
                    CompareView::tr("%1 fps").arg(QString::fromStdString(side.rate.name())),
                    CompareView::tr("%n frames", nullptr, int(side.frames))};
  if (side.bytes > 0)
    facts << QString::fromStdString(bytesText(side.bytes))
          << QString::fromStdString(bitRateText(int64_t(side.bitRate)));
  return facts.join(QStringLiteral(" · "));
}

double mostBits(const Comparison& c) {
  double most = 1;
  for (const Comparison::Side* side : {&c.first, &c.second})
    for (const float bits : side->bitsBySecond) most = std::max(most, double(bits));
  return most * 1.06;
}

std::vector<TimelineBand> bandsOfComparison(const Comparison& c) {
  std::vector<TimelineBand> bands;
  const double every = 1 / c.first.rate.toDouble();
  TimelineBand ssim;
  ssim.name = CompareView::tr("SSIM");
  ssim.low = likenessFloor(c.structure.worst);
  ssim.second = CompareView::tr("from %1 to 1").arg(ssim.low, 0, 'f', 2);
  ssim.values = c.ssim;
  ssim.every = every;
  ssim.words = [](double value) { return CompareView::tr("SSIM %1").arg(value, 0, 'f', 4); };
  bands.push_back(std::move(ssim));
  TimelineBand psnr;
  psnr.name = CompareView::tr("PSNR");
  psnr.second = CompareView::tr("%1 to %2 dB").arg(kLeastPsnr).arg(kMostPsnr);
  psnr.values = c.psnr;
  psnr.every = every;
  psnr.low = kLeastPsnr;
  psnr.high = kMostPsnr;
  psnr.words = [](double value) { return CompareView::tr("PSNR %1 dB").arg(value, 0, 'f', 1); };
  bands.push_back(std::move(psnr));
  const double most = mostBits(c);
  if (!c.first.bitsBySecond.empty())
    bands.push_back(bitsBand(CompareView::tr("Bits, first"), c.first.bitsBySecond, most));
  if (!c.second.bitsBySecond.empty())
    bands.push_back(bitsBand(CompareView::tr("Bits, second"), c.second.bitsBySecond, most));
  return bands;
}

} // namespace

CompareView::CompareView(QueueService& queue, QWidget* parent)
    : QWidget(parent), m_queue(queue), m_service(queue.folder(), cacheFolder("indexes").toStdString()),
      m_stage(new CompareStage(m_service, this)), m_timeline(new FileTimeline(this)), m_ways(new QButtonGroup(this)) {
  setObjectName(QStringLiteral("compare"));
  setFocusProxy(m_stage);
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(8);
  rows->addWidget(buildTop());
  rows->addWidget(buildWays());
  rows->addWidget(m_stage, 1);
  rows->addWidget(m_timeline);
  m_sum = new QLabel(this);
  m_sum->setObjectName(QStringLiteral("comparison"));
  rows->addWidget(m_sum);
  m_tick.setInterval(kTickMilliseconds);
  m_tick.setTimerType(Qt::PreciseTimer);
  connect(&m_tick, &QTimer::timeout, this, &CompareView::tick);
  connect(m_timeline, &FileTimeline::wanted, this, [this](double seconds) {
    play(false);
    m_seeksLeast = false;
    m_service.showAt(seconds);
  });
  connect(m_stage, &CompareStage::playAsked, this, [this] { play(!m_tick.isActive()); });
  connect(m_stage, &CompareStage::gainAsked, this, &CompareView::setGain);
  connect(&m_service, &CompareService::pictured, this, &CompareView::showPicture);
  connect(&m_service, &CompareService::measuredMore, this, &CompareView::showMeasure);
  connect(&m_service, &CompareService::opened, this, [this] {
    m_stage->setSaid({});
    m_service.measure();
    showMeasure();
  });
  connect(&m_service, &CompareService::failed, this, [this](const QString& reason) {
    play(false);
    m_stage->setSaid(reason);
  });
}

QWidget* CompareView::buildTop() {
  auto* top = new QWidget(this);
  auto* grid = new QGridLayout(top);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(10);
  grid->setVerticalSpacing(2);
  auto* back = new QToolButton(top);
  back->setObjectName(QStringLiteral("compareBack"));
  back->setText(tr("Back to the queue"));
  back->setToolTip(tr("Escape does so as well"));
  back->setIcon(icon(QStringLiteral("arrow-left")));
  back->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  connect(back, &QToolButton::clicked, this, &CompareView::left);
  grid->addWidget(back, 0, 0);
  const QString names[] = {tr("&First"), tr("&Second")};
  for (int side = 0; side < 2; ++side) {
    auto* label = new QLabel(names[side], top);
    m_choices[side] = new QComboBox(top);
    m_choices[side]->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    m_choices[side]->setObjectName(side == 0 ? QStringLiteral("compareFirst") : QStringLiteral("compareSecond"));
    label->setBuddy(m_choices[side]);
    m_facts[side] = new QLabel(top);
    m_facts[side]->setProperty("rank", "faint");
    const int column = side == 0 ? 1 : 4;
    grid->addWidget(label, 0, column);
    grid->addWidget(m_choices[side], 0, column + 1);
    grid->addWidget(m_facts[side], 1, column + 1);
    grid->setColumnStretch(column + 1, 1);
    connect(m_choices[side], &QComboBox::activated, this, [this, side] { choose(side); });
  }
  auto* swap = new QToolButton(top);
  swap->setObjectName(QStringLiteral("compareSwap"));
  swap->setIcon(icon(QStringLiteral("arrow-left-right")));
  swap->setToolTip(tr("Swaps the two"));
  swap->setAccessibleName(tr("Swap the two"));
  connect(swap, &QToolButton::clicked, this, [this] {
    const double at = m_service.secondsOf(m_service.wanted());
    compare(m_sides[1], m_sides[0], at);
  });
  grid->addWidget(swap, 0, 3);
  return top;
}

QWidget* CompareView::buildWays() {
  auto* bar = new QWidget(this);
  auto* line = new FlowLayout(bar, 12);
  line->setContentsMargins(0, 0, 0, 0);
  const std::pair<CompareWay, QString> ways[] = {{CompareWay::Beside, tr("&Beside each other")},
                                                 {CompareWay::Wipe, tr("W&ipe")},
                                                 {CompareWay::InTurns, tr("In &turns")},
                                                 {CompareWay::Difference, tr("&Difference")}};
  const QString tips[] = {tr("Both pictures, as large as there is room"),
                          tr("A line between them, dragged by the mouse or moved by Up and Down"),
                          tr("One at a time, at the same place; Return or a click turns to the other"),
                          tr("What they differ by, made stronger; Up and Down double and halve it")};
  for (int i = 0; i < 4; ++i) {
    auto* button = new QRadioButton(ways[i].second, bar);
    button->setToolTip(tips[i]);
    button->setChecked(i == 0);
    m_ways->addButton(button, int(ways[i].first));
    line->addWidget(button);
  }
  m_gain = new QSpinBox(bar);
  m_gain->setButtonSymbols(QAbstractSpinBox::NoButtons);
  m_gain->setObjectName(QStringLiteral("compareGain"));
  m_gain->setRange(1, CompareService::kMostGain);
  m_gain->setValue(kUsualGain);
  m_gain->setPrefix(tr("× "));
  m_gain->setAccessibleName(tr("How much stronger the difference is shown"));
  m_gain->setVisible(false);
  line->addWidget(m_gain);
  m_exact = new QCheckBox(tr("Pi&xel for pixel"), bar);
  m_exact->setObjectName(QStringLiteral("compareExact"));
  m_exact->setToolTip(tr("One pixel of the picture is one of the screen; drag it, or hold Alt and use the arrow keys"));
  line->addWidget(m_exact);
  m_playing = new QToolButton(bar);
  m_playing->setObjectName(QStringLiteral("comparePlay"));
  m_playing->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  m_playing->setToolTip(tr("In step and without sound; the space bar does so as well"));
  line->addWidget(m_playing);
  m_leastLike = new QToolButton(bar);
  m_leastLike->setObjectName(QStringLiteral("compareLeast"));
  m_leastLike->setText(tr("Where they differ &most"));
  m_leastLike->setIcon(icon(QStringLiteral("search")));
  m_leastLike->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  line->addWidget(m_leastLike);
  m_place = new QLabel(bar);
  m_place->setObjectName(QStringLiteral("comparePlace"));
  line->addWidget(m_place);
  connect(m_ways, &QButtonGroup::idClicked, this, [this](int id) {
    m_stage->setWay(CompareWay(id));
    const bool difference = CompareWay(id) == CompareWay::Difference;
    m_gain->setVisible(difference);
    m_service.setGain(difference ? m_gain->value() : 0);
  });
  connect(m_gain, &QSpinBox::valueChanged, this, [this](int gain) {
    if (m_stage->way() == CompareWay::Difference) m_service.setGain(gain);
  });
  connect(m_exact, &QCheckBox::toggled, m_stage, &CompareStage::setPixelForPixel);
  connect(m_playing, &QToolButton::clicked, this, [this] { play(!m_tick.isActive()); });
  connect(m_leastLike, &QToolButton::clicked, this, &CompareView::toLeastLike);
  play(false);
  return bar;
}

QString CompareView::nameOf(const ComparedSide& side) const {
  if (!side.path.empty()) return QFileInfo(QString::fromStdString(side.path)).fileName();
  const QueuedJob* job = m_queue.job(side.job);
  if (job)
    for (const JobResult& each : job->record.results)
      if (each.deliverable == side.deliverable) return tr("As composed: %1").arg(QString::fromStdString(each.name));
  return tr("As composed");
}

void CompareView::fillChoices() {
  std::vector<ComparedSide> offered;
  const auto offer = [&](const ComparedSide& side) {
    if (std::find(offered.begin(), offered.end(), side) == offered.end()) offered.push_back(side);
  };
  for (const ComparedSide& side : m_sides) offer(side);
  for (const auto& [job, result] : m_queue.finished()) {
    if (result->frames == 0) continue;
    offer({result->path, {}, {}});
    offer({{}, job->id, result->deliverable});
  }
  for (int side = 0; side < 2; ++side) {
    m_choices[side]->clear();
    for (const ComparedSide& each : offered) {
      m_choices[side]->addItem(nameOf(each),
                               QVariantList{QString::fromStdString(each.path), QString::fromStdString(each.job),
                                            QString::fromStdString(each.deliverable)});
      m_choices[side]->setItemData(m_choices[side]->count() - 1, QString::fromStdString(each.path), Qt::ToolTipRole);
    }
    m_choices[side]->addItem(tr("Another file …"));
    m_choices[side]->setCurrentIndex(int(std::find(offered.begin(), offered.end(), m_sides[side]) - offered.begin()));
  }
}

void CompareView::choose(int side) {
  const QVariantList chosen = m_choices[side]->currentData().toList();
  ComparedSide wanted;
  if (chosen.size() == 3) {
    wanted = {chosen[0].toString().toStdString(), chosen[1].toString().toStdString(),
              chosen[2].toString().toStdString()};
  } else {
    const QString path = QFileDialog::getOpenFileName(this, tr("A file to compare with"));
    if (path.isEmpty()) return fillChoices();
    wanted.path = path.toStdString();
  }
  const double at = m_service.secondsOf(m_service.wanted());
  compare(side == 0 ? wanted : m_sides[0], side == 1 ? wanted : m_sides[1], at);
}

void CompareView::compare(const ComparedSide& first, const ComparedSide& second, std::optional<double> at) {
  play(false);
  m_sides[0] = first;
  m_sides[1] = second;
  fillChoices();
  m_stage->setNames(nameOf(first), nameOf(second));
  m_stage->setSaid(tr("The pictures are being opened …"));
  m_place->clear();
  m_seeksLeast = !at;
  m_service.open(first, second);
  m_service.showAt(at.value_or(0));
  showMeasure();
}

void CompareView::leave() {
  play(false);
  m_service.close();
}

void CompareView::setGain(int gain) {
  m_gain->setValue(gain);
}

void CompareView::play(bool on) {
  on = on && m_service.isOpen();
  m_playing->setText(on ? tr("&Pause") : tr("&Play"));
  m_playing->setIcon(icon(on ? QStringLiteral("pause") : QStringLiteral("play")));
  if (!on) return m_tick.stop();
  m_seeksLeast = false;
  m_playedFrom = m_service.wanted() + 1 < m_service.frames() ? m_service.wanted() : 0;
  m_clock.start();
  m_tick.start();
}

/// Asks for the frame that is due; what cannot be drawn in time is left out.
void CompareView::tick() {
  if (m_service.busy()) return;
  const int64_t due = m_playedFrom + m_service.frameAt(double(m_clock.elapsed()) / 1000);
  if (due != m_service.wanted()) m_service.show(due);
  if (due >= m_service.frames() - 1) play(false);
}

void CompareView::showPicture() {
  const int64_t frame = m_service.pair().frame;
  const double seconds = m_service.secondsOf(frame);
  m_timeline->setAt(seconds);
  const auto& measured = m_service.comparison();
  QString words = tr("frame %1 · %2").arg(frame).arg(QString::fromStdString(timecode(frame, m_service.rate())));
  if (measured && size_t(frame) < measured->ssim.size())
    words += tr(" · SSIM %1 · PSNR %2 dB")
                 .arg(double(measured->ssim[size_t(frame)]), 0, 'f', 4)
                 .arg(double(measured->psnr[size_t(frame)]), 0, 'f', 1);
  m_place->setText(words);
}

void CompareView::showMeasure() {
  const auto& c = m_service.comparison();
  m_leastLike->setEnabled(c.has_value());
  for (int side = 0; side < 2; ++side)
    m_facts[side]->setText(!c ? QString() : factsOf(side == 0 ? c->first : c->second));
  if (!c) {
    m_timeline->setBands(m_service.seconds(), {});
    m_timeline->setMarks({}, {});
    m_sum->clear();
    return;
  }
  const bool whole = m_service.measured();
  const QString least = QString::fromStdString(timecode(c->structure.worstFrame, c->first.rate));
  m_timeline->setBands(m_service.seconds(), bandsOfComparison(*c));
  m_timeline->setMarks({{tr("least alike"), c->worstTime.toDouble()}}, {});
  if (!whole) {
    m_sum->setText(tr("%1 % are measured; so far least alike at %2, SSIM %3")
                       .arg(100 * int64_t(c->ssim.size()) / std::max<int64_t>(1, m_service.frames()))
                       .arg(least)
                       .arg(c->structure.worst, 0, 'f', 4));
  } else if (c->different == 0) {
    m_sum->setText(tr("All pictures are the same, to the bit"));
  } else {
    QString words = tr("SSIM %1 on average, %2 at least · PSNR %3 dB on average, %4 dB at least · least alike at %5")
                        .arg(c->structure.mean, 0, 'f', 4)
                        .arg(c->structure.worst, 0, 'f', 4)
                        .arg(c->noise.mean, 0, 'f', 1)
                        .arg(c->noise.worst, 0, 'f', 1)
                        .arg(least);
    if (c->scaled) words += tr(" · the second was brought to the size of the first");
    m_sum->setText(words);
  }
  if (whole && std::exchange(m_seeksLeast, false)) toLeastLike();
  if (m_service.pair().frame >= 0) showPicture();
}

void CompareView::toLeastLike() {
  if (!m_service.comparison()) return;
  play(false);
  m_service.show(m_service.comparison()->structure.worstFrame);
}

void CompareView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) {
    emit left();
    return;
  }
  QWidget::keyPressEvent(event);
}

} // namespace tromb
