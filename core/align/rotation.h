#pragma once
/// Turning phase without touching level: a chain of second-order all-passes (Audio EQ Cookbook, R.
/// Bristow-Johnson, W3C note). It aligns what a delay cannot, and lowers peaks at no cost in loudness.

#include <array>
#include <complex>
#include <span>

#include "core/sound/buffer.h"
#include "core/sound/filter.h"

namespace heft {

/// Far below `hz` the phase stays, at `hz` it is turned by 180 degrees, far above by 360.
struct AllPass {
  bool on = false;
  double hz = 60.0;  ///< 10 to 1000
  double q = 0.7;    ///< 0.1 to 10: how narrow the turn is, and how long it rings
  bool operator==(const AllPass&) const = default;
};

struct Rotation {
  bool on = true;  ///< all of it in or out
  std::array<AllPass, 4> stages{};
  bool operator==(const Rotation&) const = default;
  bool works() const;
};

/// Of the stages that are on; none where it does not work.
std::vector<Biquad::Coefficients> rotationSections(const Rotation& rotation, double sampleRate);
/// What a frequency is multiplied by: of magnitude 1.
std::complex<double> rotationAt(const Rotation& rotation, double sampleRate, double hz);
/// Degrees by which it falls behind at a frequency, 0 to 360 for each stage.
double turnedDegrees(const Rotation& rotation, double sampleRate, double hz);
/// By how much a frequency comes later, ms: the slope of its phase.
double groupDelayMs(const Rotation& rotation, double sampleRate, double hz);
/// What lines the bass up: the first two stages. The other two lower peaks, kick and bass alike.
Rotation aligningTurn(Rotation rotation);
/// Until what it remembers has died away to -120 dB.
double rotationSettles(const Rotation& rotation);

/// In place, from rest; same length, so that what rings on past the end is lost.
void rotate(AudioBuffer& sound, const Rotation& rotation);

/// In place: what lies below 250 Hz turned by a constant phase (its analytic signal, the slope a raised cosine
/// of a third of an octave), the rest as it is. The first 2 ms fade in. 0 and 360 change nothing.
void turnLows(AudioBuffer& sound, double degrees);

}  // namespace heft
