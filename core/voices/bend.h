#pragma once
/// The bend of a fall's or a dive's segment.

#include <algorithm>
#include <cmath>

namespace heft {

/// How much of the way is gone at a part `u` (0 to 1) of the time: an exponential that falls early for a bend
/// of 1, late for -1, a line for 0.
inline double bentWay(double u, double bend) {
  const double k = -10.0 * bend;
  return std::abs(k) < 1e-3 ? u : std::expm1(k * u) / std::expm1(k);
}

/// The bend with which `gone` (0 to 1) of the way is gone in the middle of the time: there an exponential has
/// gone 1 / (1 + exp(-5 bend)). Kept within -1 to 1.
inline double bendFor(double gone) {
  const double within = std::clamp(gone, 0.007, 0.993);
  return std::clamp(std::log(within / (1.0 - within)) / 5.0, -1.0, 1.0);
}

}  // namespace heft
