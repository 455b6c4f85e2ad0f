#pragma once
/// Which note partials speak for: harmonics of a missing fundamental, a plucked string's thump, two tones side
/// by side. Used by rest.h alone.

#include <optional>

#include "core/measure/pitch/landing.h"
#include "core/measure/pitch/rest_windows.h"

namespace heft::resting {

/// Strength of resting tones at the multiples 2 to 6 of `hz`, and the pitch that they give.
struct Comb {
  double support = 0.0, hz = 0.0;
  int partials = 0;  ///< multiples seen in at least half of the windows
};

Comb combAt(const std::vector<Window>& windows, double hz);

/// 2 or 3 where the strongest resting tone is that harmonic of the note; else 1.
int harmonicNumber(const std::vector<Window>& windows, double strongest, double lowHz);
/// Three partials that agree on another note within a third of `hz`; empty where there are none.
std::optional<double> noteOfPartials(const std::vector<Window>& windows, double hz);
/// Whether `hz` is a harmonic of `fundamental`.
bool isPartialOf(double fundamental, double hz);
/// The lower of two tones that rest side by side through most of a sound; nothing where there are no two.
std::vector<PitchPoint> lowerOfTwo(const std::vector<Window>& windows, double windowFrames, double lowHz,
                                   double highHz);

}  // namespace heft::resting
