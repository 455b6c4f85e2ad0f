// The window and its session's folder: opening, saving, recovery.

#include <QAbstractButton>
#include <QCoreApplication>
#include <QDir>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QMimeData>
#include <QRandomGenerator>
#include <QStandardPaths>
#include <algorithm>
#include <filesystem>

#include "app/files/file_choice.h"
#include "app/files/first_files.h"
#include "app/files/key_files.h"
#include "app/library/library.h"
#include "app/shell/notices.h"
#include "app/shell/window.h"
#include "app/stages/sounds/first_steps.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/track.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"
#include "scenario/make_demo.h"

namespace heft::app {

bool Window::openFolder(const QString& folder) {
  return document_.files().open(folder);
}

// Next to the open session, or the last one; never inside one.
QString Window::placeOfSessions() const {
  if (!document_.files().folder().isEmpty()) return QFileInfo(document_.files().folder()).absolutePath();
  const QStringList recent = SessionFiles::recentFolders();
  return recent.isEmpty() ? QDir::homePath() : QFileInfo(recent.front()).absolutePath();
}

void Window::openDialog() {
  if (!mayDiscard()) return;
  const QString folder =
      QFileDialog::getExistingDirectory(this, "Open a session (a folder named .heft)", placeOfSessions());
  if (!folder.isEmpty()) document_.files().openAside(folder);
}

bool Window::save(bool as, bool wait) {
  QString folder = document_.files().folder();
  if (as || folder.isEmpty() || document_.files().isReadOnly()) {
    const QString name = QString::fromStdString(fileNameOf(document_.track().name, 200));
    const QString suggested = QDir(placeOfSessions()).filePath(name + ".heft");
    folder = QFileDialog::getSaveFileName(this, "Save the session as", suggested, "Heft sessions (*.heft)");
    if (folder.isEmpty()) return false;
    if (!folder.endsWith(".heft")) folder += ".heft";
  }
  // A caller that wants to discard waits for it.
  if (wait) return document_.files().save(folder);
  document_.files().saveAside(folder);
  return true;
}

bool Window::mayDiscard() {
  if (document_.isSaved()) return true;
  QMessageBox box(QMessageBox::NoIcon, "Heft",
                  QString("Save changes to %1?").arg(QString::fromStdString(document_.track().name)),
                  QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  box.setTextFormat(Qt::PlainText);
  for (QAbstractButton* button : box.buttons()) button->setIcon({});
  const int answer = box.exec();
  return answer == QMessageBox::Discard || (answer == QMessageBox::Save && save(false, true));
}

void Window::startAutosave(const QString& root) {
  QDir().mkpath(root);
  offers_->offerLeftBehind(root, [this] { return mayDiscard(); });
  // Process ids repeat, in containers at every start.
  document_.files().autosave().enable(root +
                                      QString("/run-%1-%2")
                                          .arg(QCoreApplication::applicationPid())
                                          .arg(QRandomGenerator::global()->generate(), 8, 16, QChar('0')));
}

// Several at once: the kick, the bass and the rest of the track.
void Window::placeFiles(const QStringList& paths) {
  const PlacedFiles all = placesOf(document_.session(), paths);
  for (const PlacedFile& file : all.placed) document_.sounds().load(file.place, file.path);
  if (!all.over.isEmpty())
    document_.tell(
        QString("Drop %1 on a card to add it%2")
            .arg(QFileInfo(all.over.front()).fileName(),
                 all.over.size() > 1 ? QString(", and %1 more").arg(all.over.size() - 1) : QString()));
}

void Window::addSounds() {
  const QStringList paths = askForSounds(this, "Choose a kick, a bass and the rest of the track");
  if (!paths.isEmpty()) placeFiles(paths);
}

void Window::connectFirstSteps(FirstSteps& first) {
  connect(&first, &FirstSteps::filesAsked, this, &Window::addSounds);
  connect(&first, &FirstSteps::folderAsked, this, [this] {
    const QString folder = askForFolder(this, "Choose a folder of sounds", Asked::LibraryFolder);
    if (folder.isEmpty()) return;
    library_->addFolder(folder);
    showLibrary(true);
  });
  connect(&first, &FirstSteps::demoAsked, this, &Window::openDemo);
}

// Where ./demo makes it; opens an existing one as it was left.
void Window::openDemo() {
  if (!mayDiscard()) return;
  const QString root = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + "/heft-demo";
  auto work = [root = root.toStdString()](const std::stop_token&) -> Result<std::string> {
    const std::string there = root + "/Saltworks.heft";
    return std::filesystem::exists(there) ? Result<std::string>(there) : demo::write(root);
  };
  document_.jobs().start("Writing the demo", Jobs::Kind::CanBeCancelled, work,
                         [this](Result<std::string> made) {
                           if (!made) return document_.fail(QString::fromStdString(made.error().sentence()));
                           document_.files().openAside(QString::fromStdString(*made));
                         });
}

void Window::dragEnterEvent(QDragEnterEvent* event) {
  if (!localFiles(event->mimeData()).isEmpty()) event->acceptProposedAction();
}

void Window::dropEvent(QDropEvent* event) {
  const QStringList paths = localFiles(event->mimeData());
  if (paths.isEmpty()) return;
  event->acceptProposedAction();
  if (paths.size() == 1 && paths.front().endsWith(".heft") && QFileInfo(paths.front()).isDir()) {
    if (mayDiscard()) document_.files().openAside(paths.front());
    return;
  }
  placeFiles(paths);
}

}  // namespace heft::app
