// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/watch/SystemSound.h"

#include <QAudioDevice>
#include <QAudioSink>
#include <QIODevice>
#include <QMediaDevices>
#include <algorithm>

namespace tromb {
namespace {

constexpr qsizetype kBytesASample = qsizetype(sizeof(float)) * kStereo;
constexpr qsizetype kBuffer = kSoundRate / 10; ///< samples that the device holds

} // namespace

/// What the device reads from.
class SystemSound::Source final : public QIODevice {
public:
  explicit Source(std::shared_ptr<SoundPipe> pipe) : m_pipe(std::move(pipe)) { open(QIODevice::ReadOnly); }
  [[nodiscard]] bool isSequential() const override { return true; }
  [[nodiscard]] qint64 bytesAvailable() const override { return kBuffer * kBytesASample + QIODevice::bytesAvailable(); }

protected:
  qint64 readData(char* data, qint64 most) override {
    const int64_t count = most / kBytesASample;
    m_pipe->take(reinterpret_cast<float*>(data), count); // with silence where nothing is there: the clock goes on
    return count * kBytesASample;
  }
  qint64 writeData(const char* /*data*/, qint64 /*most*/) override { return -1; }

private:
  std::shared_ptr<SoundPipe> m_pipe;
};

SystemSound::SystemSound() = default;

SystemSound::~SystemSound() {
  stop();
}

void SystemSound::start(std::shared_ptr<SoundPipe> pipe) {
  stop();
  m_pipe = std::move(pipe);
  m_heardBefore = 0;
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
  if (!m_sink) return m_heardBefore + m_silent.heard();
  // What was handed over and is not waiting any more.
  const int64_t given = m_sink->processedUSecs() * kSoundRate / 1'000'000;
  const auto waiting = int64_t((m_sink->bufferSize() - m_sink->bytesFree()) / kBytesASample);
  m_heardBefore = std::max(m_heardBefore, given - std::max<int64_t>(0, waiting));
  if (m_sink->error() == QAudio::NoError || m_sink->error() == QAudio::UnderrunError) return m_heardBefore;
  // The device is gone.
  m_sink.reset();
  m_source.reset();
  m_silent.start(m_pipe);
  return m_heardBefore;
}

} // namespace tromb
