// From a cancel to a step's return: each long step of a ten-minute song and of a loop of 64 bars, begun cold
// and cancelled at several moments. Reported is the longest wait.

#include <benchmark/benchmark.h>

#include <chrono>
#include <filesystem>
#include <functional>
#include <thread>

#include "bench/long_track.h"
#include "core/compare/track_profile.h"
#include "core/judge/ledger.h"
#include "core/looks/compare_detail.h"
#include "core/remedies/remedies.h"
#include "core/solve/align_ways.h"
#include "core/solve/free_turn.h"
#include "core/solve/key_advice.h"
#include "core/solve/peak_makers.h"
#include "core/solve/two_sounds.h"
#include "core/solve/ways.h"
#include "core/sound/audio_file.h"
#include "engine/player/lane_levels.h"

namespace {

using namespace heft;
using Clock = std::chrono::steady_clock;

struct Tried {
  const bench::LongTrack& track;
  StepCache& cache;
  std::stop_token stop;
};
using Step = std::function<void(const Tried&)>;

std::optional<Stems> stemsOf(const Tried& t) {
  auto stems = render(t.track.session, t.track.assets, t.cache, t.stop);
  return stems ? std::optional(std::move(*stems)) : std::nullopt;
}

struct NamedStep {
  const char* name;
  bool song;
  Step run;
};

const std::vector<NamedStep>& steps() {
  static const std::vector<NamedStep> all = {
      {"render of 64 bars", false,
       [](const Tried& t) { (void)render(t.track.session, t.track.assets, t.cache, t.stop); }},
      {"waves", true,
       [](const Tried& t) {
         if (const auto stems = stemsOf(t)) laneWaves(*stems, t.cache, t.stop);
       }},
      {"figures", true,
       [](const Tried& t) {
         if (const auto stems = stemsOf(t))
           (void)study(t.track.session, t.track.assets, *stems, t.cache, t.stop);
       }},
      {"figures of 64 bars", false,
       [](const Tried& t) {
         if (const auto stems = stemsOf(t))
           (void)study(t.track.session, t.track.assets, *stems, t.cache, t.stop);
       }},
      {"fixes", true,
       [](const Tried& t) {
         if (const auto lines = judgedSession(t.track.session, t.track.assets, t.cache, t.stop))
           (void)withTriedRemedies(t.track.session, t.track.assets, *lines, t.cache, t.stop);
       }},
      {"fix all", true,
       [](const Tried& t) { (void)mendAll(t.track.session, t.track.assets, t.cache, {}, t.stop); }},
      {"ways to make room", true,
       [](const Tried& t) { (void)waysToMakeRoom(t.track.session, t.track.assets, t.cache, t.stop); }},
      {"ways to line up", true,
       [](const Tried& t) { (void)alignWays(t.track.session, t.track.assets, t.cache, t.stop); }},
      {"peak all-passes", true,
       [](const Tried& t) { (void)freeTurns(t.track.session, t.track.assets, t.cache, t.stop); }},
      {"keys", true, [](const Tried& t) { (void)keyAdvice(t.track.session, t.track.assets, t.cache, t.stop); }},
      {"peaks blamed", true,
       [](const Tried& t) {
         if (const auto stems = stemsOf(t))
           (void)peakMakers(t.track.session, t.track.assets, *stems, 6.0, -1.0, t.cache, t.stop);
       }},
      {"two sounds", true,
       [](const Tried& t) {
         (void)twoSounds(t.track.session, t.track.assets, {1, {}}, {2, {}}, t.cache, t.stop);
       }},
      {"a track of ten minutes profiled", true,
       [](const Tried& t) {
         (void)profileTrack(*t.track.assets.find(t.track.session.backing.asset)->sound, t.stop);
       }},
  };
  return all;
}

void cancelled(benchmark::State& state) {
  const NamedStep& step = steps()[static_cast<size_t>(state.range(0))];
  const bench::LongTrack track = bench::longTrack(step.song);
  state.SetLabel(step.name);
  double longest = 0.0, reached = 0.0;
  for (auto _ : state) {
    for (const int afterMs : {5, 40, 120, 300, 700, 1500, 3000, 5000, 8000}) {
      StepCache cache = StepCache().onAllThreads();
      std::stop_source stop;
      Clock::time_point asked{};
      std::jthread canceller([&](const std::stop_token& over) {
        for (int ms = 0; ms < afterMs && !over.stop_requested(); ++ms)
          std::this_thread::sleep_for(std::chrono::milliseconds(1));
        if (over.stop_requested()) return;
        asked = Clock::now(), stop.request_stop();
      });
      step.run({track, cache, stop.get_token()});
      const auto back = Clock::now();
      canceller.request_stop(), canceller.join();
      if (!stop.stop_requested() || asked > back) break;  // it was done before
      longest = std::max(longest, std::chrono::duration<double>(back - asked).count()), reached = afterMs;
    }
    state.SetIterationTime(longest);
  }
  state.counters["cancelled_up_to_ms"] = reached;
}
BENCHMARK(cancelled)
    ->ArgName("step")
    ->DenseRange(0, static_cast<int>(steps().size()) - 1)
    ->UseManualTime()
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1);

}  // namespace
