#pragma once
/// Rate conversion and change of speed through libsamplerate's best sinc converter.

#include <span>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

/// The whole buffer at another sample rate. Same duration to within a frame.
Result<AudioBuffer> resampled(const AudioBuffer& in, double sampleRate);

/// The same samples played `speed` times as fast (pitch and tempo together): length divides by `speed`.
/// 1/64 <= speed <= 64. The stated sample rate stays. Overshoot is the converter's own; nothing is clipped.
Result<AudioBuffer> playedAt(const AudioBuffer& in, double speed);

}  // namespace heft
