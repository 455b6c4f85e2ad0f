#pragma once
/// What the player plays: finished lanes, never changed once shared.

#include <array>
#include <memory>

#include "engine/level_match.h"

namespace heft {

/// The same loop with its moves (after) and without them (before), at the device's rate.
struct LoopSnapshot {
  size_t frames = 0;
  double framesPerQuarter = 24000.0;
  std::array<Stem, kLanes> after, before;
  MatchGains beforeGains{};  ///< under which Before is as loud as Now, for each choice of heard lanes
};

/// Lanes of two renders, converted where the device's rate is not the session's, and matched (level_match.h).
std::shared_ptr<const LoopSnapshot> makeSnapshot(const Stems& after, const Stems& before,
                                                 double framesPerQuarter, double deviceRate, StepCache& cache);

/// A loop at another rate; its end still meets its start. Frames are rounded once.
Stem convertedLoop(const Stem& stem, double fromRate, double toRate);

}  // namespace heft
