// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Worker.h"
#include "preflight/Preflight.h"

#include <QTimer>

namespace tromb {

class SampleService;

[[nodiscard]] QString severityWords(Severity severity); ///< "error", in the language that is shown

/// The state of a cell says it, so that it is not told beside it.
[[nodiscard]] bool toldByState(const Finding& finding);

/// What falls short in the open project, looked for beside the window whenever something has changed. Lives in the
/// window's thread.
class PreflightService : public QObject {
  Q_OBJECT

public:
  explicit PreflightService(Document& document, QObject* parent = nullptr);

  /// What was found when it was last looked for, heaviest first.
  [[nodiscard]] const std::vector<Finding>& findings() const { return m_findings; }
  [[nodiscard]] bool busy() const { return m_soon.isActive() || m_looking.busy(); }

  struct Counts {
    int errors = 0;
    int warnings = 0;
    int notes = 0; ///< with those that were accepted
  };
  [[nodiscard]] const Counts& all() const { return m_all; }
  /// Of a deliverable, its cells included, also where they are framed as those of another and told there.
  [[nodiscard]] Counts countsIn(const std::string& deliverableId) const;
  /// The findings of a cell, by their places in the list.
  [[nodiscard]] std::vector<int> placesIn(const std::string& deliverableId, const std::string& shotId) const;

  /// What is amiss in a cell beside what its own state says: warnings and errors. Good until the next `changed`.
  [[nodiscard]] std::vector<const Finding*> besideState(const std::string& deliverableId,
                                                        const std::string& shotId) const;

  /// Looks again, where something beside the project has changed: a destination.
  void lookAgain() { m_soon.start(); }
  /// The folder that is exported to next; it is looked at too.
  void setFolder(const QString& folder);
  /// What is known of the files' sizes by samples is used from now on. It must live as long.
  void setSamples(const SampleService& samples);

  /// Mends findings, by their places in the list, each with its first fix, as one undo step. Those without one are
  /// left.
  void mend(const std::vector<int>& places, const QString& text);
  /// What there is to accept in findings, by their places in the list; those that stop an export are left out. Stays
  /// good while something else is looked for, since somebody takes a while to write a word.
  [[nodiscard]] std::vector<Acceptance> acceptable(const std::vector<int>& places) const;
  /// Lets findings be, with a word why, or no longer; as one undo step.
  void accept(std::vector<Acceptance> findings, const QString& word);
  void takeBack(const std::vector<int>& places);
  /// How much findings with a code weigh in this project from now on; nothing: what they usually do.
  void weigh(const std::string& code, std::optional<Severity> severity);

signals:
  void changed();

private:
  void look();
  void take(std::vector<Finding> findings);

  Document& m_document;
  QTimer m_soon; ///< One edit sends many signals; it is looked once.
  QString m_folder;
  const SampleService* m_samples = nullptr;
  std::shared_ptr<CellMemory> m_memory = newCellMemory(); ///< for one look at a time
  std::vector<Finding> m_findings;
  Counts m_all;
  std::map<std::string, Counts> m_counts;                                  ///< by Deliverable::id
  std::map<std::pair<std::string, std::string>, std::vector<int>> m_cells; ///< by Deliverable::id and Shot::id
  Worker m_looking;
};

} // namespace tromb
