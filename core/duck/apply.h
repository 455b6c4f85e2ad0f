#pragma once
/// Moving the bass, all of it or only what lies below a crossover.

#include <complex>
#include <span>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

/// The linear-phase low part of a signal, latency compensated: x - low + low is exactly x, so the crossover
/// sums flat and leaves every phase as it was. -6 dB at `hz`, transition one octave wide about it. Made once
/// for signals of about `frames`; of() may be called by several threads at once.
class LowPart {
 public:
  LowPart(double sampleRate, double hz, size_t frames);
  /// As long as `x`, of any length. `wraps`: the signal is a loop.
  std::vector<float> of(std::span<const float> x, bool wraps) const;
  size_t bytes() const { return response_.size() * sizeof(response_[0]); }

 private:
  size_t taps_ = 0, size_ = 0;
  std::vector<std::complex<double>> response_;
};

/// x * gain, or x + (gain - 1) * low where `crossoverHz` > 0. `gain` has a value for every frame.
AudioBuffer ducked(const AudioBuffer& x, std::span<const float> gain, double crossoverHz, bool wraps);

}  // namespace heft
