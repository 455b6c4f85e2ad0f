#pragma once
/// A rendered lane as a list of shared immutable blocks: two renders share the memory of unchanged blocks.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/render/cache/step_cache.h"
#include "core/sound/buffer.h"

namespace heft {

inline constexpr size_t kBlockFrames = 16384;

/// One or two channels of the same number of frames (kBlockFrames; fewer in a stem's last block).
struct Block {
  std::vector<std::vector<float>> channels;
  size_t bytes() const { return channels.size() * kBlockFrames * sizeof(float) + 64; }
};

/// The channel to draw where only one is drawn, by their highest samples: the left, unless the right is twice
/// as loud.
constexpr size_t drawnOf(float left, float right) {
  return right > 2.0f * left ? 1 : 0;
}

class Stem {
 public:
  Stem() = default;
  Stem(size_t frames, size_t channels) : frames_(frames), channels_(channels) {}

  size_t frames() const { return frames_; }
  size_t channels() const { return channels_; }  ///< 1 or 2
  size_t blockCount() const { return (frames_ + kBlockFrames - 1) / kBlockFrames; }
  size_t blockSize(size_t b) const { return std::min(kBlockFrames, frames_ - b * kBlockFrames); }
  void push(std::shared_ptr<const Block> block, const StepKey& key) {
    blocks_.push_back(std::move(block)), keys_.push_back(key);
  }
  const Block& block(size_t b) const { return *blocks_[b]; }
  /// A channel of a block; a mono stem gives the same on both.
  const std::vector<float>& channel(size_t b, size_t c) const {
    return blocks_[b]->channels[channels_ == 1 ? 0 : c];
  }
  const StepKey& key(size_t b) const { return keys_[b]; }
  bool sharesBlock(const Stem& other, size_t b) const { return blocks_[b] == other.blocks_[b]; }
  /// One key for all of it.
  StepKey key() const;

  /// Sample of a channel; a mono stem gives the same on both. `frame` < frames().
  float at(size_t channel, size_t frame) const {
    const auto& c = blocks_[frame / kBlockFrames]->channels;
    return c[c.size() == 1 ? 0 : channel][frame % kBlockFrames];
  }
  /// `count` frames from `first`, which may be outside: the stem is a loop.
  std::vector<float> wrapped(size_t channel, int64_t first, size_t count) const;
  /// The same of whichever channel is loudest at each frame.
  std::vector<float> loudest(int64_t first, size_t count) const;
  /// The highest sample of all channels there; 0 of nothing.
  float peak(int64_t first, size_t count) const;
  /// Which channel to draw where one is drawn (drawnOf()), of `count` frames from `first`.
  size_t drawnChannel(int64_t first, size_t count) const;
  AudioBuffer toBuffer(double sampleRate) const;

 private:
  size_t frames_ = 0, channels_ = 1;
  std::vector<std::shared_ptr<const Block>> blocks_;
  std::vector<StepKey> keys_;
};

}  // namespace heft
