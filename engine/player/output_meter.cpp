#include "engine/player/output_meter.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {

// A windowed sinc at four phases (Hann); the first phase is the sample itself.
OutputMeter::OutputMeter() {
  for (size_t phase = 0; phase < kPhases; ++phase) {
    double sum = 0.0;
    std::array<double, kTaps> taps{};
    for (size_t k = 0; k < kTaps; ++k) {
      const double x = static_cast<double>(k) - static_cast<double>(kTaps / 2 - 1) -
                       static_cast<double>(phase) / static_cast<double>(kPhases);
      const double sinc = x == 0.0 ? 1.0 : std::sin(std::numbers::pi * x) / (std::numbers::pi * x);
      const double window = 0.5 + 0.5 * std::cos(2.0 * std::numbers::pi * x / static_cast<double>(kTaps + 1));
      taps[k] = sinc * window, sum += taps[k];
    }
    for (size_t k = 0; k < kTaps; ++k) kernel_[phase][k] = static_cast<float>(taps[k] / sum);
  }
}

void OutputMeter::feed(float left, float right) {
  const std::array<float, 2> now{left, right};
  for (size_t c = 0; c < now.size(); ++c) {
    past_[c][at_] = past_[c][at_ + kTaps] = now[c];
    const float* window = past_[c].data() + at_ + 1;
    for (const auto& phase : kernel_) {
      float sum = 0.0f;
      for (size_t k = 0; k < kTaps; ++k) sum += phase[k] * window[k];
      highest_ = std::max(highest_, std::abs(sum));
    }
  }
  at_ = (at_ + 1) % kTaps;
}

void OutputMeter::publish() {
  float known = peak_.load();
  while (known < highest_ && !peak_.compare_exchange_weak(known, highest_)) {
  }
  highest_ = 0.0f;
}

}  // namespace heft
