#pragma once
/// Auditions a sound outside the loop.

#include <memory>

#include "core/sound/buffer.h"

namespace heft {

struct Audition {
  std::shared_ptr<const AudioBuffer> sound;  ///< at the device's rate
  double gain = 1.0;  ///< brings its first 300 ms to -20 dBFS RMS, and its peak no higher than 0.95
};

/// Auditions play equally loud. Costs a conversion where the rates differ, so make it aside.
Audition auditionOf(std::shared_ptr<const AudioBuffer> sound, double deviceRate);

}  // namespace heft
