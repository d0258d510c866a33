// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "support/Patience.h"

#include <QDir>
#include <QFile>
#include <QProcess>
#include <QTest>
#include <cerrno>

namespace tromb::test {

struct Ran {
  int code = 0; ///< of its end; −1: by a signal, −2: it hung
  QString words;
  bool hit = false; ///< the fault was met
};

/// Runs a program with a fault on a folder's files, as told in faults.cpp; with none where `fault` is empty. `scratch`:
/// a folder for the rig itself, outside the one with the fault. `environment`: NAME=VALUE that are added.
[[nodiscard]] inline Ran runWithFault(const QString& program, const QStringList& arguments, const QString& scratch,
                                      const QString& folder, const QString& fault,
                                      const QStringList& environment = {}) {
  QProcess process;
  QProcessEnvironment all = QProcessEnvironment::systemEnvironment();
  for (const QString& each : environment) all.insert(each.section('=', 0, 0), each.section('=', 1));
  const QString hit = scratch + "/hit";
  QFile::remove(hit);
  if (!fault.isEmpty()) {
    all.insert("LD_PRELOAD", QStringLiteral(TROMB_BINARY_DIR "/tests/libtromb_faults.so"));
    all.insert("TROMB_FAULT_FOLDER", folder);
    all.insert("TROMB_FAULT", fault);
    all.insert("TROMB_FAULT_HIT", hit);
  }
  process.setProcessEnvironment(all);
  process.setProcessChannelMode(QProcess::MergedChannels);
  process.start(program, arguments);
  if (!process.waitForFinished(kPatience)) {
    process.kill();
    process.waitForFinished();
    return {-2, "it hangs", QFile::exists(hit)};
  }
  const bool ended = process.exitStatus() == QProcess::NormalExit;
  return {ended ? process.exitCode() : -1, QString::fromUtf8(process.readAll()), QFile::exists(hit)};
}

[[nodiscard]] inline QString fault(const QString& calls, int nth, const QString& how) {
  return QStringLiteral("%1:%2:%3").arg(calls).arg(nth).arg(how);
}

/// Every file in it, hidden ones too.
[[nodiscard]] inline QStringList filesIn(const QString& folder) {
  return QDir(folder).entryList(QDir::Files | QDir::Hidden | QDir::NoDotAndDotDot);
}

/// 1, 2, 3, 4, 6, 9, …: early calls are each another step, later ones are alike.
[[nodiscard]] inline int later(int n) {
  return n < 4 ? n + 1 : n * 8 / 5;
}

/// Rows of "calls" and "how" for what is written.
inline void writingFails() {
  const auto row = [](const char* name, const char* calls, const QString& how) {
    QTest::newRow(name) << QString(calls) << how;
  };
  row("disk full", "write", QString::number(ENOSPC));
  row("disk fails", "write", QString::number(EIO));
  row("written by halves", "write", "short");
  row("syncing fails", "sync", QString::number(EIO));
  row("no descriptors", "open", QString::number(EMFILE));
  row("folder vanishes", "rename", QString::number(ENOENT));
  row("killed at a write", "write", "kill");
  row("killed at the rename", "rename", "kill");
}

} // namespace tromb::test
