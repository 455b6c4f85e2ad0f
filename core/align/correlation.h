#pragma once
/// How two sounds stand to each other at each frequency: 1 in phase, 0 a quarter turn apart or unlike, -1
/// against each other.
///
/// Method: cross spectrum over the root of both power spectra, summed over all meetings and over a band about
/// the frequency: the real part of their coherency (Bendat and Piersol, Random Data, on cross-spectral
/// density). A delay and a polarity of the moving one turn it without a new transform.

#include <complex>
#include <optional>
#include <span>
#include <vector>

#include "core/align/align.h"

namespace heft {

class Correlation {
 public:
  Correlation() = default;
  /// `sampleRate`: of all meetings. Spans of their first 2 s are looked at; ducking counts.
  Correlation(const std::vector<Meeting>& meetings, double sampleRate);

  /// Over a band of so many octaves about `hz`, the second sound (`bass`) later by `delayMs`; -1 to 1. Nothing
  /// where one of them lies more than 40 dB under its most there, or beyond the rate.
  std::optional<double> at(double hz, double octaves, double delayMs = 0.0, bool invert = false) const;
  bool empty() const { return cross_.empty(); }

 private:
  double stepHz_ = 1.0, mostFirst_ = 0.0, mostSecond_ = 0.0;
  std::vector<std::complex<double>> cross_;
  std::vector<double> first_, second_;
};

}  // namespace heft
