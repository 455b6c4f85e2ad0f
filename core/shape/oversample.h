#pragma once
/// Bent curves make partials without end; those above half the rate fold back as tones that fit nothing. So the
/// curve is run at a multiple of the rate, and what lies above is taken off before coming back.
///
/// First doubling: linear-phase, flat to 0.83 of the band, -100 dB at its end. Further doublings: short
/// half-band filters. Delays are made up: the result stands where the input stood.

#include <functional>
#include <span>
#include <vector>

namespace heft {

/// `x` up, through `bend`, and down again, a stretch at a time, so that the work stays in the processor's
/// cache; stretches overlap by what the filters reach, so that the result is that of the whole. `bend` alters
/// samples one by one.
std::vector<float> bentAbove(std::span<const float> x, int factor,
                             const std::function<void(std::span<float>)>& bend);

}  // namespace heft
