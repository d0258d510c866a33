// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "model/FillService.h"
#include "model/PosterService.h"
#include "model/Session.h"

#include <QTimer>
#include <QWidget>
#include <vector>

class QLabel;
class QToolButton;

namespace tromb {

/// Says what was framed by what was found, and asks what it left open: shots whose subject is in doubt, each with what
/// it could be in the narrowest canvas, and then deliverables with cells that fall short of their canvas, each with
/// ways to fill the worst of them. 1, 2 and 3 take one.
class QuestionBar : public QWidget {
  Q_OBJECT

public:
  QuestionBar(Session& session, FramingService& framing, FillService& fills, PosterService& posters, Actions& actions,
              QWidget* parent = nullptr);

  void stepOn(); ///< to the next question
  /// The row of the shot that is asked about, −1 for none.
  [[nodiscard]] int row() const;
  /// The column of the deliverable that is asked about, −1 for none.
  [[nodiscard]] int column() const;
  [[nodiscard]] bool settled() const { return !m_soon.isActive(); }

protected:
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

private:
  /// A shot or a deliverable, by its id; the other is empty.
  struct Question {
    std::string shot;
    std::string deliverable;
    friend bool operator==(const Question&, const Question&) = default;
  };
  [[nodiscard]] std::vector<Question> questions() const;
  [[nodiscard]] size_t asked() const; ///< place of what is asked among them
  void showSubject(int row);
  void showFill(int column, const std::vector<int>& rows);
  void setChoice(size_t which, const QPixmap& picture, const QString& text, const QString& tip);
  void tell(int shots, int unsure);
  void refresh();
  void take(size_t alternative);
  void takeFill(int column, size_t choice);
  void offerFor(int row, const std::vector<int>& others);
  void goOn(size_t answered, const QString& told);
  void leave();
  /// A shot as a deliverable shows it; both may be other than the document's. `row`: the shot's.
  [[nodiscard]] QPixmap drawn(int row, const Deliverable& deliverable, const Shot& shot) const;

  Session& m_session;
  Document& m_document;
  FramingService& m_framing;
  FillService& m_fills;
  PosterService& m_posters;
  QTimer m_soon;
  QLabel* m_words;
  std::vector<QToolButton*> m_choices;
  QToolButton* m_next;
  QToolButton* m_alike; ///< frames other shots of the source like the one that was corrected
  QToolButton* m_close;
  QString m_told;                    ///< what was framed last
  Question m_asked;                  ///< both empty where nothing is asked
  std::vector<WayToFill> m_ways;     ///< that are offered
  std::string m_corrected;           ///< Shot::id
  std::vector<std::string> m_others; ///< Shot::id of those that may be framed like it
};

} // namespace tromb
