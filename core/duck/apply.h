#pragma once
/// Moving the bass, all of it or only what lies below a crossover.

#include <span>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

/// Linear-phase low part of a signal, latency compensated: x - below(x) + below(x) is exactly x, so the
/// crossover sums flat and leaves every phase as it was. `wraps`: the signal is a loop. -6 dB at `hz`,
/// transition one octave wide about it.
std::vector<float> below(std::span<const float> x, double sampleRate, double hz, bool wraps);

/// x * gain, or x + (gain - 1) * below(x) where `crossoverHz` > 0. `gain` has a value for every frame.
AudioBuffer ducked(const AudioBuffer& x, std::span<const float> gain, double crossoverHz, bool wraps);

}  // namespace heft
