// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/LightService.h"
#include "model/SourceFacts.h"

#include <QWidget>

class QLabel;
class QPushButton;
class QSpinBox;
class QToolButton;
class QVBoxLayout;

namespace tromb {

/// What the selected sources are, what follows from it, and the answers that a person can change: burned-in bars cut
/// away or kept, slow motion material or not. Answers go to all selected sources.
class SourcePanel : public QWidget {
  Q_OBJECT

public:
  SourcePanel(Document& document, LightService& lights, QWidget* parent = nullptr);

  void setSources(const std::vector<int>& rows); ///< the first is described

signals:
  void addBedRequested();

private:
  void refresh();
  void change(const QString& text, const std::function<void(Source&)>& change);
  QWidget* buildBars();
  void buildScan();
  void buildColour();
  void buildSound();

  void refreshLight();
  Document& m_document;
  LightService& m_lights;
  std::vector<std::string> m_ids;
  QLabel* m_name;
  QLabel* m_facts;
  QVBoxLayout* m_lines;
  QWidget* m_bars = nullptr;
  QToolButton* m_cut = nullptr;
  QSpinBox* m_sides[4] = {};
  QToolButton* m_slow;
  QToolButton* m_repeats;
  QToolButton* m_scan;
  QToolButton* m_colour;
  QToolButton* m_sound;
  QPushButton* m_bed;
  QPushButton* m_light;
  QPushButton* m_match;
  QToolButton* m_setBars = nullptr;
  bool m_barsAsked = false; ///< the fields were shown or hidden by hand
  bool m_showing = false;
};

} // namespace tromb
