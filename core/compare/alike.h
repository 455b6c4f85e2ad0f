#pragma once
/// Sounds that repeat sample by sample in a longer one.

#include <memory>
#include <vector>

#include "core/sound/fft.h"

namespace heft {

/// A place where a pattern is found.
struct Matched {
  size_t at = 0;          ///< its first sample
  double strength = 1.0;  ///< amplitude re the pattern
  double alike = 1.0;     ///< correlation with it, 0 to 1
};

/// Finds a pattern anywhere in a signal, by its correlation (a matched filter). Not for two threads at once.
class MatchedFilter {
 public:
  explicit MatchedFilter(const std::vector<double>& signal);
  /// Places at which the pattern is at least so strong and so alike, the strongest within `apart` samples, in
  /// order. Nothing for a silent pattern or one longer than the signal.
  std::vector<Matched> matches(const std::vector<double>& pattern, double leastStrength, double leastAlike,
                               size_t apart) const;

 private:
  size_t frames_;
  std::vector<double> energy_;  // summed from the start
  std::unique_ptr<RealFft> fft_;
  std::vector<std::complex<double>> spectrum_;
};

/// Groups of places around which a signal is alike: 92 ms from 8 ms before each, at its best shift within 12
/// ms, correlated by more than 0.6 with the group's first. The largest group first; each place shifted so that
/// its group is in step. At most a few hundred places.
std::vector<std::vector<Matched>> alikeGroups(const std::vector<double>& signal,
                                              const std::vector<size_t>& places, double rate);

}  // namespace heft
