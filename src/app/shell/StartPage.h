// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "destination/PresetStore.h"

#include <QWidget>

class QLabel;
class QVBoxLayout;

namespace tromb {

/// What an empty project shows: where to begin. With footage; with shapes alone, those that come with the program or a
/// set that was saved; or with a project of late, each with a picture of it.
class StartPage : public QWidget {
  Q_OBJECT

public:
  StartPage(const Actions& actions, const PresetStore& presets, QWidget* parent = nullptr);
  void refresh(); ///< presets, recent projects or settings may have changed

signals:
  void startAsked(const tromb::Project& project);
  void openAsked(const QString& path);

protected:
  void paintEvent(QPaintEvent* event) override;
  void showEvent(QShowEvent* event) override;

private:
  const PresetStore& m_presets;
  QLabel* m_head;
  QVBoxLayout* m_ways; ///< beside footage: made anew whenever the page is shown
  QWidget* m_filled = nullptr;
};

/// Keeps a picture for the project saved at a path, and gives it. Null where there is none.
void keepProjectPicture(const QString& path, const QImage& picture);
[[nodiscard]] QImage projectPicture(const QString& path);

} // namespace tromb
