#include "engine/player/played_lane.h"

#include <utility>

namespace heft {

PlayedLane::PlayedLane(Signal signal)
    : signal_(std::move(signal)), blocks_(signal_.blockCount()), owned_(signal_.blockCount()) {}

void PlayedLane::fill(size_t b) {
  if (owned_[b]) return;
  owned_[b] = signal_.hold(b);
  blocks_[b].store(owned_[b].get(), std::memory_order_release);
}

void PlayedLane::fillAll() {
  for (size_t b = 0; b < owned_.size(); ++b) fill(b);
}

std::shared_ptr<const Block> PlayedLane::take(size_t b) {
  blocks_[b].store(nullptr, std::memory_order_release);
  return std::exchange(owned_[b], nullptr);
}

}  // namespace heft
