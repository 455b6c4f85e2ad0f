#pragma once
/// A mix beside references, loudness matched.

#include <optional>
#include <vector>

#include "core/measure/levels/low_end.h"

namespace heft {

/// Span of the references in one band, dB of its power re their loudness.
struct BandSpan {
  double least = 0.0, most = 0.0;
  /// Distance of a level outside the span; 0 within.
  double beyondDb(double level) const {
    return level > most ? level - most : level < least ? level - least : 0.0;
  }
};
/// Nothing without a reference that has a loudness.
std::optional<BandSpan> spanOf(const std::vector<ProgrammeFacts>& references, const Band& band);

/// Mix minus the references' median; nothing where either has no loudness.
struct BandDifference {
  Band band = {};
  double levelDb = 0.0;                 ///< re total power
  std::optional<double> levelReLufsDb;  ///< re loudness; re the target where one is set
  double beyondDb = 0.0;                ///< of the latter: distance outside the references' span; 0 within
  /// What is in range without any tolerance, re the references' median: their span, or the target. Nothing
  /// where neither is known.
  std::optional<BandSpan> span;
  std::optional<double> toleranceDb;  ///< its own
  bool hasTarget = false;             ///< the target counts instead of the references
};
BandDifference bandDifference(const ProgrammeFacts& mix, const std::vector<ProgrammeFacts>& references,
                              const Band& band, std::optional<double> targetDb = {});
/// Of kBands.
std::vector<BandDifference> bandDifferences(const ProgrammeFacts& mix,
                                            const std::vector<ProgrammeFacts>& references);

}  // namespace heft
