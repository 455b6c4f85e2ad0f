#pragma once
/// A chain of processors on a single sound: a layer, a hit, a phrase.

#include <memory>
#include <vector>

#include "core/render/cache/step_cache.h"
#include "core/session/chain.h"

namespace heft {

/// The active processors with their outside inputs; none where the chain is bypassed.
struct ReadyChain {
  struct One {
    Processor processor;
    std::shared_ptr<const std::vector<float>> response = {};  ///< of a body with its sound, of linear phase
    StepKey responseKey = {};
    bool keepsLoudness() const { return processor.keepsLoudness && canKeepLoudness(processor.what.index()); }
  };
  std::vector<One> all;
  bool works() const { return !all.empty(); }
};

/// Adds their inputs to a step's key.
void addChain(KeyMaker& key, const ReadyChain& chain);
void addProcessor(KeyMaker& key, const ReadyChain::One& one);

/// How many frames earlier the sound begins after the chain, due to the pre-ringing of linear-phase EQs.
size_t leadFrames(const ReadyChain& chain);

/// In order. `onsetSeconds`: time of the strike, for processors that use it; returns its time afterwards,
/// later by any pre-ringing. A body and a room lengthen the sound, a room makes it stereo; width 0 makes it
/// mono. A processor that keeps its loudness gets a make-up gain over the first half second from the strike
/// on (measure/kept_loudness.h).
double applyChain(AudioBuffer& sound, const ReadyChain& chain, double onsetSeconds);

}  // namespace heft
