#pragma once
/// A layer's ends: its start trim and its fades.

#include "core/sound/buffer.h"

namespace heft {

struct LayerShape {
  double startMs = 0.0;    ///< cut off the front, 0 to 60000
  double fadeInMs = 0.0;   ///< 0 to 5000
  double fadeOutMs = 0.0;  ///< 0 to 5000, at the sound's end
  bool operator==(const LayerShape&) const = default;
  /// Whether it changes anything.
  bool works() const { return startMs > 0.0 || fadeInMs > 0.0 || fadeOutMs > 0.0; }
};

/// `onsetSeconds` moves with the start trim.
void applyShape(AudioBuffer& sound, const LayerShape& shape, double& onsetSeconds);

}  // namespace heft
