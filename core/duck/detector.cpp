#include "core/duck/detector.h"

#include <algorithm>
#include <cmath>

#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kHopSeconds = 0.001, kWindowSeconds = 0.008;
constexpr size_t kLookBack = 25;

// Power of `x` in windows centred on each millisecond.
std::vector<double> powerTrack(const std::vector<double>& x, double rate, double windowSeconds) {
  std::vector<double> running(x.size() + 1, 0.0);
  for (size_t i = 0; i < x.size(); ++i) running[i + 1] = running[i] + x[i] * x[i];
  const auto count = static_cast<size_t>(static_cast<double>(x.size()) / rate / kHopSeconds) + 1;
  std::vector<double> out(count);
  for (size_t k = 0; k < count; ++k) {
    const double centre = static_cast<double>(k) * kHopSeconds * rate, half = 0.5 * windowSeconds * rate;
    const auto first = static_cast<size_t>(std::clamp(centre - half, 0.0, static_cast<double>(x.size())));
    const auto last = static_cast<size_t>(std::clamp(centre + half, 0.0, static_cast<double>(x.size())));
    out[k] = std::max(0.0, running[last] - running[first]) / std::max(1.0, 2.0 * half);
  }
  return out;
}

// The start of the hit in the whole signal: first sample near `about` over a tenth of the loudest one just after it and
// three times over what came just before.
double refined(const std::vector<double>& x, double rate, double about) {
  const auto first = static_cast<size_t>(std::max(0.0, (about - 0.030) * rate));
  const auto last = std::min(x.size(), static_cast<size_t>((about + 0.012) * rate));
  const auto block = std::max<size_t>(1, static_cast<size_t>(0.0005 * rate));
  std::vector<double> level;
  for (size_t at = first; at + block <= last; at += block) {
    double peak = 0.0;
    for (size_t i = at; i < at + block; ++i) peak = std::max(peak, std::abs(x[i]));
    level.push_back(peak);
  }
  if (level.empty()) return about;
  // Steepest rise of the peak of the coming 4 ms over that of the past 4 ms.
  double steepest = 0.0;
  size_t best = 0;
  constexpr size_t kSpan = 8;
  for (size_t i = 0; i < level.size(); ++i) {
    double before = 0.0, after = 0.0;
    for (size_t k = i > kSpan ? i - kSpan : 0; k < i; ++k) before = std::max(before, level[k]);
    for (size_t k = i; k < std::min(level.size(), i + kSpan); ++k) after = std::max(after, level[k]);
    const double rise = after - before;
    if (rise > steepest + 1e-12) steepest = rise, best = i;
  }
  double before = 0.0;
  for (size_t k = best > kSpan ? best - kSpan : 0; k < best; ++k) before = std::max(before, level[k]);
  // The rise is seen up to a span early; the hit starts with the first block that leaves the ground.
  while (best + 1 < level.size() && level[best] < before + 0.1 * steepest) ++best;
  size_t sample = first + best * block;
  while (sample < last && std::abs(x[sample]) < before + 0.03 * steepest) ++sample;
  return static_cast<double>(sample) / rate;
}

}  // namespace

std::vector<double> findHits(const AudioBuffer& audio, const DetectorOptions& options) {
  const auto mono = monoFold(audio);
  if (mono.empty()) return {};
  const auto slow = decimated(std::span<const double>(mono), audio.sampleRate, std::max(2000.0, 8.0 * options.highCutHz));
  const auto low = bandLimited(slow.samples, slow.sampleRate, 0.0, options.highCutHz);
  const auto power = powerTrack(low, slow.sampleRate, kWindowSeconds);
  const double loudest = *std::max_element(power.begin(), power.end());
  if (!(loudest > 1e-10)) return {};
  const double threshold = loudest * std::pow(10.0, options.thresholdDb / 10.0);
  const auto gap = static_cast<size_t>(options.shortestGapMs / 1000.0 / kHopSeconds);
  std::vector<double> hits;
  size_t blockedUntil = 0;
  for (size_t k = 0; k < power.size(); ++k) {
    if (k < blockedUntil || power[k] < threshold) continue;
    const size_t from = k > kLookBack ? k - kLookBack : 0;
    const double floor = k < kLookBack ? 0.0 : *std::min_element(power.begin() + static_cast<ptrdiff_t>(from), power.begin() + static_cast<ptrdiff_t>(k));
    if (power[k] < 4.0 * floor) continue;
    // A beating tail rises too: a hit must reach what a hit reaches within the next moments.
    const auto end = power.begin() + static_cast<ptrdiff_t>(std::min(power.size(), k + 40));
    const double reached = *std::max_element(power.begin() + static_cast<ptrdiff_t>(k), end);
    if (reached < 8.0 * floor) continue;
    const double at = refined(mono, audio.sampleRate, static_cast<double>(k) * kHopSeconds);
    blockedUntil = k + gap;
    if (hits.empty() || at - hits.back() > 0.5 * options.shortestGapMs / 1000.0) hits.push_back(at);
  }
  return hits;
}

}  // namespace heft
