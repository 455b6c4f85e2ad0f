#pragma once
/// What a change overwrites that somebody had set by hand.

#include <string>
#include <vector>

#include "core/session/session.h"

namespace heft {

/// Values that are not at their default in `before` and differ in `after`, as people call them, each once:
/// "kick fade out 60 ms", "ducking depth 3 dB", "4 drawn ducking points". Levels, sounds, names, switches that
/// say on or off and what is gone as a whole are left out: levels add up, the rest is in the fix's name. Values
/// of duckings that are off are left out. Pure.
std::vector<std::string> replacedBy(const Session& before, const Session& after);

/// Whether nothing was replaced, or depths of duckings alone: one that is set only goes deeper or less deep.
bool keepsWhatWasSet(const Session& before, const Session& after);

}  // namespace heft
