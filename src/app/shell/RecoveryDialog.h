// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Recovery.h"

#include <QDialog>
#include <optional>

class QListWidget;

namespace tromb {

/// Copies with unsaved changes whose window did not get to close them: when each was written and what differs from the
/// saved project; to be opened, removed, or left for later.
class RecoveryDialog : public QDialog {
  Q_OBJECT

public:
  explicit RecoveryDialog(std::vector<RecoveryCopy> copies, QWidget* parent = nullptr);

  [[nodiscard]] const std::optional<RecoveryCopy>& toOpen() const { return m_toOpen; }

private:
  std::vector<RecoveryCopy> m_copies;
  std::optional<RecoveryCopy> m_toOpen;
  QListWidget* m_list;
};

} // namespace tromb
