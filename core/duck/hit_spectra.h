#pragma once
/// Where the hits in a sound lie: those that fire beside the others, so that a band can be chosen between them.

#include <span>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

/// Mean power of the hits' first tenth of a second in the bands of `spectrumOf`, each hit as loud as the
/// others, dB re the loudest band. Nothing where there are none.
struct HitSpectra {
  std::vector<double> firing, others;
};

/// Times in seconds of the sound. Channels are folded; of many hits eight of each kind are looked at. Cost:
/// half a millisecond for each.
HitSpectra hitSpectra(const AudioBuffer& sound, std::span<const double> firing, std::span<const double> others);

}  // namespace heft
