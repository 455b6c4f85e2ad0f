#include "core/render/cache/step_cache.h"

#include <xxhash.h>

#include <algorithm>
#include <condition_variable>
#include <list>
#include <map>
#include <mutex>
#include <set>
#include <unordered_map>
#include <thread>

#include "core/render/cache/helpers.h"

namespace heft {

KeyMaker& KeyMaker::add(std::span<const double> samples) {
  const XXH128_hash_t hash = XXH3_128bits(samples.data(), samples.size_bytes());
  return add(samples.size()).add(StepKey{hash.high64, hash.low64});
}

StepKey KeyMaker::key() const {
  const XXH128_hash_t hash = XXH3_128bits(bytes_.data(), bytes_.size());
  return {hash.high64, hash.low64};
}

struct StepCache::Store {
  struct Entry {
    StepKey key;
    std::shared_ptr<const void> value;
    size_t bytes;
    bool sound;
  };
  /// Entries of one kind, the latest used first.
  struct Shelf {
    size_t bytes = 0;
    std::list<Entry> newestFirst;
  };
  std::mutex mutex;
  size_t mostBytes = 0;
  Shelf figures, sounds;
  /// A key is a hash already.
  struct ByKey {
    size_t operator()(const StepKey& key) const { return key.low; }
  };
  std::unordered_map<StepKey, std::list<Entry>::iterator, ByKey> index;
  std::set<StepKey> underWay;
  std::map<size_t, std::shared_ptr<Helpers>> helpers;  // by how many threads there are with them
  std::condition_variable letGo;

  Shelf& shelfOf(const Entry& entry) { return entry.sound ? sounds : figures; }

  // All but the newest entry may go.
  void shrink(Shelf& shelf, size_t most) {
    while (shelf.bytes > most && shelf.newestFirst.size() > 1) {
      shelf.bytes -= shelf.newestFirst.back().bytes;
      index.erase(shelf.newestFirst.back().key);
      shelf.newestFirst.pop_back();
    }
  }

  // Under the lock.
  std::shared_ptr<const void> find(const StepKey& key) {
    const auto at = index.find(key);
    if (at == index.end()) return nullptr;
    Shelf& shelf = shelfOf(*at->second);
    shelf.newestFirst.splice(shelf.newestFirst.begin(), shelf.newestFirst, at->second);
    return at->second->value;
  }
};

StepCache::StepCache(size_t mostBytes) : store_(std::make_shared<Store>()) {
  store_->mostBytes = mostBytes;
}

StepCache StepCache::onThreads(size_t count) const {
  StepCache out = *this;
  out.threads_ = std::clamp<size_t>(count, 1, 16);
  out.helpers_ = nullptr;
  if (out.threads_ == 1) return out;
  const std::lock_guard lock(store_->mutex);
  auto& known = store_->helpers[out.threads_];
  if (!known) known = std::make_shared<Helpers>(out.threads_ - 1);
  out.helpers_ = known;
  return out;
}

StepCache StepCache::stoppedBy(const std::stop_token& stop) const {
  StepCache out = *this;
  out.stop_ = stop;
  return out;
}

StepCache StepCache::onAllThreads() const {
  return onThreads(std::min(4u, std::thread::hardware_concurrency()));
}

std::shared_ptr<const void> StepCache::find(const StepKey& key) const {
  const std::lock_guard lock(store_->mutex);
  return store_->find(key);
}

std::shared_ptr<const void> StepCache::findOrClaim(const StepKey& key) const {
  Store& s = *store_;
  std::unique_lock lock(s.mutex);
  s.letGo.wait(lock, [&] { return !s.underWay.contains(key); });
  auto found = s.find(key);
  if (!found) s.underWay.insert(key);
  return found;
}

void StepCache::letGo(const StepKey& key) const {
  {
    const std::lock_guard lock(store_->mutex);
    store_->underWay.erase(key);
  }
  store_->letGo.notify_all();
}

void StepCache::keep(const StepKey& key, std::shared_ptr<const void> value, size_t bytes, bool sound) const {
  Store& s = *store_;
  Store::Entry entry{key, std::move(value), bytes + kEntryBytes, sound && bytes > kSmallBytes};
  const std::lock_guard lock(s.mutex);
  if (s.index.contains(key)) return;
  Store::Shelf& shelf = s.shelfOf(entry);
  shelf.bytes += entry.bytes;
  shelf.newestFirst.push_front(std::move(entry));
  s.index[key] = shelf.newestFirst.begin();
  s.shrink(s.figures, s.mostBytes / 4 * 3);
  s.shrink(s.sounds, s.mostBytes - std::min(s.mostBytes, s.figures.bytes));
}

size_t StepCache::bytes() const {
  const std::lock_guard lock(store_->mutex);
  return store_->figures.bytes + store_->sounds.bytes;
}

}  // namespace heft
