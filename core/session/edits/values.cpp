#include "core/session/edits/values.h"

namespace heft {

Edit putValues(const std::string& name, const Owner& owner, std::vector<ValuePut> values,
               const std::string& mergeKey) {
  return {name,
          [owner, values = std::move(values)](Session& s) {
            for (const ValuePut& v : values) putValue(s, owner, v.key, v.value);
          },
          mergeKey};
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
