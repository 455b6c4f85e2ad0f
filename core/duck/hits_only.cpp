#include "core/duck/hits_only.h"

#include <algorithm>
#include <cmath>
#include <deque>

namespace heft {

void gateHits(std::span<const float> peaks, const std::vector<HeardOnset>& onsets, double sampleRate,
              HitGate& gate, std::span<float> gain) {
  const double early = kOnsetSeconds * sampleRate, fall = std::pow(10.0, -kFallDbPerSecond / 20.0 / sampleRate);
  auto next = std::find_if(onsets.begin(), onsets.end(), [&](const HeardOnset& o) { return o.frame >= 0.0; });
  for (size_t i = 0; i < gain.size(); ++i) {
    for (; next != onsets.end() && next->frame - early <= static_cast<double>(i); ++next) {
      // The peak just before: the onset itself has not begun.
      if (!next->fires && gate.open) gate.cap = peaks[i];
      gate.open = next->fires;
    }
    if (!gate.open) gate.cap *= fall;
    gain[i] = gate.open || peaks[i] <= gate.cap ? 1.0f : static_cast<float>(gate.cap / peaks[i]);
  }
}

std::vector<float> peaksBehind(std::span<const float> x, size_t first, double sampleRate) {
  const auto length = static_cast<size_t>(kPeakSeconds * sampleRate) + 1;
  std::vector<float> out;
  std::deque<size_t> falling;  // frames whose magnitudes fall
  for (size_t i = 0; i < x.size(); ++i) {
    while (!falling.empty() && std::abs(x[falling.back()]) <= std::abs(x[i])) falling.pop_back();
    falling.push_back(i);
    if (falling.front() + length <= i) falling.pop_front();
    if (i >= first) out.push_back(std::abs(x[falling.front()]));
  }
  return out;
}

}  // namespace heft
