#pragma once
/// Block-by-block processing of lanes, each block cached by its inputs.

#include <algorithm>
#include <cmath>
#include <utility>

#include "core/render/cache/at_once.h"
#include "core/render/lanes/lane_steps.h"

namespace heft {

inline int64_t blockStart(size_t block) {
  return static_cast<int64_t>(block * kBlockFrames);
}

/// A block of the lane with `before` and `after` frames of its surroundings; the loop wraps.
inline AudioBuffer windowOf(const Stem& x, size_t b, size_t before, size_t after, double rate) {
  AudioBuffer out;
  out.sampleRate = rate;
  const int64_t first = blockStart(b) - static_cast<int64_t>(before);
  for (size_t c = 0; c < x.channels(); ++c)
    out.channels.push_back(x.wrapped(c, first, before + x.blockSize(b) + after));
  return out;
}

/// Whether making a block takes longer than waking a helper.
enum class Work { Light, Heavy };

/// A stem of the same shape with the blocks of `make(b)`, each cached under `keyOf(b)`; heavy ones several at
/// a time.
template <class KeyOf, class Make>
Stem blocksOf(const Stem& like, StepCache& cache, KeyOf keyOf, Make make, Work work = Work::Light) {
  Stem out(like.frames(), like.channels());
  std::vector<StepKey> keys;
  for (size_t b = 0; b < like.blockCount(); ++b) keys.push_back(keyOf(b));
  auto get = [&](size_t b) {
    return cache.get<Block>(
        keys[b], [&] { return make(b); }, bytesOfBlock);
  };
  std::vector<size_t> fresh;
  if (work == Work::Heavy)
    for (size_t b = 0; b < keys.size(); ++b)
      if (!cache.known<Block>(keys[b])) fresh.push_back(b);
  const auto made =
      madeAtOnce(fresh.size() > 1 ? fresh.size() : 0, cache, {}, [&](size_t i) { return get(fresh[i]); });
  for (size_t b = 0, i = 0; b < keys.size(); ++b)
    out.push(i < made.size() && fresh[i] == b ? made[i++] : get(b), keys[b]);
  return out;
}

/// A processor's state, as numbers in its own order; empty: at rest.
using Memory = std::vector<double>;

struct Piece {
  Block block;
  Memory after;
};

/// Where a running processor reads: blocks with `before` and `after` frames of their surroundings.
struct Reads {
  int64_t before = 0, after = 0;
};

/// Runs over the loop, block by block: `make(b, memory)` returns a block of `channels` and updates the
/// memory. `settleSeconds`: length of the memory; that much of the loop, at most ten seconds, runs before its
/// start; 0: `make` ignores the memory and runs on several threads.
template <class Make>
Stem running(const Stem& x, const StepKey& what, const Reads& reads, double settleSeconds, double rate,
             StepCache& cache, size_t channels, Make make) {
  const size_t n = x.blockCount();
  Memory memory;
  if (settleSeconds == 0.0) {
    // Without memory: each block alone.
    return blocksOf(
        Stem(x.frames(), channels), cache,
        [&](size_t b) {
          KeyMaker maker("running, of no memory 1");
          maker.add(what).add(rate).add(x.blockSize(b));
          addSpan(maker, x, blockStart(b) - reads.before,
                  static_cast<int64_t>(x.blockSize(b)) + reads.before + reads.after);
          return maker.key();
        },
        [&](size_t b) {
          Memory none;
          return make(b, none);
        },
        Work::Heavy);
  }
  auto piece = [&](size_t b) {
    KeyMaker maker("running 1");
    maker.add(what).add(rate).add(x.blockSize(b));
    addSpan(maker, x, blockStart(b) - reads.before,
            static_cast<int64_t>(x.blockSize(b)) + reads.before + reads.after);
    for (const double m : memory) maker.add(m);
    const StepKey key = maker.key();
    auto made = cache.get<Piece>(
        key,
        [&] {
          Piece p;
          p.after = memory;
          p.block = make(b, p.after);
          return p;
        },
        [](const Piece& p) { return p.block.bytes() + 8 * p.after.size(); });
    memory = made->after;
    return std::pair{std::shared_ptr<const Block>(made, &made->block), key};
  };
  const auto ahead = static_cast<size_t>(std::ceil(std::min(10.0, settleSeconds) * rate / kBlockFrames));
  for (size_t i = 0; i < ahead; ++i) piece((n * (ahead / n + 1) - ahead + i) % n);
  Stem out(x.frames(), channels);
  for (size_t b = 0; b < n; ++b) {
    auto [block, key] = piece(b);
    out.push(std::move(block), key);
  }
  return out;
}

}  // namespace heft
