#include "core/session/edits/edit.h"

#include <algorithm>
#include <functional>
#include <utility>

#include "core/session/within.h"
#include "core/theory/text.h"

namespace heft {
namespace {

// Events that an edit left alone are within their ranges already; a walk over those of the largest session
// would take ten times as long as all other values. They are taken out for that walk where no part came, went
// or moved.
class EventsAside {
 public:
  EventsAside(Session& next, const Session& before) {
    const bool sameParts =
        std::equal(next.parts.begin(), next.parts.end(), before.parts.begin(), before.parts.end(),
                   [](const Part& a, const Part& b) { return a.id == b.id; });
    for (size_t i = 0; sameParts && i < next.parts.size(); ++i) {
      Part& part = next.parts[i];
      if (part.hits == before.parts[i].hits) take(part.id, part.hits, &Part::hits);
      if (part.notes == before.parts[i].notes) take(part.id, part.notes, &Part::notes);
    }
  }
  void putBack(Session& next) {
    for (auto& back : back_) back(next);
  }

 private:
  template <class Events>
  void take(int part, Events& events, Events Part::*list) {
    back_.push_back([part, list, kept = std::exchange(events, {})](Session& s) mutable {
      if (Part* p = s.part(part)) p->*list = std::move(kept);
    });
  }
  std::vector<std::function<void(Session&)>> back_;
};

}  // namespace

Session Edit::applied(const Session& session) const {
  Session next = session;
  change(next);
  EventsAside aside(next, session);
  if (!keepWithin(next)) return session;
  aside.putBack(next);
  return next;
}

std::string partWord(const Part& part) {
  return part.name.empty() ? lowered(part.title()) : part.name;
}

Edit onPart(const std::string& name, int part, std::function<void(Part&)> change, const std::string& mergeKey) {
  return {name,
          [part, change = std::move(change)](Session& s) {
            if (Part* p = s.part(part)) change(*p);
          },
          mergeKey};
}

Edit onLayer(const std::string& name, int part, int layer, std::function<void(Layer&)> change,
             const std::string& mergeKey) {
  return onPart(
      name, part,
      [layer, change = std::move(change)](Part& p) {
        if (Layer* l = p.layer(layer)) change(*l);
      },
      mergeKey);
}

Edit become(const std::string& name, const Session& session) {
  return {name, [session](Session& s) { s = session; }};
}

Edit allOf(const std::string& name, std::vector<Edit> edits) {
  return {name, [edits = std::move(edits)](Session& s) {
            for (const Edit& edit : edits) edit.change(s);
          }};
}

}  // namespace heft
