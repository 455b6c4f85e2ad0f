#include "core/compare/bar_fold.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/compare/curves.h"
#include "core/sound/buffer.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kFoldFromHz = 20.0;

// Power in the band, averaged over `smoothMs` about each sample; a loop's ends meet.
std::vector<double> bandPower(const LowEndParts& low, const FoldAsk& ask) {
  std::vector<double> x = low.mid;
  const auto pad = low.wraps ? std::min(x.size(), static_cast<size_t>(0.25 * low.rate)) : 0;
  if (pad) {
    x.insert(x.begin(), low.mid.end() - static_cast<ptrdiff_t>(pad), low.mid.end());
    x.insert(x.end(), low.mid.begin(), low.mid.begin() + static_cast<ptrdiff_t>(pad));
  }
  x = bandLimited(x, low.rate, kFoldFromHz, ask.belowHz);
  for (double& v : x) v *= v;
  const auto mean = movingMean(x, std::max<size_t>(1, static_cast<size_t>(0.0005 * ask.smoothMs * low.rate)));
  const auto first = mean.begin() + static_cast<ptrdiff_t>(pad);
  return {first, first + std::ssize(low.mid)};
}

}  // namespace

BarFold foldOver(const LowEndParts& low, const FoldAsk& ask) {
  const double length = ask.quarters * ask.secondsPerQuarter * low.rate;
  const auto frames = static_cast<double>(low.mid.size());
  constexpr double kSlack = 0.02;  // of a fold that a section's end cuts
  if (!(length > 1.0) || frames < (1.0 - kSlack) * length) return {};
  const auto power = bandPower(low, ask);
  const double mean = std::accumulate(power.begin(), power.end(), 0.0) / frames;
  if (!(mean > 0.0)) return {};
  const double first = std::fmod(std::fmod(ask.firstBeatSeconds * low.rate, length) + length, length);
  BarFold out(kFoldSteps, 0.0);
  for (size_t s = 0; s < kFoldSteps; ++s) {
    double sum = 0.0, count = 0.0;
    const double into = length * static_cast<double>(s) / kFoldSteps;
    for (double at = first + into - length; at < frames - 0.5; at += length) {
      if (at < -0.5) continue;
      sum += power[static_cast<size_t>(std::max(0.0, std::round(at)))], count += 1.0;
    }
    out[s] = count > 0.0 ? dbFromPower(sum / count / mean, kLeastFoldDb) : kLeastFoldDb;
    out[s] = std::max(out[s], kLeastFoldDb);
  }
  return out;
}

BarFold startedLater(const BarFold& fold, int by, double quarters) {
  if (fold.empty() || !(quarters > 0.0)) return fold;
  BarFold out(fold.size());
  const auto steps = static_cast<ptrdiff_t>(
      std::lround(static_cast<double>(by) / quarters * static_cast<double>(fold.size())));
  const auto n = std::ssize(fold);
  for (ptrdiff_t i = 0; i < n; ++i)
    out[static_cast<size_t>(i)] = fold[static_cast<size_t>(((i + steps) % n + n) % n)];
  return out;
}

int quartersApart(const BarFold& fold, const BarFold& other, double quarters) {
  if (fold.empty() || other.empty()) return 0;
  int best = 0;
  double least = 1e300;
  for (int by = 0; by < static_cast<int>(quarters); ++by) {
    const BarFold moved = startedLater(fold, by, quarters);
    double sum = 0.0;
    for (size_t i = 0; i < moved.size(); ++i) sum += std::pow(moved[i] - other[i], 2);
    if (sum < least - 1e-9) least = sum, best = by;
  }
  return best;
}

}  // namespace heft
