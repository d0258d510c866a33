// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/AwkwardFiles.h"

#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <cmath>
#include <stdexcept>

namespace tromb::test {
namespace {

constexpr int kWidth = 192;
constexpr int kHeight = 108;

} // namespace

const std::vector<AwkwardFile>& awkwardFiles() {
  using Rate = AwkwardFile::Rate;
  using Sound = AwkwardFile::Sound;
  static const std::vector<AwkwardFile> files{
      // Containers by codecs, with and without pictures that are shown in another order than they are coded in.
      {"mpeg4.avi", "-c:v mpeg4 -q:v 2 -g 12 -bf 0 -c:a pcm_s16le", Rate::Constant, Sound::Clicks},
      {"mpeg4 b-frames.avi", "-c:v mpeg4 -q:v 2 -g 12 -bf 2 -c:a mp2", Rate::Constant, Sound::Clicks},
      {"mpeg2 b-frames.avi", "-c:v mpeg2video -q:v 2 -g 12 -bf 2 -an"},
      {"h264.avi", "-c:v libx264 -preset fast -g 20 -bf 0 -an"},
      {"h264 b-frames.avi", "-c:v libx264 -preset fast -g 20 -bf 3 -an"},
      {"mjpeg.avi", "-c:v mjpeg -q:v 2 -c:a pcm_s16le", Rate::Constant, Sound::Clicks},
      {"ffv1.avi", "-c:v ffv1 -an"},
      {"mpeg4 b-frames.mpg", "-c:v mpeg4 -q:v 2 -g 12 -bf 2 -an"},
      {"mpeg2 b-frames.mpg", "-c:v mpeg2video -q:v 2 -g 12 -bf 2 -c:a mp2", Rate::Constant, Sound::Clicks},
      {"mpeg1.mpg", "-c:v mpeg1video -q:v 2 -g 12 -bf 0 -an"},
      {"h264 b-frames.mpg", "-c:v libx264 -preset fast -g 20 -bf 3 -f vob -an"},
      {"mpeg2 b-frames.ts", "-c:v mpeg2video -q:v 2 -g 12 -bf 2 -c:a mp2", Rate::Constant, Sound::Clicks},
      {"h264.ts", "-c:v libx264 -preset fast -g 20 -bf 0 -c:a aac", Rate::Constant, Sound::Clicks},
      {"h264 b-frames.ts", "-c:v libx264 -preset fast -g 50 -bf 3 -c:a aac", Rate::Constant, Sound::Clicks},
      {"h264 one long group.ts", "-c:v libx264 -preset fast -g 250 -bf 3 -c:a aac", Rate::Constant, Sound::Clicks},
      {"h264 open groups.ts", "-c:v libx264 -preset fast -g 12 -bf 2 -x264-params open-gop=1:scenecut=0 -an"},
      {"hevc b-frames.ts", "-c:v libx265 -preset fast -x265-params log-level=none:keyint=20:bframes=3 -an"},
      {"hevc open groups.ts", "-c:v libx265 -preset fast -x265-params log-level=none:keyint=12:open-gop=1 -an"},
      {"h264 refreshed piece by piece.ts", "-c:v libx264 -preset fast -x264-params intra-refresh=1:keyint=10 -an"},
      {"h264 b-frames.flv", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a aac", Rate::Constant, Sound::Clicks},
      {"flv1.flv", "-c:v flv1 -q:v 2 -g 12 -c:a mp3 -ar 44100", Rate::Constant, Sound::Clicks},
      {"h264 b-frames.mkv", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a flac", Rate::Constant, Sound::Clicks},
      {"hevc b-frames.mkv", "-c:v libx265 -preset fast -x265-params log-level=none:keyint=20:bframes=3 -c:a libopus",
       Rate::Constant, Sound::Clicks},
      {"ffv1.mkv", "-c:v ffv1 -c:a pcm_s24le", Rate::Constant, Sound::Clicks},
      {"prores.mkv", "-c:v prores_ks -profile:v 1 -an"},
      {"vp9.webm", "-c:v libvpx-vp9 -b:v 4M -g 20 -c:a libopus", Rate::Constant, Sound::Clicks},
      {"vp8 with unseen pictures.webm", "-c:v libvpx -b:v 4M -g 40 -auto-alt-ref 1 -lag-in-frames 16 -an"},
      {"av1.mkv", "-c:v libsvtav1 -preset 12 -crf 20 -g 20 -an"},
      {"av1.mp4", "-c:v libsvtav1 -preset 12 -crf 20 -g 20 -an"},
      {"h264 b-frames.mp4", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a aac", Rate::Constant, Sound::Clicks},
      {"h264 open groups.mp4", "-c:v libx264 -preset fast -g 12 -bf 2 -x264-params open-gop=1:scenecut=0 -an"},
      {"hevc open groups.mp4",
       "-c:v libx265 -preset fast -x265-params log-level=none:keyint=12:open-gop=1 -tag:v hvc1 -an"},
      {"h264 in fragments.mp4",
       "-c:v libx264 -preset fast -g 20 -bf 3 -c:a aac -movflags +frag_keyframe+empty_moov+default_base_moof",
       Rate::Constant, Sound::Clicks},
      {"prores.mov", "-c:v prores_ks -profile:v 1 -c:a pcm_s16le", Rate::Constant, Sound::Clicks},
      {"h264 b-frames.mov", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a pcm_s16le", Rate::Constant, Sound::Clicks},
      {"mpeg2 b-frames.mxf", "-c:v mpeg2video -q:v 2 -g 12 -bf 2 -c:a pcm_s16le -ar 48000", Rate::Constant,
       Sound::Clicks},
      {"h264 intra.mxf", "-c:v libx264 -preset fast -g 1 -an"},
      {"mpeg4 b-frames.asf", "-c:v mpeg4 -q:v 2 -g 12 -bf 2 -an"},
      {"h264 b-frames.asf", "-c:v libx264 -preset fast -g 20 -bf 3 -an"},
      {"h264 b-frames.nut", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a pcm_s16le", Rate::Constant, Sound::Clicks},
      {"theora.ogv", "-c:v libtheora -q:v 9 -g 20 -c:a libvorbis", Rate::Constant, Sound::Clicks},
      {"bare h264.h264", "-c:v libx264 -preset fast -g 20 -bf 3 -an"},
      {"bare hevc.hevc", "-c:v libx265 -preset fast -x265-params log-level=none:keyint=20:bframes=3 -an"},
      {"bare mpeg2.m2v", "-c:v mpeg2video -q:v 2 -g 12 -bf 2 -an"},
      {"vp9.ivf", "-c:v libvpx-vp9 -b:v 4M -g 20 -an"},
      {"animated.gif", "-vf scale=192:108:flags=neighbor -an"},
      // Rates.
      {"variable.mp4", "-vf select='not(eq(mod(n\\,7)\\,3)+eq(mod(n\\,11)\\,4))' -vsync vfr -c:v libx264 -bf 0 -an",
       Rate::Variable},
      {"variable b-frames.mp4",
       "-vf select='not(eq(mod(n\\,7)\\,3)+eq(mod(n\\,11)\\,4))' -vsync vfr -c:v libx264 -g 20 -bf 3 -c:a aac",
       Rate::Variable, Sound::Clicks},
      {"variable b-frames.mov",
       "-vf select='not(eq(mod(n\\,7)\\,3)+eq(mod(n\\,11)\\,4))' -vsync vfr -c:v libx264 -g 20 -bf 3 -an",
       Rate::Variable},
      {"variable b-frames.mkv",
       "-vf select='not(eq(mod(n\\,7)\\,3)+eq(mod(n\\,11)\\,4))' -vsync vfr -c:v libx264 -g 20 -bf 3 -an",
       Rate::Variable},
      {"variable b-frames.ts",
       "-vf select='not(eq(mod(n\\,7)\\,3)+eq(mod(n\\,11)\\,4))' -vsync vfr -c:v libx264 -g 20 -bf 3 -an",
       Rate::Variable},
      {"seconds between pictures.mp4", "-vf select='eq(n\\,0)+eq(n\\,25)+gt(n\\,95)' -vsync vfr -c:v libx264 -bf 0 -an",
       Rate::Variable},
      {"begins late.mp4", "-c:v libx264 -preset fast -bf 2 -c:a aac -output_ts_offset 3", Rate::Constant,
       Sound::Clicks},
      {"variable in the end.mp4",
       "-vf select='lt(n\\,1600)+not(eq(mod(n\\,7)\\,3))' -vsync vfr -c:v libx264 -preset veryfast -g 50 -bf 0 -an",
       Rate::Variable, Sound::None, "long.mp4"},
      {"variable in the end.mkv",
       "-vf select='lt(n\\,1600)+not(eq(mod(n\\,7)\\,3))' -vsync vfr -c:v libx264 -preset veryfast -g 50 -bf 2 -an",
       Rate::Variable, Sound::None, "long.mp4"},
      {"last one longer.mp4", "-c copy -an -bsf:v setts=duration=if(eq(N\\,99)\\,3000\\,DURATION)"},
      {"last one longer b-frames.mp4", "-c copy -bsf:v setts=pts=PTS:dts=DTS:duration=if(eq(N\\,99)\\,3000\\,DURATION)",
       Rate::Constant, Sound::Clicks, "h264 b-frames.mp4"},
      {"shown when decoded b-frames.mp4", "-c copy -bsf:v setts=pts=DTS:dts=DTS", Rate::Constant, Sound::None,
       "h264 b-frames.mp4", "", "", true},
      {"cut.mp4", "-c copy", Rate::Constant, Sound::Clicks, "h264 b-frames.mp4", "-ss 1.3"},
      {"cut.mkv", "-c copy", Rate::Constant, Sound::Clicks, "h264 b-frames.mp4", "-ss 1.3"},
      {"cut.ts", "-c copy", Rate::Constant, Sound::Clicks, "h264 b-frames.mp4", "-ss 1.3"},
      {"cut open groups.mp4", "-c copy", Rate::Constant, Sound::None, "hevc open groups.mp4", "-ss 1.3"},
      {"cut h264 open groups.mp4", "-c copy", Rate::Constant, Sound::None, "h264 open groups.mp4", "-ss 1.3"},
      {"begins without a key.mp4", "-c copy -copyinkf -an -bsf:v noise=drop=not(n)", Rate::Constant, Sound::None,
       "h264 b-frames.mp4"},
      {"cut open groups.ts", "-c copy", Rate::Constant, Sound::None, "hevc open groups.ts", "-ss 1.3"},
      {"cut open groups.mkv", "-c copy", Rate::Constant, Sound::None, "h264 open groups.ts", "-ss 1.3"},
      {"sound goes on.ts", "-vf select='lt(n\\,1600)' -c:v libx264 -preset veryfast -bf 2 -c:a aac", Rate::Constant,
       Sound::Clicks, "long.mp4"},
      {"sound goes on.flv", "-vf select='lt(n\\,1600)' -c:v libx264 -preset veryfast -bf 2 -c:a aac", Rate::Constant,
       Sound::Clicks, "long.mp4"},
      {"sound goes on.mkv", "-vf select='lt(n\\,1600)' -c:v libx264 -preset veryfast -bf 2 -c:a aac", Rate::Constant,
       Sound::Clicks, "long.mp4"},
      {"sound goes on.webm", "-vf select='lt(n\\,1600)' -c:v libvpx -deadline realtime -b:v 4M -c:a libopus",
       Rate::Constant, Sound::Clicks, "long.mp4"},
      {"two behind each other.ts", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a mp2", Rate::Constant, Sound::Clicks,
       "master.mp4", "", "two channels.ts"},
      {"two channels.ts", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a mp2", Rate::Constant, Sound::Clicks},
      {"two with fewer channels then.ts", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a mp2", Rate::Constant,
       Sound::Clicks, "master.mp4", "", "one channel.ts"},
      {"one channel.ts", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a mp2 -ac 1", Rate::Constant, Sound::Clicks},
      {"two with another rate then.ts", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a mp2", Rate::Constant, Sound::Clicks,
       "master.mp4", "", "other rate.ts"},
      {"other rate.ts", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a mp2 -ar 32000", Rate::Constant, Sound::Clicks},
      {"two behind each other.mpg", "-c:v mpeg2video -q:v 2 -g 12 -bf 2 -c:a mp2", Rate::Constant, Sound::Clicks,
       "master.mp4", "", "mpeg2 b-frames.mpg"},
      {"clock runs over.ts", "-c:v libx264 -preset fast -g 20 -bf 3 -c:a aac -output_ts_offset 95441.7", Rate::Constant,
       Sound::Clicks},
  };
  return files;
}

QString AwkwardMaker::make(const QString& name) {
  const QString path = m_folder + QLatin1Char('/') + name;
  if (QFile::exists(path)) return path;
  for (const AwkwardFile& file : awkwardFiles())
    if (name == QLatin1String(file.name)) return make(file);
  // 192×108 at 25 a second, with clicks.
  writeClip(
      path.toStdString(), {kWidth, kHeight}, FrameRate(), name == QLatin1String("long.mp4") ? 1700 : 100,
      [](int n, int x, int) { return numberStripe(n, x, kWidth); }, true);
  return path;
}

QString AwkwardMaker::make(const AwkwardFile& file) {
  const QString path = m_folder + QLatin1Char('/') + QLatin1String(file.name);
  if (QFile::exists(path)) return path;
  const auto words = [](const char* text) { return QString::fromLatin1(text).split(' ', Qt::SkipEmptyParts); };
  (void)run(QStringLiteral("ffmpeg"), QStringList{"-v", "error", "-y"} + words(file.before) +
                                          QStringList{"-i", make(QString::fromLatin1(file.from))} + words(file.how) +
                                          QStringList{QStringLiteral("file:") + path});
  if (*file.then == 0) return path;
  QFile behind(make(QString::fromLatin1(file.then)));
  QFile whole(path);
  if (!behind.open(QIODevice::ReadOnly) || !whole.open(QIODevice::Append))
    throw std::runtime_error("cannot join files");
  whole.write(behind.readAll());
  return path;
}

namespace {

/// What ffprobe tells of a file's first picture and sound streams; all at once, since it takes long to start. What is
/// no number is left out.
struct Told {
  std::vector<double> times;   ///< of the pictures, seconds
  std::vector<double> begins;  ///< of the pieces of sound, seconds
  std::vector<double> lengths; ///< of the pieces of sound, samples
  double rate = 0;             ///< samples a second
};

Told told(const QString& file) {
  Told all;
  int picture = -1;
  int sound = -1;
  const auto number = [](const QJsonObject& in, const char* key, auto&& take) {
    bool good = false;
    const double value = in.value(QLatin1String(key)).toVariant().toDouble(&good);
    if (good) take(value);
  };
  const auto into = [](std::vector<double>& list) { return [&list](double value) { list.push_back(value); }; };
  const QJsonObject root =
      QJsonDocument::fromJson(run(QStringLiteral("ffprobe"),
                                  {"-v", "quiet", "-show_entries",
                                   "stream=index,codec_type,sample_rate:"
                                   "frame=stream_index,best_effort_timestamp_time,pts_time,nb_samples",
                                   "-of", "json", QStringLiteral("file:") + file},
                                  true)
                                  .toUtf8())
          .object();
  for (const QJsonValue& each : root.value(QLatin1String("streams")).toArray()) {
    const QJsonObject stream = each.toObject();
    const int index = stream.value(QLatin1String("index")).toInt();
    const QString type = stream.value(QLatin1String("codec_type")).toString();
    if (type == QLatin1String("video") && picture < 0) picture = index;
    if (type != QLatin1String("audio") || sound >= 0) continue;
    sound = index;
    number(stream, "sample_rate", [&all](double value) { all.rate = value; });
  }
  for (const QJsonValue& each : root.value(QLatin1String("frames")).toArray()) {
    const QJsonObject frame = each.toObject();
    const int index = frame.value(QLatin1String("stream_index")).toInt(-1);
    if (index == picture) number(frame, "best_effort_timestamp_time", into(all.times));
    if (index != sound) continue;
    number(frame, "pts_time", into(all.begins));
    number(frame, "nb_samples", into(all.lengths));
  }
  return all;
}

QByteArray decoded(const QString& file, const QStringList& how) {
  QProcess tool;
  tool.start(QStringLiteral("ffmpeg"),
             QStringList{"-v", "quiet", "-i", QStringLiteral("file:") + file} + how + QStringList{"-"});
  if (!tool.waitForFinished(4 * kPatience)) throw std::runtime_error("ffmpeg does not run");
  return tool.readAllStandardOutput();
}

} // namespace

ToolsReading readByTools(const QString& file) {
  ToolsReading reading;
  const QByteArray pixels =
      decoded(file, {"-map", "0:v:0", "-vsync", "passthrough", "-vf",
                     QStringLiteral("scale=%1:%2").arg(kWidth).arg(kHeight), "-pix_fmt", "gray", "-f", "rawvideo"});
  for (qsizetype at = 0; at + kWidth * kHeight <= pixels.size(); at += kWidth * kHeight) {
    int number = 0;
    for (int stripe = 0; stripe < 16; ++stripe) {
      const qsizetype x = (2 * stripe + 1) * kWidth / 32;
      number = number * 2 + (uchar(pixels[at + kHeight / 2 * kWidth + x]) > 126);
    }
    reading.numbers.push_back(number);
  }
  const Told tool = told(file);
  reading.times = tool.times;
  const double first = reading.times.empty() ? 0 : reading.times.front();
  if (reading.times.size() != reading.numbers.size()) reading.times.clear();
  for (double& time : reading.times) time -= first;

  // Each piece of sound lies where its stamp says.
  const auto& [times, begins, lengths, rate] = tool;
  if (begins.empty() || begins.size() != lengths.size()) return reading;
  const QByteArray bytes = decoded(file, {"-map", "0:a:0", "-ac", "1", "-f", "f32le"});
  const auto* sample = reinterpret_cast<const float*>(bytes.constData());
  const float* end = sample + bytes.size() / qsizetype(sizeof(float));
  int quiet = 1'000'000;
  for (size_t piece = 0; piece < begins.size(); ++piece)
    for (int i = 0; i < int(lengths[piece]) && sample < end; ++i, ++sample) {
      const bool loud = std::abs(*sample) > 0.1F;
      const double at = begins[piece] + i / rate - first;
      if (loud && quiet > rate / 10 && at > 0.02) reading.clicks.push_back(at);
      quiet = loud ? 0 : quiet + 1;
    }
  return reading;
}

} // namespace tromb::test
