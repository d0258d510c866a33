// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

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

private:
  Spec& m_spec;
  bool m_showing = false;
};

} // namespace tromb
