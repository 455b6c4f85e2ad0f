#pragma once
/// Asking for sounds, the same words everywhere.

#include <QFileDialog>
#include <QMimeData>
#include <QUrl>

namespace heft::app {

inline QStringList soundNames() {
  return {"*.wav", "*.aif", "*.aiff", "*.flac", "*.ogg", "*.opus", "*.mp3"};
}
/// What a dialog offers.
inline QString soundFilter() {
  return "Sounds (" + soundNames().join(' ') + ");;All files (*)";
}

/// A path, or nothing where the question was called off.
inline QString askForSound(QWidget* over, const QString& title) {
  return QFileDialog::getOpenFileName(over, title, {}, soundFilter());
}
inline QStringList askForSounds(QWidget* over, const QString& title) {
  return QFileDialog::getOpenFileNames(over, title, {}, soundFilter());
}

/// Files of this machine among what is dragged.
inline QStringList localFiles(const QMimeData* dragged) {
  QStringList out;
  for (const QUrl& url : dragged->urls())
    if (url.isLocalFile()) out << url.toLocalFile();
  return out;
}

}  // namespace heft::app
