#pragma once
/// Parts beside the pair and the key: what Tune shows of them, and how it brings them into the key.

#include <optional>
#include <vector>

#include "core/judge/ledger.h"
#include "core/tune/targets.h"

namespace heft {

/// The notes that a drum could land on, the least shift first, as for any sound; nothing for a part that
/// plays notes or has none.
std::vector<TuneTarget> partTargets(const Session& session, const Study& study, int part);

/// Whether a part plays hits and sounds off all notes of the key, by more cents than the ear resolves in a
/// short sound.
bool isOffKey(const Session& session, const Study& study, int part, const Limits& limits = {});

/// Tunes the part to that note; nothing for one that has no note or plays notes.
std::optional<Edit> tunePartTo(const Session& session, const Study& study, int part, int midi);

/// The id of the line that judges it: "part-3-key".
std::string partKeyLineId(int part);
/// Ids of those lines that still have a fix.
std::vector<std::string> openPartKeyLines(const Session& session, const std::vector<Finding>& findings);

}  // namespace heft
