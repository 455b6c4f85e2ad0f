#pragma once
/// How the two sides of a split layer meet, as they are heard.

#include "core/render/sounds.h"
#include "core/session/session.h"
#include "core/shape/sides.h"

namespace heft {

/// Of the cut that the layer is one side of, with what is done to both, their levels and polarities; nothing
/// for a whole layer, where the other side is gone or where a sound is missing.
std::optional<JointFacts> jointOf(const Part& part, const Layer& layer, const Track& track,
                                  const SoundSteps& steps, StepCache& cache);

}  // namespace heft
