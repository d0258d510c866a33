// SPDX-License-Identifier: GPL-3.0-or-later
// The house rules that a compiler does not keep.
#include "support/TestMedia.h"

#include <QDir>
#include <QDirIterator>
#include <QFileInfo>
#include <QRegularExpression>
#include <QTest>

class TestLayers : public QObject {
  Q_OBJECT

  static QStringList offences(const QString& folder, const QRegularExpression& wrong, const QString& except) {
    QStringList found;
    QDirIterator files(QStringLiteral(TROMB_SOURCE_DIR) + folder, {QStringLiteral("*.h"), QStringLiteral("*.cpp")},
                       QDir::Files, QDirIterator::Subdirectories);
    int read = 0;
    while (files.hasNext()) {
      QFile file(files.next());
      if (!except.isEmpty() && file.fileName().endsWith(except)) continue;
      if (!file.open(QIODevice::ReadOnly)) continue;
      ++read;
      int number = 0;
      for (const QByteArray& line : file.readAll().split('\n')) {
        ++number;
        if (wrong.match(QString::fromUtf8(line)).hasMatch())
          found << QStringLiteral("%1:%2: %3").arg(file.fileName()).arg(number).arg(QString::fromUtf8(line));
      }
    }
    if (read == 0) found << QStringLiteral("nothing was read in ") + folder;
    return found;
  }

private slots:
  void sources_data() {
    QTest::addColumn<QString>("folder");
    QTest::addColumn<QString>("wrong");
    QTest::addColumn<QString>("except");
    QTest::newRow("core includes no Qt") << "/src/core"
                                         << "#include\\s*.(Q[A-Z]|Qt|app/|model/|cli/)"
                                         << "";
    QTest::newRow("core does not print or exit")
        << "/src/core"
        << "std::(cout|cerr|clog)|\\b(printf|puts|perror)\\(|\\b(exit|abort|_exit)\\("
        << "";
    QTest::newRow("model has no widgets") << "/src/model"
                                          << "#include\\s*.(QtWidgets|QWidget|QApplication|QMessageBox|app/)"
                                          << "";
    for (const char* folder : {"/src/model", "/src/app"})
      QTest::addRow("%s starts threads by the worker alone", folder)
          << folder << "<(thread|future)>|std::(jthread|thread|async)\\b|QThread"
          << "/Worker.cpp";
    QTest::newRow("cli has no Qt") << "/src/cli"
                                   << "#include\\s*.(Q[A-Z]|Qt|app/|model/)"
                                   << "";
  }
  void sources() {
    QFETCH(QString, folder);
    QFETCH(QString, wrong);
    QFETCH(QString, except);
    const QStringList found = offences(folder, QRegularExpression(wrong), except);
    QVERIFY2(found.isEmpty(), qPrintable(found.join('\n')));
  }
  // The house from the ground up: a folder includes what lies below it, and nothing that lies above or beside it in a
  // circle. A folder that nobody has placed here fails, too.
  void arrowsGoDownwards_data() {
    QTest::addColumn<QString>("layer");
    QTest::addColumn<QString>("prefix"); // of its folders in an include
    QTest::addColumn<QStringList>("floors");
    QTest::newRow("core") << "core"
                          << ""
                          << QStringList{"time",   "io",         "colour",      "geometry", "element", "encoding",
                                         "media",  "media/read", "media/write", "picture",  "project", "destination",
                                         "render", "watch",      "analysis",    "sample",   "copy",    "preflight",
                                         "export", "handover",   "queue"};
    QTest::newRow("app") << "app"
                         << "app/" << QStringList{"style", "actions", "watch", "order",    "footage",
                                                  "sheet", "spec",    "bench", "dispatch", "shell"};
  }
  void arrowsGoDownwards() {
    QFETCH(const QString, layer);
    QFETCH(const QString, prefix);
    QFETCH(const QStringList, floors);
    const QDir base(QStringLiteral(TROMB_SOURCE_DIR "/src/") + layer);
    const QRegularExpression include(QStringLiteral("^#include \"%1([^\"]+)/[^/\"]+\"").arg(prefix),
                                     QRegularExpression::MultilineOption);
    QDirIterator files(base.path(), {QStringLiteral("*.h"), QStringLiteral("*.cpp")}, QDir::Files,
                       QDirIterator::Subdirectories);
    QStringList wrong;
    int arrows = 0;
    while (files.hasNext()) {
      const QFileInfo at(files.next());
      const QString folder = base.relativeFilePath(at.path());
      if (folder == QLatin1String(".")) continue; // errors, of which all know, and the program that ties all together
      QFile file(at.filePath());
      QVERIFY(file.open(QIODevice::ReadOnly));
      const QString text = QString::fromUtf8(file.readAll());
      for (auto found = include.globalMatch(text); found.hasNext(); ++arrows) {
        const QString to = found.next().captured(1);
        if (!floors.contains(folder) || !floors.contains(to) || floors.indexOf(to) > floors.indexOf(folder))
          wrong << QStringLiteral("%1 includes %2/").arg(base.relativeFilePath(at.filePath()), to);
      }
    }
    QVERIFY2(wrong.isEmpty(), qPrintable(wrong.join('\n')));
    QVERIFY2(arrows > 20, "the arrows are read");
  }
  void headersStayInside() {
    QDirIterator files(QStringLiteral(TROMB_SOURCE_DIR "/src"), {QStringLiteral("*.h")}, QDir::Files,
                       QDirIterator::Subdirectories);
    while (files.hasNext()) {
      QFile file(files.next());
      QVERIFY(file.open(QIODevice::ReadOnly));
      const QByteArray text = file.readAll();
      QVERIFY2(text.contains("SPDX-License-Identifier"), qPrintable(file.fileName()));
      if (file.fileName().endsWith(QLatin1String("/Av.h"))) continue;
      for (const char* header :
           {"<libav", "<libsw", "<zimg.h>", "<ebur128.h>", "<opencv2", "<dlib", "<glpk.h>", "/Av.h"})
        QVERIFY2(!text.contains(header),
                 qPrintable(file.fileName() + QLatin1String(" shows ") + QLatin1String(header)));
    }
  }
  void libraryHasNoForeignSymbols() {
    const QString symbols = tromb::test::run(
        QStringLiteral("nm"), {QStringLiteral("-A"), QStringLiteral("-C"), QStringLiteral("--undefined-only"),
                               QStringLiteral(TROMB_BINARY_DIR "/src/core/libtromb_core.a")});
    QVERIFY(symbols.contains(QLatin1String("avcodec_open2"))); // the listing is the right one
    // dlib, which these two use, brings words of its own for faults inside it.
    const QRegularExpression wrong(
        QStringLiteral(
            "^(?!.*(SubjectTracker|ShotLook)).* U (Q[A-Z]\\w*::|printf$|puts$|exit$|abort$|std::cout|std::cerr)"),
        QRegularExpression::MultilineOption);
    const auto found = wrong.match(symbols);
    QVERIFY2(!found.hasMatch(), qPrintable(found.captured()));
  }
};

QTEST_GUILESS_MAIN(TestLayers)
#include "tst_layers.moc"
