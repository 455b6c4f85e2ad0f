#pragma once
/// What the player plays: finished lanes, never changed once shared.

#include <array>
#include <memory>

#include "core/render/render.h"

namespace heft {

enum class Lane { Kick, Bass, Backing };
inline constexpr size_t kLanes = 3;

/// The same loop with its moves (after) and without them (before), at the device's rate.
struct LoopSnapshot {
  size_t frames = 0;
  double framesPerQuarter = 24000.0;
  std::array<Stem, kLanes> after, before;
  float beforeGain = 1.0f;  ///< matches Before's loudness to After's
};

/// Lanes of two renders, converted where the device's rate is not the session's. The level match compares the
/// energy of kick and bass together and stays within 12 dB.
std::shared_ptr<const LoopSnapshot> makeSnapshot(const Stems& after, const Stems& before,
                                                 double framesPerQuarter, double deviceRate);

/// A loop at another rate; its end still meets its start. Frames are rounded once.
Stem convertedLoop(const Stem& stem, double fromRate, double toRate);

}  // namespace heft
