#pragma once
/// The built kick: a sine whose pitch follows a drawn fall onto its landing note, under a strike and a breath
/// of noise. In key by construction.

#include <array>
#include <string>
#include <vector>

#include "core/shape/drive.h"
#include "core/sound/buffer.h"
#include "core/theory/key.h"
#include "core/theory/names.h"
#include "core/theory/time_value.h"
#include "core/voices/strikes.h"

namespace heft {

/// A point of the fall. The segment that starts here may bend: 1 falls early and then eases in, -1 the other
/// way, 0 straight (in semitones over time).
struct FallPoint {
  double at = 0.0;          ///< 0 to 1, a fraction of the length; the first point's is 0
  double semitones = 24.0;  ///< above the landing, -24 to 60
  double bend = 0.55;       ///< -1 to 1
  bool operator==(const FallPoint&) const = default;
};

/// Waveform mixed into the sine.
enum class WaveKind { Triangle, Square, Saw };
inline constexpr std::array kAllWaves = {WaveKind::Triangle, WaveKind::Square, WaveKind::Saw};
template <>
inline constexpr std::array kWordsOf<WaveKind> = {"triangle", "square", "saw"};

struct NoiseBurst {
  bool on = false;
  double levelDb = -24.0;     ///< -80 to 0, peak re the body's
  double attackMs = 0.5;      ///< 0 to 100
  double lengthMs = 40.0;     ///< 1 to 1000, to -40 dB
  double lowCutHz = 400.0;    ///< 20 to 18000
  double highCutHz = 9000.0;  ///< 50 to 20000
  bool operator==(const NoiseBurst&) const = default;
};

struct KickVoice {
  double landingMidi = 33.0;  ///< 12 to 80 (16 to 831 Hz)
  TimeValue length = TimeValue::milliseconds(
      250.0);  ///< from the onset to -40 dB; 20 ms to 5 s. Its points are fractions of it
  std::vector<FallPoint> fall = std::vector<FallPoint>(1);  ///< 1 to 32 points, ascending, before `landingAt`
  double landingAt = 0.4;  ///< 0.02 to 1: where the fall has reached the landing
  WaveKind wave = WaveKind::Triangle;
  double waveAmount = 0.0;         ///< 0 (a sine) to 1
  double attackMs = 0.5;           ///< 0 to 50; a raised cosine, so that the body has no click of its own
  double hold = 0.08;              ///< 0 to 0.9 of the length at full level
  double decayBend = 0.0;          ///< -1 (at once, then long) to 1 (late); 0 falls evenly in dB
  double startPhaseDegrees = 0.0;  ///< 0 to 360
  Strike strike;
  NoiseBurst noise;
  Drive drive;
  double velocityToLevel = 1.0;   ///< 0 to 1
  double velocityToLength = 0.0;  ///< 0 to 1
  std::string unknown;            ///< keys of a session's file that this version does not know
  bool operator==(const KickVoice&) const = default;
};

/// Range of lengths, ms.
inline constexpr double kShortestKickMs = 20.0, kLongestKickMs = 5000.0;
/// Sets another length, within its range. Fall and hold keep their times as long as that leaves a tail (the
/// fall ends by the length's end at the latest); with `whole` everything scales.
void setKickLength(KickVoice& voice, const TimeValue& length, double tempoBpm, bool whole);

/// Semitones above the landing at a fraction of the length (0 to 1 and beyond).
double fallSemitones(const KickVoice& voice, double at);
/// Scale notes on which the fall could start: from a fifth to three octaves above the landing, low to high.
std::vector<int> startNotes(const KickVoice& voice, const Key& key);
/// Level of the body in dB re its peak at a fraction of the length, after the attack: 0 until `hold`, -40 at
/// 1.
double decayDb(const KickVoice& voice, double at);
/// The bend with which the decay passes that level half way, dB; -39 to -0.5.
double decayBendThrough(double halfWayDb);
/// Amplitude for a velocity (0 to 1) that counts by `amount`.
double velocityGain(double velocity, double amount);

/// One hit, mono, its onset at the first frame. The body's peak is at -6 dBFS before strike and noise; drive
/// gets it at full scale. Here `velocity` affects the length, not the level.
AudioBuffer renderKick(const KickVoice& voice, double tempoBpm, double a4Hz, double sampleRate,
                       double velocity = 1.0);

}  // namespace heft
