#include "core/measure/levels.h"

#include <algorithm>
#include <cmath>
#include <deque>

namespace heft {
namespace {

constexpr double kSilence = 1e-5;  // -100 dBFS

// RMS of the first and quietest stretch before `end`, as the ground that a sound rises from.
double groundBefore(std::span<const double> mono, size_t end) {
  double ground = 0.0;
  for (size_t i = 0; i < end; ++i) ground = std::max(ground, std::abs(mono[i]));
  return ground;
}

}  // namespace

std::optional<double> findOnset(std::span<const double> mono, double sampleRate) {
  double peak = 0.0;
  for (double x : mono) peak = std::max(peak, std::abs(x));
  if (!(peak > kSilence)) return std::nullopt;
  const double threshold = peak * 0.0316;
  const auto crossing = static_cast<size_t>(
      std::find_if(mono.begin(), mono.end(), [threshold](double x) { return std::abs(x) >= threshold; }) -
      mono.begin());
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
