#pragma once
/// Shared by edits of drawn curves.

#include <algorithm>
#include <cstddef>
#include <vector>

namespace heft {

/// Clamps a curve's point between its neighbours, 0 to 1.
template <class Point>
double betweenNeighbours(const std::vector<Point>& points, size_t index, double at) {
  const double least = index > 0 ? points[index - 1].at : 0.0,
               most = index + 1 < points.size() ? points[index + 1].at : 1.0;
  return std::clamp(at, least, std::max(least, most));
}

}  // namespace heft
