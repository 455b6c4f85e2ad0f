#pragma once
/// Cuts and bands of EQ: second-order sections after the Audio EQ Cookbook (R. Bristow-Johnson, W3C note).

#include <array>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"
#include "core/sound/filter.h"
#include "core/theory/names.h"

namespace heft {

/// Cut of 12, 24, 36 or 48 dB per octave: Butterworth, -3 dB at `hz`; a resonance raises that point.
struct Cut {
  bool on = false;
  double hz = 100.0;          ///< 10 to 20000
  int slopeDbPerOctave = 24;  ///< 12, 24, 36 or 48
  double resonanceDb = 0.0;   ///< 0 to 18
  bool operator==(const Cut&) const = default;
};

struct EqBand {
  enum class Kind { Bell, LowShelf, HighShelf, Notch };
  bool on = false;
  Kind kind = Kind::Bell;
  double hz = 100.0;    ///< 10 to 20000
  double gainDb = 0.0;  ///< -30 to 30; a notch has none
  double q = 1.0;       ///< 0.1 to 30
  bool operator==(const EqBand&) const = default;
};
template <>
inline constexpr std::array kWordsOf<EqBand::Kind> = {"bell", "low shelf", "high shelf", "notch"};

struct Eq {
  bool on = true;  ///< bypasses all of it when off
  Cut lowCut{false, 30.0, 24}, highCut{false, 8000.0, 24};
  std::array<EqBand, 4> bands{};
  double amount = 1.0;       ///< 0 to 1.5 times each band's gain; cuts and notches stay
  bool linearPhase = false;  ///< linear phase: no phase shift, but pre-ringing before a strike
  bool operator==(const Eq&) const = default;
  /// Whether it changes anything.
  bool works() const;
  /// Switched on, with a low cut at that frequency or higher.
  void cutBelow(double hz, int slopeDbPerOctave);
};

/// Its sections at a sample rate. Frequencies at or above 0.49 of the rate leave a cut above out and end bands
/// there.
std::vector<Biquad::Coefficients> eqSections(const Eq& eq, double sampleRate);
/// Magnitude in dB at a frequency.
double eqResponseDb(const Eq& eq, double sampleRate, double hz);
/// Phase shift at a frequency, degrees from -180 to 180: the sum of the sections' arguments; 0 for linear
/// phase.
double eqTurnDegrees(const Eq& eq, double sampleRate, double hz);

/// Its places in the order of the file: the cut below, four bands, the cut above.
inline constexpr size_t kEqPlaces = 6;
bool isPlaceOn(const Eq& eq, size_t place);
double placeHz(const Eq& eq, size_t place);
/// The same EQ with only that slot.
Eq onlyPlace(const Eq& eq, size_t place);

/// The longest ringing of linear phase on either side; truncates longer ringing.
inline constexpr double kLongestRingSeconds = 0.5;
/// A linear-phase impulse response with the EQ's magnitudes: an odd number of samples, symmetric, long enough
/// for magnitudes within 1e-4 of full scale. The sampled magnitudes transformed back (A. V. Oppenheim, R. W.
/// Schafer, Discrete-Time Signal Processing, "Design of FIR filters by windowing", a zero-phase response).
/// Cost: one transform of 1.4 s.
std::vector<float> linearPhaseResponse(const Eq& eq, double sampleRate);

/// Runs every channel through the sections, from silence, whichever phase is set. Same length.
void applyEq(AudioBuffer& sound, const Eq& eq);

}  // namespace heft
