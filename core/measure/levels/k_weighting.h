#pragma once
/// The frequency weighting of ITU-R BS.1770-4, annex 1: a shelf for the head and a high-pass, and loudness
/// from weighted energies. For mixes whose gains are still being solved for, where libebur128 cannot help.

#include <array>
#include <optional>
#include <span>
#include <vector>

#include "core/sound/filter.h"

namespace heft {

/// The two sections at a sample rate. At 48 kHz they are the standard's table 1 and 2; at others the same
/// analogue filters.
std::array<Biquad::Coefficients, 2> kWeighting(double sampleRate);

/// Gated loudness in LUFS of blocks' mean squares (summed over channels, K-weighted): blocks under -70 LUFS and
/// those more than 10 LU under the rest do not count. Nothing where none counts.
std::optional<double> gatedLufs(std::span<const double> blockMeanSquares);
/// Indices of those that count.
std::vector<size_t> gatedBlocks(std::span<const double> blockMeanSquares);

}  // namespace heft
