#pragma once
/// The fall of a kick's pitch, read from the moments at which its low band passes zero: in a tone that falls
/// by octaves within a few cycles nothing else shows the pitch, and amplitude does not move them.

#include <vector>

#include "core/measure/pitch/landing.h"
#include "core/sound/filter.h"

namespace heft {

/// Pitch of each whole cycle from the start of `base` (the onset) to `untilSeconds`, as far back as each
/// follows from the one after it. Seconds from the start of `base`.
std::vector<PitchPoint> pitchByCycles(const Decimated& base, double untilSeconds, double restHz);

/// The pitch at the onset. Fits an exponential or a straight fall to `noteHz` to the times of the zeros,
/// rising and falling ones each with an offset of their own, because partials make the halves of a cycle
/// unequal but alike in all cycles. After the fall the pitch may keep sliding at a constant rate. Where
/// neither fits, extrapolates from the first points of `path` (seconds as `onsetSeconds`). At most four
/// octaves above the note. `path` is not empty. Cost: half a millisecond.
double startOfFall(const Decimated& base, const std::vector<PitchPoint>& path, double noteHz,
                   double onsetSeconds);

}  // namespace heft
