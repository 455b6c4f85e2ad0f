#pragma once
/// The rested part of a sound: where its fundamental stays on one note. Used by landing.h.

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/measure/landing.h"
#include "core/sound/filter.h"

namespace heft {

struct RestedPart {
  std::optional<double> hz;  ///< where the path comes to rest
  std::vector<PitchPoint>
      points;               ///< windows of the rested part, seconds from the start of `base`; not empty with hz
  double confidence = 0.0;  ///< 0 to 1; hz only from 0.5
  std::string reason;
};

/// `base` starts at the onset and keeps the band to at least 2.5 times `highHz`.
RestedPart findRest(const Decimated& base, double lowHz, double highHz);

}  // namespace heft
