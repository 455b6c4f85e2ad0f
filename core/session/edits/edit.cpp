#include "core/session/edits/edit.h"

#include "core/theory/text.h"

namespace heft {

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

}  // namespace heft
