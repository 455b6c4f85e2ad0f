// Costs of long tracks: ten minutes of kick, bass and a stereo backing at another rate, and a loop of 64 bars.

#include <benchmark/benchmark.h>
#include <malloc.h>

#include <cmath>
#include <fstream>

#include "bench/long_track.h"
#include "core/judge/ledger.h"
#include "core/session/edits/events.h"
#include "core/session/edits/parts.h"
#include "core/session/history.h"
#include "engine/player/lane_levels.h"
#include "engine/player/song_feed.h"

namespace {

using namespace heft;
using bench::longTrack;
using bench::LongTrack;

// As the window is once its worker has been idle for a while.
double residentGigabytes() {
  malloc_trim(0);
  std::ifstream status("/proc/self/statm");
  size_t pages = 0, resident = 0;
  status >> pages >> resident;
  return static_cast<double>(resident) * 4096.0 / 1e9;
}

std::shared_ptr<const LoopSnapshot> snapshotOf(const LongTrack& t, const Stems& stems, StepCache& cache) {
  return makeSnapshot({stems, stems, t.session.track.framesPerQuarter(), 48000, {}, {}, 300.0, false}, cache);
}

// 0: what sounds first, from the middle; 1: every block of every lane, with waves and levels.
void songCold(benchmark::State& state) {
  const LongTrack t = longTrack(true);
  for (auto _ : state) {
    StepCache cache = StepCache().onAllThreads();
    const auto stems = render(t.session, t.assets, cache);
    const auto snapshot = snapshotOf(t, *stems, cache);
    SongFeed::layOut(*snapshot, 300.0, 48000, false);
    if (state.range(0) == 1) benchmark::DoNotOptimize(laneWaves(*stems, cache));
  }
  state.counters["GB"] = residentGigabytes();
}
BENCHMARK(songCold)
    ->ArgName("0 first sound, 1 all")
    ->DenseRange(0, 1)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1);

// A hit's velocity in the middle, the playhead there. 0: heard; 1: lanes complete again; 2: and figures.
void songEdit(benchmark::State& state) {
  LongTrack t = longTrack(true);
  StepCache cache = StepCache().onAllThreads();
  const auto first = render(t.session, t.assets, cache);
  laneWaves(*first, cache);
  if (state.range(0) == 2) (void)study(t.session, t.assets, *first, cache);
  double velocity = 0.5;
  const auto& hits = t.session.kick().hits;
  const double at = hits[hits.size() / 2].startQuarters;
  for (auto _ : state) {
    t.session = setVelocity(t.session.kick(), at, velocity += 0.001).applied(t.session);
    const auto stems = render(t.session, t.assets, cache);
    const auto snapshot = snapshotOf(t, *stems, cache);
    SongFeed::layOut(*snapshot, at, 48000, false);
    if (state.range(0) >= 1) benchmark::DoNotOptimize(laneWaves(*stems, cache));
    if (state.range(0) == 2) benchmark::DoNotOptimize(study(t.session, t.assets, *stems, cache));
  }
  state.counters["GB"] = residentGigabytes();
}
BENCHMARK(songEdit)
    ->ArgName("0 heard, 1 complete, 2 with figures")
    ->DenseRange(0, 2)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(3);

// 64 bars. 0: an edit heard; 1: with its figures.
void longLoopEdit(benchmark::State& state) {
  LongTrack t = longTrack(false);
  StepCache cache = StepCache().onAllThreads();
  const auto first = render(t.session, t.assets, cache);
  if (state.range(0) == 1) (void)study(t.session, t.assets, *first, cache);
  double velocity = 0.5;
  const double at = t.session.kick().hits[t.session.kick().hits.size() / 2].startQuarters;
  for (auto _ : state) {
    t.session = setVelocity(t.session.kick(), at, velocity += 0.001).applied(t.session);
    const auto stems = render(t.session, t.assets, cache);
    if (state.range(0) == 0)
      benchmark::DoNotOptimize(snapshotOf(t, *stems, cache));
    else
      benchmark::DoNotOptimize(study(t.session, t.assets, *stems, cache));
  }
}
BENCHMARK(longLoopEdit)
    ->ArgName("0 heard, 1 figures")
    ->DenseRange(0, 1)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(3);

// A hand on a value, or on an event, of the largest session: the edit and its step in the history, as with each
// move of the mouse.
void largestEdit(benchmark::State& state) {
  constexpr int kParts = 16, kEvents = 4096;
  Session s = longTrack(false).session;
  while (s.parts.size() < kParts) {
    s.parts.push_back(s.parts[s.parts.size() % 2]);
    s.parts.back().id = static_cast<int>(s.parts.size());
  }
  for (Part& part : s.parts)
    for (int i = 0; i < kEvents; ++i) {
      const double at = 256.0 * i / kEvents;
      if (i == 0) part.hits.clear(), part.notes.clear();
      if (part.playsNotes())
        part.notes.push_back({at, 0.05, 36, 0.8});
      else
        part.hits.push_back({at, 0.8});
    }
  History history(s);
  double db = 0.0;
  for (auto _ : state) {
    db = db < -20.0 ? 0.0 : db - 0.01;
    const Part& kick = history.now().kick();
    const Edit edit = state.range(0) == 0
                          ? setPartLevel(kick, db, "drag")
                          : setVelocity(kick, kick.hits[kEvents / 2].startQuarters, 1.0 + 0.02 * db, "drag");
    history.apply(edit.name, edit.applied(history.now()), edit.mergeKey);
  }
}
BENCHMARK(largestEdit)->ArgName("0 a value, 1 an event")->DenseRange(0, 1)->Unit(benchmark::kMillisecond);

}  // namespace
