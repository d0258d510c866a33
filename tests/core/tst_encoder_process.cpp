// SPDX-License-Identifier: GPL-3.0-or-later
// An encoder in a process of its own, here one in software, which every machine has: what goes in comes out, and
// whatever becomes of the process is an error and no more.
#include "media/Av.h"
#include "media/write/EncoderProcess.h"
#include "media/write/PictureEncoder.h"
#include "support/TestMedia.h"

#include <QTest>
#include <csignal>
#include <filesystem>
#include <fstream>

using namespace tromb;

namespace {

constexpr int kPictures = 30;
constexpr Size kSize{320, 180};

/// The processes that this one has started and that have not ended.
std::vector<pid_t> startedProcesses() {
  std::vector<pid_t> found;
  for (const auto& thread : std::filesystem::directory_iterator("/proc/self/task")) {
    std::ifstream list(thread.path() / "children");
    for (pid_t child = 0; list >> child;) found.push_back(child);
  }
  return found;
}

/// A stream that this encoder of FFmpeg makes as though it were one in graphics hardware.
PictureStream streamBy(const HardwareEncoder& encoder) {
  PictureStream stream;
  stream.picture = {kSize, FrameRate(), {}, Rational(1)};
  stream.encoding.hardware = true;
  stream.encoding.rateControl = RateControl::ConstantQuality;
  stream.encoding = resolved(stream.encoding, stream.picture);
  stream.hardware = &encoder;
  return stream;
}

Frame pictureOf(int number) {
  return test::painted(kSize, number, test::texture);
}

/// The mean difference of luma.
double difference(const Frame& a, const Frame& b) {
  int64_t sum = 0;
  for (int y = 0; y < kSize.height; ++y)
    for (int x = 0; x < kSize.width; ++x) sum += std::abs(test::lumaAt(a, x, y) - test::lumaAt(b, x, y));
  return double(sum) / (kSize.width * kSize.height);
}

} // namespace

class TestEncoderProcess : public QObject {
  Q_OBJECT

private slots:
  void whatGoesInComesOut() {
    const HardwareEncoder encoder{"libx264", HardwareInterface::Vaapi, {}};
    auto opened = PictureEncoder::open(streamBy(encoder), "a.mp4", true);
    QVERIFY2(opened, opened ? "" : sentence(opened.error()).c_str());
    QCOMPARE(startedProcesses().size(), size_t(1));
    QVERIFY2(opened->context().extradata_size > 0, "the headers come too");
    av::CodecPtr decoder(avcodec_alloc_context3(avcodec_find_decoder(AV_CODEC_ID_H264)));
    av::ParametersPtr parameters(avcodec_parameters_alloc());
    QVERIFY(avcodec_parameters_from_context(parameters.get(), &opened->context()) >= 0);
    QVERIFY(avcodec_parameters_to_context(decoder.get(), parameters.get()) >= 0);
    QCOMPARE(avcodec_open2(decoder.get(), decoder->codec, nullptr), 0);
    int seen = 0;
    double worst = 0;
    const auto read = [&](const AVPacket* packet) {
      QVERIFY(avcodec_send_packet(decoder.get(), packet) >= 0);
      av::FramePtr frame(av_frame_alloc());
      while (avcodec_receive_frame(decoder.get(), frame.get()) >= 0) {
        const Frame got(av_frame_clone(frame.get()), av::Closer());
        QCOMPARE(got->pts, seen);
        worst = std::max(worst, difference(got, pictureOf(seen++)));
      }
    };
    const PacketSink sink = [&](AVPacket& packet) {
      read(&packet);
      return Status();
    };
    for (int n = 0; n < kPictures; ++n) QVERIFY(opened->add(pictureOf(n), 1, sink));
    QVERIFY(opened->finish(sink));
    read(nullptr);
    QCOMPARE(seen, kPictures);
    QVERIFY2(worst < 4, qPrintable(QString::number(worst)));
    *opened = *PictureEncoder::open(streamBy(encoder), "b.mp4", true); // the first ends with it
    QCOMPARE(startedProcesses().size(), size_t(1));
  }

  void whateverBecomesOfIt_data() {
    QTest::addColumn<int>("signal");
    QTest::addColumn<QString>("words");
    QTest::newRow("it is killed") << SIGKILL << "has crashed (KILL)";
    QTest::newRow("it gives up") << SIGABRT << "has crashed (ABRT)";
    QTest::newRow("it stands still") << SIGSTOP << "does not answer";
  }
  void whateverBecomesOfIt() {
    QFETCH(const int, signal);
    QFETCH(const QString, words);
    const HardwareEncoder encoder{"libx264", HardwareInterface::Nvenc, {}};
    const PacketSink nowhere = [](AVPacket&) { return Status(); };
    {
      auto opened = PictureEncoder::open(streamBy(encoder), "a.mp4", true);
      QVERIFY(opened);
      for (int n = 0; n < kPictures / 2; ++n) QVERIFY(opened->add(pictureOf(n), 1, nowhere));
      QCOMPARE(::kill(startedProcesses().at(0), signal), 0);
      Status done;
      for (int n = kPictures / 2; done && n < kPictures; ++n) done = opened->add(pictureOf(n), 1, nowhere);
      QVERIFY2(!done, "it is told");
      QVERIFY(done.error().code == ErrorCode::Encoder);
      QVERIFY2(QString::fromStdString(done.error().message.text()).contains(words),
               done.error().message.text().c_str());
      QCOMPARE(done.error().path, std::string("a.mp4"));
    }
    QVERIFY2(startedProcesses().empty(), "no process is left");
  }

  // It says itself that it cannot: samples that it does not take, and a size that cannot be.
  void whatItCannot_data() {
    QTest::addColumn<QString>("encoder");
    QTest::newRow("pictures of another kind") << "libx265"; // takes no NV12, and has no hardware
    QTest::newRow("a size that 4:2:0 has not") << "libx264";
  }
  void whatItCannot() {
    QFETCH(const QString, encoder);
    const std::string name = encoder.toStdString();
    const HardwareEncoder made{name, HardwareInterface::Vaapi, {}};
    PictureStream stream = streamBy(made);
    if (encoder == "libx264") stream.picture.size = {3, 3};
    const auto opened = PictureEncoder::open(stream, "a.mp4", true);
    QVERIFY(!opened);
    QVERIFY(opened.error().code == ErrorCode::Unsupported);
    QVERIFY2(startedProcesses().empty(), "no process is left");
  }
};

int main(int argc, char** argv) {
  if (const auto worked = workAsEncoder(argc, argv)) return *worked;
  QCoreApplication application(argc, argv);
  TestEncoderProcess test;
  return QTest::qExec(&test, argc, argv);
}
#include "tst_encoder_process.moc"
