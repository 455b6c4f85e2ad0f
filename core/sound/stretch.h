#pragma once
/// Pitch moved with the length kept, through Rubber Band's finer engine.

#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

/// `in` at `speed` times its pitch (1/32 to 32), same number of frames and same start. Deterministic. About
/// 40 ms for 0.3 s of sound, 80 ms a second of longer ones. Errors (Unreadable): the stretcher returned
/// another number of frames.
Result<AudioBuffer> pitchedKeepingLength(const AudioBuffer& in, double speed);

}  // namespace heft
