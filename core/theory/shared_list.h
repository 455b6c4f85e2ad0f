#pragma once
/// A vector whose copies share their items until one of them changes.

#include <atomic>
#include <cstddef>
#include <initializer_list>
#include <utility>
#include <vector>

namespace heft {

/// Copying and comparing copies costs nothing, whatever its length. Whoever may change it (any call on one that
/// is not const) has items of its own from then on: read through const where nothing changes. Like a vector, one
/// list is one thread's; copies of it may be with others.
template <class T>
class SharedList {
 public:
  using Items = std::vector<T>;
  using value_type = T;
  using iterator = typename Items::iterator;
  using const_iterator = typename Items::const_iterator;
  using size_type = size_t;

  SharedList() = default;
  SharedList(Items items) : held_(items.empty() ? nullptr : new Held{std::move(items)}) {}
  SharedList(std::initializer_list<T> items) : SharedList(Items(items)) {}
  template <class In>
  SharedList(In first, In last) : SharedList(Items(first, last)) {}
  SharedList(const SharedList& other) : held_(other.held_) {
    if (held_) held_->holders.fetch_add(1, std::memory_order_relaxed);
  }
  SharedList(SharedList&& other) noexcept : held_(std::exchange(other.held_, nullptr)) {}
  SharedList& operator=(SharedList other) noexcept {
    std::swap(held_, other.held_);
    return *this;
  }
  ~SharedList() { drop(); }

  /// The items as a vector; valid until the next change.
  const Items& items() const { return held_ ? held_->items : none(); }
  operator const Items&() const { return items(); }
  /// The same to be changed, no longer shared.
  Items& own() {
    if (!held_) {
      held_ = new Held;
    } else if (held_->holders.load(std::memory_order_acquire) > 1) {
      auto* mine = new Held{held_->items};
      drop();
      held_ = mine;
    }
    return held_->items;
  }
  bool operator==(const SharedList& other) const { return held_ == other.held_ || items() == other.items(); }
  /// Whether both are the same items: equal at no cost.
  bool shares(const SharedList& other) const { return held_ == other.held_; }

  bool empty() const { return !held_ || held_->items.empty(); }
  size_t size() const { return items().size(); }
  const_iterator begin() const { return items().begin(); }
  const_iterator end() const { return items().end(); }
  const_iterator cbegin() const { return begin(); }
  const_iterator cend() const { return end(); }
  auto rbegin() const { return items().rbegin(); }
  auto rend() const { return items().rend(); }
  const T& operator[](size_t i) const { return items()[i]; }
  const T& at(size_t i) const { return items().at(i); }
  const T& front() const { return items().front(); }
  const T& back() const { return items().back(); }
  const T* data() const { return items().data(); }

  iterator begin() { return own().begin(); }
  iterator end() { return own().end(); }
  T& operator[](size_t i) { return own()[i]; }
  T& at(size_t i) { return own().at(i); }
  T& front() { return own().front(); }
  T& back() { return own().back(); }
  T* data() { return own().data(); }
  void push_back(T item) { own().push_back(std::move(item)); }
  template <class... Args>
  T& emplace_back(Args&&... args) {
    return own().emplace_back(std::forward<Args>(args)...);
  }
  auto insert(const_iterator where, T item) { return own().insert(where, std::move(item)); }
  template <class In>
  auto insert(const_iterator where, In first, In last) {
    return own().insert(where, first, last);
  }
  auto erase(const_iterator first) { return own().erase(first); }
  auto erase(const_iterator first, const_iterator last) { return own().erase(first, last); }
  void pop_back() { own().pop_back(); }
  void resize(size_t size) { own().resize(size); }
  void reserve(size_t size) { own().reserve(size); }
  void clear() { *this = SharedList(); }

 private:
  struct Held {
    Items items = {};
    std::atomic<size_t> holders{1};
  };
  static const Items& none() {
    static const Items empty;
    return empty;
  }
  void drop() {
    if (held_ && held_->holders.fetch_sub(1, std::memory_order_acq_rel) == 1) delete held_;
    held_ = nullptr;
  }

  Held* held_ = nullptr;
};

/// As for a vector.
template <class T, class Which>
size_t erase_if(SharedList<T>& list, Which which) {
  return std::erase_if(list.own(), which);
}

}  // namespace heft
