// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/EncodingForm.h"

#include "model/Translation.h"

#include <QAbstractItemView>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

QString text(std::string_view words) {
  return QString::fromUtf8(words.data(), qsizetype(words.size()));
}

constexpr int kUsualLetters = 18; ///< that a closed combo has room for

/// Fills a combo with other entries where they differ, and chooses one.
void fill(QComboBox& combo, const QList<std::pair<QString, QVariant>>& entries, const QVariant& chosen) {
  bool same = combo.count() == entries.size();
  for (int i = 0; same && i < combo.count(); ++i)
    same = combo.itemText(i) == entries[i].first && combo.itemData(i) == entries[i].second;
  if (!same) {
    combo.clear();
    for (const auto& [words, data] : entries) combo.addItem(words, data);
    constexpr int kMargins = 24;
    combo.view()->setMinimumWidth(combo.view()->sizeHintForColumn(0) + kMargins);
  }
  combo.setCurrentIndex(combo.findData(chosen));
  combo.setEnabled(combo.count() > 1);
}

} // namespace

EncodingForm::EncodingForm(Deliverable& deliverable, QFormLayout& form, QWidget* parent)
    : QObject(parent), m_deliverable(deliverable), m_form(form), m_parent(parent) {
  m_codec = combo(tr("Co&dec"), tr("Codec of the picture"));
  m_container = combo(tr("Con&tainer"), tr("Container"));
  m_samples = combo(tr("Sa&mples"), tr("Depth and subsampling"));
  m_control = combo(tr("&Rate control"), tr("Rate control"));
  m_megabits = new QDoubleSpinBox(parent);
  m_megabits->setButtonSymbols(QAbstractSpinBox::NoButtons);
  m_megabits->setRange(0.1, 800);
  m_megabits->setDecimals(1);
  m_megabits->setSuffix(tr(" Mb/s"));
  m_megabits->setAccessibleName(tr("Video bit rate"));
  form.addRow(tr("&Bit rate"), m_megabits);
  m_quality = new QDoubleSpinBox(parent);
  m_quality->setButtonSymbols(QAbstractSpinBox::NoButtons);
  m_quality->setDecimals(1);
  m_quality->setAccessibleName(tr("Constant quality"));
  m_quality->setToolTip(tr("On the codec's own scale: less is better, and larger"));
  form.addRow(tr("&Quality"), m_quality);
  m_speed = combo(tr("&Encoder speed"), tr("Encoder effort"));
  m_sound = combo(tr("So&und"), tr("Codec of the sound"));

  Encoding& e = m_deliverable.encoding;
  connect(m_codec, &QComboBox::activated, this, &EncodingForm::takeCodec);
  connect(m_container, &QComboBox::activated, this, [this, &e] {
    e.container = Container(m_container->currentData().toInt());
    e.sound.codec.reset(); // what goes into the other may not go into this one
    emit changed();
  });
  connect(m_samples, &QComboBox::activated, this, [this] {
    const Samples s = m_deliverable.encoding.info().samples[size_t(m_samples->currentData().toInt())];
    m_deliverable.format.depth = s.depth;
    m_deliverable.format.chroma = s.chroma;
    m_deliverable.encoding.profile.clear();
    emit changed();
  });
  connect(m_control, &QComboBox::activated, this, [this, &e] {
    e.rateControl = RateControl(m_control->currentData().toInt());
    e.passes = 1;
    emit changed();
  });
  connect(m_megabits, &QDoubleSpinBox::valueChanged, this, [this, &e](double value) {
    if (m_filling) return;
    e.bitRate = int64_t(value * 10 + 0.5) * 100'000;
    e.maxBitRate = e.bufferBits = 0;
    emit changed();
  });
  connect(m_quality, &QDoubleSpinBox::valueChanged, this, [this, &e](double value) {
    if (m_filling) return;
    e.crf = value;
    emit changed();
  });
  connect(m_speed, &QComboBox::activated, this, [this, &e] {
    e.speed = m_speed->currentData().toString().toStdString();
    emit changed();
  });
  connect(m_sound, &QComboBox::activated, this, [this, &e] {
    const int row = m_sound->currentData().toInt();
    e.sound.none = row < 0;
    e.sound.bitRate = 0;
    if (row >= 0) e.sound.codec = SoundCodec(row);
    emit changed();
  });
}

QComboBox* EncodingForm::combo(const QString& label, const QString& name) {
  auto* made = new QComboBox(m_parent);
  made->setAccessibleName(name);
  // Long entries do not widen the dialog; the list that opens has room for them.
  made->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  made->setMinimumContentsLength(kUsualLetters);
  m_form.addRow(label, made);
  return made;
}

/// What was chosen for another codec would mean something else, or nothing, for this one.
void EncodingForm::takeCodec() {
  const PictureCodec& codec = infoOf(Codec(m_codec->currentData().toInt()));
  Encoding usual;
  usual.codec = codec.codec;
  usual.title = m_deliverable.encoding.title;
  usual.comment = m_deliverable.encoding.comment;
  usual.language = m_deliverable.encoding.language;
  usual.unknown = m_deliverable.encoding.unknown;
  usual.sound.none = m_deliverable.encoding.sound.none;
  m_deliverable.encoding = usual;
  m_deliverable.format = codec.fitting(m_deliverable.format);
  emit changed();
}

void EncodingForm::refresh() {
  m_filling = true;
  const Encoding e = resolvedEncoding(m_deliverable);
  const PictureCodec& codec = e.info();
  QList<std::pair<QString, QVariant>> entries;
  for (const PictureCodec& row : pictureCodecs())
    entries.emplace_back(tr("%1: %2").arg(text(row.name), said(row.purpose)), int(row.codec));
  fill(*m_codec, entries, int(codec.codec));
  entries.clear();
  for (const Container container : codec.containers) entries.emplace_back(text(infoOf(container).name), int(container));
  fill(*m_container, entries, int(*e.container));
  entries.clear();
  int chosen = 0;
  for (size_t i = 0; i < codec.samples.size(); ++i) {
    const Samples& s = codec.samples[i];
    if (isHdr(m_deliverable.format.colour) && s.depth < 10) continue;
    if (s == Samples{m_deliverable.format.depth, m_deliverable.format.chroma}) chosen = int(i);
    entries.emplace_back(said(samplesText({s.depth, s.chroma, {}})), int(i));
  }
  fill(*m_samples, entries, chosen);
  entries.clear();
  const QString controls[] = {tr("Constant quality"), tr("Average bit rate"), tr("Constant bit rate"),
                              tr("As the codec needs")};
  for (const RateControl control : codec.rateControls) entries.emplace_back(controls[size_t(control)], int(control));
  fill(*m_control, entries, int(*e.rateControl));
  const bool byRate = *e.rateControl == RateControl::Variable || *e.rateControl == RateControl::Constant;
  m_form.setRowVisible(m_megabits, byRate);
  if (byRate && std::abs(m_megabits->value() * 1e6 - double(e.bitRate)) > 5e4)
    m_megabits->setValue(double(e.bitRate) / 1e6);
  const bool byQuality = *e.rateControl == RateControl::ConstantQuality;
  m_form.setRowVisible(m_quality, byQuality);
  if (byQuality) {
    m_quality->setDecimals(codec.quality.whole ? 0 : 1);
    m_quality->setRange(codec.quality.least, codec.quality.most);
    m_quality->setValue(*e.crf);
  }
  entries.clear();
  for (const std::string& speed : codec.speeds) entries.emplace_back(text(speed), text(speed));
  m_form.setRowVisible(m_speed, !codec.speeds.empty());
  fill(*m_speed, entries, text(e.speed));
  entries.clear();
  for (const SoundCodecInfo& row : soundCodecs())
    if (std::find(row.containers.begin(), row.containers.end(), *e.container) != row.containers.end())
      entries.emplace_back(text(row.name), int(row.codec));
  entries.emplace_back(tr("None: the picture alone"), -1);
  fill(*m_sound, entries, e.sound.none ? -1 : int(*e.sound.codec));
  m_filling = false;
}

} // namespace tromb
