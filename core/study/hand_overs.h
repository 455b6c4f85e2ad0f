#pragma once
/// The level across each hand-over from kick to bass. Used by study_hits.cpp.

#include "core/render/lanes/crossings.h"
#include "core/study/pair_lanes.h"
#include "core/study/study.h"

namespace heft {

/// For the hit with that span, up to where the next strike shows; nothing in the cases HitFacts names.
std::optional<HandOverFacts> handOverAt(const PairLanes& lanes, const MeetingSpan& span,
                                        const Crossing& crossing, const HandOver& set, StepCache& cache);

}  // namespace heft
