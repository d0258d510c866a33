// SPDX-License-Identifier: GPL-3.0-or-later
// A proof sees what is wrong with a file, and nothing where nothing is.
#include "export/Exporter.h"
#include "export/Judge.h"
#include "export/ProofPage.h"
#include "media/Av.h"
#include "media/read/AudioReader.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "media/write/OutputFile.h"
#include "render/Pictures.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <numbers>
#include <random>
#include <thread>

using namespace tromb;
using test::run;

class TestProof : public QObject {
  Q_OBJECT

  static constexpr int kFrames = 100; ///< four seconds at 25
  /// How FFmpeg's tool makes the same file once more, but for its pictures or its sound.
  const QStringList kPictureCopied =
      QString("-c:v libx264 -preset veryfast -profile:v high -level 3 -g 50 -b:v 3M -maxrate 4.5M -bufsize 4.5M "
              "-color_primaries "
              "bt709 -color_trc bt709 -colorspace bt709 -color_range tv -c:a copy -movflags +faststart")
          .split(' ');
  const QStringList kSoundCopied = QString("-c:v copy -c:a aac -b:a 192k -movflags +faststart").split(' ');
  QTemporaryDir m_folder;
  Project m_project;
  std::optional<Plan> m_plan;
  std::optional<TraceFile> m_traces;
  std::vector<std::pair<QString, QStringList>> m_planted; ///< every planted fault, and what was found for it
  int m_clean = 0; ///< files that are as they should be, and of which nothing is said

  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] std::string path(const QString& name) const { return at(name).toStdString(); }

  /// Two shots that pan over fine texture, one of them dark, with another voice on each side.
  void writeSource(const std::string& file) {
    Encoding encoding;
    encoding.rateControl = RateControl::ConstantQuality;
    encoding.crf = 6;
    encoding.speed = "ultrafast";
    const Size size{640, 360};
    auto out = OutputFile::create(file, {{size, FrameRate(), {}}, resolved(encoding, {size, FrameRate(), {}})},
                                  OutputFile::Holds::Both);
    std::mt19937 dice(7);
    std::normal_distribution<float> hiss(0, 0.02F);
    const double tau = 2 * std::numbers::pi;
    for (int n = 0; n < kFrames; ++n) {
      QVERIFY(out->addPicture(test::painted(size, n, [](int frame, int x, int y) {
        const bool second = frame >= 60;
        test::Yuv c = test::texture(0, x + (second ? -3 : 5) * frame + 900, y + (second ? frame : 0) + 40);
        const double blob = std::exp(-(std::pow(x - 320 - 2.0 * frame, 2) + std::pow(y - 180.0, 2)) / 4000);
        c.y = std::clamp(int(c.y * (second ? 0.55 : 1) + blob * 60), 16, 235);
        return c;
      })));
      std::vector<float> sound;
      for (int i = 0; i < kSoundRate / 25; ++i) {
        const double t = n / 25.0 + double(i) / kSoundRate;
        sound.push_back(float((0.25 + 0.2 * std::sin(tau * 2.3 * t)) * std::sin(tau * (220 + 40 * std::sin(t)) * t)) +
                        hiss(dice));
        sound.push_back(float((0.22 + 0.2 * std::sin(tau * 3.1 * t + 1)) * std::sin(tau * (523 - 30 * t) * t)) +
                        hiss(dice));
      }
      QVERIFY(out->addSound(sound));
    }
    QVERIFY(out->finish());
  }

  [[nodiscard]] static QStringList failing(const ProofReport& report) {
    QStringList codes;
    for (const ProofCheck& check : report.checks)
      if (!check.pass) codes << QString::fromStdString(check.code);
    return codes;
  }

private slots:
  void initTestCase() {
    writeSource(path("source.mp4"));
    m_project = test::project({path("source.mp4")}, {{"Story", {360, 640}, Rational(25), "fill", "veryfast"}});
    m_project.deliverables.front().encoding.bitRate = 3'000'000;
    m_plan = *Plan::build(m_project, probeFootage(m_project), "d1");
    const auto files = test::exported(m_project, path("out"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    QCOMPARE(failing(*files->front().proof), QStringList());
    QVERIFY(QFile::copy(QString::fromStdString(files->front().path), at("good.mp4")));
    std::vector<SourceLoss> losses;
    auto traces = composeTraces(*m_plan, m_folder.path().toStdString(), losses);
    QVERIFY(traces.has_value());
    QVERIFY(losses.empty());
    QCOMPARE(traces->frameCount(), int64_t(kFrames));
    m_traces.emplace(std::move(*traces));
  }

  // A cell is the mean of its samples, however many lines it has (chroma of the largest canvas: 341).
  void cellsAreMeans_data() {
    QTest::addColumn<QSize>("size");
    QTest::newRow("small") << QSize(96, 54);
    QTest::newRow("uneven") << QSize(854, 478);
    QTest::newRow("the tallest") << QSize(64, 16384);
  }
  void cellsAreMeans() {
    QFETCH(QSize, size);
    const Frame picture = test::painted({size.width(), size.height()}, 0, [](int, int x, int y) {
      return test::Yuv{x % 7 ? 255 : 16, y % 3 ? 255 : 1, 240 - y % 5};
    });
    const PictureTrace::Shape shape({size.width(), size.height()});
    std::vector<uint8_t> means;
    for (int p = 0; p < 3; ++p) {
      const Size cells = p ? shape.chroma : shape.luma;
      const QSize from = p ? size / 2 : size;
      for (int cy = 0; cy < cells.height; ++cy)
        for (int cx = 0; cx < cells.width; ++cx) {
          double sum = 0;
          int count = 0;
          for (int y = cy * from.height() / cells.height; y < (cy + 1) * from.height() / cells.height; ++y)
            for (int x = cx * from.width() / cells.width; x < (cx + 1) * from.width() / cells.width; ++x, ++count)
              sum += picture->data[p][y * picture->linesize[p] + x];
          means.push_back(uint8_t(std::lround(sum / count)));
        }
    }
    QCOMPARE(PictureTrace::of(picture, shape, 0).cells, means);
  }

  // Composed once more, it is held against the same.
  void theSourcesGiveTheSameProof() {
    const auto report = proofFile({path("good.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY(report.has_value());
    QCOMPARE(failing(*report), QStringList());
    QVERIFY(std::all_of(report->checks.begin(), report->checks.end(), [](const ProofCheck& c) { return c.made; }));
  }
  // Without a project it says which checks it could not make.
  void withoutAProjectItSaysWhatItLeavesOut() {
    const auto report = proofFile({path("good.mp4"), nullptr, nullptr, {}});
    QVERIFY(report);
    QVERIFY(report->passed());
    QStringList left;
    for (const ProofCheck& check : report->checks)
      if (!check.made) left << QString::fromStdString(check.code);
    QCOMPARE(left, (QStringList{"order", "content", "position", "sharpness", "edges", "sound-lateness", "sound-content",
                                "sound-level"}));
  }

  // What a careless tool, or a fault of our own, may do to a file.
  void plantedFaultsAreSeen_data() {
    QTest::addColumn<QStringList>("how");
    QTest::addColumn<QString>("code");
    const auto picture = [](const char* name, const char* filter, const char* code) {
      QTest::newRow(name) << QStringList{"-vf", filter} << code;
    };
    const auto sound = [](const char* name, const char* filter, const char* code) {
      QTest::newRow(name) << QStringList{"-af", filter} << code;
    };
    picture("two pictures swapped", "shuffleframes=0 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 22 21 23 24",
            "order");
    picture("one picture left out", "select=not(eq(n\\,40)),setpts=N/25/TB,tpad=stop=1:stop_mode=clone", "order");
    picture("one picture twice", "loop=loop=1:size=1:start=30,setpts=N/25/TB,trim=end_frame=100", "order");
    picture("all a picture late", "tpad=start=1:start_mode=clone,trim=end_frame=100", "order");
    picture("a frozen second", "select=not(between(n\\,21\\,44)),fps=25", "order");
    picture("run backwards", "reverse", "order");
    picture("a black second", "drawbox=0:0:iw:ih:black:fill:enable=between(n\\,30\\,54)", "content");
    picture("one black picture", "drawbox=0:0:iw:ih:black:fill:enable=eq(n\\,30)", "content");
    picture("thin bars on three pictures", "drawbox=0:0:iw:2:black:fill:enable=between(n\\,30\\,32)", "edges");
    picture("a bar at the right", "drawbox=iw-4:0:4:ih:black:fill", "edges");
    picture("half the sharpness", "scale=iw/2:ih/2,scale=360:640", "sharpness");
    picture("a wrong gamma", "eq=gamma=1.12", "content");
    picture("less contrast", "eq=contrast=0.9", "content");
    picture("mirrored", "hflip", "position");
    picture("upside down", "vflip", "content");
    picture("four pixels aside", "crop=356:640:0:0,pad=360:640:4:0:color=gray,fillborders=left=4:mode=smear",
            "position");
    picture("another matrix", "colormatrix=bt709:bt601", "content");
    picture("full for limited", "scale=in_range=limited:out_range=full,setrange=limited", "content");
    picture("other colours", "hue=h=20", "content");
    picture("pale colours", "hue=s=0.7", "content");
    picture("a patch over it", "drawbox=100:200:60:60:gray:fill:enable=between(n\\,10\\,12)", "content");
    picture("zoomed a little", "scale=378:672,crop=360:640", "content");
    sound("80 ms late", "adelay=80:all=1,atrim=end=4", "sound-lateness");
    sound("40 ms early", "atrim=start=0.04,asetpts=N/SR/TB,apad=whole_dur=4", "sound-lateness");
    sound("right is silent", "pan=stereo|c0=c0|c1=0*c0", "sound-content");
    sound("left in both", "pan=stereo|c0=c0|c1=c0", "sound-content");
    sound("sides swapped", "pan=stereo|c0=c1|c1=c0", "sound-content");
    sound("one side turned over", "pan=stereo|c0=c0|c1=-1*c1", "sound-content");
    sound("two seconds of nothing", "volume=0:enable=between(t\\,1\\,3)", "sound-content");
    sound("clipped, and as loud as before", "volume=16dB,aformat=s16,volume=-11.4dB", "sound-content");
    sound("3 dB softer", "volume=-3dB", "sound-level");
    sound("another sound",
          "aevalsrc=0.3*sin(700*t)|0.3*sin(900*t):d=4,anull[b];[in][b]amix=inputs=2:weights=0 1:normalize=0",
          "sound-content");
  }
  void plantedFaultsAreSeen() {
    if (test::leftOut()) return;
    QFETCH(QStringList, how);
    QFETCH(QString, code);
    const bool sound = how.contains(QStringLiteral("-af"));
    (void)run(QStringLiteral("ffmpeg"), QStringList{"-v", "error", "-y", "-i", at("good.mp4")} + how +
                                            (sound ? kSoundCopied : kPictureCopied) + QStringList{at("spoiled.mp4")});
    const auto report = proofFile({path("spoiled.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY2(report.has_value(), report ? "" : sentence(report.error()).c_str());
    const QStringList codes = failing(*report);
    QString found;
    for (const ProofCheck& check : report->checks)
      if (!check.pass) found += QString::fromStdString(check.code + ": " + check.found.text() + "; ");
    QVERIFY2(codes.contains(code), qPrintable(found));
    m_planted.emplace_back(QTest::currentDataTag(), codes);
  }

  // What was found lies where it is on the file's time.
  void marksLieAtTheirTime_data() {
    QTest::addColumn<QStringList>("how");
    QTest::addColumn<QString>("code");
    QTest::addColumn<double>("from"); // seconds
    QTest::addColumn<double>("to");
    const auto row = [](const char* name, const char* kind, const char* filter, const char* code, double from,
                        double to) {
      QTest::newRow(name) << QStringList{kind, filter} << code << from << to;
    };
    row("one black picture", "-vf", "drawbox=0:0:iw:ih:black:fill:enable=eq(n\\,30)", "content", 1.2, 1.2);
    row("a black second", "-vf", "drawbox=0:0:iw:ih:black:fill:enable=between(n\\,30\\,54)", "content", 1.2, 2.16);
    row("bars on three", "-vf", "drawbox=0:0:iw:2:black:fill:enable=between(n\\,30\\,32)", "edges", 1.2, 1.28);
    row("two swapped", "-vf", "shuffleframes=0 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 22 21 23 24", "order",
        0.84, 3.9);
    row("nothing heard", "-af", "volume=0:enable=between(t\\,1\\,3)", "sound-content", 0.5, 3);
  }
  void marksLieAtTheirTime() {
    QFETCH(QStringList, how);
    QFETCH(QString, code);
    QFETCH(double, from);
    QFETCH(double, to);
    (void)run(QStringLiteral("ffmpeg"), QStringList{"-v", "error", "-y", "-i", at("good.mp4")} + how +
                                            (how.front() == "-af" ? kSoundCopied : kPictureCopied) +
                                            QStringList{at("marked.mp4")});
    const auto report = proofFile({path("marked.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY(report);
    std::vector<double> times;
    for (const ProofCurves::Mark& mark : report->curves.marks)
      if (QString::fromStdString(mark.code) == code) times.push_back(mark.at);
    QVERIFY(!times.empty());
    QVERIFY2(times.front() >= from - 0.001, std::to_string(times.front()).c_str());
    QVERIFY2(times.front() <= from + 0.521, std::to_string(times.front()).c_str()); // sound is judged by half seconds
    QVERIFY2(times.back() <= to + 0.001, std::to_string(times.back()).c_str());
  }

  // As a page: what was found is shown in pictures, the file's first and then the plan's; nothing is fetched from
  // elsewhere, and what a name holds is text. FFmpeg reads the pictures.
  void aPageShowsWhatWasFound() {
    (void)run(QStringLiteral("ffmpeg"), QStringList{"-v", "error", "-y", "-i", at("good.mp4"), "-vf",
                                                    "drawbox=0:0:iw:ih:black:fill:enable=eq(n\\,30)"} +
                                            kPictureCopied + QStringList{at("<b>&.mp4")});
    const auto report = proofFile({path("<b>&.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY(report);
    const auto page = proofPage({path("<b>&.mp4"), &*report, &*m_plan});
    QVERIFY2(page.has_value(), page ? "" : sentence(page.error()).c_str());
    const QString html = QString::fromStdString(*page);
    QVERIFY(html.contains("<title>&lt;b&gt;&amp;.mp4</title>"));
    QVERIFY(!html.contains("<b>"));
    QVERIFY(!html.contains("://"));
    QVERIFY2(html.contains("frame 30,"), "the black picture");
    const QStringList images = html.split("base64,").mid(1);
    std::vector<int> greys;
    for (const QString& image : images) {
      QFile file(at("image.jpg"));
      QVERIFY(file.open(QIODevice::WriteOnly));
      file.write(QByteArray::fromBase64(image.section('"', 0, 0).toLatin1()));
      file.close();
      QCOMPARE(
          run("ffprobe", {"-v", "error", "-show_entries", "stream=width,height", "-of", "csv=p=0", at("image.jpg")})
              .trimmed(),
          QStringLiteral("270,480"));
      (void)run("ffmpeg", {"-v", "error", "-y", "-i", at("image.jpg"), "-vf", "scale=1:1:flags=area,format=gray", "-f",
                           "rawvideo", at("grey")});
      QFile grey(at("grey"));
      QVERIFY(grey.open(QIODevice::ReadOnly));
      greys.push_back(uint8_t(grey.readAll().at(0)));
    }
    QVERIFY(greys.size() >= 2);
    QVERIFY2(html.indexOf("least like what was composed") > html.indexOf("frame 30,"), "the least like come behind");
    QVERIFY2(greys[0] < 8, std::to_string(greys[0]).c_str());
    QVERIFY2(greys[1] > 30, std::to_string(greys[1]).c_str());
    for (const ProofCheck& check : report->checks)
      QVERIFY2(html.contains(QString::fromStdString(check.title().text()).toHtmlEscaped()), check.code.c_str());
  }

  // Bits by second are those that FFmpeg's tool lists packet by packet; loudness is what its meter says (EBU R 128).
  void curvesAreThoseOfOthers() {
    const auto report = proofFile({path("good.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY(report);
    const ProofCurves& curves = report->curves;
    QCOMPARE(curves.marks.size(), size_t(0));
    QVERIFY(std::abs(curves.seconds - 4) < 0.03);
    const QStringList sizes = run(QStringLiteral("ffprobe"), {"-v", "error", "-select_streams", "v", "-show_entries",
                                                              "packet=size", "-of", "csv=p=0", at("good.mp4")})
                                  .split('\n', Qt::SkipEmptyParts);
    QCOMPARE(int(sizes.size()), kFrames);
    QCOMPARE(curves.bitRate.size(), size_t(kFrames / 25));
    for (int second = 0; second < kFrames / 25; ++second) {
      int64_t bits = 0;
      for (int i = 0; i < 25; ++i) bits += 8 * QString(sizes[25 * second + i]).remove(',').trimmed().toLongLong();
      QCOMPARE(int64_t(curves.bitRate[size_t(second)]), int64_t(float(bits)));
    }
    const QStringList lines =
        run(QStringLiteral("ffmpeg"),
            {"-v", "error", "-i", at("good.mp4"), "-af",
             "ebur128=metadata=1,ametadata=mode=print:key=lavfi.r128.S:file=-", "-f", "null", "-"})
            .split('\n');
    std::map<int, double> heard; // by tenths of a second
    double time = 0;
    for (const QString& line : lines) {
      if (line.contains("pts_time:")) time = line.section("pts_time:", 1).toDouble();
      if (line.startsWith("lavfi.r128.S=")) heard[int(std::lround(time * 10))] = line.section('=', 1).toDouble();
    }
    // Its meter says what it has heard up to the end of a tenth; before three seconds it hears silence too.
    QVERIFY(curves.loudness.size() >= 4);
    QVERIFY2(std::abs(double(curves.loudness[3]) - heard[39]) < 0.3,
             std::to_string(double(curves.loudness[3]) - heard[39]).c_str());
  }

  // How much each picture is like the one that was composed is what FFmpeg's filter says of its luma, which looks at
  // all of it. The least like of all is the one that was changed most.
  void likenessIsThatOfTheFilter_data() {
    QTest::addColumn<QString>("quality");
    QTest::addColumn<double>("each"); // the most that one picture may be off
    QTest::newRow("good") << "16" << 0.01;
    QTest::newRow("poor") << "42" << 0.06;
  }
  void likenessIsThatOfTheFilter() {
    QFETCH(QString, quality);
    QFETCH(double, each);
    QFile composed(at("composed.yuv"));
    QVERIFY(composed.open(QIODevice::WriteOnly));
    PlanPictures pictures(*m_plan);
    for (int n = 0; n < kFrames; ++n) {
      const auto canvas = pictures.at(n);
      QVERIFY(canvas);
      for (int plane = 0; plane < 3; ++plane)
        for (int y = 0; y < (plane ? 320 : 640); ++y)
          composed.write(reinterpret_cast<const char*>((*canvas)->data[plane]) +
                             ptrdiff_t(y) * (*canvas)->linesize[plane],
                         plane ? 180 : 360);
    }
    composed.close();
    const QStringList raw =
        QString("-f rawvideo -pix_fmt yuv420p -s 360x640 -r 25 -i").split(' ') + QStringList{at("composed.yuv")};
    (void)run("ffmpeg", QStringList{"-v", "error", "-y"} + raw +
                            QStringList{"-vf", "boxblur=12:1:enable=eq(n\\,37)", "-c:v", "libx264", "-preset",
                                        "veryfast", "-crf", quality, at("like.mp4")});
    (void)run("ffmpeg", QStringList{"-v", "error", "-i", at("like.mp4")} + raw +
                            QStringList{"-lavfi", "ssim=stats_file=" + at("ssim.txt"), "-f", "null", "-"});
    QFile stats(at("ssim.txt"));
    QVERIFY(stats.open(QIODevice::ReadOnly));
    const QStringList lines = QString(stats.readAll()).split('\n', Qt::SkipEmptyParts);
    QCOMPARE(int(lines.size()), kFrames);

    const auto report = proofFile({path("like.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY(report);
    const ProofCurves& curves = report->curves;
    QCOMPARE(int(curves.likeness.size()), kFrames);
    double off = 0;
    double most = 0;
    for (int n = 0; n < kFrames; ++n) {
      const double theirs = lines[n].section("Y:", 1).section(' ', 0, 0).toDouble();
      off += (double(curves.likeness[size_t(n)]) - theirs) / kFrames;
      most = std::max(most, std::abs(double(curves.likeness[size_t(n)]) - theirs));
    }
    QVERIFY2(std::abs(off) < 0.005, std::to_string(off).c_str());
    QVERIFY2(most < each, std::to_string(most).c_str());
    const auto least = curves.leastLike(3);
    QCOMPARE(least.size(), size_t(3));
    QCOMPARE(least.front().frame, int64_t(37));
    QVERIFY2(std::abs(least[1].at - least[0].at) >= 1, "each stands for another place");
  }

  // What is wrong with the file and not with its pictures: labels, sizes and order.
  void plantedFaultsOfTheFileAreSeen_data() {
    QTest::addColumn<QString>("options");
    QTest::addColumn<QString>("code");
    QTest::newRow("key frames too far apart") << "-g 250 -sc_threshold 0"
                                              << "key-distance";
    QTest::newRow("a wrong colour label") << "-color_primaries smpte170m"
                                          << "colour";
    QTest::newRow("labelled full") << "-color_range pc"
                                   << "colour";
    QTest::newRow("a level that is too low") << "-level 2.1"
                                             << "level";
    QTest::newRow("another profile") << "-profile:v main"
                                     << "profile";
    QTest::newRow("the buffer runs empty") << "-b:v 20M -maxrate 20M -bufsize 20M -crf 1"
                                           << "decoder-buffer";
    QTest::newRow("the index last") << "-movflags 0"
                                    << "index-first";
    QTest::newRow("other samples") << "-profile:v high422 -pix_fmt yuv422p"
                                   << "pixel-format";
    QTest::newRow("another rate") << "-r 24"
                                  << "rate";
    QTest::newRow("another codec") << "-c:v mpeg4"
                                   << "codec";
    QTest::newRow("a second of more bits than any may have")
        << "-g 25 -crf 0 -profile:v high444 -vf noise=alls=90:allf=t,format=yuv420p"
        << "peak-bit-rate";
    QTest::newRow("sound that ends a frame early") << "-c:a aac -af atrim=end=3.96"
                                                   << "sound-length";
    QTest::newRow("sound of one channel") << "-c:a aac -ac 1"
                                          << "sound";
    QTest::newRow("sound at another rate") << "-c:a aac -ar 44100"
                                           << "sound";
    QTest::newRow("another codec of sound") << "-c:a mp3"
                                            << "sound";
  }
  void plantedFaultsOfTheFileAreSeen() {
    QFETCH(QString, options);
    QFETCH(QString, code);
    QStringList how = kPictureCopied;
    if (options.startsWith(QLatin1String("-c:v"))) how = QString("-c:a copy -movflags +faststart").split(' ');
    (void)run(QStringLiteral("ffmpeg"), QStringList{"-v", "error", "-y", "-i", at("good.mp4")} + how +
                                            options.split(' ') + QStringList{at("mislabelled.mp4")});
    const auto report = proofFile({path("mislabelled.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY2(report.has_value(), report ? "" : sentence(report.error()).c_str());
    QVERIFY2(failing(*report).contains(code), qPrintable(failing(*report).join(' ')));
    m_planted.emplace_back(QTest::currentDataTag(), failing(*report));
  }

  // A file is read in stretches, from a key frame each: here every second. A fault is found in whichever it lies, at
  // its time, and what one shot has in a part alone is no bar.
  void stretchesAreOneFile_data() {
    QTest::addColumn<QString>("filter");
    QTest::addColumn<QString>("fault");
    for (const int frame : {0, 24, 25, 49, 50, 51, 75, 99})
      QTest::addRow("black at %d", frame) << QString("drawbox=0:0:iw:ih:black:fill:enable=eq(n\\,%1)").arg(frame)
                                          << QString("content: 1 picture, the first at 0:0%1").arg(frame / 25);
    const auto bar = [](const char* when) { return QString("drawbox=0:0:iw:40:black:fill:enable=%1").arg(when); };
    QTest::newRow("a bar all the time") << bar("1") << "bars: 0,40,0,0";
    QTest::newRow("a bar in the first half") << bar("lt(n\\,50)") << "";
    QTest::newRow("a bar in the second half") << bar("gte(n\\,50)") << "";
    QTest::newRow("a bar in the last second") << bar("gte(n\\,75)") << "";
  }
  void stretchesAreOneFile() {
    QFETCH(QString, filter);
    QFETCH(QString, fault);
    (void)run(QStringLiteral("ffmpeg"),
              QStringList{"-v", "error", "-y", "-i", at("good.mp4"), "-vf", filter, "-g", "25"} + kPictureCopied +
                  QStringList{at("parts.mp4")});
    const bool compared = fault.startsWith(QLatin1String("content"));
    const auto report = compared ? proofFile({path("parts.mp4"), &*m_plan, &*m_traces, {}})
                                 : proofFile({path("parts.mp4"), nullptr, nullptr, {}});
    QVERIFY2(report.has_value(), report ? "" : sentence(report.error()).c_str());
    QString found;
    for (const ProofCheck& check : report->checks)
      if (!check.pass && (!compared || check.code == "content"))
        found += QString::fromStdString(check.code + ": " + check.found.text());
    if (compared) found.truncate(found.lastIndexOf(QLatin1String(": it is")));
    QCOMPARE(found, fault);
  }

  // Encoded a second time and otherwise left as it is: nothing to see.
  void encodedOnceMoreIsStillGood() {
    (void)run(QStringLiteral("ffmpeg"),
              QStringList{"-v", "error", "-y", "-i", at("good.mp4")} + kPictureCopied + QStringList{at("again.mp4")});
    const auto report = proofFile({path("again.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY(report.has_value());
    QCOMPARE(failing(*report), QStringList());
  }

  // How coarsely pictures are coded is the same in whatever way a file is decoded, also where others are busy.
  void quantisersAreThoseOfWholePictures() {
    (void)run(QStringLiteral("ffmpeg"),
              QString("-v error -y -f lavfi -i testsrc2=s=1280x720:r=25:d=4,noise=alls=24:allf=t -c:v libx264 -preset "
                      "faster -x264-params keyint=60:bframes=3:b-pyramid=normal -b:v 2M -pix_fmt yuv420p")
                      .split(' ') +
                  QStringList{at("coarse.mp4")});
    const auto media = probe(path("coarse.mp4"));
    QVERIFY(media.has_value());
    const auto quantisers = [&] {
      std::vector<double> each;
      auto reader = VideoReader::open(*media, {.threads = 0, .quantisers = true, .stop = {}});
      for (auto got = reader->read(); got && got->frame; got = reader->read())
        each.push_back(meanQuantiser(got->frame));
      return each;
    };
    const std::vector<double> first = quantisers();
    QCOMPARE(first.size(), size_t(kFrames));
    std::vector<std::jthread> others;
    for (int i = 0; i < 4; ++i)
      others.emplace_back([](const std::stop_token& over) {
        while (!over.stop_requested()) (void)QByteArray(4096, 'x').toBase64();
      });
    int different = 0;
    for (int i = 0; i < 5; ++i) different += quantisers() == first ? 0 : 1;
    QCOMPARE(different, 0);
  }

  // Bytes that are flipped in the finished file: the decoder guesses, or shows it.
  void flippedBytesAreSeen_data() {
    QTest::addColumn<double>("place");
    for (const double place : {0.15, 0.3, 0.45, 0.6, 0.75, 0.9})
      QTest::newRow(qPrintable(QString::number(place))) << place;
  }
  void flippedBytesAreSeen() {
    QFETCH(double, place);
    QFile good(at("good.mp4"));
    QVERIFY(good.open(QIODevice::ReadOnly));
    QByteArray bytes = good.readAll();
    const qsizetype media = bytes.indexOf("mdat") + 8;
    const qsizetype from = media + qsizetype(double(bytes.size() - media) * place);
    std::mt19937 dice(unsigned(place * 100));
    for (qsizetype i = from; i < from + 3000; i += 7) bytes[i] = char(dice());
    QFile spoiled(at("flipped.mp4"));
    QVERIFY(spoiled.open(QIODevice::WriteOnly));
    QVERIFY(spoiled.write(bytes) == bytes.size());
    spoiled.close();
    const auto report = proofFile({path("flipped.mp4"), &*m_plan, &*m_traces, {}});
    QVERIFY(!report || !report->passed());
  }

  // Pictures that differ from the ones beside them by a step of the scale and no more: the encoder may leave that out,
  // and nobody would see it.
  void whatHardlyChangesPasses_data() {
    QTest::addColumn<double>("to"); // where the subject is at the end, of the picture's width
    for (const double to : {0.46875, 0.484375, 0.5}) QTest::addRow("to %g", to) << to;
  }
  void whatHardlyChangesPasses() {
    QFETCH(const double, to);
    test::writeClip(path("slow.mp4"), {1280, 720}, FrameRate(), 50, [](int frame, int x, int) {
      return test::Yuv{40 + x * 160 / 1280, 160, 100 + frame};
    });
    Project slow = test::project({path("slow.mp4")}, {{"Vertical", {404, 720}, Rational(25), "fill", "veryfast"}});
    Subject subject;
    subject.move = {{Rational(0), 0.46875, 0.5, 1, Ease::Eased, {}}, {Rational(49, 25), to, 0.5, 1, Ease::Eased, {}}};
    slow.shots[0].subjects = {subject};
    slow.shots[0].in = Rational(1);
    for (Window& window : slow.deliverables[0].framings["h1"].windows) window.follows = true;
    const auto files = test::exported(slow, path("slow"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    QCOMPARE(failing(*files->front().proof), QStringList());
  }

  // Whatever the encoder is told: what it makes passes.
  void cleanFilesPass_data() {
    QTest::addColumn<QString>("speed");
    QTest::addColumn<double>("crf");
    QTest::addColumn<int>("bitRate");
    QTest::addColumn<int>("audioBitRate");
    const auto add = [](const std::string& speed, double crf, int bitRate, int audio) {
      QTest::addRow("%s crf %g %d kb/s sound %d kb/s", speed.c_str(), crf, bitRate, audio)
          << QString::fromStdString(speed) << crf << bitRate * 1000 << audio * 1000;
    };
    const int sound[] = {192, 128, 96, 64, 48, 32, 24, 16, 320, 8};
    int row = 0;
    for (const std::string& speed :
         test::kSanitized ? std::vector<std::string>{"veryfast"} : infoOf(Codec::H264).speeds)
      for (int i = 0; i < (test::kLong ? 4 : 2); ++i, ++row) add(speed, 14.0 + 9 * (row % 4), 0, sound[row % 10]);
    if (test::kSanitized) return;
    for (const char* speed : {"ultrafast", "veryfast", "medium"})
      for (const int rate : {10, 60, 200, 600, 3000}) add(speed, 0, rate, sound[row++ % 10]);
  }
  void cleanFilesPass() {
    QFETCH(QString, speed);
    QFETCH(double, crf);
    QFETCH(int, bitRate);
    QFETCH(int, audioBitRate);
    Project p = m_project;
    Encoding& e = p.deliverables.front().encoding;
    e.speed = speed.toStdString();
    e.rateControl = crf > 0 ? RateControl::ConstantQuality : RateControl::Variable;
    e.crf = crf > 0 ? crf : e.crf;
    e.bitRate = bitRate;
    e.sound.bitRate = audioBitRate;
    const auto files = test::exported(p, path("clean"));
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    QVERIFY(files->front().proof.has_value());
    QString found;
    for (const ProofCheck& check : files->front().proof->checks)
      if (!check.pass) found += QString::fromStdString(check.code + ": " + check.found.text() + "; ");
    QVERIFY2(found.isEmpty(), qPrintable(found));
    ++m_clean;
  }

  void cleanupTestCase() {
    for (const auto& [fault, codes] : m_planted)
      qInfo().noquote() << fault.leftJustified(42) << codes.join(QStringLiteral(", "));
    qInfo("%d planted faults were found; of %d clean files nothing was said", int(m_planted.size()), m_clean);
  }
};

QTEST_GUILESS_MAIN(TestProof)
#include "tst_proof.moc"
