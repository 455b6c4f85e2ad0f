#pragma once
/// A mix beside references, loudness matched.

#include <array>
#include <optional>
#include <vector>

#include "core/measure/low_end.h"

namespace heft {

/// Mix minus the references' median; nothing where either has no loudness.
struct BandDifference {
  double levelDb = 0.0;                 ///< re total power
  std::optional<double> levelReLufsDb;  ///< re loudness
  double beyondDb = 0.0;  ///< of the latter: how far outside of what the references span; 0 within
};
std::array<BandDifference, kBands.size()> bandDifferences(const ProgrammeFacts& mix,
                                                          const std::vector<ProgrammeFacts>& references);

/// The references' median of the 1/24-octave curves (re total power), one per profileHz(); empty without
/// references.
std::vector<double> medianCurveDb(const std::vector<ProgrammeFacts>& references);

}  // namespace heft
