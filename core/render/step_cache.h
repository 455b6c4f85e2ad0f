#pragma once
/// Results of render steps and measurements, found by a hash of all that they read.

#include <condition_variable>
#include <cstdint>
#include <cstring>
#include <functional>
#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <set>
#include <span>
#include <string>
#include <type_traits>

namespace heft {

/// XXH3-128 of what a step reads.
struct StepKey {
  uint64_t high = 0, low = 0;
  auto operator<=>(const StepKey&) const = default;
};

/// Collects canonical bytes: a step's name and version, then every value that it reads.
class KeyMaker {
 public:
  explicit KeyMaker(const char* stepAndVersion) { add(std::string(stepAndVersion)); }
  template <class T>
  requires std::is_arithmetic_v<T> || std::is_enum_v<T> KeyMaker& add(T value) {
    if constexpr (std::is_floating_point_v<T>) value = value == 0 ? T(0) : value;  // -0 is 0
    bytes_.append(reinterpret_cast<const char*>(&value), sizeof value);
    return *this;
  }
  KeyMaker& add(const std::string& text) {
    add(text.size());
    bytes_ += text;
    return *this;
  }
  KeyMaker& add(const StepKey& key) { return add(key.high).add(key.low); }
  StepKey key() const;

 private:
  std::string bytes_;
};

/// Bounded by bytes, what it takes to find an entry among them, least recently used out. May be shared by
/// threads: a step that one of them is at is waited for by the others.
class StepCache {
 public:
  explicit StepCache(size_t mostBytes = size_t{1} << 29) : mostBytes_(mostBytes) {}

  /// The result under `key`, or what `make` gives (a value of T), kept as `sizeOf(value)` large.
  template <class T, class Make, class Size>
  std::shared_ptr<const T> get(const StepKey& key, Make make, Size sizeOf) {
    if (auto found = findOrClaim(key)) return std::static_pointer_cast<const T>(found);
    const Claim claim{*this, key};
    auto made = std::make_shared<const T>(make());
    keep(key, made, sizeOf(*made));
    return made;
  }
  /// What is kept under `key`, or nothing.
  template <class T>
  std::shared_ptr<const T> known(const StepKey& key) {
    return std::static_pointer_cast<const T>(find(key));
  }
  size_t bytes() const;
  /// What an entry costs besides its value: its place in the list, in the index and on the heap.
  static constexpr size_t kEntryBytes = 240;

 private:
  /// Lets go of a step that was claimed, whatever became of it.
  struct Claim {
    StepCache& cache;
    const StepKey& key;
    ~Claim() { cache.letGo(key); }
  };
  struct Entry {
    StepKey key;
    std::shared_ptr<const void> value;
    size_t bytes;
  };
  std::shared_ptr<const void> find(const StepKey& key);
  /// What is kept, waited for where another thread is at it; else nothing, and the step is the caller's to
  /// make.
  std::shared_ptr<const void> findOrClaim(const StepKey& key);
  void letGo(const StepKey& key);
  std::shared_ptr<const void> newest(const StepKey& key);
  void keep(const StepKey& key, std::shared_ptr<const void> value, size_t bytes);

  mutable std::mutex mutex_;
  size_t mostBytes_, bytes_ = 0;
  std::list<Entry> newestFirst_;
  std::map<StepKey, std::list<Entry>::iterator> index_;
  std::set<StepKey> underWay_;
  std::condition_variable let_;
};

}  // namespace heft
