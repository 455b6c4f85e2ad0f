#pragma once
/// The demo and sessions made of it, rendered.

#include <gtest/gtest.h>

#include "core/render/lanes/render.h"
#include "engine/player/snapshot.h"
#include "scenario/make_demo.h"

namespace heft::reference {

inline const demo::Demo& theDemo() {
  static const demo::Demo demo = *demo::make();
  return demo;
}

inline Stems rendered(const Session& s, StepCache& cache) {
  auto stems = render(s, theDemo().assets, cache);
  EXPECT_TRUE(stems);
  return std::move(*stems);
}

/// A chain without sounds from elsewhere, ready to be applied.
inline ReadyChain readyOf(const Chain& chain) {
  const Assets none;
  StepCache cache;
  return SoundSteps(none, cache, 48000).ready(chain);
}

/// Two renders whose sums have no finish, as the player takes them.
inline std::shared_ptr<const LoopSnapshot> snapshotOf(const Stems& after, const Stems& before,
                                                      double framesPerQuarter, double deviceRate,
                                                      StepCache& cache) {
  return makeSnapshot({after, before, framesPerQuarter, deviceRate}, cache);
}

}  // namespace heft::reference
