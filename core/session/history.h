#pragma once
/// Named edits, undo and redo. The present session is whole; each step is kept as its changes, so that
/// hundreds of steps of the largest session cost little more than their edits.

#include <deque>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/session/session.h"

namespace heft {

class History {
 public:
  explicit History(Session first = {});

  const Session& now() const { return now_; }
  /// Appends a state and drops the redo steps. Does nothing where `next` equals now(). `mergeKey`: an edit
  /// with the newest one's key joins it (a drag is one step; one that ends where it began is none). Beyond
  /// kMost steps it forgets the oldest.
  void apply(const std::string& name, Session next, const std::string& mergeKey = {});
  /// Ends a run of merged edits.
  void endMerge() { mergeKey_.clear(); }

  bool canUndo() const { return at_ > 0; }
  bool canRedo() const { return at_ < steps_.size(); }
  std::string undoName() const;
  std::string redoName() const;
  void undo();
  void redo();

  /// Whether now() is the last saved state.
  bool isSaved() const { return saved_ == numberNow(); }
  void markSaved() { saved_ = numberNow(), mergeKey_.clear(); }

  /// Hashes of sounds that no undo or redo has reached for kKeptEdits edits, each reported once. Until then a
  /// copied processor can still be pasted.
  std::vector<std::string> takeForgottenSounds();

  /// Approximate size of all steps together.
  size_t bytes() const;
  static constexpr size_t kMost = 500;
  static constexpr uint64_t kKeptEdits = 50;

 private:
  template <class T>
  struct ListChange;
  struct PartChange;
  struct Step;
  uint64_t numberNow() const;
  void use(const Step& step, int count);

  Session now_;
  std::deque<std::shared_ptr<const Step>> steps_;  // those before at_ lead to now_, the rest were undone
  size_t at_ = 0;
  uint64_t firstNumber_ = 0, nextNumber_ = 1;  // of the state before all steps; of the next new one
  uint64_t saved_ = 0;
  std::string mergeKey_;
  struct SoundUse {
    int steps = 0;
    uint64_t until = 0;  // number of the newest state when the last of them went
  };
  std::map<std::string, SoundUse> uses_;
};

}  // namespace heft
