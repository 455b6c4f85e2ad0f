#pragma once
/// How far the bass of a finished mix falls after each kick.

#include "core/compare/kick_in_mix.h"
#include "core/compare/section_facts.h"

namespace heft {

struct DipInMix {
  Told depthDb;  ///< positive
  Told backMs;   ///< from the hit until it is last 0.5 dB below its steady level
};

/// Nothing where the bass rests under the kick, where hits differ too much, or where fewer than four can be
/// used.
std::optional<DipInMix> findDip(const LowEndParts& low, const KickInMix& kick);

}  // namespace heft
