// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Session.h"

#include <QObject>
#include <optional>

namespace tromb {

/// How the shot under the playhead passes in time, and the keys of its speed. Keys stand at moments of the source, so
/// that they stay on their pictures; what is changed here is an undoable command of the document. Lives in the window's
/// thread.
class Pacing : public QObject {
  Q_OBJECT

public:
  explicit Pacing(Session& session, QObject* parent = nullptr);

  [[nodiscard]] Session& session() const { return m_session; }
  [[nodiscard]] const Shot* shot() const;           ///< null where there is none, it is a still, or its picture is held
  [[nodiscard]] const FrameClock& clock() const;    ///< of its source; only where there is a shot
  [[nodiscard]] const Rational& sourceTime() const; ///< under the playhead, seconds
  void goTo(const Rational& sourceTime);            ///< moves the playhead; stops at the shot's ends
  /// The frame of the source that is nearest to a moment, inside the shot: where it begins, in seconds.
  [[nodiscard]] Rational onFrame(const Rational& sourceTime) const;

  void setSpeed(const Rational& speed, int gesture); ///< one for the whole shot: keys go away
  /// Makes the shot last so long by showing it faster or slower; keys keep how their speeds lie to each other. Stops at
  /// the least and the most speed that people choose.
  void setLength(const Rational& seconds);

  [[nodiscard]] int chosen() const; ///< The key that is chosen, by place; −1 while there is none.
  void choose(int key);             ///< and moves the playhead there
  [[nodiscard]] int keyAt(const Rational& sourceTime) const; ///< within half a frame; −1: none
  /// Sets a key with the speed that there is, and chooses it; the one that is there already, if there is one.
  void setKey(const Rational& sourceTime);
  /// Moves a key, between its neighbours, and gives it a speed that people choose.
  void changeKey(int key, const Rational& sourceTime, const Rational& speed, int gesture);
  void setEase(SpeedEase ease); ///< how the chosen key goes on to the next
  void removeKey(int key);      ///< With the last one its speed stays.

signals:
  void changed(); ///< another shot, another pace, another key
  void moved();   ///< the playhead

private:
  void put(Pace pace, const QString& text, int gesture = 0);
  void follow(bool edited);
  Session& m_session;
  std::string m_shot; ///< the id of the shot that is looked at
  Session::Under m_under;
  int m_chosen = -1;
};

} // namespace tromb
