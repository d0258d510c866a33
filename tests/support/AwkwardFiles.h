// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <QStringList>
#include <vector>

namespace tromb::test {

/// A media file that is hard to read rightly: made by FFmpeg's own tool, of pictures that carry their numbers (see
/// numberStripe) and a click at each full second.
struct AwkwardFile {
  const char* name; ///< of the row, and of the file: "avi mpeg4 b-frames.avi"
  const char*
      how; ///< what the tool is told between its input and the file, words parted by spaces; or steps, see below
  enum class Rate { Constant, Variable };
  Rate rate = Rate::Constant;
  enum class Sound { None, Clicks };
  Sound sound = Sound::None;
  /// What it is made from: "master.mp4", "long.mp4" (1700 pictures), or another file of the list.
  const char* from = "master.mp4";
  /// Options before the input, for cutting.
  const char* before = "";
  /// Laid behind the file that `how` makes, byte by byte: another file of the list, made like it.
  const char* then = "";
  bool untold = false; ///< the tools cannot tell its pictures' times
};

/// Containers by codecs by B-frames by kinds of rate.
[[nodiscard]] const std::vector<AwkwardFile>& awkwardFiles();

/// Makes files in a folder, each once. Throws std::runtime_error where the tool fails.
class AwkwardMaker {
public:
  explicit AwkwardMaker(QString folder) : m_folder(std::move(folder)) {}
  [[nodiscard]] QString make(const AwkwardFile& file);
  [[nodiscard]] QString make(const QString& name); ///< of the list, or one of the two that all others are made from

private:
  QString m_folder;
};

/// What FFmpeg's own tools read of a file's pictures, in order of presentation.
struct ToolsReading {
  std::vector<int> numbers;   ///< carried by the pictures that its tool decodes, none doubled or left out
  std::vector<double> times;  ///< seconds from the first; empty where not all pictures tell one
  std::vector<double> clicks; ///< where clicks begin in the sound, seconds from the first picture
};
[[nodiscard]] ToolsReading readByTools(const QString& file);

} // namespace tromb::test
