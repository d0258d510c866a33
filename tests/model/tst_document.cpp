// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Document.h"
#include "model/FootageImport.h"
#include "model/PosterService.h"
#include "model/SheetModel.h"
#include "support/TestMedia.h"

#include <QAbstractItemModelTester>
#include <QGuiApplication>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>
#include <random>

using namespace tromb;

class TestDocument : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;

  static MediaInfo media(const char* path, Size size = {1920, 1080}) {
    MediaInfo info;
    info.path = path;
    info.duration = Rational(10);
    info.video.emplace();
    info.video->stored = size;
    info.video->clock = FrameClock(FrameRate(), 250);
    return info;
  }
  static Deliverable shape(const Document& document, Size canvas) {
    Deliverable d = newDeliverable(document.project(), "", nullptr);
    d.canvas = canvas;
    return d;
  }

private slots:
  // A property over chance: any sequence of edits, undone and redone, gives exactly the states it passed through;
  // and the toolkit's own model tester watches every signal.
  void undoAndRedoReturnToEqualStates() {
    std::mt19937 dice(3);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    for (int round = 0; round < 12; ++round) {
      Document document;
      SheetModel model(document);
      const QAbstractItemModelTester tester(&model, QAbstractItemModelTester::FailureReportingMode::Fatal);
      std::vector<Project> states{document.project()};
      for (int step = 0; step < 80; ++step) {
        const int rows = model.rowCount();
        const int columns = model.columnCount();
        switch (upTo(10)) {
        case 0:
          document.addFootage({{media("/a.mp4"), {}}, {media("/b.mp4", {1280, 720}), {0, 8, 0, 8}}});
          break;
        case 1:
          document.addDeliverable(shape(document, {2 * (100 + upTo(900)), 2 * (100 + upTo(900))}));
          break;
        case 2:
          if (rows > 0) document.removeShots({upTo(rows), upTo(rows)});
          break;
        case 3:
          if (columns > 0) document.removeDeliverables({upTo(columns)});
          break;
        case 4:
          if (rows > 1) document.moveShot(upTo(rows), upTo(rows));
          break;
        case 5:
          if (columns > 1) document.moveDeliverable(upTo(columns), upTo(columns));
          break;
        case 6:
          if (rows > 0) document.renameShot(upTo(rows), QStringLiteral("name %1").arg(step));
          break;
        case 7:
          if (columns > 0) document.editDeliverable(upTo(columns), shape(document, {1080, 1080}));
          break;
        default:
          if (rows > 0 && columns > 0) {
            const CellPlace place{upTo(rows), upTo(columns)};
            const Cell cell = document.cell(place);
            document.setFramings({{place, upTo(2) ? slid(cell, upTo(400) - 200, upTo(400) - 200) : zoomed(cell, 1.1)}},
                                 QStringLiteral("x"));
          }
        }
        if (document.undoStack().count() == int(states.size())) states.push_back(document.project());
        QVERIFY(document.undoStack().index() == int(states.size()) - 1 && document.project() == states.back());
      }
      for (int i = int(states.size()) - 1; i >= 0; --i) {
        QVERIFY2(document.project() == states[size_t(i)], qPrintable(QString::number(i)));
        document.undoStack().undo();
      }
      for (const Project& state : states) {
        QVERIFY(document.project() == state);
        document.undoStack().redo();
      }
    }
  }

  void oneGestureIsOneStep() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}});
    document.addDeliverable(shape(document, {1080, 1920}));
    const int before = document.undoStack().count();
    const int gesture = document.newGesture();
    for (int i = 0; i < 20; ++i)
      document.setFramings({{{0, 0}, slid(document.cell({0, 0}), 5, 0)}}, QStringLiteral("slide"), gesture);
    QCOMPARE(document.undoStack().count(), before + 1);
    document.undoStack().undo();
    QVERIFY(document.project().deliverables[0].framings.empty());
    // Back where it began is no change at all.
    const Cell cell = document.cell({0, 0});
    const int back = document.newGesture();
    document.setFramings({{{0, 0}, slid(cell, 50, 0)}}, QStringLiteral("slide"), back);
    document.setFramings({{{0, 0}, cell.framing}}, QStringLiteral("slide"), back);
    QCOMPARE(document.project().deliverables[0].framingOf("h1"), cell.framing);
  }

  // One canvas pixel is one canvas pixel, and the edge is the end.
  void slidingIsExactAndStops() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}});
    document.addDeliverable(shape(document, {1080, 1920}));
    const Cell cell = document.cell({0, 0});
    const auto left = [&](const Framing& f) { return place(cell.shape, cell.canvas, f).front().window.x; };
    // The window holds 607.5 source pixels on 1080 canvas pixels: ten of these are 5.625 of those.
    QVERIFY(std::abs(left(cell.framing) - left(slid(cell, 10, 0)) - 5.625) < 1e-9);
    QVERIFY(std::abs(left(slid(cell, 1e6, 0))) < 1e-9);
    QVERIFY(std::abs(left(slid(cell, -1e6, 0)) - (1920 - 607.5)) < 1e-9);
    QCOMPARE(slid(cell, 0, 300).windows.front().y, 0.5); // nothing to slide to upwards
    QCOMPARE(zoomed(cell, 0.5).windows.front().zoom, 1.0);
    QVERIFY(std::abs(zoomed(cell, 1.5).windows.front().zoom - 1.5) < 1e-12);
  }
  void changingACanvasAndBackRestoresEverything() {
    Document document;
    document.addFootage({{media("/a.mp4"), {}}});
    document.addDeliverable(shape(document, {1080, 1920}));
    document.setFramings({{{0, 0}, slid(document.cell({0, 0}), 300, 0)}}, QStringLiteral("slide"));
    const auto placements = document.cell({0, 0}).placements;
    Deliverable wide = document.project().deliverables[0];
    const Deliverable tall = wide;
    wide.canvas = {2560, 1080};
    document.editDeliverable(0, wide);
    QVERIFY(document.cell({0, 0}).placements != placements);
    document.editDeliverable(0, tall);
    QVERIFY(document.cell({0, 0}).placements == placements);
  }

  void cellsSayWhatFallsShort() {
    Document document;
    SheetModel model(document);
    document.addFootage({{media("/a.mp4"), {}}});
    document.addDeliverable(shape(document, {1080, 1920}));
    QCOMPARE(model.data(model.index(0, 0), Qt::DisplayRole).toString(), QStringLiteral("soft 0.56"));
    QCOMPARE(model.deliverableLines(0).last(), QStringLiteral("1 soft"));
    Framing fit;
    (void)framingByName("fit", fit);
    document.setFramings({{{0, 0}, fit}}, QStringLiteral("fit"));
    QCOMPARE(model.data(model.index(0, 0), Qt::DisplayRole).toString(), QStringLiteral("bars 68 %"));
    QVERIFY(model.data(model.index(0, 0), Qt::AccessibleTextRole).toString().contains(QLatin1String("whole picture")));
    document.setMedia("s1", fail(ErrorCode::Missing, "the file is not there", "/a.mp4"));
    QCOMPARE(document.cell({0, 0}).state, Cell::State::Unusable);
    QCOMPARE(model.shotLines(0).last(), QStringLiteral("file missing"));
    QCOMPARE(document.complaints(), 1);
  }

  void bringingInGoesOnPastBadFiles() {
    const QString clip = m_folder.filePath("clip.mp4");
    test::writeClip(clip.toStdString(), {640, 360}, FrameRate(), 10,
                    [](int n, int x, int y) { return y < 40 || y >= 320 ? test::Yuv{} : test::texture(n, x, y); });
    QFile text(m_folder.filePath("a letter.txt"));
    QVERIFY(text.open(QIODevice::WriteOnly));
    text.write("words");
    text.close();
    Document document;
    FootageImport import(document);
    QSignalSpy finished(&import, &FootageImport::finished);
    QSignalSpy refused(&import, &FootageImport::refused);
    import.bringIn({m_folder.path()});
    QVERIFY(finished.wait(20000));
    QCOMPARE(document.project().shots.size(), size_t(1));
    QCOMPARE(document.project().sources[0].bars, (Bars{0, 42, 0, 42}));
    QVERIFY(refused.size() == 1 && refused[0][0].toStringList().first().contains(QLatin1String("a letter.txt")));
    import.bringIn({clip}); // a file already there is recognised
    QVERIFY(finished.wait(20000));
    QCOMPARE(document.project().shots.size(), size_t(1));
    document.undoStack().undo();
    QVERIFY(document.project() == Project{});
    document.undoStack().redo();

    PosterService posters(document);
    QSignalSpy ready(&posters, &PosterService::ready);
    QVERIFY(!posters.poster(0) && ready.wait(20000));
    const Poster* poster = posters.poster(0);
    QVERIFY(poster && poster->levels.front().size() == QSize(640, 276)); // without its bars
    QVERIFY(poster->atLeast(100).width() >= 100 && poster->atLeast(100).width() < 200);

    // Saved, reopened, the same; a save that fails keeps the document unsaved and the file whole.
    const QString path = m_folder.filePath("p.tromb");
    QVERIFY(document.save(path).has_value() && !document.modified());
    const Project saved = document.project();
    document.renameShot(0, QStringLiteral("other"));
    QVERIFY(document.modified() && !document.save(QStringLiteral("/proc/p.tromb")).has_value() && document.modified());
    QVERIFY(document.load(path).has_value() && document.project() == saved && !document.modified());
  }
};

QTEST_MAIN(TestDocument)
#include "tst_document.moc"
