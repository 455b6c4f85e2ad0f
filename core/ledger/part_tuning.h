#pragma once
/// Parts beside the pair and the key: what Tune shows of them, and how they are put in it.

#include <optional>
#include <vector>

#include "core/ledger/ledger.h"
#include "core/tune/targets.h"

namespace heft {

/// The notes that a drum could land on, the least shift first: as of any sound; nothing for a part that plays
/// notes, or in which no note was found.
std::vector<TuneTarget> partTargets(const Session& session, const Study& study, int part);

/// Whether a part plays hits and sounds on none of the key's notes, by more cents than a short sound is heard
/// to.
bool isOffKey(const Session& session, const Study& study, int part, const Limits& limits = {});

/// The part onto that note; nothing for one that has no note or plays notes.
std::optional<Edit> tunePartTo(const Session& session, const Study& study, int part, int midi);

/// The id of the line that judges it: "part-3-key".
std::string partKeyLineId(int part);
/// Ids of those lines that may still be mended.
std::vector<std::string> openPartKeyLines(const Session& session, const std::vector<Finding>& findings);

}  // namespace heft
