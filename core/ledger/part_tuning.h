#pragma once
/// Parts beside the pair and the key: what Tune shows of them, and the move that tunes them as a kit is tuned.

#include <optional>
#include <vector>

#include "core/ledger/ledger.h"
#include "core/tune/targets.h"

namespace heft {

/// The notes that a drum could land on, the least shift first: as of any sound; nothing for a part that plays
/// notes, or in which no note was found.
std::vector<TuneTarget> partTargets(const Session& session, const Study& study, int part);

/// Parts that play hits and whose note is none of the key's, by more cents than a short sound is heard to.
std::vector<int> partsOffKey(const Session& session, const Study& study, const Limits& limits = {});

/// Each of them onto the note that it needs least for (easiestTarget()).
Edit tunePartsToKey(const Session& session, const Study& study, const Limits& limits = {});

}  // namespace heft
