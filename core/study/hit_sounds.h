#pragma once
/// The pair's sounds as single hits have them, where sections or automation change them.

#include "core/study/study.h"

namespace heft {

/// Sets kickSound and bassSound of each hit of the pair: the kick as its section's version and automated
/// values make it, and the bass at the note under it. Nothing where they are the pair's own. Cost: a landing
/// (some 4 ms) for each sound that differs, cached; the first kMostHitSounds of each.
void addHitSounds(PairFacts& pair, const Session& session, const SoundSteps& steps);
inline constexpr size_t kMostHitSounds = 256;

}  // namespace heft
