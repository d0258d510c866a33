// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "destination/NewDeliverable.h"

#include <QCoreApplication>
#include <QString>
#include <QStringList>

namespace tromb {

/// What is said and remembered of offers. For the window's thread.
struct Offers {
  Q_DECLARE_TR_FUNCTIONS(Offers)

public:
  /// What one size of an offer means for the footage: "1080×1920 · 25, enlarged 1.8×, or two stacked at 1.12".
  [[nodiscard]] static QString meaning(const Offer& offer, size_t size);
  /// The places of an offer's sizes: the one that was chosen last time first, or else the usual one.
  [[nodiscard]] static std::vector<size_t> order(const Offer& offer);
  /// Remembers which size was chosen, so that it comes first next time, and where it goes.
  static void remember(const Offer& offer, size_t size);
  /// The destinations that deliverables were lately added for, the last one first, three at most; those that are no
  /// longer there are left out.
  [[nodiscard]] static QStringList lateDestinations();
};

} // namespace tromb
