// SPDX-License-Identifier: GPL-3.0-or-later
#include "destination/Destination.h"
#include "encoding/Level.h"
#include "geometry/LegalSize.h"

#include <QTest>

using namespace tromb;

class TestDestination : public QObject {
  Q_OBJECT

private slots:
  void destinationsAreUsable() {
    QVERIFY2(destinationData().has_value(), destinationData() ? "" : sentence(destinationData().error()).c_str());
    QVERIFY(destinationData()->destinations.size() >= 5);
    for (const Destination& d : destinationData()->destinations) {
      QVERIFY(isLegalSize(d.canvas));
      QVERIFY(!d.basis.empty());
      LevelTable::Demand demand{.canvas = d.canvas, .rate = d.mostRate, .factor = 1.25};
      demand.bitRate = d.bitRate * 3 / 2;
      QVERIFY(h264Levels().lowest(demand));
    }
    for (const ProjectTemplate& t : destinationData()->templates)
      for (const std::string& id : t.destinations) QVERIFY2(destination(id), id.c_str());
  }
};

QTEST_GUILESS_MAIN(TestDestination)
#include "tst_destination.moc"
