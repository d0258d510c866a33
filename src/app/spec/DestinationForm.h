// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "destination/Destination.h"

#include <QDialog>
#include <QMap>
#include <functional>

class QCheckBox;
class QComboBox;
class QGridLayout;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QVBoxLayout;

namespace tromb {

[[nodiscard]] QString sureWords(Sureness sure); ///< "common practice"

/// All that one of people's own destinations says: value by value, how sure it is, and why. What is typed is kept when
/// that is asked for; until then nothing is changed.
class DestinationForm : public QDialog {
  Q_OBJECT

public:
  /// Keeps a destination under the name it has. What it refuses is told, and the form stays open.
  using Keep = std::function<Status(const Destination&)>;
  DestinationForm(Destination destination, Keep keep, QWidget* parent = nullptr);

  void accept() override;

private:
  class Number;
  struct Row {
    QString name;
    QLabel* label = nullptr;
    QWidget* field = nullptr;  ///< the first one
    QComboBox* sure = nullptr; ///< none: nothing need be sure of it
    QLineEdit* why = nullptr;
    std::function<QString(Destination&)> take; ///< takes over what was typed, or says what is wrong with it
  };
  using Take = std::function<QString(Destination&)>;

  /// A row for the value with this key in the file.
  QHBoxLayout* addRow(const char* key, const QString& label);
  QLineEdit* addText(QHBoxLayout* line, const QString& name, const QString& text, const QString& example,
                     int stretch = 1);
  Number* addNumber(QHBoxLayout* line, const QString& name, Number* field);
  QCheckBox* addBox(QHBoxLayout* line, const QString& text, bool checked);
  void setTake(const char* key, QWidget* field, Take take);

  void addPictureRows();
  void addBitRates();
  void addSoundRows();
  void addPlaceRows();
  void addCovered(const CoveredPart& part);
  void tell(const QString& key, const QString& message);

  Destination m_destination;
  Keep m_keep;
  QGridLayout* m_grid;
  QVBoxLayout* m_covered = nullptr;
  QList<QWidget*> m_coveredParts;
  QLabel* m_message;
  QMap<QString, Row> m_rows; ///< by key
  QStringList m_keys;        ///< in their order
};

} // namespace tromb
