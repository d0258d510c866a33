// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/Settings.h"

#include "app/style/Folders.h"
#include "destination/PresetStore.h"

#include <QCoreApplication>
#include <QSettings>
#include <algorithm>

namespace tromb {
namespace {

QVariant stored(const QString& key, const QVariant& otherwise) {
  return QSettings(QStringLiteral("tromb"), QCoreApplication::applicationName()).value(key, otherwise);
}

void store(const QString& key, const QVariant& value) {
  QSettings(QStringLiteral("tromb"), QCoreApplication::applicationName()).setValue(key, value);
}

const QString kTheme = QStringLiteral("theme");
const QString kType = QStringLiteral("typePercent");
const QString kExportFolder = QStringLiteral("exportFolder");
const QString kHandOverFolder = QStringLiteral("handOverFolder");
const QString kServiceAddress = QStringLiteral("serviceAddress");
const QString kLighter = QStringLiteral("lighterCopiesGigabytes");
const QString kStripPictures = QStringLiteral("stripPictures");
const QString kOrderAbove = QStringLiteral("orderAbove");
const QString kOffers = QStringLiteral("offersDeliverables");
const QString kFramesNewShots = QStringLiteral("framesNewShots");
const QString kRules = QStringLiteral("framing/");
const QString kRecent = QStringLiteral("recentProjects");
const QString kFootageFolder = QStringLiteral("footageFolder");
const QString kLine = QStringLiteral("lineMegabits");
const QString kLeft = QStringLiteral("left/");
const QString kRates = QStringLiteral("rateFamily");
const QString kSampleRate = QStringLiteral("sampleRate");
constexpr int kGigabytes = 20;
constexpr int kUsualSampleRate = 48'000;
constexpr int kDiscSampleRate = 44'100;

} // namespace

// Values are brought into their ranges, because somebody may have edited the file.
ThemeChoice Settings::theme() {
  return ThemeChoice(std::clamp(stored(kTheme, 0).toInt(), 0, int(ThemeChoice::Dusk)));
}
void Settings::setTheme(ThemeChoice choice) {
  store(kTheme, int(choice));
}
int Settings::typePercent() {
  return std::clamp(stored(kType, 100).toInt(), 100, 200);
}
void Settings::setTypePercent(int percent) {
  store(kType, percent);
}
QString Settings::exportFolder() {
  return stored(kExportFolder, {}).toString();
}
void Settings::setExportFolder(const QString& folder) {
  store(kExportFolder, folder);
}
QString Settings::handOverFolder() {
  return stored(kHandOverFolder, {}).toString();
}
void Settings::setHandOverFolder(const QString& folder) {
  store(kHandOverFolder, folder);
}
QString Settings::serviceAddress() {
  return stored(kServiceAddress, {}).toString();
}
void Settings::setServiceAddress(const QString& address) {
  store(kServiceAddress, address);
}
int Settings::lighterCopiesGigabytes() {
  return std::clamp(stored(kLighter, kGigabytes).toInt(), 1, 10'000);
}
void Settings::setLighterCopiesGigabytes(int gigabytes) {
  store(kLighter, gigabytes);
}
Settings::StripPictures Settings::stripPictures() {
  return StripPictures(std::clamp(stored(kStripPictures, 0).toInt(), 0, int(StripPictures::None)));
}
void Settings::setStripPictures(StripPictures which) {
  store(kStripPictures, int(which));
}
bool Settings::orderAbove() {
  return stored(kOrderAbove, false).toBool();
}
void Settings::setOrderAbove(bool above) {
  store(kOrderAbove, above);
}
bool Settings::offersDeliverables() {
  return stored(kOffers, true).toBool();
}
void Settings::setOffersDeliverables(bool offers) {
  store(kOffers, offers);
}
bool Settings::framesNewShots() {
  return stored(kFramesNewShots, true).toBool();
}
void Settings::setFramesNewShots(bool frames) {
  store(kFramesNewShots, frames);
}
FramingRules Settings::framingRules() {
  const FramingRules usual;
  const auto within = [](const QString& key, double otherwise, double least, double most) {
    const double kept = stored(key, otherwise).toDouble();
    return kept >= least && kept <= most ? kept : otherwise;
  };
  FramingRules rules;
  rules.eyesAt = within(kRules + QStringLiteral("eyesAt"), usual.eyesAt, 0, 1);
  rules.headroom = within(kRules + QStringLiteral("headroom"), usual.headroom, 0, 0.5);
  rules.room = within(kRules + QStringLiteral("room"), usual.room, 0, 0.5);
  rules.leastMove = within(kRules + QStringLiteral("leastMove"), usual.leastMove, 0, 60);
  rules.crossing = within(kRules + QStringLiteral("crossing"), usual.crossing, 0.1, 60);
  rules.stacks = stored(kRules + QStringLiteral("stacks"), usual.stacks).toBool();
  return rules;
}
void Settings::setFramingRules(const FramingRules& rules) {
  store(kRules + QStringLiteral("eyesAt"), rules.eyesAt);
  store(kRules + QStringLiteral("headroom"), rules.headroom);
  store(kRules + QStringLiteral("room"), rules.room);
  store(kRules + QStringLiteral("leastMove"), rules.leastMove);
  store(kRules + QStringLiteral("crossing"), rules.crossing);
  store(kRules + QStringLiteral("stacks"), rules.stacks);
}
QStringList Settings::recentProjects() {
  return stored(kRecent, {}).toStringList();
}
void Settings::setRecentProjects(const QStringList& paths) {
  store(kRecent, paths);
}
QString Settings::footageFolder() {
  return stored(kFootageFolder, {}).toString();
}
void Settings::setFootageFolder(const QString& folder) {
  store(kFootageFolder, folder);
}
double Settings::lineMegabits() {
  constexpr double kUsual = 20;
  const double megabits = stored(kLine, kUsual).toDouble();
  return megabits >= kLeastLine && megabits <= kMostLine ? megabits : kUsual;
}
void Settings::setLineMegabits(double megabits) {
  store(kLine, megabits);
}
QVariant Settings::left(const QString& part, const QVariant& otherwise) {
  return stored(kLeft + part, otherwise);
}
void Settings::setLeft(const QString& part, const QVariant& value) {
  store(kLeft + part, value);
}

RateFamily Settings::rateFamily() {
  return RateFamily(std::clamp(stored(kRates, 0).toInt(), 0, int(RateFamily::Web)));
}
void Settings::setRateFamily(RateFamily family) {
  store(kRates, int(family));
}
int Settings::sampleRate() {
  return stored(kSampleRate, kUsualSampleRate).toInt() == kDiscSampleRate ? kDiscSampleRate : kUsualSampleRate;
}
void Settings::setSampleRate(int hertz) {
  store(kSampleRate, hertz);
}
Habits Settings::habits() {
  const PresetStore presets(presetFolder().toStdString());
  const std::string encoding = presets.defaultEncoding();
  auto usual = encoding.empty() ? std::nullopt : std::optional(presets.read(encoding));
  return {offeredRates(rateFamily()).front(), sampleRate(), usual && *usual ? std::optional(**usual) : std::nullopt};
}

} // namespace tromb
