#pragma once
/// Results of render steps and measurements, keyed by a hash of all their inputs.

#include <cstdint>
#include <cstring>
#include <memory>
#include <span>
#include <stop_token>
#include <string>
#include <type_traits>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

class Helpers;

/// XXH3-128 of a step's inputs.
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
  /// Sound, bit by bit, without a copy of it.
  KeyMaker& add(std::span<const double> samples);
  StepKey key() const;

 private:
  std::string bytes_;
};

/// Sound is cheap to make again and passes through by the gigabyte: blocks of lanes, sounds of hits and notes.
/// Whatever else is kept is a figure. A type says it by a member kIsSound, or here.
template <class T>
    struct IsSound : std::bool_constant < requires {
  requires T::kIsSound;
} > {};
template <>
struct IsSound<AudioBuffer> : std::true_type {};
template <>
struct IsSound<std::vector<float>> : std::true_type {};

/// Bounded by bytes, including an entry's overhead; evicts the least recently used. Figures, and pieces of
/// sound up to kSmallBytes, have up to three quarters of the room, and sound what they leave: sound that passes
/// through does not evict figures. Copies share the entries. Threads may share it: others wait for a step in
/// progress.
class StepCache {
 public:
  explicit StepCache(size_t mostBytes = size_t{1} << 29);

  /// The same cache with parallelism: independent steps run on that many threads (madeAtOnce()), 1 to 16.
  /// Handles of one cache with the same count share their threads.
  StepCache onThreads(size_t count) const;
  /// On all of the machine's threads, at most four.
  StepCache onAllThreads() const;
  size_t threads() const { return threads_; }
  /// Threads that share work with the calling one; nothing where threads() is 1.
  const std::shared_ptr<Helpers>& helpers() const { return helpers_; }

  /// The same cache for work that may be cancelled: from a request to `stop` on, get() throws Stopped. Whoever
  /// asks through it catches that (untilStopped()). What outlives the work, such as a signal, takes
  /// unstopped().
  StepCache stoppedBy(const std::stop_token& stop) const;
  StepCache unstopped() const { return stoppedBy({}); }
  /// Whether it ends by that request already.
  bool endsBy(const std::stop_token& stop) const { return !stop.stop_possible() || stop == stop_; }
  struct Stopped {};
  /// What ends it, for a step that looks at it itself and throws by throwIfStopped().
  const std::stop_token& stop() const { return stop_; }
  /// For long loops between steps.
  void throwIfStopped() const {
    if (stop_.stop_requested()) throw Stopped();
  }

  /// The result under `key`, or what `make` gives (a value of T), kept as `sizeOf(value)` large.
  template <class T, class Make, class Size>
  std::shared_ptr<const T> get(const StepKey& key, Make make, Size sizeOf) const {
    throwIfStopped();
    if (auto found = findOrClaim(key)) return std::static_pointer_cast<const T>(found);
    const Claim claim{*this, key};
    auto made = std::make_shared<const T>(make());
    keep(key, made, sizeOf(*made), IsSound<T>::value);
    return made;
  }
  /// The entry of `key`, or nothing.
  template <class T>
  std::shared_ptr<const T> known(const StepKey& key) const {
    return std::static_pointer_cast<const T>(find(key));
  }
  size_t bytes() const;
  /// Sound up to this size is kept among the figures.
  static constexpr size_t kSmallBytes = 61440;
  /// What an entry costs besides its value: its place in the list, in the index and on the heap.
  static constexpr size_t kEntryBytes = 240;

 private:
  /// Releases a claimed step, finished or not.
  struct Claim {
    const StepCache& cache;
    const StepKey& key;
    ~Claim() { cache.letGo(key); }
  };
  struct Store;
  std::shared_ptr<const void> find(const StepKey& key) const;
  /// The entry, waiting if another thread is making it; else nothing, and the caller makes the step.
  std::shared_ptr<const void> findOrClaim(const StepKey& key) const;
  void letGo(const StepKey& key) const;
  void keep(const StepKey& key, std::shared_ptr<const void> value, size_t bytes, bool sound) const;

  std::shared_ptr<Store> store_;
  size_t threads_ = 1;
  std::shared_ptr<Helpers> helpers_;
  std::stop_token stop_;
};

}  // namespace heft
