// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Exporter.h"
#include "project/Footage.h"

#include <QString>
#include <stop_token>
#include <string>
#include <vector>

namespace tromb::test {

struct Shape {
  const char* name;
  Size canvas;
  Rational rate{25};
  const char* framing = "fill";
  const char* speed = "ultrafast";
};

/// What a video file would say of itself, for tests that read none.
[[nodiscard]] MediaInfo video(const std::string& path, Size size, const Rational& rate, const Rational& seconds);

/// A project with a shot of each file, and a deliverable of each shape; ends the program when a file cannot be read.
[[nodiscard]] Project project(const std::vector<std::string>& files, const std::vector<Shape>& shapes);

/// Exports all of a project's deliverables.
[[nodiscard]] Result<std::vector<ExportedFile>> exported(const Project& project, const std::string& folder,
                                                         bool proof = true, std::stop_token stop = {});

/// What went wrong in an export, for people; empty where every file was made and passed its proof.
[[nodiscard]] QString faultsOf(const Result<std::vector<ExportedFile>>& files);

} // namespace tromb::test
