// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/DestinationDialog.h"

#include "app/spec/DestinationForm.h"
#include "model/Translation.h"
#include "preflight/Limits.h"
#include "preflight/Preflight.h"
#include "time/Timecode.h"

#include <QPushButton>

namespace tromb {
namespace {

template <typename List> QString namesOf(const List& list) {
  QStringList names;
  for (const auto each : list) {
    const std::string_view name = infoOf(each).name;
    names << QString::fromUtf8(name.data(), qsizetype(name.size()));
  }
  return names.join(QStringLiteral(", "));
}

/// What a destination takes, a line each, with how sure that is.
QString destinationWords(const Destination& d) {
  QStringList lines;
  const auto line = [&](const char* key, const QString& words) {
    const auto because = d.because.find(key);
    lines << (because == d.because.end()
                  ? words
                  : DestinationDialog::tr("%1 (%2)").arg(words, sureWords(because->second.sure)));
  };
  QStringList sizes;
  for (const Size each : d.canvases) sizes << QString::fromStdString(sizeText(each));
  line("canvases", DestinationDialog::tr("Canvas %1").arg(sizes.join(QStringLiteral(", "))));
  QStringList rates;
  for (const FrameRate& each : d.rates) rates << QString::fromStdString(each.name());
  line("rates", d.rates.empty()
                    ? DestinationDialog::tr("Up to %1 frames a second").arg(QString::fromStdString(d.mostRate.name()))
                    : DestinationDialog::tr("%1 frames a second").arg(rates.join(QStringLiteral(", "))));
  if (d.mostSeconds > Rational(0))
    line("length", DestinationDialog::tr("At most %1 long").arg(QString::fromStdString(clockText(d.mostSeconds))));
  if (d.mostBytes > 0)
    line("bytes", DestinationDialog::tr("At most %1").arg(QString::fromStdString(bytesText(d.mostBytes))));
  line("codecs", namesOf(d.codecs));
  if (!d.containers.empty()) line("containers", namesOf(d.containers));
  if (const auto band = d.band(d.canvas(), d.rates.empty() ? d.mostRate : d.rates.front(), d.codecs.front()))
    line("bitRates",
         DestinationDialog::tr("%1 to %2, usually %3")
             .arg(QString::fromStdString(bitRateText(band->least)), QString::fromStdString(bitRateText(band->most)),
                  QString::fromStdString(bitRateText(band->usual))));
  if (d.sound) line("sound", DestinationDialog::tr("Sound in %1").arg(namesOf(d.sound->codecs)));
  if (d.loudness) line("loudness", DestinationDialog::tr("%1 LUFS").arg(d.loudness->lufs));
  return lines.join(QLatin1Char('\n'));
}

} // namespace

DestinationDialog::DestinationDialog(Spec& spec, DestinationStore& store, QWidget* parent)
    : SavedDialog({tr("Your own destinations"),
                   tr("A destination says what is taken where a file goes. It begins as what a deliverable is, and is "
                      "widened by editing it."),
                   tr("Ma&ke one from the chosen deliverable …"), tr("Make it &anew from the deliverable"),
                   tr("Bring in a destination"), tr("You have none of your own yet."), tr("Destinations (*.json)"),
                   tr("Destinations (*.json)"), QStringLiteral(".json")},
                  parent),
      m_spec(spec), m_store(store) {
  setObjectName(QStringLiteral("destinationDialog"));
  m_star = addButton(tr("S&tar"), [this] {
    auto destination = m_store.read(chosen().toStdString());
    if (destination) destination->starred = !destination->starred;
    if (say(destination ? m_store.save(*destination, true) : Status(tl::unexpected(destination.error()))))
      refresh(chosen());
  });
  m_star->setCheckable(true);
  addButton(tr("&Edit …"), [this] { edit(); });
  m_like = addButton(QString(), [this] {
    const auto to = ofDeliverable();
    if (!to) return;
    saveAs(QString::fromStdString(to->name), [this, &to](const std::string& name) {
      Destination copy = *to;
      copy.name = name;
      copy.id.clear();
      copy.starred = false;
      return m_store.save(std::move(copy), false);
    });
  });
  addButton(tr("Read them a&gain"), [this] { readAgain(); });
  refresh();
  readAgain();
}

/// Returns where the chosen deliverable goes; null for nowhere.
std::shared_ptr<const Destination> DestinationDialog::ofDeliverable() const {
  return m_spec.current() ? destination(m_spec.current()->destination) : nullptr;
}

void DestinationDialog::edit() {
  const auto destination = m_store.read(chosen().toStdString());
  if (!say(destination ? Status() : Status(tl::unexpected(destination.error())))) return;
  DestinationForm form(
      *destination, [this](const Destination& edited) { return m_store.save(edited, true); }, this);
  if (form.exec() == QDialog::Accepted) refresh(chosen());
}

void DestinationDialog::readAgain() {
  m_store.readAgain();
  refresh(chosen());
  for (const Error& fault : destinationData()->faults) (void)say(Status(tl::unexpected(fault)));
}

std::vector<SavedDialog::Entry> DestinationDialog::entries() const {
  std::vector<Entry> entries;
  for (const std::string& each : m_store.names()) {
    const QString name = QString::fromStdString(each);
    const auto read = m_store.read(each);
    QStringList users;
    QStringList amiss; // of those that do not agree with it as it is now
    for (const Deliverable& d : m_spec.document().project().deliverables) {
      if (!read || d.destination != read->id) continue;
      users << QString::fromStdString(d.name);
      QStringList broken;
      for (const SpecLine& line :
           limitLines(m_spec.document().project(), m_spec.document().footage(), d, m_spec.grounds()))
        if (line.standing == Standing::Broken) broken << said(line.what);
      if (!broken.isEmpty()) amiss << tr("%1 (%2)").arg(users.last(), broken.join(QStringLiteral(", ")).toLower());
    }
    QString contents = read ? destinationWords(*read) : said(read.error());
    if (!users.isEmpty())
      contents += QStringLiteral("\n\n") + tr("Goes there: %1").arg(users.join(QStringLiteral(", ")));
    if (!amiss.isEmpty())
      contents += QStringLiteral("\n") + tr("Disagrees with it: %1").arg(amiss.join(QStringLiteral(", ")));
    entries.push_back({name, contents, read && read->starred ? QStringLiteral("★ ") + name : QString()});
  }
  return entries;
}

void DestinationDialog::chosenChanged() {
  if (!m_star) return; // still being built
  const auto read = m_store.read(chosen().toStdString());
  m_star->setChecked(read && read->starred);
  if (!m_like) return;
  const auto to = ofDeliverable();
  m_like->setEnabled(to != nullptr);
  QString name = to ? QString::fromStdString(to->name) : QString();
  name = fontMetrics().elidedText(name, Qt::ElideRight, fontMetrics().averageCharWidth() * 22);
  name.replace(QLatin1Char('&'), QLatin1String("&&"));
  m_like->setText(to ? tr("Make one &like '%1' …").arg(name) : tr("Make one &like its destination …"));
}

} // namespace tromb
