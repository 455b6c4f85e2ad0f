#include "core/shape/trim.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {
namespace {

constexpr double kFadeFrom = 0.4, kSilentAt = 1.2;

// From 1 at 0 to 0 at 1; at (1 - 0.4) / (1.2 - 0.4) = 0.75, where the length stands, it has fallen by 33 dB on
// its own, and any tail that decays at all brings the rest.
double fadeGain(double x) {
  const double c = 0.5 + 0.5 * std::cos(std::numbers::pi * std::clamp(x, 0.0, 1.0));
  return c * c;
}

}  // namespace

AudioBuffer trimmedTail(const AudioBuffer& in, double onsetSeconds, std::optional<double> lengthSeconds) {
  if (!lengthSeconds) return in;
  AudioBuffer out = in;
  const double from = (onsetSeconds + kFadeFrom * *lengthSeconds) * in.sampleRate;
  const double to = (onsetSeconds + kSilentAt * *lengthSeconds) * in.sampleRate;
  const size_t frames = std::min(in.frames(), static_cast<size_t>(std::ceil(to)));
  for (auto& channel : out.channels) {
    channel.resize(frames);
    for (auto i = static_cast<size_t>(std::max(0.0, from)); i < frames; ++i)
      channel[i] *= static_cast<float>(fadeGain((static_cast<double>(i) - from) / (to - from)));
  }
  return out;
}

void fadeOut(AudioBuffer& sound, double fadeSeconds) {
  const size_t frames = sound.frames();
  const auto count = std::min(frames, static_cast<size_t>(std::lround(fadeSeconds * sound.sampleRate)));
  for (auto& channel : sound.channels)
    for (size_t i = 0; i < count; ++i)
      channel[frames - count + i] *= static_cast<float>(
          0.5 + 0.5 * std::cos(std::numbers::pi * (static_cast<double>(i) + 1.0) / static_cast<double>(count)));
}

}  // namespace heft
