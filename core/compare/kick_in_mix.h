#pragma once
/// The kick of a finished mix: its hits, its sound and its length.

#include <cmath>
#include <optional>
#include <stop_token>
#include <vector>

#include "core/measure/levels/low_end.h"
#include "core/measure/pitch/landing.h"

namespace heft {

/// Whole frames of a stretch, the nearest.
inline size_t framesIn(double seconds, double rate) {
  return static_cast<size_t>(std::lround(seconds * rate));
}

struct KickInMix {
  std::vector<double> hits;       ///< seconds from the section's start, ascending
  std::vector<double> strengths;  ///< amplitude of each, re the typical one
  double alike = 0.0;             ///< 0 to 1: correlation of a typical hit with the kick that was found
  /// The kick as all hits have it in common: what plays otherwise averages out. From kLeadSeconds before the
  /// hit, at `rate`.
  std::vector<double> sound;
  double rate = 1.0;
  static constexpr double kLeadSeconds = 0.06, kSoundSeconds = 0.56;
  /// Until the low band is the bass's again: 20 to 130 Hz, the kick holds less than half of its power, or is 20
  /// dB under its peak.
  double lengthMs = 0.0;
  Landing landing;  ///< of `sound`, over that length
};

/// Method: rises of the low band are compared with each other by their waveform (their correlation, within 12
/// ms), and those that are alike are averaged in step. Sounds that repeat sample by sample, as a programmed
/// kick does, add up; the bass under them, at another pitch and phase each time, does not. Each average is
/// then searched for in the whole section by a matched filter, twice, and of all of them the kick is the one
/// with the most power below 140 Hz that comes from silence and decays. Nothing where fewer than four hits are
/// alike, where they fill the time between them, or for silence. `low`: a section at about 3 kHz
/// (lowEndPartsOf); loops are read once. docs/measuring.md has its hit rates. Cost: about 20 ms a second.
std::optional<KickInMix> findKick(const LowEndParts& low, const std::stop_token& stop = {});

/// From a hit until the kick holds less than half of all power, or is 20 dB under its peak. Both smoothed, from
/// the hit on, of one length; 0 of none.
double kickLengthMs(const std::vector<double>& kick, const std::vector<double>& all, double rate);

}  // namespace heft
