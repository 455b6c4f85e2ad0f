#pragma once
/// Reads a sound between its samples: varispeed about a chosen point, and fractional delays.
///
/// A Kaiser-windowed sinc of 64 taps (32 each side), widened when reading faster than the sound against
/// aliasing. libsamplerate cannot start between two samples, which retuning about a split point needs, and
/// costs forty times as much (docs/performance.md).

#include <cstddef>
#include <span>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

/// Vertex of the parabola through three neighbours, in samples from the middle one, -0.5 to 0.5; 0 for a
/// line.
double turnBetween(double before, double at, double after);

/// out[i] = x(start + i * step), positions in samples of `x`; outside `x` is silence. 1/64 <= step <= 64.
/// Flat within 0.01 dB to 0.9 of the lower Nyquist frequency, images and aliases below -85 dB.
std::vector<float> readAt(std::span<const float> x, double start, double step, size_t count);

/// out[i] = x(positions[i]); positions ascend. The kernel is widened for the fastest pace among them.
std::vector<float> readAlong(std::span<const float> x, std::span<const double> positions);

/// Every channel of `in` read from its start at `speed` times its pace: pitch and tempo together. Length
/// divides by `speed`.
AudioBuffer playedFaster(const AudioBuffer& in, double speed);

/// Delays every channel by `samples` (0 <= samples < 1); `extra` frames longer at the end.
AudioBuffer fractionLater(const AudioBuffer& in, double samples, size_t extra);

}  // namespace heft
