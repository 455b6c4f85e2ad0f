#include "core/sound/audition.h"

#include <algorithm>
#include <cmath>

#include "core/sound/resample.h"

namespace heft {
namespace {

double auditionGain(const AudioBuffer& sound) {
  constexpr double kHeadSeconds = 0.3, kRms = 0.1, kPeak = 0.95, kLeast = 1e-6;
  const auto mono = monoFold(sound);
  const auto count = std::min(mono.size(), static_cast<size_t>(kHeadSeconds * sound.sampleRate));
  const double rms =
      std::sqrt(energyOf(std::span(mono).first(count)) / std::max(1.0, static_cast<double>(count)));
  return std::min(kRms / std::max(kLeast, rms), kPeak / std::max(kLeast, peakOf(sound)));
}

}  // namespace

Audition auditionOf(std::shared_ptr<const AudioBuffer> sound, double deviceRate) {
  Audition out{std::move(sound), 1.0};
  out.gain = auditionGain(*out.sound);
  if (out.sound->sampleRate != deviceRate)
    if (auto converted = resampled(*out.sound, deviceRate))
      out.sound = std::make_shared<const AudioBuffer>(std::move(*converted));
  return out;
}

}  // namespace heft
