// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/EncodingForm.h"

#include "app/style/Folders.h"
#include "media/SoundFormat.h"
#include "model/Translation.h"

#include <QAbstractItemView>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
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
  form.addRow(tr("&Quality"), m_quality);
  m_encoder = combo(tr("Encod&er"), tr("Encoder"));
  m_differs = new QLabel(tr("Faster, but larger for the same look. One pass; speed and groups are its own."), parent);
  m_differs->setWordWrap(true);
  m_differs->setProperty("rank", "faint");
  form.addRow(QString(), m_differs);
  m_speed = combo(tr("Encoder s&peed"), tr("Encoder effort"));
  m_place = combo({}, tr("Where the sound goes"));
  m_sound = combo({}, tr("Codec of the sound"));
  m_channels = combo({}, tr("Channels of the sound"));
  m_content = combo({}, tr("What is heard"));
  addPair(tr("So&und"), m_place, m_sound);
  m_heard = addPair(tr("C&hannels"), m_channels, m_content);

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
    m_deliverable.encoding.hardware = m_deliverable.encoding.hardware && working();
    emit changed();
  });
  connect(m_encoder, &QComboBox::activated, this, &EncodingForm::takeEncoder);
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
  connect(m_place, &QComboBox::activated, this, [this, &e] {
    e.sound.place = SoundPlace(m_place->currentData().toInt());
    e.sound.codec.reset(); // what goes into one file may not go into another
    forgetSoundContainer();
    emit changed();
  });
  connect(m_sound, &QComboBox::activated, this, [this, &e] {
    e.sound.codec = SoundCodec(m_sound->currentData().toInt());
    forgetSoundContainer();
    e.sound.bitRate = 0;
    const std::vector<int>& channels = infoOf(*e.sound.codec).channels;
    if (std::find(channels.begin(), channels.end(), e.sound.channels) == channels.end())
      e.sound.channels = channels.front();
    emit changed();
  });
  connect(m_channels, &QComboBox::activated, this, [this, &e] {
    e.sound.channels = m_channels->currentData().toInt();
    e.sound.bitRate = 0;
    emit changed();
  });
  connect(m_content, &QComboBox::activated, this, [this, &e] {
    e.sound.content = SoundContent(m_content->currentData().toInt());
    e.sound.bitRate = 0;
    emit changed();
  });
}

/// A container of sound alone follows from its codec.
void EncodingForm::forgetSoundContainer() {
  std::optional<Container>& container = m_deliverable.encoding.container;
  if (container && !infoOf(*container).picture) container.reset();
}

QComboBox* EncodingForm::combo(const QString& label, const QString& name) {
  auto* made = new QComboBox(m_parent);
  made->setAccessibleName(name);
  // Long entries do not widen the dialog; the list that opens has room for them.
  made->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  made->setMinimumContentsLength(kUsualLetters);
  if (!label.isEmpty()) m_form.addRow(label, made);
  return made;
}

/// A row of two.
QWidget* EncodingForm::addPair(const QString& label, QComboBox* first, QComboBox* second) {
  auto* row = new QWidget(m_parent);
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 0, 0, 0);
  for (QComboBox* box : {first, second}) {
    box->setMinimumContentsLength(kUsualLetters / 2);
    layout->addWidget(box, 1);
  }
  m_form.addRow(label, row);
  if (auto* words = qobject_cast<QLabel*>(m_form.labelForField(row))) words->setBuddy(first);
  return row;
}

/// Graphics hardware is told less than an encoder in software.
void EncodingForm::takeEncoder() {
  Encoding& e = m_deliverable.encoding;
  e.hardware = m_encoder->currentData().toBool();
  if (e.hardware) {
    const Encoding usual;
    e.passes = usual.passes;
    e.highTier = usual.highTier;
    e.openGroups = usual.openGroups;
    e.keysAtCuts = usual.keysAtCuts;
    e.bPictures = usual.bPictures;
    e.references = usual.references;
    e.entropy = usual.entropy;
    e.speed.clear();
    e.tune.clear();
    if (e.rateControl == RateControl::Constant) e.rateControl = RateControl::Variable;
  }
  emit changed();
}

const HardwareEncoder* EncodingForm::working() {
  const Codec codec = m_deliverable.encoding.codec;
  const CanvasFormat& format = m_deliverable.format;
  const Samples samples{format.depth, format.chroma};
  const auto [at, fresh] = m_trials.try_emplace({codec, samples.depth});
  if (fresh && !infoOf(codec).hardware.empty()) {
    const auto take = [this, key = at->first](std::vector<HardwareTrial> trials) {
      m_trials[key] = std::move(trials);
      refresh();
    };
    m_trying.add(
        [codec, samples, folder = cacheFolder("encoders").toStdString(), take](const Job& job) {
          job.tell([take, trials = hardwareTrials(codec, samples, folder)] { take(trials); });
        },
        [](const Error&) {}); // then none is offered
  }
  if (!at->second || isHdr(format.colour)) return nullptr;
  for (const HardwareTrial& trial : *at->second)
    if (trial.reason.empty()) return trial.encoder;
  return nullptr;
}

void EncodingForm::refreshEncoder(const Encoding& e) {
  const HardwareEncoder* found = working();
  QList<std::pair<QString, QVariant>> entries{{tr("In software, with %1").arg(text(e.info().encoder)), false}};
  if (found)
    entries.emplace_back(tr("In graphics hardware, with %1").arg(text(found->encoder)), true);
  else if (e.hardware)
    entries.emplace_back(tr("In graphics hardware, on machines that have it"), true);
  m_form.setRowVisible(m_encoder, found || e.hardware);
  m_form.setRowVisible(m_differs, e.hardware);
  fill(*m_encoder, entries, e.hardware);
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
  usual.sound.place = m_deliverable.encoding.sound.place;
  usual.sound.channels = m_deliverable.encoding.sound.channels;
  usual.sound.content = m_deliverable.encoding.sound.content;
  m_deliverable.encoding = usual;
  m_deliverable.format = codec.fitting(m_deliverable.format);
  emit changed();
}

void EncodingForm::refresh() {
  m_filling = true;
  const Encoding e = resolvedEncoding(m_deliverable);
  // A row is never shown only to be hidden again: the dialog would grow by it and stay so.
  const auto show = [this](std::initializer_list<QWidget*> rows, bool on) {
    for (QWidget* row : rows) m_form.setRowVisible(row, on);
  };
  show({m_codec, m_container, m_samples, m_control}, e.hasPicture());
  if (!e.hasPicture()) show({m_megabits, m_quality, m_encoder, m_differs, m_speed}, false);
  if (e.hasPicture()) refreshPicture(e);
  refreshSound(e);
  m_filling = false;
}

void EncodingForm::refreshPicture(const Encoding& e) {
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
  for (const RateControl control : codec.rateControls)
    if (control != RateControl::Constant || !e.hardware) entries.emplace_back(controls[size_t(control)], int(control));
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
    m_quality->setToolTip(codec.quality.rises ? tr("On the codec's own scale: more is better, and larger")
                                              : tr("On the codec's own scale: less is better, and larger"));
    m_quality->setValue(*e.crf);
  }
  entries.clear();
  for (const std::string& speed : codec.speeds) entries.emplace_back(text(speed), text(speed));
  m_form.setRowVisible(m_speed, !codec.speeds.empty() && !e.hardware);
  fill(*m_speed, entries, text(e.speed));
  refreshEncoder(e);
}

void EncodingForm::refreshSound(const Encoding& e) {
  const SoundEncoding& s = e.sound;
  QList<std::pair<QString, QVariant>> entries{{tr("None: the picture alone"), int(SoundPlace::None)},
                                              {tr("Alone, without the picture"), int(SoundPlace::Alone)},
                                              {tr("In a file beside the picture"), int(SoundPlace::Beside)}};
  if (infoOf(*e.container).sound) entries.prepend({tr("With the picture"), int(SoundPlace::Within)});
  fill(*m_place, entries, int(s.place));
  const bool heard = s.place != SoundPlace::None;
  m_sound->setVisible(heard);
  m_form.setRowVisible(m_heard, heard);
  if (!heard) return;
  const SoundCodecInfo& codec = infoOf(*s.codec);
  entries.clear();
  for (const SoundCodecInfo& row : soundCodecs()) {
    const bool fits = std::find(row.containers.begin(), row.containers.end(), *e.container) != row.containers.end();
    if (s.place != SoundPlace::Within)
      entries.emplace_back(tr("%1 (.%2)").arg(text(row.name), text(infoOf(row.alone).word)), int(row.codec));
    else if (fits)
      entries.emplace_back(text(row.name), int(row.codec));
  }
  fill(*m_sound, entries, int(codec.codec));
  entries.clear();
  for (const int channels : codec.channels)
    entries.emplace_back(channels == kMono     ? tr("Mono")
                         : channels == kStereo ? tr("Stereo")
                                               : tr("5.1 surround"),
                         channels);
  fill(*m_channels, entries, s.channels);
  m_content->setVisible(!codec.lossless());
  entries.clear();
  const QString heardWords[] = {tr("Speech"), tr("Speech and music"), tr("Music")};
  for (size_t i = 0; i < codec.usualBitRates.size(); ++i) entries.emplace_back(heardWords[i], int(i));
  fill(*m_content, entries, int(s.content));
}

} // namespace tromb
