// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/SoundOut.h"

#include <QObject>

class QAudioSink;

namespace tromb {

/// Sound to the system's usual device, with the clock of that; where there is none, or it fails, a silent clock goes on
/// in its place. The device is looked for at each start. For the window's thread.
class SystemSound final : public QObject, public SoundOut {
  Q_OBJECT

public:
  SystemSound();
  ~SystemSound() override;
  void start(std::shared_ptr<SoundPipe> pipe) override;
  void stop() override;
  [[nodiscard]] int64_t heard() override;

private:
  class Source;
  std::shared_ptr<SoundPipe> m_pipe;
  std::unique_ptr<Source> m_source;
  std::unique_ptr<QAudioSink> m_sink; ///< null while it is silent
  SilentOut m_silent;
  int64_t m_heard = 0;  ///< samples; never less than before
  double m_ahead = 0;   ///< samples by which the device is ahead of `m_clock`
  int64_t m_looked = 0; ///< nanoseconds of `m_clock` at the last look
  QElapsedTimer m_clock;
};

} // namespace tromb
