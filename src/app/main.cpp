// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/MainWindow.h"
#include "app/style/Folders.h"
#include "app/style/Settings.h"
#include "destination/Destination.h"
#include "io/Process.h"
#include "media/write/EncoderProcess.h"
#include "model/Worker.h"
#include "project/ProjectFile.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QFileInfo>
#include <QTimer>
#include <cstdio>
#include <ctime>
#include <optional>
#include <unistd.h>
#include <utility>

namespace {

/// Milliseconds since the process began, to about a hundredth of a second.
long long millisecondsSinceStart() {
  long long ticks = 0;
  if (std::FILE* self = std::fopen("/proc/self/stat", "r")) {
    // The 22nd field; the second, a name in brackets, holds no blank here.
    if (std::fscanf(self, "%*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %*s %lld",
                    &ticks) != 1)
      ticks = 0;
    std::fclose(self);
  }
  timespec now{};
  clock_gettime(CLOCK_BOOTTIME, &now);
  return now.tv_sec * 1000LL + now.tv_nsec / 1'000'000 - ticks * 1000 / sysconf(_SC_CLK_TCK);
}

} // namespace

int main(int argc, char** argv) {
  tromb::prepareProcess();
  if (const auto worked = tromb::workAsEncoder(argc, argv)) return *worked;
  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("tromb"));
  QApplication::setApplicationVersion(QStringLiteral(TROMB_VERSION));
  QApplication::setDesktopFileName(QStringLiteral("tromb"));

  QCommandLineParser parser;
  parser.setApplicationDescription(QStringLiteral("Delivers horizontal footage in every shape."));
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument(QStringLiteral("files"), QStringLiteral("A project, or footage to bring in."),
                               QStringLiteral("[files…]"));
  const QCommandLineOption picture(
      QStringLiteral("picture"),
      QStringLiteral("Write a picture of the window to FILE once everything is drawn, and quit."),
      QStringLiteral("FILE"));
  const QCommandLineOption theme(QStringLiteral("theme"), QStringLiteral("day or dusk, for this time only."),
                                 QStringLiteral("THEME"));
  const QCommandLineOption time(
      QStringLiteral("time-start"),
      QStringLiteral("Print the milliseconds to each step up to the first complete paint, and quit."));
  parser.addOptions({picture, theme, time});
  parser.process(application);
  const auto step = [told = parser.isSet(time)](const char* name) {
    if (told) std::printf("%lld %s\n", millisecondsSinceStart(), name);
  };
  step("program and its libraries loaded");

  tromb::useOwnDestinations(tromb::destinationFolder().toStdString());
  using tromb::Theme;
  using tromb::ThemeChoice;
  ThemeChoice choice = tromb::Settings::theme();
  if (parser.isSet(theme))
    choice = parser.value(theme) == QStringLiteral("dusk") ? ThemeChoice::Dusk : ThemeChoice::Day;
  Theme::apply(application, choice);
  Theme::applyType(application, tromb::Settings::typePercent());
  step("style and fonts");
  const int status = [&] {
    const QStringList files = parser.positionalArguments();
    const bool project = files.size() == 1 && files.first().endsWith(QStringLiteral(".tromb"));
    std::optional<tromb::Project> read;
    if (project)
      if (auto loaded = tromb::loadProject(files.first().toStdString())) read = std::move(*loaded);
    step("project read");
    tromb::MainWindow window(read ? &*read : nullptr);
    if (parser.isSet(picture)) window.resize(1280, 800);
    step("window built");
    if (project)
      window.files().open(files.first(), std::move(read));
    else
      window.bringIn(files);
    step("project opened");
    window.show(); // while its sources are being looked at
    if (parser.isSet(time)) {
      QApplication::processEvents();
      step("first paint");
    }
    if (!parser.isSet(picture) && !parser.isSet(time)) window.files().offerRecovery();

    QTimer settling;
    if (parser.isSet(picture) || parser.isSet(time)) {
      QObject::connect(&settling, &QTimer::timeout, &window, [&] {
        if (!window.settled()) return;
        window.repaint();
        step("first complete paint");
        if (parser.isSet(picture) && !window.grab().save(parser.value(picture))) {
          std::fprintf(stderr, "tromb: %s cannot be written\n", qPrintable(parser.value(picture)));
          QApplication::exit(1);
          return;
        }
        QApplication::exit(0); // not quit, which asks about what is not saved
      });
      settling.start(parser.isSet(time) ? 1 : 100);
    }
    return QApplication::exec();
  }();
  tromb::joinWorkers();
  return status;
}
