#pragma once
/// The steps from the placed bass to what is heard of it, block by block. Each is found again in the cache
/// where nothing that it reads has changed.

#include "core/render/stem.h"
#include "core/session/session.h"

namespace heft {

inline size_t bytesOfBlock(const Block& b) {
  return b.bytes();
}

/// The loop turned later by the move's delay, to a fraction of a sample, and its polarity turned over where the
/// move says so.
Stem movedStem(const Stem& x, const AlignMove& move, double rate, StepCache& cache);

/// What of it lies below `hz` (core/duck/apply.h, LowPart), the loop being its own past.
Stem lowStem(const Stem& x, double rate, double hz, StepCache& cache);

/// x * gain.
Stem duckedStem(const Stem& x, const Stem& gain, StepCache& cache);

/// x + (gain - 1) * low: exactly x where the gain is 1.
Stem duckedBelow(const Stem& x, const Stem& low, const Stem& gain, StepCache& cache);

}  // namespace heft
