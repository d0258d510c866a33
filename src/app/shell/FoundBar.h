// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "model/FramingService.h"
#include "model/PosterService.h"
#include "model/Session.h"

#include <QWidget>
#include <vector>

class QLabel;
class QToolButton;

namespace tromb {

/// Says what was framed by what was found, and steps through the shots whose subject is in doubt: each is asked about
/// with what it could be, drawn in the narrowest canvas; 1, 2 and 3 take one.
class FoundBar : public QWidget {
  Q_OBJECT

public:
  FoundBar(Session& session, FramingService& framing, PosterService& posters, Actions& actions,
           QWidget* parent = nullptr);

  void stepOn(); ///< to the next shot in doubt
  /// The row that is asked about, −1 for none.
  [[nodiscard]] int row() const;

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  void tell(int shots, int unsure);
  void refresh();
  void take(size_t alternative);
  void offerFor(int row, const std::vector<int>& others);
  void leave();
  [[nodiscard]] QPixmap drawn(int row, const FramedShot& framed) const;

  Session& m_session;
  Document& m_document;
  FramingService& m_framing;
  PosterService& m_posters;
  QLabel* m_words;
  std::vector<QToolButton*> m_choices;
  QToolButton* m_next;
  QToolButton* m_alike; ///< frames other shots of the source like the one that was corrected
  QToolButton* m_close;
  QString m_told;                    ///< what was framed last
  std::string m_asked;               ///< Shot::id
  std::string m_corrected;           ///< Shot::id
  std::vector<std::string> m_others; ///< Shot::id of those that may be framed like it
};

} // namespace tromb
