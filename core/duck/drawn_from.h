#pragma once
/// Another movement converted to a drawn curve.

#include <optional>
#include <span>

#include "core/duck/gain_curve.h"

namespace heft {

/// The average gain curve after the triggers, with as few points as keep it within 0.01 of that average in
/// amplitude (Ramer 1972, Douglas and Peucker 1973, with the curve's own slopes instead of lines), at most
/// 24. Its length: until the average stays within 0.5 dB of 1, at most the shortest gap. Ignores gain before
/// a trigger (lookahead, mirror). Empty where no trigger ducks by 0.5 dB.
std::optional<DrawnDip> drawnFrom(std::span<const float> gain, std::span<const Trigger> triggers,
                                  double sampleRate);

}  // namespace heft
