#include "core/measure/events/sound_facts.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/levels.h"
#include "core/sound/filter.h"

namespace heft {

double envelopeWindowSeconds(const Landing& landing) {
  return landing.hz ? 1.0 / *landing.hz : 0.018;
}

namespace {

// A constant offset at a file's end, as bad converters leave it: silence, not a tail. A signal that swings
// about zero has none.
double offsetOf(const std::vector<double>& mono) {
  constexpr double kSteady = 0.05;
  const size_t count = std::max<size_t>(1, mono.size() / 10);
  double sum = 0.0, squares = 0.0;
  for (size_t i = mono.size() - count; i < mono.size(); ++i) sum += mono[i], squares += mono[i] * mono[i];
  const double mean = sum / static_cast<double>(count);
  const double spread = std::sqrt(std::max(0.0, squares / static_cast<double>(count) - mean * mean));
  return spread < kSteady * std::abs(mean) ? mean : 0.0;
}

}  // namespace

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
  const MaterialFacts material = recogniseMaterial(buffer);
  out.material = material.kind, out.onsets = material.onsets.size();
  auto mono = monoFold(buffer);
  if (!mono.empty())
    if (const double offset = offsetOf(mono); offset != 0.0)
      for (double& x : mono) x -= offset;
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
