#include "core/session/edits/targets.h"

#include <algorithm>

#include "core/theory/text.h"

namespace heft {
namespace {

std::string bandName(const Band& band) {
  return formatNumber(band.lowHz, 0) + " to " + formatNumber(band.highHz, 0) + " Hz";
}

void remove(Session& s, const Band& band) {
  std::erase_if(s.targets.bands, [&](const BandAim& aim) { return aim.band() == band; });
}

bool isShipped(const Band& band) {
  return std::find(kBands.begin(), kBands.end(), band) != kBands.end();
}

}  // namespace

Edit setBandAim(const BandAim& aim, const std::string& mergeKey) {
  return {"set band " + bandName(aim.band()),
          [aim](Session& s) {
            remove(s, aim.band());
            if (aim.toleranceDb || aim.targetDb || !isShipped(aim.band())) s.targets.bands.push_back(aim);
          },
          mergeKey};
}

Edit moveBandAim(const BandAim& from, const Band& to) {
  return {"set band " + bandName(to), [from, to](Session& s) {
            BandAim aim = isShipped(from.band()) ? BandAim{} : from;
            if (!isShipped(from.band())) remove(s, from.band());
            aim.lowHz = to.lowHz, aim.highHz = to.highHz;
            remove(s, to);
            if (!isShipped(to)) s.targets.bands.push_back(aim);
          }};
}

Edit removeBandAim(const Band& band) {
  return {"remove band " + bandName(band), [band](Session& s) { remove(s, band); }};
}

}  // namespace heft
