// Cancelling long work: at any moment it ends as cancelled or is done, it leaves nothing half made in the cache
// that it shares, and signals that it made still give their sound.

#include <gtest/gtest.h>

#include <functional>
#include <thread>

#include "core/judge/ledger.h"
#include "core/looks/compare_detail.h"
#include "core/remedies/remedies.h"
#include "core/render/cache/until_stopped.h"
#include "core/solve/align_ways.h"
#include "core/solve/key_advice.h"
#include "core/solve/peak_makers.h"
#include "core/solve/two_sounds.h"
#include "tests/reference/rendered.h"
#include "tests/reference/repeated.h"

namespace heft {
namespace {

using namespace reference;

struct Asked {
  const Session& session;
  StepCache& cache;
  std::stop_token stop;
};

// What a step found, as words to compare; nothing where it was cancelled.
using Step = std::function<std::optional<std::string>(const Asked&)>;

template <class T, class Words>
std::optional<std::string> told(const Result<T>& result, Words words) {
  if (result) return words(*result);
  EXPECT_EQ(result.error().kind, ErrorKind::Cancelled) << result.error().sentence();
  return std::nullopt;
}

std::string exactly(double value) {
  char out[32];
  std::snprintf(out, sizeof out, "%a ", value);
  return out;
}

std::string wordsOfStudy(const Study& of) {
  std::string out =
      exactly(of.pair.alignedDb) + exactly(of.sum.integratedLufs.value_or(0.0)) + exactly(of.line.linePhon);
  for (const HitFacts& h : of.pair.hits) out += exactly(h.heardDb) + exactly(h.own.delayMs);
  for (const double db : of.sum.low.curveDb) out += exactly(db);
  return out;
}

std::string wordsOfLines(const std::vector<Finding>& lines) {
  std::string out;
  for (const Finding& f : lines)
    out += f.id + f.sentence + f.measured + (f.remedy ? f.remedy->label : "") + "\n";
  return out;
}

const Assets& assets() {
  return theDemo().assets;
}

std::vector<std::pair<const char*, Step>> steps() {
  return {{"figures",
           [](const Asked& a) -> std::optional<std::string> {
             const auto stems = render(a.session, assets(), a.cache, a.stop);
             if (!stems) return std::nullopt;
             return told(study(a.session, assets(), *stems, a.cache, a.stop), wordsOfStudy);
           }},
          {"fixes",
           [](const Asked& a) -> std::optional<std::string> {
             const auto lines = judgedSession(a.session, assets(), a.cache, a.stop);
             if (!lines) return std::nullopt;
             return told(withTriedRemedies(a.session, assets(), *lines, a.cache, a.stop), wordsOfLines);
           }},
          {"ways to line up",
           [](const Asked& a) {
             return told(alignWays(a.session, assets(), a.cache, a.stop), [](const AlignWays& w) {
               std::string out;
               for (const AlignWay& way : w.ways) out += way.edit.name + exactly(way.levelDb);
               return out;
             });
           }},
          {"two sounds",
           [](const Asked& a) {
             return told(twoSounds(a.session, assets(), {1, {}}, {2, {}}, a.cache, a.stop),
                         [](const TwoSounds& t) { return exactly(t.nowDb) + exactly(t.best.delayMs); });
           }},
          {"keys", [](const Asked& a) {
             return told(keyAdvice(a.session, assets(), a.cache, a.stop), [](const auto& all) {
               std::string out;
               for (const KeyAdvice& k : all) out += exactly(k.tonicPhon);
               return out;
             });
           }}};
}

TEST(Cancelling, LeavesNothingHalfMade) {
  Session s = theDemo().session;
  repeatAsSong(s, 12);
  s.references.clear();
  for (const auto& [name, step] : steps()) {
    StepCache cold;
    const auto whole = step({s, cold, {}});
    ASSERT_TRUE(whole) << name;
    // One cache through all cancels, more and more of it made; in the end it is as if there had been none.
    StepCache cache = StepCache().onThreads(2);
    int cancels = 0;
    for (int ms = 0; ms < 2000; ms = 2 * ms + 1) {
      std::stop_source stop;
      std::jthread later(
          [&] { std::this_thread::sleep_for(std::chrono::milliseconds(ms)), stop.request_stop(); });
      const auto found = step({s, cache, stop.get_token()});
      if (found) {
        EXPECT_EQ(*found, *whole) << name;
        break;
      }
      ++cancels;
    }
    EXPECT_GT(cancels, 0) << name;
    EXPECT_EQ(step({s, cache, {}}), whole) << name;
  }
}

// A request's stems play on after it was cancelled, and who waits for a step that a cancelled thread was to
// make makes it.
TEST(Cancelling, SignalsAndWaitingThreadsAreNotCancelled) {
  const Session s = theDemo().session;
  std::stop_source stop;
  StepCache cache;
  Session song = s;
  repeatAsSong(song, 4);
  const auto stems = render(song, assets(), cache, stop.get_token());
  ASSERT_TRUE(stems);
  StepCache mine = cache.stoppedBy(stop.get_token());
  const auto again = render(song, assets(), mine, stop.get_token());
  stop.request_stop();
  EXPECT_EQ(again->sum.read(0, 100000, 5000), stems->sum.read(0, 100000, 5000));
  EXPECT_THROW(mine.get<double>(
                   KeyMaker("any").key(), [] { return 1.0; }, [](double) { return size_t{8}; }),
               StepCache::Stopped);
  const StepKey key = KeyMaker("awaited").key();
  std::atomic<bool> begun = false;
  std::jthread first([&] {
    const auto made = untilStopped(cache, {}, [&](StepCache& own) -> Result<double> {
      return *own.get<double>(
          key,
          [&]() -> double {
            begun = true, std::this_thread::sleep_for(std::chrono::milliseconds(30));
            throw StepCache::Stopped();
          },
          [](double) { return size_t{8}; });
    });
    EXPECT_EQ(made.error().kind, ErrorKind::Cancelled);
  });
  while (!begun) std::this_thread::yield();
  EXPECT_EQ(*cache.get<double>(
                key, [] { return 2.0; }, [](double) { return size_t{8}; }),
            2.0);
}

}  // namespace
}  // namespace heft
