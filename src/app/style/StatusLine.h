// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Cell.h"

#include <QWidget>

namespace tromb {

/// A status shape, what it is about, and behind it or on a second line what is so.
class StatusLine : public QWidget {
  Q_OBJECT

public:
  enum class Form { TwoLines, OneLine };
  StatusLine(Cell::State state, const QString& text, const QString& second, QWidget* parent,
             Form form = Form::TwoLines);

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  Cell::State m_state;
  QString m_text;
  QString m_second;
  Form m_form;
};

} // namespace tromb
