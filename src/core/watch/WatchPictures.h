// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "render/Pictures.h"

#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

namespace tromb {

/// Where pictures are watched: a deliverable's, or those of the source that it is showing, at the largest size of their
/// shape within `most`, in pixels of the screen.
struct WatchScreen {
  std::shared_ptr<const Plan> plan;
  Size most;
  bool source = false; ///< the upright picture of the source, whole
  /// Where it is not null, pictures are those of a finished file (planOfFile), in step with the plan: the file's first
  /// is of the plan's frame `fileBegins`.
  std::shared_ptr<const Plan> file = {};
  int64_t fileBegins = 0;

  [[nodiscard]] const Plan& drawn() const { return file ? *file : *plan; } ///< what pictures are taken from
  /// What is drawn as frame n of the plan: of a file that is longer or shorter, its first or last beyond it.
  [[nodiscard]] Plan::At at(int64_t n) const;

  /// The size of the pictures on it, even; a source's is known by its picture alone.
  [[nodiscard]] Size canvas() const;
};

/// The plan of a finished file as it is, whole, at its own size and rate, to be watched beside what it was made from.
/// Errors: those of Plan.
[[nodiscard]] Result<Plan> planOfFile(const MediaInfo& file);

/// A picture that is watched.
struct WatchedPicture {
  int64_t frame = -1;       ///< of the deliverable; −1: none was asked for, and there is no picture
  int64_t sourceFrame = -1; ///< the frame of the source that it shows
  std::string shot{};       ///< the id of the shot that it is of
  ScreenPicture picture;
};

/// Finds the lighter copy of a source by its id, where there is one; for any thread. May be empty.
using WatchLights = std::function<std::optional<MediaInfo>(const std::string& source)>;

/// Draws what several deliverables of one project show at one moment, each source picture decoded once for all. What is
/// shown, and how it is framed, is the plan's; pictures are scaled more simply than an export does, and come from
/// lighter copies where there are some. One thread at a time.
class WatchPictures {
public:
  /// `stop` ends every call, also later ones, with Cancelled.
  WatchPictures(std::vector<WatchScreen> screens, WatchLights lights, std::stop_token stop = {});

  [[nodiscard]] const std::vector<WatchScreen>& screens() const { return m_screens; }
  /// Other screens, for the same plans: open sources are kept.
  void setScreens(std::vector<WatchScreen> screens);

  /// One picture for each screen, of the frame of its plan that `frames` says; −1 asks for none. Quick where the frames
  /// of successive calls go on in the direction that `backwards` says. `divisor` makes the pictures smaller, 1 for full
  /// size; `unasked` ends this call with Cancelled. Errors: those of PictureSource and Composer.
  [[nodiscard]] Result<std::vector<WatchedPicture>> draw(const std::vector<int64_t>& frames, bool backwards,
                                                         int divisor = 1, const std::stop_token& unasked = {});
  /// An open source, and the pictures of it that were asked for last.
  struct Reel {
    std::string id;
    bool backwards = false;
    Reading reading;
    PictureSource pictures;
    int64_t last = 0;                             ///< the number that was asked for last
    std::map<int64_t, NumberedFrame> recent = {}; ///< by the number that was asked for
    Between between = {};
  };
  /// A source that is open at a frame which is shown later: where a shot begins, so that a cut is passed without a
  /// wait. May be made in another thread. Errors: those of PictureSource.
  [[nodiscard]] static Result<std::unique_ptr<Reel>> prepare(const Plan::At& at, const WatchLights& lights,
                                                             bool backwards, std::stop_token stop = {},
                                                             const std::stop_token& unasked = {});
  /// Takes it; it is used once that frame is drawn. Of several only the last is kept. Thread-safe.
  void offer(std::unique_ptr<Reel> prepared);

private:
  /// What draws on one screen.
  struct Brush {
    const PlanPiece* piece = nullptr;
    Size size;
    PictureShape shape;                      ///< of the picture that is drawn from
    std::optional<Composer> composer;        ///< a deliverable's
    std::optional<ScreenComposer> whole;     ///< a source's
    std::unique_ptr<ElementPainter> painter; ///< a deliverable's
    ScreenConverter converter;
  };
  [[nodiscard]] Result<Reel*> reelOf(const Plan::At& at, bool backwards);
  [[nodiscard]] Result<Frame> pictureOf(Reel& reel, const ShownFrames& shown, const std::stop_token& unasked);
  [[nodiscard]] static Result<NumberedFrame> oneOf(Reel& reel, int64_t number, const std::stop_token& unasked);
  [[nodiscard]] Result<ScreenPicture> drawn(size_t screen, const Plan::At& at, const Frame& picture,
                                            const Reading& reading, int divisor);

  std::vector<WatchScreen> m_screens;
  WatchLights m_lights;
  std::stop_token m_stop;
  std::vector<std::unique_ptr<Reel>> m_reels; ///< the one that was used last at the end
  std::vector<Brush> m_brushes;
  std::mutex m_mutex;
  std::unique_ptr<Reel> m_prepared; ///< guarded by the mutex
};

} // namespace tromb
