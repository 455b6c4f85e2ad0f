#pragma once
/// Phase rotation without level change: a chain of second-order all-passes (Audio EQ Cookbook, R.
/// Bristow-Johnson, W3C note). It aligns where a delay cannot, and lowers peaks without losing loudness.

#include <array>
#include <complex>
#include <span>

#include "core/sound/buffer.h"
#include "core/sound/filter.h"

namespace heft {

/// Phase shift: none far below `hz`, 180 degrees at `hz`, 360 far above.
struct AllPass {
  bool on = false;
  double hz = 60.0;  ///< 10 to 1000
  double q = 0.7;    ///< 0.1 to 10: higher is narrower and rings longer
  bool operator==(const AllPass&) const = default;
};

struct Rotation {
  bool on = true;  ///< on or off as a whole
  std::array<AllPass, 4> stages{};
  bool operator==(const Rotation&) const = default;
  bool works() const;
};

/// Stages that are on; none where the rotation is off.
std::vector<Biquad::Coefficients> rotationSections(const Rotation& rotation, double sampleRate);
/// Complex gain at a frequency, of magnitude 1.
std::complex<double> rotationAt(const Rotation& rotation, double sampleRate, double hz);
/// Phase lag in degrees at a frequency, 0 to 360 for each stage.
double turnedDegrees(const Rotation& rotation, double sampleRate, double hz);
/// Group delay at a frequency, ms.
double groupDelayMs(const Rotation& rotation, double sampleRate, double hz);
/// Stages that align the bass: the first two. The other two lower peaks, on kick and bass alike.
Rotation aligningTurn(Rotation rotation);
/// Seconds until the impulse response has decayed to -120 dB.
double rotationSettles(const Rotation& rotation);

/// In place, from rest; same length: the ring-out past the end is cut.
void rotate(AudioBuffer& sound, const Rotation& rotation);

/// In place: shifts everything below 250 Hz by a constant phase (its analytic signal, the slope a raised
/// cosine of a third of an octave) and leaves the rest. The first 2 ms fade in. 0 and 360 change nothing.
void turnLows(AudioBuffer& sound, double degrees);

}  // namespace heft
