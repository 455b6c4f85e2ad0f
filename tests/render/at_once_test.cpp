// Shared work: all of it runs once, at any depth, and nothing deadlocks.

#include "core/render/cache/at_once.h"

#include <gtest/gtest.h>

#include <chrono>
#include <numeric>
#include <set>

namespace heft {
namespace {

// A tree of sums: work that shares out work, three deep; others ask for the key of each step too.
int sumBelow(StepCache& cache, int from, int depth) {
  const auto parts = madeAtOnce(4, cache, {}, [&](size_t i) {
    const int leaf = 4 * from + static_cast<int>(i);
    return *cache.get<int>(
        KeyMaker("tree").add(depth).add(leaf).key(),
        [&] { return depth == 0 ? leaf : sumBelow(cache, leaf, depth - 1); }, [](int) { return size_t{4}; });
  });
  return std::accumulate(parts.begin(), parts.end(), 0);
}

// The closed form of sumBelow().
int plainSum(int from, int depth) {
  int sum = 0;
  for (int i = 0; i < 4; ++i) sum += depth == 0 ? 4 * from + i : plainSum(4 * from + i, depth - 1);
  return sum;
}

}  // namespace

TEST(AtOnce, WorkWithinWorkIsDoneOnceByWhoeverIsFree) {
  for (size_t threads : {1u, 2u, 3u, 8u})
    for (int turn = 0; turn < 20; ++turn) {
      StepCache cache = StepCache().onThreads(threads);
      EXPECT_EQ(sumBelow(cache, 1, 3), plainSum(1, 3)) << threads;
    }
}

TEST(AtOnce, SeveralWhoShareTheSameHelpersAllGetTheirs) {
  const StepCache kept;
  std::vector<std::jthread> users;
  std::atomic<int> right{0};
  for (int user = 0; user < 4; ++user)
    users.emplace_back([&, user] {
      StepCache cache = kept.onThreads(3);
      for (int turn = 0; turn < 20; ++turn) right += sumBelow(cache, user % 2, 2) == plainSum(user % 2, 2);
    });
  users.clear();
  EXPECT_EQ(right, 80);
}

// While a helper is at the one long step, a waiting thread takes the steps within it.
TEST(AtOnce, WhoWaitsHelpsWithWhatItWaitsFor) {
  StepCache cache = StepCache().onThreads(2);
  std::mutex mutex;
  std::set<std::thread::id> within;
  auto slow = [&](size_t) {
    std::this_thread::sleep_for(std::chrono::milliseconds(3));
    const std::lock_guard lock(mutex);
    within.insert(std::this_thread::get_id());
    return 0;
  };
  madeAtOnce(2, cache, {}, [&](size_t i) { return i == 0 ? 0 : madeAtOnce(40, cache, {}, slow).front(); });
  EXPECT_EQ(within.size(), 2u);
}

TEST(AtOnce, WhatIsStoppedIsLeft) {
  StepCache cache = StepCache().onThreads(3);
  std::stop_source source;
  std::atomic<int> made{0};
  madeAtOnce(1000, cache, source.get_token(), [&](size_t) {
    if (++made == 5) source.request_stop();
    return 0;
  });
  EXPECT_LT(made, 10);
}

}  // namespace heft
