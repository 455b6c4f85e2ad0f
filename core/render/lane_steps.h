#pragma once
/// The steps from a placed lane to what is heard of it and of all of them, block by block. Each is found again
/// in the cache where nothing that it reads has changed.

#include "core/render/stem.h"
#include "core/session/session.h"

namespace heft {

/// The blocks of `x` that frames `first` to `first + count` lie in, and where in them; the loop goes round.
void addSpan(KeyMaker& maker, const Stem& x, int64_t first, int64_t count);

inline size_t bytesOfBlock(const Block& b) {
  return b.bytes();
}

/// The loop through sections one after the other, its end running in ahead of its start; exactly x without
/// any. `what` tells the sections apart.
Stem filteredStem(const Stem& x, const StepKey& what, const std::vector<Biquad::Coefficients>& sections,
                  double settleSeconds, double rate, StepCache& cache);

/// The loop with its phase turned.
Stem rotatedStem(const Stem& x, const Rotation& rotation, double rate, StepCache& cache);

/// The loop with its phase turned, later by the move's delay, to a fraction of a sample, and its polarity
/// turned over where the move says so.
Stem movedStem(const Stem& x, const AlignMove& move, double rate, StepCache& cache);

/// What of it lies below `hz` (core/duck/apply.h, LowPart), the loop being its own past.
Stem lowStem(const Stem& x, double rate, double hz, StepCache& cache);

/// At another level; exactly x at 0 dB.
Stem levelled(const Stem& x, double levelDb, StepCache& cache);

/// The lanes added up in their order, mono on both sides of a stereo one. All equally long, one at the least.
Stem sumOf(const std::vector<const Stem*>& lanes, StepCache& cache);

/// x * gain.
Stem duckedStem(const Stem& x, const Stem& gain, StepCache& cache);

/// x + (gain - 1) * low: exactly x where the gain is 1.
Stem duckedBelow(const Stem& x, const Stem& low, const Stem& gain, StepCache& cache);

/// x - y; of as many channels as `x`, equally long.
Stem differenceOf(const Stem& x, const Stem& y, StepCache& cache);

/// x - part + instead: exactly x where the two are the same.
Stem withInstead(const Stem& x, const Stem& part, const Stem& instead, StepCache& cache);

/// What a lane is drawn by.
struct LanePeak {
  float peak = 0.0f;   ///< the highest sample of all channels
  size_t channel = 0;  ///< drawnOf() its two
};
/// Block by block, so that only what is new is gone through.
LanePeak peakOf(const Stem& x, StepCache& cache);

}  // namespace heft
