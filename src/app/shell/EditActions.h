// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "destination/NewDeliverable.h"
#include "model/Session.h"
#include "project/FramingStore.h"

#include <QObject>

namespace tromb {

class BenchView;
class FootageView;
class OrderView;
class SheetView;
class SpecView;

/// What can be done in more than one view, and so depends on where the keyboard is: removing, renaming, following,
/// adding to the running order, changing deliverables. What an action would act on stands in its text.
class EditActions : public QObject {
  Q_OBJECT

public:
  struct Views {
    FootageView& footage;
    SheetView& sheet;
    BenchView& bench;
    OrderView& order;
    SpecView& spec;
  };
  EditActions(Session& session, Actions& actions, const Views& views, QWidget* window);

  void addShots(bool atPlayhead); ///< Makes a shot of each selected source.
  void addBeds();
  void addOverlays();
  void editDeliverable(int column); ///< opens it in the spec view
  void renameShot(int row);
  void splitAtCuts(int row);

private:
  enum class Target { None, Shots, Bed, Sources, Group, Deliverables };
  void bindActions();
  void refreshTexts();
  [[nodiscard]] Target target() const;
  [[nodiscard]] int shotToRename() const; ///< row; −1: none
  void remove();
  void rename();
  void follow();
  /// Fills the menu of what can be added: each destination at its usual size and, where the footage is too soft for
  /// that, at the largest that stays sharp.
  void fillAddMenu();
  [[nodiscard]] const MediaInfo* firstWithPicture() const;
  [[nodiscard]] std::vector<PictureShape> footageShapes() const;
  void takeOffer(const Offer& offer, size_t size);
  [[nodiscard]] std::vector<int> highVersionsOf() const;
  void addHighVersions();
  void showSavedFramings();

signals:
  void specAsked(); ///< the spec view is to be shown

private:
  Session& m_session;
  Document& m_document;
  Actions& m_actions;
  Views m_views;
  QWidget* m_window;
  FramingStore m_savedFramings;
};

} // namespace tromb
