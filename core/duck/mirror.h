#pragma once
/// The mirror: the lower the source leaves room, the higher the target stands.

#include <span>
#include <vector>

namespace heft {

/// Of what lies below `belowHz`: the two levels added up (as they add where they are in phase) stay within
/// `withinDb` of the louder one. Levels are running means of the square by a Gaussian, the gain is smoothed by
/// another, so that what a low tone is multiplied by has next to nothing of the tone's own pace
/// (docs/measuring.md).
struct Mirror {
  double withinDb = 2.0;     ///< 0 to 6: at 6 two equal levels may stand as they are
  double belowHz = 150.0;    ///< 40 to 400
  double deepestDb = 120.0;  ///< 0 to kSilentDepthDb: never further down
  bool operator==(const Mirror&) const = default;
};

/// Frames on either side that the gain of one frame hangs on.
size_t mirrorReach(double sampleRate);

/// The gain (an amplitude) for frames `reach` to the end less `reach`, from the lows of both, equally long.
/// Blocks meet to the bit where `firstFrame`, the place of the first gain on the timeline, is told. Silence of
/// either gives 1. Cost: about 2 ms a second of sound.
std::vector<float> mirrorGain(const Mirror& m, std::span<const float> sourceLow,
                              std::span<const float> targetLow, double sampleRate, size_t firstFrame = 0);

}  // namespace heft
