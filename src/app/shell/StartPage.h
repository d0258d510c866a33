// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

class QAction;

namespace tromb {

/// What an empty project shows: where to begin.
class StartPage : public QWidget {
  Q_OBJECT

public:
  StartPage(QAction* bringIn, QAction* open, QWidget* parent = nullptr);

protected:
  void paintEvent(QPaintEvent* event) override;
};

} // namespace tromb
