#include "core/study/hit_sounds.h"

#include <map>
#include <set>

#include "core/session/moments.h"

namespace heft {
namespace {

using FactsPtr = std::shared_ptr<const SoundFacts>;

// A hit at a section's start belongs to it, though its frame may be a rounding error before.
constexpr double kRounding = 1e-6;

}  // namespace

void addHitSounds(PairFacts& pair, const Session& s, const SoundSteps& steps) {
  PartMoments kick(s, s.kick()), bass(s, s.bass());
  std::set<const Part*> kicks;
  std::map<std::pair<const Part*, int>, FactsPtr> basses;
  for (HitFacts& hit : pair.hits) {
    const double at = hit.frame / s.track.framesPerQuarter() + kRounding;
    if (kick.change()) {
      const Part& part = kick.at(at);
      if (kicks.size() < kMostHitSounds) kicks.insert(&part);
      const auto facts = kicks.contains(&part) ? steps.kickFacts(part, s.track) : nullptr;
      if (facts && facts != pair.kick.sound) hit.kickSound = facts;
    }
    if (!hit.noteMidi || (!bass.change() && hit.noteMidi == pair.bass.noteMidi)) continue;
    const std::pair<const Part*, int> key{bass.change() ? &bass.at(at) : &s.bass(), *hit.noteMidi};
    if (!basses.contains(key)) {
      if (basses.size() >= kMostHitSounds) continue;
      basses[key] = steps.bassFacts(*key.first, s.track, *hit.noteMidi);
    }
    if (basses[key] != pair.bass.sound) hit.bassSound = basses[key];
  }
}

}  // namespace heft
