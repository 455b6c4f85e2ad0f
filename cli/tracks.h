#pragma once
/// Tracks and their sections, as compare and reference read them.

#include "cli/commands.h"
#include "core/compare/section_profile.h"
#include "core/compare/track_profile.h"
#include "core/session/reference.h"

namespace heft::cli {

/// "A:B" in seconds, or in bars from 1 where a tempo is given. Errors: BadUsage, naming the text.
Result<std::optional<Section>> parseSection(const std::string& text, const std::optional<double>& tempoBpm,
                                            double firstBeatSeconds = 0.0);
/// Nothing of an empty text.
Result<std::optional<double>> parseOwnTempo(const std::string& text);

}  // namespace heft::cli
