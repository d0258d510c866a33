// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "project/Project.h"

#include <functional>
#include <map>
#include <string>

namespace tromb::cli {

/// Sets what one key of `--deliverable` says of the encoding. Errors: InvalidArgument, with what could be said instead.
using EncodingKey = std::function<Status(Deliverable& deliverable, const std::string& value)>;

/// The keys of `--deliverable` that concern the encoding, by their names.
[[nodiscard]] const std::map<std::string, EncodingKey>& encodingKeys();

/// The keys with their values, for the help of the command line.
[[nodiscard]] std::string encodingKeysHelp();

} // namespace tromb::cli
