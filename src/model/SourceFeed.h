// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"
#include "model/Worker.h"

#include <QImage>
#include <QObject>
#include <memory>

namespace tromb {

/// Shows one source's pictures at the size of a screen: a single frame when asked, or running in real time, where
/// frames that come too late are passed over. Decodes beside the window's thread; of several requests in a row only
/// the last is answered.
class SourceFeed : public QObject {
  Q_OBJECT

public:
  explicit SourceFeed(QObject* parent = nullptr);
  ~SourceFeed() override;

  /// Turns to another source; nothing is shown until `show`. A source without a picture is allowed and stays empty.
  void open(const Reading& reading, QSize most);
  void show(int64_t frame);
  /// Runs from `frame` to before `end` at the source's own rate.
  void play(int64_t frame, int64_t end);
  void pause();
  [[nodiscard]] bool playing() const { return m_playing; }

signals:
  void pictured(const QImage& picture, qint64 frame);
  void ended();                       ///< ran to its end
  void failed(const QString& reason); ///< what was asked for cannot be shown; it does not run any more
  /// While running: the share of frames that came in time, 0 to 1, about once a second.
  void keptUp(double share);

private:
  struct Reel;
  void ask(std::function<Status(Reel&, const Job&)> work);
  /// Beside the window: `feed` is only told.
  static Status run(SourceFeed* feed, Reel& reel, int64_t frame, int64_t end, const Job& job);
  void close();
  void stopWith(const Error& error);

  bool m_playing = false;
  std::shared_ptr<Reel> m_reel; ///< shared with the work under way, which alone looks inside
  Worker m_worker;
};

} // namespace tromb
