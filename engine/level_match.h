#pragma once
/// What makes Before as loud as Now: by the loudness (BS.1770-4) of what is heard, whichever lanes that is.

#include <array>

#include "core/render/render.h"

namespace heft {

enum class Lane { Kick, Bass, Backing };
inline constexpr size_t kLanes = 3;

/// A gain for each lane.
using LaneGains = std::array<float, kLanes>;
/// One set for each choice of heard lanes: bit i of the index says that lane i is heard.
using MatchGains = std::array<LaneGains, size_t{1} << kLanes>;

/// Gains for the lanes of `before` under which each choice of them is as loud as the same lanes of `after`. Lanes
/// that are alike in both keep 1 exactly; all others share one gain within 12 dB, less where the mix would pass
/// full scale by it (or the peak of `after`, where that is higher). Silence changes nothing. Cost: about 1 ms for
/// each second and lane that is new to `cache`.
MatchGains matchedGains(const Stems& after, const Stems& before, StepCache& cache);

}  // namespace heft
