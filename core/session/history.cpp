#include "core/session/history.h"

namespace heft {

History::History(Session first) {
  states_.push_back({"", std::move(first)});
}

void History::apply(const std::string& name, Session next, const std::string& mergeKey) {
  if (next == now()) return;
  const bool merge = !mergeKey.empty() && mergeKey == mergeKey_ && at_ > 0 && at_ + 1 == states_.size();
  states_.resize(at_ + 1);
  if (savedAt_ > static_cast<ptrdiff_t>(at_) || (merge && savedAt_ == static_cast<ptrdiff_t>(at_)))
    savedAt_ = -1;
  if (merge) {
    states_[at_] = {name, std::move(next)};
  } else {
    states_.push_back({name, std::move(next)});
    ++at_;
  }
  mergeKey_ = mergeKey;
  if (states_.size() > kMost) {
    states_.erase(states_.begin() + 1);
    --at_, --savedAt_;
  }
}

void History::undo() {
  if (canUndo()) --at_;
  mergeKey_.clear();
}

void History::redo() {
  if (canRedo()) ++at_;
  mergeKey_.clear();
}

}  // namespace heft
