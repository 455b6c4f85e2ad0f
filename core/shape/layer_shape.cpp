#include "core/shape/layer_shape.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/shape/trim.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

void cutStart(AudioBuffer& sound, double startMs, double& onsetSeconds) {
  const auto skip = std::min(sound.frames(), static_cast<size_t>(startMs / 1000.0 * sound.sampleRate));
  for (auto& channel : sound.channels)
    channel.erase(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(skip));
  onsetSeconds = std::max(0.0, onsetSeconds - static_cast<double>(skip) / sound.sampleRate);
}

void fadeIn(AudioBuffer& sound, double seconds) {
  const auto frames = std::min(sound.frames(), static_cast<size_t>(seconds * sound.sampleRate));
  for (size_t i = 0; i < frames; ++i)
    for (auto& channel : sound.channels)
      channel[i] *= static_cast<float>(raisedCosine(static_cast<double>(i) / static_cast<double>(frames)));
}

}  // namespace

void applyShape(AudioBuffer& sound, const LayerShape& s, double& onsetSeconds) {
  if (s.startMs > 0.0) cutStart(sound, s.startMs, onsetSeconds);
  if (s.fadeInMs > 0.0) fadeIn(sound, s.fadeInMs / 1000.0);
  if (s.fadeOutMs > 0.0) fadeOut(sound, s.fadeOutMs / 1000.0);
}

}  // namespace heft
