#pragma once
/// A slope without corners: half a cosine, from 0 to 1.

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace heft {

/// 0 up to 0, 1 from 1 on.
inline double raisedCosine(double u) {
  return 0.5 - 0.5 * std::cos(std::numbers::pi * std::clamp(u, 0.0, 1.0));
}

/// A Hann window, its samples in the middle of their cells: symmetric, and nowhere 0.
inline std::vector<double> hannWindow(size_t count) {
  std::vector<double> out(count);
  for (size_t i = 0; i < count; ++i)
    out[i] = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * (static_cast<double>(i) + 0.5) /
                                  static_cast<double>(count));
  return out;
}

}  // namespace heft
