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

/// Power of Hann windows at three quarters overlap, added up.
class WindowedPower {
 public:
  WindowedPower(double rate, double windowSeconds);
  size_t size() const { return hann_.size(); }  ///< samples of a window
  size_t hop() const { return hann_.size() / 4; }
  void add(std::span<const double> window);
  const std::vector<double>& sums() const { return sums_; }
  /// Their mean over a sound of so many samples.
  PowerSpectrum meanOf(const std::vector<double>& sums, size_t samples) const;

 private:
  double rate_;
  std::vector<double> hann_, sums_;
};

/// Hann windows of `windowSeconds` at three quarters overlap, so that every sample counts the same; what is
/// shorter than two windows, and a loop (`wraps`), is transformed whole: a loop at its exact length, so that
/// its spectrum is a set of lines and nothing leaks. Sums to the signal's mean square. Needs a sample.
PowerSpectrum powerSpectrum(std::span<const double> x, double rate, bool wraps, double windowSeconds);

}  // namespace heft
