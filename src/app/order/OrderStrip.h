// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "app/style/Settings.h"
#include "model/HeldGesture.h"
#include "model/PosterService.h"
#include "model/Session.h"
#include "model/WaveformService.h"

#include <QWidget>
#include <functional>

class QScrollBar;

namespace tromb {

/// The running order in proportion: a ruler, named regions, the shots, and the sound beds under them. Shots are
/// selected, moved by dragging, and trimmed by dragging their ends; beds are slid. Positions are on frames of the
/// session's rate.
class OrderStrip : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  OrderStrip(Session& session, PosterService& posters, WaveformService& waveforms, QWidget* parent = nullptr);

  void readSettings();        ///< which pictures are drawn
  void setSlim(bool slim);    ///< shots by their names alone, and nothing below them
  void zoomBy(double factor); ///< 1 shows the whole running order
  void showAll() { zoomBy(0); }

  /// Moves a shot's in or out point by frames of its source, stopping at the source's ends and at one frame.
  void trimSelected(bool out, int frames);

  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override; ///< shots, sound beds, then what lies over
  [[nodiscard]] QString paintedValue() const override;
  void pressPart(int part) override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {200, sizeHint().height()}; }

signals:
  void elementAsked(const std::string& id); ///< was double-clicked: what it is, is to be changed

protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

private:
  static constexpr int kEdge = 10; ///< left and right of the running order
  static constexpr int kGap = 2;
  static constexpr int kScroll = 12;
  static constexpr double kGripWidth = 7;
  enum class Grip { None, Playhead, Shot, In, Out, Bed, Element };
  struct Hold {
    Grip grip = Grip::None;
    int place = -1; ///< The place of the shot, bed or element.
    QPointF start;
    bool moving = false; ///< beyond a click's tremble
    int gesture = 0;
    Shot shot;    ///< The shot before the drag.
    SoundBed bed; ///< The bed before the drag.
    int dropBefore = -1;
  };
  void documentChanged();
  void showPlayhead();
  void layOut();
  [[nodiscard]] double xOf(const Rational& seconds) const;
  [[nodiscard]] double xOf(double seconds) const;
  [[nodiscard]] Rational timeAt(double x) const; ///< on a frame of the rate
  [[nodiscard]] int shotAt(double x) const;
  [[nodiscard]] QRectF shotRect(int row) const;
  [[nodiscard]] QRectF bedRect(int bed) const;
  [[nodiscard]] QRectF elementRect(int element) const;
  [[nodiscard]] int elementAt(double x) const; ///< the uppermost, −1 for none
  [[nodiscard]] Hold gripAt(const QPointF& point) const;
  [[nodiscard]] int rulerHeight() const;
  [[nodiscard]] int regionHeight() const;
  [[nodiscard]] int shotHeight() const;
  [[nodiscard]] int bedHeight() const;
  [[nodiscard]] int bedsTop() const;
  [[nodiscard]] int elementHeight() const; ///< of the lane of what lies over the shots; 0 where that is nothing
  [[nodiscard]] int elementsTop() const;
  [[nodiscard]] int shotsTop() const;
  /// Changes for how long a held picture is shown.
  void hold(const Shot& was, const Rational& length, int gesture);
  /// Puts the end (`out`) or the beginning of a shot on a moment of its source.
  void trim(const Shot& was, bool out, const Rational& sourceTime, int gesture);
  void drop(int before);
  void paintRuler(QPainter& painter) const;
  void paintRegions(QPainter& painter) const;
  void paintShot(QPainter& painter, int row);
  void paintShotPicture(QPainter& painter, int row, const QRectF& picture);
  void paintBed(QPainter& painter, int bed);
  void paintElements(QPainter& painter) const;
  [[nodiscard]] int pictureHeight() const;
  [[nodiscard]] int bedCount() const; ///< How many beds are shown.
  [[nodiscard]] int regionCount() const;
  /// The sound of a source from `in` on, across `rect`; `gain` is linear, by seconds since `in`.
  /// `sourceTime` tells the moment of the source, and `gain` the level (1: as it is), by the seconds from the left.
  void paintWaveform(QPainter& painter, const QRectF& rect, const std::string& source,
                     const std::function<double(double)>& sourceTime, const std::function<double(double)>& gain);
  void selectBeside(int direction);
  void extendSelection(int direction);
  void slideBed(int frames); ///< the selected one
  void clicked(int row, Qt::KeyboardModifiers modifiers);

  Session& m_session;
  Document& m_document;
  PosterService& m_posters;
  WaveformService& m_waveforms;
  QScrollBar* m_scroll;
  bool m_slim = false;
  Settings::StripPictures m_pictures = Settings::StripPictures::All;
  double m_zoom = 1;
  double m_pixelsPerSecond = 1;
  int m_anchor = 0;
  Hold m_hold;
  HeldGesture m_held;
  std::vector<std::pair<Rational, Rational>> m_elements; ///< when they are seen
};

} // namespace tromb
