// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/LightService.h"
#include "model/Session.h"
#include "model/SoundOut.h"
#include "model/Worker.h"
#include "project/Timing.h"
#include "watch/WatchRun.h"

#include <QImage>
#include <QObject>
#include <QSize>
#include <QTimer>
#include <atomic>
#include <map>
#include <memory>
#include <optional>
#include <vector>

namespace tromb {

/// Plays the running order: with sound, forwards and backwards, in the shapes of any deliverables at once, and moves
/// the session's playhead along. Pictures follow the clock of the sound. What cannot be drawn in time is drawn smaller,
/// then left out; sound is never. While nothing plays, the pictures at the playhead are shown, each exactly the frame
/// of its deliverable. Where deliverables take other times, the one of the first screen leads: it plays at its own
/// speed, and all others show the same moments of the sources. Never touches the document. Lives in the window's
/// thread.
class Watch : public QObject {
  Q_OBJECT

public:
  /// `out` is where sound goes.
  Watch(Session& session, LightService& lights, std::unique_ptr<SoundOut> out, QObject* parent = nullptr);
  ~Watch() override;

  /// Where pictures are drawn: a deliverable, by place, or the source that it is showing; the most pixels that they may
  /// have.
  struct Screen {
    int column = 0;
    bool source = false;
    QSize most;
    bool file = false; ///< the finished file instead, see watchFile
    friend bool operator==(const Screen&, const Screen&) = default;
  };
  /// What somebody who looks is shown from now on; empty: nothing any more. While nobody looks the playhead alone
  /// moves.
  void setScreens(const QObject* viewer, const std::vector<Screen>& screens);
  struct Picture {
    QImage image;             ///< null while there is none yet
    int64_t frame = -1;       ///< of the deliverable
    int64_t sourceFrame = -1; ///< of the source, that it shows
    std::string shot{};       ///< the id of the shot that it is of
  };
  /// The pictures of a viewer, one for each of its screens.
  [[nodiscard]] std::vector<Picture> pictures(const QObject* viewer) const;

  /// A finished file of a deliverable, whose first picture is that of `begin`, in seconds of the running order.
  struct Finished {
    MediaInfo media;
    std::string deliverable;
    Rational begin;
  };
  /// Looks at a file, to be watched in step with what it was made from: screens may show it, and it is heard instead of
  /// the mix. Without `deliverable` it is of the current one, or of the first whose canvas it has. Without `begin` it
  /// is of the whole, or of the region that is as long as it. `fileChanged` follows, or `failed`.
  void watchFile(const QString& path, const std::string& deliverable = {}, const std::optional<Rational>& begin = {});
  void leaveFile();
  [[nodiscard]] const std::optional<Finished>& file() const { return m_file; }

  /// What is played: all from the playhead on, or a part of the running order round and round.
  struct Part {
    enum class Kind { All, Shot, Selected, Region } kind = Kind::All;
    std::string region{}; ///< its id
    friend bool operator==(const Part&, const Part&) = default;
  };
  void setPart(const Part& part);
  [[nodiscard]] const Part& part() const { return m_part; }

  /// Plays from the playhead; a part is begun where the playhead lies outside it, and everything is begun anew at its
  /// end. Does nothing where there is nothing to play.
  void play(int speed = 1);
  void pause();
  void playOrPause();
  /// Plays in a direction; twice as fast where that is the direction already.
  void playFaster(bool backwards);
  [[nodiscard]] bool playing() const { return m_run.has_value(); }
  [[nodiscard]] int speed() const { return m_run ? m_run->speed() : 0; } ///< 0 while it is paused
  void step(int frames); ///< Moves the playhead by frames of the session's rate; what is heard there is heard.
  void toCut(bool before);

  /// How well it keeps up since it began to play.
  struct Pace {
    int64_t shown = 0;   ///< moments at which a picture was another
    int64_t leftOut = 0; ///< that came too late
    int divisor = 1;     ///< how many times smaller pictures are drawn
    int64_t silent = 0;  ///< samples of sound that came too late
  };
  [[nodiscard]] const Pace& pace() const { return m_pace; }
  [[nodiscard]] SoundLevel level(); ///< of the sound since it was last asked for; silence while it is paused
  [[nodiscard]] bool busy() const { return m_drawing; } ///< pictures at the playhead are not there yet

signals:
  void starting();     ///< it is about to play: whoever looks says what is to be drawn
  void pictured();     ///< pictures are others
  void stateChanged(); ///< it plays, is paused, at another speed, another part, or keeps up less well
  void failed(const QString& reason);
  void fileChanged();

private:
  struct Show;
  struct Line;
  struct Set;
  [[nodiscard]] std::string deliverableOf(const MediaInfo& file) const;
  [[nodiscard]] Rational beginOf(const MediaInfo& file, const std::string& deliverable) const;
  void rest();
  void restSoon();
  void begin(int speed);
  void halt();
  void hush();
  void tick();
  void take(Set set);
  void playSound(const WatchRun& run);
  [[nodiscard]] std::shared_ptr<std::atomic<float>> listen(int column);
  void prepareCut();
  void changed();
  void gatherScreens();
  void fail(const Error& error);
  void moveTo(const Rational& time);
  [[nodiscard]] std::shared_ptr<Show> show();
  [[nodiscard]] std::pair<Rational, Rational> ends() const;
  [[nodiscard]] std::optional<WatchRun> runFromHere(int speed);
  [[nodiscard]] int leader() const;
  [[nodiscard]] Timing timing() const;

  Session& m_session;
  Document& m_document;
  LightService& m_lights;
  std::unique_ptr<SoundOut> m_out;
  std::vector<std::pair<const QObject*, std::vector<Screen>>> m_viewers;
  std::vector<Screen> m_screens;   ///< of all viewers, one behind the other
  std::vector<Picture> m_pictures; ///< by screen
  std::optional<Finished> m_file;
  Part m_part;
  Pace m_pace;
  std::optional<WatchRun> m_run;  ///< in the time of the deliverable that leads
  std::optional<Timing> m_timing; ///< of that, while it plays
  std::shared_ptr<Show> m_show;   ///< the project as it is watched; null: to be made again
  std::shared_ptr<Line> m_line;   ///< pictures on their way, while it plays
  std::shared_ptr<SoundPipe> m_pipe;
  std::map<std::string, std::shared_ptr<std::atomic<float>>> m_gains; ///< decibels, by Deliverable::id
  bool m_starting = false;
  bool m_sounding = false; ///< the clock runs
  bool m_moving = false;   ///< the playhead is moved from here
  bool m_drawing = false;
  int64_t m_heard = 0;
  QTimer m_tick;
  QTimer m_rest;           ///< pictures at the playhead are drawn once for many changes
  QTimer m_quiet;          ///< the sound of a step ends
  int64_t m_prepared = -1; ///< samples heard at the cut that was prepared last; −1: none yet
  Worker m_drawer;
  Worker m_opener; ///< what comes behind the next cut
  Worker m_mixer;
  Worker m_listener; ///< loudness
  Worker m_looker;   ///< at finished files
};

} // namespace tromb
