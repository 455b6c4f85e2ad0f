#pragma once
/// The rested part of a sound: where its fundamental stays on one note. Used by landing.h.

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/measure/pitch/landing.h"
#include "core/sound/filter.h"

namespace heft {

struct RestedPart {
  std::optional<double> hz;  ///< the note on which the path rests
  std::vector<PitchPoint>
      points;               ///< windows of the rested part, seconds from the start of `base`; not empty with hz
  double confidence = 0.0;  ///< 0 to 1; hz only from 0.5
  std::string reason;
};

/// Evidence for a note, over the longest run of windows that stay within 25 cents of it.
struct Evidence {
  double runWindows = 0.0;  ///< its length in window lengths of 2.2 periods
  double trust = 0.0;       ///< median over the run: log10 of the tone's energy over the unexplained rest
  double low = 0.0;         ///< the tone's energy re all that `base` holds
};

/// A candidate note: where the path about it rests, and the evidence for it.
struct RestNear {
  double hz = 0.0;
  Evidence evidence;
  std::vector<PitchPoint> points;  ///< all windows, seconds from the start of `base`
};
/// Nothing where no tone stays within a few semitones of `hz`.
std::optional<RestNear> restNear(const Decimated& base, double hz);

/// `base` starts at the onset and keeps the band to at least 2.5 times `highHz`.
RestedPart findRest(const Decimated& base, double lowHz, double highHz);

}  // namespace heft
