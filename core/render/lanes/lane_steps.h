#pragma once
/// The steps from a placed lane to the heard lane and sum, block by block, each cached by its inputs.

#include "core/render/lanes/signal.h"
#include "core/session/session.h"

namespace heft {

/// The blocks of `x` that contain frames `first` to `first + count`, and the range within each; the loop
/// wraps.
void addSpan(KeyMaker& maker, const Signal& x, int64_t first, int64_t count);

/// The loop through filter sections in order, its end running in ahead of its start; exactly x without any.
/// `what` tells the sections apart in keys.
Signal filteredStem(const Signal& x, const StepKey& what, const std::vector<Biquad::Coefficients>& sections,
                    double settleSeconds, double rate, StepCache& cache);

/// The loop with its phase rotated.
Signal rotatedStem(const Signal& x, const Rotation& rotation, double rate, StepCache& cache);

/// The loop with its phase rotated, delayed by the move to a fraction of a sample, and inverted where the
/// move says so.
Signal movedStem(const Signal& x, const AlignMove& move, double rate, StepCache& cache);

/// The band below `hz` (core/duck/apply.h, LowPart), with the loop as its own past.
Signal lowStem(const Signal& x, double rate, double hz, StepCache& cache);

/// At another level; exactly x at 0 dB.
Signal levelled(const Signal& x, double levelDb, StepCache& cache);

/// The sum of the lanes, in order; mono plays on both sides of a stereo one. At least one, all equally long.
Signal sumOf(const std::vector<const Signal*>& lanes, StepCache& cache);

/// x * gain.
Signal duckedStem(const Signal& x, const Signal& gain, StepCache& cache);

/// x + (gain - 1) * low: exactly x where the gain is 1.
Signal duckedBelow(const Signal& x, const Signal& low, const Signal& gain, StepCache& cache);

/// x - y; of as many channels as `x`, equally long.
Signal differenceOf(const Signal& x, const Signal& y, StepCache& cache);

/// x - part + instead: exactly x where the two are the same.
Signal withInstead(const Signal& x, const Signal& part, const Signal& instead, StepCache& cache);

/// A lane's scale and channel for drawing.
struct LanePeak {
  float peak = 0.0f;   ///< the highest sample of all channels
  size_t channel = 0;  ///< drawnOf() its two
};
/// Block by block, so only new blocks are scanned.
LanePeak peakOf(const Signal& x, StepCache& cache);

}  // namespace heft
