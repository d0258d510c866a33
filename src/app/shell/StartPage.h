// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"

#include <QWidget>

namespace tromb {

/// What an empty project shows: where to begin.
class StartPage : public QWidget {
  Q_OBJECT

public:
  explicit StartPage(const Actions& actions, QWidget* parent = nullptr);

protected:
  void paintEvent(QPaintEvent* event) override;
};

} // namespace tromb
