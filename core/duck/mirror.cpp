#include "core/duck/mirror.h"

#include <algorithm>
#include <cmath>

#include "core/duck/gain_curve.h"
#include "core/sound/buffer.h"

namespace heft {
namespace {

// A Gaussian of 11 ms attenuates the 100 Hz in the square of a 50 Hz tone by over 100 dB, and the 60 Hz of a
// 30 Hz tone by 74 dB; the second one rounds the gain's corners.
constexpr double kLevelSigma = 0.011, kGainSigma = 0.006, kReachInSigmas = 3.5;
constexpr double kMirrorHopSeconds = 0.001;

struct Hops {
  explicit Hops(double rate) : frames(std::max<int64_t>(1, std::llround(rate * kMirrorHopSeconds))) {}
  int64_t frames;
};

std::vector<double> gaussian(double sigma, double rate) {
  const double hop = static_cast<double>(Hops(rate).frames) / rate;
  const auto half = static_cast<int>(std::ceil(kReachInSigmas * sigma / hop));
  std::vector<double> out;
  double sum = 0.0;
  for (int i = -half; i <= half; ++i) sum += out.emplace_back(std::exp(-0.5 * std::pow(i * hop / sigma, 2)));
  for (double& w : out) w /= sum;
  return out;
}

std::vector<double> smoothed(const std::vector<double>& x, const std::vector<double>& weights) {
  std::vector<double> out(x.size() - std::min(x.size(), weights.size() - 1));
  for (size_t i = 0; i < out.size(); ++i)
    for (size_t k = 0; k < weights.size(); ++k) out[i] += weights[k] * x[i + k];
  return out;
}

// The mean square about each of `count` hops from `firstHop` on.
std::vector<double> powers(std::span<const float> x, int64_t windowStart, int64_t firstHop, size_t count,
                           int64_t hop) {
  std::vector<double> out(count);
  for (size_t k = 0; k < count; ++k) {
    const int64_t from = (firstHop + static_cast<int64_t>(k)) * hop - hop / 2 - windowStart;
    double sum = 0.0;
    for (int64_t i = std::max<int64_t>(0, from);
         i < std::min<int64_t>(from + hop, static_cast<int64_t>(x.size())); ++i)
      sum += static_cast<double>(x[static_cast<size_t>(i)]) * x[static_cast<size_t>(i)];
    out[k] = sum / static_cast<double>(hop);
  }
  return out;
}

double wantedGain(const Mirror& m, double source, double target) {
  constexpr double kSilence = 1e-6;
  if (source < kSilence || target < kSilence) return 1.0;
  const double most = amplitudeFromDb(m.withinDb) * std::max(source, target);
  return std::clamp((most - source) / target, gainAtDepth(m.deepestDb), 1.0);
}

// Catmull and Rom's spline through values that are a hop apart.
double between(const double* p, double u) {
  return p[1] + 0.5 * u *
                    (p[2] - p[0] +
                     u * (2 * p[0] - 5 * p[1] + 4 * p[2] - p[3] + u * (3 * (p[1] - p[2]) + p[3] - p[0])));
}

size_t halfOf(double sigma, double rate) {
  return (gaussian(sigma, rate).size() - 1) / 2;
}

}  // namespace

size_t mirrorReach(double rate) {
  return (halfOf(kLevelSigma, rate) + halfOf(kGainSigma, rate) + 4) * static_cast<size_t>(Hops(rate).frames);
}

std::vector<float> mirrorGain(const Mirror& m, std::span<const float> source, std::span<const float> target,
                              double rate, size_t firstFrame) {
  const auto reach = mirrorReach(rate);
  if (source.size() <= 2 * reach) return {};
  const size_t count = source.size() - 2 * reach;
  const int64_t hop = Hops(rate).frames, first = static_cast<int64_t>(firstFrame);
  const auto level = gaussian(kLevelSigma, rate), corner = gaussian(kGainSigma, rate);
  // The gain is needed from one hop before the first frame to two after the last.
  const int64_t firstGain = first / hop - 1;
  const size_t gains = count / static_cast<size_t>(hop) + 5;
  const auto margin = static_cast<int64_t>((level.size() - 1) / 2 + (corner.size() - 1) / 2);
  const size_t hops = gains + 2 * static_cast<size_t>(margin);
  const int64_t window = first - static_cast<int64_t>(reach);
  const auto a = smoothed(powers(source, window, firstGain - margin, hops, hop), level),
             b = smoothed(powers(target, window, firstGain - margin, hops, hop), level);
  std::vector<double> wanted(a.size());
  for (size_t k = 0; k < wanted.size(); ++k) wanted[k] = wantedGain(m, std::sqrt(a[k]), std::sqrt(b[k]));
  const auto gain = smoothed(wanted, corner);
  std::vector<float> out(count);
  for (size_t i = 0; i < count; ++i) {
    const int64_t at = first + static_cast<int64_t>(i), k = at / hop - firstGain - 1;
    const double u = static_cast<double>(at % hop) / static_cast<double>(hop);
    const double g = between(&gain[static_cast<size_t>(k)], u);
    // Rounding errors of 1 are 1.
    out[i] = g > 1.0 - 1e-7 ? 1.0f : static_cast<float>(std::max(0.0, g));
  }
  return out;
}

}  // namespace heft
