#pragma once
/// A running chain of processors over a lane or the sum: overlapping sounds pass through it together.

#include "core/render/lanes/signal.h"
#include "core/render/sounds/chain.h"

namespace heft {

/// An EQ alone over the lane; exactly x where that does nothing.
Signal equalised(const Signal& x, const Eq& eq, double sampleRate, StepCache& cache);
/// The sides of a lane (shape/width.h); exactly x where that does nothing or the lane is mono.
Signal widened(const Signal& x, const Width& width, double sampleRate, StepCache& cache);

/// The loop in its steady state: the memory (filters, compressor, limiter, rooms) at its start is what its
/// end left, to within 1e-4 where that takes longer than ten seconds. Each block is cached by its input and
/// the memory at its start. Strikes and envelopes begin at `strikeFrames` (ascending), over 2 ms before each;
/// without any they do nothing. Exactly x where the chain does nothing. Silence stays silence.
Signal chainedLane(const Signal& x, const ReadyChain& chain, const std::vector<double>& strikeFrames,
                   double sampleRate, StepCache& cache);

/// Gain reduction of a compressor, a soft clip or a limiter there, dB a frame, one channel; empty for other
/// kinds.
std::optional<Signal> takenFromLane(const Signal& x, const Processor& processor, double sampleRate,
                                    StepCache& cache);

}  // namespace heft
