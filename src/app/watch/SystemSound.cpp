// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/watch/SystemSound.h"

#include <QAudioDevice>
#include <QAudioSink>
#include <QIODevice>
#include <QMediaDevices>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr qsizetype kBytesASample = qsizetype(sizeof(float)) * kStereo;
constexpr qsizetype kBuffer = kSoundRate / 10; ///< samples that the device holds
constexpr double kFollowNs = 2e9;              ///< in about so long what the device says is followed
constexpr double kFarOff = kSoundRate / 4.0;   ///< samples: it stood still

} // namespace

/// What the device reads from.
class SystemSound::Source final : public QIODevice {
public:
  explicit Source(std::shared_ptr<SoundPipe> pipe) : m_pipe(std::move(pipe)) {
    open(QIODevice::ReadOnly | QIODevice::Unbuffered);
  }
  [[nodiscard]] int64_t given() const { return m_given; } ///< samples
  [[nodiscard]] bool isSequential() const override { return true; }
  [[nodiscard]] qint64 bytesAvailable() const override { return kBuffer * kBytesASample + QIODevice::bytesAvailable(); }

protected:
  qint64 readData(char* data, qint64 most) override {
    const int64_t count = most / kBytesASample;
    m_pipe->take(reinterpret_cast<float*>(data), count); // with silence where nothing is there: the clock goes on
    m_given += count;
    return count * kBytesASample;
  }
  qint64 writeData(const char* /*data*/, qint64 /*most*/) override { return -1; }

private:
  std::shared_ptr<SoundPipe> m_pipe;
  int64_t m_given = 0;
};

SystemSound::SystemSound() = default;

SystemSound::~SystemSound() {
  stop();
}

void SystemSound::start(std::shared_ptr<SoundPipe> pipe) {
  stop();
  m_pipe = std::move(pipe);
  m_heard = 0;
  m_clock.invalidate();
  const QAudioDevice device = QMediaDevices::defaultAudioOutput();
  QAudioFormat format;
  format.setSampleRate(kSoundRate);
  format.setChannelCount(kStereo);
  format.setSampleFormat(QAudioFormat::Float);
  if (!device.isNull() && device.isFormatSupported(format)) {
    m_source = std::make_unique<Source>(m_pipe);
    m_sink = std::make_unique<QAudioSink>(device, format);
    m_sink->setBufferSize(kBuffer * kBytesASample);
    m_sink->start(m_source.get());
    if (m_sink->error() == QAudio::NoError) return;
  }
  m_sink.reset();
  m_silent.start(m_pipe);
}

void SystemSound::stop() {
  if (m_sink) m_sink->reset();
  m_sink.reset();
  m_source.reset();
  m_silent.stop();
  m_pipe.reset();
}

int64_t SystemSound::heard() {
  if (!m_sink) return m_heard + m_silent.heard();
  if (m_sink->error() != QAudio::NoError && m_sink->error() != QAudio::UnderrunError) {
    // The device is gone.
    m_sink.reset();
    m_source.reset();
    m_silent.start(m_pipe);
    return m_heard;
  }
  // Some systems say what was played, others what was handed over: then what waits is to be taken off.
  const int64_t said = m_sink->processedUSecs() * kSoundRate / 1'000'000;
  const auto waits = int64_t((m_sink->bufferSize() - m_sink->bytesFree()) / kBytesASample);
  const int64_t played = std::min(said, m_source->given() - waits);
  if (played <= 0) return m_heard;
  if (!m_clock.isValid()) {
    m_clock.start();
    m_looked = 0;
    m_ahead = double(played);
  }
  // What is said comes in lumps: a steady clock smooths them, and is set by them.
  const int64_t now = m_clock.nsecsElapsed();
  const double steady = double(now) * kSoundRate / 1e9;
  const double off = double(played) - (steady + m_ahead);
  m_ahead += std::abs(off) > kFarOff ? off : off * std::min(1.0, double(now - m_looked) / kFollowNs);
  m_looked = now;
  m_heard = std::max(m_heard, int64_t(steady + m_ahead));
  return m_heard;
}

} // namespace tromb
