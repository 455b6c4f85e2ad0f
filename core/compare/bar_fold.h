#pragma once
/// The low band of a track folded over one beat or bar: how it breathes.

#include <vector>

#include "core/measure/levels/low_end.h"

namespace heft {

inline constexpr double kLeastFoldHz = 40.0, kMostFoldHz = 1000.0, kLeastFoldMs = 2.0, kMostFoldMs = 200.0;

struct FoldAsk {
  double belowHz = 120.0;          ///< kLeastFoldHz to kMostFoldHz
  double smoothMs = 20.0;          ///< kLeastFoldMs to kMostFoldMs
  double quarters = 4.0;           ///< length of the fold
  double secondsPerQuarter = 0.5;  ///< of this track
  double firstBeatSeconds = 0.0;   ///< where a fold starts, in the section's own time; may be negative
};

/// A step each kFoldSteps-th of the fold: level of the mean power over all folds, dB re the section's mean in
/// that band. Empty for silence and for less than one fold.
using BarFold = std::vector<double>;
inline constexpr size_t kFoldSteps = 384;
inline constexpr double kLeastFoldDb = -36.0;
BarFold foldOver(const LowEndParts& low, const FoldAsk& ask);

/// By how many quarters a fold has to start later to be most like another: the bar of a track whose first beat
/// is not certain. Whole quarters; 0 where either is empty.
int quartersApart(const BarFold& fold, const BarFold& other, double quarters);
/// A fold that starts so many quarters later.
BarFold startedLater(const BarFold& fold, int by, double quarters);

}  // namespace heft
