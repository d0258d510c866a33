// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "io/Descriptor.h"
#include "media/Frame.h"

#include <memory>
#include <vector>

namespace tromb {

/// Pictures of one size and format that are used again and again, in a file without a name, so that they take no memory
/// that is needed elsewhere. Filled first, then read. One thread at a time; the pictures that it hands out may be used
/// by others, and outlive it.
class PictureShelf {
public:
  /// What a picture takes there.
  [[nodiscard]] static int64_t bytesOf(Size size, int pixelFormat);

  /// Adds a copy of a picture. Errors: CannotWrite.
  [[nodiscard]] Status add(const Frame& picture);
  /// Ends the filling. Errors: CannotWrite.
  [[nodiscard]] Status close();
  /// Picture `place`, counted in the order of adding; once it is closed.
  [[nodiscard]] Frame at(int64_t place) const;

private:
  struct Mapping;
  Descriptor m_file;
  Frame m_like;
  int64_t m_bytes = 0; ///< of a picture
  int64_t m_count = 0;
  std::shared_ptr<const Mapping> m_mapping;
  std::vector<uint8_t> m_packed;
};

} // namespace tromb
