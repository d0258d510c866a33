// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/DesktopFiles.h"

#include <QCoreApplication>
#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusPendingCallWatcher>
#include <QDesktopServices>
#include <QFileInfo>
#include <QUrl>

namespace tromb {

bool openWithDesktop(const QString& path) {
  return QDesktopServices::openUrl(QUrl::fromLocalFile(path));
}

void showInFolder(const QString& path) {
  QDBusMessage message = QDBusMessage::createMethodCall(
      QStringLiteral("org.freedesktop.FileManager1"), QStringLiteral("/org/freedesktop/FileManager1"),
      QStringLiteral("org.freedesktop.FileManager1"), QStringLiteral("ShowItems"));
  message << QStringList{QUrl::fromLocalFile(path).toString(QUrl::FullyEncoded)} << QString();
  auto* asked = new QDBusPendingCallWatcher(QDBusConnection::sessionBus().asyncCall(message), qApp);
  QObject::connect(asked, &QDBusPendingCallWatcher::finished, asked, [asked, path] {
    if (asked->isError()) (void)openWithDesktop(QFileInfo(path).path());
    asked->deleteLater();
  });
}

} // namespace tromb
