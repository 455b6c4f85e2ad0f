#pragma once
/// The level across each hand-over from kick to bass. Used by study_hits.cpp.

#include "core/ledger/pair_lanes.h"
#include "core/ledger/study.h"
#include "core/render/crossings.h"

namespace heft {

/// Of the hit whose span it is, before the next strike is seen to come; nothing as HitFacts says.
std::optional<HandOverFacts> handOverAt(const PairLanes& lanes, const MeetingSpan& span,
                                        const Crossing& crossing, const HandOver& set, StepCache& cache);

}  // namespace heft
