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
  int64_t m_heardBefore = 0; ///< samples that were heard from the device before it failed
};

} // namespace tromb
