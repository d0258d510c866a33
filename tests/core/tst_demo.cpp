// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Measured.h"
#include "export/Exporter.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "preflight/Preflight.h"
#include "project/ProjectFile.h"
#include "render/Pictures.h"
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

  /// The outermost rows and columns of each shot's first frame, against what the source has where the plan says they
  /// lie: an edge that is mixed with black would be darker.
  static void bordersShowTheSource(const Plan& plan, const std::string& path) {
    const auto media = probe(path);
    auto reader = VideoReader::open(*media);
    for (const PlanPiece& piece : plan.pieces()) {
      const auto exported = toScreen(*reader->frameAt(piece.firstFrame), plan.canvas());
      const auto source = sourcePicture(piece.reading, piece.sourceFrame(0), {9999, 9999}, false);
      QVERIFY(exported);
      QVERIFY(source);
      const RectF w = piece.placements(0, plan.rate()).back().window;
      const SizeF picture = piece.shape.picture();
      const auto light = [](const ScreenPicture& from, double x, double y) {
        const int at = (std::clamp(int(y), 0, from.size.height - 1) * from.size.width +
                        std::clamp(int(x), 0, from.size.width - 1)) *
                       4;
        return 0.0722 * from.bytes[size_t(at)] + 0.7152 * from.bytes[size_t(at + 1)] +
               0.2126 * from.bytes[size_t(at + 2)];
      };
      for (int side = 0; side < 4; ++side) {
        double ours = 0;
        double theirs = 0;
        constexpr int kSteps = 600;
        for (int i = 0; i < kSteps; ++i) {
          const double along = (i + 0.5) / kSteps;
          // The middle of the outermost canvas pixel.
          const double u = side == 0 ? 0.5 / plan.canvas().width : side == 1 ? 1 - 0.5 / plan.canvas().width : along;
          const double v = side == 2 ? 0.5 / plan.canvas().height : side == 3 ? 1 - 0.5 / plan.canvas().height : along;
          ours += light(*exported, u * plan.canvas().width, v * plan.canvas().height);
          theirs += light(*source, (w.x + u * w.width) / picture.width * source->size.width,
                          (w.y + v * w.height) / picture.height * source->size.height);
        }
        QVERIFY2(std::abs(ours - theirs) / kSteps < 5, qPrintable(QStringLiteral("%1, side %2: %3 and %4")
                                                                      .arg(piece.shot.name.c_str())
                                                                      .arg(side)
                                                                      .arg(ours / kSteps)
                                                                      .arg(theirs / kSteps)));
      }
    }
  }

private slots:
  void initTestCase() {
    const QString made = test::demoFolder(m_folder.path());
    const auto project = loadProject((made + "/fennick-vale.tromb").toStdString());
    QVERIFY2(project, project ? "" : sentence(project.error()).c_str());
    m_project = *project;
    m_footage = probeFootage(m_project);
  }

  void everyDeliverableCanBeMade() {
    QVERIFY(m_project.sources.size() >= 12);
    QVERIFY(m_project.deliverables.size() == 5);
    for (const Deliverable& d : m_project.deliverables) QVERIFY(Plan::build(m_project, m_footage, d.id));
    for (const Finding& finding : preflight(m_project, m_footage))
      QVERIFY2(finding.severity != Severity::Error, finding.message.text().c_str());
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
      bordersShowTheSource(request.plans[i], (*files)[i].path);
    }
  }

  // Its sound, some of it nearly mono and quiet between loud moments, comes through AAC as it was: a proof that holds
  // every half second against the mix finds nothing.
  void soundSurvivesItsEncoding() {
    Project p = m_project;
    p.beds.clear();
    p.deliverables.resize(1);
    Deliverable& d = p.deliverables[0];
    d.framings.clear();
    d.canvas = {128, 72};
    d.rate = FrameRate();
    d.encoding = {};
    d.encoding.speed = "ultrafast";
    int heard = 0;
    for (const Source& source : p.sources) {
      const auto& media = m_footage.at(source.id);
      if (!media || !media->video || media->audio.empty()) continue;
      ++heard;
      p.shots = {newShot(p, source, *media)};
      p.shots[0].id = "h1";
      ExportRequest request;
      request.plans.push_back(*Plan::build(p, m_footage, d.id));
      request.folder = m_folder.filePath("heard").toStdString();
      request.overwrite = true;
      const auto files = exportPlans(request, {});
      QVERIFY2(files, files ? "" : sentence(files.error()).c_str());
      for (const ProofCheck& check : files->front().proof->checks)
        if (check.code.rfind("sound", 0) == 0)
          QVERIFY2(check.pass,
                   qPrintable(QString::fromStdString(source.id + " " + check.code + ": " + check.found.text())));
    }
    QVERIFY(heard >= 4);
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
      QVERIFY2(ours >= bars[side] - 1,
               qPrintable(QStringLiteral("side %1: %2, filter %3").arg(side).arg(ours).arg(bars[side])));
      QVERIFY2(ours <= bars[side] + 4,
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
