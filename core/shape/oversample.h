#pragma once
/// Waveshaping creates partials without limit; those above half the rate alias. So the curve runs at a
/// multiple of the rate, and everything above the band is filtered off before down-sampling.
///
/// First doubling: linear-phase, flat to 0.83 of the band, -100 dB at its end. Further doublings: short
/// half-band filters. Delays are compensated.

#include <functional>
#include <span>
#include <vector>

namespace heft {

/// `x` up-sampled, through `bend`, and down again, a stretch at a time to stay in the processor's cache;
/// stretches overlap by the filters' reach, so the result equals that of the whole. `bend` works sample by
/// sample.
std::vector<float> bentAbove(std::span<const float> x, int factor,
                             const std::function<void(std::span<float>)>& bend);

}  // namespace heft
