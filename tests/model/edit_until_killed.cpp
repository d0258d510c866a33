// SPDX-License-Identifier: GPL-3.0-or-later
// edit_until_killed PROJECT RECOVERY-FOLDER: edits and saves a project without end and says what it has finished:
// "S n" after a save of edit n, "R n" after a recovery copy of it. tst_recovery kills it at random moments.
#include "model/Document.h"
#include "model/RecoveryKeeper.h"

#include <QCoreApplication>
#include <cstdio>
#include <random>

using namespace tromb;

int main(int argc, char** argv) {
  const QCoreApplication application(argc, argv);
  Document document;
  if (argc != 3 || !document.load(QString::fromLocal8Bit(argv[1]))) return 1;
  RecoveryKeeper recovery(document, QString::fromLocal8Bit(argv[2]));
  std::mt19937 dice{std::random_device{}()};
  const auto said = [](char what, int n) {
    std::printf("%c %d\n", what, n);
    std::fflush(stdout);
  };
  for (int n = 1;; ++n) {
    document.renameShot(0, QString::number(n));
    if (dice() % 3 == 0) {
      recovery.write();
      said('R', n);
    }
    if (dice() % 5 == 0) {
      if (!document.save(document.path())) return 1;
      said('S', n);
    }
  }
}
