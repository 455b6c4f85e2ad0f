#pragma once
/// The gain that makes a processed sound as loud as before, so that one judges tone, not level.

#include <span>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

/// K-weighted power (ITU-R BS.1770-4, annex 1) of each 50 ms from `fromFrame` on, summed over channels; a
/// mono sound as played on two speakers.
std::vector<double> weightedPowers(const AudioBuffer& sound, size_t fromFrame = 0);

/// -24 to 24 dB, over the moments that were within 10 dB of the loudest (the relative gate of BS.1770), so
/// that a raised tail does not pull the rest down. 0 where either is silent there. `after` may be longer.
double keptLoudnessDb(std::span<const double> before, std::span<const double> after);

}  // namespace heft
