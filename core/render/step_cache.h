#pragma once
/// Results of render steps and measurements, found by a hash of all that they read.

#include <cstdint>
#include <cstring>
#include <functional>
#include <list>
#include <map>
#include <memory>
#include <mutex>
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
/// threads; a step may be computed twice by two at once.
class StepCache {
 public:
  explicit StepCache(size_t mostBytes = size_t{1} << 29) : mostBytes_(mostBytes) {}

  /// The result under `key`, or what `make` gives (a value of T), kept as `sizeOf(value)` large.
  template <class T, class Make, class Size>
  std::shared_ptr<const T> get(const StepKey& key, Make make, Size sizeOf) {
    if (auto found = find(key)) return std::static_pointer_cast<const T>(found);
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
  struct Entry {
    StepKey key;
    std::shared_ptr<const void> value;
    size_t bytes;
  };
  std::shared_ptr<const void> find(const StepKey& key);
  void keep(const StepKey& key, std::shared_ptr<const void> value, size_t bytes);

  mutable std::mutex mutex_;
  size_t mostBytes_, bytes_ = 0;
  std::list<Entry> newestFirst_;
  std::map<StepKey, std::list<Entry>::iterator> index_;
};

}  // namespace heft
