// SPDX-License-Identifier: GPL-3.0-or-later
#include "Command.h"
#include "ElementKeys.h"
#include "EncodingKeys.h"
#include "ProjectMaker.h"
#include "project/ProjectFile.h"

#include <filesystem>

namespace tromb::cli {
namespace {

class MakeCommand final : public Command {
public:
  explicit MakeCommand(CLI::App& app) : m_app(app) {
    app.add_option("project", m_path, "Project file to write")->required()->type_name("PROJECT");
    app.add_option("--footage", m_footage,
                   "FILE[;in=T;out=T;speed=F;pitch=keep|follow|mute;hold=T;treatment=keep-time|mixed;name=N;sound-"
                   "stream=N;colour=rec709|rec601|"
                   "rec2020|hlg|pq;range=limited|"
                   "full]; once for each shot")
        ->required()
        ->take_all();
    m_presetOption =
        app.add_option("--preset", m_presets, "Lay this preset on the deliverables that follow it")->take_all();
    m_deliverableOption =
        app.add_option("--deliverable", m_deliverables,
                       "name=N;canvas=WxH;pixel-aspect=N/"
                       "D;rate=R;treatment=keep-time|mixed;framing=fill|fit|stack2|stack3|side2|side3|backdrop;"
                       "destination=ID;" +
                           encodingKeysHelp() + "; once for each")
            ->take_all();
    app.add_option("--template", m_template, "Begin with the deliverables of this template");
    app.add_option("--text", m_texts,
                   "Words over the shots: TEXT;" + elementKeysHelp(ElementKind::Text) + "; once for each")
        ->take_all();
    app.add_option("--overlay", m_overlays,
                   "A picture over the shots: FILE;" + elementKeysHelp(ElementKind::Picture) + "; once for each")
        ->take_all();
    app.add_option("--captions", m_captions, "Captions over the shots: a SubRip or WebVTT file")->take_all();
    app.add_flag("--overwrite", m_overwrite, "Replace the project file when it is there");
  }

  int run(Context& context) override {
    std::error_code ignored;
    if (!m_overwrite && std::filesystem::exists(m_path, ignored))
      return failed(
          context,
          {ErrorCode::Exists, say("the file is there already"), m_path, {}, say("Give --overwrite to replace it")},
          false);
    Status done;
    ProjectMaker maker(context);
    for (const std::string& text : m_footage)
      if (done = maker.addFootage(text); !done) return failed(context, done.error(), false);
    if (done = maker.addTemplate(m_template); !done) return failed(context, done.error(), false);
    // In the order of the line: a preset is for what follows it.
    size_t preset = 0;
    size_t deliverable = 0;
    for (const CLI::Option* option : m_app.parse_order()) {
      if (option == m_presetOption && preset < m_presets.size()) done = maker.takePreset(m_presets[preset++]);
      if (option == m_deliverableOption && deliverable < m_deliverables.size())
        done = maker.addDeliverable(m_deliverables[deliverable++]);
      if (!done) return failed(context, done.error(), false);
    }
    if (maker.project().deliverables.empty())
      return failed(context,
                    {ErrorCode::InvalidArgument,
                     say("there is nothing to deliver"),
                     {},
                     {},
                     say("Give --deliverable or --template")},
                    false);
    for (const std::string& text : m_overlays)
      if (done = maker.addElement(ElementKind::Picture, text); !done) return failed(context, done.error(), false);
    for (const std::string& text : m_texts)
      if (done = maker.addElement(ElementKind::Text, text); !done) return failed(context, done.error(), false);
    for (const std::string& file : m_captions)
      if (done = maker.addCaptions(file); !done) return failed(context, done.error(), false);
    maker.project().name = std::filesystem::path(m_path).stem().string();
    if (done = saveProject(maker.project(), m_path); !done) return failed(context, done.error(), false);
    return kDone;
  }

private:
  std::string m_path;
  std::vector<std::string> m_footage;
  std::vector<std::string> m_deliverables;
  std::vector<std::string> m_presets;
  std::vector<std::string> m_texts;
  std::vector<std::string> m_overlays;
  std::vector<std::string> m_captions;
  const CLI::App& m_app;
  const CLI::Option* m_presetOption = nullptr;
  const CLI::Option* m_deliverableOption = nullptr;
  std::string m_template;
  bool m_overwrite = false;
};

} // namespace

std::unique_ptr<Command> makeMake(CLI::App& app) {
  return std::make_unique<MakeCommand>(app);
}

} // namespace tromb::cli
