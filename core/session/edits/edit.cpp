#include "core/session/edits/edit.h"

#include "core/session/within.h"
#include "core/theory/text.h"

namespace heft {

Session Edit::applied(const Session& session) const {
  Session next = session;
  change(next);
  return keepWithin(next) ? next : session;
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
