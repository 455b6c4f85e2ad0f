#pragma once
/// Asking for files and folders. Each question opens at its last answer, also in later runs.

#include <QMimeData>
#include <QStringList>
#include <QUrl>

class QWidget;

namespace heft::app {

inline QStringList soundNames() {
  return {"*.wav", "*.aif", "*.aiff", "*.flac", "*.ogg", "*.opus", "*.mp3"};
}

/// Kinds of files to choose; each remembers its own folder.
enum class Asked { Sounds, Midi, KeyEvents, KitFolder, LibraryFolder };

/// The folder of the last answer; the home folder at first, and where that is gone.
QString lastFolder(Asked what);
void rememberFolder(Asked what, const QString& folder);

/// A path, or nothing if cancelled.
QString askForFile(QWidget* over, const QString& title, Asked what);
QStringList askForFiles(QWidget* over, const QString& title, Asked what);
QString askForFolder(QWidget* over, const QString& title, Asked what);
/// To write to; `name` is suggested.
QString askWhereToWrite(QWidget* over, const QString& title, Asked what, const QString& name);

inline QString askForSound(QWidget* over, const QString& title) {
  return askForFile(over, title, Asked::Sounds);
}
inline QStringList askForSounds(QWidget* over, const QString& title) {
  return askForFiles(over, title, Asked::Sounds);
}

/// Local files among the dragged data.
inline QStringList localFiles(const QMimeData* dragged) {
  QStringList out;
  for (const QUrl& url : dragged->urls())
    if (url.isLocalFile()) out << url.toLocalFile();
  return out;
}

}  // namespace heft::app
