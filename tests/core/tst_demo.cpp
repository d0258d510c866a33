// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Measured.h"
#include "export/Exporter.h"
#include "preflight/Preflight.h"
#include "project/ProjectFile.h"
#include "render/Plan.h"
#include "support/TestMedia.h"

#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>

using namespace tromb;
using test::run;

/// The sample footage and its project, drawn anew.
class TestDemo : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  Project m_project;
  Footage m_footage;

private slots:
  void initTestCase() {
    (void)run(QStringLiteral(TROMB_BINARY_DIR "/demo/tromb-demo"), {m_folder.path()});
    const auto project = loadProject(m_folder.filePath("fennick-vale.tromb").toStdString());
    QVERIFY2(project, project ? "" : sentence(project.error()).c_str());
    m_project = *project;
    m_footage = probeFootage(m_project);
  }

  void everyDeliverableCanBeMade() {
    QVERIFY(m_project.sources.size() >= 12 && m_project.deliverables.size() == 5);
    for (const Deliverable& d : m_project.deliverables) QVERIFY(Plan::build(m_project, m_footage, d.id));
    for (const Finding& finding : preflight(m_project, m_footage))
      QVERIFY2(finding.severity != Severity::Error, finding.message.c_str());
  }

  // Every shot fills every canvas (of half the size, for time): by the plan at every frame, and as FFmpeg's bar
  // detection sees each frame of the finished files.
  void noFrameOfAFillHasBars() {
    Project p = m_project;
    ExportRequest request;
    for (Deliverable& d : p.deliverables) {
      d.framings.clear();
      d.canvas = {d.canvas.width / 4 * 2, d.canvas.height / 4 * 2};
      d.encoding = {};
      d.encoding.speed = "ultrafast";
      request.plans.push_back(*Plan::build(p, m_footage, d.id));
      for (const PlanPiece& piece : request.plans.back().pieces())
        for (int64_t n = 0; n < piece.frameCount; ++n)
          QCOMPARE(uncoveredPercent(d.canvas, piece.placements(n, d.rate)), 0.0);
    }
    request.folder = m_folder.filePath("fills").toStdString();
    request.proof = false;
    const auto files = exportPlans(request, {});
    QVERIFY2(files, files ? "" : sentence(files.error()).c_str());
    static const QRegularExpression crop(QStringLiteral("crop=(\\d+:\\d+:\\d+:\\d+)"));
    for (size_t i = 0; i < files->size(); ++i) {
      const Size canvas = p.deliverables[i].canvas;
      const QString whole = QStringLiteral("%1:%2:0:0").arg(canvas.width).arg(canvas.height);
      const QString said =
          run(QStringLiteral("ffmpeg"), {"-i", QString::fromStdString((*files)[i].path), "-vf",
                                         "cropdetect=round=2:reset=1:limit=18:skip=0", "-f", "null", "-"});
      int64_t frames = 0;
      for (auto each = crop.globalMatch(said); each.hasNext(); ++frames) QCOMPARE(each.next().captured(1), whole);
      QVERIFY(frames >= request.plans[i].frameCount() - 2);
    }
  }

  // Bars and scan of each moving source as FFmpeg's own filters tell them, run by its tool over the whole file.
  void measuresAgreeWithTheFilters_data() {
    QTest::addColumn<QString>("id");
    for (const Source& source : m_project.sources)
      if (const auto& media = m_footage.at(source.id); media && media->kind == MediaKind::Video)
        QTest::newRow(sourceName(source).c_str()) << QString::fromStdString(source.id);
  }
  void measuresAgreeWithTheFilters() {
    QFETCH(QString, id);
    const MediaInfo& media = *m_footage.at(id.toStdString());
    const auto measured = measurePictures(media);
    QVERIFY(measured.has_value());
    const QString said =
        run(QStringLiteral("ffmpeg"), {"-noautorotate", "-i", QString::fromStdString(media.path), "-vf",
                                       "cropdetect=round=2:reset=0:limit=24:skip=0,idet", "-f", "null", "-"});
    static const QRegularExpression crop(QStringLiteral("crop=(\\d+):(\\d+):(\\d+):(\\d+)"));
    QRegularExpressionMatch last;
    for (auto each = crop.globalMatch(said); each.hasNext();) last = each.next();
    QVERIFY(last.hasMatch());
    const Size stored = media.video->stored;
    const int left = last.captured(3).toInt();
    const int top = last.captured(4).toInt();
    const int bars[] = {left, top, stored.width - left - last.captured(1).toInt(),
                        stored.height - top - last.captured(2).toInt()};
    // Ours are of the upright picture, and leave a soft edge out: a few lines more, never less than what is black.
    const Bars& b = measured->bars;
    const int turn = media.video->rotation / 90;
    const int upright[] = {b.left, b.top, b.right, b.bottom};
    for (int side = 0; side < 4; ++side) {
      const int ours = upright[(side + turn) % 4];
      QVERIFY2(ours >= bars[side] - 1 && ours <= bars[side] + 4,
               qPrintable(QStringLiteral("side %1: %2, filter %3").arg(side).arg(ours).arg(bars[side])));
    }
    const auto count = [&said](const QString& kind, const QString& word) {
      const QString line = said.mid(said.indexOf(kind + QLatin1String(" frame detection")));
      return line.mid(line.indexOf(word) + word.size()).simplified().section(' ', 0, 0).toInt();
    };
    const int top_ = count(QStringLiteral("Multi"), QStringLiteral("TFF:"));
    const int bottom = count(QStringLiteral("Multi"), QStringLiteral("BFF:"));
    const int progressive = count(QStringLiteral("Multi"), QStringLiteral("Progressive:"));
    if (measured->scan) {
      const Scan theirs = progressive >= top_ + bottom ? Scan::Progressive
                          : top_ >= bottom             ? Scan::TopFieldFirst
                                                       : Scan::BottomFieldFirst;
      QCOMPARE(*measured->scan, theirs);
    } else {
      // Left open where the filter, too, can judge hardly any single picture, and what little it says is what the file
      // is labelled as, which then stands.
      QVERIFY(count(QStringLiteral("Single"), QStringLiteral("Undetermined:")) >
              media.video->clock.frameCount() * 8 / 10);
      QCOMPARE(media.video->scan == Scan::Progressive, top_ + bottom == 0);
    }
  }
};

QTEST_GUILESS_MAIN(TestDemo)
#include "tst_demo.moc"
