// A document's folder: opening, saving, autosave.

#include <QDir>
#include <QFileInfo>
#include <QSettings>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "core/session/edits/track.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"
#include "core/session/edits/files.h"

namespace heft::app {

void Document::show(OpenedSession opened, const QString& folder) {
  const QString path = QFileInfo(folder).fileName() == "session.json" ? QFileInfo(folder).path() : folder;
  const bool savedHere = opened.savedHere;
  replace(std::move(opened.session), std::move(opened.assets), path);
  fileHash_ = opened.fileHash;
  history_.markSaved();
  noteRecent(path);
  Q_EMIT changed();
  if (savedHere) watchSources();
  for (const auto& warning : opened.warnings) Q_EMIT failed(QString::fromStdString(warning));
  if (readOnly_) Q_EMIT openElsewhere();
}

// Where no lock can be made (a folder that cannot be written) there is nothing to protect.
void Document::lockFolder() {
  readOnly_ = !folder_.isEmpty() && folderLock_.take(folder_.toStdString()) == FolderLock::State::Elsewhere;
  if (folder_.isEmpty()) folderLock_.release();
}

bool Document::open(const QString& folder) {
  auto opened = openSession(folder.toStdString());
  if (!opened) {
    Q_EMIT failed(QString::fromStdString(opened.error().sentence()));
    return false;
  }
  show(std::move(*opened), folder);
  return true;
}

void Document::openAside(const QString& folder) {
  auto work = [path = folder.toStdString()](const std::stop_token& stop) { return openSession(path, stop); };
  jobs_.start(
      "Opening " + QFileInfo(folder).completeBaseName(), Jobs::Kind::CanBeCancelled, work,
      [this, folder, before = session(), opening = ++openings_](Result<OpenedSession> opened) {
        if (opening != openings_) return;  // another was requested since
        if (!opened)
          Q_EMIT failed(QString::fromStdString(opened.error().sentence()));
        else if (session() != before)
          Q_EMIT failed(folder + ": was not opened, for the session was changed meanwhile; open it again");
        else
          show(std::move(*opened), folder);
      });
}

void Document::saved(const Session& what, const QString& folder, const std::string& fileHash) {
  const bool moved = folder != folder_;
  folder_ = folder;
  fileHash_ = fileHash;
  if (moved || readOnly_) lockFolder();
  if (session() == what) history_.markSaved(), clearAutosave();
  noteRecent(folder);
  Q_EMIT told("Saved to " + folder);
  Q_EMIT changed();
}

// Under any spelling: "./Song.heft" is "Song.heft", and its lock is ours.
bool Document::isOwnFolder(const QString& folder) const {
  if (folder == folder_) return true;
  const QString whole = QFileInfo(folder).canonicalFilePath();
  return !whole.isEmpty() && !folder_.isEmpty() && whole == QFileInfo(folder_).canonicalFilePath();
}

// Does not overwrite another window's session.
bool Document::mayWriteTo(const QString& folder) {
  if (isOwnFolder(folder) && folderLock_.isHeld()) return true;
  if (!QFileInfo::exists(folder + "/session.json")) return true;
  FolderLock lock;
  if (lock.take(folder.toStdString()) != FolderLock::State::Elsewhere) return true;
  Q_EMIT failed(folder + ": is open in another Heft window; save under another name");
  return false;
}

// The file dialog has already asked about a folder chosen by name just now.
std::optional<std::string> Document::expectedHash(const QString& folder) const {
  return isOwnFolder(folder) ? std::optional(fileHash_) : std::nullopt;
}

// The first save names an untitled track.
void Document::nameAfter(const QString& folder) {
  const QString name = QFileInfo(folder).completeBaseName().left(60);
  if (track().name != Track().name || name.isEmpty()) return;
  edit(nameTrack(name.toStdString()));
}

QStringList Document::recentFolders() {
  QStringList out;
  for (const QString& folder : QSettings().value("recent sessions").toStringList())
    if (QFileInfo::exists(folder + "/session.json")) out << folder;
  return out;
}

void Document::noteRecent(const QString& folder) {
  constexpr qsizetype kMost = 10;
  QStringList all = QSettings().value("recent sessions").toStringList();
  const QString whole = QFileInfo(folder).absoluteFilePath();
  all.removeAll(whole);
  all.prepend(whole);
  QSettings().setValue("recent sessions", all.mid(0, kMost));
}

bool Document::save(const QString& folder) {
  if (!mayWriteTo(folder)) return false;
  nameAfter(folder);
  jobs_.inOrder().waitForDone();  // a save in progress comes first
  const auto done = saveUnlessChanged(folder.toStdString(), session(), assets_, expectedHash(folder));
  if (!done)
    Q_EMIT failed(QString::fromStdString(done.error().sentence()));
  else if (done->changedOnDisk)
    Q_EMIT changedOnDisk();
  else
    saved(session(), folder, done->fileHash);
  return done && !done->changedOnDisk;
}

void Document::saveAside(const QString& folder) {
  if (!mayWriteTo(folder)) return;
  nameAfter(folder);
  // What an earlier save of ours wrote is known only once it is over.
  auto expected = std::make_shared<std::optional<std::string>>(expectedHash(folder));
  if (saving_ && saving_->folder == folder) expected = saving_->fileHash;
  const auto wrote = std::make_shared<std::optional<std::string>>();
  saving_ = Saving{folder, wrote};
  auto work = [path = folder.toStdString(), s = session(), assets = assets_, expected,
               wrote](const std::stop_token&) {
    auto done = saveUnlessChanged(path, s, assets, *expected);
    *wrote = done && !done->changedOnDisk ? std::optional(done->fileHash) : *expected;
    return done;
  };
  jobs_.start("Saving " + QFileInfo(folder).completeBaseName(), Jobs::Kind::InOrder, work,
              [this, folder, what = session(), generation = generation_, wrote](Result<SaveOutcome> done) {
                if (saving_ && saving_->fileHash == wrote) saving_.reset();
                if (!done) return fail(QString::fromStdString(done.error().sentence()));
                // Its session is no longer open: it is saved, nothing else.
                if (generation != generation_) return tell("Saved to " + folder);
                if (done->changedOnDisk) return Q_EMIT changedOnDisk();
                saved(what, folder, done->fileHash);
              });
}

void Document::replaceOnDisk() {
  fileHash_ = sessionFileHash(folder_.toStdString());
  saveAside(folder_);
}

void Document::becomeCopy() {
  folder_.clear(), fileHash_.clear();
  lockFolder();
  edit(nameTrack(cutUtf8(track().name, 50) + " copy"));
  Q_EMIT changed();
}

void Document::enableAutosave(const QString& folder) {
  autosaveFolder_ = folder;
  QDir().mkpath(folder);
  autosaveLock_.take(folder.toStdString());
}

void Document::dropAutosave() {
  autosaveTimer_.stop();
  const QString folder = std::exchange(autosaveFolder_, {});
  // An autosave in progress would recreate its removed folder and look like a crash.
  jobs_.inOrder().waitForDone();
  autosaveLock_.release();
  for (const QString& each : {folder, std::exchange(recovered_, {})})
    if (!each.isEmpty()) QDir(each).removeRecursively();
}

// A saved or discarded session need not be offered after a crash.
void Document::clearAutosave() {
  autosaveTimer_.stop();
  auto work = [folder = autosaveFolder_, recovered = std::exchange(recovered_, {})]() {
    if (!recovered.isEmpty()) QDir(recovered).removeRecursively();
    return !folder.isEmpty() && QFile::remove(folder + "/session.json");
  };
  runAside(
      jobs_.inOrder(), this, work, [](bool) {}, failing());
}

void Document::recover(const QString& autosaveFolder) {
  auto work = [path = autosaveFolder.toStdString()](const std::stop_token& stop) {
    return openSession(path, stop);
  };
  jobs_.start(
      "Restoring", Jobs::Kind::CanBeCancelled, work, [this, autosaveFolder](Result<OpenedSession> opened) {
        if (!opened) {
          Q_EMIT failed(QString::fromStdString(opened.error().sentence()));
          return;
        }
        QFile place(autosaveFolder + "/saved-in");
        const QString folder = place.open(QIODevice::ReadOnly) ? QString::fromUtf8(place.readAll()) : QString();
        place.close();
        replace({}, std::move(opened->assets), QFileInfo::exists(folder) ? folder : QString());
        fileHash_ = sessionFileHash(folder_.toStdString());
        history_.apply("restore", std::move(opened->session));
        submit();
        if (readOnly_) Q_EMIT openElsewhere();
        // Removed only once this run keeps a copy of its own.
        recovered_ = autosaveFolder;
      });
}

void Document::autosave() {
  if (autosaveFolder_.isEmpty()) return;
  // Sounds are shared, so the copies are cheap; the disk writes happen aside.
  auto work = [folder = autosaveFolder_.toStdString(), s = session(), a = assets_,
               place = folder_.toStdString(), recovered = std::exchange(recovered_, {})]() -> Result<void> {
    if (auto saved = saveSession(folder, s, a); !saved) return saved;
    if (!recovered.isEmpty()) QDir(recovered).removeRecursively();
    return writeWhole(folder + "/saved-in", place);
  };
  runAside(
      jobs_.inOrder(), this, work,
      [this](Result<void> saved) {
        if (!saved) Q_EMIT failed("Autosave: " + QString::fromStdString(saved.error().sentence()));
      },
      [this](const QString& fault) { fail("Autosave: " + fault); });
}

void Document::placeKit(std::vector<Drum> drums) {
  using Read = std::vector<Result<LoadedSound>>;
  auto work = [drums](const std::stop_token& stop) {
    Read out;
    for (const Drum& d : drums) out.push_back(loadSound(d.path, stop));
    return out;
  };
  jobs_.start("Reading the kit", Jobs::Kind::CanBeCancelled, work, [this, drums](Read read) {
    std::vector<KitPart> kit;
    for (size_t i = 0; i < read.size(); ++i) {
      const QString path = QString::fromStdString(drums[i].path);
      if (!read[i]) {
        Q_EMIT failed(QString::fromStdString(read[i].error().sentence()));
        continue;
      }
      const Drum& d = drums[i];
      kit.push_back({QFileInfo(path).completeBaseName().left(40).toStdString(),
                     takeIn(std::move(*read[i]), path), d.targetMidi, d.how.method, d.band, d.length});
    }
    if (!kit.empty()) edit(heft::placeKit(kit));
  });
}

}  // namespace heft::app
