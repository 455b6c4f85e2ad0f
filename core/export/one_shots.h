#pragma once
/// The one-shots that an export list asks for: of every part, of all its versions, of every note it plays.

#include <functional>

#include "core/render/lanes/render.h"

namespace heft {

struct OneShot {
  std::string name;   ///< "kick A1", "bass E1, Short"
  std::string what;   ///< "Kick, one-shot, lands on A1"
  AudioBuffer sound;  ///< as heard: finished, at its part's level, the bass in its polarity
  std::optional<RootNote> root;
};

/// Calls `each` for one after another; a part without a sound gives none. Layers muted by a version stay
/// audible where it would be silent otherwise. Cost: a render of each sound.
Result<void> eachOneShot(const Session& session, const Assets& assets, StepCache& cache,
                         const std::function<Result<void>(const OneShot&)>& each);

}  // namespace heft
