// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/ShotFraming.h"

#include <QDialog>
#include <functional>

class QFormLayout;
class QWidget;

namespace tromb {

/// How shots are framed by what is found in them: the rules of the trade, each with the usual value. Every choice holds
/// at once, for what is framed from then on.
class RulesDialog : public QDialog {
  Q_OBJECT

public:
  explicit RulesDialog(QWidget* parent = nullptr);

signals:
  void changed();

private:
  void add(QFormLayout& form, const QString& label, QWidget* field, const QString& words);
  void set(const std::function<void(FramingRules&)>& change);
};

} // namespace tromb
