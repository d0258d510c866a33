// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/PictureChoices.h"

#include "model/Translation.h"
#include "project/Choices.h"

#include <QCheckBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <cmath>

namespace tromb {
namespace {

QString words(std::string_view text) {
  return QString::fromUtf8(text.data(), qsizetype(text.size()));
}

QString controlWords(RateControl control) {
  const QString all[] = {PictureChoices::tr("Constant quality"), PictureChoices::tr("Average bit rate"),
                         PictureChoices::tr("Constant bit rate"), PictureChoices::tr("As the codec needs")};
  return all[size_t(control)];
}

/// What a tune is for. Those that come later are shown by their own word.
QString tuneWords(std::string_view word) {
  const std::pair<std::string_view, QString> all[] = {{"film", PictureChoices::tr("Films with people")},
                                                      {"drawn", PictureChoices::tr("Drawn pictures")},
                                                      {"grain", PictureChoices::tr("Pictures with much grain")},
                                                      {"screen", PictureChoices::tr("Recordings of screens")}};
  for (const auto& [known, said] : all)
    if (known == word) return said;
  return words(word);
}

constexpr double kMegabit = 1e6;
constexpr int64_t kRateStep = 10'000; ///< what typed bit rates are rounded to
int64_t bits(double mega) {
  return std::llround(mega * kMegabit / kRateStep) * kRateStep;
}

} // namespace

PictureChoices::PictureChoices(Spec& spec, QWidget* parent)
    : ChoiceGroup(spec, tr("Picture"), QStringLiteral("picture"), parent) {
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  auto* codec = keep(new ListChoice(
      spec,
      {.name = tr("Codec of the picture"),
       .entries =
           [](const Deliverable&) {
             ListChoice::Entries entries;
             for (const PictureCodec& each : pictureCodecs())
               entries.emplace_back(tr("%1: %2").arg(words(each.name), said(each.purpose)), int(each.codec));
             return entries;
           },
       .value = [](const Deliverable& d) { return int(d.encoding.codec); },
       .choose = [](Deliverable& d, const QVariant& value) { chooseCodec(d, Codec(value.toInt())); }},
      line));
  auto* container = keep(new ListChoice(
      spec,
      {.name = tr("Container"),
       .entries =
           [](const Deliverable& d) {
             ListChoice::Entries entries;
             for (const Container each : d.encoding.info().containers)
               entries.emplace_back(words(infoOf(each).name), int(each));
             return entries;
           },
       .value = [](const Deliverable& d) { return int(*resolvedEncoding(d).container); },
       .choose = [](Deliverable& d, const QVariant& value) { chooseContainer(d, Container(value.toInt())); },
       .other = [](const Deliverable& d) { return words(infoOf(*resolvedEncoding(d).container).name); }},
      line));
  row->addWidget(codec, 5);
  row->addWidget(container, 2);
  line->setFocusProxy(codec);
  addRow(seen(), tr("&Codec"), line);
  addRates();
  addSamples();
  addLevels();
  addGroups();
  addEncoder();
  connect(&m_trials, &EncoderTrials::tried, this, [this] {
    if (this->spec().current()) refresh();
  });
}

void PictureChoices::addRates() {
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  auto* control = keep(new ListChoice(
      spec(),
      {.name = tr("Rate control"),
       .entries =
           [](const Deliverable& d) {
             ListChoice::Entries entries;
             for (const RateControl each : d.encoding.info().rateControls)
               if (each != RateControl::Constant || !d.encoding.hardware)
                 entries.emplace_back(controlWords(each), int(each));
             return entries;
           },
       .value = [](const Deliverable& d) { return int(*resolvedEncoding(d).rateControl); },
       .choose = [](Deliverable& d, const QVariant& value) { chooseRateControl(d, RateControl(value.toInt())); },
       .other = [](const Deliverable& d) { return controlWords(*resolvedEncoding(d).rateControl); }},
      line));
  m_bitRate = keep(
      new NumberChoice(spec(),
                       {.name = tr("Bit rate of the picture"),
                        .suffix = tr(" Mb/s"),
                        .decimals = 2,
                        .least = 0.05,
                        .most = 800,
                        .step = 0.5,
                        .value = [](const Deliverable& d) { return double(resolvedEncoding(d).bitRate) / kMegabit; },
                        .choose = [](Deliverable& d, double value) { chooseBitRate(d, bits(value)); }},
                       line));
  m_quality = keep(new NumberChoice(spec(),
                                    {.name = tr("Constant quality"),
                                     .suffix = {},
                                     .decimals = 1,
                                     .least = 0,
                                     .most = 100,
                                     .step = 1,
                                     .value = [](const Deliverable& d) { return resolvedEncoding(d).crf.value_or(0); },
                                     .choose = [](Deliverable& d, double value) { d.encoding.crf = value; }},
                                    line));
  row->addWidget(control, 4);
  row->addWidget(m_bitRate, 3);
  row->addWidget(m_quality, 3);
  line->setFocusProxy(control);
  addRow(seen(), tr("Rate contr&ol"), line);
  m_passes =
      add(folded(), tr("Passes"),
          new ListChoice(
              spec(),
              {.name = tr("Passes"),
               .entries =
                   [](const Deliverable&) {
                     return ListChoice::Entries{{tr("One"), 1}, {tr("Two: nearer to the bit rate, and slower"), 2}};
                   },
               .value = [](const Deliverable& d) { return d.encoding.passes; },
               .choose = [](Deliverable& d, const QVariant& value) { d.encoding.passes = value.toInt(); }},
              this));
  m_peak = add(
      folded(), tr("Peak"),
      new NumberChoice(spec(),
                       {.name = tr("Peak bit rate"),
                        .suffix = tr(" Mb/s"),
                        .decimals = 2,
                        .least = 0.05,
                        .most = 1000,
                        .step = 0.5,
                        .value = [](const Deliverable& d) { return double(resolvedEncoding(d).maxBitRate) / kMegabit; },
                        .choose =
                            [](Deliverable& d, double value) {
                              d.encoding.maxBitRate = std::max(bits(value), resolvedEncoding(d).bitRate);
                              d.encoding.bufferBits = 0;
                            }},
                       this));
  m_buffer = add(
      folded(), tr("Buffer"),
      new NumberChoice(spec(),
                       {.name = tr("Buffer of the decoder"),
                        .suffix = tr(" Mb"),
                        .decimals = 2,
                        .least = 0.05,
                        .most = 2000,
                        .step = 0.5,
                        .value = [](const Deliverable& d) { return double(resolvedEncoding(d).bufferBits) / kMegabit; },
                        .choose =
                            [](Deliverable& d, double value) {
                              d.encoding.maxBitRate = resolvedEncoding(d).maxBitRate;
                              d.encoding.bufferBits = bits(value);
                            }},
                       this));
}

void PictureChoices::addSamples() {
  add(folded(), tr("Samples"),
      new ListChoice(spec(),
                     {.name = tr("Depth and subsampling"),
                      .entries =
                          [](const Deliverable& d) {
                            ListChoice::Entries entries;
                            const auto& all = d.encoding.info().samples;
                            for (const Samples& each : all)
                              if (!isHdr(d.format.colour) || each.depth >= 10)
                                entries.emplace_back(said(samplesText({each.depth, each.chroma, {}})),
                                                     QPoint(each.depth, int(each.chroma)));
                            return entries;
                          },
                      .value = [](const Deliverable& d) { return QPoint(d.format.depth, int(d.format.chroma)); },
                      .choose =
                          [](Deliverable& d, const QVariant& value) {
                            chooseSamples(d, {value.toPoint().x(), Chroma(value.toPoint().y())});
                          }},
                     this));
  add(folded(), tr("Colour"),
      new ListChoice(spec(),
                     {.name = tr("Colour"),
                      .entries =
                          [](const Deliverable& d) {
                            ListChoice::Entries entries{{tr("Rec. 709"), QStringLiteral("rec709")}};
                            if (d.encoding.info().hdr) {
                              entries.emplace_back(tr("HLG, high dynamic range"), QStringLiteral("hlg"));
                              entries.emplace_back(tr("PQ, high dynamic range"), QStringLiteral("pq"));
                            }
                            return entries;
                          },
                      .value =
                          [](const Deliverable& d) {
                            const char* word = colourWord(d.format.colour);
                            return QString::fromLatin1(word ? word : "rec709");
                          },
                      .choose =
                          [](Deliverable& d, const QVariant& value) {
                            ColourTags tags;
                            if (colourByWord(value.toString().toStdString(), tags)) chooseColour(d, tags);
                          }},
                     this));
}

void PictureChoices::addLevels() {
  m_profile = add(
      folded(), tr("Profile"),
      new ListChoice(
          spec(),
          {.name = tr("Profile"),
           .entries =
               [](const Deliverable& d) {
                 ListChoice::Entries entries{
                     {tr("The usual: %1").arg(QString::fromStdString(resolvedEncoding(d).profile)), QString()}};
                 const Samples samples{d.format.depth, d.format.chroma};
                 for (const Profile& each : d.encoding.info().profiles)
                   if (std::find(each.samples.begin(), each.samples.end(), samples) != each.samples.end())
                     entries.emplace_back(words(each.word), words(each.word));
                 return entries;
               },
           .value = [](const Deliverable& d) { return QString::fromStdString(d.encoding.profile); },
           .choose = [](Deliverable& d, const QVariant& value) { chooseProfile(d, value.toString().toStdString()); }},
          this));
  m_level =
      add(folded(), tr("Level"),
          new ListChoice(spec(),
                         {.name = tr("Level"),
                          .entries =
                              [](const Deliverable& d) {
                                ListChoice::Entries entries{{tr("The lowest that carries it"), QString()}};
                                if (const LevelTable* levels = d.encoding.info().levels)
                                  for (const Level& each : levels->levels())
                                    entries.emplace_back(words(each.name), words(each.name));
                                return entries;
                              },
                          .value = [](const Deliverable& d) { return QString::fromStdString(d.encoding.level); },
                          .choose = [](Deliverable& d,
                                       const QVariant& value) { d.encoding.level = value.toString().toStdString(); }},
                         this));
  m_keys = add(folded(), tr("Key frames"),
               new NumberChoice(spec(),
                                {.name = tr("Most seconds between key frames"),
                                 .suffix = tr(" s apart at most"),
                                 .decimals = 2,
                                 .least = kLeastKeyDistance.toDouble(),
                                 .most = kMostKeyDistance.toDouble(),
                                 .step = 0.5,
                                 .value = [](const Deliverable& d) { return d.encoding.keySeconds.toDouble(); },
                                 .choose =
                                     [](Deliverable& d, double value) {
                                       constexpr int kHundred = 100;
                                       d.encoding.keySeconds = Rational(std::llround(value * kHundred), kHundred);
                                     }},
                                this));
}

/// How pictures lean on each other within a group, and how what is left is written.
void PictureChoices::addGroups() {
  // Only what can be made beside the rest that is chosen is offered.
  const auto possible = [](Deliverable d, const std::function<void(Encoding&)>& choose) {
    choose(d.encoding);
    return encodable(resolvedEncoding(d), pictureOf(d)).has_value();
  };
  const auto check = [this](const QString& text, const QString& why, bool Encoding::*chosen,
                            void (*choose)(Deliverable&, bool) = nullptr) {
    auto* choice = keep(new CheckChoice(spec(),
                                        {.text = text,
                                         .value = [chosen](const Deliverable& d) { return d.encoding.*chosen; },
                                         .choose =
                                             [chosen, choose](Deliverable& d, bool on) {
                                               if (choose)
                                                 choose(d, on);
                                               else
                                                 d.encoding.*chosen = on;
                                             }},
                                        this));
    choice->box()->setToolTip(why);
    folded().addRow(QString(), choice->box());
    return choice->box();
  };
  m_copies = check(tr("Copy pictures that are as asked for already"),
                   tr("Nothing is lost, and it takes seconds: shots whose codec, size, rate and format are the "
                      "deliverable's, whole and still. What lies between is encoded at a constant quality"),
                   &Encoding::copies, chooseCopies);
  m_keysAtCuts = check(tr("Key frames where the picture changes, too"),
                       tr("Cuts look better, and can be entered; streams with segments of one length do without"),
                       &Encoding::keysAtCuts);
  m_openGroups =
      check(tr("Pictures may lean beyond a key frame"),
            tr("A little smaller; not every editor and player enters such a file well"), &Encoding::openGroups);
  m_bPictures =
      add(folded(), tr("B pictures"),
          new ListChoice(spec(),
                         {.name = tr("B pictures in a row"),
                          .entries =
                              [possible](const Deliverable& d) {
                                ListChoice::Entries entries{{tr("As many as the speed takes"), -1}};
                                for (int count = 0; count <= kMostBPictures; ++count)
                                  if (possible(d, [count](Encoding& e) { e.bPictures = count; }))
                                    entries.emplace_back(count == 0 ? tr("None: for players that have little memory")
                                                                    : tr("At most %n in a row", nullptr, count),
                                                         count);
                                return entries;
                              },
                          .value = [](const Deliverable& d) { return d.encoding.bPictures.value_or(-1); },
                          .choose =
                              [](Deliverable& d, const QVariant& value) {
                                d.encoding.bPictures = value.toInt() < 0 ? std::nullopt : std::optional(value.toInt());
                              }},
                         this));
  m_references = add(
      folded(), tr("References"),
      new ListChoice(spec(),
                     {.name = tr("Pictures that one may lean on"),
                      .entries =
                          [possible](const Deliverable& d) {
                            ListChoice::Entries entries{{tr("As many as the speed takes"), 0}};
                            for (int count = 1; count <= kMostReferences; ++count)
                              if (possible(d, [count](Encoding& e) { e.references = count; }))
                                entries.emplace_back(tr("%n pictures", nullptr, count), count);
                            return entries;
                          },
                      .value = [](const Deliverable& d) { return d.encoding.references; },
                      .choose = [](Deliverable& d, const QVariant& value) { d.encoding.references = value.toInt(); }},
                     this));
  m_entropy =
      add(folded(), tr("Entropy"),
          new ListChoice(
              spec(),
              {.name = tr("Entropy coding"),
               .entries =
                   [possible](const Deliverable& d) {
                     ListChoice::Entries entries{{tr("The usual of the profile"), int(Entropy::Usual)}};
                     if (possible(d, [](Encoding& e) { e.entropy = Entropy::Cabac; }))
                       entries.emplace_back(tr("CABAC: smaller"), int(Entropy::Cabac));
                     if (possible(d, [](Encoding& e) { e.entropy = Entropy::Cavlc; }))
                       entries.emplace_back(tr("CAVLC: easier to decode"), int(Entropy::Cavlc));
                     return entries;
                   },
               .value = [](const Deliverable& d) { return int(d.encoding.entropy); },
               .choose = [](Deliverable& d, const QVariant& value) { d.encoding.entropy = Entropy(value.toInt()); }},
              this));
}

void PictureChoices::addEncoder() {
  m_speed = add(
      folded(), tr("Speed"),
      new ListChoice(
          spec(),
          {.name = tr("Speed of the encoder"),
           .entries =
               [](const Deliverable& d) {
                 ListChoice::Entries entries;
                 const PictureCodec& codec = d.encoding.info();
                 int place = 0;
                 for (const std::string& each : codec.speeds)
                   entries.emplace_back(tr("%1 of %2: %3").arg(++place).arg(codec.speeds.size()).arg(words(each)),
                                        words(each));
                 return entries;
               },
           .value = [](const Deliverable& d) { return QString::fromStdString(resolvedEncoding(d).speed); },
           .choose = [](Deliverable& d, const QVariant& value) { d.encoding.speed = value.toString().toStdString(); },
           .other = [](const Deliverable&) { return tr("The usual"); }},
          this));
  m_tune =
      add(folded(), tr("Made for"),
          new ListChoice(spec(),
                         {.name = tr("What the pictures are like"),
                          .entries =
                              [](const Deliverable& d) {
                                ListChoice::Entries entries{{tr("Any pictures"), QString()}};
                                for (const Tune& each : d.encoding.info().tunes)
                                  entries.emplace_back(tuneWords(each.word), words(each.word));
                                return entries;
                              },
                          .value = [](const Deliverable& d) { return QString::fromStdString(d.encoding.tune); },
                          .choose = [](Deliverable& d,
                                       const QVariant& value) { d.encoding.tune = value.toString().toStdString(); }},
                         this));
  m_encoder = add(
      folded(), tr("Encoder"),
      new ListChoice(
          spec(),
          {.name = tr("Encoder"),
           .entries =
               [this](const Deliverable& d) {
                 ListChoice::Entries entries{{tr("In software, with %1").arg(words(d.encoding.info().encoder)), false}};
                 const HardwareEncoder* found =
                     isHdr(d.format.colour) ? nullptr
                                            : m_trials.working(d.encoding.codec, {d.format.depth, d.format.chroma});
                 if (found)
                   entries.emplace_back(tr("In graphics hardware, with %1: faster, but larger for the same look")
                                            .arg(words(found->encoder)),
                                        true);
                 return entries;
               },
           .value = [](const Deliverable& d) { return d.encoding.hardware; },
           .choose = [](Deliverable& d, const QVariant& value) { chooseHardware(d, value.toBool()); },
           .other = [](const Deliverable&) { return tr("In graphics hardware, on machines that have it"); }},
          this));
}

QString PictureChoices::foldedWords() const {
  const Deliverable& d = *spec().current();
  const Encoding e = resolvedEncoding(d);
  QStringList parts{said(samplesText(d.format)), said(codecText(e))};
  const auto& speeds = e.info().speeds;
  const auto speed = std::find(speeds.begin(), speeds.end(), e.speed);
  if (speed != speeds.end()) parts << tr("speed %1 of %2").arg(speed - speeds.begin() + 1).arg(speeds.size());
  if (!e.info().intra) parts << tr("key frames %1 s apart").arg(e.keySeconds.toDouble());
  return parts.join(QStringLiteral(" · "));
}

void PictureChoices::refresh() {
  const Deliverable& d = *spec().current();
  const Encoding e = resolvedEncoding(d);
  setVisible(e.hasPicture());
  if (!e.hasPicture()) return;
  const PictureCodec& codec = e.info();
  m_bitRate->setVisible(e.byBitRate());
  const bool byQuality = *e.rateControl == RateControl::ConstantQuality;
  m_quality->setVisible(byQuality);
  if (byQuality) {
    m_quality->setDecimals(codec.quality.whole ? 0 : 1);
    m_quality->setRange(codec.quality.least, codec.quality.most);
    m_quality->setToolTip(codec.quality.rises ? tr("On the codec's own scale: more is better, and larger")
                                              : tr("On the codec's own scale: less is better, and larger"));
  }
  const bool peaks = codec.holdsPeak && *e.rateControl == RateControl::Variable;
  const std::pair<QWidget*, bool> rows[] = {
      {m_passes, codec.twoPasses && *e.rateControl == RateControl::Variable && !e.hardware},
      {m_peak, peaks},
      {m_buffer, codec.holdsPeak && e.byBitRate()},
      {m_profile, codec.profiles.size() > 1},
      {m_level, codec.levels != nullptr},
      {m_speed, !codec.speeds.empty() && !e.hardware},
      {m_tune, !codec.tunes.empty() && !e.hardware},
      {m_encoder,
       !codec.hardware.empty() && (e.hardware || m_trials.working(e.codec, {d.format.depth, d.format.chroma}))},
      {m_keys, !codec.intra},
      {m_copies, codec.joins},
      {m_keysAtCuts, codec.bPictures && !e.hardware},
      {m_openGroups, codec.bPictures && !e.hardware},
      {m_bPictures, codec.bPictures && !e.hardware},
      {m_references, codec.bPictures && !e.hardware},
      {m_entropy, codec.entropy && !e.hardware},
  };
  for (const auto& [row, shown] : rows) folded().setRowVisible(row, shown);
  ChoiceGroup::refresh();
}

} // namespace tromb
