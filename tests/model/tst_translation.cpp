// SPDX-License-Identifier: GPL-3.0-or-later
// What the core says: in English, with its forms for one and for many, and in a language whose words stand in another
// order. How Qt's own forms are chosen is Qt's affair; that English has them is checked here.
#include "model/Document.h"
#include "model/Translation.h"

#include <QCoreApplication>
#include <QTemporaryDir>
#include <QTest>
#include <QTranslator>

using namespace tromb;

class TestTranslation : public QObject {
  Q_OBJECT

private slots:
  void messagesAreEnglish_data() {
    QTest::addColumn<Message>("message");
    QTest::addColumn<QString>("english");
    const auto row = [](const char* name, const Message& message, const char* english) {
      QTest::newRow(name) << message << english;
    };
    row("nothing", Message(), "");
    row("plain", say("the file is empty"), "the file is empty");
    row("places", say("%2 after %1", "one", 2), "2 after one");
    row("the same place twice", say("%1, %1", "a"), "a, a");
    row("a percentage is no place", say("bars over %1 % of it", "3.5"), "bars over 3.5 % of it");
    row("arguments are not patterns", say("'%1' and '%2'", "%2", "b"), "'%2' and 'b'");
    row("verbatim is no pattern", verbatim("50 %1"), "50 %1");
    row("a message in a message", say("%1: %2", "x", say("%1 in %2", 1, 6)), "x: 1 in 6");
    row("one", sayCounted("%n shots", "%n shot", 1), "1 shot");
    row("none", sayCounted("%n shots", "%n shot", 0), "0 shots");
    row("many, with a place", sayCounted("%n shots of %1", "%n shot of %1", 7, "x"), "7 shots of x");
    row("joined, without the empty ones", joined({say("a"), Message(), say("b"), say("c")}, ", "), "a, b, c");
  }
  void messagesAreEnglish() {
    QFETCH(const Message, message);
    QFETCH(const QString, english);
    QCOMPARE(QString::fromStdString(message.text()), english);
    QCOMPARE(said(message), english);
  }

  // Patterns and not finished sentences are handed to a translator, the inner ones too; names are not.
  void messagesAreTranslated() {
    const auto german = [](const std::string& pattern, const std::string& one, std::optional<int64_t> count) {
      if (pattern == "'%1' is in %2") return std::string("in %2 liegt '%1'");
      if (pattern == "%n groups") return std::string(count == 1 && one == "%n group" ? "%n Gruppe" : "%n Gruppen");
      return std::string();
    };
    const auto inGroups = [](int count) {
      return say("'%1' is in %2", "groups", sayCounted("%n groups", "%n group", count));
    };
    QCOMPARE(inGroups(1).text(german), std::string("in 1 Gruppe liegt 'groups'"));
    QCOMPARE(inGroups(3).text(german), std::string("in 3 Gruppen liegt 'groups'"));
    QCOMPARE(say("the file is empty").text(german), std::string("the file is empty"));
  }

  void errorsAreTranslated() {
    const Error error{ErrorCode::Unreadable, say("it is broken"), "/a.mp4", say("byte %1", 7), say("Copy it again")};
    QCOMPARE(sentence(error), std::string("/a.mp4: it is broken (at byte 7). Copy it again."));
    const auto dutch = [](const std::string& pattern, const std::string&, std::optional<int64_t>) {
      if (pattern == "it is broken") return std::string("het is stuk");
      if (pattern == "%1 (at %2)") return std::string("%1 (bij %2)");
      return std::string(pattern == "Copy it again" ? "Kopieer het opnieuw" : "");
    };
    QCOMPARE(sentence(error, dutch), std::string("/a.mp4: het is stuk (bij byte 7). Kopieer het opnieuw."));
  }

  // What is undone is told with its number, in words that fit it.
  void countsHaveTheirForms_data() {
    QTest::addColumn<int>("count");
    QTest::addColumn<QString>("words");
    QTest::newRow("one") << 1 << "Remove a source";
    QTest::newRow("two") << 2 << "Remove 2 sources";
  }
  void countsHaveTheirForms() {
    QFETCH(const int, count);
    QFETCH(const QString, words);
    QCOMPARE(QCoreApplication::translate("tromb::Document", "Remove %n sources", nullptr, count), words);
  }

  // A translator's own file holds for everything, from the next thing that is said on.
  void aTranslationIsTaken() {
    QVERIFY2(!translateWith(QStringLiteral("/nowhere/tromb_xx.qm")), "there is none");
    QVERIFY(translateWith(QStringLiteral(TROMB_BINARY_DIR "/tests/made-up.qm")));
    QVERIFY2(said(say("the file is empty")).startsWith(QStringLiteral("⟦")),
             qPrintable(said(say("the file is empty"))));
    QCOMPARE(said(sayCounted("%n pictures", "%n picture", 1)).remove(QLatin1Char('~')), QStringLiteral("⟦1 pîçtüré⟧"));
    QVERIFY2(said(verbatim("x.mp4")) == QLatin1String("x.mp4"), "names stay");
  }
};

QTEST_MAIN(TestTranslation)
#include "tst_translation.moc"
