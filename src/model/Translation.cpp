// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Translation.h"

#include <QCoreApplication>
#include <QLibraryInfo>
#include <QLocale>
#include <QTranslator>

namespace tromb {
namespace {

/// The context under which the core's patterns stand in the translations' files.
constexpr const char* kCore = "core";

void take(QTranslator* translator) {
  QCoreApplication::installTranslator(translator);
}

/// English needs a translation too, for its forms of one and of many. The user's language is installed over it.
void takeTranslations() {
  auto* english = new QTranslator(QCoreApplication::instance());
  if (english->load(QStringLiteral(":/translations/tromb_en.qm"))) take(english);
  auto* qt = new QTranslator(QCoreApplication::instance());
  if (qt->load(QLocale(), QStringLiteral("qtbase"), QStringLiteral("_"),
               QLibraryInfo::path(QLibraryInfo::TranslationsPath)))
    take(qt);
  auto* own = new QTranslator(QCoreApplication::instance());
  if (own->load(QLocale(), QStringLiteral("tromb"), QStringLiteral("_"), QStringLiteral(":/translations"))) take(own);
  if (const QString path = qEnvironmentVariable("TROMB_TRANSLATION"); !path.isEmpty() && !translateWith(path))
    qWarning("The translation %s cannot be read.", qPrintable(path));
}

// Installs the translations at the start of every program that has a model or a window.
Q_COREAPP_STARTUP_FUNCTION(takeTranslations)

} // namespace

std::string inTheWindowsLanguage(const std::string& pattern, const std::string& one, std::optional<int64_t> count) {
  const QString translated =
      count ? QCoreApplication::translate(kCore, pattern.c_str(), one.c_str(), int(std::min<int64_t>(*count, INT_MAX)))
            : QCoreApplication::translate(kCore, pattern.c_str());
  // Qt hands back the pattern where it has no translation, and has put in the count already where it is counted.
  QString untranslated = QString::fromStdString(pattern);
  if (count) untranslated.replace(QLatin1String("%n"), QString::number(*count));
  return translated == untranslated ? std::string() : translated.toStdString();
}

QString said(const Message& message) {
  return QString::fromStdString(message.text(inTheWindowsLanguage));
}

QString said(const Error& error) {
  return QString::fromStdString(sentence(error, inTheWindowsLanguage));
}

bool translateWith(const QString& path) {
  auto* translator = new QTranslator(QCoreApplication::instance());
  if (!translator->load(path)) return false;
  take(translator);
  return true;
}

} // namespace tromb
