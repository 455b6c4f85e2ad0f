#pragma once
/// The best move of the bass against the kick within what may be moved: delay, polarity, rotation.
///
/// Method: with the cross spectrum of all hits the energy of the sum is known for any all-pass on the bass, for
/// an all-pass changes no magnitude; the energies under the region come from the curve of delays. Frequencies
/// and widths are searched on a grid (a sixth of an octave, widths by halves again), then by shrinking steps.
/// Among answers within 0.25 dB of the best the smallest delay wins, then the fewest stages; none is worse than
/// doing nothing.

#include <functional>

#include "core/align/align.h"

namespace heft {

/// Level of the pair, summed over its hits.
struct AlignMatter {
  AlignCurve curve;
  CrossSpectrum cross;
  double sampleRate = 48000.0;  ///< at which a rotation will run
};

/// Level of the sum under a move, re perfect phase, dB; nothing without overlap. Clamps a delay beyond the
/// curve's to its last.
double levelOf(const AlignMatter& matter, double delayMs, bool invert, const Rotation& rotation);

/// `progress`: 0 to 1; returning false cancels and keeps the best so far.
AlignAnswer solveAlignment(const AlignMatter& matter, const AlignFreedom& freedom,
                           const std::function<bool(double)>& progress = {});

}  // namespace heft
