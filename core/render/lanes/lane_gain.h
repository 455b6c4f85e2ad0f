#pragma once
/// Gains of lanes: a ducking's movement over the loop, and a lane with its duckings applied.

#include "core/duck/gain_curve.h"
#include "core/render/lanes/signal.h"
#include "core/session/session.h"

namespace heft {

/// The gain of a drawn curve over the loop. A block's key holds only the triggers whose dips reach into it,
/// so a moved hit renews only its neighbourhood.
Signal gainLane(const DrawnDip& dip, const std::vector<Trigger>& triggers, double rate, const Span& span,
                StepCache& cache);

/// All 1, or all that gain.
Signal gainAtRest(const Span& span, StepCache& cache, float gain = 1.0f);

/// The gain of a follower with the sidechain `heard` (its loudest channel). Each block is cached by its
/// sidechain and start state; the loop's seam continues from the end's state.
Signal followedGain(const Follower& follower, const Signal& heard, double rate, StepCache& cache);

/// The gain of a mirror; `isEnvelope`: the source is a level already, not a sound.
Signal mirroredGain(const Mirror& mirror, const Signal& source, bool isEnvelope, const Signal& target,
                    double rate, StepCache& cache);

/// Scales the gain reduction by an amount; exactly the gain at 1.
Signal gainAtAmount(const Signal& gain, double amount, StepCache& cache);

/// Their product, or the deeper of the two.
Signal gainsTogether(const Signal& a, const Signal& b, GainsMeet meet, StepCache& cache);

/// A lane with its duckings applied.
struct LaneGain {
  Signal gain;
  ActingBand band;
};
/// The lane with all of its duckings: gains of one band are combined first; bands are applied in order, then
/// full-range gains. `stood` and `move`: the lane before its move, and the move; lows are split before the
/// move and moved then, so they stay cached while a lane is dragged. Exactly `x` where every gain is 1.
Signal duckedLane(const Signal& x, const Signal& stood, const AlignMove& move, std::vector<LaneGain> gains,
                  GainsMeet meet, double rate, StepCache& cache);

/// The dip with note values, "as its source" and the rest resolved. `sourceTailMs`: measured length of the
/// ready source; nothing where it has none.
DrawnDip resolvedDip(const Duck& duck, double tempoBpm, std::optional<double> sourceTailMs);

}  // namespace heft
