#pragma once
/// What the kick does in the sum, as it is measured in a reference's mix.

#include "core/compare/dip_in_mix.h"
#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/render.h"

namespace heft {

struct PairFigures {
  std::optional<Told> kickMs;        ///< how long the kick stands (kickLengthMs), of all hits together
  std::optional<Told> kickToBassDb;  ///< kickToBass() of the sum
};

/// Of the lanes as heard; the level re the bass over `range`, where there is one. Nothing without a kick. Kept
/// in the cache. Cost: some 10 ms a second.
PairFigures pairFiguresOf(const Stems& stems, const std::optional<FrameRange>& range, StepCache& cache);

}  // namespace heft
