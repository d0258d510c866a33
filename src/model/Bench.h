// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/Calming.h"
#include "geometry/WaysToFill.h"
#include "model/Document.h"

#include <QObject>
#include <QPointF>
#include <QRectF>
#include <optional>

namespace tromb {

/// One shot being framed: which moment of it is looked at, which deliverable is active, and whether its window or the
/// shot's subject is being placed. Every change is an undoable command of the document; places are in pixels of the
/// upright picture without its bars. Lives in the window's thread.
class Bench : public QObject {
  Q_OBJECT

public:
  explicit Bench(Document& document, QObject* parent = nullptr);

  [[nodiscard]] Document& document() const { return m_document; }
  /// Of the shot; −1 for none, also while the project has no deliverable: nothing can be placed then.
  [[nodiscard]] int row() const;
  [[nodiscard]] int column() const { return m_column; }
  [[nodiscard]] int window() const { return m_window; } ///< of the active deliverable's layout
  [[nodiscard]] bool placesSubject() const { return m_subject; }
  void setShot(int row);
  void setColumn(int column);
  void setWindow(int window);
  void setPlacesSubject(bool subject); ///< what keys belong to and what is placed

  // The moment. Frames are of the source.
  [[nodiscard]] int64_t frame() const { return m_frame; }
  [[nodiscard]] int64_t firstFrame() const;
  [[nodiscard]] int64_t endFrame() const; ///< one past the last
  [[nodiscard]] Rational time() const;    ///< seconds of the source
  [[nodiscard]] Rational timeOf(int64_t frame) const;
  [[nodiscard]] int64_t frameOf(double seconds) const;
  void goTo(int64_t frame);

  [[nodiscard]] const Shot* shot() const;       ///< null where row() is −1
  [[nodiscard]] const MediaInfo* media() const; ///< null for none
  [[nodiscard]] SizeF picture() const;
  [[nodiscard]] QPointF middle() const; ///< of the picture: where a subject is put that nobody has placed
  /// A deliverable's cell at the moment.
  [[nodiscard]] Cell cell(int column) const;
  [[nodiscard]] QRectF windowRect(int column, int window) const;
  [[nodiscard]] std::optional<QPointF> subject() const; ///< of the window, at the moment; empty where it has none

  // Placing. Calls with one gesture are one step. With a move, a key is put at the moment.
  void placeSubject(QPointF at, int gesture);
  void removeSubject();
  void setOrientation(const Orientation& orientation, const QString& text); ///< of the shot's source, everywhere
  [[nodiscard]] Orientation orientation() const;
  /// Burned-in bars of the shot's source, in its own pixels as it stands in its orientation. Set everywhere.
  [[nodiscard]] Bars bars() const;
  [[nodiscard]] std::optional<Bars> measuredBars() const; ///< as they were found; empty while nobody looked
  void setBars(const Bars& bars);
  [[nodiscard]] Size raster() const;      ///< of the source with its bars, as it stands; 16×9 for none
  static constexpr int kLeastKept = 16;   ///< pixels that bars leave of a side
  void setWanted(double atX, double atY); ///< where in every canvas the subject is wanted
  /// The active window's centre, snapped to what lies within `snap` pixels of the picture (0: not at all).
  void placeWindow(QPointF centre, double snap, int gesture);
  /// The active window's zoom, held at detail 1.00 when it comes near.
  void zoomWindow(double zoom, bool held, int gesture);
  void nudge(double canvasX, double canvasY, int gesture);
  void follow(); ///< gives the active cell back to the subject
  void apply(const Framing& framing, const QString& text);
  void applyWay(const WayToFill& way);
  [[nodiscard]] std::vector<WayToFill> ways() const;
  [[nodiscard]] double secondsAWidth() const; ///< of the active window's fastest travel; 0 when it rests

  // Keys of the active move: the subject's, or the active window's.
  [[nodiscard]] const Move* move() const; ///< null where there is none
  void setKey();                          ///< at the moment, where it is now
  void removeKey(int key);
  void changeKey(int key, const MoveKey& changed, int gesture); ///< stays between its neighbours
  void setEase(Ease ease);                                      ///< of the key at or before the moment
  [[nodiscard]] std::optional<int> keyAt(const Rational& time) const;
  void goToKey(int direction);     ///< the next key (1) or the one before (−1), else the shot's end
  void startAndEnd();              ///< keys at both ends of the shot, where it is then
  void setKeyAtCut(int direction); ///< a key at the cut after the moment (1) or before it (−1), where it is then
  void copyMove();
  void pasteMove(); ///< as long after the shot's beginning as it was copied
  void reverse();
  void clearMove();
  void shiftMove(int64_t frames);           ///< all keys, by frames of the source; stops at the shot's ends
  void stretchMove(const Rational& factor); ///< round its first key; stops at the shot's end

  // Following. A shot's track is kept while the window is open, so that it can be calmed anew.
  void takeTrack(const std::string& shot, const Track& track); ///< and lays the calmed move, as one step
  /// Of the shot; null for none, and where its picture is another by now.
  [[nodiscard]] const Track* track() const;
  [[nodiscard]] double calming() const { return m_calming; } ///< 0 to 1
  void setCalming(double strength, int gesture);

signals:
  void changed(); ///< what is shown, or where
  void moved();   ///< another frame is looked at

private:
  /// A track, whose it is, and in what picture it was found.
  struct Followed {
    Track track;
    size_t subject = 0;
    std::string source;
    Bars bars;
    Orientation orientation;
  };
  void setKeysAt(const std::vector<int64_t>& frames, const QString& text);
  void setMove(const Move& move, const QString& text, int gesture);
  void calm(const std::string& shot, int gesture);
  [[nodiscard]] const Followed* followed(const std::string& shot) const;
  void setWindowTo(const Window& window, const QString& text, int gesture);
  [[nodiscard]] SizeF share() const;
  [[nodiscard]] QPointF snapped(QPointF centre, const SizeF& size, double reach) const;

  Document& m_document;
  std::string m_shot;
  int m_column = 0;
  int m_window = 0;
  bool m_subject = false;
  int64_t m_frame = 0;
  std::map<std::string, Followed> m_tracks; ///< by Shot::id
  double m_calming = 0.6;
  Move m_copied; ///< from the beginning of its shot
};

} // namespace tromb
