#pragma once
/// Tracks and their sections, as compare and reference read them.

#include "cli/commands.h"
#include "core/compare/section_profile.h"
#include "core/compare/track_profile.h"

namespace heft::cli {

/// A stretch of a track in seconds; nothing: whole, or proposed.
struct Stretched {
  double fromSeconds = 0.0, toSeconds = 0.0;
};
/// "A:B" in seconds, or in bars from 1 where a tempo is given. Errors: BadUsage, naming the text.
Result<std::optional<Stretched>> parseSection(const std::string& text, const std::optional<double>& tempoBpm,
                                              double firstBeatSeconds = 0.0);
/// Nothing of an empty text.
Result<std::optional<double>> parseOwnTempo(const std::string& text);

}  // namespace heft::cli
