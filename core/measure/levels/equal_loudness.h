#pragma once
/// Perceived loudness of a tone, and the part of a bass that a small speaker plays.
///
/// Equal-loudness contours after ISO 226:2003 (its table 1 and formulas 1 and 2); valid from 20 Hz to 12.5
/// kHz and 20 to 90 phon. Between the table's frequencies its parameters are interpolated along the logarithm
/// of frequency.

#include <optional>
#include <span>
#include <vector>

namespace heft {

/// Sound pressure level in dB of a tone that is as loud as `phon` dB at 1 kHz.
double levelForPhon(double hz, double phon);
/// Loudness level in phon of a tone of that sound pressure level; 0 where it is under the threshold.
double phonOf(double hz, double levelDb);
/// Threshold of hearing in dB.
double hearingThresholdDb(double hz);

/// A speaker of a laptop's size: nothing below about 200 Hz (24 dB per octave; common practice).
double smallSpeakerDb(double hz);

/// One partial of a tone on a small speaker.
struct PartialHeard {
  int number = 1;
  double hz = 0.0;
  std::optional<double> phon = {};  ///< nothing for a partial that is off
  bool audible = false;             ///< over 20 phon
};
/// Partials of a root, given their levels in dB re a full-scale tone that plays at `listeningDb` SPL (a
/// moderate level by default); nothing for one that is off.
std::vector<PartialHeard> heardOnSmallSpeaker(double rootHz, std::span<const std::optional<double>> partialDb,
                                              double listeningDb = 75.0);

/// Roots that sound heavy: E flat to G sharp, 38 to 53 Hz (common practice; the octave is our inference).
bool isHeavyRoot(double hz);

}  // namespace heft
