#pragma once
/// A long file over a span, read and converted block by block.

#include "core/render/lanes/signal.h"
#include "core/session/assets.h"

namespace heft {

/// The sound from `offsetSeconds` of it on, at `rate`; silent where it has nothing. Another rate is read by the
/// windowed sinc of sound/interpolate.h: flat within 0.01 dB to 0.9 of the lower Nyquist frequency, images
/// below -85 dB. More than two channels are folded to two. A sound of nothing is silence.
Signal fileLane(const Sound& sound, const std::string& hash, double offsetSeconds, double rate,
                const Span& span, const StepCache& cache);

}  // namespace heft
