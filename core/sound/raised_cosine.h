#pragma once
/// A slope without corners: half a cosine, from 0 to 1.

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {

/// 0 up to 0, 1 from 1 on.
inline double raisedCosine(double u) {
  return 0.5 - 0.5 * std::cos(std::numbers::pi * std::clamp(u, 0.0, 1.0));
}

}  // namespace heft
