#pragma once
/// What a lane looks like: the lowest and the highest sample of each short step, so that a song is drawn
/// without its samples.

#include <stop_token>
#include <utility>
#include <vector>

#include "core/render/lanes/lane_steps.h"

namespace heft {

struct LaneWave {
  static constexpr size_t kStepFrames = 64;
  size_t frames = 0;
  std::vector<std::pair<float, float>> steps;  ///< of the channel to draw (drawnOf())
  LanePeak peak;

  /// Lowest and highest from frame `from` to before `to`, by whole steps; 0 outside.
  std::pair<float, float> range(int64_t from, int64_t to) const;
};

/// The figures of one block into the cache.
void waveOfBlock(const Signal& x, size_t b, const StepCache& cache);

/// Block by block, so only new blocks are read. Cost: a pass over what is new. Where `stop` was requested the
/// rest is silent.
LaneWave waveOf(const Signal& x, const StepCache& cache, const std::stop_token& stop = {});

}  // namespace heft
