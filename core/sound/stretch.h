#pragma once
/// Pitch moved with the length kept, through Rubber Band's finer engine.

#include "core/sound/buffer.h"

namespace heft {

/// `in` at `speed` times its pitch (1/32 to 32), same number of frames. Starts where it started. The same on
/// every run. About 40 ms for 0.3 s of sound.
AudioBuffer pitchedKeepingLength(const AudioBuffer& in, double speed);

}  // namespace heft
