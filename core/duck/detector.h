#pragma once
/// Finding kick hits in audio that may hold other drums.

#include <optional>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

struct DetectorOptions {
  double highCutHz = 100.0;             ///< 20 to 20000: only the band below triggers
  std::optional<double> lowCutHz = {};  ///< 20 to 20000, under the high cut: and above this
  double thresholdDb = -26.0;           ///< re the loudest moment in the band: lowest level that counts at
                                        ///< all
  double shortestGapMs = 60.0;          ///< between two triggers
};

/// The detector's judgement of a rise in level.
enum class HitVerdict {
  Hit,
  Doubtful,        ///< triggers, but may be another drum: see shareDb
  UnderThreshold,  ///< does not trigger; within 12 dB of the threshold
  TooSoon,         ///< does not trigger: within the shortest gap after another
  OtherDrum        ///< does not trigger: soft, with less of it in the band than strong hits have
};
struct FoundHit {
  double seconds = 0.0;
  double strengthDb = 0.0;  ///< peak level in the band, re the strongest
  double shareDb = 0.0;     ///< share of its power in the band, re the strong hits' median
  HitVerdict verdict = HitVerdict::Hit;

  bool fires() const { return verdict == HitVerdict::Hit || verdict == HitVerdict::Doubtful; }
};

struct HitSearch {
  std::vector<FoundHit> all;   ///< ascending; triggers and near misses
  std::vector<float> levelDb;  ///< in the band, each millisecond, re its loudest; not under -100
  double loudestDb = -100.0;   ///< that moment in dBFS; -100: silence
  /// Whether the band is busy between the hits too, as in a full mix: within 18 dB of its loudest for a third
  /// of the time. Hits may then be a bass's notes. Of 24 generated songs 21 are over that (0.44 to 0.91),
  /// their drum and kick stems at 0.09 to 0.13.
  bool isBusy = false;
};

/// The costly half: power in the band and in the one that low drums fill, each millisecond. Depends only on
/// the cuts.
struct HeardBand {
  std::vector<double> power, wide;  ///< empty: silence, or no frames
};
HeardBand listenTo(const AudioBuffer& audio, const DetectorOptions& options);

/// Method: power of the band (six poles) in 8 ms windows each millisecond; a candidate is a rise of 6 dB over
/// the last 25 ms to above the threshold. Other drums leave a little in the band too: a candidate more than
/// 10 dB under the strongest counts only if it has as much of its power in the band as the strong ones
/// (within 6 dB, of the power below 4.5 times the cut): a soft hit of the same drum. Doubtful: a soft one
/// within 3 dB of that limit, and a strong one beyond it. A hit's time is the steepest rise of the full-band
/// signal just before. Silence has no hits.
HitSearch searchHits(const AudioBuffer& audio, const HeardBand& band, const DetectorOptions& options);
HitSearch searchHits(const AudioBuffer& audio, const DetectorOptions& options = {});

/// Times of the triggers in seconds, ascending.
std::vector<double> findHits(const AudioBuffer& audio, const DetectorOptions& options = {});

/// Where music starts to count, seconds into it: its first low hit, else where it starts to sound. Nothing
/// for silence. Uses the first half minute.
std::optional<double> firstBeatSeconds(const AudioBuffer& audio);

}  // namespace heft
