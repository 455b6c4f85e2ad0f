#pragma once
/// Sidechain of a follower from a sound with several drums: passes the drum that triggers and mutes the
/// others.

#include <span>
#include <vector>

namespace heft {

/// An onset in the sound, in frames; a follower tracks the level of triggering ones.
struct HeardOnset {
  double frame = 0.0;
  bool fires = false;
};

/// State of the gate, closed at rest.
struct HitGate {
  bool open = false;
  double cap = 0.0;  ///< while closed: level that the passed sound has decayed to, an amplitude
};

/// From kOnsetSeconds before a triggering onset, everything passes. After any other, nothing louder than the
/// level just before it passes, and that level falls by kFallDbPerSecond: the follower tracks a kick's tail
/// under a hat, but no snare. `peaks`: largest magnitude over kPeakSeconds up to each frame; `onsets` ascend
/// and count from the same frame as `peaks`. Returns a gain (0 to 1) for each frame of `gain` and continues
/// from the gate's state.
void gateHits(std::span<const float> peaks, const std::vector<HeardOnset>& onsets, double sampleRate,
              HitGate& gate, std::span<float> gain);
inline constexpr double kOnsetSeconds = 0.003, kPeakSeconds = 0.025, kFallDbPerSecond = 200.0;

/// The largest magnitude over kPeakSeconds up to each frame of `x` from `first` on.
std::vector<float> peaksBehind(std::span<const float> x, size_t first, double sampleRate);

}  // namespace heft
