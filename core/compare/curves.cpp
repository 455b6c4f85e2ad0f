#include "core/compare/curves.h"

#include <algorithm>
#include <cmath>

#include "core/sound/buffer.h"

namespace heft {

std::vector<double> smoothedCurve(std::span<const double> db) {
  constexpr ptrdiff_t kHalf = 6;
  const auto n = static_cast<ptrdiff_t>(db.size());
  std::vector<double> power, out;
  for (const double each : db) power.push_back(std::pow(10.0, each / 10.0));
  for (ptrdiff_t i = 0; i < n; ++i) {
    double sum = 0.0, weights = 0.0;
    for (ptrdiff_t k = std::max<ptrdiff_t>(0, i - kHalf); k <= std::min(n - 1, i + kHalf); ++k) {
      const double weight = 1.0 - static_cast<double>(std::abs(k - i)) / (kHalf + 1.0);
      sum += weight * power[static_cast<size_t>(k)];
      weights += weight;
    }
    out.push_back(dbFromPower(sum / weights));
  }
  return out;
}

std::vector<double> movingMean(std::span<const double> values, size_t half) {
  std::vector<double> sums(values.size() + 1, 0.0), out(values.size());
  for (size_t i = 0; i < values.size(); ++i) sums[i + 1] = sums[i] + values[i];
  for (size_t i = 0; i < values.size(); ++i) {
    const size_t from = i - std::min(i, half), to = std::min(values.size(), i + half + 1);
    out[i] = (sums[to] - sums[from]) / static_cast<double>(to - from);
  }
  return out;
}

double percentile(std::vector<double>& values, double share) {
  if (values.empty()) return 0.0;
  const double at = share * static_cast<double>(values.size() - 1);
  const auto low = static_cast<ptrdiff_t>(at);
  std::nth_element(values.begin(), values.begin() + low, values.end());
  const double below = values[static_cast<size_t>(low)];
  if (low + 1 >= std::ssize(values)) return below;
  const double above = *std::min_element(values.begin() + low + 1, values.end());
  return below + (at - static_cast<double>(low)) * (above - below);
}

}  // namespace heft
