#pragma once
/// Finding kick hits in audio that may hold other drums.

#include <optional>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

struct DetectorOptions {
  double highCutHz = 100.0;     ///< 20 to 1000: only what lies below fires it
  double thresholdDb = -26.0;   ///< re the loudest moment below the cut: what is considered at all
  double shortestGapMs = 60.0;  ///< between two triggers
};

/// Times in seconds at which a hit starts below the cut, ascending. Method: power of the low band (six poles)
/// in 8 ms windows each millisecond; a candidate is a rise of 6 dB over the last 25 ms to above the threshold.
/// Other drums leave a little below the cut too: of candidates more than 10 dB under the strongest those count that
/// have as much of their power below the cut as the strong ones (within 6 dB, of what lies below 4.5 times the cut):
/// soft strokes of the same drum. A hit's time is the steepest rise of the full-band signal just before. Empty for silence.
std::vector<double> findHits(const AudioBuffer& audio, const DetectorOptions& options = {});

/// Where music begins to count, seconds into it: its first low hit, else where it starts to sound. Nothing for
/// silence. Looks at the first half minute.
std::optional<double> firstBeatSeconds(const AudioBuffer& audio);

}  // namespace heft
