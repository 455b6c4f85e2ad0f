#pragma once
/// Correlation of two sounds over frequency: 1 in phase, 0 at 90 degrees or unrelated, -1 in opposite phase.
///
/// Method: cross spectrum over the root of both power spectra, summed over all meetings and over a band about
/// the frequency: the real part of their coherency (Bendat and Piersol, Random Data, on cross-spectral
/// density). A delay or polarity change of the moving one needs no new transform.

#include <complex>
#include <optional>
#include <span>
#include <vector>

#include "core/align/align.h"

namespace heft {

class Correlation {
 public:
  Correlation() = default;
  /// `sampleRate`: of all meetings. Uses the first 2 s of each span; ducking counts.
  Correlation(const std::vector<Meeting>& meetings, double sampleRate);

  /// Over a band of that many octaves about `hz`, with the second sound (`bass`) delayed by `delayMs`; -1 to
  /// 1. Empty where either is more than 40 dB below its peak there, or above half the rate.
  std::optional<double> at(double hz, double octaves, double delayMs = 0.0, bool invert = false) const;
  bool empty() const { return cross_.empty(); }

 private:
  double stepHz_ = 1.0, mostFirst_ = 0.0, mostSecond_ = 0.0;
  std::vector<std::complex<double>> cross_;
  std::vector<double> first_, second_;
};

}  // namespace heft
