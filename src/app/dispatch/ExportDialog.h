// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/ExportRun.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QVBoxLayout;

namespace tromb {

/// Exports deliverables: choose them and a folder, watch the pictures go by, and read the proof of each file.
class ExportDialog : public QDialog {
  Q_OBJECT

public:
  ExportDialog(Document& document, const QString& folder, QWidget* parent = nullptr);
  [[nodiscard]] QString folder() const;
  void setRegion(const QString& name); ///< empty: the whole running order
  [[nodiscard]] bool running() const { return m_run.running(); }

signals:
  /// A finished file is to be watched beside the deliverable; its first picture is that of `begin`, in seconds of the
  /// running order.
  void watchWanted(const QString& path, const std::string& deliverable, const Rational& begin);

public slots:
  void start();
  void reject() override; ///< asks first while an export is under way

private:
  [[nodiscard]] QString region() const;
  struct Row {
    QCheckBox* chosen = nullptr;
    QLabel* verdict = nullptr;
    QProgressBar* bar = nullptr;
    QLabel* time = nullptr;
    QPushButton* open = nullptr;
    QPushButton* watch = nullptr;
    Rational begin; ///< of the file that was made, in the running order
    std::string id;
    QString path;
    QLabel* facts = nullptr;
    bool possible = true; ///< nothing forbids it
  };
  [[nodiscard]] Project shownPart() const;
  [[nodiscard]] PreflightGrounds grounds() const;
  void describe(Row& row, const Project& part, const std::vector<Finding>& findings);
  void describeAll();
  [[nodiscard]] bool agreed();
  void openPath(const QString& path);
  QWidget* buildRow(const Deliverable& deliverable);
  QLayout* buildOutput();
  void takeNaming();
  void refreshOutput();
  [[nodiscard]] QString pathOf(const Row& row) const;
  void refresh();
  void setBusy(bool busy);
  void progressed(const ExportProgress& progress);
  void succeeded(const std::vector<ExportedFile>& files);
  void failed(const Error& error);
  void stop();

  Document& m_document;
  ExportRun m_run;
  std::vector<Row> m_rows;
  std::vector<size_t> m_exporting; ///< rows, in the order of the run's plans
  QComboBox* m_region;
  QLineEdit* m_naming;
  QLabel* m_named; ///< the first file's name, or what is wrong with the pattern
  QComboBox* m_loudness;
  QLineEdit* m_folder;
  QPushButton* m_choose;
  QCheckBox* m_overwrite;
  QLabel* m_message;
  QLabel* m_picture;
  QPushButton* m_start;
  QPushButton* m_cancel;
  QPushButton* m_openFolder;
};

} // namespace tromb
