// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <QDialog>

class QLabel;
class QListWidget;
class QPushButton;
class QVBoxLayout;

namespace tromb {

/// A list of things saved under names, to be saved, updated, renamed, removed, brought in and written out.
class SavedDialog : public QDialog {
  Q_OBJECT

protected:
  struct Words {
    QString title, about;
    QString saveNew, update;       ///< what the buttons say
    QString bringIn, nothingYet;   ///< the head of the dialog for files, and what an empty list says
    QString files, filesToBringIn; ///< filters for files
    QString ending;
  };
  struct Entry {
    QString name;
    QString contents; ///< shown beside the list
    QString label;    ///< in the list; empty: the name
  };
  SavedDialog(Words words, QWidget* parent);

  [[nodiscard]] virtual std::vector<Entry> entries() const = 0;
  [[nodiscard]] virtual bool canSave() const = 0;
  [[nodiscard]] virtual QString suggestedName() const = 0;
  [[nodiscard]] virtual Status save(const std::string& name, bool overwrite) = 0;
  [[nodiscard]] virtual Status renameTo(const std::string& from, const std::string& to) = 0;
  [[nodiscard]] virtual Status removeNamed(const std::string& name) = 0;
  [[nodiscard]] virtual Result<std::string> importFrom(const std::string& path) = 0;
  [[nodiscard]] virtual Status exportTo(const std::string& name, const std::string& path) = 0;
  virtual void chosenChanged() {}
  /// Whether what is chosen may be removed; asks, since it cannot be brought back.
  [[nodiscard]] virtual bool mayRemove();

  /// Something above the list.
  void addTop(QWidget* widget);
  /// Something below what is told of the chosen entry; for that entry.
  void addBelow(QWidget* widget);
  /// A button of the kind's own, under the others; for what is chosen.
  QPushButton* addButton(const QString& text, const std::function<void()>& run);
  /// Asks for a name and saves something under it.
  void saveAs(const QString& suggested, const std::function<Status(const std::string& name)>& save);
  void refresh(const QString& chosen = {});
  bool say(const Status& done);
  [[nodiscard]] QString chosen() const;

private:
  void refreshChosen();

  Words m_words;
  QListWidget* m_list;
  QLabel* m_contents;
  QLabel* m_message;
  QVBoxLayout* m_told;
  QVBoxLayout* m_commands;
  QPushButton *m_new, *m_update;
  QList<QWidget*> m_ofChosen;
};

} // namespace tromb
