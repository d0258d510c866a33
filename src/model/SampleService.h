// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Worker.h"
#include "sample/SampleStore.h"

#include <QObject>
#include <map>
#include <memory>
#include <optional>

namespace tromb {

/// Sample encodes of the open project's deliverables: made beside the window when asked for, kept by what they depend
/// on, also on disk. Going back to earlier settings finds them again. Lives in the window's thread.
class SampleService : public QObject {
  Q_OBJECT

public:
  /// Reports are kept in `folder`; what came of trying graphics hardware lies in `trialFolder`.
  SampleService(Document& document, const QString& folder, const QString& trialFolder, QObject* parent = nullptr);

  /// What samples of a deliverable have come to, as it is set now but for its bit rate or quality; null where none was
  /// made. Pictures are there only if it was made since the program began. Valid until something changes.
  [[nodiscard]] const SampleReport* report(const Deliverable& deliverable) const;
  /// Some report is known here. What `report` and `point` go by takes a while to make in a large project; where nothing
  /// is known nobody need ask.
  [[nodiscard]] bool any() const;
  /// Where its present setting lies on that curve; nothing where it lies beyond it.
  [[nodiscard]] std::optional<SamplePoint> point(const Deliverable& deliverable) const;

  /// Encodes the present setting of a deliverable and some round it; what was under way is stopped.
  void begin(const std::string& deliverableId);
  void cancel();
  [[nodiscard]] bool busy() const { return !m_subject.empty(); }
  [[nodiscard]] const std::string& subject() const { return m_subject; } ///< id of the deliverable that is encoded
  [[nodiscard]] double fraction() const { return m_fraction; }           ///< 0 to 1
  /// Why the last one of a deliverable came to nothing; empty where it did not.
  [[nodiscard]] QString fault(const std::string& deliverableId) const {
    return m_faulty == deliverableId ? m_fault : QString();
  }

signals:
  void progressed();
  void changed(); ///< a report, or whether it is busy

private:
  [[nodiscard]] std::string keyOf(const Deliverable& deliverable) const;
  void end();

  Document& m_document;
  SampleStore m_store;
  std::string m_trialFolder;
  /// Texts that are long to make, by Deliverable::id, with what they were made of.
  mutable std::map<std::string, std::pair<Deliverable, std::string>> m_settings;
  mutable std::string m_shots; ///< digest of what is sampled of the project; empty until it is needed
  mutable std::map<std::string, std::unique_ptr<SampleReport>> m_reports; ///< by key; null where the disk has none
  std::string m_subject;
  double m_fraction = 0;
  QString m_fault;
  std::string m_faulty; ///< id of the deliverable that the fault is of
  Worker m_worker;
};

} // namespace tromb
