#pragma once
/// Hands objects from one control thread to the device's callback, which neither locks nor frees.

#include <array>
#include <atomic>
#include <memory>

namespace heft {

/// The newest offer wins. The callback takes it, and gives it back once it is done with it.
template <class T>
class Handed {
 public:
  Handed() = default;
  Handed(const Handed&) = delete;
  Handed& operator=(const Handed&) = delete;
  ~Handed() {
    collect();
    delete pending_.exchange(nullptr);
  }

  // Control thread.
  void offer(std::unique_ptr<T> fresh) {
    collect();
    delete pending_.exchange(fresh.release());
  }
  /// Frees what the callback gave back.
  void collect() {
    for (auto& slot : retired_) delete slot.exchange(nullptr);
  }

  // Device thread.
  /// The newest offer, owned by the caller; null without one.
  T* take() { return pending_.exchange(nullptr); }
  /// False where no place is free: try again later.
  bool giveBack(T* old) {
    if (!old) return true;
    for (auto& slot : retired_) {
      T* empty = nullptr;
      if (slot.compare_exchange_strong(empty, old)) return true;
    }
    return false;
  }

 private:
  static constexpr size_t kSlots = 16;
  std::atomic<T*> pending_{nullptr};
  std::array<std::atomic<T*>, kSlots> retired_{};
};

}  // namespace heft
