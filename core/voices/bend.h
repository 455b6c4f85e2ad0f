#pragma once
/// The bend of a fall's or a dive's segment.

#include <algorithm>
#include <cmath>

namespace heft {

/// Share of the way done at a share `u` (0 to 1) of the time: an exponential that moves early for a bend of
/// 1, late for -1, linearly for 0.
inline double bentWay(double u, double bend) {
  const double k = -10.0 * bend;
  return std::abs(k) < 1e-3 ? u : std::expm1(k * u) / std::expm1(k);
}

/// The bend that has `gone` (0 to 1) of the way done at half time: an exponential has done 1 / (1 + exp(-5
/// bend)) by then. Clamped to -1 to 1.
inline double bendFor(double gone) {
  const double within = std::clamp(gone, 0.007, 0.993);
  return std::clamp(std::log(within / (1.0 - within)) / 5.0, -1.0, 1.0);
}

}  // namespace heft
