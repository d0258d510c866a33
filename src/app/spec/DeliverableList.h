// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/PreflightService.h"
#include "model/Spec.h"

#include <QListWidget>

namespace tromb {

/// The project's deliverables in their true shapes. Several can be chosen; the session's choice follows, and is
/// followed.
class DeliverableList : public QListWidget {
  Q_OBJECT

public:
  explicit DeliverableList(Spec& spec, QWidget* parent = nullptr);
  void refresh();
  /// What preflight finds is counted from now on. It must live as long.
  void setPreflight(const PreflightService& preflight);

private:
  Spec& m_spec;
  const PreflightService* m_preflight = nullptr;
  bool m_showing = false;
};

} // namespace tromb
