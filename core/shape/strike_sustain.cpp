#include "core/shape/strike_sustain.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {

double strikeSustainDb(const StrikeSustain& s, double msFromOnset) {
  const double u = std::clamp(msFromOnset / s.strikeMs - 0.5, 0.0, 1.0);
  return s.strikeDb + (s.sustainDb - s.strikeDb) * (0.5 - 0.5 * std::cos(std::numbers::pi * u));
}

void applyStrikeSustain(AudioBuffer& sound, const StrikeSustain& s, double onsetSeconds) {
  if (!s.on) return;
  for (size_t i = 0; i < sound.frames(); ++i) {
    const double ms = (static_cast<double>(i) / sound.sampleRate - onsetSeconds) * 1000.0;
    const auto gain = static_cast<float>(amplitudeFromDb(strikeSustainDb(s, ms)));
    for (auto& channel : sound.channels) channel[i] *= gain;
  }
}

}  // namespace heft
