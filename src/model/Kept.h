// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Worker.h"

#include <QCache>
#include <QSet>
#include <QString>
#include <memory>
#include <optional>

namespace tromb {

/// Values that are made beside the window's thread when they are first asked for, and kept up to a limit. For the
/// window's thread.
template <typename Value> class Kept {
public:
  struct Made {
    Value value;
    qint64 bytes = 0;
  };
  using Make = std::function<std::optional<Made>(const std::stop_token& stop)>;

  Kept(int kilobytes, int threads) : m_cache(kilobytes), m_worker(threads) {}

  /// The value of a key, or null while it is not there yet: then `make` is run, unless it is under way or has failed
  /// before, and `then` is called when it has ended. It must take along what it uses.
  [[nodiscard]] const Value* find(const QString& key, Make make, std::function<void()> then) {
    if (const Value* there = m_cache.object(key)) return there;
    if (m_underWay.contains(key) || m_failed.contains(key)) return nullptr;
    m_underWay.insert(key);
    m_worker.add(
        [this, key, make = std::move(make), then](const Task& task) {
          auto made = std::make_shared<std::optional<Made>>(make(task.stop()));
          task.tell([this, key, then, made] {
            if (*made)
              m_cache.insert(key, new Value(std::move((*made)->value)), int((*made)->bytes / 1024) + 1);
            else
              m_failed.insert(key);
            ended(key, then);
          });
        },
        [this, key, then](const Error&) {
          m_failed.insert(key);
          ended(key, then);
        });
    return nullptr;
  }
  /// What is kept for a key; null where that is nothing. Makes nothing.
  [[nodiscard]] const Value* findKept(const QString& key) const { return m_cache.object(key); }
  [[nodiscard]] bool idle() const { return m_underWay.isEmpty(); }

private:
  void ended(const QString& key, const std::function<void()>& then) {
    m_underWay.remove(key);
    then();
  }

  QCache<QString, Value> m_cache;
  QSet<QString> m_underWay;
  QSet<QString> m_failed;
  Worker m_worker;
};

} // namespace tromb
