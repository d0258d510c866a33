// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"
#include "model/Worker.h"

#include <QImage>
#include <QObject>
#include <memory>

namespace tromb {

/// Shows one source's pictures at the size of a screen, one by one as they are asked for. Decodes beside the window's
/// thread; of several requests in a row only the last is answered.
class SourceFeed : public QObject {
  Q_OBJECT

public:
  explicit SourceFeed(QObject* parent = nullptr);
  ~SourceFeed() override;

  /// Turns to another source; nothing is shown until `show`. A source without a picture is allowed and stays empty.
  void open(const Reading& reading, QSize most);
  void show(int64_t frame);

signals:
  void pictured(const QImage& picture, qint64 frame);
  void failed(const QString& reason); ///< what was asked for cannot be shown

private:
  struct Reel;
  void ask(std::function<Status(Reel&, const Task&)> work);
  void close();
  void stopWith(const Error& error);

  std::shared_ptr<Reel> m_reel; ///< shared with the work under way, which alone looks inside
  Worker m_worker;
};

} // namespace tromb
