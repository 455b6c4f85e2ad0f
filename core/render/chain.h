#pragma once
/// A chain of processors on a sound by itself: a layer, a hit, a phrase.

#include <memory>
#include <vector>

#include "core/render/step_cache.h"
#include "core/session/chain.h"

namespace heft {

/// The processors that work, with what they need from elsewhere; none where the chain is out.
struct ReadyChain {
  struct One {
    Processor processor;
    std::shared_ptr<const std::vector<float>> response =
        {};  ///< of a body whose sound is there, of linear phase
    StepKey responseKey = {};
    bool keepsLoudness() const { return processor.keepsLoudness && canKeepLoudness(processor.what.index()); }
  };
  std::vector<One> all;
  bool works() const { return !all.empty(); }
};

/// What they read, into a step's key.
void addChain(KeyMaker& key, const ReadyChain& chain);
void addProcessor(KeyMaker& key, const ReadyChain::One& one);

/// How many frames earlier the sound begins behind the chain: EQs of linear phase ring ahead of it.
size_t leadFrames(const ReadyChain& chain);

/// One after the other. `onsetSeconds`: where the sound strikes, for what goes by that; gives where it strikes
/// then, later by what rings ahead. A body and a room make it longer, a room makes it stereo; width 0 makes it
/// mono. One that keeps its loudness is followed by the gain that does, over the first half
/// second from the strike on (measure/kept_loudness.h).
double applyChain(AudioBuffer& sound, const ReadyChain& chain, double onsetSeconds);

}  // namespace heft
