#pragma once
/// Levels of kick and bass beside the backing with which the low bands come closest to the references: where
/// both are out, no move of one lane alone makes the whole better.

#include <optional>

#include "core/ledger/ledger.h"

namespace heft {

struct Balance {
  double kickDb = 0.0, bassDb = 0.0;  ///< by how much each moves, -12 to 9, whole and half dB
};

/// The smallest moves among those that leave the least outside. Lanes are taken as incoherent and the loudness
/// of the sum as the weighted power of its bands (ITU-R BS.1770-4, its second filter stage), without its gate:
/// a proposal, which is tried before it is offered. Nothing without backing and references, or where no move
/// helps.
std::optional<Balance> balanceToReferences(const Study& study, const Limits& limits);

}  // namespace heft
