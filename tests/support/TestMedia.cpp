// SPDX-License-Identifier: GPL-3.0-or-later
#include "TestMedia.h"

#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "media/Frame.h"
#include "media/read/AudioReader.h"
#include "picture/PlanarFrame.h"
#include "support/Patience.h"

#include <QFile>
#include <QProcess>
#include <array>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace tromb::test {
namespace {

void need(const Status& status) {
  if (!status) throw std::runtime_error(sentence(status.error()));
}

} // namespace

Frame painted(Size size, int number, const Paint& paint) {
  FramePool once;
  const auto canvas = newCanvas(size, {}, once);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const Yuv c = paint(number, x, y);
      canvas->data[0][ptrdiff_t(y) * canvas->linesize[0] + x] = uint8_t(c.y);
      if (x % 2 == 0 && y % 2 == 0) {
        canvas->data[1][ptrdiff_t(y / 2) * canvas->linesize[1] + x / 2] = uint8_t(c.u);
        canvas->data[2][ptrdiff_t(y / 2) * canvas->linesize[2] + x / 2] = uint8_t(c.v);
      }
    }
  return canvas;
}

void writeClip(const std::string& path, Size size, const FrameRate& rate, int frames, const Paint& paint,
               bool clickEverySecond, const Rational& pixelAspect, int rotation) {
  Encoding encoding;
  encoding.rateControl = RateControl::ConstantQuality;
  encoding.crf = 4;
  encoding.speed = "ultrafast";
  const EncodedPicture picture{size, rate, {}, pixelAspect};
  auto out = OutputFile::create(path, {picture, resolved(encoding, picture), rotation},
                                clickEverySecond ? OutputFile::Holds::Both : OutputFile::Holds::Picture);
  if (!out) throw std::runtime_error(sentence(out.error()));
  int64_t soundDone = 0;
  for (int n = 0; n < frames; ++n) {
    need(out->addPicture(painted(size, n, paint)));
    if (!clickEverySecond) continue;
    const int64_t end = (rate.timeOf(n + 1) * Rational(kSoundRate)).nearest();
    std::vector<float> samples;
    for (; soundDone < end; ++soundDone) {
      const int64_t inSecond = soundDone % kSoundRate;
      const double value =
          inSecond < 480 ? 0.5 * std::sin(2 * std::numbers::pi * 1000 * double(inSecond) / kSoundRate) : 0;
      samples.insert(samples.end(), 2, float(value));
    }
    need(out->addSound(samples));
  }
  need(out->finish());
}

Yuv numberStripe(int frame, int x, int width) {
  const int bit = 15 - x * 16 / width;
  return {(frame >> bit) & 1 ? 235 : 16, 128, 128};
}

int readNumber(const Frame& picture, std::optional<int> line) {
  // Whatever the format: as grey of 8 bit.
  const auto grey = newFrame({picture->width, picture->height}, AV_PIX_FMT_GRAY8);
  const av::Handle<SwsContext> sws(sws_getContext(picture->width, picture->height, AVPixelFormat(picture->format),
                                                  picture->width, picture->height, AV_PIX_FMT_GRAY8, SWS_POINT, nullptr,
                                                  nullptr, nullptr));
  if (!sws) throw std::runtime_error("the picture cannot be read");
  sws_scale(sws.get(), picture->data, picture->linesize, 0, picture->height, grey->data, grey->linesize);
  int number = 0;
  for (int stripe = 0; stripe < 16; ++stripe)
    number =
        number * 2 + (lumaAt(grey, (2 * stripe + 1) * picture->width / 32, line.value_or(picture->height / 2)) > 126);
  return number;
}

namespace {

/// A wave at whole numbers from 0 on, which is asked for at every pixel: reckoned once.
class Wave {
public:
  explicit Wave(double (*of)(double)) {
    for (size_t i = 0; i < m_values.size(); ++i) m_values[i] = of(double(i));
  }
  [[nodiscard]] double at(int i) const { return m_values[size_t(i)]; }

private:
  std::array<double, 1 << 16> m_values{};
};

} // namespace

const Paint texture = [](int frame, int x, int y) -> Yuv {
  static const Wave ropes([](double i) { return std::sin(i * 0.35) * 26; });
  static const Wave across([](double i) { return std::sin(i * 0.9) * 9; });
  static const Wave down([](double i) { return std::cos(i * 0.7) * 9; });
  const double rope = ropes.at(x + 2 * y + frame * 3);
  const double cloth = ((x / 24 + y / 24) % 2 ? 40 : -40) + across.at(x) + down.at(y);
  const double lettering = (x / 3 * 7 + y / 5 * 13) % 11 < 3 && (y / 40) % 3 == 0 ? 50 : 0;
  const int luma = int(std::lround(126 + rope + cloth - lettering));
  return {std::clamp(luma, 16, 235), 128 + (x / 90 % 3 - 1) * 28, 128 + (y / 70 % 3 - 1) * 28};
};

QString run(const QString& program, const QStringList& arguments, bool mayFail) {
  QProcess process;
  process.setProcessChannelMode(QProcess::MergedChannels);
  process.start(program, arguments);
  if (!process.waitForFinished(4 * kPatience)) throw std::runtime_error(program.toStdString() + " does not run");
  const QString output = QString::fromUtf8(process.readAll());
  if (!mayFail && process.exitCode() != 0)
    throw std::runtime_error((program + QStringLiteral(": ") + output).toStdString());
  return output;
}

QString demoFolder(const QString& folder) {
  const QString made = qEnvironmentVariable("TROMB_DEMO_FOLDER");
  if (QFile::exists(made + QStringLiteral("/fennick-vale.tromb"))) return made;
  (void)run(QStringLiteral(TROMB_BINARY_DIR "/demo/tromb-demo"), {folder});
  return folder;
}

void ffmpeg(const QString& arguments) {
  (void)run(QStringLiteral("ffmpeg"), ("-v error -y " + arguments).split(' ', Qt::SkipEmptyParts));
}

int lumaAt(const Frame& picture, int x, int y) {
  return picture->data[0][ptrdiff_t(y) * picture->linesize[0] + x];
}

Yuv yuvAt(const Frame& picture, int x, int y) {
  return {lumaAt(picture, x, y), picture->data[1][ptrdiff_t(y / 2) * picture->linesize[1] + x / 2],
          picture->data[2][ptrdiff_t(y / 2) * picture->linesize[2] + x / 2]};
}

} // namespace tromb::test
