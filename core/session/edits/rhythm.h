#pragma once
/// Edits of when things play and how hard: lengths of all notes, small variations, a rhythm taken from elsewhere.

#include "core/session/edits/edit.h"
#include "core/session/pattern_range.h"

namespace heft {

/// Each note of the part as long as until the next one, the last until the first comes round; ties stay.
Edit playLegato(const Part& part);
/// Each note shorter by that, and no shorter than a 128th.
Edit shortenNotes(const Part& part, double byQuarters);
/// Velocities of what lies in the range changed by up to `velocity` (0 to 1) and starts by up to `ms`, both ways and
/// evenly spread; the same seed gives the same. No two events change places, none leaves the loop.
Edit varyRange(const PatternRange& range, double velocity, double ms, uint64_t seed);
/// The moments and velocities of `from` in place of those of `to`. Into notes: each on the pitch that sounded there
/// before (of an empty line its main note), as long as the source's note, or until the next hit, half a beat at the most.
Edit copyRhythm(const Part& from, const Part& to);
/// The layer plays at the hits or notes at which another of its part plays.
Edit copyLayerRhythm(const Part& part, int from, int to);

}  // namespace heft
