#pragma once
/// How much compressors, soft clips and limiters take away, over the loop.

#include <stop_token>
#include <vector>

#include "core/render/sounds.h"
#include "core/render/stem.h"

namespace heft {

/// Figures over the loop that are 0 and up, the highest of each step.
struct LoopLine {
  static constexpr size_t kStepFrames = 64;
  size_t frames = 0;  ///< the loop's
  std::vector<float> steps;  ///< empty: 0 all along

  /// The highest over `count` frames from `first`, which may lie outside: it is a loop.
  float highest(int64_t first, size_t count) const;
};

/// Of a part, dB; empty where nothing that takes is in. In series what they take adds up; of layers that sound
/// beside each other it is the one that loses most. It lies where the part is heard, later by its delay. Where
/// `stop` was requested it is cut off.
LoopLine takenOf(const Session& session, const Part& part, const SoundSteps& steps, StepCache& cache,
                 const std::stop_token& stop = {});

/// By a chain that runs over `x`, as chainedLane() has it.
LoopLine takenOver(const Stem& x, const ReadyChain& chain, const std::vector<double>& strikeFrames,
                   double sampleRate, StepCache& cache);

}  // namespace heft
