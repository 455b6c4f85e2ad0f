#pragma once
/// Spectra of the hits in a sound, triggering ones against the others, to choose a detection band between
/// them.

#include <span>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

/// Mean power of the hits' first tenth of a second in the bands of `spectrumOf`, each hit weighted alike, dB
/// re the loudest band. Empty without hits.
struct HitSpectra {
  std::vector<double> firing, others;
};

/// Times in seconds of the sound. Channels are folded; uses up to eight hits of each kind. Cost: half a
/// millisecond for each.
HitSpectra hitSpectra(const AudioBuffer& sound, std::span<const double> firing, std::span<const double> others);

}  // namespace heft
