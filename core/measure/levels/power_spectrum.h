#pragma once
/// The power spectrum of a stretch of sound, for bands of any width.

#include <span>
#include <vector>

namespace heft {

/// Mean square per bin, one-sided.
struct PowerSpectrum {
  std::vector<double> power;
  double stepHz = 1.0;

  /// Power between two frequencies; a bin counts by its share inside.
  double between(double lowHz, double highHz) const;
};

/// Hann windows of `windowSeconds` at three quarters overlap, so that every sample counts the same; what is
/// shorter than two windows, and a loop (`wraps`), is transformed whole: a loop at its exact length, so that
/// its spectrum is a set of lines and nothing leaks. Sums to the signal's mean square. Needs a sample.
PowerSpectrum powerSpectrum(std::span<const double> x, double rate, bool wraps, double windowSeconds);

}  // namespace heft
