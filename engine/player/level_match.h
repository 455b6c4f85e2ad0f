#pragma once
/// Gains that level match Before with Now: by the loudness (BS.1770-4) of the audible lanes, whichever they
/// are.

#include <array>
#include <cstdint>
#include <vector>

#include "core/render/lanes/render.h"

namespace heft {

/// Lanes that sound at once: those of all parts, and the backing.
inline constexpr size_t kMostLanes = kMostParts + 1;
/// Id of the backing's lane; parts' lanes use their part's id.
inline constexpr int kBackingLane = 0;

/// A gain for each lane.
using LaneGains = std::array<float, kMostLanes>;
/// Bit i says that lane i is heard.
using HeardLanes = uint32_t;
/// Sets for choices of heard lanes, the choice of all first.
struct MatchGains {
  struct Set {
    HeardLanes heard;
    LaneGains gains;
  };
  std::vector<Set> sets;
  /// For a choice that was not solved for: the gains of all lanes together; all 1 without any. Does not
  /// allocate.
  const LaneGains& of(HeardLanes heard) const;
};

/// Gains for the lanes of `before` under which each choice of them is as loud as the same lanes of `after`.
/// Lanes that are identical in both keep 1 exactly; all others share one gain within 12 dB, less where the
/// mix would pass full scale (or the peak of `after`, where that is higher). Silence changes nothing.
/// Choices: all subsets of up to four lanes; of more all together, each alone, and `heard`. Both lists are
/// equally long, at most kMostLanes. Cost: about 1 ms for each second and lane that is new to `cache`.
MatchGains matchedGains(const std::vector<const Signal*>& after, const std::vector<const Signal*>& before,
                        double sampleRate, HeardLanes heard, StepCache& cache);

}  // namespace heft
