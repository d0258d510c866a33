// SPDX-License-Identifier: GPL-3.0-or-later
// Parts of films are cut out and joined without being encoded again. What comes of it is judged by FFmpeg's tools and
// by a second decoder of each codec; every picture of the footage shows its number, and every full second clicks.
#include "copy/CopyFile.h"
#include "copy/ShotCopy.h"
#include "export/Exporter.h"
#include "media/read/VideoReader.h"
#include "preflight/Preflight.h"
#include "project/Footage.h"
#include "support/SecondDecoder.h"
#include "support/TestMedia.h"
#include "support/Thoroughness.h"

#include <QFile>
#include <QFileInfo>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace tromb;
using test::run;

namespace {

constexpr int kFrames = 300; ///< twelve seconds at 25
using Keep = std::vector<std::pair<Rational, Rational>>;
using Edges = std::vector<std::pair<int, int>>; ///< pictures that are encoded before and behind what is copied

/// A shot of one of the films, and how many of its first and last pictures are encoded; −1: all.
struct Cut {
  int film = 0;
  int first = 0;
  int end = 0;
  int before = 0;
  int most = 0; ///< behind
  int speed = 1;
};
using Cuts = std::vector<Cut>;

Rational seconds(int frames) {
  return Rational(frames, 25);
}

} // namespace

class TestCopy : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] std::string path(const QString& name) const { return at(name).toStdString(); }

  [[nodiscard]] Result<CopiedFile> cut(const QString& from, const Keep& keep, const QString& to) const {
    const auto media = probe(path(from));
    if (!media) return tl::unexpected(media.error());
    const auto plan = planCopy(*media, keep);
    if (!plan) return tl::unexpected(plan.error());
    return copyParts({*plan, path(to), true});
  }
  /// What FFmpeg decodes: a digest for each picture.
  [[nodiscard]] QStringList digests(const QString& film) const {
    QStringList found;
    for (const QString& line :
         run("ffmpeg", {"-v", "error", "-i", at(film), "-map", "0:v", "-vsync", "passthrough", "-f", "framemd5", "-"})
             .split('\n', Qt::SkipEmptyParts))
      if (!line.startsWith('#')) found << line.section(',', -1).trimmed();
    return found;
  }
  /// … and of each packet of the picture, in the order of decoding.
  [[nodiscard]] QStringList packets(const QString& film) const {
    return run("ffprobe", {"-v", "error", "-select_streams", "v", "-show_entries", "packet=data_hash",
                           "-show_data_hash", "md5", "-of", "csv=p=0", at(film)})
        .split('\n', Qt::SkipEmptyParts);
  }
  /// When it clicks, in seconds.
  [[nodiscard]] std::vector<double> clicks(const QString& film) const {
    (void)run("ffmpeg", {"-v", "error", "-y", "-i", at(film), "-vn", "-ac", "1", "-ar", "48000", "-af",
                         "aresample=async=1:first_pts=0", "-f", "f32le", at("heard.raw")});
    QFile raw(at("heard.raw"));
    if (!raw.open(QIODevice::ReadOnly)) return {};
    const QByteArray bytes = raw.readAll();
    const auto* samples = reinterpret_cast<const float*>(bytes.constData());
    const auto count = size_t(bytes.size()) / sizeof(float);
    std::vector<double> found;
    for (size_t i = 0; i < count; ++i)
      if (std::abs(samples[i]) > 0.2F && (found.empty() || double(i) / 48000 - found.back() > 0.3))
        found.push_back(double(i) / 48000);
    return found;
  }

private slots:
  void initTestCase() {
    test::writeClip(
        path("clip.mp4"), {320, 192}, FrameRate(), kFrames,
        [](int frame, int x, int y) {
          return y < 96 ? test::numberStripe(frame, x, 320) : test::texture(frame / 4, x + 2 * frame, y);
        },
        true);
  }

  void partsAreCopied_data() {
    QTest::addColumn<QString>("coding");
    QTest::addColumn<QString>("film"); // and its ending
    QTest::addColumn<QString>("target");
    QTest::addColumn<Keep>("keep");
    QTest::addColumn<Edges>("edges");
    QTest::addColumn<double>("late"); // seconds that sound may be off: half a packet
    const QString x264 = "-c:v libx264 -preset fast -crf 20 -x264-params keyint=50:scenecut=0:bframes=3 ";
    const double aac = 512 / 48000.0 + 0.001;
    const Keep usual{{seconds(30), seconds(112)}, {seconds(150), seconds(232)}};
    QTest::newRow("H.264, groups that are closed") << x264 + "-c:a aac"
                                                   << "closed.mp4"
                                                   << "mp4" << usual << Edges{{20, 1}, {0, 1}} << aac;
    QTest::newRow("H.264 without pictures out of order, into MKV")
        << "-c:v libx264 -profile:v baseline -g 50 -sc_threshold 0 -c:a aac"
        << "plain.mp4"
        << "mkv" << usual << Edges{{20, 0}, {0, 0}} << 2 * aac;
    QTest::newRow("H.264, Main, sound that can be parted") << x264 + "-profile:v main -c:a pcm_s16le"
                                                           << "main.mov"
                                                           << "mov" << usual << Edges{{20, 1}, {0, 1}} << 0.001;
    QTest::newRow("H.264 of 10 bits in MKV, without times of decoding")
        << x264 + "-pix_fmt yuv420p10le -c:a aac"
        << "deep.mkv"
        << "mkv" << usual << Edges{{20, 1}, {0, 1}} << 2 * aac;
    QTest::newRow("H.264 of a broadcast stream, behind start codes") << x264 + "-c:a aac"
                                                                     << "stream.ts"
                                                                     << "mp4" << usual << Edges{{20, 1}, {0, 1}} << aac;
    QTest::newRow("H.264, one part within a group")
        << x264 + "-c:a aac"
        << "within.mp4"
        << "mp4" << Keep{{seconds(210), seconds(230)}} << Edges{{20, 0}} << aac;
    QTest::newRow("H.264, whole, backwards in order")
        << x264 + "-c:a aac"
        << "turned.mp4"
        << "mp4" << Keep{{seconds(200), seconds(300)}, {seconds(0), seconds(50)}} << Edges{{0, 0}, {0, 0}} << aac;
    QTest::newRow("H.264, groups that are open are encoded")
        << "-c:v libx264 -crf 20 -x264-params keyint=50:scenecut=0:open-gop=1 -c:a aac"
        << "open.mp4"
        << "mp4" << Keep{{seconds(60), seconds(90)}} << Edges{{30, 0}} << aac;
    QTest::newRow("H.265, groups that are closed")
        << "-c:v libx265 -preset superfast -x265-params log-level=none:keyint=50:scenecut=0:open-gop=0:bframes=3 "
           "-tag:v hvc1 -c:a aac"
        << "cut265.mp4"
        << "mp4" << usual << Edges{{20, 1}, {0, 1}} << aac;
    QTest::newRow("H.265 of 10 bits, open groups, into MKV")
        << "-c:v libx265 -preset superfast -pix_fmt yuv420p10le -x265-params "
           "log-level=none:keyint=50:min-keyint=50:scenecut=0:ref=4 "
           "-tag:v hvc1 -c:a aac"
        << "deep265.mp4"
        << "mkv" << usual << Edges{{20, 1}, {0, 1}} << 2 * aac;
    QTest::newRow("H.265 of a broadcast stream, behind start codes")
        << "-c:v libx265 -preset superfast -x265-params "
           "log-level=none:keyint=50:scenecut=0:open-gop=0:ctu=64:min-cu-size=32:ref=2 -c:a aac"
        << "stream265.ts"
        << "mp4" << usual << Edges{{20, 1}, {0, 1}} << aac;
    QTest::newRow("H.265, free cuts")
        << "-c:v libx265 -preset superfast -x265-params log-level=none:keyint=50:scenecut=0:open-gop=0 "
           "-tag:v hvc1 -c:a aac"
        << "closed265.mp4"
        << "mp4" << Keep{{seconds(50), seconds(100)}, {seconds(150), seconds(200)}} << Edges{{0, 0}, {0, 0}} << aac;
    QTest::newRow("H.265, leading pictures left out")
        << "-c:v libx265 -preset superfast -x265-params log-level=none:keyint=50:min-keyint=50:scenecut=0:open-gop=1 "
           "-tag:v hvc1 -c:a aac"
        << "open265.mp4"
        << "mp4" << Keep{{seconds(100), seconds(300)}, {seconds(50), seconds(300)}} << Edges{{0, 0}, {0, 0}} << aac;
    QTest::newRow("VP9") << "-c:v libvpx-vp9 -deadline realtime -cpu-used 8 -g 50 -c:a libopus"
                         << "nine.webm"
                         << "webm" << usual << Edges{{20, 0}, {0, 0}} << 0.011;
    QTest::newRow("AV1") << "-c:v libsvtav1 -preset 12 -g 50 -c:a libopus"
                         << "one.mkv"
                         << "mkv" << Keep{{seconds(50), seconds(112)}, {seconds(150), seconds(232)}}
                         << Edges{{0, 0}, {0, 0}} << 0.011;
    QTest::newRow("FFV1, every picture alone") << "-c:v ffv1 -g 1 -c:a flac"
                                               << "lossless.mkv"
                                               << "mkv" << usual << Edges{{0, 0}, {0, 0}} << 0.05;
  }
  void partsAreCopied() {
    QFETCH(QString, coding);
    QFETCH(QString, film);
    QFETCH(QString, target);
    QFETCH(Keep, keep);
    QFETCH(Edges, edges);
    QFETCH(double, late);
    if (test::kSanitized && !QStringList{"closed.mp4", "stream.ts", "cut265.mp4", "one.mkv"}.contains(film)) return;
    (void)run("ffmpeg",
              QStringList{"-v", "fatal", "-y", "-i", at("clip.mp4")} + coding.split(' ') + QStringList{at(film)});
    const QString joined = "joined-" + QFileInfo(film).baseName() + "." + target;
    const auto media = probe(path(film));
    QVERIFY(media);
    const auto plan = planCopy(*media, keep);
    QVERIFY2(plan.has_value(), plan ? "" : sentence(plan.error()).c_str());
    for (size_t i = 0; i < keep.size(); ++i) {
      const CopyPart& part = plan->parts[i];
      if (edges[i].first == part.frames()) // nothing is copied
        QCOMPARE(part.encodedBefore(), part.frames());
      else
        QCOMPARE(part.encodedBefore(), int64_t(edges[i].first));
      QVERIFY2(part.encodedBehind() <= 4 * edges[i].second, std::to_string(part.encodedBehind()).c_str());
    }
    double told = 0;
    const auto made = copyParts({*plan, path(joined), true, [&](double fraction) { told = fraction; }});
    QVERIFY2(made.has_value(), made ? "" : sentence(made.error()).c_str());
    QCOMPARE(told, 1.0);

    // What is copied is the source's to the bit, what is encoded shows the same numbers.
    const QStringList before = digests(film);
    const QStringList after = digests(joined);
    QCOMPARE(int64_t(after.size()), plan->frames());
    QCOMPARE(made->frames, plan->frames());
    auto reader = VideoReader::open(*probe(path(joined)));
    QVERIFY(reader);
    int64_t n = 0;
    int64_t copied = 0;
    for (const CopyPart& part : plan->parts)
      for (int64_t frame = part.first; frame < part.end; ++frame, ++n) {
        if (frame >= part.copied && frame < part.copiedEnd) {
          ++copied;
          QVERIFY2(after[n] == before[frame], qPrintable(QString("frame %1 of the source").arg(frame)));
        } else {
          const auto picture = reader->frameAt(n);
          QVERIFY(picture);
          QCOMPARE(int64_t(test::readNumber(*picture, 40)), frame);
        }
      }
    if (!film.endsWith(".ts") && !film.startsWith("open265") &&
        !film.startsWith("deep265")) { // whose packets are laid out otherwise, or begin anew
      const QStringList whole = packets(film);
      const QStringList kept = packets(joined);
      QVERIFY(std::count_if(kept.begin(), kept.end(), [&](const QString& each) { return whole.contains(each); }) >=
              copied);
    }
    // Times are even; nobody complains, neither in reading nor in decoding.
    const QStringList times = run("ffprobe", {"-v", "error", "-select_streams", "v", "-show_entries",
                                              "frame=best_effort_timestamp_time", "-of", "csv=p=0", at(joined)})
                                  .split('\n', Qt::SkipEmptyParts);
    QCOMPARE(int64_t(times.size()), plan->frames());
    for (int i = 0; i < int(times.size()); ++i)
      QVERIFY2(std::abs(QString(times[i]).remove(',').toDouble() - i / 25.0) < 0.0011, qPrintable(times[i]));
    const QString words = run("ffmpeg", {"-v", "warning", "-i", at(joined), "-f", "null", "-"});
    QVERIFY2(words.trimmed().isEmpty(), qPrintable(words));
    // Sound is in step, at the beginning and behind every cut.
    const std::vector<double> heard = clicks(joined);
    Rational begin;
    for (const auto& [from, to] : keep) {
      for (int second = 0; second < 12; ++second) {
        const Rational time(second);
        if (time - from < Rational(1, 10) || to - time < Rational(1, 10)) continue;
        const double wanted = (begin + time - from).toDouble();
        const auto near = [&](double click) { return std::abs(click - wanted) <= late; };
        QVERIFY2(std::any_of(heard.begin(), heard.end(), near), qPrintable(QString("the click at %1").arg(wanted)));
      }
      begin = begin + (to - from);
    }
    // libde265 spoils leading pictures of open groups, in the source too.
    if (coding.contains("ffv1") || coding.contains("yuv420p10") || film.startsWith("open265")) return;
    // A second decoder sees what it sees in the source, and at the edges what FFmpeg does. (Of pictures that lean on
    // two others openh264 makes something a little else than FFmpeg, in the source too.)
    const QByteArray theirs = test::decodedBySecond(at(joined), m_folder.path());
    const QByteArray whole = test::decodedBySecond(at(film), m_folder.path());
    const QByteArray ours = test::decodedByFfmpeg(at(joined), m_folder.path());
    constexpr qsizetype kBytes = 320 * 192 * 3 / 2;
    QCOMPARE(int64_t(theirs.size() / kBytes), plan->frames());
    n = 0;
    for (const CopyPart& part : plan->parts)
      for (int64_t frame = part.first; frame < part.end; ++frame, ++n) {
        const bool isCopied = frame >= part.copied && frame < part.copiedEnd;
        const QByteArray wanted = isCopied ? whole.mid(frame * kBytes, kBytes) : ours.mid(n * kBytes, kBytes);
        QVERIFY2(theirs.mid(n * kBytes, kBytes) == wanted, qPrintable(QString("the second decoder, frame %1").arg(n)));
      }
  }

  // A deliverable that copies: shots of several films, in any order. What is copied is theirs to the bit; what is not,
  // at cuts within groups and where a shot is not shown as it is, is encoded and shows the same numbers.
  void shotsAreCopied_data() {
    QTest::addColumn<QStringList>("codings"); // of the films
    QTest::addColumn<QString>("films");       // their ending
    QTest::addColumn<QString>("settings");    // of the deliverable: codec, container, depth
    QTest::addColumn<Cuts>("cuts");
    const QString x264 = "-c:v libx264 -preset fast -crf 20 -x264-params keyint=50:scenecut=0:bframes=3 ";
    const QString x265 = "-c:v libx265 -preset superfast -tag:v hvc1 -x265-params "
                         "log-level=none:sao=1:keyint=50:min-keyint=50:scenecut=0";
    const Cuts free{{0, 50, 150}, {0, 0, 50}};
    // The second begins and ends within groups, the third goes on where the second ends, the fourth is twice as fast.
    const Cuts usual{{0, 50, 100}, {0, 130, 170, 20}, {0, 170, 221, 0, 4}, {0, 20, 60, -1, -1, 2}, {1, 90, 155, 10, 4}};
    // Leading pictures at the end of a part lean on the key behind it.
    const Cuts open{{0, 50, 100, 0, 4}, {0, 130, 170, 20}, {0, 170, 221, 0, 4}, {1, 90, 155, 10, 4}};
    QTest::newRow("H.264, free cuts") << QStringList{x264 + "-an"} << "mp4"
                                      << "h264 mp4 8" << free;
    QTest::newRow("H.264") << QStringList{x264 + "-an", x264 + "-an"} << "mp4"
                           << "h264 mp4 8" << usual;
    QTest::newRow("H.264 of two kinds, with sound")
        << QStringList{x264 + "-c:a aac", x264.trimmed() + ":weightp=0 -c:a aac"} << "mp4"
        << "h264 mp4 8" << usual;
    // openh264 loses what is in CABAC behind CAVLC.
    QTest::newRow("H.264 of two entropy codings") << QStringList{x264 + "-an", x264 + "-coder 0 -an"} << "mp4"
                                                  << "h264 mp4 8" << usual;
    QTest::newRow("H.264 of broadcast streams, into MKV")
        << QStringList{x264 + "-an", x264.trimmed() + ":weightp=0 -an"} << "ts"
        << "h264 mkv 8" << usual;
    QTest::newRow("H.265") << QStringList{x265 + ":open-gop=0:bframes=3 -an",
                                          QString(x265).replace("sao=1", "sao=0") + ":open-gop=0:bframes=3 -an"}
                           << "mp4"
                           << "hevc mp4 8" << usual;
    QTest::newRow("H.265 of another tier")
        << QStringList{x265 + ":open-gop=0:level-idc=50:high-tier=1:vbv-maxrate=60000:vbv-bufsize=60000 -an"} << "mp4"
        << "hevc mp4 8" << Cuts{{0, 0, 100, -1, -1}};
    QTest::newRow("H.265 of 10 bits, open groups, into MKV")
        << QStringList{x265 + ":ref=4 -pix_fmt yuv420p10le -an", x265 + ":ref=4 -pix_fmt yuv420p10le -an"} << "mov"
        << "hevc mkv 10" << open;
    const QString vpx = "-c:v libvpx-vp9 -deadline realtime -cpu-used 8 -g 50 -an";
    QTest::newRow("VP9") << QStringList{vpx, vpx + " -lag-in-frames 10 -auto-alt-ref 1"} << "webm"
                         << "vp9 webm 8" << usual;
  }
  void shotsAreCopied() {
    if (test::kSanitized && !QByteArray(QTest::currentDataTag()).contains(", ")) return;
    QFETCH(QStringList, codings);
    QFETCH(QString, films);
    QFETCH(QString, settings);
    QFETCH(Cuts, cuts);
    Project p;
    QList<QStringList> before;
    for (int i = 0; i < codings.size(); ++i) {
      const QString film = QStringLiteral("film%1.%2").arg(i).arg(films);
      (void)run("ffmpeg",
                QStringList{"-v", "fatal", "-y", "-i", at("clip.mp4")} + codings[i].split(' ') + QStringList{at(film)});
      const auto media = probe(path(film));
      QVERIFY(media);
      p.sources.push_back(newSource(p, *media));
      before << digests(film);
    }
    for (const Cut& cut : cuts) {
      Shot& shot = p.shots.emplace_back();
      shot.id = "h" + std::to_string(p.shots.size());
      shot.name = shot.id;
      shot.source = p.sources[size_t(cut.film)].id;
      shot.in = seconds(cut.first);
      shot.out = seconds(cut.end);
      shot.pace.speed = Rational(cut.speed);
    }
    const QStringList wanted = settings.split(' ');
    Deliverable& d = p.deliverables.emplace_back();
    d.id = d.name = "d";
    d.canvas = {320, 192};
    for (const PictureCodec& row : pictureCodecs())
      if (wanted[0].toStdString() == row.word) d.encoding.codec = row.codec;
    for (const ContainerInfo& row : containers())
      if (wanted[1].toStdString() == row.word) d.encoding.container = row.container;
    d.format = d.format.withDepth(wanted[2].toInt());
    d.encoding.copies = true;
    d.encoding.crf = 20;
    if (codings[0].endsWith("-an")) d.encoding.sound.place = SoundPlace::None;
    if (wanted[0] != "vp9") d.encoding.speed = "superfast";
    const Footage footage = probeFootage(p);
    const auto level = whyEncoded(*Plan::build(p, footage, "d"), Plan::build(p, footage, "d")->pieces().front()).level;
    d.encoding.level = level; // of the films
    const auto plan = Plan::build(p, footage, "d");
    QVERIFY2(plan.has_value(), plan ? "" : sentence(plan.error()).c_str());

    const ShotCopies copies = planShotCopies(*plan);
    for (size_t i = 0; i < cuts.size(); ++i) {
      const ShotCopy& shot = copies.shots[i];
      const std::string words = std::to_string(i) + ": " + shot.encoded.why.text();
      QVERIFY2(shot.encoded.why.empty() == (cuts[i].before >= 0), words.c_str());
      if (cuts[i].before < 0) continue;
      QCOMPARE(shot.encodedBefore, int64_t(cuts[i].before));
      QVERIFY2(shot.encodedBehind <= cuts[i].most, std::to_string(shot.encodedBehind).c_str());
    }

    // A check tells what is encoded, and each way out that it offers makes that cut free.
    int toldShots = 0;
    for (const Finding& f : preflight(p, footage)) {
      toldShots += f.code == "encoded-shot" ? 1 : 0;
      for (const Fix& fix : f.code == "encoded-cut" ? f.fixes : std::vector<Fix>()) {
        Project mended = p;
        const auto shot = std::find_if(mended.shots.begin(), mended.shots.end(),
                                       [&](const Shot& each) { return each.id == f.shotId; });
        const Rational in = shot->in;
        fix.changeShot(*shot);
        const ShotCopy is =
            planShotCopies(*Plan::build(mended, footage, "d")).shots[size_t(shot - mended.shots.begin())];
        QVERIFY2((shot->in != in ? is.encodedBefore : is.encodedBehind) == 0, fix.words.text().c_str());
      }
    }
    QCOMPARE(toldShots, int(std::count_if(cuts.begin(), cuts.end(), [](const Cut& each) { return each.before < 0; })));

    ExportRequest request;
    request.plans = {*plan};
    request.paths = {path("shots." + wanted[1])};
    request.folder = m_folder.path().toStdString();
    request.overwrite = true;
    const auto files = exportPlans(request, {});
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const ExportedFile& file = files->front();
    QVERIFY2(!file.error, file.error ? sentence(*file.error).c_str() : "");
    for (const ProofCheck& check : file.proof->checks)
      QVERIFY2(check.pass, (check.code + ": " + check.expected.text() + ", " + check.found.text()).c_str());
    QCOMPARE(file.copied, copies.copied());
    // What is copied has its source's size whatever the encoding would have made of it; by quality, nothing is known of
    // the rest. (That a film's tier is another is not seen before its file is read.)
    if (const auto expected = expectedBytes(*plan); toldShots == 0 || cuts.size() > 1) {
      QCOMPARE(expected.has_value(), toldShots == 0);
      const double share = expected ? double(*expected) / double(QFileInfo(at("shots." + wanted[1])).size()) : 1;
      QVERIFY2(share > 0.65 && share < 1.35, qPrintable(QString::number(share)));
    }
    const QString made = "shots." + wanted[1];
    const QStringList after = digests(made);
    QCOMPARE(int64_t(after.size()), plan->frameCount());
    auto reader = VideoReader::open(*probe(path(made)));
    QVERIFY(reader);
    int n = 0;
    int64_t equal = 0;
    for (const Cut& cut : cuts)
      for (int frame = cut.first; frame < cut.end; frame += cut.speed, ++n) {
        const auto picture = reader->frameAt(n);
        QVERIFY(picture);
        QCOMPARE(test::readNumber(*picture, 40), frame);
        equal += after[n] == before[cut.film][frame] ? 1 : 0;
      }
    QCOMPARE(equal, copies.copied());
    const QString words = run("ffmpeg", {"-v", "warning", "-i", at(made), "-f", "null", "-"});
    QVERIFY2(words.trimmed().isEmpty(), qPrintable(words));
    if (wanted[2] == "10" || codings.last().contains("-coder 0")) return;
    // A second decoder shows all pictures in their places, too. (Of pictures that lean on two others openh264 makes
    // something a little else than FFmpeg, in the source too.)
    const QByteArray theirs = test::decodedBySecond(at(made), m_folder.path());
    const QByteArray ours = test::decodedByFfmpeg(at(made), m_folder.path());
    constexpr qsizetype kBytes = 320 * 192 * 3 / 2;
    QCOMPARE(theirs.size(), ours.size());
    for (n = 0; n < ours.size() / kBytes; ++n) {
      qint64 off = 0;
      for (qsizetype i = n * kBytes; i < (n + 1) * kBytes; ++i)
        off += std::abs(int(uchar(ours[i])) - int(uchar(theirs[i])));
      QVERIFY2(off < 2 * kBytes, qPrintable(QString("the second decoder, frame %1").arg(n)));
    }
    // Nobody has to see what is copied where nothing is proofed.
    request.proof = false;
    const auto again = exportPlans(request, {});
    QVERIFY(again && !again->front().error);
    QCOMPARE(digests(made), after);
  }

  // A film that is coded otherwise from its middle on, which its headers do not say: the deliverable is made all the
  // same, and says why it encodes.
  void whatCannotBeCopiedIsEncoded() {
    QFile list(at("parts.txt"));
    QVERIFY(list.open(QIODevice::WriteOnly));
    for (const int half : {0, 1}) {
      const QString part = QStringLiteral("half%1.ts").arg(half);
      (void)run("ffmpeg", {"-v", "fatal", "-y", "-ss", QString::number(6 * half), "-i", at("clip.mp4"), "-t", "6",
                           "-c:v", "libx264", "-coder", QString::number(half), "-x264-params",
                           "keyint=50:scenecut=0:bframes=0", "-an", at(part)});
      list.write("file '" + part.toUtf8() + "'\n");
    }
    list.close();
    (void)run("ffmpeg", {"-v", "fatal", "-y", "-f", "concat", "-i", at("parts.txt"), "-c", "copy", at("changing.ts")});
    Project p;
    const auto media = probe(path("changing.ts"));
    QVERIFY(media && media->video->clock.frameCount() == kFrames);
    p.sources = {newSource(p, *media)};
    p.shots = {newShot(p, p.sources[0], *media)};
    Deliverable& d = p.deliverables.emplace_back();
    d.id = d.name = "d";
    d.canvas = {320, 192};
    d.encoding.copies = true;
    const Footage footage = probeFootage(p);
    d.encoding.level = whyEncoded(*Plan::build(p, footage, "d"), Plan::build(p, footage, "d")->pieces()[0]).level;
    const auto plan = Plan::build(p, footage, "d");
    QCOMPARE(planShotCopies(*plan).copied(), int64_t(kFrames));
    ExportRequest request;
    request.plans = {*plan};
    request.paths = {path("changed.mp4")};
    request.folder = m_folder.path().toStdString();
    const auto files = exportPlans(request, {});
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    QVERIFY2(!files->front().error, files->front().error ? sentence(*files->front().error).c_str() : "");
    QVERIFY2(files->front().notCopied.text().find("coded otherwise from a place on") != std::string::npos,
             files->front().notCopied.text().c_str());
    QCOMPARE(files->front().copied, int64_t(0));
    auto reader = VideoReader::open(*probe(files->front().path));
    QVERIFY(reader);
    for (const int frame : {0, 149, 150, kFrames - 1}) {
      const auto picture = reader->frameAt(frame);
      QVERIFY(picture);
      QCOMPARE(test::readNumber(*picture, 40), frame);
    }
  }

  // Wherever a part ends, and whatever was put out of order there, a second decoder shows every picture in its place.
  void secondDecodersLoseNothing_data() {
    QTest::addColumn<QString>("film");
    QTest::newRow("H.264") << "closed.mp4";
    QTest::newRow("H.265") << "cut265.mp4";
  }
  void secondDecodersLoseNothing() {
    QFETCH(QString, film);
    constexpr qsizetype kBytes = 320 * 192 * 3 / 2;
    for (int end = 101; end < 109; ++end) {
      QVERIFY(cut(film, {{seconds(80), seconds(end)}, {seconds(140), seconds(160)}, {seconds(end), seconds(end + 10)}},
                  "ends.mp4"));
      const QByteArray theirs = test::decodedBySecond(at("ends.mp4"), m_folder.path());
      const QByteArray ours = test::decodedByFfmpeg(at("ends.mp4"), m_folder.path());
      QCOMPARE(theirs.size(), ours.size());
      for (qsizetype n = 0; n < ours.size() / kBytes; ++n) {
        qint64 off = 0; // openh264 makes something a little else of pictures that lean on two others
        for (qsizetype i = n * kBytes; i < (n + 1) * kBytes; ++i)
          off += std::abs(int(uchar(ours[i])) - int(uchar(theirs[i])));
        QVERIFY2(off < 2 * kBytes, qPrintable(QString("a part that ends before %1: frame %2").arg(end).arg(n)));
      }
    }
  }

  // Sound never drifts, however many parts are joined.
  void manyPartsStayInStep() {
    (void)run("ffmpeg", {"-v", "error", "-y", "-i", at("clip.mp4"), "-c:v", "libx264", "-g", "10", "-sc_threshold", "0",
                         "-c:a", "aac", at("many.mp4")});
    Keep keep; // 22 parts of ten frames, each of which begins three frames before a click
    for (int i = 1; i <= 11; ++i)
      for (int twice = 0; twice < 2; ++twice) keep.emplace_back(seconds(25 * i - 3), seconds(25 * i + 7));
    QVERIFY(cut("many.mp4", keep, "parts.mp4"));
    const std::vector<double> heard = clicks("parts.mp4");
    QCOMPARE(heard.size(), keep.size());
    for (size_t i = 0; i < heard.size(); ++i) {
      const double wanted = double(10 * i + 3) / 25;
      QVERIFY2(std::abs(heard[i] - wanted) < 512 / 48000.0 + 0.001,
               qPrintable(QString("click %1 at %2, not at %3").arg(i).arg(heard[i]).arg(wanted)));
    }
  }

  // Pictures that lie unevenly keep their distances.
  void unevenTimesAreKept() {
    (void)run("ffmpeg", {"-v", "error", "-y", "-i", at("clip.mp4"), "-vf", "select=not(eq(mod(n\\,7)\\,3))", "-vsync",
                         "vfr", "-c:v", "libx264", "-g", "40", "-sc_threshold", "0", "-an", at("uneven.mp4")});
    const auto made = cut("uneven.mp4", {{seconds(14), seconds(140)}}, "even.mp4");
    QVERIFY2(made.has_value(), made ? "" : sentence(made.error()).c_str());
    const QStringList times = run("ffprobe", {"-v", "error", "-select_streams", "v", "-show_entries",
                                              "frame=best_effort_timestamp_time", "-of", "csv=p=0", at("even.mp4")})
                                  .split('\n', Qt::SkipEmptyParts);
    int place = 0;
    for (int n = 14; n < 140; ++n) {
      if (n % 7 == 3) continue;
      QVERIFY(place < times.size());
      QVERIFY2(std::abs(QString(times[place]).remove(',').toDouble() - (n - 14) / 25.0) < 0.0011,
               qPrintable(times[place]));
      ++place;
    }
    QCOMPARE(place, int(times.size()));
  }

  void whatCannotBeDoneIsTold_data() {
    QTest::addColumn<QString>("film");
    QTest::addColumn<Keep>("keep");
    QTest::addColumn<QString>("target");
    QTest::addColumn<int>("code");
    QTest::addColumn<QString>("words");
    QTest::newRow("an edge that cannot be encoded")
        << "one.mkv" << Keep{{seconds(30), seconds(100)}} << "a.mkv" << int(ErrorCode::Unsupported) << "frame 0 or 50";
    QTest::newRow("nothing in it") << "closed.mp4" << Keep{{seconds(60), seconds(60)}} << "a.mp4"
                                   << int(ErrorCode::InvalidArgument) << "no picture from 0:02";
    QTest::newRow("the wrong way round") << "closed.mp4" << Keep{{seconds(60), seconds(10)}} << "a.mp4"
                                         << int(ErrorCode::InvalidArgument) << "no picture";
    QTest::newRow("behind the end") << "closed.mp4" << Keep{{seconds(400), seconds(500)}} << "a.mp4"
                                    << int(ErrorCode::InvalidArgument) << "It lasts 0:12";
    QTest::newRow("into itself") << "closed.mp4" << Keep{{seconds(50), seconds(100)}} << "closed.mp4"
                                 << int(ErrorCode::InvalidArgument) << "into itself";
    QTest::newRow("an ending that is none") << "closed.mp4" << Keep{{seconds(50), seconds(100)}} << "a.doc"
                                            << int(ErrorCode::InvalidArgument) << "mp4, mov, mkv";
    QTest::newRow("a container that does not take it") << "closed.mp4" << Keep{{seconds(50), seconds(100)}} << "a.webm"
                                                       << int(ErrorCode::Encoder) << "Choose another container";
    QTest::newRow("no folder") << "closed.mp4" << Keep{{seconds(50), seconds(100)}} << "gone/a.mp4"
                               << int(ErrorCode::CannotWrite) << "";
  }
  void whatCannotBeDoneIsTold() {
    QFETCH(QString, film);
    QFETCH(Keep, keep);
    QFETCH(QString, target);
    QFETCH(int, code);
    QFETCH(QString, words);
    const qint64 bytes = QFileInfo(at(film)).size();
    const auto made = cut(film, keep, target);
    QVERIFY(!made);
    QCOMPARE(int(made.error().code), code);
    const QString said = QString::fromStdString(sentence(made.error()));
    QVERIFY2(said.contains(words), qPrintable(said));
    QCOMPARE(QFileInfo(at(film)).size(), bytes);
    QVERIFY2(QDir(m_folder.path()).entryList({"*.tromb-part"}, QDir::Files | QDir::Hidden).isEmpty(), "half-made");
    QVERIFY(film == target || !QFile::exists(at(target)));
  }

  // An end within pictures that lean on later ones is refused too, and the next free one is named.
  void anEndIsFreeWhereNothingLeansOnIt() {
    (void)run("ffmpeg", {"-v", "error", "-y", "-i", at("clip.mp4"), "-c:v", "libx264", "-flags", "+ildct+ilme",
                         "-x264-params", "keyint=50:scenecut=0:bframes=3:tff=1", "-an", at("fields.mp4")});
    const auto media = probe(path("fields.mp4"));
    QVERIFY(media);
    QVERIFY(media->video->scan != Scan::Progressive);
    int refused = 0;
    for (int end = 60; end < 70; ++end) {
      const auto plan = planCopy(*media, {{seconds(50), seconds(end)}});
      QVERIFY(plan);
      const auto made = copyParts({*plan, path("end.mp4"), true});
      QCOMPARE(made.has_value(), plan->encoded() == 0);
      if (made) continue;
      ++refused;
      const std::string free = "It could end before frame " + std::to_string(plan->parts.front().copiedEnd);
      QVERIFY2(sentence(made.error()).find(free) != std::string::npos, sentence(made.error()).c_str());
      QVERIFY2(cut("fields.mp4", {{seconds(50), seconds(int(plan->parts.front().copiedEnd))}}, "end.mp4"),
               free.c_str());
    }
    QVERIFY2(refused > 2 && refused < 10, std::to_string(refused).c_str());
  }

  // A file that is there is not touched unless that is wanted; a stop leaves nothing behind.
  void aFileThatIsThereStays() {
    const auto plan = planCopy(*probe(path("closed.mp4")), {{seconds(50), seconds(200)}});
    QVERIFY(plan);
    QFile there(at("there.mp4"));
    QVERIFY(there.open(QIODevice::WriteOnly) && there.write("mine") == 4);
    there.close();
    const auto refused = copyParts({*plan, path("there.mp4")});
    QVERIFY(!refused && refused.error().code == ErrorCode::Exists);
    std::stop_source stop;
    const auto stopped =
        copyParts({*plan, path("there.mp4"), true, [&](double) { stop.request_stop(); }}, stop.get_token());
    QVERIFY(!stopped && stopped.error().code == ErrorCode::Cancelled);
    QCOMPARE(QFileInfo(there).size(), 4);
    QVERIFY(QDir(m_folder.path()).entryList({"*.tromb-part"}, QDir::Files | QDir::Hidden).isEmpty());
  }
};

QTEST_GUILESS_MAIN(TestCopy)
#include "tst_copy.moc"
