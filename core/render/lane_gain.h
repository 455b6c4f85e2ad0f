#pragma once
/// Gains of lanes: what a ducking's movement comes to over the loop, and what the duckings that act on a lane
/// make of it.

#include "core/duck/gain_curve.h"
#include "core/render/stem.h"
#include "core/session/session.h"

namespace heft {

/// The gain of a drawn curve over the loop. A block's key holds the triggers whose dips reach into it and no
/// others, so that a hit that moves renews its neighbourhood.
Stem gainLane(const DrawnDip& dip, const std::vector<Trigger>& triggers, double rate, size_t frames,
              StepCache& cache);

/// All 1, or all that gain.
Stem gainAtRest(size_t frames, StepCache& cache, float gain = 1.0f);

/// The gain of a follower that hears `heard` (its loudest channel). Each block is found again by what it hears
/// and by the state it starts from; over the loop's seam it goes on from what the end left.
Stem followedGain(const Follower& follower, const Stem& heard, double rate, StepCache& cache);

/// The gain of a mirror; `isEnvelope`: the source is a level as it is, not a sound whose lows count.
Stem mirroredGain(const Mirror& mirror, const Stem& source, bool isEnvelope, const Stem& target, double rate,
                  StepCache& cache);

/// So much of what it takes away is taken away; exactly the gain at 1.
Stem gainAtAmount(const Stem& gain, double amount, StepCache& cache);

/// Their product, or the deeper of the two.
Stem gainsTogether(const Stem& a, const Stem& b, GainsMeet meet, StepCache& cache);

/// What a lane's duckings make of it.
struct LaneGain {
  Stem gain;
  ActingBand band;
};
/// The lane with all of them: gains of one band meet first; bands are taken one after the other, then what acts
/// on all of it. `stood` and `move`: the lane before it was moved, and how; lows are taken from what stood
/// still and moved then, so that they stay as they are while a lane is dragged. Exactly `x` where every gain
/// is 1.
Stem duckedLane(const Stem& x, const Stem& stood, const AlignMove& move, std::vector<LaneGain> gains,
                GainsMeet meet, double rate, StepCache& cache);

/// The dip with note values, "as its source" and the rest resolved. `sourceTailMs`: measured length of the
/// ready source; nothing where it has none.
DrawnDip resolvedDip(const Duck& duck, double tempoBpm, std::optional<double> sourceTailMs);

}  // namespace heft
