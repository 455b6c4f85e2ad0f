#pragma once
/// The beat of a track from its low hits.

#include <optional>
#include <vector>

#include "core/compare/track_profile.h"

namespace heft {

/// Tempo by loop_tempo.h on an excerpt that starts at `excerptFrom` seconds of its track, then made exact on
/// its kick's `hits` (seconds of the excerpt): the tempo at which they fall best on sixteenths, by the
/// magnitude of their sum at the grid's frequency (as in loop_tempo.h); a whole number of BPM where that fits
/// as well (common practice). The bar starts where most of these agree: the track's first sound, its first low
/// hit, and the places where its low end comes in, from `lowDb` (a value each TrackProfile::kStepSeconds).
/// Nothing where fewer than half of the hits are on the grid.
std::optional<BeatGrid> findGrid(const AudioBuffer& excerpt, double excerptFrom,
                                 const std::vector<double>& hits, const std::vector<float>& lowDb);

}  // namespace heft
