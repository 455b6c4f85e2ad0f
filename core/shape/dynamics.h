#pragma once
/// Compressor, soft clip and limiter.
///
/// Compressor after Giannoulis, Massberg, Reiss, "Digital Dynamic Range Compressor Design", JAES 60(6), 2012:
/// log-domain detector, static curve with soft knee (their equation 4), smooth branching ballistics (equation
/// 17). Attack and release are times to 1 - 1/e. Upward compression uses the mirrored curve: below a
/// threshold of its own, by at most a set gain, and not below -70 dB, so that noise is not raised.

#include <vector>

#include "core/sound/buffer.h"

namespace heft {

inline constexpr double kMostMakeupDb = 24.0;  ///< and as far down

struct Compressor {
  bool on = false;
  double thresholdDb = -18.0;  ///< -60 to 0
  double ratio = 3.0;          ///< 1 to 100
  double kneeDb = 6.0;         ///< 0 to 40
  double attackMs = 5.0;       ///< 0 to 500
  double releaseMs = 60.0;     ///< 1 to 5000
  double makeupDb = 0.0;       ///< -kMostMakeupDb to kMostMakeupDb
  double mix = 1.0;            ///< 0 to 1, dry/wet
  double liftBelowDb = -30.0;  ///< -60 to 0: quieter parts are raised
  double liftRatio = 1.0;      ///< 1 (not at all) to 100
  double mostLiftDb = 12.0;    ///< 0 to 40
  bool operator==(const Compressor&) const = default;
};

/// Output level of the static curve at an input level, both dB, without makeup.
double compressedDb(const Compressor& c, double inputDb);
/// Below this nothing is raised, dB.
inline constexpr double kQuietestLiftedDb = -70.0;
/// Gain in dB, one value per frame, without makeup, for a level over time (dB per frame).
std::vector<double> compressorGainDb(const Compressor& c, const std::vector<double>& levelDb,
                                     double sampleRate);
/// One gain for all channels, from the loudest. For a running sound: continues from a reduction (dB; negative
/// while raising; 0 at rest) and leaves the final one.
void applyCompressor(AudioBuffer& sound, const Compressor& c, double& reductionDb);
void applyCompressor(AudioBuffer& sound, const Compressor& c);

struct SoftClip {
  bool on = false;
  double kneeDb = 3.0;      ///< 0.1 to 24: how far below the ceiling it starts to bend
  double ceilingDb = -0.5;  ///< -24 to 0
  bool truePeak = true;  ///< holds true peak within 0.1 dB; without it, as before version 6, samples may pass
  bool operator==(const SoftClip&) const = default;
};
/// Linear up to the knee, then bent towards the ceiling. At sixteen times the rate; overshoot of the
/// down-sampling filters is lowered to the ceiling (true_peak.h).
void applySoftClip(AudioBuffer& sound, const SoftClip& s);
/// Likewise for a running lane: only the removed part goes through the filters, so samples far from anything
/// loud pass unchanged, wherever a block ends.
void applyRunningSoftClip(AudioBuffer& sound, const SoftClip& s);
double softClipCurve(const SoftClip& s, double x);

struct Limiter {
  bool on = false;
  double ceilingDb = -0.5;  ///< -24 to 0
  double releaseMs = 50.0;  ///< 1 to 2000
  bool truePeak = true;     ///< holds true peak; without it, as before version 6, samples alone
  bool operator==(const Limiter&) const = default;
};
/// Nothing exceeds the ceiling, true peak within 0.1 dB: 2 ms of lookahead, a smooth ramp to each peak,
/// release by 1 - 1/e. One gain for all channels; no latency. Before a single sound the gain is already down
/// if its first 2 ms need it.
void applyLimiter(AudioBuffer& sound, const Limiter& l);

/// State of a limiter: its gain, and the input of the last 2 ms, the latest last.
struct LimiterState {
  double gain = 1.0;
  std::vector<double> held;  ///< limiterAhead() + 1 values; empty: at rest
};
/// Frames of lookahead.
size_t limiterAhead(double sampleRate);
/// Further frames that it reads on either side, for inter-sample peaks.
size_t limiterReach(const Limiter& l);
/// `count` frames of `sound` limited, `before` of them standing ahead as what went before (limiterReach() or 0
/// at a start) and those after them as what comes; the sound is cut to the count.
void limitPart(AudioBuffer& sound, size_t before, size_t count, const Limiter& l, LimiterState& state);

/// Gain reduction of each, dB per frame, 0 and up: a compressor's with its mix and without makeup, upward
/// gain counting as none; a clip's by its curve on the samples. States continue as in processing.
std::vector<float> takenDb(const AudioBuffer& sound, const Compressor& c, double& reductionDb);
std::vector<float> takenDb(const AudioBuffer& sound, const SoftClip& s);
std::vector<float> takenDb(const AudioBuffer& sound, size_t before, size_t count, const Limiter& l,
                           LimiterState& state);

}  // namespace heft
