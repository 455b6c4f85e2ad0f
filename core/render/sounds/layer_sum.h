#pragma once
/// Sounds laid over each other. Used by the kick's and the bass's steps.

#include <memory>
#include <vector>

#include "core/render/cache/step_cache.h"
#include "core/render/sounds/chain.h"
#include "core/session/session.h"
#include "core/sound/buffer.h"

namespace heft {

struct LaidSound {
  const AudioBuffer* sound;
  int64_t at = 0;  ///< frame of its first sample, >= 0
  double gain = 1.0;
  double fraction = 0.0;  ///< fraction of a frame after that, 0 to below 1
};
/// Its position: on the nearest frame, or between two.
void layAt(LaidSound& sound, double frame, bool betweenSamples);

/// Their sum; as many channels as the widest, mono on both.
AudioBuffer laidOver(const std::vector<LaidSound>& sounds, double sampleRate);

/// Audible layers, except those whose ids are in `without`.
std::vector<const Layer*> layersAt(const std::vector<Layer>& layers, const std::vector<int>& without);

/// Inputs of a layer's fades and processors, into a step's key.
void addShape(KeyMaker& key, const Layer& layer, const ReadyChain& chain, double tempoBpm);
/// A layer's last steps: ends, processors and polarity.
void shapeLayer(AudioBuffer& sound, const Layer& layer, double& onsetSeconds, const ReadyChain& chain);

/// How much its level follows velocity, 0 to 1.
double velocityAmount(const Layer& layer);

}  // namespace heft
