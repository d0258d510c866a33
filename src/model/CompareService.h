// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Compare.h"
#include "model/Worker.h"

#include <QImage>
#include <QObject>
#include <QSize>
#include <memory>
#include <optional>
#include <string>

namespace tromb {

/// What is shown at one side of a comparison.
struct ComparedSide {
  std::string path;        ///< of a file; empty where what a job's deliverable was made from is shown
  std::string job;         ///< Job::id
  std::string deliverable; ///< Deliverable::id
  friend bool operator==(const ComparedSide&, const ComparedSide&) = default;
};

/// Shows two files, or a file and what it was made from, in step, frame by frame, and measures how much they are like
/// each other. Opens, decodes and composes beside the window's thread; of several pictures that are asked for in a row
/// only the last is shown. For the window's thread.
class CompareService : public QObject {
  Q_OBJECT

public:
  /// `queueFolder` is where jobs lie; `indexFolder`: see IndexStore, may be empty.
  CompareService(std::string queueFolder, std::string indexFolder, QObject* parent = nullptr);
  ~CompareService() override;

  /// Turns to two others; `opened` follows, or `failed`. The same as before changes nothing.
  void open(const ComparedSide& first, const ComparedSide& second);
  void close(); ///< Lets go of the files.
  [[nodiscard]] bool isOpen() const { return m_frames > 0; }
  [[nodiscard]] bool busy() const { return m_drawer.busy(); } ///< what was asked for is not shown yet
  [[nodiscard]] const ComparedSide& first() const { return m_sides.first; }
  [[nodiscard]] const ComparedSide& second() const { return m_sides.second; }

  // Once it is open: of the first side.
  [[nodiscard]] int64_t frames() const { return m_frames; }
  [[nodiscard]] const FrameRate& rate() const { return m_rate; }
  [[nodiscard]] double seconds() const { return m_seconds; }
  [[nodiscard]] int64_t frameAt(double seconds) const; ///< that is shown so long after the first picture
  [[nodiscard]] double secondsOf(int64_t frame) const { return isOpen() ? double(frame) / m_rate.toDouble() : 0; }

  /// What is to be shown, as soon as it is open.
  void show(int64_t frame);
  void showAt(double seconds); ///< the frame of that time
  static constexpr int kMostGain = 64;
  /// Also the difference of the two, times so much; 0: without.
  void setGain(int gain);
  [[nodiscard]] int gain() const { return m_gain; }
  /// How large the pictures are drawn at most, in pixels of the screen; they are made ready for that as well.
  void setMost(QSize most);

  struct Pair {
    int64_t frame = -1; ///< of the first side; −1: there is none yet
    int64_t otherFrame = -1;
    QImage first, second, difference;                ///< pixel for pixel, at the size of the first
    QImage smallFirst, smallSecond, smallDifference; ///< within the size that was asked for, in true shape
  };
  [[nodiscard]] const Pair& pair() const { return m_pair; }
  [[nodiscard]] int64_t wanted() const { return m_wanted; } ///< the frame that was asked for last

  /// Measures all pictures in a thread that gives way; `measuredMore` tells how far it is, again and again.
  void measure();
  /// What was measured so far; empty before anything was.
  [[nodiscard]] const std::optional<Comparison>& comparison() const { return m_comparison; }
  [[nodiscard]] bool measured() const { return m_measured; } ///< it is of all pictures

signals:
  void opened();
  void pictured();
  void measuredMore();
  void failed(const QString& reason);

private:
  struct Opened;
  void draw();
  void fail(const Error& error);

  std::string m_queueFolder;
  std::string m_indexFolder;
  std::pair<ComparedSide, ComparedSide> m_sides;
  int64_t m_frames = 0;
  FrameRate m_rate;
  double m_seconds = 0;
  int64_t m_wanted = 0;
  std::optional<double> m_wantedAt; ///< seconds; before it is open
  int m_gain = 0;
  QSize m_most{640, 640};
  bool m_stale = false; ///< something else is to be drawn as soon as the drawer is free
  Pair m_pair;
  std::optional<Comparison> m_comparison;
  bool m_measured = false;
  std::shared_ptr<Opened> m_opened; ///< its pictures are for the drawer alone
  Worker m_drawer;
  Worker m_measurer;
};

} // namespace tromb
