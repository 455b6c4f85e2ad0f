#include "core/theory/names.h"

#include "core/theory/text.h"

namespace heft {

std::optional<int> EnumWords::find(const std::string& text) const {
  for (size_t i = 0; i < words.size(); ++i)
    if (lowered(words[i]) == lowered(text)) return static_cast<int>(i) + first;
  return std::nullopt;
}

std::string EnumWords::choices() const {
  std::string out;
  for (size_t i = 0; i < words.size(); ++i)
    out += (i == 0 ? "" : i + 1 == words.size() ? " or " : ", ") + std::string(words[i]);
  return out;
}

}  // namespace heft
