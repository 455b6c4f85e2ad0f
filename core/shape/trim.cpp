#include "core/shape/trim.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace heft {
namespace {

constexpr double kSilentAt = 1.2;
constexpr double kFallDb = 60.0;  // of an exponential fade over its way
double throughPoints(const std::vector<FadePoint>& points, double x) {
  FadePoint before{0.0, 1.0}, after{1.0, 0.0};
  for (const FadePoint& p : points) {
    if (p.at > x) {
      after = p;
      break;
    }
    before = p;
  }
  const double wide = after.at - before.at;
  return wide > 0.0 ? before.gain + (x - before.at) / wide * (after.gain - before.gain) : after.gain;
}

}  // namespace

double TailFade::gainAt(double share) const {
  const double end = shape == FadeShape::Smooth ? kSilentAt : 1.0;
  const double x = std::clamp((share - from) / (end - from), 0.0, 1.0), left = 1.0 - x;
  switch (shape) {
    case FadeShape::Smooth: {
      // With the default start x is 0.75 at the length: 33 dB down by itself, and any decaying tail adds the
      // rest.
      const double c = 0.5 + 0.5 * std::cos(std::numbers::pi * x);
      return c * c;
    }
    case FadeShape::EqualPower:
      return std::cos(0.5 * std::numbers::pi * x);
    case FadeShape::Exponential: {
      const double least = std::pow(10.0, -kFallDb / 20.0);
      return (std::pow(least, x) - least) / (1.0 - least);
    }
    case FadeShape::Drawn:
      return points.empty() ? std::pow(left, std::exp2(2.0 * bend)) : throughPoints(points, x);
    default:
      return left;
  }
}

AudioBuffer trimmedTail(const AudioBuffer& in, double onsetSeconds, std::optional<double> lengthSeconds,
                        const TailFade& fade) {
  if (!lengthSeconds) return in;
  AudioBuffer out = in;
  const double rate = in.sampleRate, onset = onsetSeconds * rate, length = *lengthSeconds * rate;
  const double from = onset + fade.from * length, to = onset + kSilentAt * length;
  const size_t frames = std::min(in.frames(), static_cast<size_t>(std::ceil(to)));
  for (auto& channel : out.channels) {
    channel.resize(frames);
    for (auto i = static_cast<size_t>(std::max(0.0, from)); i < frames; ++i)
      channel[i] *= static_cast<float>(fade.gainAt((static_cast<double>(i) - onset) / length));
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
