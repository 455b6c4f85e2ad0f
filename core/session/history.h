#pragma once
/// Named edits, undo and redo. A list of sessions; what did not change is small enough to copy (sounds are
/// shared).

#include <string>
#include <vector>

#include "core/session/session.h"

namespace heft {

class History {
 public:
  explicit History(Session first = {});

  const Session& now() const { return states_[at_].session; }
  /// Appends a state and forgets what had been undone. Nothing happens where `next` equals now(). `merge`: an
  /// edit of the same name and merge key replaces the newest state (a drag is one step).
  void apply(const std::string& name, Session next, const std::string& mergeKey = {});
  /// Ends a run of merged edits.
  void endMerge() { mergeKey_.clear(); }

  bool canUndo() const { return at_ > 0; }
  bool canRedo() const { return at_ + 1 < states_.size(); }
  std::string undoName() const { return canUndo() ? states_[at_].name : std::string(); }
  std::string redoName() const { return canRedo() ? states_[at_ + 1].name : std::string(); }
  void undo();
  void redo();

  /// Whether now() is what was last marked as saved.
  bool isSaved() const { return savedAt_ == static_cast<ptrdiff_t>(at_); }
  void markSaved() { savedAt_ = static_cast<ptrdiff_t>(at_), mergeKey_.clear(); }

 private:
  struct State {
    std::string name;
    Session session;
  };
  static constexpr size_t kMost = 500;
  std::vector<State> states_;
  size_t at_ = 0;
  ptrdiff_t savedAt_ = 0;
  std::string mergeKey_;
};

}  // namespace heft
