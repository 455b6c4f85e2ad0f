#pragma once
/// A layer's ends: what is cut off its front, and the fades.

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

/// `onsetSeconds` moves with what is cut off the front.
void applyShape(AudioBuffer& sound, const LayerShape& shape, double& onsetSeconds);

}  // namespace heft
