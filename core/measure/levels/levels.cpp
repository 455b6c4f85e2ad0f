#include "core/measure/levels/levels.h"

#include <algorithm>
#include <cmath>
#include <deque>

#include "core/sound/buffer.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kSilence = 1e-5;  // -100 dBFS

// RMS of the first and quietest stretch before `end`, as the ground that a sound rises from.
double groundBefore(std::span<const double> mono, size_t end) {
  double ground = 0.0;
  for (size_t i = 0; i < end; ++i) ground = std::max(ground, std::abs(mono[i]));
  return ground;
}

// Whether a stretch is one tone: a quiet note and no noise floor. The autocorrelation of a tone returns to
// nearly one within half of the stretch; that of noise does not.
bool isTone(std::span<const double> mono, double sampleRate) {
  constexpr double kSlowRate = 4000.0, kLongestSeconds = 0.12, kTone = 0.7;
  const auto longest = static_cast<size_t>(kLongestSeconds * sampleRate);
  const auto slow = decimated(mono.last(std::min(longest, mono.size())), sampleRate, kSlowRate);
  const auto& x = slow.samples;
  bool crossed = false;
  for (size_t lag = 1; lag < x.size() / 2; ++lag) {
    double across = 0.0, a = 1e-30, b = 1e-30;
    for (size_t i = 0; i + lag < x.size(); ++i)
      across += x[i] * x[i + lag], a += x[i] * x[i], b += x[i + lag] * x[i + lag];
    const double likeness = across / std::sqrt(a * b);
    crossed = crossed || likeness < 0.0;
    if (crossed && likeness > kTone) return true;
  }
  return false;
}

// Where a sound leaps out of a level ground of noise that the file starts with: the ground lasts 30 ms at least
// and the leap is 12 dB within 10 ms. Nothing without such a ground: a swell is its own start.
std::optional<size_t> endOfGround(std::span<const double> mono, double sampleRate) {
  constexpr double kBlockSeconds = 0.005, kLevel = 2.0, kLeap = 4.0;
  constexpr size_t kLeastBlocks = 6, kMostBlocks = 40;
  const auto size = std::max<size_t>(1, static_cast<size_t>(kBlockSeconds * sampleRate));
  std::optional<size_t> out;
  std::vector<double> ground;
  auto levelOf = [&](size_t block) { return std::sqrt(energyOf(mono.subspan(block * size, size))); };
  for (size_t k = 0; (k + 3) * size <= mono.size(); ++k) {
    const double level = levelOf(k);
    if (ground.size() < kLeastBlocks) {
      ground.push_back(level);
      continue;
    }
    const double usual = median(ground);
    if (!(usual > 0.0) || *std::max_element(ground.begin(), ground.end()) > kLevel * usual) return out;
    if (level <= kLevel * usual) {
      if (ground.size() < kMostBlocks) ground.push_back(level);
      continue;
    }
    if (std::max({level, levelOf(k + 1), levelOf(k + 2)}) < kLeap * usual) return out;
    if (!isTone(mono.first(k * size), sampleRate)) out = k * size;
    return out;
  }
  return out;
}

}  // namespace

std::optional<double> findOnset(std::span<const double> mono, double sampleRate) {
  double peak = 0.0;
  for (double x : mono) peak = std::max(peak, std::abs(x));
  if (!(peak > kSilence)) return std::nullopt;
  const double threshold = peak * 0.0316;
  auto crossingFrom = [&](size_t from, double over) {
    const auto at = std::find_if(mono.begin() + static_cast<ptrdiff_t>(from), mono.end(),
                                 [over](double x) { return std::abs(x) >= over; });
    return static_cast<size_t>(at - mono.begin());
  };
  size_t crossing = crossingFrom(0, threshold);
  if (const auto leap = endOfGround(mono, sampleRate); leap && *leap > crossing)
    crossing = crossingFrom(*leap, std::max(threshold, 1.2 * groundBefore(mono, *leap)));
  // Back over at most 3 ms to where the rise began: above the ground and above -60 dB.
  const auto reach = static_cast<size_t>(0.003 * sampleRate);
  const size_t earliest = crossing > reach ? crossing - reach : 0;
  const double ground = std::max(peak * 0.001, 1.5 * groundBefore(mono, earliest));
  size_t start = crossing;
  const auto quietRun = static_cast<size_t>(0.0003 * sampleRate) + 1;
  size_t quiet = 0;
  for (size_t i = crossing; i > earliest && quiet < quietRun; --i) {
    if (std::abs(mono[i - 1]) > ground)
      start = i - 1, quiet = 0;
    else
      ++quiet;
  }
  return static_cast<double>(start) / sampleRate;
}

std::vector<double> slidingPeak(std::span<const double> mono, double sampleRate, double windowSeconds) {
  const auto n = static_cast<ptrdiff_t>(mono.size());
  const auto half = std::max<ptrdiff_t>(1, static_cast<ptrdiff_t>(0.5 * windowSeconds * sampleRate));
  std::vector<double> out(mono.size());
  std::deque<ptrdiff_t> falling;  // indices of a falling run of magnitudes
  ptrdiff_t next = 0;
  for (ptrdiff_t i = 0; i < n; ++i) {
    for (; next < n && next <= i + half; ++next) {
      while (!falling.empty() && std::abs(mono[falling.back()]) <= std::abs(mono[next])) falling.pop_back();
      falling.push_back(next);
    }
    while (falling.front() < i - half) falling.pop_front();
    out[static_cast<size_t>(i)] = std::abs(mono[falling.front()]);
  }
  return out;
}

double tailSeconds(std::span<const double> mono, double sampleRate, double onsetSeconds, double windowSeconds) {
  const auto envelope = slidingPeak(mono, sampleRate, windowSeconds);
  if (envelope.empty()) return 0.0;
  const double threshold = 0.01 * *std::max_element(envelope.begin(), envelope.end());
  const auto last =
      std::find_if(envelope.rbegin(), envelope.rend(), [threshold](double e) { return e > threshold; });
  const double end = static_cast<double>(envelope.rend() - last) / sampleRate;
  // The window looks half of itself ahead; at the end of a decay that reads late by as much.
  return std::max(0.0, end - 0.5 * windowSeconds - onsetSeconds);
}

}  // namespace heft
