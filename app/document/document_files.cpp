// A document's folder: opened, saved, kept safe meanwhile.

#include <QDir>
#include <QFileInfo>
#include <QSettings>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "core/session/edits/track.h"
#include "core/sound/whole_file.h"

namespace heft::app {

void Document::show(OpenedSession opened, const QString& folder) {
  const QString path = QFileInfo(folder).fileName() == "session.json" ? QFileInfo(folder).path() : folder;
  const bool savedHere = opened.savedHere;
  replace(std::move(opened.session), std::move(opened.assets), path);
  history_.markSaved();
  noteRecent(path);
  Q_EMIT changed();
  if (savedHere) watchSources();
  for (const auto& warning : opened.warnings) Q_EMIT failed(QString::fromStdString(warning));
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
      [this, folder, before = session()](Result<OpenedSession> opened) {
        if (!opened)
          Q_EMIT failed(QString::fromStdString(opened.error().sentence()));
        else if (session() != before)
          Q_EMIT failed(folder + ": was not opened, for the session was changed meanwhile; open it again");
        else
          show(std::move(*opened), folder);
      });
}

void Document::saved(const Session& what, const QString& folder) {
  folder_ = folder;
  if (session() == what) history_.markSaved();
  noteRecent(folder);
  Q_EMIT told("Saved to " + folder);
  Q_EMIT changed();
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
  nameAfter(folder);
  if (auto done = saveSession(folder.toStdString(), session(), assets_); !done) {
    Q_EMIT failed(QString::fromStdString(done.error().sentence()));
    return false;
  }
  saved(session(), folder);
  return true;
}

void Document::saveAside(const QString& folder) {
  nameAfter(folder);
  auto work = [path = folder.toStdString(), s = session(), assets = assets_](const std::stop_token&) {
    return saveSession(path, s, assets);
  };
  jobs_.start("Saving " + QFileInfo(folder).completeBaseName(), Jobs::Kind::RunsToItsEnd, work,
              [this, folder, what = session()](Result<void> done) {
                if (done)
                  saved(what, folder);
                else
                  Q_EMIT failed(QString::fromStdString(done.error().sentence()));
              });
}

void Document::enableAutosave(const QString& folder) {
  autosaveFolder_ = folder;
  QDir().mkpath(folder);
  autosaveLock_ = std::make_unique<QLockFile>(folder + "/lock");
  autosaveLock_->setStaleLockTime(0);
  autosaveLock_->tryLock(0);
}

void Document::dropAutosave() {
  autosaveTimer_.stop();
  autosaveLock_.reset();
  if (!autosaveFolder_.isEmpty()) QDir(autosaveFolder_).removeRecursively();
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
        history_.apply("restore", std::move(opened->session));
        submit();
        QDir(autosaveFolder).removeRecursively();
      });
}

// Whole tracks take seconds: what plays must not wait for them.
void Document::measureReferences() {
  for (const AssetRef& ref : study_->notMeasured) {
    if (!measuring_.insert(ref.hash).second) continue;
    auto work = [ref, assets = assets_, cache = cache_](const std::stop_token&) {
      return measureReference(ref, assets, *cache).has_value();
    };
    jobs_.start("Measuring " + QString::fromStdString(ref.name), Jobs::Kind::CanBeCancelled, work,
                [this, hash = ref.hash](bool) {
                  measuring_.erase(hash);
                  submit();
                });
  }
}

void Document::autosave() {
  if (autosaveFolder_.isEmpty()) return;
  // Sounds are shared, so the copies are cheap; the disk is not waited for.
  auto work = [folder = autosaveFolder_.toStdString(), s = session(), a = assets_,
               place = folder_.toStdString()]() -> Result<void> {
    if (auto saved = saveSession(folder, s, a); !saved) return saved;
    return writeWhole(folder + "/saved-in", place);
  };
  runAside(this, work, [this](Result<void> saved) {
    if (!saved) Q_EMIT failed("Autosave: " + QString::fromStdString(saved.error().sentence()));
  });
}

}  // namespace heft::app
