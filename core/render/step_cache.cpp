#include "core/render/step_cache.h"

#include <xxhash.h>

namespace heft {

StepKey KeyMaker::key() const {
  const XXH128_hash_t hash = XXH3_128bits(bytes_.data(), bytes_.size());
  return {hash.high64, hash.low64};
}

std::shared_ptr<const void> StepCache::find(const StepKey& key) {
  const std::lock_guard lock(mutex_);
  const auto at = index_.find(key);
  if (at == index_.end()) return nullptr;
  newestFirst_.splice(newestFirst_.begin(), newestFirst_, at->second);
  return at->second->value;
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
