#pragma once
/// Gain reduction of compressors, soft clips and limiters over the loop.

#include <stop_token>
#include <vector>

#include "core/render/lanes/signal.h"
#include "core/render/sounds/sounds.h"

namespace heft {

/// Figures over the loop, 0 and up, the highest of each step.
struct LoopLine {
  static constexpr size_t kStepFrames = 64;
  size_t frames = 0;         ///< the loop's
  std::vector<float> steps;  ///< empty: 0 throughout

  /// The maximum over `count` frames from `first`, which may be outside: it is a loop.
  float highest(int64_t first, size_t count) const;
};

/// Gain reduction of a part's processors, dB; empty without an active one. Adds up in series; for parallel
/// layers it is that of the layer with the most. At the part's audible time, including its delay. `stop` cuts
/// it short.
LoopLine takenOf(const Session& session, const Part& part, const SoundSteps& steps, StepCache& cache,
                 const std::stop_token& stop = {});

/// By a chain that runs over `x`, as chainedLane() has it.
LoopLine takenOver(const Signal& x, const ReadyChain& chain, const std::vector<double>& strikeFrames,
                   double sampleRate, StepCache& cache);

}  // namespace heft
