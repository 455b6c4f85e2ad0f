// What duckings cost: a minute of each movement, an edit of a point, ways to make room.

#include <benchmark/benchmark.h>

#include "core/duck/apply.h"
#include "core/duck/follower.h"
#include "core/duck/mirror.h"
#include "core/session/edits/ducks.h"
#include "core/solve/ways.h"
#include "scenario/make_demo.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

constexpr double kBenchRate = 48000, kMinute = 60.0;

const demo::Demo& duckDemo() {
  static const demo::Demo demo = *demo::make();
  return demo;
}

// A kick each half second.
std::vector<float> kicks() {
  std::vector<float> out(static_cast<size_t>(kMinute * kBenchRate));
  for (size_t i = 0; i < out.size(); ++i) {
    const double t = std::fmod(i / kBenchRate, 0.5);
    out[i] = static_cast<float>(0.8 * std::exp(-t / 0.1) * std::sin(reference::kTwoPi * 55 * t));
  }
  return out;
}

void minuteOfDucking(benchmark::State& state) {
  const auto kick = kicks();
  const auto tone = reference::sine(50, 0.4, kMinute, kBenchRate);
  const std::vector<float> bass(tone.begin(), tone.end());
  std::vector<Trigger> triggers;
  for (double t = 0; t < kMinute; t += 0.5) triggers.push_back({t * kBenchRate});
  DrawnDip points{9, 2, 34, 85};
  points.points = pointsOf(points), points.lengthMs = points.wholeMs();
  std::vector<float> gain(kick.size());
  for (auto _ : state) {
    switch (state.range(0)) {
      case 0:
        DipPlan({9, 2, 34, 85}, triggers, kBenchRate, {0, false}).fill(0, gain);
        break;
      case 1:
        DipPlan(points, triggers, kBenchRate, {0, false}).fill(0, gain);
        break;
      case 2:
      case 3: {
        Follower f{.thresholdDb = -24, .ratio = 6, .level = state.range(0) == 2 ? LevelBy::Peak : LevelBy::Rms};
        FollowerState rest;
        followLevel(f, kick, kBenchRate, rest, gain);
        break;
      }
      default:
        benchmark::DoNotOptimize(mirrorGain({}, kick, bass, kBenchRate));
    }
    benchmark::DoNotOptimize(gain.data());
  }
  state.counters["times_real_time"] =
      benchmark::Counter(kMinute * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}
BENCHMARK(minuteOfDucking)
    ->ArgName("0 curve, 1 points, 2 follower, 3 its RMS, 4 mirror")
    ->DenseRange(0, 4)
    ->Unit(benchmark::kMillisecond);

// A point that is dragged, from the edit to the lanes that are played.
void editOfAPoint(benchmark::State& state) {
  StepCache cache(size_t{128} << 20);
  Session s = duckDemo().session;
  s.duck().on = true;
  drawDip(s.duck(), {9, 2, 34, 85}).change(s);
  if (state.range(0) == 1) s.duck().movement = Movement::Follower;
  if (state.range(0) == 2) s.duck().movement = Movement::Mirror;
  benchmark::DoNotOptimize(render(s, duckDemo().assets, cache));
  int n = 0;
  for (auto _ : state) {
    s.duck().curve.points[1].taken = 0.5 + 0.0005 * (++n % 900);
    s.duck().follower.thresholdDb = -40.0 + 0.02 * (n % 900);
    s.duck().mirror.withinDb = 0.5 + 0.005 * (n % 900);
    benchmark::DoNotOptimize(render(s, duckDemo().assets, cache));
  }
}
BENCHMARK(editOfAPoint)
    ->ArgName("0 point, 1 threshold, 2 within")
    ->DenseRange(0, 2)
    ->Unit(benchmark::kMillisecond);

void waysOfTwoBars(benchmark::State& state) {
  for (auto _ : state) {
    state.PauseTiming();
    StepCache cache;
    benchmark::DoNotOptimize(render(duckDemo().session, duckDemo().assets, cache));
    state.ResumeTiming();
    benchmark::DoNotOptimize(waysToMakeRoom(duckDemo().session, duckDemo().assets, cache));
  }
}
BENCHMARK(waysOfTwoBars)->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace heft
