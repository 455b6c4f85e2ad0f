#pragma once
/// A finish over a lane, or over the sum, as it runs: what plays at once is held together.

#include "core/render/stem.h"
#include "core/shape/finish.h"

namespace heft {

/// Its EQ alone over the lane; exactly x where that does nothing.
Stem equalised(const Stem& x, const Eq& eq, double sampleRate, StepCache& cache);

/// The loop in its steady state: what is remembered (filters, compressor, limiter) at its start is what its end
/// left, to within 1e-4 of it where that takes longer than ten seconds. Each block is found again by its input
/// and by what was remembered where it starts. Exactly x where the finish does nothing. Silence stays silence.
Stem finishedLane(const Stem& x, const Finish& finish, double sampleRate, StepCache& cache);

}  // namespace heft
