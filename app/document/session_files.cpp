#include "app/document/session_files.h"

#include <QFileInfo>
#include <QSettings>

#include "app/document/document.h"
#include "core/session/edits/edit.h"
#include "core/session/edits/track.h"
#include "core/theory/text.h"

namespace heft::app {

void SessionFiles::replaced(const QString& folder) {
  autosave_.clear();
  saving_.reset();
  folder_ = folder;
  fileHash_.clear();
  lockFolder();
}

void SessionFiles::show(OpenedSession opened, const QString& folder) {
  const QString path = QFileInfo(folder).fileName() == "session.json" ? QFileInfo(folder).path() : folder;
  const bool savedHere = opened.savedHere;
  document_.replace(std::move(opened.session), std::move(opened.assets), path);
  fileHash_ = opened.fileHash;
  document_.markSaved();
  noteRecent(path);
  Q_EMIT document_.changed();
  if (savedHere) document_.sounds().watchSources();
  for (const auto& warning : opened.warnings) document_.fail(QString::fromStdString(warning));
  if (readOnly_) Q_EMIT openElsewhere();
}

// Where no lock can be made (a folder that cannot be written) there is nothing to protect.
void SessionFiles::lockFolder() {
  readOnly_ = !folder_.isEmpty() && lock_.take(folder_.toStdString()) == FolderLock::State::Elsewhere;
  if (folder_.isEmpty()) lock_.release();
}

bool SessionFiles::open(const QString& folder) {
  auto opened = openSession(folder.toStdString());
  if (!opened) {
    document_.fail(QString::fromStdString(opened.error().sentence()));
    return false;
  }
  show(std::move(*opened), folder);
  return true;
}

void SessionFiles::openAside(const QString& folder) {
  auto work = [path = folder.toStdString()](const std::stop_token& stop) { return openSession(path, stop); };
  document_.jobs().start(
      "Opening " + QFileInfo(folder).completeBaseName(), Jobs::Kind::CanBeCancelled, work,
      [this, folder, before = document_.session(), opening = ++openings_](Result<OpenedSession> opened) {
        if (opening != openings_) return;  // another was requested since
        if (!opened)
          document_.fail(QString::fromStdString(opened.error().sentence()));
        else if (document_.session() != before)
          document_.fail(folder + ": was not opened, for the session was changed meanwhile; open it again");
        else
          show(std::move(*opened), folder);
      });
}

void SessionFiles::saved(const Session& what, const QString& folder, const std::string& fileHash) {
  const bool moved = folder != folder_;
  folder_ = folder;
  fileHash_ = fileHash;
  if (moved || readOnly_) lockFolder();
  if (document_.session() == what) document_.markSaved(), autosave_.clear();
  noteRecent(folder);
  document_.tell("Saved to " + folder);
  Q_EMIT document_.changed();
}

// Under any spelling: "./Song.heft" is "Song.heft", and its lock is ours.
bool SessionFiles::isOwnFolder(const QString& folder) const {
  if (folder == folder_) return true;
  const QString whole = QFileInfo(folder).canonicalFilePath();
  return !whole.isEmpty() && !folder_.isEmpty() && whole == QFileInfo(folder_).canonicalFilePath();
}

// Does not overwrite another window's session.
bool SessionFiles::mayWriteTo(const QString& folder) {
  if (isOwnFolder(folder) && lock_.isHeld()) return true;
  if (!QFileInfo::exists(folder + "/session.json")) return true;
  FolderLock lock;
  if (lock.take(folder.toStdString()) != FolderLock::State::Elsewhere) return true;
  document_.fail(folder + ": is open in another Heft window; save under another name");
  return false;
}

// The file dialog has already asked about a folder chosen by name just now.
std::optional<std::string> SessionFiles::expectedHash(const QString& folder) const {
  return isOwnFolder(folder) ? std::optional(fileHash_) : std::nullopt;
}

// The first save names an untitled track.
void SessionFiles::nameAfter(const QString& folder) {
  const QString name = QFileInfo(folder).completeBaseName().left(60);
  if (document_.track().name != Track().name || name.isEmpty()) return;
  document_.edit(nameTrack(name.toStdString()));
}

QStringList SessionFiles::recentFolders() {
  QStringList out;
  for (const QString& folder : QSettings().value("recent sessions").toStringList())
    if (QFileInfo::exists(folder + "/session.json")) out << folder;
  return out;
}

void SessionFiles::noteRecent(const QString& folder) {
  constexpr qsizetype kMost = 10;
  QStringList all = QSettings().value("recent sessions").toStringList();
  const QString whole = QFileInfo(folder).absoluteFilePath();
  all.removeAll(whole);
  all.prepend(whole);
  QSettings().setValue("recent sessions", all.mid(0, kMost));
}

bool SessionFiles::save(const QString& folder) {
  if (!mayWriteTo(folder)) return false;
  nameAfter(folder);
  document_.jobs().inOrder().waitForDone();  // a save in progress comes first
  const auto done =
      saveUnlessChanged(folder.toStdString(), document_.session(), document_.assets(), expectedHash(folder));
  if (!done)
    document_.fail(QString::fromStdString(done.error().sentence()));
  else if (done->changedOnDisk)
    Q_EMIT changedOnDisk();
  else
    saved(document_.session(), folder, done->fileHash);
  return done && !done->changedOnDisk;
}

void SessionFiles::saveAside(const QString& folder) {
  if (!mayWriteTo(folder)) return;
  nameAfter(folder);
  // What an earlier save of ours wrote is known only once it is over.
  auto expected = std::make_shared<std::optional<std::string>>(expectedHash(folder));
  if (saving_ && saving_->folder == folder) expected = saving_->fileHash;
  const auto wrote = std::make_shared<std::optional<std::string>>();
  saving_ = Saving{folder, wrote};
  auto work = [path = folder.toStdString(), s = document_.session(), assets = document_.assets(), expected,
               wrote](const std::stop_token&) {
    auto done = saveUnlessChanged(path, s, assets, *expected);
    *wrote = done && !done->changedOnDisk ? std::optional(done->fileHash) : *expected;
    return done;
  };
  document_.jobs().start("Saving " + QFileInfo(folder).completeBaseName(), Jobs::Kind::InOrder, work,
                         [this, folder, what = document_.session(), generation = document_.generation(),
                          wrote](Result<SaveOutcome> done) {
                           if (saving_ && saving_->fileHash == wrote) saving_.reset();
                           if (!done) return document_.fail(QString::fromStdString(done.error().sentence()));
                           // Its session is no longer open: it is saved, nothing else.
                           if (generation != document_.generation())
                             return document_.tell("Saved to " + folder);
                           if (done->changedOnDisk) return Q_EMIT changedOnDisk();
                           saved(what, folder, done->fileHash);
                         });
}

void SessionFiles::replaceOnDisk() {
  fileHash_ = sessionFileHash(folder_.toStdString());
  saveAside(folder_);
}

void SessionFiles::becomeCopy() {
  folder_.clear(), fileHash_.clear();
  lockFolder();
  document_.edit(nameTrack(cutUtf8(document_.track().name, 50) + " copy"));
  Q_EMIT document_.changed();
}

void SessionFiles::recover(const QString& autosaveFolder) {
  auto work = [path = autosaveFolder.toStdString()](const std::stop_token& stop) {
    return openSession(path, stop);
  };
  document_.jobs().start(
      "Restoring", Jobs::Kind::CanBeCancelled, work, [this, autosaveFolder](Result<OpenedSession> opened) {
        if (!opened) {
          document_.fail(QString::fromStdString(opened.error().sentence()));
          return;
        }
        QFile place(autosaveFolder + "/saved-in");
        const QString folder = place.open(QIODevice::ReadOnly) ? QString::fromUtf8(place.readAll()) : QString();
        place.close();
        document_.replace({}, std::move(opened->assets), QFileInfo::exists(folder) ? folder : QString());
        fileHash_ = sessionFileHash(folder_.toStdString());
        document_.edit(become("restore", opened->session));
        if (readOnly_) Q_EMIT openElsewhere();
        // Removed only once this run keeps a copy of its own.
        autosave_.takeOver(autosaveFolder);
      });
}

}  // namespace heft::app
