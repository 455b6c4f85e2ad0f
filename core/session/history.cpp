#include "core/session/history.h"

#include <algorithm>

namespace heft {

// What differs between two lists: all but what they begin and end with alike.
template <class T>
struct History::ListChange {
  size_t from = 0;
  std::vector<T> before, after;

  static ListChange between(const std::vector<T>& a, const std::vector<T>& b) {
    ListChange out;
    const size_t shorter = std::min(a.size(), b.size());
    while (out.from < shorter && a[out.from] == b[out.from]) ++out.from;
    size_t tail = 0;
    while (tail < shorter - out.from && a[a.size() - 1 - tail] == b[b.size() - 1 - tail]) ++tail;
    out.before.assign(a.begin() + offset(out.from), a.end() - offset(tail));
    out.after.assign(b.begin() + offset(out.from), b.end() - offset(tail));
    return out;
  }
  void forward(std::vector<T>& list) const { replace(list, before.size(), after); }
  void backward(std::vector<T>& list) const { replace(list, after.size(), before); }
  size_t bytes() const { return (before.size() + after.size()) * sizeof(T); }

 private:
  static ptrdiff_t offset(size_t n) { return static_cast<ptrdiff_t>(n); }
  void replace(std::vector<T>& list, size_t count, const std::vector<T>& by) const {
    const auto at = list.begin() + offset(from);
    list.insert(list.erase(at, at + offset(count)), by.begin(), by.end());
  }
};

namespace {

// The lists that make a session large.
template <class S, class Do>
void eachList(S& s, Do each) {
  each(s.kick.hits), each(s.bass.notes), each(s.bass.wheel);
  each(s.kick.layers), each(s.bass.layers);
  each(s.kick.versions.all), each(s.bass.versions.all);
}

}  // namespace

struct History::Step {
  std::string name;
  uint64_t number = 0;  ///< of the state that it leads to
  ListChange<Hit> hits;
  ListChange<Note> notes;
  ListChange<WheelPoint> wheel;
  ListChange<Layer> kickLayers, bassLayers;
  ListChange<PartVersion> kickVersions, bassVersions;
  std::unique_ptr<Session> restBefore, restAfter;  ///< without the lists; nothing where that stayed

  static Step between(const Session& a, const Session& b) {
    Step out;
    out.hits = decltype(out.hits)::between(a.kick.hits, b.kick.hits);
    out.notes = decltype(out.notes)::between(a.bass.notes, b.bass.notes);
    out.wheel = decltype(out.wheel)::between(a.bass.wheel, b.bass.wheel);
    out.kickLayers = decltype(out.kickLayers)::between(a.kick.layers, b.kick.layers);
    out.bassLayers = decltype(out.bassLayers)::between(a.bass.layers, b.bass.layers);
    out.kickVersions = decltype(out.kickVersions)::between(a.kick.versions.all, b.kick.versions.all);
    out.bassVersions = decltype(out.bassVersions)::between(a.bass.versions.all, b.bass.versions.all);
    auto before = std::make_unique<Session>(restOf(a)), after = std::make_unique<Session>(restOf(b));
    if (*before != *after) out.restBefore = std::move(before), out.restAfter = std::move(after);
    return out;
  }
  void forward(Session& s) const {
    if (restAfter) takeRest(s, *restAfter);
    hits.forward(s.kick.hits), notes.forward(s.bass.notes), wheel.forward(s.bass.wheel);
    kickLayers.forward(s.kick.layers), bassLayers.forward(s.bass.layers);
    kickVersions.forward(s.kick.versions.all), bassVersions.forward(s.bass.versions.all);
  }
  void backward(Session& s) const {
    if (restBefore) takeRest(s, *restBefore);
    hits.backward(s.kick.hits), notes.backward(s.bass.notes), wheel.backward(s.bass.wheel);
    kickLayers.backward(s.kick.layers), bassLayers.backward(s.bass.layers);
    kickVersions.backward(s.kick.versions.all), bassVersions.backward(s.bass.versions.all);
  }
  size_t bytes() const {
    size_t out = sizeof(Step) + (restBefore ? 2 * sizeof(Session) : 0);
    out += hits.bytes() + notes.bytes() + wheel.bytes() + kickLayers.bytes() + bassLayers.bytes();
    for (const auto* versions : {&kickVersions, &bassVersions})
      for (const auto* list : {&versions->before, &versions->after})
        for (const PartVersion& v : *list) out += sizeof v + v.layers.size() * sizeof(Layer);
    return out;
  }

 private:
  static Session restOf(const Session& s) {
    Session out = s;
    eachList(out, [](auto& list) { list.clear(), list.shrink_to_fit(); });
    return out;
  }
  static void takeRest(Session& s, const Session& rest) {
    Session next = rest;
    next.kick.hits = std::move(s.kick.hits), next.bass.notes = std::move(s.bass.notes);
    next.bass.wheel = std::move(s.bass.wheel);
    next.kick.layers = std::move(s.kick.layers), next.bass.layers = std::move(s.bass.layers);
    next.kick.versions.all = std::move(s.kick.versions.all);
    next.bass.versions.all = std::move(s.bass.versions.all);
    s = std::move(next);
  }
};

History::History(Session first) : now_(std::move(first)) {}

uint64_t History::numberNow() const {
  return at_ > 0 ? steps_[at_ - 1]->number : firstNumber_;
}

std::string History::undoName() const {
  return canUndo() ? steps_[at_ - 1]->name : std::string();
}

std::string History::redoName() const {
  return canRedo() ? steps_[at_]->name : std::string();
}

void History::apply(const std::string& name, Session next, const std::string& mergeKey) {
  if (next == now_) return;
  const bool merge = !mergeKey.empty() && mergeKey == mergeKey_ && at_ > 0 && !canRedo();
  while (steps_.size() > at_) steps_.pop_back();
  if (merge) {
    // The joined step goes from where the first of them began.
    Session before = std::move(now_);
    steps_.back()->backward(before);
    steps_.pop_back();
    now_ = std::move(before);
    --at_;
  }
  Step step = Step::between(now_, next);
  step.name = name, step.number = nextNumber_++;
  steps_.push_back(std::make_shared<const Step>(std::move(step)));
  ++at_;
  now_ = std::move(next);
  mergeKey_ = mergeKey;
  if (steps_.size() > kMost) {
    firstNumber_ = steps_.front()->number;
    steps_.pop_front();
    --at_;
  }
}

void History::undo() {
  if (canUndo()) steps_[--at_]->backward(now_);
  mergeKey_.clear();
}

void History::redo() {
  if (canRedo()) steps_[at_++]->forward(now_);
  mergeKey_.clear();
}

size_t History::bytes() const {
  size_t out = 0;
  for (const auto& s : steps_) out += s->bytes();
  return out;
}

}  // namespace heft
