// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>

namespace tromb {

/// Lets the wheel scroll a page past its lists and numbers: a list never changes by it there, a number or a slider
/// only while it has the focus, which the wheel does not give. For the whole application.
class WheelGuard : public QObject {
  Q_OBJECT

public:
  using QObject::QObject;

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
};

} // namespace tromb
