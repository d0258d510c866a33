// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/OrderView.h"

#include "app/order/ElementsDialog.h"
#include "app/order/MotionDialog.h"
#include "app/order/SpeedDialog.h"
#include "app/style/FlowLayout.h"
#include "app/style/Icons.h"
#include "app/style/Theme.h"
#include "time/Timecode.h"

#include <QAction>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

const Rational kHeldLength{2}; ///< seconds for which a picture is held at first

QDoubleSpinBox* levelField(const QString& name, QWidget* parent) {
  auto* field = new QDoubleSpinBox(parent);
  field->setAccessibleName(name);
  field->setToolTip(name);
  field->setRange(kLeastLevelDb, kMostLevelDb);
  field->setDecimals(1);
  field->setSuffix(QStringLiteral(" dB"));
  field->setKeyboardTracking(false);
  field->setButtonSymbols(QAbstractSpinBox::NoButtons);
  field->setAlignment(Qt::AlignRight);
  return field;
}

QDoubleSpinBox* secondsField(const QString& name, QWidget* parent) {
  auto* field = levelField(name, parent);
  field->setRange(0, 600);
  field->setSuffix(QStringLiteral(" s"));
  return field;
}

QToolButton* checkButton(const QString& text, const QString& tip, QWidget* parent) {
  auto* button = new QToolButton(parent);
  button->setText(text);
  button->setToolTip(tip);
  button->setCheckable(true);
  return button;
}

/// A field with its name before it, kept together on one line.
QWidget* named(const QString& name, QWidget* field, QWidget* parent) {
  auto* pair = new QWidget(parent);
  auto* row = new QHBoxLayout(pair);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(4);
  auto* label = new QLabel(name, pair);
  label->setProperty("rank", "faint");
  label->setBuddy(field);
  row->addWidget(label);
  row->addWidget(field);
  return pair;
}

} // namespace

OrderView::OrderView(Session& session, Actions& actions, PosterService& posters, WaveformService& waveforms,
                     QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_actions(actions),
      m_strip(new OrderStrip(session, posters, waveforms, this)) {
  setObjectName(QStringLiteral("orderView"));
  bindActions();
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(0);
  m_line = buildLine();
  rows->addWidget(m_line);
  rows->addWidget(m_strip);
  connect(m_strip, &OrderStrip::elementAsked, this, &OrderView::chooseElement);
  m_strip->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(m_strip, &QWidget::customContextMenuRequested, this, [this](const QPoint& place) {
    m_actions.refresh();
    if (QMenu* menu = m_actions.menu(MenuId::OrderMenu)) menu->popup(m_strip->mapToGlobal(place));
  });
  connect(&session, &Session::playheadMoved, this, &OrderView::refresh);
  connect(&session, &Session::selectionChanged, this, &OrderView::refresh);
  connect(&m_document, &Document::shotChanged, this, &OrderView::refresh);
  connect(&m_document, &Document::shotsInserted, this, &OrderView::refresh);
  connect(&m_document, &Document::shotsRemoved, this, &OrderView::refresh);
  connect(&m_document, &Document::bedsChanged, this, &OrderView::refresh);
  for (const auto signal :
       {&Document::reset, &Document::deliverablesInserted, &Document::deliverablesRemoved, &Document::deliverableMoved})
    connect(&m_document, signal, this, &OrderView::refreshRates);
  connect(&m_document, &Document::deliverableChanged, this, &OrderView::refreshRates);
  connect(&m_document, &Document::mediaChanged, this, &OrderView::refreshRates);
  refreshRates();
}

/// What the table's actions do here.
void OrderView::bindActions() {
  const auto any = [this] { return !m_session.shots().empty(); };
  const auto shots = [this] { return !m_document.project().shots.empty(); };
  m_actions.bind(
      "split", [this] { splitAtPlayhead(); },
      [this] {
        const Session::Under under = m_session.underPlayhead();
        if (under.row < 0) return false;
        const Shot& shot = m_document.project().shots[size_t(under.row)];
        return under.sourceTime > shot.in && under.sourceTime < shot.out;
      });
  m_actions.bind(
      "split-at-cuts", [this] { emit splitAtCutsRequested(m_session.shots().front()); },
      [this] { return m_session.shots().size() == 1; });
  m_actions.bind(
      "duplicate", [this] { m_document.duplicateShots(m_session.shots()); }, any);
  m_actions.bind(
      "order-remove", [this] { removeSelected(); },
      [this] { return !m_session.shots().empty() || m_session.bed() >= 0; });
  m_actions.bind(
      "earlier", [this] { m_document.placeShots(m_session.shots(), m_session.shots().front() - 1); },
      [this] { return !m_session.shots().empty() && m_session.shots().front() > 0; });
  m_actions.bind(
      "later", [this] { m_document.placeShots(m_session.shots(), m_session.shots().back() + 2); },
      [this] {
        const std::vector<int> rows = m_session.shots();
        return !rows.empty() && rows.back() + 1 < int(m_document.project().shots.size());
      });
  bindPace();
  m_actions.bind(
      "region",
      [this] {
        bool accepted = false;
        const QString name = QInputDialog::getText(
            this, tr("Name a region"), tr("Name of this part, to export it alone:"), QLineEdit::Normal, {}, &accepted);
        if (accepted) nameRegion(name);
      },
      shots);
  m_actions.bind(
      "order-larger", [this] { m_strip->zoomBy(1.5); }, shots);
  m_actions.bind(
      "order-smaller", [this] { m_strip->zoomBy(1 / 1.5); }, shots);
  m_actions.bind(
      "order-all", [this] { m_strip->showAll(); }, shots);
}

/// The chosen shots that are videos and go on: a held picture has no speed and no direction.
std::vector<int> OrderView::chosenVideos() const {
  std::vector<int> rows = m_session.shots();
  const auto& shots = m_document.project().shots;
  std::erase_if(rows, [&](int row) { return !videoOf(row) || shots[size_t(row)].pace.held > Rational(0); });
  return rows;
}

/// The facts of a shot's source; null unless it is a video that was read.
const MediaInfo* OrderView::videoOf(int row) const {
  const Result<MediaInfo>* media = m_document.media(m_document.project().shots[size_t(row)].source);
  return media && *media && (*media)->kind == MediaKind::Video ? &**media : nullptr;
}

/// Opens a dialog that stays open beside the window, or shows the one that is open.
template <typename Dialog> Dialog* OrderView::showBeside() {
  auto* dialog = window()->findChild<Dialog*>();
  if (!dialog) dialog = new Dialog(m_session, window());
  dialog->show();
  dialog->raise();
  dialog->activateWindow();
  return dialog;
}

void OrderView::chooseElement(const std::string& id) {
  elements()->choose(id);
}

ElementsDialog* OrderView::elements() {
  return showBeside<ElementsDialog>();
}

/// What changes how time passes in the chosen shots.
void OrderView::bindPace() {
  const auto videos = [this] { return !chosenVideos().empty(); };
  const auto change = [this](const QString& text, const std::function<void(Shot&, const MediaInfo&)>& how) {
    std::vector<Shot> changed;
    for (const int row : chosenVideos()) {
      changed.push_back(m_document.project().shots[size_t(row)]);
      how(changed.back(), *videoOf(row));
      bringOnTicks(changed.back());
    }
    m_document.changeShots(changed, text);
  };
  m_actions.bind(
      "hold-picture", [this] { holdAtPlayhead(); },
      [this] {
        const int row = m_session.underPlayhead().row;
        return row >= 0 && videoOf(row) && m_document.project().shots[size_t(row)].pace.held == Rational(0);
      });
  m_actions.bind(
      "backwards",
      [this, change] {
        change(tr("Play backwards"), [on = m_actions.at("backwards")->isChecked()](Shot& shot, const MediaInfo&) {
          shot.pace.reversed = on;
        });
      },
      videos);
  m_actions.bind(
      "every-frame",
      [this, change] {
        change(tr("Every frame once"), [this](Shot& shot, const MediaInfo& media) {
          shot.pace.speed =
              std::clamp(m_session.rate().value() / media.video->clock.rate().value(), kLeastSpeed, kMostSpeed);
          shot.pace.keys.clear();
        });
      },
      videos);
  m_actions.bind(
      "pitch-follows",
      [this, change] {
        change(tr("Pitch follows the speed"), [on = m_actions.at("pitch-follows")->isChecked()](
                                                  Shot& shot, const MediaInfo&) { shot.pitchFollows = on; });
      },
      videos);
  m_actions.bind(
      "speed", [this] { showBeside<SpeedDialog>(); }, [this] { return m_session.underPlayhead().row >= 0; });
  m_actions.bind(
      "add-words", [this] { elements()->addText(); }, [this] { return !m_document.project().shots.empty(); });
  m_actions.bind(
      "elements", [this] { elements(); }, [this] { return !m_document.project().shots.empty(); });
  m_actions.bind(
      "motion", [this] { showBeside<MotionDialog>(); },
      [this] { return m_session.underPlayhead().row >= 0 && !m_document.project().deliverables.empty(); });
  m_actions.bind(
      "own-speed", [change] { change(tr("As it was shot"), [](Shot& shot, const MediaInfo&) { shot.pace = {}; }); },
      [this] {
        const std::vector<int> rows = chosenVideos();
        return std::any_of(rows.begin(), rows.end(),
                           [this](int row) { return !m_document.project().shots[size_t(row)].pace.asShot(); });
      });
}

void OrderView::holdAtPlayhead() {
  const auto under = m_session.underPlayhead();
  const MediaInfo* media = under.row < 0 ? nullptr : videoOf(under.row);
  if (!media) return;
  const Shot& shot = m_document.project().shots[size_t(under.row)];
  const FrameMap frames(shot.time(), media->video->clock, m_session.rate());
  const int64_t frame = frames.nearest(m_session.rate().frameAt(under.sinceBegin));
  const FrameClock& clock = media->video->clock;
  const Rational end = frame + 1 < clock.frameCount() ? clock.timeOf(frame + 1) : media->duration;
  m_document.holdPicture(under.row, onTick(std::max(shot.in, clock.timeOf(frame))), onTick(end), kHeldLength);
}

QWidget* OrderView::buildLine() {
  auto* line = new QWidget(this);
  line->setProperty("bar", true);
  line->setAttribute(Qt::WA_StyledBackground);
  auto* row = new FlowLayout(line);
  row->setContentsMargins(10, 4, 10, 4);
  m_position = new TimecodeField(tr("Position in the running order"), line);
  row->addWidget(m_position);
  m_rate = new QComboBox(line);
  m_rate->setAccessibleName(tr("Deliverable whose frames are counted"));
  m_rate->setToolTip(tr("Positions are counted in the frames of this deliverable"));
  m_rate->setMinimumContentsLength(14);
  m_rate->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  row->addWidget(m_rate);
  for (const char* id : {"play", "watch"}) row->addWidget(m_actions.button(id, Qt::ToolButtonIconOnly, line));
  for (const char* id : {"split", "split-at-cuts", "duplicate", "order-remove", "earlier", "later"})
    row->addWidget(m_actions.button(id, Qt::ToolButtonIconOnly, line));
  auto* regions = new QToolButton(line);
  regions->setIcon(icon(QStringLiteral("flag")));
  regions->setAccessibleName(tr("Regions"));
  regions->setToolTip(tr("Named parts of the running order, to export alone"));
  regions->setPopupMode(QToolButton::InstantPopup);
  m_regions = new QMenu(regions);
  connect(m_regions, &QMenu::aboutToShow, this, &OrderView::fillRegionMenu);
  regions->setMenu(m_regions);
  row->addWidget(regions);
  m_what = new QLabel(line);
  m_what->setProperty("rank", "head");
  row->addWidget(m_what);
  buildShotFields(line, row);
  buildBedFields(line, row);
  connect(m_position, &TimecodeField::timeTyped, this, [this] { m_session.setPlayhead(m_position->time()); });
  connect(m_rate, &QComboBox::activated, this, [this] {
    if (const auto rate = FrameRate::parse(m_rate->currentData().toString().toStdString())) m_session.setRate(*rate);
    refresh();
  });
  return line;
}

void OrderView::buildShotFields(QWidget* line, QLayout* row) {
  m_length = new TimecodeField(tr("Length of the shot"), line);
  m_speed = levelField(tr("Speed of the shot, in percent of its own"), line);
  m_speed->setRange(kLeastTypedSpeed.toDouble() * 100, kMostTypedSpeed.toDouble() * 100);
  m_speed->setDecimals(2);
  m_speed->setSuffix(QStringLiteral(" %"));
  m_level = levelField(tr("Level of the shot's sound"), line);
  m_mute = checkButton(tr("mute"), tr("Leave out the shot's sound"), line);
  m_mute->setAccessibleName(tr("Mute the shot"));
  m_shotFields = {named(tr("length"), m_length, line), named(tr("speed"), m_speed, line),
                  named(tr("sound"), m_level, line), m_mute};
  for (QWidget* field : m_shotFields) row->addWidget(field);
  connect(m_length, &TimecodeField::timeTyped, this, [this] {
    changeShots(tr("Change the length"), [this](Shot& shot) {
      const Result<MediaInfo>* media = m_document.media(shot.source);
      if (!media || !*media) return;
      const Rational length = std::max(m_session.rate().frameDuration(), m_length->time());
      Rational end = shot.time().sourceTime(length);
      if (shot.pace.held > Rational(0)) {
        shot.pace.held = length;
      } else if (shot.pace.reversed) {
        shot.in = std::clamp(end, Rational(0), shot.out - m_session.rate().frameDuration() * shot.pace.speed);
      } else {
        if ((*media)->kind == MediaKind::Video) end = std::min(end, (*media)->duration);
        if (end > shot.in) shot.out = end;
      }
    });
  });
  connect(m_speed, &QDoubleSpinBox::valueChanged, this, [this](double value) {
    const Rational speed(std::lround(value * 100), 10'000);
    changeShots(tr("Change the speed"), [speed](Shot& shot) {
      shot.pace.speed = speed;
      shot.pace.keys.clear();
    });
  });
  connect(m_level, &QDoubleSpinBox::valueChanged, this,
          [this](double value) { changeShots(tr("Change the level"), [value](Shot& shot) { shot.levelDb = value; }); });
  connect(m_mute, &QToolButton::toggled, this,
          [this](bool muted) { changeShots(tr("Mute"), [muted](Shot& shot) { shot.muted = muted; }); });
}

void OrderView::buildBedFields(QWidget* line, QLayout* row) {
  m_bedStart = new TimecodeField(tr("Where the sound bed starts"), line);
  m_bedLevel = levelField(tr("Level of the sound bed"), line);
  m_fadeIn = secondsField(tr("Length of the fade in, seconds"), line);
  m_fadeOut = secondsField(tr("Length of the fade out, seconds"), line);
  m_duck = checkButton(tr("duck under speech"), tr("12 dB down while there is speech in the shots"), line);
  m_duck->setAccessibleName(tr("Duck under speech"));
  m_bedFields = {named(tr("from"), m_bedStart, line), named(tr("level"), m_bedLevel, line),
                 named(tr("fade in"), m_fadeIn, line), named(tr("out"), m_fadeOut, line), m_duck};
  for (QWidget* field : m_bedFields) row->addWidget(field);
  connect(m_bedStart, &TimecodeField::timeTyped, this,
          [this] { changeBed(tr("Move sound"), [this](SoundBed& bed) { bed.start = m_bedStart->time(); }); });
  connect(m_bedLevel, &QDoubleSpinBox::valueChanged, this,
          [this](double value) { changeBed(tr("Change the level"), [value](SoundBed& bed) { bed.levelDb = value; }); });
  const auto seconds = [](double value) { return Rational(int64_t(value * 100 + 0.5), 100); };
  connect(m_fadeIn, &QDoubleSpinBox::valueChanged, this, [this, seconds](double value) {
    changeBed(tr("Fade in"), [&](SoundBed& bed) { bed.fadeIn = std::min(seconds(value), bed.out - bed.in); });
  });
  connect(m_fadeOut, &QDoubleSpinBox::valueChanged, this, [this, seconds](double value) {
    changeBed(tr("Fade out"), [&](SoundBed& bed) { bed.fadeOut = std::min(seconds(value), bed.out - bed.in); });
  });
  connect(m_duck, &QToolButton::toggled, this,
          [this](bool duck) { changeBed(tr("Duck under speech"), [duck](SoundBed& bed) { bed.duck = duck; }); });
}

void OrderView::refreshRates() {
  const QString before = m_rate->currentText();
  m_rate->clear();
  for (const Deliverable& d : m_document.project().deliverables)
    m_rate->addItem(QString::fromStdString(d.name + " · " + d.rate.name()),
                    QString::fromStdString(d.rate.value().toString()));
  if (m_rate->count() == 0) {
    FrameRate rate;
    for (const Source& source : m_document.project().sources)
      if (const auto* media = m_document.media(source.id); media && *media && (*media)->kind == MediaKind::Video) {
        rate = (*media)->video->clock.rate();
        break;
      }
    m_rate->addItem(QString::fromStdString(rate.name()), QString::fromStdString(rate.value().toString()));
  }
  m_rate->setCurrentIndex(std::max(0, m_rate->findText(before)));
  if (const auto rate = FrameRate::parse(m_rate->currentData().toString().toStdString());
      rate && *rate != m_session.rate())
    m_session.setRate(*rate);
  refresh();
}

void OrderView::refresh() {
  m_showing = true;
  const bool bedChosen = m_session.bed() >= 0;
  const bool shotChosen = !bedChosen && !m_session.shots().empty();
  for (QWidget* field : m_shotFields) field->setVisible(shotChosen);
  for (QWidget* field : m_bedFields) field->setVisible(bedChosen);
  const FrameRate& rate = m_session.rate();
  for (TimecodeField* field : {m_position, m_length, m_bedStart}) field->setRate(rate);
  m_position->setTime(m_session.playhead());
  const std::vector<int> rows = m_session.shots();
  const int bed = m_session.bed();
  m_actions.refreshSoon();
  if (bed >= 0) {
    const SoundBed& sound = m_document.project().beds[size_t(bed)];
    m_what->setText(tr("Sound bed"));
    m_bedStart->setTime(sound.start);
    m_bedLevel->setValue(sound.levelDb);
    m_fadeIn->setValue(sound.fadeIn.toDouble());
    m_fadeOut->setValue(sound.fadeOut.toDouble());
    m_duck->setChecked(sound.duck);
  } else if (!rows.empty()) {
    const Shot& shot = m_document.project().shots[size_t(rows.front())];
    const QString name = fontMetrics().elidedText(QString::fromStdString(shot.name), Qt::ElideRight, 150);
    m_what->setText(rows.size() == 1 ? QStringLiteral("%1  %2").arg(rows.front() + 1).arg(name)
                                     : tr("%n shots", nullptr, int(rows.size())));
    m_length->setTime(shot.duration());
    m_speed->setEnabled(videoOf(rows.front()) && shot.pace.held == Rational(0));
    m_speed->setValue(shot.time().speedAt(Rational(0)).toDouble() * 100);
    m_actions.at("backwards")->setChecked(shot.pace.reversed);
    m_actions.at("pitch-follows")->setChecked(shot.pitchFollows);
    m_level->setValue(shot.levelDb);
    m_mute->setChecked(shot.muted);
  } else {
    const Rational all = m_document.duration();
    m_what->setText(
        all > Rational(0)
            ? tr("%1 in all").arg(QString::fromStdString(timecode(rate.frameAt(all), rate, hasDropFrame(rate))))
            : QString());
  }
  m_showing = false;
}

void OrderView::changeShots(const QString& text, const std::function<void(Shot&)>& change) {
  if (m_showing) return;
  std::vector<Shot> changed;
  for (const int row : m_session.shots()) {
    changed.push_back(m_document.project().shots[size_t(row)]);
    change(changed.back());
  }
  m_document.changeShots(changed, text);
}

void OrderView::changeBed(const QString& text, const std::function<void(SoundBed&)>& change) {
  const int place = m_session.bed();
  if (m_showing || place < 0) return;
  std::vector<SoundBed> beds = m_document.project().beds;
  change(beds[size_t(place)]);
  m_document.setBeds(beds, text);
}

void OrderView::setSlim(bool slim) {
  m_line->setVisible(!slim);
  m_strip->setSlim(slim);
}

void OrderView::splitAtPlayhead() {
  const auto under = m_session.underPlayhead();
  if (under.row < 0) return;
  Rational at = under.sourceTime;
  const Shot& shot = m_document.project().shots[size_t(under.row)];
  // On a frame of the source, so that the second part begins on its in point.
  if (const auto* media = m_document.media(shot.source); media && *media && (*media)->kind == MediaKind::Video)
    at = (*media)->video->clock.timeOf((*media)->video->clock.nearest(at));
  m_document.splitShot(under.row, {at});
}

void OrderView::removeSelected() {
  if (const int bed = m_session.bed(); bed >= 0) {
    std::vector<SoundBed> beds = m_document.project().beds;
    beds.erase(beds.begin() + bed);
    m_document.setBeds(beds, tr("Remove sound"));
    return;
  }
  m_document.removeShots(m_session.shots());
}

void OrderView::nameRegion(const QString& name) {
  const std::string wanted = name.trimmed().toStdString();
  const auto starts = m_document.project().shotStarts();
  const std::vector<int> rows = m_session.shots();
  if (wanted.empty() || starts.size() < 2) return;
  std::vector<Region> regions = m_document.project().regions;
  Region region;
  region.in = rows.empty() ? Rational(0) : starts[size_t(rows.front())];
  region.out = rows.empty() ? starts.back() : starts[size_t(rows.back()) + 1];
  region.name = wanted;
  // The same name again moves that region here.
  std::erase_if(regions, [&](const Region& other) { return other.name == wanted; });
  region.id = freshId(m_document.project().regions, "r");
  regions.push_back(region);
  m_document.setRegions(regions, tr("Name region '%1'").arg(name.trimmed()));
}

void OrderView::fillRegionMenu() {
  m_regions->clear();
  m_regions->addAction(m_actions.at("region"));
  for (const Region& region : m_document.project().regions) {
    QMenu* each =
        m_regions->addMenu(QString::fromStdString(region.name).replace(QLatin1Char('&'), QLatin1String("&&")));
    each->addAction(tr("Export it …"), this,
                    [this, name = QString::fromStdString(region.name)] { emit exportRegionRequested(name); });
    each->addAction(tr("Go to it"), this, [this, in = region.in] { m_session.setPlayhead(in); });
    each->addAction(tr("Rename …"), this, [this, id = region.id, old = QString::fromStdString(region.name)] {
      bool accepted = false;
      const QString name =
          QInputDialog::getText(this, tr("Rename region"), tr("Name"), QLineEdit::Normal, old, &accepted).trimmed();
      std::vector<Region> regions = m_document.project().regions;
      const int at = placeOf(regions, id);
      if (!accepted || name.isEmpty() || at < 0 || m_document.project().regionNamed(name.toStdString())) return;
      regions[size_t(at)].name = name.toStdString();
      m_document.setRegions(regions, tr("Rename region"));
    });
    each->addAction(tr("Remove"), this, [this, id = region.id] {
      std::vector<Region> regions = m_document.project().regions;
      std::erase_if(regions, [&](const Region& other) { return other.id == id; });
      m_document.setRegions(regions, tr("Remove region"));
    });
  }
}

} // namespace tromb
