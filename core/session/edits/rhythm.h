#pragma once
/// Edits of when things play and how hard: lengths of all notes, small variations, a rhythm taken from
/// elsewhere.

#include "core/session/edits/edit.h"
#include "core/session/pattern_range.h"

namespace heft {

/// Each note of the part as long as until the next one, the last until the first comes round; ties stay.
Edit playLegato(const Part& part);
/// Each note shorter by that, and no shorter than a 128th.
Edit shortenNotes(const Part& part, double byQuarters);
/// Randomises velocities in the range by up to `velocity` (0 to 1) and starts by up to `ms`, both ways,
/// uniformly; the same seed gives the same result. Events keep their order and stay in the loop.
Edit varyRange(const PatternRange& range, double velocity, double ms, uint64_t seed);
/// Replaces the times and velocities of `to` by those of `from`. For notes: each on the pitch that sounded
/// there before (for an empty line its main note), as long as the source's note, or until the next hit, at
/// most half a beat.
Edit copyRhythm(const Part& from, const Part& to);
/// The layer plays at the hits or notes at which another of its part plays.
Edit copyLayerRhythm(const Part& part, int from, int to);

}  // namespace heft
