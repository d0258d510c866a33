// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Cell.h"
#include "model/Document.h"
#include "model/Worker.h"
#include "preflight/Preflight.h"
#include "queue/Job.h"

#include <QTimer>
#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace tromb {

/// What of the open project is to be sent off, and how: which deliverables, which part, where to, under which names.
/// What falls short in it is looked for beside the window.
class SendForm : public QWidget {
  Q_OBJECT

public:
  explicit SendForm(Document& document, QWidget* parent = nullptr);

  /// A deliverable that may be sent.
  struct Candidate {
    std::string id;
    QString name;
    QString facts;     ///< size, rate, expected bytes
    int64_t bytes = 0; ///< expected; 0 where that cannot be told
    QString verdict;   ///< what falls short, in a line
    Cell::State state = Cell::State::Good;
    bool possible = true; ///< nothing forbids it
    bool chosen = true;
  };
  [[nodiscard]] const std::vector<Candidate>& candidates() const { return m_candidates; }
  void choose(const std::string& id, bool chosen);
  /// Says what falls short in one of them; an empty id: in none.
  void showFindings(const std::string& id);
  void setRegion(const QString& name); ///< empty: the whole running order
  /// Chooses what a job of this project was, so that it can be sent again otherwise.
  void takeFrom(const Job& job);
  [[nodiscard]] QString folder() const;
  void setFolder(const QString& folder);
  [[nodiscard]] QLineEdit& folderField() { return *m_folder; }
  [[nodiscard]] QPushButton& sendButton() { return *m_send; }
  [[nodiscard]] bool settled() const { return !m_soon.isActive() && !m_looking.busy(); }
  [[nodiscard]] bool sendable() const;
  /// Once it is known what falls short: asks about errors and about files that are there, and emits `wanted`.
  void send();

signals:
  void changed(); ///< the candidates
  void folderChanged();
  void wanted(const tromb::Job& job, const tromb::Project& project);

protected:
  void showEvent(QShowEvent* event) override;

private:
  [[nodiscard]] QString region() const;
  [[nodiscard]] Clash clash() const;
  void look();
  void take(const std::vector<Finding>& findings, const Project& part);
  void describe(Candidate& candidate, const Project& part);
  [[nodiscard]] QString aboutRoom(int64_t bytes) const;
  void refresh();
  void refreshDocument();
  void takeNaming();
  [[nodiscard]] QString pathOf(const Candidate& candidate) const;
  [[nodiscard]] QStringList there() const;
  [[nodiscard]] bool agreed();
  [[nodiscard]] std::optional<Clash> agreedClash();
  void sendNow();

  Document& m_document;
  std::vector<Candidate> m_candidates;
  std::set<std::string> m_left; ///< Deliverable::id of those that are not chosen
  std::vector<Finding> m_findings;
  std::string m_shown;           ///< Deliverable::id, whose findings are said
  std::optional<int64_t> m_free; ///< bytes on the disk of the folder, when it was last looked
  bool m_known = false;          ///< what there is to be sent
  bool m_stale = true;           ///< something has changed since it was looked
  bool m_sending = false;        ///< as soon as it is known what falls short
  QComboBox* m_region;
  QLabel* m_regionLabel;
  QLineEdit* m_folder;
  QLineEdit* m_naming;
  QLabel* m_named; ///< the first file's name, or what is wrong with the pattern
  QComboBox* m_clash;
  QComboBox* m_loudness;
  QComboBox* m_afterwards;
  QLabel* m_found;
  QLabel* m_message;
  QPushButton* m_send;
  QTimer m_soon;
  Worker m_looking;
};

} // namespace tromb
