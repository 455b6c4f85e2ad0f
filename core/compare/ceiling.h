#pragma once
/// The sum at a stated loudness under a true-peak limiter: what its low end loses.

#include <optional>
#include <span>
#include <vector>

#include "core/measure/levels/low_end.h"
#include "core/sound/buffer.h"

namespace heft {

struct CeilingAsk {
  double lufs = -9.0;       ///< loudness before the limiter, -30 to -3
  double ceilingDb = -1.0;  ///< true peak, -24 to 0
  double releaseMs = 60.0;  ///< 1 to 2000
};

/// At one hit.
struct CeilingHit {
  double seconds = 0.0;
  double takenDb = 0.0;  ///< the most that is taken within the kick's body, 0 and up
  double lostDb =
      0.0;  ///< energy below 120 Hz over the kick's body, re the same with the gain alone: 0 or below
};

struct CeilingFacts {
  double gainDb = 0.0;
  AudioBuffer limited;         ///< the loop as it comes out
  std::vector<float> peakDb;   ///< of the raised loop, true peak each kStepMs, dBFS
  std::vector<float> takenDb;  ///< the most taken in each step
  std::vector<CeilingHit> hits;
  double lostDb = 0.0;  ///< below 120 Hz, over the loop
  std::optional<double> truePeakDbtp;
  static constexpr double kStepMs = 2.0;
};

/// Of a loop (`wraps`) in its steady state, or of a section. `hits`: seconds; `bodyMs`: the kick's body.
/// Nothing for silence. Cost: about 25 ms a second.
std::optional<CeilingFacts> underCeiling(const AudioBuffer& sum, bool wraps, const CeilingAsk& ask,
                                         const std::vector<double>& hits, double bodyMs);

/// What a limiter would take from the lows after each hit, estimated.
struct CeilingLoss {
  double lufs = 0.0, gainDb = 0.0;  ///< as asked
  std::vector<double> lostDb;       ///< at each hit: energy below 120 Hz over kBodyMs, 0 or below
  double medianDb = 0.0;
  size_t worst = 0;  ///< index of the hit that loses the most; in a study among all hits of the track
  static constexpr double kBodyMs = 100.0;
};
/// What the estimate reads of a sound.
struct CeilingParts {
  std::vector<double> peaks;      ///< the highest sample of each millisecond
  std::vector<double> lowEnergy;  ///< below 120 Hz, mid and side, at `lowRate`
  double lowRate = 1.0;
};
/// Squares of a stretch of mid or side at about kLowEndRate, from 20 to 120 Hz; `about` samples at both ends
/// are its surroundings and left out. kLowAbout of them leave out what is 50 dB lower.
inline constexpr size_t kLowAbout = 1200;
std::vector<double> lowSquares(std::span<const double> slow, double rate, size_t about = 0);
/// From the highest samples of each millisecond instead of a limiter on every sample: within 0.5 dB of
/// underCeiling(), at a twentieth of its cost. `hits`: seconds; a loop. Nothing without hits or sound.
std::optional<CeilingLoss> estimatedLoss(const CeilingParts& loop, const CeilingAsk& ask, double gainDb,
                                         const std::vector<double>& hits);

/// The same sound raised and limited alone.
AudioBuffer raisedAndLimited(const AudioBuffer& sum, bool wraps, const CeilingAsk& ask, double gainDb);

}  // namespace heft
