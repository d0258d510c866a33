// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "app/dispatch/CompareView.h"
#include "app/dispatch/JobPanel.h"
#include "model/HandOverService.h"

class QLabel;
class QSplitter;
class QStackedWidget;

namespace tromb {

/// The last of the views: what is to be sent, the queue, and what came of it. Left, everything by job and file; right,
/// whatever is chosen there.
class DispatchView : public QWidget {
  Q_OBJECT

public:
  DispatchView(Document& document, QueueService& queue, Actions& actions, QWidget* parent = nullptr);
  [[nodiscard]] SendForm& form() { return *m_form; }
  [[nodiscard]] QueueList& list() { return *m_list; }
  [[nodiscard]] CompareView& comparing() { return *m_compare; }
  /// Puts the keyboard on what sends the project off.
  void toSending();
  [[nodiscard]] bool settled() const { return m_form->settled() && m_panel->settled(); }

signals:
  /// A finished file is to be watched beside the deliverable; its first picture is that of `begin`, in seconds of the
  /// running order.
  /// `at`: seconds into the file, where it is to be seen first.
  void watchWanted(const QString& path, const std::string& deliverable, const Rational& begin, double at);

protected:
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

private:
  void bindActions();
  void showCurrent();
  void say(const QString& text, bool amiss);
  [[nodiscard]] const QueuedJob* job() const;  ///< that is chosen, or whose file is; null for none
  [[nodiscard]] const JobResult* file() const; ///< that is chosen and made; null for none
  [[nodiscard]] QString page() const;          ///< the proof of that file as a page; only where there is one chosen
  void watch(double at);
  void compare();
  void compare(const ComparedSide& first, const ComparedSide& second, std::optional<double> at);
  void handOver();
  void endComparing();
  void ended(const QString& id);
  void openPath(const QString& path);

  Document& m_document;
  QueueService& m_queue;
  Actions& m_actions;
  QueueList* m_list;
  SendForm* m_form;
  JobPanel* m_panel;
  QStackedWidget* m_right;
  QWidget* m_buttons;
  std::vector<QWidget*> m_ofFile;    ///< buttons that are of use where a finished file is chosen
  std::vector<QWidget*> m_untilOver; ///< … until the job is over
  std::vector<QWidget*> m_onceAmiss; ///< … once it is over, and something of it is not as asked
  QLabel* m_message;
  QStackedWidget* m_pages; ///< the queue, or two files that are compared
  CompareView* m_compare;
  HandOverService m_handOver;
  std::string m_added; ///< Job::id, to be shown as soon as it is there
};

} // namespace tromb
