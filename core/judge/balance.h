#pragma once
/// Kick and bass levels that bring the low bands closest to the references: where both are out, moving one
/// lane alone helps neither.

#include <optional>

#include "core/judge/ledger.h"

namespace heft {

/// The smallest moves of kick and bass, -12 to 9 dB in half steps, that leave the least outside tolerance.
/// Treats lanes as incoherent and takes the sum's loudness as the weighted power of its bands (ITU-R
/// BS.1770-4, its second filter stage), ungated: a proposal that is tried before it is offered. Nothing
/// without backing and references, or where no move helps.
std::optional<LaneLevels> balanceToReferences(const Session& session, const Study& study, const Limits& limits);

}  // namespace heft
