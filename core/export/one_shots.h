#pragma once
/// The one-shots that an export list asks for: of every part, of all its versions, of every note it plays.

#include <functional>

#include "core/render/render.h"

namespace heft {

struct OneShot {
  std::string name;   ///< "kick A1", "bass E1, Short"
  std::string what;   ///< "Kick, one-shot, lands on A1"
  AudioBuffer sound;  ///< as it is heard: finished, at its part's level, of a bass in its polarity
  std::optional<RootNote> root;
};

/// Calls `each` with one after the other; a part without a sound gives none. What a version has muted stays
/// heard where else nothing would be. As long as each sound takes to render.
Result<void> eachOneShot(const Session& session, const Assets& assets, StepCache& cache,
                         const std::function<Result<void>(const OneShot&)>& each);

}  // namespace heft
