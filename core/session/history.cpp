#include "core/session/history.h"

#include <algorithm>
#include <set>

#include "core/session/assets.h"

namespace heft {

// The difference of two lists: everything but their common start and end.
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
  // Lists that share their items did not change.
  static ListChange between(const SharedList<T>& a, const SharedList<T>& b) {
    return a.shares(b) ? ListChange() : between(a.items(), b.items());
  }
  void forward(std::vector<T>& list) const { replace(list, before.size(), after); }
  void backward(std::vector<T>& list) const { replace(list, after.size(), before); }
  void forward(SharedList<T>& list) const {
    if (!isNone()) forward(list.own());
  }
  void backward(SharedList<T>& list) const {
    if (!isNone()) backward(list.own());
  }
  bool isNone() const { return before.empty() && after.empty(); }
  size_t bytes() const { return (before.size() + after.size()) * sizeof(T); }

 private:
  static ptrdiff_t offset(size_t n) { return static_cast<ptrdiff_t>(n); }
  void replace(std::vector<T>& list, size_t count, const std::vector<T>& by) const {
    const auto at = list.begin() + offset(from);
    list.insert(list.erase(at, at + offset(count)), by.begin(), by.end());
  }
};

// Changes of one part's lists, which are what makes a session large.
struct History::PartChange {
  int part = 0;
  ListChange<Hit> hits;
  ListChange<Note> notes;
  ListChange<WheelPoint> wheel;
  ListChange<Layer> layers;
  ListChange<PartVersion> versions;

  // The lists of a part beside their changes.
  template <class Change, class P, class Do>
  static void each(Change& change, P& of, Do with) {
    with(change.hits, of.hits), with(change.notes, of.notes), with(change.wheel, of.wheel);
    with(change.layers, of.layers), with(change.versions, of.versions.all);
  }
  static PartChange between(int id, const Part* a, const Part* b) {
    static const Part none;
    const Part &from = a ? *a : none, &to = b ? *b : none;
    PartChange out;
    out.part = id;
    out.hits = decltype(out.hits)::between(from.hits, to.hits);
    out.notes = decltype(out.notes)::between(from.notes, to.notes);
    out.wheel = decltype(out.wheel)::between(from.wheel, to.wheel);
    out.layers = decltype(out.layers)::between(from.layers, to.layers);
    out.versions = decltype(out.versions)::between(from.versions.all, to.versions.all);
    return out;
  }
  size_t bytes() const {
    size_t out = sizeof *this + hits.bytes() + notes.bytes() + wheel.bytes() + layers.bytes();
    for (const auto* list : {&versions.before, &versions.after})
      for (const PartVersion& v : *list) out += sizeof v + v.layers.size() * sizeof(Layer);
    return out;
  }
  bool isNone() const { return bytes() == sizeof *this; }
};

struct History::Step {
  std::string name;
  uint64_t number = 0;  ///< of the state that it leads to
  std::vector<PartChange> parts;
  std::unique_ptr<Session> restBefore, restAfter;  ///< with the parts' lists empty; nothing where that stayed
  std::set<std::string> sounds;                    ///< hashes of both states

  static Step between(const Session& a, const Session& b) {
    Step out;
    std::set<int> ids;
    for (const Session* s : {&a, &b})
      for (const Part& p : s->parts) ids.insert(p.id);
    for (const int id : ids)
      if (PartChange change = PartChange::between(id, a.part(id), b.part(id)); !change.isNone())
        out.parts.push_back(std::move(change));
    auto before = std::make_unique<Session>(restOf(a)), after = std::make_unique<Session>(restOf(b));
    if (*before != *after) out.restBefore = std::move(before), out.restAfter = std::move(after);
    for (const Session* s : {&a, &b}) eachAsset(*s, [&](const AssetRef& ref) { out.sounds.insert(ref.hash); });
    return out;
  }
  void forward(Session& s) const {
    if (restAfter) takeRest(s, *restAfter);
    for (const PartChange& change : parts)
      if (Part* part = s.part(change.part))
        PartChange::each(change, *part, [](const auto& c, auto& list) { c.forward(list); });
  }
  void backward(Session& s) const {
    if (restBefore) takeRest(s, *restBefore);
    for (const PartChange& change : parts)
      if (Part* part = s.part(change.part))
        PartChange::each(change, *part, [](const auto& c, auto& list) { c.backward(list); });
  }
  size_t bytes() const {
    size_t out = sizeof(Step);
    for (const Session* rest : {restBefore.get(), restAfter.get()})
      if (rest) out += sizeof *rest + rest->parts.size() * sizeof(Part) + rest->ducks.size() * sizeof(Duck);
    for (const PartChange& change : parts) out += change.bytes();
    return out;
  }

 private:
  static Session restOf(const Session& s) {
    Session out = s;
    PartChange none;
    for (Part& part : out.parts) PartChange::each(none, part, [](auto&, auto& list) { list = {}; });
    return out;
  }
  // Parts that stay keep their lists even if the list of parts changed.
  static void takeRest(Session& s, const Session& rest) {
    Session next = rest;
    for (Part& part : next.parts)
      if (Part* was = s.part(part.id)) {
        part.hits = std::move(was->hits), part.notes = std::move(was->notes),
        part.wheel = std::move(was->wheel);
        part.layers = std::move(was->layers), part.versions.all = std::move(was->versions.all);
      }
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
  for (; steps_.size() > at_; steps_.pop_back()) use(*steps_.back(), -1);
  if (merge) {
    // The merged step starts where its first one did.
    Session before = std::move(now_);
    steps_.back()->backward(before);
    use(*steps_.back(), -1);
    steps_.pop_back();
    now_ = std::move(before);
    --at_;
    // A drag back to its start is no step; continuing it starts one.
    if (next == now_) return mergeKey_.clear();
  }
  Step step = Step::between(now_, next);
  step.name = name, step.number = nextNumber_++;
  use(step, 1);
  steps_.push_back(std::make_shared<const Step>(std::move(step)));
  ++at_;
  now_ = std::move(next);
  mergeKey_ = mergeKey;
  if (steps_.size() > kMost) {
    firstNumber_ = steps_.front()->number;
    use(*steps_.front(), -1);
    steps_.pop_front();
    --at_;
  }
}

void History::use(const Step& step, int count) {
  for (const std::string& hash : step.sounds) uses_[hash].steps += count, uses_[hash].until = nextNumber_;
}

std::vector<std::string> History::takeForgottenSounds() {
  std::set<std::string> now;
  eachAsset(now_, [&](const AssetRef& ref) { now.insert(ref.hash); });
  std::vector<std::string> out;
  std::erase_if(uses_, [&](const auto& sound) {
    const auto& [hash, use] = sound;
    const bool gone = use.steps == 0 && use.until + kKeptEdits <= nextNumber_ && !now.contains(hash);
    if (gone) out.push_back(hash);
    return gone;
  });
  return out;
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
