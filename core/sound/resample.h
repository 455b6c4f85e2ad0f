#pragma once
/// Rate conversion through libsamplerate's sinc converters.

#include <span>
#include <stop_token>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

/// Purpose of a conversion: for listening (the best converter), or only for level measurements (a seventh of
/// the cost, noise 97 dB under it, flat to 80 % of the band).
enum class ConvertFor { Hearing, Level };

/// The whole buffer at another sample rate. Same duration to within a frame. Cost: some 60 ms a second of
/// stereo for Hearing. Errors: Cancelled, within some 20 ms of a request to `stop`.
Result<AudioBuffer> resampled(const AudioBuffer& in, double sampleRate, ConvertFor use = ConvertFor::Hearing,
                              const std::stop_token& stop = {});

}  // namespace heft
