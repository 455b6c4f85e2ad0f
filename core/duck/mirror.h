#pragma once
/// The mirror: the target fills the room that the source leaves.

#include <span>
#include <vector>

namespace heft {

/// Of the band below `belowHz`: both levels added (as they add in phase) stay within `withinDb` of the louder
/// one. Levels are running means of the square through a Gaussian, the gain is smoothed through another, so a
/// low tone's gain has next to none of the tone's own period (docs/measuring.md).
struct Mirror {
  double withinDb = 2.0;     ///< 0 to 6: at 6 two equal levels both stay
  double belowHz = 150.0;    ///< 40 to 400
  double deepestDb = 120.0;  ///< 0 to kSilentDepthDb: limit of the gain reduction
  bool operator==(const Mirror&) const = default;
};

/// Frames on either side that the gain of one frame depends on.
size_t mirrorReach(double sampleRate);

/// The gain (an amplitude) for frames `reach` to the end less `reach`, from the lows of both, equally long.
/// Blocks meet to the bit if `firstFrame`, the position of the first gain on the timeline, is given. Silence
/// of either gives 1. Cost: about 2 ms a second of sound.
std::vector<float> mirrorGain(const Mirror& m, std::span<const float> sourceLow,
                              std::span<const float> targetLow, double sampleRate, size_t firstFrame = 0);

}  // namespace heft
