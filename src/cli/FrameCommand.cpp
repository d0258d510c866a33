// SPDX-License-Identifier: GPL-3.0-or-later
#include "Arguments.h"
#include "Command.h"
#include "project/ProjectFile.h"
#include "render/PictureFile.h"
#include "render/Pictures.h"
#include "time/Timecode.h"

namespace tromb::cli {
namespace {

class FrameCommand final : public Command {
public:
  explicit FrameCommand(CLI::App& app) {
    app.add_option("project", m_path, "Project file")->required()->type_name("PROJECT");
    app.add_option("--deliverable", m_deliverable, "Name of the deliverable")->required();
    auto* choice = app.add_option_group("which frame");
    choice->add_option("--at", m_at, "Time in the running order");
    choice->add_option("--number", m_number, "Frame number, counted from 0");
    choice->require_option(1);
    app.add_option("--out", m_out, "PNG file to write")->required()->type_name("FILE.png");
  }

  int run(Context& context) override {
    const Status done = write(context);
    return done ? int(kDone) : failed(context, done.error(), false);
  }

private:
  Status write(const Context& context) const {
    const auto project = loadProject(m_path);
    if (!project) return tl::unexpected(project.error());
    const auto ids = deliverableIds(*project, {m_deliverable});
    if (!ids) return tl::unexpected(ids.error());
    const auto plan = Plan::build(*project, probeFootage(*project, probing(context)), ids->front());
    if (!plan) return tl::unexpected(plan.error());
    int64_t number = 0;
    if (!m_at.empty()) {
      const auto time = parseTime(m_at, plan->rate());
      if (!time) return tl::unexpected(time.error());
      number = plan->rate().frameAt(*time);
    } else {
      const auto parsed = parseInteger(m_number, 0, INT64_MAX);
      if (!parsed) return tl::unexpected(parsed.error());
      number = *parsed;
    }
    if (number >= plan->frameCount())
      return fail(ErrorCode::InvalidArgument, say("frame %1 lies behind the end", number), {},
                  say("The last one is %1", plan->frameCount() - 1));
    const auto canvas = renderFrame(*plan, number);
    if (!canvas) return tl::unexpected(canvas.error());
    return writePicture(*canvas, m_out, PictureKind::Png, true, plan->deliverable().pixelAspect);
  }

  std::string m_path;
  std::string m_deliverable;
  std::string m_at;
  std::string m_number;
  std::string m_out;
};

} // namespace

std::unique_ptr<Command> makeFrame(CLI::App& app) {
  return std::make_unique<FrameCommand>(app);
}

} // namespace tromb::cli
