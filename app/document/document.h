#pragma once
/// The open session: its history, its sounds, and the worker's results.

#include <QObject>
#include <memory>
#include <optional>
#include <vector>

#include "app/document/fixes.h"
#include "app/document/jobs.h"
#include "app/document/reference_tracks.h"
#include "app/document/session_files.h"
#include "app/document/sound_intake.h"
#include "core/session/edits/edit.h"
#include "core/session/history.h"
#include "engine/worker/worker.h"

namespace heft::app {

class Document : public QObject {
  Q_OBJECT
 public:
  /// Renders and measurements are kept in `cache`, which documents may share.
  explicit Document(std::shared_ptr<StepCache> cache = std::make_shared<StepCache>());
  ~Document() override;

  const Session& session() const { return history_.now(); }
  const Track& track() const { return session().track; }
  const Assets& assets() const { return sounds_.assets(); }
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
  void endDrag() { history_.endMerge(); }
  void undo();
  void redo();
  QString undoName() const { return QString::fromStdString(history_.undoName()); }
  QString redoName() const { return QString::fromStdString(history_.redoName()); }

  SessionFiles& files() { return files_; }
  const SessionFiles& files() const { return files_; }
  SoundIntake& sounds() { return sounds_; }
  ReferenceTracks& references() { return references_; }
  Fixes& fixes() { return fixes_; }

  /// Ends the jobs of the open session and forgets its history. `folder`: where it is saved; empty: nowhere.
  void replace(Session session, Assets assets, const QString& folder);
  void newSession();
  /// Counts replaced sessions: a finished job checks whether its document is still open.
  uint64_t generation() const { return generation_; }
  bool isSaved() const { return history_.isSaved(); }
  void markSaved() { history_.markSaved(); }

  void setDeviceRate(double rate);
  /// Lanes muted for listening: level matching, and a sum with processors, depend on them.
  void setSilenced(const SilencedLanes& lanes);
  /// A limiter or a lossy file is rendered, not filtered while it plays.
  void setListen(const ListenTo& listen);
  /// Sets what Before is.
  void setBefore(Edit before);
  const Edit& before() const { return before_; }
  /// Renders and measures again: Before's level where a song is heard, a reference that was measured.
  void renew() { submit(); }
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
  void heardChanged();
  void heardWanted();  ///< the auditioned edit is kept
  void rendered();     ///< stems and snapshot
  void waved();        ///< how a song's lanes are drawn
  void studied();      ///< figures and findings
  void failed(const QString& sentence);
  void told(const QString& sentence);

 private:
  void submit();
  void announce();  ///< of a changed session: autosave, and who shows it
  void hearAnew();
  void dropForgottenSounds();
  void take(Outcome outcome);

  History history_;
  SessionFiles files_;
  SoundIntake sounds_;
  ReferenceTracks references_;
  Fixes fixes_;
  uint64_t generation_ = 0;
  double deviceRate_ = 48000.0;
  Edit before_ = leaveOut();
  std::optional<Edit> heardEdit_;
  std::optional<Session> heard_;  ///< with that edit
  SilencedLanes silenced_;
  ListenTo listen_;
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
  Jobs jobs_;
  std::unique_ptr<Worker> worker_;
};

}  // namespace heft::app
