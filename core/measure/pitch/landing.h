#pragma once
/// The note on which a kick, an 808 or a bass note lands, and its pitch path.
///
/// docs/measuring.md says how the method was chosen and how accurate it is.

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace heft {

/// One window of the pitch path.
struct PitchPoint {
  double seconds = 0.0;    ///< from the first sample of the sound, at the window's centre of energy
  double hz = 0.0;         ///< frequency of the fundamental
  double amplitude = 0.0;  ///< RMS of the fundamental over the window
};

struct LandingOptions {
  double lowHz = 20.0;    ///< search range of the landing
  double highHz = 400.0;  ///< at most kHighestBandHz; where it is not above lowHz nothing is found
  /// set by hand: its time on the path, from the sound's first sample; 0 to 60000. Off the path there is no
  /// landing, and the reason says where the path is
  std::optional<double> atMs;
  std::optional<double> atHz;  ///< named by hand: its pitch itself, 8 to kHighestBandHz; wins over atMs
  bool operator==(const LandingOptions&) const = default;
  bool byHand() const { return atMs || atHz; }
};
/// Claps and high snares have their note up to there.
inline constexpr double kHighestBandHz = 5000.0;

struct Landing {
  std::optional<double> hz;  ///< nothing where no landing can be claimed
  double confidence = 0.0;   ///< 0 to 1, from how long the path rests and how well tones explain it; hz from
                             ///< 0.5. 1 where it was named by hand
  /// Where a tone that can be followed is heard most, by amplitude: also where it slides and never lands.
  std::optional<double> heardHz;
  double heardConfidence = 0.0;  ///< 0 to 1, its own; heardHz from 0.5
  double slideCents = 0.0;  ///< how far the path moves once its fall is over, while within 20 dB of its loudest
  double startHz = 0.0;     ///< where the fall starts; 0 without a path
  double fallMs = 0.0;      ///< onset until the path first comes within 50 cents of the note
  std::vector<PitchPoint> path;  ///< wherever a tone can be followed
  std::string reason;            ///< why no landing is claimed

  /// The note that tuning uses: the landing, else where the sound is heard most; empty for noise, hats and
  /// silence.
  std::optional<double> noteHz() const { return hz ? hz : heardHz; }
  /// It can be followed and never rests.
  bool slides() const { return !hz && heardHz; }
};

/// "sure" (over 0.85), "fairly sure" (over 0.65), "unsure" (lower, still a note): the words for a confidence
/// everywhere.
const char* confidenceWord(double confidence);
/// The same of a landing, or of where it is heard; "no note" without either.
std::string confidenceWords(const Landing& landing);

/// The pitch of a path at a moment, between its points and held before and after them; nothing where it has
/// none.
std::optional<double> pathHzAt(const std::vector<PitchPoint>& path, double seconds);

/// `mono`: the sound; `onsetSeconds`: its start. Silence and noise give neither landing nor path; a tone that
/// slides gives a path and no landing, unless one was set by hand. Cost: about 3 ms for half a second, 20 ms
/// where the tone slides or there is none.
Landing measureLanding(std::span<const double> mono, double sampleRate, double onsetSeconds,
                       const LandingOptions& options = {});

/// The landing of the same sound trimmed to `seconds`: a trim changes the length and not the pitch, so its
/// note stays; a slide, or a cut before the pitch is within 60 cents of its rest, is heard where the
/// remainder is heard most. `options`: those it was measured with; hand-set values stay.
Landing keptUntil(Landing landing, double seconds, const LandingOptions& options = {});

}  // namespace heft
