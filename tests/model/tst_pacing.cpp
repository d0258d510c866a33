// SPDX-License-Identifier: GPL-3.0-or-later
// Keys of a shot's speed: set, moved, taken away; lengths; what stays on its picture.
#include "model/Pacing.h"
#include "support/TestProject.h"

#include <QTest>

using namespace tromb;

class TestPacing : public QObject {
  Q_OBJECT

  /// A shot of 8 s at 25 in a source of 10, after one of 2 s.
  struct Rig {
    Document document;
    Session session{document};
    Pacing pacing{session};

    Rig() {
      Project p;
      p.sources.resize(1);
      p.sources[0].id = "s1";
      p.deliverables.resize(1);
      p.deliverables[0].id = "d1";
      for (const auto& [id, in, out] : {std::tuple("h1", 0, 2), {"h2", 1, 9}}) {
        Shot shot;
        shot.id = id;
        shot.source = "s1";
        shot.in = Rational(in);
        shot.out = Rational(out);
        p.shots.push_back(shot);
      }
      document.open(p, {});
      document.setMedia({{"s1", test::video("s1", {320, 180}, Rational(25), Rational(10))}});
      session.setPlayhead(Rational(2));
    }
    [[nodiscard]] const Shot& shot() const { return document.project().shots[1]; }
    [[nodiscard]] Rational length() const { return shot().duration(); }
  };

private slots:
  // By hand: s seconds of a source last s / ((v + w) / 2) where the speed goes evenly from v to w.
  void keysChangeTheLength() {
    Rig rig;
    rig.pacing.setKey(Rational(1));
    QCOMPARE(rig.length(), Rational(8)); // a key alone changes nothing
    rig.pacing.setKey(Rational(9));
    rig.pacing.changeKey(1, Rational(9), Rational(3), 0);
    rig.pacing.choose(0);
    rig.pacing.setEase(SpeedEase::Even);
    QCOMPARE(rig.length(), Rational(4)); // from 1 to 3
    rig.pacing.setKey(Rational(5));
    QCOMPARE(rig.shot().pace.keys.size(), size_t(3));
    rig.pacing.changeKey(1, Rational(5), Rational(1), 0);
    rig.pacing.setEase(SpeedEase::Step);
    QCOMPARE(rig.length(), Rational(8)); // 4 s at 1, 4 s at 1
    rig.document.undoStack().undo();
    rig.document.undoStack().undo();
    rig.document.undoStack().undo();
    QCOMPARE(rig.length(), Rational(4));
    rig.pacing.removeKey(0);
    rig.pacing.removeKey(0);
    QVERIFY(rig.shot().pace.keys.empty());
    QCOMPARE(rig.shot().pace.speed, Rational(3)); // that of the last key
  }

  // A key stays between its neighbours and on a frame, and its speed within what people choose.
  void keysStayInTheirPlaces_data() {
    QTest::addColumn<int>("key");
    QTest::addColumn<Rational>("time");
    QTest::addColumn<Rational>("speed");
    QTest::addColumn<Rational>("stops");
    QTest::addColumn<Rational>("at");
    QTest::newRow("before the one before") << 1 << Rational(1) << Rational(1) << Rational(51, 25) << Rational(1);
    QTest::newRow("behind the one behind") << 1 << Rational(8) << Rational(1) << Rational(149, 25) << Rational(1);
    QTest::newRow("before the shot") << 0 << Rational(0) << Rational(1) << Rational(1) << Rational(1);
    QTest::newRow("behind the shot") << 2 << Rational(10) << Rational(1) << Rational(9) << Rational(1);
    QTest::newRow("between two frames") << 1 << Rational(301, 100) << Rational(1) << Rational(3) << Rational(1);
    QTest::newRow("too slow") << 1 << Rational(3) << Rational(1, 100) << Rational(3) << Rational(1, 20);
    QTest::newRow("too fast") << 1 << Rational(3) << Rational(200) << Rational(3) << Rational(20);
  }
  void keysStayInTheirPlaces() {
    QFETCH(int, key);
    QFETCH(Rational, time);
    QFETCH(Rational, speed);
    QFETCH(Rational, stops);
    QFETCH(Rational, at);
    Rig rig;
    for (const int second : {2, 4, 6}) rig.pacing.setKey(Rational(second));
    rig.pacing.changeKey(key, time, speed, 0);
    QCOMPARE(rig.shot().pace.keys[size_t(key)].time, stops);
    QCOMPARE(rig.shot().pace.keys[size_t(key)].speed, at);
  }

  // A length is typed: the speed follows, and keys keep how they lie to each other.
  void lengthsMakeSpeeds_data() {
    QTest::addColumn<bool>("keys");
    QTest::addColumn<Rational>("length");
    QTest::addColumn<Rational>("lasts");
    QTest::newRow("half") << false << Rational(4) << Rational(4);
    QTest::newRow("a third more") << false << Rational(32, 3) << Rational(32, 3);
    QTest::newRow("far too long") << false << Rational(1000) << Rational(160);
    QTest::newRow("far too short") << false << Rational(1, 25) << Rational(2, 5);
    QTest::newRow("half, with keys") << true << Rational(2) << Rational(2);
    QTest::newRow("twice, with keys") << true << Rational(8) << Rational(8);
  }
  void lengthsMakeSpeeds() {
    QFETCH(bool, keys);
    QFETCH(Rational, length);
    QFETCH(Rational, lasts);
    Rig rig;
    if (keys) {
      rig.pacing.setKey(Rational(1));
      rig.pacing.setKey(Rational(9));
      rig.pacing.changeKey(1, Rational(9), Rational(3), 0);
      QCOMPARE(rig.length(), Rational(4));
    }
    rig.pacing.setLength(length);
    // Speeds are fractions of at most six digits.
    QVERIFY2(std::abs((rig.length() - lasts).toDouble()) < 1e-4, qPrintable(QString::number(rig.length().toDouble())));
    if (keys) QCOMPARE(rig.shot().pace.keys[1].speed, Rational(3) * rig.shot().pace.keys[0].speed);
    QCOMPARE(rig.session.starts()[1], Rational(2)); // the one before stays
  }

  // Where the playhead goes, backwards too; a key under it is chosen.
  void thePlayheadFollows() {
    Rig rig;
    rig.pacing.setKey(Rational(3));
    rig.pacing.setKey(Rational(7));
    QCOMPARE(rig.session.playhead(), Rational(8)); // the shot begins at 2 with moment 1
    QCOMPARE(rig.pacing.chosen(), 1);
    rig.session.setPlayhead(Rational(4));
    QCOMPARE(rig.pacing.chosen(), 0);
    rig.session.setPlayhead(Rational(5));
    QCOMPARE(rig.pacing.chosen(), 0); // until another is reached
    Shot back = rig.shot();
    back.pace.reversed = true;
    rig.document.changeShots({back}, "back");
    rig.pacing.goTo(Rational(8));
    QCOMPARE(rig.session.playhead(), Rational(3));
    rig.session.setPlayhead(Rational(1)); // another shot
    QCOMPARE(rig.pacing.shot()->id, std::string("h1"));
    QCOMPARE(rig.pacing.chosen(), -1);
  }
};

QTEST_GUILESS_MAIN(TestPacing)
#include "tst_pacing.moc"
