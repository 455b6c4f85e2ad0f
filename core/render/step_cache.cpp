#include "core/render/step_cache.h"

#include <xxhash.h>

namespace heft {

StepKey KeyMaker::key() const {
  const XXH128_hash_t hash = XXH3_128bits(bytes_.data(), bytes_.size());
  return {hash.high64, hash.low64};
}

// Under the lock.
std::shared_ptr<const void> StepCache::newest(const StepKey& key) {
  const auto at = index_.find(key);
  if (at == index_.end()) return nullptr;
  newestFirst_.splice(newestFirst_.begin(), newestFirst_, at->second);
  return at->second->value;
}

std::shared_ptr<const void> StepCache::find(const StepKey& key) {
  const std::lock_guard lock(mutex_);
  return newest(key);
}

std::shared_ptr<const void> StepCache::findOrClaim(const StepKey& key) {
  std::unique_lock lock(mutex_);
  let_.wait(lock, [&] { return !underWay_.contains(key); });
  auto found = newest(key);
  if (!found) underWay_.insert(key);
  return found;
}

void StepCache::letGo(const StepKey& key) {
  {
    const std::lock_guard lock(mutex_);
    underWay_.erase(key);
  }
  let_.notify_all();
}

void StepCache::keep(const StepKey& key, std::shared_ptr<const void> value, size_t bytes) {
  bytes += kEntryBytes;
  const std::lock_guard lock(mutex_);
  if (index_.contains(key)) return;
  newestFirst_.push_front({key, std::move(value), bytes});
  index_[key] = newestFirst_.begin();
  bytes_ += bytes;
  while (bytes_ > mostBytes_ && newestFirst_.size() > 1) {
    bytes_ -= newestFirst_.back().bytes;
    index_.erase(newestFirst_.back().key);
    newestFirst_.pop_back();
  }
}

size_t StepCache::bytes() const {
  const std::lock_guard lock(mutex_);
  return bytes_;
}

}  // namespace heft
