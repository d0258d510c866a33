// SPDX-License-Identifier: GPL-3.0-or-later
// The files of a job: what can be read is written as it was read.
#include "Input.h"
#include "queue/Job.h"

#include <cstdlib>

namespace {

template <typename Read> void readTwice(const std::string& text, Read read) {
  const auto once = read(text);
  if (!once) return;
  const std::string written = toText(*once);
  const auto again = read(written);
  if (!again || toText(*again) != written) std::abort();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  const std::string text(reinterpret_cast<const char*>(data), size);
  readTwice(text, jobFromText);
  readTwice(text, recordFromText);
  readTwice(text, progressFromText);
  readTwice(text, curvesFromText);
  return 0;
}
