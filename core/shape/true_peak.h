#pragma once
/// True peaks: the signal between its samples (ITU-R BS.1770-4, annex 2: four times oversampled).

#include <vector>

#include "core/sound/buffer.h"

namespace heft {

/// Frames on either side that a peak between samples is read from.
inline constexpr size_t kTruePeakReach = 16;

/// The largest magnitude within half a sample about each frame, of the loudest channel; at least the samples'
/// own. By windowed sinc at four times the rate; where nothing within reach comes near `least` (an
/// amplitude), the samples' own. Silence outside. Cost: 100 multiplications a frame and channel near it.
std::vector<float> truePeaks(const AudioBuffer& sound, float least);

/// Frames on either side that holdTruePeak() reads.
size_t truePeakHoldReach(double sampleRate);
/// Lowers everything above `ceiling` (an amplitude), also between samples, by a gain that dips over half a
/// millisecond to either side, without state; samples below it pass unchanged, to the bit. Within 0.1 dB.
void holdTruePeak(AudioBuffer& sound, double ceiling);

}  // namespace heft
