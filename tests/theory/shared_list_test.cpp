// A list whose copies share their items: what a vector does, and no copy sees another's changes.

#include "core/theory/shared_list.h"

#include <gtest/gtest.h>

#include <random>
#include <thread>

namespace heft {
namespace {

TEST(SharedList, RandomChangesDoWhatAVectorDoesAndNoCopySeesThem) {
  std::mt19937 dice(7);
  const auto below = [&](size_t n) { return static_cast<size_t>(dice() % std::max<size_t>(1, n)); };
  std::vector<std::vector<int>> real(4);
  std::vector<SharedList<int>> mine(4);
  for (int step = 0; step < 20000; ++step) {
    const size_t i = below(4), from = below(4);
    const auto at = static_cast<ptrdiff_t>(below(real[i].size()));
    switch (below(8)) {
      case 0:
        real[i] = real[from], mine[i] = mine[from];
        break;
      case 1:
        real[i].insert(real[i].begin() + at, step), mine[i].insert(mine[i].begin() + at, step);
        break;
      case 2:
        if (real[i].empty()) break;
        real[i].erase(real[i].begin() + at), mine[i].erase(mine[i].begin() + at);
        break;
      case 3:
        if (real[i].empty()) break;
        real[i][static_cast<size_t>(at)] = step, mine[i][static_cast<size_t>(at)] = step;
        break;
      case 4:
        std::erase_if(real[i], [](int v) { return v % 7 == 0; });
        erase_if(mine[i], [](int v) { return v % 7 == 0; });
        break;
      case 5:
        for (int& v : real[i]) ++v;
        for (int& v : mine[i]) ++v;
        break;
      case 6:
        if (below(20) == 0) real[i].clear(), mine[i].clear();
        break;
      default:
        real[i].push_back(step), mine[i].push_back(step);
    }
    for (size_t k = 0; k < 4; ++k) ASSERT_EQ(mine[k].items(), real[k]) << step;
  }
}

TEST(SharedList, CopiesShareUntilOneChangesAndReadingSharesOn) {
  SharedList<int> first = {1, 2, 3};
  const SharedList<int> second = first;
  EXPECT_TRUE(first.shares(second));
  EXPECT_EQ(std::as_const(first)[1], 2);
  EXPECT_EQ(second.front() + second.back() + static_cast<int>(second.size()), 7);
  EXPECT_TRUE(first.shares(second)) << "reading through const keeps them";
  first[1] = 9;
  EXPECT_FALSE(first.shares(second));
  EXPECT_EQ(second, (SharedList<int>{1, 2, 3}));
  EXPECT_EQ(first, (SharedList<int>{1, 9, 3}));
  const int* const place = std::as_const(first).data();
  first[2] = 4;
  EXPECT_EQ(std::as_const(first).data(), place) << "the only holder changes in place";
  const SharedList<int> moved = std::move(first);
  EXPECT_EQ(moved.data(), place);
  EXPECT_TRUE(first.empty());  // NOLINT: a list that was moved from is empty
}

// Each thread has a copy of its own, of the same items.
TEST(SharedList, CopiesMayBeReadAndChangedOnOtherThreads) {
  const std::vector<int> all(1000, 1);
  SharedList<int> kept = all;
  std::vector<std::thread> threads;
  std::vector<int> sums(4);
  for (size_t t = 0; t < 4; ++t)
    threads.emplace_back([t, &sums, copy = kept]() mutable {
      for (int round = 0; round < 200; ++round) {
        SharedList<int> mine = copy;
        for (int& v : mine) v += static_cast<int>(t);
        sums[t] = 0;
        for (const int v : std::as_const(mine)) sums[t] += v;
        copy = round % 2 ? copy : SharedList<int>(copy);
      }
    });
  for (auto& thread : threads) thread.join();
  for (size_t t = 0; t < 4; ++t) EXPECT_EQ(sums[t], 1000 * (1 + static_cast<int>(t)));
  EXPECT_EQ(kept.items(), all);
}

}  // namespace
}  // namespace heft
