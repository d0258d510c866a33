// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Stills.h"

#include "project/FileName.h"
#include "render/Pictures.h"
#include "time/Timecode.h"

#include <filesystem>

namespace tromb {
namespace {

namespace fs = std::filesystem;

/// A frame of a plan, and how its file is told from the others.
struct Still {
  int64_t frame;
  std::string mark;
};

Result<std::vector<Still>> stillsOf(const Plan& plan, const StillRequest& request) {
  std::vector<Still> stills;
  if (request.at) {
    const int64_t frame = plan.rate().frameAt(*request.at) - plan.rate().frameAt(plan.begin());
    if (frame < 0 || frame >= plan.frameCount())
      return fail(ErrorCode::InvalidArgument,
                  say("'%1' shows nothing at %2", plan.deliverable().name, clockText(*request.at)), {},
                  say("It lasts %1", clockText(plan.duration())));
    std::string time = timecode(plan.rate().frameAt(*request.at), plan.rate());
    for (char& c : time)
      if (c == ':' || c == ';') c = '-';
    stills.push_back({frame, time});
    return stills;
  }
  int number = 0;
  for (const PlanPiece& piece : plan.pieces()) {
    ++number;
    if (piece.frameCount > 0)
      stills.push_back({piece.firstFrame + piece.frameCount / 2, std::to_string(number) + " " + piece.shot.name});
  }
  return stills;
}

} // namespace

Result<std::vector<std::string>> exportStills(const StillRequest& request, const std::stop_token& stop,
                                              const std::function<void(const std::string& path)>& onFile) {
  std::vector<std::vector<Still>> stills;
  for (const Plan& plan : request.plans) {
    auto found = stillsOf(plan, request);
    if (!found) return tl::unexpected(found.error());
    stills.push_back(std::move(*found));
  }
  std::error_code refused;
  fs::create_directories(request.folder, refused);
  if (refused)
    return fail(ErrorCode::CannotWrite, say("the folder cannot be made (%1)", refused.message()), request.folder,
                say("Choose another folder"));
  std::vector<std::string> paths;
  for (size_t i = 0; i < stills.size(); ++i) {
    const Plan& plan = request.plans[i];
    for (const Still& still : stills[i]) {
      if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("the export was cancelled"));
      // The mark goes through the same rules as every other part of a name.
      Deliverable marked = plan.deliverable();
      marked.name += " " + still.mark;
      const std::string name = fileName(plan.output().naming, {request.projectName, plan.regionName(), &marked});
      const std::string path = (fs::path(request.folder) / (name + "." + pictureEnding(request.kind))).string();
      fs::create_directories(fs::path(path).parent_path(), refused); // writing says what is wrong with it
      const auto canvas = renderFrame(plan, still.frame);
      if (!canvas) return tl::unexpected(canvas.error());
      if (const Status written =
              writePicture(*canvas, path, request.kind, request.overwrite, plan.deliverable().pixelAspect);
          !written)
        return tl::unexpected(written.error());
      paths.push_back(path);
      if (onFile) onFile(path);
    }
  }
  return paths;
}

} // namespace tromb
