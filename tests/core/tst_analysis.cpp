// SPDX-License-Identifier: GPL-3.0-or-later
// What is measured from pictures: cuts, real scan.
#include "analysis/CutFinder.h"
#include "analysis/Measured.h"
#include "media/read/Probe.h"
#include "support/TestMedia.h"

#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace tromb;
using test::run;
using test::Yuv;

class TestAnalysis : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string path(const char* name) const {
    return m_folder.filePath(QLatin1String(name)).toStdString();
  }

  /// One of several scenes, each with its own tones and something that moves through it; quick ones are pans.
  static Yuv scene(int which, int n, int x, int y) {
    const int shift = which % 3 == 2 ? n * 9 : n * 2;
    const double wave =
        std::sin((x + shift) * (0.02 + 0.013 * which) + which * 2) * 38 + std::cos((y * 1.3 - which * 40) * 0.03) * 30;
    const bool balloon = std::hypot(x - 40 - n * 3 % 240, y - 60 - which * 9) < 22;
    const int luma = std::clamp(int(70 + which * 23 % 110 + wave + (balloon ? 45 : 0)), 16, 235);
    return {luma, 110 + which * 17 % 40, 150 - which * 11 % 45};
  }
  static Yuv mixed(const Yuv& a, const Yuv& b, double share) {
    const auto mix = [share](int p, int q) { return int(std::lround(p + (q - p) * share)); };
    return {mix(a.y, b.y), mix(a.u, b.u), mix(a.v, b.v)};
  }

private slots:
  // A finished edit with hard cuts at known frames, a shot of four frames among them, a dissolve, a flash, fast pans
  // and noise-free and noisy encoding: every cut to the frame, no false one, and the dissolve doubtful.
  void cutsAreFoundToTheFrame_data() {
    QTest::addColumn<int>("crf");
    QTest::addColumn<bool>("dissolves");
    QTest::newRow("cuts alone") << 16 << false;
    QTest::newRow("with a dissolve") << 16 << true;
    QTest::newRow("coarse encoding") << 38 << true;
  }
  void cutsAreFoundToTheFrame() {
    QFETCH(int, crf);
    QFETCH(bool, dissolves);
    const std::vector<int> cuts{30, 34, 71, 150, 171, 260};
    constexpr int kFrames = 300;
    constexpr int kFirst = 200; // of the dissolve, 20 frames long
    test::writeClip(path("edit.mp4"), {160, 90}, FrameRate(), kFrames, [&](int n, int x, int y) {
      int which = 0;
      for (const int cut : cuts) which += n >= cut ? 1 : 0;
      x *= 2;
      y *= 2;
      if (n == 110 || n == 111) return Yuv{230, 128, 128}; // a flash is no cut
      if (!dissolves || n < kFirst) return scene(which, n, x, y);
      const double share = std::clamp((n - kFirst) / 20.0, 0.0, 1.0);
      return n >= 260 ? scene(which, n, x, y) : mixed(scene(which, n, x, y), scene(9, n, x, y), share);
    });
    const QString coarse = m_folder.filePath("coarse.mp4");
    (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", m_folder.filePath("edit.mp4"), "-crf",
                                         QString::number(crf), "-vf", "noise=alls=8:allf=t", coarse});
    const auto media = probe(coarse.toStdString());
    double last = 0;
    const auto samples =
        readCutSamples(readAsStated(*media), 0, kFrames, {}, [&](double fraction) { last = fraction; });
    QVERIFY(samples.has_value());
    QVERIFY(samples->size() == size_t(kFrames));
    QVERIFY(last == 1);
    std::vector<int> hard;
    std::vector<FoundCut> doubtful;
    for (const FoundCut& cut : findCuts(*samples))
      if (cut.dissolve)
        doubtful.push_back(cut);
      else
        hard.push_back(int(cut.frame));
    QString words;
    for (const int cut : hard) words += QString::number(cut) + ' ';
    QVERIFY2(hard == cuts, qPrintable(words));
    QCOMPARE(doubtful.size(), size_t(dissolves ? 1 : 0));
    if (dissolves)
      QVERIFY2(std::abs(int(doubtful[0].frame) - (kFirst + 10)) <= 5, qPrintable(QString::number(doubtful[0].frame)));
    // A stretch alone gives the cuts inside it; a threshold beyond all changes gives none.
    const auto part = readCutSamples(readAsStated(*media), 40, 160);
    QCOMPARE(findCuts(*part).size(), size_t(2));
    QVERIFY(findCuts(*samples, 99).empty());
    std::stop_source stopped;
    stopped.request_stop();
    QCOMPARE(readCutSamples(readAsStated(*media), 0, kFrames, stopped.get_token()).error().code, ErrorCode::Cancelled);
  }

  // Dissolves of the usual lengths, and fades to and from black, are doubtful and no cuts; a slow change of light and a
  // pan are neither.
  void whatChangesSlowlyIsNoCut_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<int>("length");
    QTest::addColumn<int>("doubtful");
    QTest::newRow("dissolve of 12") << "dissolve" << 12 << 1;
    QTest::newRow("dissolve of 25") << "dissolve" << 25 << 1;
    QTest::newRow("dissolve of 36") << "dissolve" << 36 << 1;
    QTest::newRow("fade to black") << "black" << 25 << 1;
    QTest::newRow("pan") << "pan" << 0 << 0;
    QTest::newRow("fast pan") << "fast pan" << 0 << 0;
    QTest::newRow("still") << "still" << 0 << 0;
    QTest::newRow("noise") << "noise" << 0 << 0;
  }
  void whatChangesSlowlyIsNoCut() {
    QFETCH(QString, kind);
    QFETCH(int, length);
    QFETCH(int, doubtful);
    const auto picture = [](int which, int n, int x, int y) { return scene(which, n, x * 2, y * 2); };
    test::writeClip(path("slow.mp4"), {160, 90}, FrameRate(), 150, [&](int n, int x, int y) {
      if (kind == QLatin1String("still")) return picture(1, 0, x, y);
      if (kind == QLatin1String("noise"))
        return Yuv{60 + int((uint32_t(n * 7919 + x * 104729 + y * 1299709) * 2654435761U) >> 25), 128, 128};
      if (kind.endsWith(QLatin1String("pan")))
        return picture(3, n * (kind.startsWith(QLatin1String("fast")) ? 6 : 1), x, y);
      const double share = std::clamp((n - 60) / double(length), 0.0, 1.0);
      return mixed(picture(1, n, x, y), kind == QLatin1String("black") ? Yuv{16, 128, 128} : picture(5, n, x, y),
                   share);
    });
    const auto samples = readCutSamples(readAsStated(*probe(path("slow.mp4"))), 0, 150);
    QVERIFY(samples.has_value());
    int hard = 0;
    int found = 0;
    for (const FoundCut& cut : findCuts(*samples)) {
      if (!cut.dissolve) ++hard;
      if (cut.dissolve) ++found;
      if (cut.dissolve && doubtful == 1)
        QVERIFY2(cut.frame >= 55 && cut.frame <= 65 + length, qPrintable(QString::number(cut.frame)));
    }
    QCOMPARE(hard, 0);
    QCOMPARE(found, doubtful);
  }

  // The real scan, by FFmpeg's idet filter in our own reading, against its own words on the same file: footage made of
  // fields whatever its label, and a progressive one that is mislabelled.
  void scanIsMeasuredNotBelieved_data() {
    QTest::addColumn<QString>("filter");
    QTest::addColumn<QStringList>("label");
    QTest::addColumn<Scan>("scan");
    QTest::addColumn<QString>("word");
    QTest::newRow("top field first") << "tinterlace=interleave_top" << QStringList{"-flags", "+ildct+ilme", "-top", "1"}
                                     << Scan::TopFieldFirst << "TFF";
    QTest::newRow("bottom field first") << "tinterlace=interleave_bottom" << QStringList{} << Scan::BottomFieldFirst
                                        << "BFF";
    QTest::newRow("progressive, labelled interlaced")
        << "null" << QStringList{"-flags", "+ildct+ilme", "-top", "1"} << Scan::Progressive << "Progressive";
  }
  void scanIsMeasuredNotBelieved() {
    QFETCH(QString, filter);
    QFETCH(QStringList, label);
    QFETCH(Scan, scan);
    QFETCH(QString, word);
    const QString file = m_folder.filePath("fields.mp4");
    (void)run(QStringLiteral("ffmpeg"),
              QStringList{"-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=s=720x576:r=50:d=3,scroll=h=0.013", "-vf",
                          filter, "-c:v", "libx264", "-crf", "12"} +
                  label + QStringList{file});
    const QString said = run(QStringLiteral("ffmpeg"), {"-i", file, "-vf", "idet", "-f", "null", "-"});
    const QString line = said.mid(said.indexOf(QLatin1String("Multi frame detection")));
    int most = -1;
    QString winner;
    for (const QString& each : {QStringLiteral("TFF"), QStringLiteral("BFF"), QStringLiteral("Progressive")}) {
      const int count = line.mid(line.indexOf(each + ':') + each.size() + 1).trimmed().section(' ', 0, 0).toInt();
      if (count > most) winner = each;
      most = std::max(most, count);
    }
    QCOMPARE(winner, word);
    const auto measured = measurePictures(*probe(file.toStdString()));
    QVERIFY(measured);
    QVERIFY(measured->scan);
    QCOMPARE(*measured->scan, scan);
  }

  // Where something moves is told apart from where nothing does: one half of a source stands still.
  void motionIsMeasuredWhereItIs() {
    const QString file = m_folder.filePath("half.mp4");
    (void)run(QStringLiteral("ffmpeg"),
              {"-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=s=320x180:r=25:d=8,scroll=h=0.05", "-vf",
               "loop=loop=-1:size=1:start=100", "-frames:v", "200", "-g", "10", "-c:v", "libx264", file});
    const auto measured = measurePictures(*probe(file.toStdString()));
    QVERIFY(measured);
    QCOMPARE_GT(measured->motionIn(0, 3.5), 20.0);
    QCOMPARE_LT(measured->motionIn(4.5, 8), 2.0);
    QCOMPARE(measured->motionIn(7.9, 7.95), measured->motionIn(7, 8)); // the nearest, where there is none between
  }

  void whatWasMeasuredIsKept() {
    const MeasuredStore store(path("store"));
    QVERIFY(!store.find("3-ab"));
    Measured measured;
    measured.bars = {0, 140, 0, 138};
    measured.scan = Scan::BottomFieldFirst;
    measured.loudness = Loudness{-23.1, -1.5, 96'000};
    measured.motion = {{0.5, 12.25}, {3, 0}};
    store.keep("3-ab", measured);
    const auto found = store.find("3-ab");
    QVERIFY(found);
    QVERIFY(found->bars == measured.bars);
    QVERIFY(found->scan == measured.scan);
    QVERIFY(found->loudness);
    QVERIFY(found->loudness->integratedLufs == -23.1);
    QVERIFY(found->motion == measured.motion);
    const QDir kept(m_folder.filePath("store"));
    QFile file(kept.filePath(kept.entryList(QDir::Files).value(0)));
    QVERIFY(file.open(QIODevice::WriteOnly));
    QVERIFY(file.write("{\"version\":1,\"bars\":3}") > 0);
    file.close();
    QVERIFY(!store.find("3-ab")); // damaged: measured again
    // Whatever a project names, nothing is written outside the store.
    QDir(m_folder.path()).mkpath(QStringLiteral("x"));
    store.keep("../x/settings", measured);
    QVERIFY(store.find("../x/settings").has_value());
    QVERIFY(QDir(m_folder.filePath("x")).isEmpty());
  }
};

QTEST_GUILESS_MAIN(TestAnalysis)
#include "tst_analysis.moc"
