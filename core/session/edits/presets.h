#pragma once
/// Presets put to use.

#include "core/session/edits/edit.h"
#include "core/session/preset.h"
#include "core/session/value_at.h"

namespace heft {

/// Applies a preset: a processor replaces the one that `at` names, or is added to those of `at` at its
/// default position; a list replaces those of `at`; a layer replaces the one that `at` names (or the part's
/// first) and keeps its order among hits, level and id; a part's sounds, processors and contour replace the
/// part's, whose hits and notes stay. Its sounds must be among the session's. Errors: BadUsage, saying where
/// such a preset goes.
Result<Edit> usePreset(const Session& session, const Owner& at, const Preset& preset,
                       const std::string& mergeKey = {});

/// The preset that saving this part of the session would give.
Preset presetOf(const Session& session, const Owner& at);

}  // namespace heft
