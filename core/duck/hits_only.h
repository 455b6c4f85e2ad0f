#pragma once
/// What a follower hears of a sound with several drums: the drum that fires, and not the others.

#include <span>
#include <vector>

namespace heft {

/// An onset in the sound, in frames; of those that fire the level is followed.
struct HeardOnset {
  double frame = 0.0;
  bool fires = false;
};

/// What the gate remembers. At rest it is shut.
struct HitGate {
  bool open = false;
  double cap = 0.0;  ///< while it is shut: the level that what was followed has come down to, an amplitude
};

/// From kOnsetSeconds before an onset that fires on, all passes. From one that does not on, nothing passes that is
/// louder than what was heard just before it, which goes down by kFallDbPerSecond: a kick's tail is followed on
/// under a hat, a snare is not. `peaks`: largest magnitude over kPeakSeconds up to each frame; `onsets` ascend and
/// are counted from the same frame as `peaks`. Gives a gain (0 to 1) for each frame of `gain` and goes on from the
/// gate's state.
void gateHits(std::span<const float> peaks, const std::vector<HeardOnset>& onsets, double sampleRate, HitGate& gate,
              std::span<float> gain);
inline constexpr double kOnsetSeconds = 0.003, kPeakSeconds = 0.025, kFallDbPerSecond = 200.0;

/// The largest magnitude over kPeakSeconds up to each frame of `x` from `first` on.
std::vector<float> peaksBehind(std::span<const float> x, size_t first, double sampleRate);

}  // namespace heft
