#pragma once
/// The bend of a fall's or a dive's segment.

#include <cmath>

namespace heft {

/// How much of the way is gone at a part `u` (0 to 1) of the time: an exponential that falls early for a bend
/// of 1, late for -1, a line for 0.
inline double bentWay(double u, double bend) {
  const double k = -10.0 * bend;
  return std::abs(k) < 1e-3 ? u : std::expm1(k * u) / std::expm1(k);
}

}  // namespace heft
