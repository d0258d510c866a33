// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/DestinationForm.h"

#include "app/style/Theme.h"
#include "model/Translation.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QJsonDocument>
#include <QJsonObject>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpression>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>

namespace tromb {
namespace {

constexpr double kMega = 1e6;
constexpr double kKilo = 1e3;
constexpr double kPercent = 100;
const char* const kSummary = "summary"; // needs no reason

/// Those that a deliverable can have.
std::vector<ColourClaim> namedColours() {
  std::vector<ColourClaim> all(kColourClaims.begin(), kColourClaims.end());
  std::erase_if(all, [](const ColourClaim& each) {
    ColourTags tags;
    return !colourByWord(each.word, tags);
  });
  return all;
}

struct NamedChannels {
  int key;
  std::string word;
  std::string name;
};
std::vector<NamedChannels> channelCounts() {
  return {{kMono, "1", DestinationForm::tr("mono").toStdString()},
          {kStereo, "2", DestinationForm::tr("stereo").toStdString()},
          {3, "3", "3"},
          {4, "4", "4"},
          {5, "5", "5"},
          {kSurround, "6", "5.1"}};
}

QString textOf(std::string_view words) {
  return QString::fromUtf8(words.data(), qsizetype(words.size()));
}

/// The names of what a list of a destination holds, with commas between.
template <typename Key, typename Row, typename RowKey>
QString namesOf(const std::vector<Key>& list, const std::vector<Row>& table, RowKey Row::*key) {
  QStringList names;
  for (const Key& each : list)
    for (const Row& row : table)
      if (row.*key == each) names << textOf(row.name);
  return names.join(QStringLiteral(", "));
}

QStringList partsOf(const QString& text) {
  QStringList parts;
  for (const QString& each : text.split(QLatin1Char(',')))
    if (const QString part = each.trimmed(); !part.isEmpty()) parts << part;
  return parts;
}

/// Takes a list of names, each once, in whatever case they are typed. Says which is none.
template <typename Key, typename Row, typename RowKey>
QString takeNames(const QString& text, const std::vector<Row>& table, RowKey Row::*key, std::vector<Key>& into) {
  into.clear();
  for (const QString& part : partsOf(text)) {
    const auto named = std::find_if(table.begin(), table.end(), [&](const Row& row) {
      return part.compare(textOf(row.name), Qt::CaseInsensitive) == 0 ||
             part.compare(textOf(row.word), Qt::CaseInsensitive) == 0;
    });
    if (named == table.end()) {
      QStringList all;
      for (const Row& row : table) all << textOf(row.name);
      return DestinationForm::tr("'%1' is none of %2").arg(part, all.join(QStringLiteral(", ")));
    }
    const Key value = (*named).*key;
    if (std::find(into.begin(), into.end(), value) == into.end()) into.push_back(value);
  }
  return {};
}

QString takeCanvases(const QString& text, std::vector<Size>& into) {
  static const QRegularExpression size(QStringLiteral("^(\\d{1,5})\\s*[x×*]\\s*(\\d{1,5})$"),
                                       QRegularExpression::CaseInsensitiveOption);
  into.clear();
  for (const QString& part : partsOf(text)) {
    const auto match = size.match(part);
    if (!match.hasMatch()) return DestinationForm::tr("'%1' is no size such as 1080×1920").arg(part);
    into.push_back({match.captured(1).toInt(), match.captured(2).toInt()});
  }
  return into.empty() ? DestinationForm::tr("a size such as 1080×1920 is needed") : QString();
}

QString takeRates(const QString& text, bool slower, Destination& d) {
  d.rates.clear();
  for (const QString& part : partsOf(text)) {
    const auto rate = FrameRate::parse(part.toStdString());
    if (!rate) return said(rate.error());
    d.rates.push_back(*rate);
  }
  if (d.rates.empty()) return DestinationForm::tr("a rate such as 25 is needed");
  d.mostRate = *std::max_element(d.rates.begin(), d.rates.end(),
                                 [](const FrameRate& a, const FrameRate& b) { return a.value() < b.value(); });
  if (slower) d.rates.clear();
  return {};
}

} // namespace

/// A number that is shown in other units than it is kept in, without noughts that say nothing. What nobody touches
/// stays as exact as it was.
class DestinationForm::Number : public QDoubleSpinBox {
public:
  struct About {
    double value = 0; ///< as it is kept
    double per = 1;   ///< units that are shown in one that is kept
    double least = 0; ///< as they are shown
    double most = 0;
    int decimals = 0;
    QString suffix = {};
    bool any = true; ///< 0 limits nothing
  };
  explicit Number(const About& about) : m_was(about.value), m_per(about.per) {
    setDecimals(about.decimals);
    setRange(about.least, about.most);
    if (about.any) setSpecialValueText(DestinationForm::tr("any"));
    setSuffix(about.suffix);
    setButtonSymbols(QAbstractSpinBox::NoButtons);
    setValue(m_was * m_per);
    m_shown = value();
  }
  [[nodiscard]] bool touched() const { return value() != m_shown; }
  [[nodiscard]] double kept() const { return touched() ? value() / m_per : m_was; }

protected:
  [[nodiscard]] QString textFromValue(double value) const override {
    QLocale plain = locale();
    plain.setNumberOptions(plain.numberOptions() | QLocale::OmitGroupSeparator);
    QString text = plain.toString(value, 'f', decimals());
    if (decimals() == 0) return text;
    while (text.endsWith(QLatin1Char('0'))) text.chop(1);
    if (text.endsWith(plain.decimalPoint())) text.chop(1);
    return text;
  }

private:
  double m_was;
  double m_per;
  double m_shown = 0;
};

QString sureWords(Sureness sure) {
  const QString all[] = {DestinationForm::tr("by a standard"), DestinationForm::tr("common practice"),
                         DestinationForm::tr("asked for"), DestinationForm::tr("a guess")};
  return all[size_t(sure)];
}

DestinationForm::DestinationForm(Destination destination, Keep keep, QWidget* parent)
    : QDialog(parent), m_destination(std::move(destination)), m_keep(std::move(keep)), m_grid(new QGridLayout),
      m_message(new QLabel(this)) {
  setObjectName(QStringLiteral("destinationForm"));
  setWindowTitle(tr("What '%1' takes").arg(QString::fromStdString(m_destination.name)));
  auto* rows = new QVBoxLayout(this);
  auto* about =
      new QLabel(tr("Lists have commas between, what is usual first. What is left empty is not limited."), this);
  about->setProperty("rank", "faint");
  rows->addWidget(about);
  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  auto* inside = new QWidget;
  m_grid->setHorizontalSpacing(12);
  m_grid->setVerticalSpacing(5);
  m_grid->setColumnStretch(1, 3);
  m_grid->setColumnStretch(3, 2);
  const QString heads[] = {QString(), tr("What is taken"), tr("How sure"), tr("Why")};
  for (int column = 0; column < 4; ++column) {
    auto* head = new QLabel(heads[column], inside);
    head->setProperty("rank", "head");
    m_grid->addWidget(head, 0, column);
  }
  auto* layout = new QVBoxLayout(inside);
  layout->setContentsMargins(0, 0, 8, 0);
  layout->addLayout(m_grid);
  layout->addStretch();
  area->setWidget(inside);
  rows->addWidget(area, 1);
  addPictureRows();
  addBitRates();
  addSoundRows();
  addPlaceRows();
  m_message->setObjectName(QStringLiteral("message"));
  m_message->setWordWrap(true);
  m_message->setStyleSheet(QStringLiteral("color: %1").arg(Theme::current().broken.name()));
  rows->addWidget(m_message);
  auto* buttons = new QDialogButtonBox(this);
  auto* keepIt = new QPushButton(tr("&Keep it like this"));
  keepIt->setProperty("main", true);
  buttons->addButton(keepIt, QDialogButtonBox::AcceptRole);
  keepIt->setDefault(true);
  buttons->addButton(tr("Leave it as it &was"), QDialogButtonBox::RejectRole);
  connect(buttons, &QDialogButtonBox::accepted, this, &DestinationForm::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  rows->addWidget(buttons);
  resize(fontMetrics().averageCharWidth() * 170, fontMetrics().height() * 58);
}

// ---- how rows are made

QHBoxLayout* DestinationForm::addRow(const char* key, const QString& label) {
  const int at = m_grid->rowCount();
  auto* line = new QHBoxLayout;
  line->setSpacing(6);
  const QString id = QString::fromLatin1(key);
  Row row;
  row.name = QString(label).remove(QLatin1Char('&'));
  row.label = new QLabel(label);
  m_grid->addWidget(row.label, at, 0);
  if (id == QLatin1String(kSummary)) {
    m_grid->addLayout(line, at, 1, 1, 3);
  } else {
    m_grid->addLayout(line, at, 1);
    row.sure = new QComboBox;
    for (const Sureness each : {Sureness::Standard, Sureness::Practice, Sureness::House, Sureness::Guess})
      row.sure->addItem(sureWords(each));
    row.sure->setAccessibleName(tr("How sure: %1").arg(row.name));
    row.why = new QLineEdit;
    row.why->setAccessibleName(tr("Why: %1").arg(row.name));
    const auto because = m_destination.because.find(key);
    const bool there = because != m_destination.because.end();
    row.sure->setCurrentIndex(int(there ? because->second.sure : Sureness::House));
    if (there) row.why->setText(QString::fromStdString(because->second.why));
    row.why->setCursorPosition(0); // what is long is read from its beginning
    row.why->setMinimumWidth(fontMetrics().averageCharWidth() * 36);
    m_grid->addWidget(row.sure, at, 2);
    m_grid->addWidget(row.why, at, 3);
  }
  m_rows[id] = row;
  m_keys << id;
  return line;
}

void DestinationForm::setTake(const char* key, QWidget* field, Take take) {
  Row& row = m_rows[QString::fromLatin1(key)];
  row.field = field;
  row.take = std::move(take);
  row.label->setBuddy(field);
}

QLineEdit* DestinationForm::addText(QHBoxLayout* line, const QString& name, const QString& text, const QString& example,
                                    int stretch) {
  auto* field = new QLineEdit(text);
  field->setCursorPosition(0);
  field->setAccessibleName(name);
  field->setPlaceholderText(example);
  field->setToolTip(name);
  line->addWidget(field, stretch);
  return field;
}

DestinationForm::Number* DestinationForm::addNumber(QHBoxLayout* line, const QString& name, Number* field) {
  field->setAccessibleName(name);
  field->setToolTip(name);
  line->addWidget(field, 1);
  return field;
}

QCheckBox* DestinationForm::addBox(QHBoxLayout* line, const QString& text, bool checked) {
  auto* box = new QCheckBox(text);
  box->setChecked(checked);
  line->addWidget(box);
  return box;
}

// ---- the rows

void DestinationForm::addPictureRows() {
  const Destination& d = m_destination;
  auto* summary = addText(addRow(kSummary, tr("Su&mmary")), tr("Summary"), QString::fromStdString(d.summary),
                          tr("one sentence: what it is, and for whom"));
  setTake(kSummary, summary, [summary](Destination& to) {
    if (summary->isModified()) to.summary = summary->text().trimmed().toStdString();
    return QString();
  });

  QStringList sizes;
  for (const Size each : d.canvases) sizes << QStringLiteral("%1×%2").arg(each.width).arg(each.height);
  QHBoxLayout* line = addRow("canvases", tr("&Canvas"));
  auto* canvases =
      addText(line, tr("Canvases"), sizes.join(QStringLiteral(", ")), QStringLiteral("1080×1920, 720×1280"));
  auto* smaller = addBox(line, tr("smaller ones of these &shapes, too"), d.otherCanvases);
  setTake("canvases", canvases, [canvases, smaller](Destination& to) {
    to.otherCanvases = smaller->isChecked();
    return takeCanvases(canvases->text(), to.canvases);
  });

  QStringList names;
  for (const FrameRate& each : d.rates.empty() ? std::vector<FrameRate>{d.mostRate} : d.rates)
    names << QString::fromStdString(each.name());
  line = addRow("rates", tr("&Frames a second"));
  auto* rates = addText(line, tr("Frames a second"), names.join(QStringLiteral(", ")), QStringLiteral("25, 29.97"));
  auto* slower = addBox(line, tr("s&lower ones, too"), d.rates.empty());
  setTake("rates", rates,
          [rates, slower](Destination& to) { return takeRates(rates->text(), slower->isChecked(), to); });

  constexpr double kDay = 86'400;
  constexpr int kThousandth = 3;
  line = addRow("length", tr("L&ength"));
  const auto seconds = [&](const QString& name, const Rational& value, const QString& suffix) {
    return addNumber(line, name,
                     new Number({.value = value.toDouble(), .most = kDay, .decimals = kThousandth, .suffix = suffix}));
  };
  auto* least = seconds(tr("Seconds at least"), d.leastSeconds, tr(" s at least"));
  auto* most = seconds(tr("Seconds at most"), d.mostSeconds, tr(" s at most"));
  setTake("length", least, [least, most](Destination& to) {
    const auto exact = [](const Number& field) { return Rational(std::llround(field.kept() * kKilo), int64_t(kKilo)); };
    if (least->touched()) to.leastSeconds = exact(*least);
    if (most->touched()) to.mostSeconds = exact(*most);
    return QString();
  });

  constexpr double kMostMegabytes = 1e7;
  auto* bytes = addNumber(addRow("bytes", tr("File si&ze")), tr("Megabytes at most"),
                          new Number({.value = double(d.mostBytes),
                                      .per = 1 / kMega,
                                      .most = kMostMegabytes,
                                      .decimals = 3,
                                      .suffix = tr(" MB at most")}));
  setTake("bytes", bytes, [bytes](Destination& to) {
    to.mostBytes = std::llround(bytes->kept());
    return QString();
  });

  auto* codecs = addText(addRow("codecs", tr("Co&decs")), tr("Codecs of the picture"),
                         namesOf(d.codecs, pictureCodecs(), &PictureCodec::codec), QStringLiteral("H.264, HEVC"));
  setTake("codecs", codecs, [codecs](Destination& to) {
    const QString wrong = takeNames(codecs->text(), pictureCodecs(), &PictureCodec::codec, to.codecs);
    return wrong.isEmpty() && to.codecs.empty() ? tr("a codec such as H.264 is needed") : wrong;
  });
  auto* boxes = addText(addRow("containers", tr("Co&ntainers")), tr("Containers"),
                        namesOf(d.containers, containers(), &ContainerInfo::container), QStringLiteral("MP4, MOV"));
  setTake("containers", boxes, [boxes](Destination& to) {
    return takeNames(boxes->text(), containers(), &ContainerInfo::container, to.containers);
  });
  auto* colour =
      addText(addRow("colours", tr("C&olour")), tr("Colours"), namesOf(d.colours, namedColours(), &ColourClaim::tags),
              namesOf(std::vector<ColourTags>{kRec709, kHlg, kPq}, namedColours(), &ColourClaim::tags));
  setTake("colours", colour, [colour](Destination& to) {
    return takeNames(colour->text(), namedColours(), &ColourClaim::tags, to.colours);
  });
  constexpr int kDeepest = 16;
  auto* depth = addNumber(addRow("depth", tr("De&pth")), tr("Bits of a sample at least"),
                          new Number({.value = double(d.depth), .most = kDeepest, .suffix = tr(" bits at least")}));
  setTake("depth", depth, [depth](Destination& to) {
    to.depth = int(depth->kept());
    return QString();
  });
}

void DestinationForm::addBitRates() {
  constexpr double kMostMegabits = 2000;
  auto* lines = new QVBoxLayout;
  lines->setSpacing(3);
  addRow("bitRates", tr("&Bit rate"))->addLayout(lines);
  const bool one = m_destination.bitRates.size() < 2; // it is that of the largest canvas
  std::vector<BitRateBand> bands = m_destination.bitRates;
  if (bands.empty()) bands.emplace_back();
  std::vector<std::array<Number*, 3>> fields;
  for (const BitRateBand& band : bands) {
    auto* line = new QHBoxLayout;
    lines->addLayout(line);
    QString of;
    if (!one) {
      of = tr("up to %1 million pixels at %2")
               .arg(double(band.pixels) / kMega, 0, 'f', 2)
               .arg(QString::fromStdString(band.rate.name()));
      line->addWidget(new QLabel(of));
    }
    const auto add = [&](const QString& name, int64_t bits, const QString& suffix) {
      return addNumber(
          line, one ? name : QStringLiteral("%1, %2").arg(name, of),
          new Number(
              {.value = double(bits), .per = 1 / kMega, .most = kMostMegabits, .decimals = 3, .suffix = suffix}));
    };
    fields.push_back({add(tr("Megabits a second at least"), band.least, tr(" Mb/s least")),
                      add(tr("Megabits a second usually"), band.usual, tr(" Mb/s usual")),
                      add(tr("Megabits a second at most"), band.most, tr(" Mb/s most"))});
  }
  setTake("bitRates", fields.front().front(), [this, fields, bands, one](Destination& to) {
    to.bitRates.clear();
    for (size_t i = 0; i < fields.size(); ++i) {
      BitRateBand band = bands[i];
      int64_t* const values[] = {&band.least, &band.usual, &band.most};
      for (size_t k = 0; k < 3; ++k) *values[k] = std::llround(fields[i][k]->kept());
      if (band.usual == 0 && band.least == 0 && band.most == 0) continue;
      if (band.usual == 0 || band.most < band.usual || band.usual < band.least)
        return tr("the least, the usual and the most are to rise in this order");
      // One that was there stays for what it was for, until the destination takes something else.
      if (one && (m_destination.bitRates.empty() || to.canvases != m_destination.canvases ||
                  to.mostRate != m_destination.mostRate)) {
        band.rate = to.mostRate;
        band.pixels = 0;
        for (const Size each : to.canvases) band.pixels = std::max(band.pixels, int64_t(each.width) * each.height);
      }
      to.bitRates.push_back(band);
    }
    return QString();
  });
}

void DestinationForm::addSoundRows() {
  const TakenSound s = m_destination.sound.value_or(TakenSound());
  QStringList kilohertz;
  for (const int each : s.sampleRates) kilohertz << QString::number(each / kKilo);
  constexpr double kMostKilobits = 10'000;
  auto* lines = new QVBoxLayout;
  lines->setSpacing(3);
  addRow("sound", tr("So&und"))->addLayout(lines);
  auto* upper = new QHBoxLayout;
  auto* lower = new QHBoxLayout;
  lines->addLayout(upper);
  lines->addLayout(lower);
  auto* codecs = addText(upper, tr("Codecs of sound; none: a silent file"),
                         namesOf(s.codecs, soundCodecs(), &SoundCodecInfo::codec), tr("no sound"));
  auto* channels = addText(upper, tr("Channels of sound"), namesOf(s.channels, channelCounts(), &NamedChannels::key),
                           namesOf(std::vector<int>{kStereo, kMono}, channelCounts(), &NamedChannels::key));
  auto* rates =
      addText(lower, tr("Sample rates in kilohertz"), kilohertz.join(QStringLiteral(", ")), QStringLiteral("48, 44.1"));
  lower->addWidget(new QLabel(tr("kHz")));
  auto* bitRate = addNumber(
      lower, tr("Kilobits a second of sound, usually"),
      new Number({.value = double(s.bitRate), .per = 1 / kKilo, .most = kMostKilobits, .suffix = tr(" kb/s usual")}));
  auto* needed = addBox(lower, tr("must be t&here"), s.needed);
  setTake("sound", codecs, [=](Destination& to) {
    TakenSound sound;
    if (QString wrong = takeNames(codecs->text(), soundCodecs(), &SoundCodecInfo::codec, sound.codecs);
        !wrong.isEmpty())
      return wrong;
    to.sound.reset();
    if (sound.codecs.empty()) return QString();
    if (QString wrong = takeNames(channels->text(), channelCounts(), &NamedChannels::key, sound.channels);
        !wrong.isEmpty())
      return wrong;
    if (sound.channels.empty()) sound.channels = {kStereo};
    for (const QString& part : partsOf(rates->text())) {
      bool number = false;
      const int hertz = int(std::lround(part.toDouble(&number) * kKilo));
      if (!number) return tr("'%1' is no sample rate such as 48").arg(part);
      sound.sampleRates.push_back(hertz);
    }
    constexpr int kUsual = 48'000;
    if (sound.sampleRates.empty()) sound.sampleRates = {kUsual};
    sound.bitRate = std::llround(bitRate->kept());
    sound.needed = needed->isChecked();
    to.sound = std::move(sound);
    return QString();
  });

  const LoudnessLimit limit = m_destination.loudness.value_or(LoudnessLimit{});
  constexpr double kQuietest = -60;
  constexpr double kWidest = 20;
  QHBoxLayout* line = addRow("loudness", tr("Loudness"));
  auto* limited = addBox(line, tr("&to be"), m_destination.loudness.has_value());
  const auto level = [&](const QString& name, double value, double least, double most, const QString& suffix) {
    return addNumber(
        line, name,
        new Number({.value = value, .least = least, .most = most, .decimals = 1, .suffix = suffix, .any = false}));
  };
  auto* lufs = level(tr("Loudness of the whole"), limit.lufs, kQuietest, 0, tr(" LUFS"));
  auto* within = level(tr("Loudness units up and down"), limit.within, 0, kWidest, tr(" LU either way"));
  auto* peak = level(tr("True peak at most"), limit.peakDbtp, -kWidest, 0, tr(" dBTP at most"));
  for (Number* each : {lufs, within, peak}) {
    each->setEnabled(limited->isChecked());
    connect(limited, &QCheckBox::toggled, each, &QWidget::setEnabled);
  }
  setTake("loudness", limited, [=](Destination& to) {
    to.loudness.reset();
    if (limited->isChecked()) to.loudness = LoudnessLimit{lufs->kept(), within->kept(), peak->kept()};
    return QString();
  });
}

void DestinationForm::addPlaceRows() {
  const SafeInsets& safe = m_destination.safe;
  constexpr double kHalf = 50;
  QHBoxLayout* line = addRow("safe", tr("Kept free at the ed&ges"));
  const auto inset = [&](const QString& name, double share, const QString& suffix) {
    return addNumber(
        line, name,
        new Number({.value = share, .per = kPercent, .most = kHalf, .decimals = 1, .suffix = suffix, .any = false}));
  };
  auto* left = inset(tr("Percent kept free at the left"), safe.left, tr(" % left"));
  auto* top = inset(tr("Percent kept free at the top"), safe.top, tr(" % top"));
  auto* right = inset(tr("Percent kept free at the right"), safe.right, tr(" % right"));
  auto* bottom = inset(tr("Percent kept free at the bottom"), safe.bottom, tr(" % bottom"));
  setTake("safe", left, [=](Destination& to) {
    to.safe = {left->kept(), top->kept(), right->kept(), bottom->kept()};
    return QString();
  });

  m_covered = new QVBoxLayout;
  m_covered->setSpacing(3);
  line = addRow("covered", tr("Covered by buttons"));
  line->addLayout(m_covered, 1);
  for (const CoveredPart& each : m_destination.covered) addCovered(each);
  auto* more = new QPushButton(tr("Add a co&vered part"));
  more->setAutoDefault(false);
  auto* end = new QHBoxLayout;
  end->addWidget(more);
  end->addStretch();
  m_covered->addLayout(end);
  connect(more, &QPushButton::clicked, this, [this] {
    constexpr RectF kBelow{0, 0.8, 1, 0.2};
    addCovered({kBelow, {}});
  });
  setTake("covered", more, [this](Destination& to) {
    to.covered.clear();
    for (const QWidget* part : std::as_const(m_coveredParts)) {
      const auto numbers = part->findChildren<QDoubleSpinBox*>();
      const auto share = [&](int at) { return static_cast<const Number*>(numbers[at])->kept(); };
      const std::string by = part->findChild<QLineEdit*>(QStringLiteral("by"))->text().trimmed().toStdString();
      to.covered.push_back({{share(0), share(1), share(2), share(3)}, by});
    }
    return QString();
  });
}

void DestinationForm::addCovered(const CoveredPart& part) {
  auto* widget = new QWidget;
  auto* line = new QHBoxLayout(widget);
  line->setContentsMargins(0, 0, 0, 0);
  const auto add = [&](const QString& name, double share, const QString& suffix) {
    addNumber(
        line, name,
        new Number({.value = share, .per = kPercent, .most = kPercent, .decimals = 1, .suffix = suffix, .any = false}));
  };
  add(tr("Percent of the width from the left"), part.part.x, tr(" % left"));
  add(tr("Percent of the height from the top"), part.part.y, tr(" % top"));
  add(tr("Percent of the width"), part.part.width, tr(" % wide"));
  add(tr("Percent of the height"), part.part.height, tr(" % high"));
  auto* by = addText(line, tr("What lies there"), QString::fromStdString(part.by), tr("caption"), 2);
  by->setObjectName(QStringLiteral("by"));
  auto* remove = new QPushButton(tr("Remove"));
  remove->setAutoDefault(false);
  line->addWidget(remove);
  connect(remove, &QPushButton::clicked, widget, [this, widget] {
    m_coveredParts.removeOne(widget);
    widget->deleteLater();
  });
  m_covered->insertWidget(int(m_coveredParts.size()), widget);
  m_coveredParts << widget;
}

// ---- what was typed is kept

void DestinationForm::tell(const QString& key, const QString& message) {
  m_message->setText(m_rows.contains(key) ? tr("%1: %2").arg(m_rows[key].name, message) : message);
  if (m_rows.contains(key)) m_rows[key].field->setFocus();
}

void DestinationForm::accept() {
  Destination typed = m_destination;
  for (const QString& key : std::as_const(m_keys))
    if (const QString wrong = m_rows[key].take(typed); !wrong.isEmpty()) return tell(key, wrong);
  // Every value that is there has its reason, and no other.
  typed.because.clear();
  const auto reason = [this](const QString& key) {
    const Row& row = m_rows[key];
    const auto before = m_destination.because.find(key.toStdString());
    const bool same = before != m_destination.because.end() && !row.why->isModified();
    return Because{Sureness(row.sure->currentIndex()),
                   same ? before->second.why : row.why->text().trimmed().toStdString()};
  };
  const QString safe = QStringLiteral("safe"); // that nothing need be kept free can be said as well
  if (const Because why = reason(safe); !why.why.empty()) typed.because[safe.toStdString()] = why;
  const QJsonObject values = QJsonDocument::fromJson(QByteArray::fromStdString(destinationText(typed))).object();
  for (const QString& key : std::as_const(m_keys))
    if (m_rows[key].why && values.contains(key)) typed.because[key.toStdString()] = reason(key);
  if (const Status kept = m_keep(typed); !kept) {
    const QStringList where = said(kept.error().where).split(QLatin1Char('/'));
    return tell(where.value(1), said(kept.error()));
  }
  QDialog::accept();
}

} // namespace tromb
