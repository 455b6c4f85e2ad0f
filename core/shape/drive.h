#pragma once
/// Drive: a waveshaper at sixteen times the rate (shape/oversample.h), and rate reduction.
///
/// Every curve f has slope 1 at rest and is used as f(g x) / f(g) with the drive's gain g: full scale stays
/// full scale, softer parts are raised. All curves are smooth, so that their partials fall fast: aliases of a
/// full-scale tone at 2 kHz stay 80 dB under it.
///
/// Limited to a band, only that band (Butterworth, 24 dB an octave on each side) is driven and the rest,
/// which is exactly the sound less the band, is added back: an undriven sound comes back unchanged.

#include <array>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"
#include "core/theory/names.h"

namespace heft {

enum class DriveKind {
  Soft,    ///< x / sqrt(1 + x^2): rounds gently, odd partials
  Firm,    ///< x / (1 + x^4)^(1/4): clean, then bends
  Hard,    ///< x / (1 + x^8)^(1/8): clean, then flat
  Warm,    ///< soft about a shifted rest: even partials too
  Fold,    ///< sin(x): peaks fold back
  Hollow,  ///< x^3 / (1 + x^2): quiet parts thin out, loud ones stay
  Rise,    ///< blends in the wave's magnitude: its octave, as even partials
  Rate,    ///< every sample held: rate reduction, aliases wanted
};
inline constexpr std::array kAllDrives = {DriveKind::Soft, DriveKind::Firm,   DriveKind::Hard, DriveKind::Warm,
                                          DriveKind::Fold, DriveKind::Hollow, DriveKind::Rise, DriveKind::Rate};
template <>
inline constexpr std::array kWordsOf<DriveKind> = {"soft", "firm",   "hard", "warm",
                                                   "fold", "hollow", "rise", "rate"};
/// What people call it: "octave" for rise, else its name.
const char* driveWord(DriveKind kind);  ///< "soft"
/// Of either word.
Result<DriveKind> parseDrive(const std::string& text);

struct Drive {
  bool on = false;
  DriveKind kind = DriveKind::Soft;
  double inputDb = 0.0;               ///< gain before the curve, not compensated; -24 to 24
  double driveDb = 6.0;               ///< 0 to 30; for Rate the held rate falls from full to 1 / 64
  double mix = 1.0;                   ///< 0 to 1
  std::optional<double> fromHz = {};  ///< 20 to 10000: drives from there up; nothing: no lower edge
  std::optional<double> toHz = {};    ///< 20 to 20000: drives up to there; nothing: no upper edge
  double toneDb = 0.0;                ///< -24 to 24: a shelf above kToneHz on the driven band
  bool operator==(const Drive&) const = default;
  bool isHeldToBand() const { return fromHz || toHz; }
};
inline constexpr double kToneHz = 800.0;

/// The static curve, full scale kept. Meaningless for Rate.
double driveCurve(DriveKind kind, double driveDb, double x);
/// Every channel through it. Same length, same place. A curve that would leave an offset at rest leaves none.
void applyDrive(AudioBuffer& sound, const Drive& drive);

/// Drive's memory between stretches of a running sound.
struct DriveState {
  double offset = 0.0;               ///< of lopsided curves
  double untilNext = 0.0;            ///< Rate: frames until the next sample is held
  float held = 0.0f;                 ///< Rate: the held sample
  std::array<double, 10> filters{};  ///< of the band, where the stretch's surroundings begin, and of the tone
};
/// Frames of surroundings that a stretch's driven sound depends on, each way.
inline constexpr size_t kDriveReach = 256;
/// Whether the output depends on earlier input, beyond that reach.
bool driveRemembers(const Drive& drive);
/// One channel of a running sound: of `x` the `count` frames from `from` on, the rest being its surroundings.
/// Of one that remembers the next stretch's surroundings begin `count` frames after this one's.
std::vector<float> drivenPart(std::span<const float> x, size_t from, size_t count, const Drive& drive,
                              double sampleRate, DriveState& state);

}  // namespace heft
