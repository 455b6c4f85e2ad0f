#pragma once
/// The length of a one-shot: where it starts, where it has died away.

#include <optional>

#include "core/sound/buffer.h"

namespace heft {

/// Cuts `startSeconds` off the front and lets the sound die away by `lengthSeconds` after `onsetSeconds`: a
/// fade that begins at 40 % of the length falls smoothly (raised cosine, squared) and is at least 40 dB down at
/// the length, silent 20 % later. A sound that is shorter stays as it is.
AudioBuffer trimmedTail(const AudioBuffer& in, double onsetSeconds, std::optional<double> lengthSeconds);

/// Raised-cosine fade over the last `fadeSeconds`.
void fadeOut(AudioBuffer& sound, double fadeSeconds);

}  // namespace heft
