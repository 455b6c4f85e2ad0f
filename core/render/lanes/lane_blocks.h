#pragma once
/// Block-by-block processing of lanes: each block is made when it is asked for, and cached by its inputs.

#include <cmath>
#include <utility>

#include "core/render/lanes/lane_steps.h"

namespace heft {

inline int64_t blockStart(size_t block) {
  return static_cast<int64_t>(block * kBlockFrames);
}

/// A block of the lane with `before` and `after` frames of its surroundings.
AudioBuffer windowOf(const Signal& x, size_t b, size_t before, size_t after, double rate);

/// A signal of the same span with the blocks of `make(b)`, each cached under `keyOf(b)`. Both are called later
/// and from any thread: they hold what they need by value.
template <class KeyOf, class Make>
Signal blocksOf(const Signal& like, StepCache& cache, KeyOf keyOf, Make make) {
  return Signal(like.span(), like.channels(), cache, {std::move(keyOf), std::move(make)});
}

/// A processor's state, as numbers in its own order; empty: at rest.
using Memory = std::vector<double>;

/// A processor with a memory over a lane.
struct Running {
  StepKey what;                   ///< tells it and its settings apart in keys
  int64_t before = 0, after = 0;  ///< frames of a block's surroundings that it reads
  double settleSeconds = 0.0;     ///< length of the memory; 0: none, each block alone
  double rate = 48000.0;
  size_t channels = 1;  ///< of the result
  /// A block from the memory at its start, which it updates.
  std::function<Block(size_t b, Memory& memory)> make;
};

/// The lane through it. A short loop runs as a whole, with as much of its end run in ahead of its start as the
/// memory lasts, at most ten seconds, so that its end meets its start. A longer one, and a song, runs in
/// segments, each from rest with a run-in of that length (at most a minute) or from the song's start: any
/// block can be made alone. What the memory held before the run-in is left out: `settleSeconds` says how
/// little that is. Pure.
Signal running(const Signal& x, Running what, StepCache& cache);

/// Loops up to this many blocks (44 s at 48 kHz) run as a whole.
inline constexpr size_t kWholeLoopBlocks = 128;
/// Segments of longer spans have at least this many blocks, and at least as many as their run-in.
inline constexpr size_t kSegmentBlocks = 16;

}  // namespace heft
