#include "core/compare/dip_in_mix.h"

namespace heft {

std::optional<DipInMix> findDip(const LowEndParts&, const KickInMix&) {
  return std::nullopt;
}

}  // namespace heft
