#pragma once
/// Numbers whose names are hidden and mixed, and how often what was behind them was preferred.

#include <algorithm>
#include <map>
#include <numeric>
#include <random>
#include <vector>

namespace heft::app {

class BlindOrder {
 public:
  /// In order, each number what it says.
  void show(size_t count) {
    hidden_ = false;
    order_.resize(count);
    std::iota(order_.begin(), order_.end(), size_t{0});
  }
  /// In a new random order.
  void hide(size_t count) {
    show(count);
    hidden_ = true;
    std::shuffle(order_.begin(), order_.end(), std::mt19937(std::random_device{}()));
  }
  bool isHidden() const { return hidden_; }
  size_t count() const { return order_.size(); }
  /// `number` < count().
  size_t behind(size_t number) const { return order_[number]; }
  size_t numberOf(size_t which) const {
    return static_cast<size_t>(std::find(order_.begin(), order_.end(), which) - order_.begin());
  }

  void prefer(int what) { ++tally_[what]; }
  int tallyOf(int what) const {
    const auto at = tally_.find(what);
    return at == tally_.end() ? 0 : at->second;
  }
  const std::map<int, int>& tally() const { return tally_; }
  void forgetTally() { tally_.clear(); }

 private:
  bool hidden_ = false;
  std::vector<size_t> order_;
  std::map<int, int> tally_;
};

}  // namespace heft::app
