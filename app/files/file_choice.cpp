#include "app/files/file_choice.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QSettings>
#include <array>

namespace heft::app {
namespace {

// In the order of Asked.
constexpr std::array kSettings{"folders/sounds", "folders/midi", "folders/key events", "folders/kit",
                               "folders/library"};

const char* settingOf(Asked what) {
  return kSettings[static_cast<size_t>(what)];
}

QString filterOf(Asked what) {
  switch (what) {
    case Asked::Midi:
      return "MIDI files (*.mid *.midi);;All files (*)";
    case Asked::KeyEvents:
      return "Key events (*.keys *.txt);;All files (*)";
    default:
      return "Sounds (" + soundNames().join(' ') + ");;All files (*)";
  }
}

}  // namespace

QString lastFolder(Asked what) {
  const QString kept = QSettings().value(settingOf(what)).toString();
  return !kept.isEmpty() && QFileInfo(kept).isDir() ? kept : QDir::homePath();
}

void rememberFolder(Asked what, const QString& folder) {
  if (!folder.isEmpty()) QSettings().setValue(settingOf(what), folder);
}

QString askForFile(QWidget* over, const QString& title, Asked what) {
  const QString path = QFileDialog::getOpenFileName(over, title, lastFolder(what), filterOf(what));
  if (!path.isEmpty()) rememberFolder(what, QFileInfo(path).absolutePath());
  return path;
}

QStringList askForFiles(QWidget* over, const QString& title, Asked what) {
  const QStringList paths = QFileDialog::getOpenFileNames(over, title, lastFolder(what), filterOf(what));
  if (!paths.isEmpty()) rememberFolder(what, QFileInfo(paths.front()).absolutePath());
  return paths;
}

QString askForFolder(QWidget* over, const QString& title, Asked what) {
  const QString folder = QFileDialog::getExistingDirectory(over, title, lastFolder(what));
  rememberFolder(what, folder);
  return folder;
}

QString askWhereToWrite(QWidget* over, const QString& title, Asked what, const QString& name) {
  const QString path =
      QFileDialog::getSaveFileName(over, title, QDir(lastFolder(what)).filePath(name), filterOf(what));
  if (!path.isEmpty()) rememberFolder(what, QFileInfo(path).absolutePath());
  return path;
}

}  // namespace heft::app
