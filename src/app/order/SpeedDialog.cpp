// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/SpeedDialog.h"

#include "app/order/SpeedCurve.h"
#include "app/style/TimecodeField.h"
#include "model/Translation.h"
#include "time/Cadence.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFocusEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace tromb {

SpeedDialog::SpeedDialog(Session& session, QWidget* parent)
    : QDialog(parent), m_pacing(session), m_curve(new SpeedCurve(m_pacing, this)), m_name(new QLabel(this)),
      m_of(new QLabel(this)), m_lasts(new QLabel(this)), m_speed(new QDoubleSpinBox(this)),
      m_length(new TimecodeField(tr("New length of the shot"), this)), m_ease(new QComboBox(this)),
      m_key(new QPushButton(tr("Set a &key"), this)), m_away(new QPushButton(tr("&Take it away"), this)) {
  setObjectName(QStringLiteral("speedDialog"));
  setWindowTitle(tr("Speed"));
  setAttribute(Qt::WA_DeleteOnClose);
  m_name->setProperty("rank", "head");
  m_speed->setRange(kLeastTypedSpeed.toDouble() * 100, kMostTypedSpeed.toDouble() * 100);
  m_speed->setDecimals(2);
  m_speed->setSuffix(QStringLiteral(" %"));
  m_speed->setKeyboardTracking(false);
  m_speed->setButtonSymbols(QAbstractSpinBox::NoButtons);
  m_of->setBuddy(m_speed);
  m_ease->addItems({tr("keeps its speed"), tr("changes evenly"), tr("changes smoothly")});
  m_ease->setAccessibleName(tr("On to the next key the shot"));
  m_lasts->setProperty("rank", "faint");
  m_lasts->setWordWrap(true);

  auto* all = new QVBoxLayout(this);
  all->addWidget(m_name);
  auto* fields = new QHBoxLayout;
  fields->addWidget(m_of);
  fields->addWidget(m_speed);
  auto* length = new QLabel(tr("new &length"), this);
  length->setBuddy(m_length);
  fields->addSpacing(16);
  fields->addWidget(length);
  fields->addWidget(m_length);
  fields->addStretch(1);
  all->addLayout(fields);
  all->addWidget(m_curve, 1);
  auto* keys = new QHBoxLayout;
  keys->addWidget(m_key);
  keys->addWidget(m_away);
  auto* on = new QLabel(tr("on to the ne&xt key it"), this);
  on->setBuddy(m_ease);
  keys->addSpacing(16);
  keys->addWidget(on);
  keys->addWidget(m_ease);
  keys->addStretch(1);
  all->addLayout(keys);
  all->addWidget(m_lasts);
  // Return in a field takes what was typed and presses nothing.
  for (QPushButton* button : {m_key, m_away}) button->setAutoDefault(false);
  resize(620, 400);

  connect(m_speed, &QDoubleSpinBox::valueChanged, this, [this](double value) {
    if (m_showing || !m_pacing.shot()) return;
    const Rational speed(std::lround(value * 100), 10'000);
    const int key = m_pacing.chosen();
    if (key >= 0)
      m_pacing.changeKey(key, m_pacing.shot()->pace.keys[size_t(key)].time, speed, 0);
    else
      m_pacing.setSpeed(speed, 0);
  });
  connect(m_length, &TimecodeField::timeTyped, this, [this] { m_pacing.setLength(m_length->time()); });
  connect(m_ease, &QComboBox::activated, this, [this](int ease) { m_pacing.setEase(SpeedEase(ease)); });
  connect(m_key, &QPushButton::clicked, this, [this] { m_pacing.setKey(m_pacing.sourceTime()); });
  connect(m_away, &QPushButton::clicked, this, [this] { m_pacing.removeKey(m_pacing.chosen()); });
  connect(&m_pacing, &Pacing::changed, this, &SpeedDialog::refresh);
  connect(&m_pacing, &Pacing::moved, this, &SpeedDialog::refreshMoment);
  connect(&session.document(), &Document::aboutToReset, this, &QDialog::close);
  refresh();
}

void SpeedDialog::refresh() {
  m_showing = true;
  const Shot* shot = m_pacing.shot();
  m_name->setText(shot ? QString::fromStdString(shot->name) : tr("There is no shot under the playhead"));
  const int key = m_pacing.chosen();
  for (QWidget* field : std::initializer_list<QWidget*>{m_speed, m_length, m_curve, m_key}) field->setEnabled(shot);
  m_ease->setEnabled(key >= 0);
  m_away->setEnabled(key >= 0);
  m_of->setText(key >= 0 ? tr("&speed at the key") : tr("&speed"));
  m_speed->setAccessibleName(key >= 0 ? tr("Speed at the key, in percent of its own")
                                      : tr("Speed of the shot, in percent of its own"));
  if (shot) {
    m_ease->setCurrentIndex(key >= 0 ? int(shot->pace.keys[size_t(key)].ease) : int(SpeedEase::Smooth));
    m_length->setRate(m_pacing.session().rate());
    m_length->setTime(shot->duration());
    const auto lasts = [&](const Rational& seconds) { return QString::fromStdString(clockText(seconds)); };
    m_lasts->setText(
        shot->pace.asShot()
            ? tr("It lasts %1, as it was shot. Double-click the curve to set a key.").arg(lasts(shot->duration()))
            : tr("It lasts %1 for %2 of the source (%3). Framing keeps to its pictures, and sound goes along.")
                  .arg(lasts(shot->duration()), lasts(shot->out - shot->in), said(paceText(shot->time()))));
  } else {
    m_lasts->clear();
  }
  m_showing = false;
  refreshMoment();
}

/// What depends on where the playhead stands.
void SpeedDialog::refreshMoment() {
  const Shot* shot = m_pacing.shot();
  if (!shot) return;
  m_showing = true;
  const TimeMap time = shot->time();
  const int key = m_pacing.chosen();
  const Rational speed =
      key >= 0 ? shot->pace.keys[size_t(key)].speed : time.speedAt(time.sinceBegin(m_pacing.sourceTime()));
  if (!m_speed->hasFocus() || std::abs(m_speed->value() - speed.toDouble() * 100) > 0.005)
    m_speed->setValue(speed.toDouble() * 100);
  m_key->setEnabled(m_pacing.keyAt(m_pacing.onFrame(m_pacing.sourceTime())) < 0);
  m_showing = false;
}

} // namespace tromb
