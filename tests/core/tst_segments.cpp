// SPDX-License-Identifier: GPL-3.0-or-later
// Long pictures are made in segments, so that an export that was interrupted goes on where it was.
#include "export/Exporter.h"
#include "export/Segments.h"
#include "media/Av.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "media/write/OutputFile.h"
#include "project/Footage.h"
#include "support/Patience.h"
#include "support/SecondDecoder.h"
#include "support/TestMedia.h"

#include <QDir>
#include <QTemporaryDir>
#include <QTest>
#include <atomic>

using namespace tromb;
using test::run;

namespace {

constexpr int64_t kRate = 5;
constexpr int64_t kSegment = 30 * kRate; ///< frames
constexpr int64_t kFrames = 97 * kRate;  ///< three segments, of which the last is 37 s long

} // namespace

class TestSegments : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  /// A project of one clip and one deliverable.
  [[nodiscard]] Project project(const Encoding& encoding) const {
    Project p;
    const auto media = probe(at("long.mp4").toStdString());
    if (!media) qFatal("%s", sentence(media.error()).c_str());
    p.sources.push_back(newSource(p, *media));
    Shot shot;
    shot.id = "h1";
    shot.source = "s1";
    shot.out = Rational(kFrames, kRate);
    p.shots = {shot};
    Deliverable d;
    d.id = "d1";
    d.name = "d";
    d.canvas = {64, 64};
    d.rate = FrameRate(Rational(kRate));
    d.encoding = encoding;
    if (encoding.codec == Codec::Vc3) {
      d.format = d.format.withChroma(Chroma::C422);
      d.canvas = {256, 120};
    }
    if (encoding.codec == Codec::Hevc) d.format = d.format.withDepth(10);
    p.deliverables = {d};
    return p;
  }
  [[nodiscard]] ExportRequest request(const Encoding& encoding, const QString& out, const QString& segments = {}) {
    const Project p = project(encoding);
    ExportRequest request;
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    if (!plan) qFatal("%s", sentence(plan.error()).c_str());
    request.plans = {*plan};
    request.projectName = "job";
    request.folder = at(out).toStdString();
    if (!segments.isEmpty()) request.segmentFolders = {at(segments).toStdString()};
    return request;
  }
  /// The file; what falls short of it is a failure.
  [[nodiscard]] QString exported(ExportRequest request) {
    const auto files = exportPlans(request, {});
    if (!files) return QString::fromStdString(sentence(files.error()));
    const ExportedFile& file = files->front();
    if (file.error) return QString::fromStdString(sentence(*file.error));
    for (const ProofCheck& check : file.proof->checks)
      if (!check.pass) return QString::fromStdString(check.code + ": " + check.found.text());
    return QString::fromStdString(file.path);
  }
  /// Ends an export as it has made so many frames.
  void interruptedAt(int64_t frame, ExportRequest request) {
    std::stop_source stop;
    request.onProgress = [&](const ExportProgress& progress) {
      if (progress.frame >= frame) stop.request_stop();
    };
    QVERIFY(!exportPlans(request, stop.get_token()));
  }
  /// The packets of a file as FFmpeg's tool sees them.
  [[nodiscard]] static QStringList packets(const QString& file, const QString& stream) {
    return run("ffprobe", {"-v", "error", "-select_streams", stream, "-show_entries",
                           "packet=pts_time,dts_time,duration_time,size,flags,data_hash", "-show_data_hash", "md5",
                           "-of", "csv", file})
        .split('\n', Qt::SkipEmptyParts);
  }

private slots:
  void initTestCase() {
    test::ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=64x64:r=%1:d=100,noise=alls=12:allf=t -f lavfi -i "
                                "sine=f=700:d=100 -c:v libx264 -preset ultrafast -g 25 -c:a aac %2")
                     .arg(kRate)
                     .arg(at("long.mp4")));
  }

  // An export that is ended in its second segment and in its third, and begun again each time, comes to the same file
  // as one that was left alone: the same packets at the same times. It is whole for FFmpeg's decoder, and no time stamp
  // lies where it must not.
  void goesOnWhereItWas_data() {
    QTest::addColumn<Encoding>("encoding");
    const auto row = [](const char* name, const std::function<void(Encoding&)>& set) {
      Encoding e;
      e.sound.place = SoundPlace::None;
      set(e);
      QTest::newRow(name) << e;
    };
    row("H.264, constant quality", [](Encoding& e) {
      e.crf = 26;
      e.sound.codec = SoundCodec::Flac; // made ten times as fast as AAC
      e.sound.place = SoundPlace::Within;
    });
    row("H.264, average", [](Encoding& e) {
      e.bitRate = 60'000;
      e.maxBitRate = 200'000;
      e.speed = "ultrafast";
    });
    row("H.265, 10 bit, sound beside", [](Encoding& e) {
      e.codec = Codec::Hevc;
      e.speed = "ultrafast";
      e.crf = 28;
      e.sound.codec = SoundCodec::Mp3;
      e.sound.place = SoundPlace::Beside;
    });
    row("VP9", [](Encoding& e) {
      e.codec = Codec::Vp9;
      e.crf = 34;
      e.speed = "5";
    });
    row("AV1", [](Encoding& e) {
      e.codec = Codec::Av1;
      e.crf = 40;
      e.speed = "12";
    });
    row("FFV1", [](Encoding& e) { e.codec = Codec::Ffv1; });
    row("VC-3", [](Encoding& e) { e.codec = Codec::Vc3; });
  }
  void goesOnWhereItWas() {
    QFETCH(Encoding, encoding);
    const QString tag = QString(QTest::currentDataTag()).remove(QRegularExpression("[^A-Za-z0-9]"));
    const QString whole = exported(request(encoding, "whole-" + tag));
    QVERIFY2(QFile::exists(whole), qPrintable(whole));
    for (const int64_t frame : {kSegment + 60, 2 * kSegment + 20})
      interruptedAt(frame, request(encoding, "out-" + tag, "kept-" + tag));
    QCOMPARE(QDir(at("kept-" + tag)).entryList(QDir::Files, QDir::Name), (QStringList{"0.segment", "1.segment"}));
    ExportRequest last = request(encoding, "out-" + tag, "kept-" + tag);
    std::atomic<int64_t> first = -1;
    last.onProgress = [&](const ExportProgress& progress) { first = progress.first; };
    const QString resumed = exported(last);
    QVERIFY2(QFile::exists(resumed), qPrintable(resumed));
    QCOMPARE(first.load(), 2 * kSegment);
    const QStringList pictures = packets(resumed, "v:0");
    QCOMPARE(int64_t(pictures.size()), kFrames);
    // With a peak to keep to, x264's threads do not make the same twice, whoever runs it.
    if (encoding.maxBitRate == 0) QCOMPARE(pictures, packets(whole, "v:0"));
    if (encoding.sound.place == SoundPlace::Within) QCOMPARE(packets(resumed, "a:0"), packets(whole, "a:0"));
    QCOMPARE(run("ffmpeg", {"-v", "warning", "-i", resumed, "-f", "null", "-"}), QString());
  }

  // Where an encoder has given up, another one goes on, which orders, refers and puts out of order otherwise: what is
  // seen is what each has made alone, for FFmpeg and for a second decoder.
  void anotherEncoderGoesOn_data() {
    QTest::addColumn<Codec>("codec");
    QTest::addColumn<Container>("container");
    QTest::addColumn<bool>("ordered"); // the first one puts no pictures out of order
    for (const bool ordered : {false, true})
      for (const Container container : {Container::Mp4, Container::Mkv})
        for (const Codec codec : {Codec::H264, Codec::Hevc})
          QTest::addRow("%s in %s%s", codec == Codec::H264 ? "H.264" : "H.265",
                        std::string(infoOf(container).word).c_str(), ordered ? ", pictures in order" : "")
              << codec << container << ordered;
    QTest::newRow("VP9") << Codec::Vp9 << Container::Webm << false;
  }
  void anotherEncoderGoesOn() {
    QFETCH(Codec, codec);
    QFETCH(Container, container);
    QFETCH(bool, ordered);
    constexpr int kEach = 40;
    const Project p = project({});
    const auto plan = Plan::build(p, probeFootage(p), "d1");
    QVERIFY(plan);
    const auto stream = [&](bool second) {
      Encoding e;
      e.codec = codec;
      e.container = container;
      e.crf = 26;
      // x265 reads beyond what it has been given at its slower speeds, and does not make the same twice then.
      e.speed = codec == Codec::Vp9 ? "5" : second || codec == Codec::Hevc ? "superfast" : "medium";
      if (codec != Codec::Vp9) {
        // Each to what the first one does, which the second keeps to; that of H.264 puts pictures out of order as it is
        // told.
        e.bPictures = ordered && (codec == Codec::Hevc || !second) ? 0 : 3;
        e.references = ordered ? 2 : 4;
      }
      PictureStream s{pictureOf(plan->deliverable()), resolved(e, pictureOf(plan->deliverable()))};
      s.threads = 1;
      return s;
    };
    const std::string ending(infoOf(container).word);
    const auto path = [&](const char* name) { return at(name).toStdString() + "." + ending; };
    auto reader = VideoReader::open(*probe(at("long.mp4").toStdString()));
    QVERIFY(reader);
    const auto add = [&](OutputFile& file, int first) {
      for (int n = first; n < first + kEach; ++n) {
        const auto picture = reader->frameAt(n);
        const Status added = picture ? file.addPicture(*picture) : tl::unexpected(picture.error());
        if (!added) qWarning("%s", sentence(added.error()).c_str());
        if (!added) return false;
      }
      return true;
    };
    std::vector<av::PacketPtr> packets;
    std::string headers;
    {
      auto first = OutputFile::create(path("first"), stream(false), OutputFile::Holds::Picture);
      QVERIFY(first);
      first->setOnPicture([&](const AVPacket& packet) -> Status {
        packets.emplace_back(av_packet_clone(&packet));
        return {};
      });
      headers = first->headers();
      QVERIFY(add(*first, 0) && first->finish());
      auto second = OutputFile::create(path("second"), stream(true), OutputFile::Holds::Picture);
      QVERIFY(second);
      QVERIFY(add(*second, kEach) && second->finish());
    }
    PictureStream goesOn = stream(true);
    goesOn.headersBefore = headers;
    goesOn.first = kEach;
    if (codec != Codec::Vp9) goesOn.encoding.references = 3;
    if (codec == Codec::Hevc && ordered) goesOn.encoding.bPictures = 3;
    auto both = OutputFile::create(path("both"), goesOn, OutputFile::Holds::Picture);
    QVERIFY2(both.has_value(), both ? "" : sentence(both.error()).c_str());
    for (const av::PacketPtr& packet : packets) {
      const Status added = both->addPacket(*packet, true);
      QVERIFY2(added.has_value(), added ? "" : sentence(added.error()).c_str());
    }
    QVERIFY(add(*both, kEach) && both->finish());
    const auto film = [&](const char* name) { return QString::fromStdString(path(name)); };
    QCOMPARE(run("ffmpeg", {"-v", "warning", "-i", film("both"), "-f", "null", "-"}), QString());
    const QByteArray alone =
        test::decodedByFfmpeg(film("first"), m_folder.path()) + test::decodedByFfmpeg(film("second"), m_folder.path());
    QCOMPARE(alone.size(), 2 * kEach * 64 * 64 * 3 / 2);
    QVERIFY2(test::decodedByFfmpeg(film("both"), m_folder.path()) == alone, "by FFmpeg");
    // openh264 loses a picture at the join of H.264 where pictures are put out of order.
    if (codec == Codec::H264 && !ordered) return;
    const QByteArray seen = test::decodedBySecond(film("both"), m_folder.path());
    const QByteArray wanted =
        test::decodedBySecond(film("first"), m_folder.path()) + test::decodedBySecond(film("second"), m_folder.path());
    QCOMPARE(seen.size(), wanted.size());
    constexpr qsizetype kBytes = 64 * 64 * 3 / 2;
    for (int n = 0; n < 2 * kEach; ++n)
      QVERIFY2(seen.mid(n * kBytes, kBytes) == wanted.mid(n * kBytes, kBytes),
               qPrintable(QString("the second decoder, frame %1").arg(n)));
  }

  // What is given up in the middle ends where it was marked last, whatever has come after that; without a mark, nothing
  // of it is there.
  void endsAtItsMark_data() {
    QTest::addColumn<QList<int>>("marks"); // behind so many packets
    QTest::addColumn<int>("end");
    QTest::newRow("one") << QList<int>{10} << 10;
    QTest::newRow("the last counts") << QList<int>{4, 12} << 12;
    QTest::newRow("none") << QList<int>{} << 0;
  }
  void endsAtItsMark() {
    QFETCH(QList<int>, marks);
    QFETCH(int, end);
    constexpr int kBefore = 30; // frames of the segments before
    constexpr int kAhead = 5;   // that are traced before they are encoded
    constexpr int kAll = 20;
    constexpr Size canvas{64, 64};
    const std::string folder = at(QStringLiteral("marked%1").arg(marks.size())).toStdString();
    auto store = SegmentStore::open(folder, "key", canvas, {});
    QVERIFY(store && store->begin(3, {"first", "headers"}));
    const PictureTrace::Shape shape(canvas);
    const auto trace = PictureTrace::unpacked(std::string(shape.bytes(), 'x'), shape);
    const av::PacketPtr packet(av::allocated(av_packet_alloc()));
    QVERIFY(av_new_packet(packet.get(), 3000) == 0);
    std::fill_n(packet->data, packet->size, uint8_t(7));
    QVERIFY(store->add(trace, kAhead));
    for (int n = 0; n < kAll; ++n) {
      QVERIFY(store->add(trace, 1));
      if (marks.contains(n)) store->mark({{n * 24'000, kBefore + n, 0.5}, kBefore + n});
      packet->pts = packet->dts = kBefore + n;
      QVERIFY(store->add(*packet));
      if (n == 8) store->add(LostPictures{1, kBefore + 8, 6});
      if (n == 15) store->add(LostPictures{1, kBefore + 15, 2});
    }
    QVERIFY(store->finishAtMark());
    const auto made = store->made(3);
    QCOMPARE(made.has_value(), end > 0);
    if (end == 0) return;
    QCOMPARE(made->end.frame, kBefore + end);
    QCOMPARE(made->end.spent.bits, end * 24'000);
    int packets = 0;
    int64_t traced = 0;
    int64_t lost = 0;
    QVERIFY(store->replay(3, {[&](const AVPacket& is) -> Status {
                                packets +=
                                    is.pts == kBefore + packets && is.size == 3000 && is.data[2999] == 7 ? 1 : 99;
                                return {};
                              },
                              [&](const PictureTrace&, int64_t frames) -> Status {
                                traced += frames;
                                return {};
                              },
                              [&](const LostPictures& each) { lost += each.count; }}));
    QCOMPARE(packets, end);
    QVERIFY2(traced >= end && traced <= end + kAhead + 1, "all of its pictures are traced");
    QCOMPARE(lost, std::min(6, end - 8));
  }

  // Each segment begins with a key picture, whatever the distance of keys.
  void segmentsBeginWithAKey() {
    Encoding e;
    e.sound.place = SoundPlace::None;
    e.crf = 30;
    e.keySeconds = Rational(7);
    e.keysAtCuts = false;
    const QString file = exported(request(e, "keys"));
    const QStringList pictures = packets(file, "v:0");
    for (const int64_t frame : {int64_t(0), kSegment, 2 * kSegment})
      QVERIFY2(pictures.value(int(frame)).contains(",K_"), qPrintable(pictures.value(int(frame))));
    QVERIFY(!pictures.value(int(kSegment - 1)).contains(",K_"));
  }

  // What is no whole segment, or was made otherwise, is made again.
  void whatIsNotWholeIsMadeAgain_data() {
    QTest::addColumn<QString>("what");
    QTest::newRow("cut short") << "short";
    QTest::newRow("one bit is another") << "bit";
    QTest::newRow("of another quality") << "quality";
    QTest::newRow("something else") << "else";
  }
  void whatIsNotWholeIsMadeAgain() {
    QFETCH(QString, what);
    Encoding e;
    e.sound.place = SoundPlace::None;
    e.crf = 26;
    static const QString whole = exported(request(e, "unbroken"));
    const QString kept = "kept-" + what;
    Encoding before = e;
    if (what == "quality") before.crf = 40;
    interruptedAt(2 * kSegment + 20, request(before, "broken-" + what, kept));
    QFile file(at(kept) + "/1.segment");
    QVERIFY(file.open(QIODevice::ReadWrite));
    QByteArray bytes = file.readAll();
    if (what == "short") bytes.chop(bytes.size() / 2);
    if (what == "bit") bytes[bytes.size() / 2] = char(bytes.at(bytes.size() / 2) ^ 4);
    if (what == "else") bytes = "not a segment";
    QVERIFY(file.resize(0) && file.seek(0) && file.write(bytes) == bytes.size());
    file.close();
    ExportRequest last = request(e, "broken-" + what, kept);
    std::atomic<int64_t> first = -1;
    last.onProgress = [&](const ExportProgress& progress) { first = progress.first; };
    const QString resumed = exported(last);
    QVERIFY2(QFile::exists(resumed), qPrintable(resumed));
    QCOMPARE(first.load(), what == "quality" ? 0 : kSegment);
    QCOMPARE(packets(resumed, "v:0"), packets(whole, "v:0"));
  }

  // Over all segments the bit rate that was asked for is kept, as by one encoder: within 5 %. Common practice, no
  // published source.
  void theBitRateIsKept_data() {
    QTest::addColumn<RateControl>("control");
    QTest::newRow("average") << RateControl::Variable;
    QTest::newRow("constant") << RateControl::Constant;
  }
  void theBitRateIsKept() {
    QFETCH(RateControl, control);
    Encoding e;
    e.rateControl = control;
    e.bitRate = 150'000;
    e.sound.place = SoundPlace::None;
    const QString file = exported(request(e, QStringLiteral("rate%1").arg(int(control))));
    QVERIFY2(QFile::exists(file), qPrintable(file));
    qint64 bytes = 0;
    for (const QString& packet : packets(file, "v:0")) bytes += packet.section(',', 4, 4).toLongLong();
    const double rate = 8.0 * double(bytes) * kRate / kFrames;
    QVERIFY2(std::abs(rate / 150'000 - 1) < 0.05, qPrintable(QString::number(rate)));
  }
};

QTEST_GUILESS_MAIN(TestSegments)
#include "tst_segments.moc"
