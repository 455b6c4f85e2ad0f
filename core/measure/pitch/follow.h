#pragma once
/// The path of a tone that never rests: most real kicks slide from their strike to their end.
///
/// Method: amplitudes of tones over time and pitch (Hann windows of three periods each), the best path
/// through them by dynamic programming (Viterbi 1967), refined by the phase along itself, smoothed. Resampled
/// along the path the sound comes to rest, and there the test for a tone is that of a resting sound (rest.h):
/// noise resampled along any path still does not rest. Remaining movement there refines the path.

#include <optional>
#include <vector>

#include "core/measure/pitch/landing.h"
#include "core/sound/filter.h"

namespace heft {

struct FollowedTone {
  std::vector<PitchPoint> points;  ///< seconds from the start of `base`; empty where nothing can be followed
  double heardHz = 0.0;            ///< where the path is loudest: its densest spot by amplitude
  double confidence = 0.0;         ///< 0 to 1; points only from 0.5
};

/// `base` starts at the onset and keeps the band to at least 2.5 times `highHz`. Empty for silence and noise.
/// Cost: about 15 ms for half a second.
FollowedTone followTone(const Decimated& base, double lowHz, double highHz);

/// Where a path is loudest: the amplitude-weighted mean about its densest spot on the cents scale. Nothing
/// without audible points.
std::optional<double> heardMost(const std::vector<PitchPoint>& path);

}  // namespace heft
