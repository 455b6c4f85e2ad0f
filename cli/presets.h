#pragma once
/// Presets on the command line.

#include <string>
#include <vector>

#include "core/session/preset.h"

namespace heft::cli {

/// Applies presets to a session in order: "WHERE=PRESET". WHERE: kick, bass, a part by its name, sum, or a
/// layer of a part by its number ("kick/2"). PRESET: a file, or the name of one of the user's own or of those
/// that ship. A processor is added at its default position; a list, a layer and a part replace what is there.
/// Errors: BadUsage, naming the option; Unreadable.
Result<void> usePresets(Session& session, Assets& assets, const std::vector<std::string>& words);

}  // namespace heft::cli
