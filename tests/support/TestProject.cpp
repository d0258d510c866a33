// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/TestProject.h"

#include "media/read/Probe.h"

#include <QtGlobal>

namespace tromb::test {

MediaInfo video(const std::string& path, Size size, const Rational& rate, const Rational& seconds) {
  MediaInfo info;
  info.path = path;
  info.duration = seconds;
  info.video.emplace();
  info.video->stored = size;
  info.video->clock = FrameClock(FrameRate(rate), (seconds * rate).nearest());
  return info;
}

Project project(const std::vector<std::string>& files, const std::vector<Shape>& shapes) {
  Project p;
  for (const std::string& file : files) {
    const auto media = probe(file);
    if (!media) qFatal("%s", sentence(media.error()).c_str());
    p.sources.push_back(newSource(p, *media));
    p.shots.push_back(newShot(p, p.sources.back(), *media));
  }
  for (const Shape& shape : shapes) {
    Deliverable d;
    d.id = freshId(p.deliverables, "d");
    d.name = shape.name;
    d.canvas = shape.canvas;
    d.rate = FrameRate(shape.rate);
    d.encoding.speed = shape.speed;
    for (const Shot& shot : p.shots) (void)framingByName(shape.framing, d.framings[shot.id]);
    p.deliverables.push_back(d);
  }
  return p;
}
Result<std::vector<ExportedFile>> exported(const Project& p, const std::string& folder, bool proof,
                                           std::stop_token stop) {
  const Footage footage = probeFootage(p);
  ExportRequest request;
  for (const Deliverable& d : p.deliverables) {
    auto plan = Plan::build(p, footage, d.id);
    if (!plan) return tl::unexpected(plan.error());
    request.plans.push_back(*plan);
  }
  request.projectName = p.name;
  request.folder = folder;
  request.overwrite = true;
  request.proof = proof;
  return exportPlans(request, stop);
}

QString faultsOf(const Result<std::vector<ExportedFile>>& files) {
  if (!files) return QString::fromStdString(sentence(files.error()));
  std::string faults;
  for (const ExportedFile& file : *files) {
    if (file.error) faults += sentence(*file.error) + "\n";
    if (!file.error && !file.proof) faults += file.path + ": not proofed\n";
    for (const ProofCheck& check : file.proof ? file.proof->checks : std::vector<ProofCheck>())
      if (!check.pass)
        faults +=
            file.path + ": " + check.code + ": " + check.found.text() + ", expected " + check.expected.text() + "\n";
  }
  return QString::fromStdString(faults);
}

} // namespace tromb::test
