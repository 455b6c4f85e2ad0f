#pragma once
/// Fewer points for a curve that was played or drawn.

#include <cmath>
#include <utility>
#include <vector>

namespace heft {

/// The points that straight lines between them need to stay within `tolerance` of every left-out one (Douglas
/// and Peucker 1973, by value only; Ramer 1972). At worst quadratic in the points. The first and the last stay.
/// Points have `quarters`, ascending, and `value`.
template <class Point>
std::vector<Point> thinned(const std::vector<Point>& curve, double tolerance = 0.002) {
  if (curve.size() < 3) return curve;
  std::vector<char> keep(curve.size(), 0);
  keep.front() = keep.back() = 1;
  // Stretches still to be looked at, first and last point of each.
  std::vector<std::pair<size_t, size_t>> open{{0, curve.size() - 1}};
  while (!open.empty()) {
    const auto [first, last] = open.back();
    open.pop_back();
    const Point &a = curve[first], &b = curve[last];
    double worst = tolerance;
    size_t at = 0;
    for (size_t i = first + 1; i < last; ++i) {
      const double span = b.quarters - a.quarters;
      const double u = span > 0.0 ? (curve[i].quarters - a.quarters) / span : 0.5;
      const double away = std::abs(curve[i].value - (a.value + u * (b.value - a.value)));
      if (away > worst) worst = away, at = i;
    }
    if (at == 0) continue;
    keep[at] = 1;
    open.emplace_back(first, at);
    open.emplace_back(at, last);
  }
  std::vector<Point> out;
  for (size_t i = 0; i < curve.size(); ++i)
    if (keep[i]) out.push_back(curve[i]);
  return out;
}

}  // namespace heft
