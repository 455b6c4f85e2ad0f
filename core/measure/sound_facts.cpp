#include "core/measure/sound_facts.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels.h"
#include "core/sound/filter.h"

namespace heft {

double envelopeWindowSeconds(const Landing& landing) {
  return landing.hz ? 1.0 / *landing.hz : 0.018;
}

SoundFacts measureSound(const AudioBuffer& buffer, const LandingOptions& options) {
  SoundFacts out;
  out.band = options;
  out.durationSeconds = buffer.seconds();
  out.sampleRate = buffer.sampleRate;
  out.channels = buffer.channelCount();
  const double peak = peakOf(buffer);
  double energy = 0.0;
  for (const auto& channel : buffer.channels) energy += energyOf(std::span<const float>(channel));
  const double samples = static_cast<double>(std::max<size_t>(1, buffer.frames() * buffer.channelCount()));
  out.peakDbfs = dbFromAmplitude(peak);
  out.rmsDbfs = dbFromPower(energy / samples);
  out.crestDb = energy > 0.0 ? out.peakDbfs - out.rmsDbfs : 0.0;
  const auto mono = monoFold(buffer);
  out.onsetSeconds = findOnset(mono, buffer.sampleRate);
  if (!out.onsetSeconds) {
    out.landing.reason = "silence has no pitch";
    return out;
  }
  out.landing = measureLanding(mono, buffer.sampleRate, *out.onsetSeconds, options);
  const double window = envelopeWindowSeconds(out.landing);
  out.tailMs = 1000.0 * tailSeconds(mono, buffer.sampleRate, *out.onsetSeconds, window);
  const auto low = decimated(std::span<const double>(mono), buffer.sampleRate, 2000.0);
  const auto band = bandLimited(low.samples, low.sampleRate, 0.0, 150.0);
  out.tailLowMs = 1000.0 * tailSeconds(band, low.sampleRate, *out.onsetSeconds, window);
  return out;
}

}  // namespace heft
