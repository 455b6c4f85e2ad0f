#pragma once
/// A lane's sound over its span, made block by block when it is asked for. Copies share what was made.

#include <cstdint>
#include <functional>
#include <memory>
#include <vector>

#include "core/render/cache/step_cache.h"
#include "core/sound/buffer.h"
#include "core/sound/span.h"

namespace heft {

inline constexpr size_t kBlockFrames = 16384;

/// One or two channels of the same number of frames (kBlockFrames; fewer in a signal's last block).
struct Block {
  static constexpr bool kIsSound = true;
  std::vector<std::vector<float>> channels;
  size_t bytes() const { return channels.size() * kBlockFrames * sizeof(float) + 64; }
};
inline size_t bytesOfBlock(const Block& b) {
  return b.bytes();
}

/// The channel to draw where only one is drawn, by their highest samples: the left, unless the right is twice
/// as loud.
constexpr size_t drawnOf(float left, float right) {
  return right > 2.0f * left ? 1 : 0;
}

/// Where a signal's blocks come from. Any thread may ask; asking for a block makes what it needs.
class BlockSource {
 public:
  virtual ~BlockSource() = default;
  virtual std::shared_ptr<const Block> block(size_t b) = 0;
  /// A hash of all that the block depends on.
  virtual StepKey key(size_t b) = 0;
};

/// Blocks that each stand alone: made by `make`, cached under `keyOf`.
struct BlockSteps {
  std::function<StepKey(size_t b)> keyOf;
  std::function<Block(size_t b)> make;
};

class Signal {
 public:
  Signal() = default;
  /// Without blocks yet: push() adds them, in order.
  explicit Signal(const Span& span, size_t channels = 1);
  Signal(const Span& span, size_t channels, std::shared_ptr<BlockSource> source);
  Signal(const Span& span, size_t channels, const StepCache& cache, BlockSteps steps);

  const Span& span() const { return span_; }
  size_t frames() const { return span_.frames; }
  size_t channels() const { return channels_; }  ///< 1 or 2
  size_t blockCount() const { return (span_.frames + kBlockFrames - 1) / kBlockFrames; }
  size_t blockSize(size_t b) const { return std::min(kBlockFrames, span_.frames - b * kBlockFrames); }
  void push(std::shared_ptr<const Block> block, const StepKey& key);
  std::shared_ptr<const Block> hold(size_t b) const;  ///< keeps the block in memory as long as the pointer
  /// In memory as long as the signal is: of short ones (keepsBlocks()). A long one is read by hold() and
  /// read().
  const Block& block(size_t b) const {
    const Block* known = kept(b);
    return known ? *known : *hold(b);
  }
  /// A channel of a block; a mono signal gives the same on both. Of short ones.
  const std::vector<float>& channel(size_t b, size_t c) const {
    return block(b).channels[channels_ == 1 ? 0 : c];
  }
  StepKey key(size_t b) const;
  bool sharesBlock(const Signal& other, size_t b) const { return hold(b) == other.hold(b); }
  /// One key for all of it.
  StepKey key() const;
  /// Whether blocks stay in memory with the signal: spans of at most kMostKeptBlocks.
  bool keepsBlocks() const { return blockCount() <= kMostKeptBlocks; }
  static constexpr size_t kMostKeptBlocks = 1024;
  /// The block where it is in memory, or nothing: for threads that must not wait.
  std::shared_ptr<const Block> ready(size_t b) const;

  /// Sample of a channel; a mono signal gives the same on both. `frame` < frames(). Of a long one it takes a
  /// lock: for single samples.
  float at(size_t channel, size_t frame) const {
    const Block* known = kept(frame / kBlockFrames);
    const auto held = known ? nullptr : hold(frame / kBlockFrames);
    const auto& c = (known ? *known : *held).channels;
    return c[c.size() == 1 ? 0 : channel][frame % kBlockFrames];
  }
  /// `count` frames from `first`, which may be outside: a loop wraps, a song is silent there.
  std::vector<float> read(size_t channel, int64_t first, size_t count) const;
  /// The same of whichever channel is loudest at each frame.
  std::vector<float> loudest(int64_t first, size_t count) const;
  /// The highest sample of all channels there; 0 of nothing.
  float peak(int64_t first, size_t count) const;
  /// Which channel to draw where one is drawn (drawnOf()), of `count` frames from `first`.
  size_t drawnChannel(int64_t first, size_t count) const;
  AudioBuffer toBuffer(double sampleRate) const;

 private:
  struct Held;
  /// Of a short signal, without a lock; nothing where it is not made yet.
  const Block* kept(size_t b) const;
  Span span_;
  size_t channels_ = 1;
  std::shared_ptr<Held> held_;
};

}  // namespace heft
