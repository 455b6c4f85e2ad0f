#include "core/session/edits/states.h"

#include <algorithm>

#include "core/session/assets.h"
#include "core/session/folder.h"
#include "core/theory/text.h"

namespace heft {

std::string freshStateName(const Session& s) {
  size_t number = s.states.size() + 1;
  auto taken = [&s](const std::string& name) {
    return std::any_of(s.states.begin(), s.states.end(), [&](const KeptState& k) { return k.name == name; });
  };
  while (taken("State " + std::to_string(number))) ++number;
  return "State " + std::to_string(number);
}

Edit keepState(const std::string& name) {
  return {"keep state",
          [name](Session& s) {
            const std::string called = cutUtf8(name, kLongestName);
            auto at = std::find_if(s.states.begin(), s.states.end(),
                                   [&](const KeptState& k) { return k.name == called; });
            if (at == s.states.end() && s.states.size() >= kMostStates) return;
            Session bare = s;
            bare.states.clear();
            KeptState fresh{called, SharedText(sessionToJson(bare)), assetsOf(bare)};
            if (at == s.states.end())
              s.states.push_back(std::move(fresh));
            else
              *at = std::move(fresh);
          },
          {},
          {},
          true};
}

Edit renameState(size_t index, const std::string& name) {
  return {"rename state",
          [index, name](Session& s) {
            if (index < s.states.size() && !name.empty()) s.states[index].name = cutUtf8(name, kLongestName);
          },
          {},
          {},
          true};
}

Edit removeState(size_t index) {
  return {"remove state",
          [index](Session& s) {
            if (index < s.states.size()) s.states.erase(s.states.begin() + static_cast<ptrdiff_t>(index));
          },
          {},
          {},
          true};
}

Result<Edit> goToState(const Session& session, size_t index) {
  if (index >= session.states.size()) return badUsage("there is no such state");
  const std::string name = session.states[index].name;
  auto read = sessionFromJson(session.states[index].session.text(), "the state \"" + name + "\"");
  if (!read) return Fail(read.error());
  return Edit{"go to " + name, [state = std::move(*read)](Session& s) {
                auto states = std::move(s.states);
                const std::string savedOn = s.savedOn;
                s = state;
                s.states = std::move(states), s.savedOn = savedOn;
              }};
}

}  // namespace heft
