#pragma once
/// Peaks that stick out of a sound's spectrum, as a drive leaves them: above the line through the other peaks
/// about them.

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
  double q = 4.0;       ///< its width at 3 dB down on both sides, 1.5 to 12
};
/// Reports peaks of 5 dB and more (our own limit).
inline constexpr double kStandsOutDb = 5.0;
/// Between `fromHz` and 8 kHz, within 45 dB of the loudest; the four that stick out most, by frequency. Needs
/// at least three other peaks about a peak: a lone tone and its octave report nothing.
std::vector<StandingOut> standingOut(const std::vector<double>& fine, double fromHz);
/// Height at a frequency above the line through the other peaks, peak or not; 0 where there are too few.
double standsOver(const std::vector<double>& fine, double hz, double fromHz);

}  // namespace heft
