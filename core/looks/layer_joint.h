#pragma once
/// How the two sides of a split layer join, as heard.

#include "core/render/sounds/sounds.h"
#include "core/session/session.h"
#include "core/shape/sides.h"

namespace heft {

/// Of the split that the layer belongs to, with both sides' processing, levels and polarities; empty for a
/// whole layer, or where the other side or a sound is missing.
std::optional<JointFacts> jointOf(const Part& part, const Layer& layer, const Track& track,
                                  const SoundSteps& steps, StepCache& cache);

}  // namespace heft
