#pragma once
/// A sound split at a cut into strike and body, which add up to it sample for sample.

#include <string>

#include "core/result.h"
#include "core/sound/buffer.h"
#include "core/theory/names.h"

namespace heft {

enum class Side { Whole, Strike, Body };
template <>
inline constexpr std::array kWordsOf<Side> = {"whole", "strike", "body"};

inline constexpr double kLeastCutMs = 1.0, kMostCutMs = 500.0, kLeastJoinMs = 0.0, kMostJoinMs = 50.0;

/// Which side a layer plays, and the cut. Both sides of one cut have the same.
struct SoundSide {
  Side side = Side::Whole;
  int otherLayer = 0;   ///< id of the other side's layer, which may be missing
  double atMs = 12.0;   ///< after the onset, kLeastCutMs to kMostCutMs
  double joinMs = 4.0;  ///< crossfade about the cut; kLeastJoinMs to kMostJoinMs
  bool operator==(const SoundSide&) const = default;
};

/// One side, as long as the sound; the strike's end is cut off behind its silence. The gains of both sides are
/// raised cosines that add up to 1, and each sample of the strike is rounded so that the two sides add up to
/// the sound's own bits. A sound that ends before the cut is all strike.
AudioBuffer sideOf(const AudioBuffer& sound, Side side, double cutSeconds, double joinSeconds);

/// End of a drum's strike, ms after its onset: from then on everything above 800 Hz stays 20 dB under its
/// peak. Between 3 and 40 ms; 12 without content there.
double strikeEndMs(const AudioBuffer& sound, double onsetSeconds);

/// How two sides meet.
struct JointFacts {
  double notchDb = 0.0;  ///< the lowest level below 150 Hz within a cycle of the cut, against that of both
                         ///< sides' own; 0 or below
  double clickDb = 0.0;  ///< level of the sum above 2 kHz at the cut over the louder side alone; 0 or above
};
/// `strike` and `body`: the uncut sides as heard, at the same onset; `sum`: of both after the cut. Silence
/// joins without a fault.
JointFacts measureJoint(const AudioBuffer& sum, const AudioBuffer& strike, const AudioBuffer& body,
                        double cutSeconds, double joinSeconds);

}  // namespace heft
