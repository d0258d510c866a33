// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/LightService.h"

#include <QDialog>

class QComboBox;
class QFormLayout;
class QHBoxLayout;
class QLabel;
class QPushButton;

namespace tromb {

/// What is chosen for this desktop, not for a project. Every choice holds at once.
class SettingsDialog : public QDialog {
  Q_OBJECT

public:
  explicit SettingsDialog(LightService& lights, QWidget* parent = nullptr);

signals:
  void changed();

protected:
  void showEvent(QShowEvent* event) override;
  void changeEvent(QEvent* event) override;

private:
  void fit();
  void addLooks(QHBoxLayout& columns);
  void addWork(QHBoxLayout& columns);
  QFormLayout& addColumn(QHBoxLayout& columns, const QString& head);
  /// A field, or the line that it stands in, with what it changes in words below it.
  void add(QFormLayout& form, const QString& label, QWidget* field, const QString& changes, QLayout* line = nullptr);
  QComboBox* choice(const QString& name, const QStringList& entries, int now, const std::function<void(int)>& chosen);
  /// A button that shows a folder and asks for another one, which `take` keeps.
  QPushButton* folder(const QString& name, const QString& now, void (*take)(const QString&));
  void refreshCopies();

  LightService& m_lights;
  QLabel* m_copies = nullptr;
};

} // namespace tromb
