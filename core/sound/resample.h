#pragma once
/// Rate conversion through libsamplerate's best sinc converter.

#include <span>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

/// The whole buffer at another sample rate. Same duration to within a frame.
Result<AudioBuffer> resampled(const AudioBuffer& in, double sampleRate);

}  // namespace heft
