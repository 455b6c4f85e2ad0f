#pragma once
/// Levels of kick and bass beside the backing with which the low bands come closest to the references: where
/// both are out, no move of one lane alone makes the whole better.

#include <optional>

#include "core/ledger/ledger.h"

namespace heft {

/// The smallest moves of kick and bass, -12 to 9 dB by halves, among those that leave the least outside. Lanes
/// are taken as incoherent and the loudness of the sum as the weighted power of its bands (ITU-R BS.1770-4, its
/// second filter stage), without its gate: a proposal, which is tried before it is offered. Nothing without
/// backing and references, or where no move helps.
std::optional<LaneLevels> balanceToReferences(const Session& session, const Study& study, const Limits& limits);

}  // namespace heft
