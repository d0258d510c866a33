// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QKeySequence>
#include <QList>
#include <vector>

namespace tromb {

/// What has to be seen for an action to hold. Keys of the sheet and of the bench belong to them alone, so that letters
/// can be typed elsewhere.
enum class Where {
  Anywhere,
  OnFootage,
  OnSheet,
  OnBench,
  OnSheetOrBench,
  OnOrder,
  OnWatch,
  OnDispatch,
  WherePlayed ///< on all of these but the footage and the dispatch
};

/// Menus, by what people think of. Those behind Help are inside another one.
enum class MenuId {
  ProjectMenu,
  EditMenu,
  AddMenu,
  OrderMenu,
  FramingMenu,
  SubjectMenu,
  MoveMenu,
  PictureMenu,
  WatchMenu,
  QueueMenu,
  ViewMenu,
  HelpMenu,
  NewFromMenu,
  RecentMenu,
  AddForMenu,
  PasteOnlyMenu,
  CopyToMenu
};

/// One thing that can be done. The texts are sources of translation, of the context "Actions".
struct ActionRow {
  MenuId menu;
  const char* id;    ///< a stable word; empty: a separator
  const char* text;  ///< with its mnemonic, in a menu
  const char* brief; ///< on a button; empty: as `text`
  const char* tip;   ///< what it does, where the text does not say all; may be empty
  const char* icon;  ///< empty for none
  Where where = Where::Anywhere;
  QList<QKeySequence> keys{};
  bool checkable = false;
  bool inContext = false; ///< also in the context menu of `where`
};

/// A menu that is inside another one stands where a row with its id, "menu:" before it, is.
struct MenuRow {
  MenuId menu;
  const char* id;
  const char* title;
};

/// Keys that a view takes by itself, for the list of keys.
struct KeyRow {
  const char* view;
  const char* keys;
  const char* words;
};

/// All actions, in the order of their menus. Thread-safe.
[[nodiscard]] const std::vector<ActionRow>& actionTable();
[[nodiscard]] const std::vector<MenuRow>& menuTable();
[[nodiscard]] const std::vector<KeyRow>& keyTable();

} // namespace tromb
