#pragma once
/// The kind of a file, from its length and its onsets: one struck sound, a loop, or a whole track or stem.

#include <vector>

#include "core/sound/buffer.h"

namespace heft {

enum class Material { OneShot, Loop, Track };

struct MaterialFacts {
  Material kind = Material::OneShot;
  double seconds = 0.0;
  std::vector<double> onsets;  ///< seconds from its first sample, ascending; of the first half minute

  bool isOneShot() const { return kind == Material::OneShot; }
};

/// From so many onsets on, or so long, a file is no single sound.
inline constexpr size_t kLoopOnsets = 3;
inline constexpr double kLongestOneShotSeconds = 20.0, kTrackSeconds = 45.0;

/// Method: level in windows of 40 ms; an onset is a rise of 5 dB over the quietest of the last 80 ms to within
/// 18 dB of the loudest, at least 100 ms after the one before: a flam or a clap's strokes are one. Fewer than
/// kLoopOnsets make a loop where a note follows another without a gap (steady_period.h). Our own limits: none
/// of 621 one-shots of an open bank is taken for a loop, nor of 700 generated kicks and basses, and none of 72
/// loops for a one-shot (docs/measuring.md). Silence has no onsets and is a one-shot. Cost: one pass over half
/// a minute, and 1 ms a second.
MaterialFacts recogniseMaterial(const AudioBuffer& sound);

}  // namespace heft
