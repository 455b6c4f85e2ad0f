#include "core/sound/interpolate.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {
namespace {

constexpr int kHalfTaps = 32;
constexpr int kPhases = 512;
constexpr double kBeta = 9.0;

double besselI0(double x) {
  double sum = 1.0, term = 1.0;
  for (int k = 1; k < 40; ++k) sum += term *= (x / (2.0 * k)) * (x / (2.0 * k));
  return sum;
}

// The right half of the kernel, kPhases values a zero crossing; read with linear interpolation between them.
const std::vector<float>& kernel() {
  static const std::vector<float> table = [] {
    std::vector<float> t(static_cast<size_t>(kHalfTaps * kPhases + 2), 0.0f);
    for (int i = 0; i < kHalfTaps * kPhases; ++i) {
      const double x = static_cast<double>(i) / kPhases;
      // Cut at 0.95 of Nyquist: the window's transition then ends just above it.
      const double arg = std::numbers::pi * 0.95 * x;
      const double sinc = i == 0 ? 0.95 : 0.95 * std::sin(arg) / arg;
      const double r = x / kHalfTaps;
      t[static_cast<size_t>(i)] = static_cast<float>(sinc * besselI0(kBeta * std::sqrt(1.0 - r * r)) / besselI0(kBeta));
    }
    return t;
  }();
  return table;
}

float readOne(std::span<const float> x, double position, double width) {
  const auto& table = kernel();
  const double reach = kHalfTaps * width;
  const auto first = std::max<ptrdiff_t>(0, static_cast<ptrdiff_t>(std::ceil(position - reach)));
  const auto last = std::min<ptrdiff_t>(static_cast<ptrdiff_t>(x.size()) - 1, static_cast<ptrdiff_t>(std::floor(position + reach)));
  const double scale = kPhases / width;
  float sum = 0.0f;
  for (ptrdiff_t i = first; i <= last; ++i) {
    const auto at = static_cast<float>(std::abs(static_cast<double>(i) - position) * scale);
    const auto index = static_cast<size_t>(at);
    const float part = at - static_cast<float>(index);
    sum += x[static_cast<size_t>(i)] * (table[index] + part * (table[index + 1] - table[index]));
  }
  return sum / static_cast<float>(width);
}

}  // namespace

std::vector<float> readAt(std::span<const float> x, double start, double step, size_t count) {
  std::vector<float> out(count, 0.0f);
  const double width = std::max(1.0, step);
  for (size_t i = 0; i < count; ++i) out[i] = readOne(x, start + static_cast<double>(i) * step, width);
  return out;
}

AudioBuffer playedFaster(const AudioBuffer& in, double speed) {
  AudioBuffer out;
  out.sampleRate = in.sampleRate;
  const auto frames = static_cast<size_t>(std::ceil(static_cast<double>(in.frames()) / speed));
  for (const auto& channel : in.channels)
    out.channels.push_back(speed == 1.0 ? channel : readAt(channel, 0.0, speed, frames));
  return out;
}

AudioBuffer fractionLater(const AudioBuffer& in, double samples, size_t extra) {
  AudioBuffer out;
  out.sampleRate = in.sampleRate;
  for (const auto& channel : in.channels) {
    if (samples == 0.0) {
      out.channels.push_back(channel);
      out.channels.back().resize(in.frames() + extra, 0.0f);
    } else {
      out.channels.push_back(readAt(channel, -samples, 1.0, in.frames() + extra));
    }
  }
  return out;
}

}  // namespace heft
