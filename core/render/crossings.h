#pragma once
/// Where the kick hands over to the bass: hits whose next bass note starts before the next hit.

#include <optional>
#include <vector>

#include "core/session/session.h"

namespace heft {

/// One hit, and the phrase of the bass that starts after it.
struct Crossing {
  size_t hit = 0, phrase = 0;  ///< places in hitsInLoop() and phrasesOf()
  double afterSeconds = 0.0;   ///< from the hit to the note as both sound, their lanes' delays included
};

/// Of the pair, ascending; round the loop. A note that begins with a hit, to within 20 ms, or before the one
/// that follows it ends no tail and is none.
std::vector<Crossing> crossingsOf(const Session& session);

/// What the hand-over does to the events of one lane, by their place.
struct LaneFades {
  HandOver handOver;
  std::vector<std::optional<double>> outAfterSeconds;  ///< of hits: when they go out, after their onset
  std::vector<bool> in;                                ///< of phrases: whether they come in
  bool works() const { return handOver.on; }
};
/// Nothing for other parts and while it is out.
LaneFades fadesOf(const Session& session, const Part& part);

}  // namespace heft
