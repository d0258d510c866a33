// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/SoundChoices.h"

#include "app/style/Theme.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "media/SoundFormat.h"
#include "model/Translation.h"
#include "project/Choices.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <cmath>

namespace tromb {
namespace {

QString wordsOf(std::string_view text) {
  return QString::fromUtf8(text.data(), qsizetype(text.size()));
}

QString contentWords(int content) {
  const QString all[] = {SoundChoices::tr("Speech"), SoundChoices::tr("Speech and music"), SoundChoices::tr("Music")};
  return all[content];
}

QString channelWords(int channels) {
  return channels == kMono     ? SoundChoices::tr("Mono")
         : channels == kStereo ? SoundChoices::tr("Stereo")
                               : SoundChoices::tr("5.1 surround");
}

/// Loudness of a deliverable as a number: what the project has, none, or a target of its own.
constexpr double kAsProject = 1000;
constexpr double kAsMixed = 999;

double loudnessOf(const Deliverable& d) {
  return !d.loudness ? kAsProject : d.loudness->lufs.value_or(kAsMixed);
}

} // namespace

SoundChoices::SoundChoices(Spec& spec, QWidget* parent)
    : ChoiceGroup(spec, tr("Sound"), QStringLiteral("sound"), parent) {
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  auto* place = keep(new ListChoice(
      spec,
      {.name = tr("Where the sound goes"),
       .entries =
           [](const Deliverable& d) {
             ListChoice::Entries entries;
             if (const Encoding e = resolvedEncoding(d); !infoOf(*e.container).picture || infoOf(*e.container).sound)
               entries.emplace_back(tr("With the picture"), int(SoundPlace::Within));
             entries.emplace_back(tr("None: the picture alone"), int(SoundPlace::None));
             entries.emplace_back(tr("Alone, without the picture"), int(SoundPlace::Alone));
             entries.emplace_back(tr("In a file beside the picture"), int(SoundPlace::Beside));
             return entries;
           },
       .value = [](const Deliverable& d) { return int(resolvedEncoding(d).sound.place); },
       .choose = [](Deliverable& d, const QVariant& value) { chooseSoundPlace(d, SoundPlace(value.toInt())); }},
      line));
  m_codec = keep(new ListChoice(
      spec,
      {.name = tr("Codec of the sound"),
       .entries =
           [](const Deliverable& d) {
             const Encoding e = resolvedEncoding(d);
             ListChoice::Entries entries;
             for (const SoundCodecInfo& each : soundCodecs()) {
               const bool fits =
                   std::find(each.containers.begin(), each.containers.end(), *e.container) != each.containers.end();
               if (e.sound.place != SoundPlace::Within)
                 entries.emplace_back(tr("%1 (.%2)").arg(wordsOf(each.name), wordsOf(infoOf(each.alone).word)),
                                      int(each.codec));
               else if (fits)
                 entries.emplace_back(wordsOf(each.name), int(each.codec));
             }
             return entries;
           },
       .value = [](const Deliverable& d) { return int(resolvedEncoding(d).sound.codec.value_or(SoundCodec::Aac)); },
       .choose = [](Deliverable& d, const QVariant& value) { chooseSoundCodec(d, SoundCodec(value.toInt())); }},
      line));
  row->addWidget(place, 4);
  row->addWidget(m_codec, 3);
  line->setFocusProxy(place);
  addRow(seen(), tr("Soun&d"), line);
  add(folded(), tr("Channels"),
      new ListChoice(spec,
                     {.name = tr("Channels of the sound"),
                      .entries =
                          [](const Deliverable& d) {
                            ListChoice::Entries entries;
                            if (const auto codec = resolvedEncoding(d).sound.codec)
                              for (const int each : infoOf(*codec).channels)
                                entries.emplace_back(channelWords(each), each);
                            return entries;
                          },
                      .value = [](const Deliverable& d) { return d.encoding.sound.channels; },
                      .choose = [](Deliverable& d, const QVariant& value) { chooseChannels(d, value.toInt()); },
                      .other = [](const Deliverable& d) { return channelWords(d.encoding.sound.channels); }},
                     this));
  m_content =
      add(folded(), tr("What is heard"),
          new ListChoice(spec,
                         {.name = tr("What is heard"),
                          .entries =
                              [](const Deliverable&) {
                                ListChoice::Entries entries;
                                for (int i = 0; i < 3; ++i) entries.emplace_back(contentWords(i), i);
                                return entries;
                              },
                          .value = [](const Deliverable& d) { return int(d.encoding.sound.content); },
                          .choose = [](Deliverable& d,
                                       const QVariant& value) { chooseSoundContent(d, SoundContent(value.toInt())); }},
                         this));
  m_bitRate = add(
      folded(), tr("Bit rate"),
      new NumberChoice(spec,
                       {.name = tr("Bit rate of the sound"),
                        .suffix = tr(" kb/s"),
                        .decimals = 0,
                        .least = 6,
                        .most = 1000,
                        .step = 16,
                        .value = [](const Deliverable& d) { return double(resolvedEncoding(d).sound.bitRate) / 1000; },
                        .choose =
                            [](Deliverable& d, double value) {
                              d.encoding.sound.bitRate = std::llround(value) * 1000;
                              const SoundCodecInfo& codec = infoOf(*resolvedEncoding(d).sound.codec);
                              d.encoding.sound.bitRate =
                                  std::clamp(d.encoding.sound.bitRate, codec.leastBitRate, codec.mostBitRate);
                            }},
                       this));
  add(folded(), tr("Sample rate"),
      new ListChoice(
          spec,
          {.name = tr("Sample rate"),
           .entries =
               [](const Deliverable& d) {
                 ListChoice::Entries entries;
                 if (const auto codec = resolvedEncoding(d).sound.codec)
                   for (const int each : infoOf(*codec).sampleRates)
                     entries.emplace_back(tr("%1 kHz").arg(each / 1000.0), each);
                 return entries;
               },
           .value = [](const Deliverable& d) { return d.encoding.sound.sampleRate; },
           .choose = [](Deliverable& d, const QVariant& value) { d.encoding.sound.sampleRate = value.toInt(); },
           .other = [](const Deliverable& d) { return tr("%1 kHz").arg(d.encoding.sound.sampleRate / 1000.0); }},
          this));
  add(folded(), tr("Loudness"),
      new ListChoice(spec,
                     {.name = tr("Loudness"),
                      .entries =
                          [this](const Deliverable&) {
                            const auto& all = this->spec().document().project().output.loudnessLufs;
                            return ListChoice::Entries{
                                {all ? tr("The project's: %1 LUFS").arg(*all) : tr("The project's: as it is mixed"),
                                 kAsProject},
                                {tr("As it is mixed"), kAsMixed},
                                {tr("%1 LUFS, for broadcast (EBU R 128)").arg(-23), -23.0},
                                {tr("%1 LUFS, for broadcast (ATSC A/85)").arg(-24), -24.0},
                                {tr("%1 LUFS").arg(-16), -16.0},
                                {tr("%1 LUFS").arg(-14), -14.0}};
                          },
                      .value = loudnessOf,
                      .choose =
                          [](Deliverable& d, const QVariant& value) {
                            const double chosen = value.toDouble();
                            d.loudness.reset();
                            if (chosen == kAsMixed) d.loudness = OwnLoudness{};
                            if (chosen < kAsMixed) d.loudness = OwnLoudness{chosen};
                          },
                      .other = [](const Deliverable& d) { return tr("%1 LUFS").arg(loudnessOf(d)); }},
                     this));
}

QString SoundChoices::foldedWords() const {
  const Deliverable& d = *spec().current();
  const Encoding e = resolvedEncoding(d);
  if (e.sound.place == SoundPlace::None) return tr("No sound");
  QStringList parts{channelWords(e.sound.channels)};
  if (e.sound.bitRate > 0) parts << QString::fromStdString(bitRateText(e.sound.bitRate));
  parts << tr("%1 kHz").arg(e.sound.sampleRate / 1000.0);
  const double loudness = loudnessOf(d);
  const auto target = loudness == kAsProject ? spec().document().project().output.loudnessLufs : d.loudness->lufs;
  parts << (target ? tr("%1 LUFS").arg(*target) : tr("as it is mixed"));
  return parts.join(QStringLiteral(" · "));
}

void SoundChoices::refresh() {
  const Encoding e = resolvedEncoding(*spec().current());
  const bool heard = e.sound.place != SoundPlace::None;
  m_codec->setVisible(heard);
  for (int i = 0; i < folded().rowCount(); ++i)
    if (QLayoutItem* field = folded().itemAt(i, QFormLayout::FieldRole)) folded().setRowVisible(field->widget(), heard);
  const bool loses = heard && !infoOf(*e.sound.codec).lossless();
  folded().setRowVisible(m_content, loses);
  folded().setRowVisible(m_bitRate, loses);
  ChoiceGroup::refresh();
}

PlaceChoices::PlaceChoices(Spec& spec, QWidget* parent)
    : ChoiceGroup(spec, tr("Where it goes"), QStringLiteral("place"), parent), m_answer(new QLabel(this)),
      m_takeOver(new QPushButton(tr("Ta&ke over"), this)) {
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  auto* to = keep(new ListChoice(
      spec,
      {.name = tr("Destination"),
       .entries =
           [](const Deliverable&) {
             ListChoice::Entries entries{{tr("No destination"), QString()}};
             std::vector<Destination> all = destinationData()->destinations;
             std::stable_sort(all.begin(), all.end(),
                              [](const Destination& a, const Destination& b) { return a.starred > b.starred; });
             for (const Destination& each : all)
               entries.emplace_back((each.starred ? QStringLiteral("★ ") : QString()) +
                                        (each.summary.empty() ? QString::fromStdString(each.name)
                                                              : tr("%1: %2").arg(QString::fromStdString(each.name),
                                                                                 QString::fromStdString(each.summary))),
                                    QString::fromStdString(each.id));
             return entries;
           },
       .value = [](const Deliverable& d) { return QString::fromStdString(d.destination); },
       .choose = [](Deliverable& d, const QVariant& value) { d.destination = value.toString().toStdString(); },
       .other =
           [](const Deliverable& d) { return tr("%1, which is not here").arg(QString::fromStdString(d.destination)); }},
      line));
  row->addWidget(to, 1);
  row->addWidget(m_takeOver);
  line->setFocusProxy(to);
  addRow(seen(), tr("Destina&tion"), line);
  m_takeOver->setToolTip(tr("Takes over canvas, rate, encoding and sound as the destination recommends them"));
  connect(m_takeOver, &QPushButton::clicked, this, [this] {
    this->spec().change(tr("Take over what the destination recommends"), [](Deliverable& d) {
      const auto wanted = destination(d.destination);
      if (!wanted) return;
      d.rate = matchedRate(d.destination, d.rate);
      recommend(d, *wanted);
    });
  });
  m_name = add(seen(), tr("&Name"),
               new TextChoice(spec,
                              {.name = tr("Name"),
                               .mostLetters = 80,
                               .value = [](const Deliverable& d) { return QString::fromStdString(d.name); },
                               .choose =
                                   [this](Deliverable& d, const QString& value) {
                                     const std::string name = value.toStdString();
                                     if (!name.empty() && !this->spec().document().project().deliverableNamed(name))
                                       d.name = name;
                                   }},
                              this));
  m_answer->setVisible(false);
  m_answer->setWordWrap(true);
  seen().addRow(QString(), m_answer);
  connect(m_name, &QLineEdit::textEdited, this, [this](const QString& typed) {
    const std::string name = typed.trimmed().toStdString();
    const Deliverable* d = this->spec().current();
    const bool taken = d && name != d->name && this->spec().document().project().deliverableNamed(name);
    m_answer->setVisible(taken || name.empty());
    m_answer->setText(taken ? tr("Another deliverable has this name") : tr("It needs a name"));
    colourWords(m_answer, Theme::current().broken);
  });
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    m_answer->setVisible(false);
    m_name->refresh(); // what was not taken goes
  });
  const auto text = [&](const QString& label, const QString& name, std::string Encoding::*member, int most) {
    add(folded(), label,
        new TextChoice(
            spec,
            {.name = name,
             .mostLetters = most,
             .value = [member](const Deliverable& d) { return QString::fromStdString(d.encoding.*member); },
             .choose = [member](Deliverable& d, const QString& value) { d.encoding.*member = value.toStdString(); }},
            this));
  };
  text(tr("Title"), tr("Title, kept in the file"), &Encoding::title, 200);
  text(tr("Comment"), tr("Comment, kept in the file"), &Encoding::comment, 200);
  add(folded(), tr("Captions"),
      new ListChoice(
          spec,
          {.name = tr("Where captions go"),
           .entries =
               [](const Deliverable&) {
                 return ListChoice::Entries{{tr("Into the picture"), int(CaptionPlace::Burned)},
                                            {tr("Beside it, as SubRip"), int(CaptionPlace::SubRip)},
                                            {tr("Beside it, as WebVTT"), int(CaptionPlace::WebVtt)},
                                            {tr("Left out"), int(CaptionPlace::None)}};
               },
           .value = [](const Deliverable& d) { return int(d.encoding.captions); },
           .choose = [](Deliverable& d, const QVariant& value) { d.encoding.captions = CaptionPlace(value.toInt()); }},
          this));
  add(folded(), tr("Chapters"),
      new ListChoice(spec,
                     {.name = tr("Chapter marks"),
                      .entries =
                          [](const Deliverable&) {
                            return ListChoice::Entries{{tr("None"), int(Chapters::None)},
                                                       {tr("One for each shot"), int(Chapters::Shots)},
                                                       {tr("One for each region"), int(Chapters::Regions)}};
                          },
                      .value = [](const Deliverable& d) { return int(d.encoding.chapters); },
                      .choose =
                          [](Deliverable& d, const QVariant& value) {
                            d.encoding.chapters = Chapters(value.toInt());
                            makeEncodable(d);
                          }},
                     this));
}

QString PlaceChoices::foldedWords() const {
  const Encoding& e = spec().current()->encoding;
  return (e.title.empty() ? tr("No title") : tr("Title '%1'").arg(QString::fromStdString(e.title))) +
         QStringLiteral(" · ") +
         (e.chapters == Chapters::None    ? tr("no chapter marks")
          : e.chapters == Chapters::Shots ? tr("a chapter for each shot")
                                          : tr("a chapter for each region"));
}

void PlaceChoices::refresh() {
  seen().setRowVisible(m_name, spec().columns().size() == 1); // no two have one name
  m_takeOver->setEnabled(
      spec().common<bool>([](const Deliverable& d) { return destination(d.destination) != nullptr; }).value_or(true));
  ChoiceGroup::refresh();
}

} // namespace tromb
