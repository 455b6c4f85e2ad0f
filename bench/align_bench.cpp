// Cost of aligning: all ways over a loop of so many hits, with everything rendered already.

#include <benchmark/benchmark.h>

#include "core/solve/align_ways.h"
#include "core/solve/free_turn.h"
#include "core/solve/two_sounds.h"
#include "scenario/make_demo.h"

namespace heft {
namespace {

// The demo's pair, a hit and a note on every half beat.
Session denseLoop(const Session& demo, int hits) {
  Session s = demo;
  s.kick().hits.clear(), s.bass().notes.clear();
  s.track.loopBeats = hits / 2;
  for (int i = 0; i < hits; ++i) {
    s.kick().hits.push_back({0.5 * i, 1.0});
    s.bass().notes.push_back({0.5 * i, 0.45, 33 + i % 5, 0.9});
  }
  return s;
}

void waysToLineUp(benchmark::State& state) {
  static const demo::Demo demo = *demo::make();
  const Session s = denseLoop(demo.session, static_cast<int>(state.range(0)));
  for (auto _ : state) {
    state.PauseTiming();
    StepCache cache;
    benchmark::DoNotOptimize(render(s, demo.assets, cache));
    state.ResumeTiming();
    benchmark::DoNotOptimize(alignWays(s, demo.assets, cache));
  }
}
BENCHMARK(waysToLineUp)->Arg(32)->Arg(256)->Unit(benchmark::kMillisecond);

// Turns for a lower peak of kick and sum, and two sounds against each other, lanes known.
void turnsForALowerPeak(benchmark::State& state) {
  static const demo::Demo demo = *demo::make();
  for (auto _ : state) {
    StepCache cache;
    benchmark::DoNotOptimize(freeTurns(demo.session, demo.assets, cache));
  }
}
BENCHMARK(turnsForALowerPeak)->Unit(benchmark::kMillisecond);

void twoSoundsOfThePair(benchmark::State& state) {
  static const demo::Demo demo = *demo::make();
  StepCache cache;
  Session s = demo.session;
  for (auto _ : state) {
    s.bass().align.delayMs += 0.02;
    benchmark::DoNotOptimize(twoSounds(s, demo.assets, {s.kick().id, {}}, {s.bass().id, {}}, cache));
  }
}
BENCHMARK(twoSoundsOfThePair)->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace heft
