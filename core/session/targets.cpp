#include "core/session/targets.h"

#include <algorithm>

namespace heft {

std::vector<BandAim> comparedBands(const Targets& targets) {
  std::vector<BandAim> out;
  for (const Band& band : kBands) out.push_back({band.lowHz, band.highHz});
  for (const BandAim& aim : targets.bands) {
    const auto known =
        std::find_if(out.begin(), out.end(), [&](const BandAim& b) { return b.band() == aim.band(); });
    if (known != out.end())
      *known = aim;
    else
      out.push_back(aim);
  }
  return out;
}

}  // namespace heft
