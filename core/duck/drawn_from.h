#pragma once
/// A movement that was made otherwise, as a drawn curve.

#include <optional>
#include <span>

#include "core/duck/gain_curve.h"

namespace heft {

/// The curve that a gain draws after its triggers, averaged over them and with as few points as keep it within
/// 0.01 of that average in amplitude (Ramer 1972, Douglas and Peucker 1973, with the curve's own slopes instead
/// of lines), 24 at the most. Its length is that after which the average stays within 0.5 dB of 1, the shortest
/// gap at the most. What the gain does before a trigger (a look-ahead, a mirror) is left out. Nothing where no
/// trigger takes 0.5 dB.
std::optional<DrawnDip> drawnFrom(std::span<const float> gain, std::span<const Trigger> triggers,
                                  double sampleRate);

}  // namespace heft
