// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/MainWindow.h"
#include "io/Process.h"
#include "model/Worker.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QSettings>
#include <QTimer>
#include <cstdio>

int main(int argc, char** argv) {
  QElapsedTimer since;
  since.start();
  tromb::prepareProcess();
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
  const QCommandLineOption time(QStringLiteral("time-start"),
                                QStringLiteral("Print the milliseconds to the first complete paint, and quit."));
  parser.addOptions({picture, theme, time});
  parser.process(application);

  using tromb::Theme;
  using tromb::ThemeChoice;
  auto choice = ThemeChoice(QSettings().value(QStringLiteral("theme"), 0).toInt());
  if (parser.isSet(theme))
    choice = parser.value(theme) == QStringLiteral("dusk") ? ThemeChoice::Dusk : ThemeChoice::Day;
  Theme::apply(application, choice);
  const int status = [&] {
    tromb::MainWindow window;
    window.show();
    const QStringList files = parser.positionalArguments();
    if (files.size() == 1 && files.first().endsWith(QStringLiteral(".tromb")))
      window.openProject(files.first());
    else
      window.bringIn(files);

    if (!parser.isSet(picture) && !parser.isSet(time)) window.offerRecovery();

    QTimer settling;
    if (parser.isSet(picture) || parser.isSet(time)) {
      QObject::connect(&settling, &QTimer::timeout, &window, [&] {
        if (!window.settled()) return;
        window.repaint();
        if (parser.isSet(time)) std::printf("%lld\n", static_cast<long long>(since.elapsed()));
        if (parser.isSet(picture) && !window.grab().save(parser.value(picture))) {
          std::fprintf(stderr, "tromb: %s cannot be written\n", qPrintable(parser.value(picture)));
          QApplication::exit(1);
          return;
        }
        QApplication::quit();
      });
      settling.start(parser.isSet(time) ? 1 : 100);
    }
    return QApplication::exec();
  }();
  tromb::joinWorkers();
  return status;
}
