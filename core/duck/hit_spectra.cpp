#include "core/duck/hit_spectra.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/spectrum.h"

namespace heft {
namespace {

constexpr double kLookSeconds = 0.1, kEarlySeconds = 0.002, kFadeSeconds = 0.02;
constexpr size_t kMostHits = 8;

// From just before a hit, faded at its end: a hard cut has a spectrum of its own.
std::vector<float> startOf(const AudioBuffer& sound, double seconds) {
  const double rate = sound.sampleRate;
  const auto first = static_cast<size_t>(std::max(0.0, (seconds - kEarlySeconds) * rate));
  const size_t last = std::min(sound.frames(), first + static_cast<size_t>(kLookSeconds * rate));
  std::vector<float> out(last > first ? last - first : 0, 0.0f);
  const double fade = kFadeSeconds * rate;
  for (size_t i = 0; i < out.size(); ++i) {
    const double left = static_cast<double>(out.size() - i) / fade;
    for (const auto& channel : sound.channels)
      out[i] += static_cast<float>(channel[first + i] * std::min(1.0, left));
  }
  return out;
}

std::vector<double> meanOf(const AudioBuffer& sound, std::span<const double> hits) {
  std::vector<double> power;
  const size_t count = std::min(hits.size(), kMostHits);
  for (size_t i = 0; i < count; ++i) {
    const auto db = spectrumOf(startOf(sound, hits[i * hits.size() / count]), sound.sampleRate);
    const double most = *std::max_element(db.begin(), db.end());
    power.resize(db.size(), 0.0);
    for (size_t b = 0; b < db.size(); ++b) power[b] += std::pow(10.0, (db[b] - most) / 10.0);
  }
  if (power.empty()) return power;
  const double most = *std::max_element(power.begin(), power.end());
  for (double& p : power) p = dbFromPower(p / most);
  return power;
}

}  // namespace

HitSpectra hitSpectra(const AudioBuffer& sound, std::span<const double> firing,
                      std::span<const double> others) {
  return {meanOf(sound, firing), meanOf(sound, others)};
}

}  // namespace heft
