// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/Descriptor.h"

#include <optional>
#include <string>

namespace tromb {

/// Keeps the machine from going to sleep by itself or at somebody's wish while this lives, by the login manager
/// (org.freedesktop.login1, its inhibitor locks). Movable.
class KeepAwake {
public:
  /// `why` is told to whoever wants to put the machine to sleep. Returns nothing where there is no login manager, or it
  /// does not allow that: then the machine may go to sleep. Does not wait longer than two seconds.
  [[nodiscard]] static std::optional<KeepAwake> hold(const std::string& why);

private:
  explicit KeepAwake(Descriptor lock) : m_lock(std::move(lock)) {}
  Descriptor m_lock; ///< of which the login manager holds the other end
};

} // namespace tromb
