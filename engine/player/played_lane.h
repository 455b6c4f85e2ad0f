#pragma once
/// A lane as the device's callback reads it: blocks in memory, which one other thread lays out and takes away.

#include <atomic>
#include <memory>
#include <vector>

#include "core/render/lanes/signal.h"

namespace heft {

class PlayedLane {
 public:
  explicit PlayedLane(Signal signal);
  PlayedLane(const PlayedLane&) = delete;
  PlayedLane& operator=(const PlayedLane&) = delete;

  const Signal& signal() const { return signal_; }
  size_t frames() const { return signal_.frames(); }

  // One thread besides the callback's.
  /// Makes a block where it is not there yet, and lets the callback see it.
  void fill(size_t b);
  void fillAll();
  bool has(size_t b) const { return owned_[b] != nullptr; }
  /// Hides a block from the callback. What is returned may be freed once the callback has ended that runs now.
  std::shared_ptr<const Block> take(size_t b);

  // The callback. Silence where the block is not there.
  float at(size_t channel, size_t frame) const noexcept {
    const Block* block = blocks_[frame / kBlockFrames].load(std::memory_order_acquire);
    if (!block) return 0.0f;
    return block->channels[block->channels.size() == 1 ? 0 : channel][frame % kBlockFrames];
  }

 private:
  Signal signal_;
  std::vector<std::atomic<const Block*>> blocks_;
  std::vector<std::shared_ptr<const Block>> owned_;
};

}  // namespace heft
