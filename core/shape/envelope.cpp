#include "core/shape/envelope.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/raised_cosine.h"

namespace heft {

double envelopeGain(const AmpEnvelope& e, double ms) {
  double gain = std::pow(10.0, -2.0 * std::max(0.0, ms - e.attackMs - e.holdMs) / e.decayMs);
  if (ms < e.attackMs) gain *= raisedCosine(ms / e.attackMs);
  return gain;
}

void applyEnvelope(AudioBuffer& sound, const AmpEnvelope& e, double onsetSeconds) {
  if (!e.on) return;
  for (size_t i = 0; i < sound.frames(); ++i) {
    const double gain = envelopeGain(e, (static_cast<double>(i) / sound.sampleRate - onsetSeconds) * 1000.0);
    for (auto& channel : sound.channels) channel[i] *= static_cast<float>(gain);
  }
}

}  // namespace heft
