#pragma once
/// Hand-set values that a change overwrites.

#include <string>
#include <vector>

#include "core/session/session.h"

namespace heft {

/// Values that are not at their default in `before` and differ in `after`, as people call them, each once:
/// "kick fade out 60 ms", "ducking depth 3 dB", "4 drawn ducking points". Omits levels, which add up, and
/// sounds, names, on/off switches and whole removals, which the fix's name tells; also the values of duckings
/// that are off. Pure.
std::vector<std::string> replacedBy(const Session& before, const Session& after);

/// What people call a value: its key's last part, without its unit.
std::string wordOfKey(const std::string& key);

/// Whether nothing was replaced, or only ducking depths: a set one only gets deeper or shallower.
bool keepsWhatWasSet(const Session& before, const Session& after);

}  // namespace heft
