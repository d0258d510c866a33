// SPDX-License-Identifier: GPL-3.0-or-later
// Files of captions: whatever is read of one is in order, is text, and is the same when it was written and read again.
#include "Input.h"
#include "element/CaptionFile.h"

#include <nlohmann/json.hpp>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  const auto read = parseCaptions({reinterpret_cast<const char*>(data), size});
  if (!read) return 0;
  for (size_t i = 0; i < read->captions.size(); ++i) {
    const Caption& each = read->captions[i];
    fuzz::hold(each.out > each.in && !each.text.empty());
    fuzz::hold(i == 0 || read->captions[i - 1].in <= each.in);
    (void)nlohmann::json(each.text).dump(); // throws where it is no UTF-8
  }
  (void)captionFile(read->captions, CaptionFormat::SubRip);
  const auto again = parseCaptions(captionFile(read->captions, CaptionFormat::WebVtt));
  fuzz::hold(again && again->captions == read->captions);
  return 0;
}
