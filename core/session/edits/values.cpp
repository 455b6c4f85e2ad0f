#include "core/session/edits/values.h"

#include "core/session/edits/automation.h"

namespace heft {
namespace {

bool isWaiting(const Session& s, const Owner& owner) {
  const Chain* chain = owner.processor ? chainOf(s, owner) : nullptr;
  const Processor* p = chain ? chain->find(*owner.processor) : nullptr;
  return p && isUnmoved(*p);
}

}  // namespace

Edit putValues(const std::string& name, const Owner& owner, std::vector<ValuePut> values,
               const std::string& mergeKey) {
  const bool one = !values.empty();
  const std::string called =
      name.starts_with("set ") || name.starts_with("turn ") ? name.substr(name.find(' ') + 1) : name;
  const auto turned = one ? std::optional(TurnedValue{owner, values.front().key, called}) : std::nullopt;
  return {name,
          [owner, values = std::move(values)](Session& s) {
            const bool waits = isWaiting(s, owner);
            for (const ValuePut& v : values) putAlong(s, owner, v.key, v.value);
            // A newly added processor turns on with its first value.
            if (waits && !isWaiting(s, owner)) chainOf(s, owner)->find(*owner.processor)->switchOn(true);
          },
          mergeKey, turned};
}

Edit putValue(const std::string& name, const Owner& owner, const std::string& key, const Value& value,
              const std::string& mergeKey) {
  return putValues(name, owner, {{key, value}}, mergeKey);
}

Edit toggleValue(const std::string& name, const Owner& owner, const std::string& key) {
  return {name, [owner, key](Session& s) {
            const auto now = valueAt(s, owner, key);
            if (const bool* on = now ? std::get_if<bool>(&now->now) : nullptr) putValue(s, owner, key, !*on);
          }};
}

}  // namespace heft
