#pragma once
/// Waves as sums of partials: band-limited at any pitch.

#include <numbers>
#include <string>

#include "core/voices/kick_voice.h"

namespace heft {

/// Radians.
inline constexpr double kTurn = 2.0 * std::numbers::pi;
/// Approximate peak of a voice at full velocity: leaves headroom for both parts at once.
inline constexpr float kVoiceLevel = 0.5f;

/// (1 - amount) sine + amount * wave, both with a fundamental of 1. `phase` in turns; `step` its rise per
/// frame: partials fade out between 0.35 and 0.45 of the rate, and there are at most 24.
double mixedWave(WaveKind kind, double amount, double phase, double step);

}  // namespace heft
