// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "model/ElementPictures.h"
#include "model/HeldGesture.h"
#include "model/PosterService.h"
#include "model/Session.h"
#include "model/SheetModel.h"
#include "model/Watch.h"

#include <QTableView>
#include <functional>
#include <optional>

class QLabel;

namespace tromb {

class CellDelegate;
class SheetHead;

/// The contact sheet. Cells are selected as in a spreadsheet; the picture in a selected cell is slid by dragging
/// it or with Alt and the arrow keys, and zoomed with Ctrl and the wheel. Every command acts on all selected
/// cells, each change one undo step a gesture.
class SheetView : public QTableView {
  Q_OBJECT

public:
  SheetView(Session& session, Actions& actions, SheetModel& model, PosterService& posters, QWidget* parent = nullptr);

  void setElements(ElementPictures& elements); ///< what lies over the shots; it must live as long
  /// The cells of the shot that is played move; it must live as long.
  void setWatch(Watch& watch);
  [[nodiscard]] int pictureHeight() const { return m_pictureHeight; }
  /// 72 to 320; or as high as lets every cell be seen, where that is more than the usual height.
  void readSettings(); ///< Takes the height that the settings have.
  void setPictureHeight(int pixels);
  void setFits(bool fits);
  [[nodiscard]] bool fits() const { return m_fits; }

  /// Applies `change` to every selected cell that has a picture.
  void change(const QString& text, const std::function<Framing(const Cell&)>& change, int gesture = 0);
  void applyLayout(const std::string& framingName, const QString& text);
  void centreSelected();
  void followSelected(); ///< gives the selected cells back to their subjects

  // Framings carried from the current cell, and from the shot before.
  void copyFraming();
  void pasteFraming(FramingPart part);
  [[nodiscard]] bool hasCopied() const { return m_copied.has_value(); }
  enum class Spread { Row, Column, SameSource };
  void spreadFraming(Spread where);
  void takeFromBefore();
  void nudge(int dx, int dy); ///< canvas pixels; repeats within a moment merge into one undo step
  void zoomBy(double factor);

signals:
  void heightChanged();                  ///< The pictures are of another height, or fit or no longer fit by themselves.
  void cellActivated();                  ///< the current one is to be seen large
  void deliverableActivated(int column); ///< its head was double-clicked
  void shotRenameRequested(int row);

protected:
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyboardSearch(const QString&) override {} ///< letters are framing commands
  void selectionChanged(const QItemSelection& selected, const QItemSelection& deselected) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;
  void changeEvent(QEvent* event) override;

private:
  struct Drag {
    QPoint start;
    std::vector<std::pair<CellPlace, Cell>> cells; ///< The cells as they were when the drag began.
    double shownPerPixel = 1;                      ///< Canvas pixels of the dragged cell for each pixel of the screen.
    double shownWidth = 1;
    int window = -1;
    int gesture = 0;
  };
  void fitSections();
  [[nodiscard]] int fittingHeight() const;
  void placeCorner();
  void askPlayed();
  void showPlayed();
  void updateRow(int row);

  void bindActions();
  void showSelection();
  void tellSelection();

  Session& m_session;
  Actions& m_actions;
  SheetModel& m_model;
  CellDelegate* m_delegate;
  Watch* m_watch = nullptr;
  SheetHead* m_columns;
  SheetHead* m_rows;
  QLabel* m_corner;
  std::optional<Cell> m_copied;
  int m_pictureHeight = 132;
  bool m_fits = true;
  std::optional<Drag> m_drag;
  HeldGesture m_held;
  bool m_showing = false; ///< what the session says is being shown here
  bool m_telling = false; ///< what is selected here is being told to the session
};

} // namespace tromb
