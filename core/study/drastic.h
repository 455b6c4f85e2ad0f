#pragma once
/// What a fix asks before: more than most users expect from one press.

#include <optional>
#include <string>

#include "core/study/study.h"

namespace heft {

/// Limits beyond which a fix asks (docs/ledger.md); our own, except the shift, which is common practice.
inline constexpr double kDeepestUnaskedDb = 12.0;
inline constexpr double kFurthestUnaskedSemitones = 2.0;

/// The session's extremes in what a fix asks about.
struct Reach {
  double dipDb = 0.0;                ///< the deepest gain reduction of the bass at a hit, as a positive figure
  std::optional<double> kickTailMs;  ///< nothing without a kick
  double kickShift = 0.0;            ///< semitones, of the recorded kick layer with the largest shift
  std::optional<double> kickMidi;    ///< where the kick lands or sounds
};
Reach reachOf(const Session& session, const Study& study);

/// The question to confirm where `then` exceeds both `now` and the limits: "ducks the bass by 18 dB", "cuts
/// the kick to 63 ms, under a 1/16", "shifts the kick by 3.2 st", "moves the bass line by an octave"; empty:
/// nothing to ask. Pure.
std::string asksBefore(const Session& before, const Reach& now, const Session& after, const Reach& then);

}  // namespace heft
