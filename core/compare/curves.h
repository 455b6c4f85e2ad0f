#pragma once
/// Operations on curves of the low-end profile (one value a profileHz()).

#include <span>
#include <vector>

namespace heft {

/// Power averaged over half an octave with a triangle: the shape is what one judges, not a loop's comb of
/// lines. dB in and out, same length.
std::vector<double> smoothedCurve(std::span<const double> db);

/// The mean of each value and up to `half` on either side of it, of those that there are.
std::vector<double> movingMean(std::span<const double> values, size_t half);

/// The value that a share (0 to 1) of the values lie below, between them linearly (Hyndman and Fan 1996, type
/// 7); 0 for none. Reorders `values`.
double percentile(std::vector<double>& values, double share);

}  // namespace heft
