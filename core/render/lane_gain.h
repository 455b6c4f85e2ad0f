#pragma once
/// Gains of lanes: what the duckings that act on a lane make of it.

#include "core/duck/gain_curve.h"
#include "core/render/stem.h"
#include "core/session/session.h"

namespace heft {

/// A ducking with its times in ms and its triggers in frames of the loop.
struct ResolvedDuck {
  DrawnDip dip;
  std::vector<double> triggersFrames;
  std::optional<double> crossoverHz;
};

/// Its gain over the loop. A block's key holds the triggers whose dips reach into it and no others, so that a
/// hit that moves renews its neighbourhood.
Stem gainLane(const ResolvedDuck& duck, double rate, size_t frames, StepCache& cache);

/// All 1.
Stem gainAtRest(size_t frames, StepCache& cache);

/// The product of two gains.
Stem gainsTogether(const Stem& a, const Stem& b, StepCache& cache);

/// The dip with note values and "as its source" resolved. `sourceTailMs`: measured length of the ready source.
DrawnDip resolvedDip(const Duck& duck, double tempoBpm, double sourceTailMs);

}  // namespace heft
