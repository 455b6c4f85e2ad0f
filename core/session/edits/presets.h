#pragma once
/// Presets put to use.

#include "core/session/edits/edit.h"
#include "core/session/preset.h"
#include "core/session/value_at.h"

namespace heft {

/// Puts a preset where it belongs: a processor into the place of the one that `at` names, or to those of `at`
/// at its usual place; a list in place of those of `at`; a layer in place of the one that `at` names (or of the
/// part's first), whose place among hits, level and id stay; a part's sounds, processors and contour in place
/// of the part's, whose hits and notes stay. Its sounds are to be among the session's. Errors: BadUsage, saying
/// where such a preset goes.
Result<Edit> usePreset(const Session& session, const Owner& at, const Preset& preset,
                       const std::string& mergeKey = {});

/// What of the session a preset of it would hold.
Preset presetOf(const Session& session, const Owner& at);

}  // namespace heft
