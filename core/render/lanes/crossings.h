#pragma once
/// Hand-over from kick to bass: hits whose next bass note starts before the next hit.

#include <optional>
#include <vector>

#include "core/session/session.h"

namespace heft {

/// One hit, and the phrase of the bass that starts after it.
struct Crossing {
  size_t hit = 0, phrase = 0;  ///< places in hitsInLoop() and phrasesOf()
  double afterSeconds = 0.0;   ///< from the hit to the note as both sound, their lanes' delays included
};

/// Of the pair, ascending, wrapping around the loop. Not one: a note within 20 ms of a hit, or before the hit
/// after it, as it ends no tail.
std::vector<Crossing> crossingsOf(const Session& session);

/// Effect of the hand-over on the events of one lane, by index.
struct LaneFades {
  HandOver handOver;
  std::vector<std::optional<double>> outAfterSeconds;  ///< of hits: when they fade out, after their onset
  std::vector<bool> in;                                ///< of phrases: whether they fade in
  bool works() const { return handOver.on; }
};
/// Nothing for other parts and while it is off.
LaneFades fadesOf(const Session& session, const Part& part);

}  // namespace heft
