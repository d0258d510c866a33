// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/ShotFraming.h"
#include "app/style/Theme.h"
#include "destination/NewDeliverable.h"

#include <QByteArray>
#include <QString>
#include <QStringList>
#include <QVariant>

namespace tromb {

/// What is remembered of the person at this desktop, beside any project: what was chosen in the settings, and where
/// things were left. For the window's thread.
struct Settings {
  enum class StripPictures { All, Ends, None };
  static constexpr double kLeastLine = 0.1;
  static constexpr double kMostLine = 100'000;

  [[nodiscard]] static ThemeChoice theme();
  static void setTheme(ThemeChoice choice);
  [[nodiscard]] static int typePercent(); ///< Type size in percent of the desktop's: 100, 125 or 150.
  static void setTypePercent(int percent);
  [[nodiscard]] static QString exportFolder(); ///< where the last export went; empty while none did
  static void setExportFolder(const QString& folder);
  [[nodiscard]] static int lighterCopiesGigabytes();
  [[nodiscard]] static int64_t lighterCopiesBytes() { return int64_t(lighterCopiesGigabytes()) * 1'000'000'000; }
  static void setLighterCopiesGigabytes(int gigabytes);
  /// Which shots of the running order are drawn with pictures; fewer are quicker on a slow machine.
  [[nodiscard]] static StripPictures stripPictures();
  static void setStripPictures(StripPictures which);
  [[nodiscard]] static bool orderAbove(); ///< the running order stands above the views, else below
  static void setOrderAbove(bool above);
  [[nodiscard]] static bool offersDeliverables(); ///< when footage is brought into an empty project
  static void setOffersDeliverables(bool offers);
  [[nodiscard]] static bool framesNewShots(); ///< new shots, by what is found in them
  static void setFramesNewShots(bool frames);
  [[nodiscard]] static FramingRules framingRules(); ///< how what is found is framed
  static void setFramingRules(const FramingRules& rules);
  [[nodiscard]] static QStringList recentProjects();
  static void setRecentProjects(const QStringList& paths);
  [[nodiscard]] static QString handOverFolder(); ///< of the device that something was handed to last; may be empty
  static void setHandOverFolder(const QString& folder);
  [[nodiscard]] static QString serviceAddress(); ///< of the service that something was handed to last; may be empty
  static void setServiceAddress(const QString& address);
  [[nodiscard]] static QString footageFolder(); ///< The folder that footage was last brought in from.
  static void setFootageFolder(const QString& folder);
  /// Megabits a second, up, of the line that files are sent over.
  [[nodiscard]] static double lineMegabits();
  static void setLineMegabits(double megabits);
  /// The rates that are offered first.
  [[nodiscard]] static RateFamily rateFamily();
  static void setRateFamily(RateFamily family);
  [[nodiscard]] static int sampleRate(); ///< Hz, of the sound of new deliverables: 48000 or 44100
  static void setSampleRate(int hertz);
  [[nodiscard]] static Habits habits();
  /// Where a part of the window was left: its size, a splitter, a height, a form.
  [[nodiscard]] static QVariant left(const QString& part, const QVariant& otherwise = {});
  static void setLeft(const QString& part, const QVariant& value);
};

} // namespace tromb
