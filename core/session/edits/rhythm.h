#pragma once
/// Edits of timing and velocity: lengths of all notes, small variations, a rhythm copied from elsewhere.

#include "core/session/edits/edit.h"
#include "core/session/pattern_range.h"

namespace heft {

/// Extends each note of the part to the next one, the last to the first across the loop; ties stay.
Edit playLegato(const Part& part);
/// Shortens each note by that, but not below a 128th.
Edit shortenNotes(const Part& part, double byQuarters);
/// Randomises velocities in the range by up to `velocity` (0 to 1) and starts by up to `ms`, both ways,
/// uniformly; the same seed gives the same result. Events keep their order and stay in the loop.
Edit varyRange(const PatternRange& range, double velocity, double ms, uint64_t seed);
/// Replaces the times and velocities of `to` by those of `from`. Notes get the pitch that sounded there
/// before (in an empty line its main note) and the source note's length, or last until the next hit, at most
/// half a beat.
Edit copyRhythm(const Part& from, const Part& to);
/// Makes the layer play at the hits or notes at which another layer of its part plays.
Edit copyLayerRhythm(const Part& part, int from, int to);

}  // namespace heft
