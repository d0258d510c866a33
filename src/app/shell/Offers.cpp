// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/Offers.h"

#include "app/style/Settings.h"
#include "preflight/Preflight.h"

#include <algorithm>
#include <numeric>

namespace tromb {
namespace {

constexpr int kMostLate = 3;
const QString kLate = QStringLiteral("offered");

/// Where it is kept which size was chosen last time.
QString keptOf(const Offer& offer) {
  return QStringLiteral("offer/") + QString::fromStdString(offer.sizes.front().destination);
}

} // namespace

QString Offers::meaning(const Offer& offer, size_t size) {
  const Deliverable& d = offer.sizes[size];
  const QString words = QString::fromStdString(sizeText(d.canvas) + " · " + d.rate.name());
  if (offer.details.empty()) return words;
  const double detail = offer.details[size];
  if (detail >= kSharpDetail) return tr("%1, sharp").arg(words);
  const QString times = QString::number(1 / detail, 'f', 1);
  if (offer.stacked <= 0) return tr("%1, enlarged %2×").arg(words, times);
  return tr("%1, enlarged %2×, or two stacked at %3")
      .arg(words, times, QString::fromStdString(detailText(offer.stacked)));
}

std::vector<size_t> Offers::order(const Offer& offer) {
  std::vector<size_t> places(offer.sizes.size());
  std::iota(places.begin(), places.end(), size_t(0));
  const int last = Settings::left(keptOf(offer), 0).toInt();
  if (last > 0 && size_t(last) < places.size())
    std::rotate(places.begin(), places.begin() + last, places.begin() + last + 1);
  return places;
}

void Offers::remember(const Offer& offer, size_t size) {
  if (offer.sizes.size() > 1) Settings::setLeft(keptOf(offer), int(size));
  const QString id = QString::fromStdString(offer.sizes.front().destination);
  if (id.isEmpty()) return;
  QStringList late = Settings::left(kLate).toStringList();
  late.removeAll(id);
  late.prepend(id);
  Settings::setLeft(kLate, late.mid(0, kMostLate));
}

QStringList Offers::lateDestinations() {
  QStringList late = Settings::left(kLate).toStringList();
  late.erase(std::remove_if(late.begin(), late.end(), [](const QString& id) { return !destination(id.toStdString()); }),
             late.end());
  return late;
}

} // namespace tromb
