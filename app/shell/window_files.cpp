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
#include "core/session/edits/material.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/track.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"
#include "scenario/make_demo.h"

namespace heft::app {

bool Window::openFolder(const QString& folder) {
  return document_.open(folder);
}

// Next to the open session, or the last one; never inside one.
QString Window::placeOfSessions() const {
  if (!document_.folder().isEmpty()) return QFileInfo(document_.folder()).absolutePath();
  const QStringList recent = Document::recentFolders();
  return recent.isEmpty() ? QDir::homePath() : QFileInfo(recent.front()).absolutePath();
}

void Window::openDialog() {
  if (!mayDiscard()) return;
  const QString folder =
      QFileDialog::getExistingDirectory(this, "Open a session (a folder named .heft)", placeOfSessions());
  if (!folder.isEmpty()) document_.openAside(folder);
}

bool Window::save(bool as, bool wait) {
  QString folder = document_.folder();
  if (as || folder.isEmpty() || document_.isReadOnly()) {
    const QString name = QString::fromStdString(fileNameOf(document_.track().name, 200));
    const QString suggested = QDir(placeOfSessions()).filePath(name + ".heft");
    folder = QFileDialog::getSaveFileName(this, "Save the session as", suggested, "Heft sessions (*.heft)");
    if (folder.isEmpty()) return false;
    if (!folder.endsWith(".heft")) folder += ".heft";
  }
  // A caller that wants to discard waits for it.
  if (wait) return document_.save(folder);
  document_.saveAside(folder);
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

void Window::offerReload(const QString& path) {
  if (!writtenAgain_.contains(path)) writtenAgain_ << path;
  const auto more = writtenAgain_.size() - 1;
  notices_->offer("sources",
                  QFileInfo(writtenAgain_.front()).fileName() +
                      (more > 0 ? QString(" and %1 more changed on disk.").arg(more) : " changed on disk."),
                  {{"Reload",
                    [this] {
                      for (const QString& each : std::exchange(writtenAgain_, {})) document_.reloadSource(each);
                    }}},
                  {"Keep current", [this] { writtenAgain_.clear(); }});
}

void Window::offerCopy() {
  notices_->offer("open elsewhere",
                  QFileInfo(document_.folder()).completeBaseName() +
                      " is open in another Heft window. Here it is read only.",
                  {{"Open a copy", [this] { document_.becomeCopy(); }}}, {"Keep read only", {}});
}

void Window::offerKeep() {
  const QString folder = document_.folder();
  auto keep = [this, folder] {
    const QFileInfo was(folder);
    document_.saveAside(QString::fromStdString(
        freePath(was.absolutePath().toStdString(), (was.completeBaseName() + " copy").toStdString(), ".heft")));
  };
  notices_->offer(
      "changed on disk",
      QFileInfo(folder).completeBaseName() + " was changed on disk by another program. Nothing was saved yet.",
      {{"Save mine as a copy", keep},
       {"Reload from disk", [this, folder] { document_.openAside(folder); }},
       {"Replace on disk", [this] { document_.replaceOnDisk(); }}},
      {"Cancel", {}});
}

void Window::offerBeat(double seconds) {
  notices_->offer("backing beat",
                  QString("The backing's first beat is at %1 s.").arg(QString::number(seconds, 'f', 3)),
                  {{"Start the loop there", [this, seconds] { document_.edit(moveBacking(seconds)); }}},
                  {"Keep current", {}});
}

void Window::offerLongReference(const QString& path, double seconds, const std::function<void()>& use) {
  notices_->offer(
      "long reference " + path,
      QFileInfo(path).fileName() +
          QString(" is %1 min long; Heft compares up to 10 min of a track.").arg(std::lround(seconds / 60.0)),
      {{"Use the first 10 min", use}}, {"Leave it out", {}});
}

// A loop, a stem or a track is not a one-shot: one line says so, with a button for each of its uses.
void Window::offerMaterial(Place place, int layer, const MaterialFacts& facts) {
  const Part* part = partAt(document_.session(), place);
  const Layer* l = part ? part->layer(layer) : nullptr;
  if (!l || !l->recorded()) return;
  const QString name = QString::fromStdString(l->title());
  const QString what = facts.kind == Material::Track ? "a track or stem" : "a loop";
  const auto now = [this, place, layer](auto edit) {
    return [this, place, layer, edit] {
      const Part* p = partAt(document_.session(), place);
      if (p && p->layer(layer)) document_.edit(edit(*p));
    };
  };
  std::vector<NoticeBar::Answer> answers = {
      {"Play through", now([layer](const Part& p) { return playThrough(p, layer); })},
      {"Backing", now([layer](const Part& p) { return useAsBacking(p, layer); })},
      {"Trigger", now([this, layer](const Part& p) { return useAsTrigger(document_.session(), p, layer); })}};
  if (!facts.onsets.empty()) {
    constexpr double kMostMs = 1500.0, kBeforeNextMs = 10.0;
    const double start = 1000.0 * facts.onsets.front();
    const double length =
        facts.onsets.size() > 1 ? std::min(kMostMs, 1000.0 * facts.onsets[1] - start - kBeforeNextMs) : kMostMs;
    answers.push_back({"First hit", now([layer, start, length](const Part& p) {
                         return takeOneHit(p, layer, start, length);
                       })});
  }
  answers.push_back({"Set tempo", [this, asset = l->recorded()->asset] {
                       findKeyAndTempo(document_, asset, [this](const KeyOffer& found) { offerKey(found); });
                     }});
  notices_->offer("material",
                  name + " is " + what + ": " + QString::number(facts.seconds, 'f', 1) + " s, " +
                      QString::number(facts.onsets.size()) + " onsets. Use it as:",
                  std::move(answers), {"One-shot", {}});
}

// Newest first; one from an unfinished first save holds nothing.
QFileInfoList Window::leftBehind(const QString& root) {
  QFileInfoList out;
  for (const QFileInfo& left : QDir(root).entryInfoList({"run-*"}, QDir::Dirs)) {
    FolderLock lock;
    if (lock.take(left.filePath().toStdString()) == FolderLock::State::Elsewhere) continue;  // it runs
    const QFileInfo session(left.filePath() + "/session.json");
    if (session.exists())
      out << session;
    else
      lock.release(), QDir(left.filePath()).removeRecursively();
  }
  std::sort(out.begin(), out.end(),
            [](const QFileInfo& a, const QFileInfo& b) { return a.lastModified() > b.lastModified(); });
  return out;
}

void Window::startAutosave(const QString& root) {
  constexpr qsizetype kMostOffered = 3;
  QDir().mkpath(root);
  for (const QFileInfo& left : leftBehind(root).mid(0, kMostOffered)) {
    const QString folder = left.absolutePath(), when = left.lastModified().toString("d MMMM, HH:mm");
    QFile place(folder + "/saved-in");
    const QString saved = place.open(QIODevice::ReadOnly) ? QString::fromUtf8(place.readAll()) : QString();
    const QString what =
        saved.isEmpty() ? "a session that was never saved" : QFileInfo(saved).completeBaseName();
    notices_->offer("restore " + folder,
                    QString("Heft did not close properly. Restore %1 as of %2?").arg(what, when),
                    {{"Restore",
                      [this, folder] {
                        if (mayDiscard()) document_.recover(folder);
                      }}},
                    {"Discard", [folder] { QDir(folder).removeRecursively(); }});
  }
  // Process ids repeat, in containers at every start.
  document_.enableAutosave(root + QString("/run-%1-%2")
                                      .arg(QCoreApplication::applicationPid())
                                      .arg(QRandomGenerator::global()->generate(), 8, 16, QChar('0')));
}

// Several at once: the kick, the bass and the rest of the track.
void Window::placeFiles(const QStringList& paths) {
  const PlacedFiles all = placesOf(document_.session(), paths);
  for (const PlacedFile& file : all.placed) document_.loadSoundFile(file.place, file.path);
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
                           document_.openAside(QString::fromStdString(*made));
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
    if (mayDiscard()) document_.openAside(paths.front());
    return;
  }
  placeFiles(paths);
}

}  // namespace heft::app
