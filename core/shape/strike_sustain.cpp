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
  double lastDb = s.strikeDb;
  auto gain = static_cast<float>(amplitudeFromDb(lastDb));
  for (size_t i = 0; i < sound.frames(); ++i) {
    const double ms = (static_cast<double>(i) / sound.sampleRate - onsetSeconds) * 1000.0;
    // Only while it goes over from one to the other is there anything to work out.
    const double db = ms <= 0.5 * s.strikeMs   ? s.strikeDb
                      : ms >= 1.5 * s.strikeMs ? s.sustainDb
                                               : strikeSustainDb(s, ms);
    if (db != lastDb) gain = static_cast<float>(amplitudeFromDb(lastDb = db));
    for (auto& channel : sound.channels) channel[i] *= gain;
  }
}

}  // namespace heft
