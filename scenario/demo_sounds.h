#pragma once
/// The made-up sounds of the demo scenario, computed bit for bit the same on every run.

#include "core/sound/buffer.h"

namespace heft::demo {

inline constexpr double kRate = 48000.0;

/// A kick that lands on `landingHz` out of a fall of two octaves, with a wooden tick; `tailMs` to -40 dB.
AudioBuffer kick(double landingHz, double tailMs);
/// A long driven low hit with a short dive at its start. `startPhase` in radians.
AudioBuffer lowHit(double hz, double seconds, double startPhase);
/// Two bars of salt-pan percussion and a drone chord in A minor without lows, stereo.
AudioBuffer backing(double tempoBpm, int quarters, int up = 0);

}  // namespace heft::demo
