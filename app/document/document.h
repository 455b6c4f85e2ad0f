#pragma once
/// The open session: its history, its sounds, and the worker's results.

#include <QFileSystemWatcher>
#include <QObject>
#include <QTimer>
#include <functional>
#include <map>
#include <memory>
#include <set>

#include "app/document/jobs.h"
#include "app/document/places.h"
#include "core/library/shelf.h"
#include "core/measure/events/material.h"
#include "core/remedies/remedies.h"
#include "core/render/lanes/bounce.h"
#include "core/session/assets.h"
#include "core/session/edits/edit.h"
#include "core/session/folder.h"
#include "core/session/folder_lock.h"
#include "core/session/history.h"
#include "core/session/value_at.h"
#include "core/solve/sound_fit.h"
#include "core/tune/kit.h"
#include "engine/worker/worker.h"

namespace heft::app {

/// The layer of a part that a sound goes to.
struct LayerPlace {
  static constexpr int kFirst = -1, kNew = 0, kFitted = -2;
  int layer = kFirst;  ///< kFirst: instead of the first or as the first; kNew: beside the others; kFitted:
                       ///< instead of the first, whose note, length and shape it takes over; else a layer's id
  SoundFit fit = {};   ///< with kFitted: its moves
};

class Document : public QObject {
  Q_OBJECT
 public:
  /// Renders and measurements are kept in `cache`, which documents may share.
  explicit Document(std::shared_ptr<StepCache> cache = std::make_shared<StepCache>());
  ~Document() override;

  const Session& session() const { return history_.now(); }
  const Track& track() const { return session().track; }
  const Assets& assets() const { return assets_; }
  const Stems* stems() const { return stems_.get(); }
  std::shared_ptr<const LoopSnapshot> snapshot() const { return snapshot_; }
  /// How lanes are drawn; from the same render as stems().
  const LanePeaks& lanePeaks() const { return *peaks_; }
  /// How a song's lanes are drawn; nothing for a loop, whose samples are drawn.
  const LaneWaves* waves() const { return waves_.get(); }
  /// Where a song is heard next, and whether Before is: what the next edit makes first.
  void setPlayhead(double quarters, bool before) { playhead_ = quarters, beforeIsHeard_ = before; }
  /// Meters at the lanes' heads, Now or Before; shortly after an edit those of the former state.
  const LoopLevels* levels(bool before) const { return (before ? levelsBefore_ : levels_).get(); }
  /// A layer on its own, from the last render; nothing where that had none.
  const LayerSound* layerSound(int part, int layer) const;
  const Study* study() const { return study_.get(); }
  const std::vector<Finding>& findings() const { return findings_; }
  /// Whether figures of the present session are still pending, or anything runs aside.
  bool isBusy() const { return !isStudied() || jobs_.isBusy(); }
  /// Whether the figures are of the present session; whether all its remedies have been tried as well.
  bool isStudied() const { return studied_ == submitted_; }
  bool remediesTried() const { return isStudied() && remediesTried_; }
  Jobs& jobs() { return jobs_; }
  /// Results of render and study; for work aside.
  std::shared_ptr<StepCache> cache() const { return cache_; }

  /// One undoable edit. Consecutive edits with the same merge key are one step until endDrag().
  void edit(const Edit& edit);
  /// Adds a bounce's file and replaces what was bounced.
  void takeBounce(Bounce bounce);
  void endDrag() { history_.endMerge(); }
  void apply(const Finding& finding);
  /// Applies all fixes that make no line worse and ask nothing, or those of some lines, by id; aside and then
  /// as one edit, which says what each did.
  void mend(const std::string& name, const std::vector<std::string>& only = {});
  void mendAll() { mend("fix all"); }
  /// Tries another fix of a line aside; `then` gets it with its side effect and why it asks, unless the session
  /// changed meanwhile.
  void weigh(const Remedy& other, std::function<void(const Remedy&)> then);
  /// Works out Fix all for the present session aside, until stopped; changes nothing. `then` gets it with
  /// that session.
  void listFixes(const FixChoice& choice, const std::stop_token& stop,
                 std::function<void(const MendedSession&, const Session&)> then);
  /// Applies it as one edit, if the session is still the one it was worked out for.
  void applyFixes(const std::string& name, const MendedSession& fixes, const Session& was,
                  const std::vector<std::string>& only = {});
  void setMeantSo(const std::string& id, bool meant);
  void undo();
  void redo();
  QString undoName() const { return QString::fromStdString(history_.undoName()); }
  QString redoName() const { return QString::fromStdString(history_.redoName()); }

  /// Reads a sound aside and places it as one edit. Failures go to failed().
  void loadSoundFile(Place place, const QString& path, LayerPlace where = {});
  /// Uses it as the source of a body, the processor with that id among those of `of`.
  void loadBodyFile(const Owner& of, int id, const QString& path);
  /// Reads a ducking's trigger: a sound, or a MIDI file, by its content.
  void loadTrigger(int duck, const QString& path);
  /// Reloads a file that changed on disk and replaces its sound everywhere, in all versions too, as one edit.
  void reloadSource(const QString& path);
  /// Likewise for several references.
  void loadSoundFiles(Place place, const QStringList& paths);
  /// Reads a kit's drums aside and puts each into a part of its own, as one edit.
  void placeKit(std::vector<Drum> drums);

  void newSession();
  bool open(const QString& folder);
  bool save(const QString& folder);
  /// The same aside: the window stays awake while long sounds are read or written.
  void openAside(const QString& folder);
  void saveAside(const QString& folder);
  QString folder() const { return folder_; }
  /// Another window has the session's folder open: changes are saved to a new folder.
  /// The library's file, where references are kept across sessions; empty: nowhere.
  void setShelf(const QString& path) { shelfPath_ = path; }
  QString shelf() const { return shelfPath_; }
  /// A reference's whole track as measured; nothing yet where it is being measured (profiled() follows).
  std::shared_ptr<const TrackProfile> trackProfile(const Reference& reference);
  /// After a cancel: tracks that were not measured may be asked for again.
  void retryProfiles();
  bool isReadOnly() const { return readOnly_; }
  /// Turns this into an unsaved session with the same content and a new name.
  void becomeCopy();
  /// After changedOnDisk(): replaces what another program saved.
  void replaceOnDisk();
  /// Counts replaced sessions: a finished job checks whether its document is still open.
  uint64_t generation() const { return generation_; }
  /// Existing folders of saved or opened sessions, the latest first.
  static QStringList recentFolders();
  bool isSaved() const { return history_.isSaved(); }

  /// Autosave: a folder of this run, held by a lock and removed by a clean end.
  void enableAutosave(const QString& folder);
  void dropAutosave();
  /// Opens an earlier run's autosave as an unsaved session that knows where it was saved, then removes the
  /// autosave folder.
  void recover(const QString& autosaveFolder);

  void setDeviceRate(double rate);
  /// Lanes muted for listening: level matching, and a sum with processors, depend on them.
  void setSilenced(const SilencedLanes& lanes);
  /// A limiter or a lossy file is rendered, not filtered while it plays.
  void setListen(const ListenTo& listen);
  /// Seconds into the backing's file of its first beat, as found when it was loaded.
  std::optional<double> backingFirstBeat() const { return backingFirstBeat_; }
  /// Adds a sound that the session does not use, to audition it; drops the previous one.
  AssetRef lend(LoadedSound sound, const std::string& path);
  /// Adds sounds that the session will use: a preset's.
  void keepSounds(const Assets& assets, const std::vector<AssetRef>& refs);
  /// Sets what Before is.
  void setBefore(Edit before);
  const Edit& before() const { return before_; }
  /// Matches Before's level anew where a song is heard.
  void hearBefore() { submit(); }
  /// An auditioned preset plays over the session and shows in pictures and fields; the first edit keeps it.
  void setHeard(std::optional<Edit> edit);
  bool isHeard() const { return heard_.has_value(); }
  const Session& heardSession() const { return heard_ ? *heard_ : session(); }
  void takeHeard() {
    if (isHeard()) Q_EMIT heardWanted();
  }
  /// Shows a fault or a message in the window.
  void fail(const QString& sentence) { Q_EMIT failed(sentence); }
  void tell(const QString& sentence) { Q_EMIT told(sentence); }
  /// For runAside: says what stopped the work.
  auto failing() {
    return [this](const QString& sentence) { fail(sentence); };
  }

 Q_SIGNALS:
  void replaced();                               ///< by another session
  void turning(const heft::TurnedValue& value);  ///< an edit is about to set one value
  void turned(const heft::TurnedValue& value);   ///< and has
  void changed();                                ///< the session
  void openElsewhere();                          ///< another window has the opened folder open
  void changedOnDisk();  ///< nothing was saved: another program changed the session's folder
  void heardChanged();
  void heardWanted();                       ///< the auditioned edit is kept
  void rendered();                          ///< stems and snapshot
  void waved();                             ///< how a song's lanes are drawn
  void profiled();                          ///< a reference's track was measured
  void studied();                           ///< figures and findings
  void sourceChanged(const QString& path);  ///< a sound's source file changed on disk
  void failed(const QString& sentence);
  void told(const QString& sentence);
  void layerPlaced(heft::app::Place place, int id);  ///< beside the others, by a file
  /// A layer's sound is not a one-shot.
  void materialFound(heft::app::Place place, int layer, const heft::MaterialFacts& facts);
  /// Of a reference only the first ten minutes were read; `use` takes them.
  void longReferenceRead(const QString& path, double seconds, const std::function<void()>& use);
  void backingBeatFound(double seconds);  ///< of a backing just loaded whose first beat is later

 private:
  void submit();
  void announce();  ///< of a changed session: autosave, and who shows it
  void hearAnew();
  AssetRef own(LoadedSound sound, const std::string& path);
  AssetRef takeIn(LoadedSound loaded, const QString& path);
  void take(Outcome outcome);
  void replace(Session session, Assets assets, const QString& folder);
  void show(OpenedSession opened, const QString& folder);
  void saved(const Session& what, const QString& folder, const std::string& fileHash);
  bool isOwnFolder(const QString& folder) const;
  bool mayWriteTo(const QString& folder);
  std::optional<std::string> expectedHash(const QString& folder) const;
  void lockFolder();
  void clearAutosave();
  static void noteRecent(const QString& folder);
  void nameAfter(const QString& folder);
  void measureReferences();
  void loadReference(const QString& path);
  void shelveReferences();
  void autosave();

  void watchSources();

  QFileSystemWatcher watcher_;
  History history_;
  Assets assets_;
  QString folder_, autosaveFolder_;
  std::string fileHash_;  ///< of the folder's session.json as it was read or written last
  FolderLock folderLock_, autosaveLock_;
  bool readOnly_ = false;
  struct Saving {
    QString folder;
    std::shared_ptr<std::optional<std::string>> fileHash;  ///< of the written file, once saving is over
  };
  std::optional<Saving> saving_;  ///< the newest running save
  QString recovered_;             ///< an earlier run's autosave, until there is one of this run
  uint64_t generation_ = 0, openings_ = 0;
  QTimer autosaveTimer_;
  double deviceRate_ = 48000.0;
  Edit before_ = leaveOut();
  std::optional<Edit> heardEdit_;
  std::optional<Session> heard_;  ///< with that edit
  SilencedLanes silenced_;
  ListenTo listen_;
  std::optional<double> backingFirstBeat_;
  void dropForgottenSounds();
  std::string lent_;  ///< hash of an auditioned sound
  uint64_t submitted_ = 0, studied_ = 0;
  bool remediesTried_ = false;
  std::shared_ptr<const Stems> stems_;
  std::shared_ptr<const LoopSnapshot> snapshot_;
  std::shared_ptr<const LanePeaks> peaks_ = std::make_shared<const LanePeaks>();
  std::shared_ptr<const LaneWaves> waves_;
  double playhead_ = 0.0;
  bool beforeIsHeard_ = false;
  std::shared_ptr<const LoopLevels> levels_, levelsBefore_;
  std::shared_ptr<const std::vector<LayerSound>> layers_, layersTaken_;  ///< and unchanged
  std::shared_ptr<const Study> study_;
  std::vector<Finding> findings_;
  std::shared_ptr<StepCache> cache_;
  std::set<StepKey> measuring_;  ///< sections being measured, or cancelled
  std::map<std::string, std::shared_ptr<const TrackProfile>> profiles_;  ///< by hash; null while measured
  QString shelfPath_;
  QTimer shelfTimer_;
  std::vector<Reference> shelved_;  ///< as the shelf has them
  Jobs jobs_;
  std::unique_ptr<Worker> worker_;
};

}  // namespace heft::app
