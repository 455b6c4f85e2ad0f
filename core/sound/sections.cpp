// Separate from filter.cpp, where sums may be reordered: audible processing is the same on every machine.

#include "core/sound/filter.h"

namespace heft {

void filterBy(std::span<Biquad> sections, std::span<float> samples) {
  // Two at a time: the second depends only on the first, so the first runs ahead.
  size_t k = 0;
  for (; k + 2 <= sections.size(); k += 2) {
    Biquad first = sections[k], second = sections[k + 1];
    for (float& x : samples) {
      const auto between = static_cast<float>(first.process(x));
      x = static_cast<float>(second.process(between));
    }
    sections[k] = first, sections[k + 1] = second;
  }
  for (; k < sections.size(); ++k)
    for (float& x : samples) x = static_cast<float>(sections[k].process(x));
}

}  // namespace heft
