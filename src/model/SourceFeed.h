// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"

#include <QImage>
#include <QObject>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace tromb {

/// Shows one source's pictures at the size of a screen: a single frame when asked, or running in real time, where
/// frames that come too late are passed over. Decodes beside the window's thread; of several requests in a row only
/// the last is answered.
class SourceFeed : public QObject {
  Q_OBJECT

public:
  explicit SourceFeed(QObject* parent = nullptr);
  ~SourceFeed() override;

  /// Turns to another source; nothing is shown until `show`. A medium without a picture is allowed and stays empty.
  void open(const MediaInfo& media, const Bars& bars, QSize most);
  void show(int64_t frame);
  /// Runs from `frame` to before `end` at the source's own rate.
  void play(int64_t frame, int64_t end);
  void pause();
  [[nodiscard]] bool playing() const { return m_playing; }

signals:
  void pictured(const QImage& picture, qint64 frame);
  void ended(); ///< ran to its end
  void failed(const QString& reason);
  /// While running: the share of frames that came in time, 0 to 1, about once a second.
  void keptUp(double share);

private:
  struct Request {
    std::optional<MediaInfo> media; ///< set when the source changes
    Bars bars;
    Size most;
    std::optional<int64_t> frame;
    int64_t end = 0; ///< > frame: run
    int serial = 0;
  };
  void ask(const std::function<void(Request&)>& change);
  void work(const std::stop_token& stop);

  bool m_playing = false;
  int m_serial = 0; ///< answers to older requests are dropped
  std::mutex m_mutex;
  std::condition_variable_any m_changed;
  std::optional<Request> m_request;
  std::jthread m_thread;
};

} // namespace tromb
