// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QCoreApplication>
#include <optional>
#include <vector>

namespace tromb {

class Bench;

/// The keys of the move that is on the bench: of the subject while it is placed, else of the active window. Every
/// change is an undoable command of the document. Lives in the window's thread.
class BenchMoves {
  Q_DECLARE_TR_FUNCTIONS(BenchMoves)

public:
  explicit BenchMoves(Bench& bench);

  [[nodiscard]] const Move* move() const; ///< null where there is none
  void setKey();                          ///< Sets a key at the playhead, with the place and zoom that are seen there.
  void removeKey(int key);
  void changeKey(int key, const MoveKey& changed, int gesture); ///< stays between its neighbours
  void setEase(Ease ease); ///< Changes how the key at or before the playhead goes on.
  [[nodiscard]] std::optional<int> keyAt(const Rational& time) const;
  void goToKey(int direction);     ///< the next key (1) or the one before (−1), else the shot's end
  void startAndEnd();              ///< keys at both ends of the shot, where it is then
  void setKeyAtCut(int direction); ///< a key at the cut after the moment (1) or before it (−1), where it is then
  void copyMove();
  [[nodiscard]] bool hasCopied() const { return !m_copied.empty(); }
  void pasteMove(); ///< The keys keep their distance from the shot's beginning.
  void reverse();
  void clearMove();
  void shiftMove(int64_t frames);           ///< all keys, by frames of the source; stops at the shot's ends
  void stretchMove(const Rational& factor); ///< round its first key; stops at the shot's end

private:
  void setKeyAt(const Rational& time);
  void setKeysAt(const std::vector<int64_t>& frames, const QString& text);
  void setMove(const Move& move, const QString& text, int gesture);

  Bench& m_bench;
  Document& m_document;
  Move m_copied; ///< from the beginning of its shot
};

} // namespace tromb
