#pragma once
/// What sticks out of a sound's spectrum, as a drive leaves it: peaks that stand over the line through the
/// other peaks about them.

#include <span>
#include <vector>

namespace heft {

/// Levels by 24ths of an octave from kFineLowHz up, dB.
inline constexpr double kFineLowHz = 40.0;
inline constexpr int kFinePerOctave = 24;
double fineHz(size_t i);
/// Mean power in each 24th up to 16 kHz or 0.45 of the rate, dB, of the first second, faded in over 5 ms and
/// out over its last fifth. Silence: all at -200.
std::vector<double> fineSpectrum(std::span<const double> samples, double sampleRate);

struct StandingOut {
  double hz = 0.0;
  double overDb = 0.0;  ///< over the line through the other peaks within an octave either way
  double q = 4.0;       ///< as wide as it is 3 dB down on both sides, 1.5 to 12
};
/// A peak of 5 dB and more is told (our own limit).
inline constexpr double kStandsOutDb = 5.0;
/// Between `fromHz` and 8 kHz, within 45 dB of the loudest there is; the four that stand out most, by
/// frequency. At least three others must stand about a peak: below that nothing is said, as of a lone tone and
/// its octave.
std::vector<StandingOut> standingOut(const std::vector<double>& fine, double fromHz);
/// What stands at a frequency over the line that the others make, whatever its height; 0 where nothing is said.
double standsOver(const std::vector<double>& fine, double hz, double fromHz);

}  // namespace heft
