// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/HandOverService.h"

#include <QDialog>

class QComboBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QRadioButton;
class QTreeWidget;

namespace tromb {

/// Hands a finished file over: into the folder of a device, where it is read back byte for byte, or to a publishing
/// service, whose renditions are listed with what they have lost.
class HandOverDialog : public QDialog {
  Q_OBJECT

public:
  /// `project`: see HandOverService::toFolder. `others`: paths of other finished files, of which one can be sent to a
  /// service as well, to see whether the better of two is worth its size.
  HandOverDialog(HandOverService& service, const QString& path, const QStringList& others, const std::string& project,
                 QWidget* parent);

signals:
  /// What viewers see is to be held against what was sent.
  void compareWanted(const QString& rendition);
  void handed();

public slots:
  void reject() override; ///< stops what is under way

private:
  QWidget* buildPlaces();
  void begin();
  void refresh();
  void say(const QString& words, bool amiss);
  void showHanded(const HandedFile& file, const std::vector<SeenRendition>& renditions);
  void showProgress(HandOverService::Stage stage, double fraction);
  HandOverService& m_service;
  QString m_path;
  std::string m_project;
  QRadioButton *m_toFolder, *m_toService;
  QLineEdit *m_folder, *m_address, *m_token;
  QLabel *m_room, *m_said;
  QComboBox* m_beside;
  std::vector<QWidget*> m_besideRow;
  QProgressBar* m_progress;
  QTreeWidget* m_renditions;
  QPushButton *m_begin, *m_compare;
};

} // namespace tromb
