// The costs of docs/performance.md. Each result is checked before it is timed. Ratios come from one run:
// machines differ.

#include <benchmark/benchmark.h>
#include <ebur128.h>

#include <cmath>
#include <cstdlib>
#include <filesystem>

#include "core/compare/ceiling.h"
#include "core/compare/section_facts.h"
#include "core/judge/ledger.h"
#include "core/library/search.h"
#include "core/library/shelf.h"
#include "core/measure/levels/low_end.h"
#include "core/session/pattern.h"
#include "core/solve/peak_makers.h"
#include "core/sound/interpolate.h"
#include "core/sound/resample.h"
#include "engine/player/snapshot.h"
#include "scenario/make_demo.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace {

using namespace heft;

void require(bool fine, const char* what) {
  if (fine) return;
  std::fprintf(stderr, "wrong result before timing: %s\n", what);
  std::abort();
}

const demo::Demo& theDemo() {
  static const demo::Demo demo = *demo::make();
  return demo;
}

Session busy() {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  s.kick().layers[0].recorded()->length = TimeValue::note(1, 16);
  s.bass().align.delayMs = 1.3;
  s.duck().on = true;
  s.duck().band.kind = DuckBandKind::Below;
  return s;
}

void landingOfHalfASecond(benchmark::State& state) {
  reference::KickRecipe recipe;
  recipe.tailMs = 335;
  recipe.clickDb = -20;
  const auto kick = reference::bufferOf(reference::makeKick(recipe), 48000);
  require(std::abs(*measureSound(kick).landing.hz - 55.0) < 0.05, "landing");
  for (auto _ : state) benchmark::DoNotOptimize(measureSound(kick));
}
BENCHMARK(landingOfHalfASecond)->Unit(benchmark::kMillisecond);

// As the library does it, and decoding alone beside it.
void scanOfAFile(benchmark::State& state) {
  reference::TemporaryFolder folder;
  reference::KickRecipe recipe;
  const auto path = reference::writeSound(
      folder, "k.wav", reference::bufferOf(reference::makeKick(recipe), 44100), SampleFormat::Wav24);
  for (auto _ : state) {
    if (state.range(0) == 0)
      benchmark::DoNotOptimize(measureFile({path, 1, 1}));
    else
      benchmark::DoNotOptimize(loadSound(path));
  }
  state.counters["files_per_second"] =
      benchmark::Counter(static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}
BENCHMARK(scanOfAFile)->ArgName("0 all, 1 decoding alone")->DenseRange(0, 1)->Unit(benchmark::kMillisecond);

void searchInTenThousand(benchmark::State& state) {
  theDemo();
  std::vector<LibraryRow> rows(10000);
  for (size_t i = 0; i < rows.size(); ++i) {
    rows[i].file.path = "/sounds/salt works/pan lid " + std::to_string(i) + ".wav";
    rows[i].noteHz = 40.0 * std::exp2(static_cast<double>(i % 977) / 600.0),
    rows[i].tailMs = static_cast<double>(i % 400);
  }
  for (auto _ : state)
    benchmark::DoNotOptimize(
        searched(rows, {.words = "pan 7", .semitones = 2.0}, theDemo().session.track.key, LibraryOrder::Fit));
}
BENCHMARK(searchInTenThousand)->Unit(benchmark::kMillisecond);

void coldRender(benchmark::State& state) {
  require(theDemo().session.kick().hits.size() == 8, "demo");
  for (auto _ : state) {
    StepCache cache = StepCache().onAllThreads();
    benchmark::DoNotOptimize(render(busy(), theDemo().assets, cache));
  }
  const double seconds = 188852 / 48000.0;
  state.counters["times_real_time"] =
      benchmark::Counter(seconds * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}
BENCHMARK(coldRender)->UseRealTime()->Unit(benchmark::kMillisecond);

void oneEdit(benchmark::State& state) {
  StepCache cache = StepCache(size_t{128} << 20)
                        .onAllThreads();  // so that the memory stays the same, not the machine's to find
  Session s = busy();
  require(render(s, theDemo().assets, cache).has_value(), "render");
  int n = 0;
  for (auto _ : state) {
    switch (state.range(0)) {
      case 0:
        s.duck().curve.depthDb = 3.0 + 0.01 * (++n % 900);
        break;
      case 1:
        s.kick().hits[4].velocity = 0.5 + 0.0005 * (++n % 900);
        break;
      case 2:
        s.bass().align.delayMs = 0.02 * (++n % 900);
        break;
      default:
        s.bass().notes[2].lengthQuarters = 0.5 + 0.001 * (++n % 900);
    }
    benchmark::DoNotOptimize(render(s, theDemo().assets, cache));
  }
}
BENCHMARK(oneEdit)
    ->ArgName("0 depth, 1 hit, 2 delay, 3 note")
    ->DenseRange(0, 3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

// Several layers in each part: recorded and built in turn, each with EQ, drive and strike shaping, and a
// finish.
Session layered(int64_t count) {
  Session s = busy();
  const Layer kick = s.kick().layers[0], bass = s.bass().layers[0];
  for (int i = 1; i < count; ++i) {
    Layer k = kick, b = bass;
    if (i % 2) k.what.emplace<KickVoice>(), b.what.emplace<BassVoice>();
    if (i % 2) k.kickVoice()->landingMidi = 33 + 0.01 * i, b.bassVoice()->mid.levelDb = -12.0 - i;
    for (Layer* l : {&k, &b}) {
      l->id = i + 1;
      l->levelDb -= 3.0 * i;
      l->chain.need<Eq>()->lowCut = {true, 50.0 * i, 24};
      // A built bass has its drive in its own mid band.
      l->chain.put({0, Drive{!l->bassVoice(), kAllDrives[static_cast<size_t>(i) % 7], 0.0, 6.0, 1.0}});
      l->chain.put({0, StrikeSustain{true, 3.0, -3.0, 20.0}});
    }
    s.kick().layers.push_back(k), s.bass().layers.push_back(b);
  }
  s.kick().finish.need<Compressor>()->on = s.kick().finish.need<Limiter>()->on =
      s.bass().finish.need<Compressor>()->on = true;
  return s;
}

void coldRenderOfLayers(benchmark::State& state) {
  theDemo();
  for (auto _ : state) {
    StepCache cache = StepCache().onAllThreads();
    benchmark::DoNotOptimize(render(layered(state.range(0)), theDemo().assets, cache));
  }
  state.counters["times_real_time"] = benchmark::Counter(
      188852 / 48000.0 * static_cast<double>(state.iterations()), benchmark::Counter::kIsRate);
}
BENCHMARK(coldRenderOfLayers)
    ->ArgName("layers a part")
    ->Arg(3)
    ->Arg(8)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

void oneEditInLayers(benchmark::State& state) {
  StepCache cache = StepCache(size_t{256} << 20).onAllThreads();
  Session s = layered(state.range(0));
  require(render(s, theDemo().assets, cache).has_value(), "render");
  int n = 0;
  for (auto _ : state) {
    switch (state.range(1)) {
      case 0:
        s.kick().layers[2].levelDb = -20.0 + 0.01 * (++n % 900);
        break;
      case 1:
        s.kick().layers[2].chain.need<Eq>()->lowCut.hz = 100.0 + 0.1 * (++n % 900);
        break;
      case 2:
        s.kick().layers[1].kickVoice()->fall[0].semitones = 12.0 + 0.01 * (++n % 900);
        break;
      default:
        s.bass().layers[1].bassVoice()->partialDb[2] = -40.0 + 0.02 * (++n % 900);
    }
    benchmark::DoNotOptimize(render(s, theDemo().assets, cache));
  }
}
BENCHMARK(oneEditInLayers)
    ->ArgNames({"layers a part", "0 kick level, 1 kick EQ, 2 ribbon, 3 bass partial"})
    ->ArgsProduct({{3, 8}, {0, 1, 2, 3}})
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

void snapshotOfAnEdit(benchmark::State& state) {
  StepCache cache = StepCache().onAllThreads();
  const auto after = render(busy(), theDemo().assets, cache),
             before = render(withoutMoves(busy()), theDemo().assets, cache);
  reference::snapshotOf(*after, *before, 24000, 48000, cache);
  Session s = busy();
  int n = 0;
  for (auto _ : state) {
    state.PauseTiming();
    s.duck().curve.depthDb = 3.0 + 0.01 * (++n % 900);  // another bass lane each time
    const auto edited = render(s, theDemo().assets, cache);
    state.ResumeTiming();
    benchmark::DoNotOptimize(reference::snapshotOf(*edited, *before, 24000, 48000, cache));
  }
}
BENCHMARK(snapshotOfAnEdit)->UseRealTime()->Unit(benchmark::kMillisecond);

// A hit moved with ducking on, on a device of another rate: conversion and matching of what it touched.
// Counted: blocks of the sum that are new.
void snapshotAtAnotherRate(benchmark::State& state) {
  StepCache cache = StepCache().onAllThreads();
  Session s = busy();
  s.track.loopBeats = static_cast<int>(4 * state.range(0));
  s.kick().hits = hitsOnBeats(s.track);
  const auto before = render(withoutMoves(s), theDemo().assets, cache),
             first = render(s, theDemo().assets, cache);
  reference::snapshotOf(*first, *before, 24000, 44100, cache);
  int n = 0;
  double renewed = 0;
  for (auto _ : state) {
    state.PauseTiming();
    s.kick().hits[1].startQuarters = 1.0 + 0.001 * (++n % 400);
    const auto edited = render(s, theDemo().assets, cache);
    renewed = 0;
    for (size_t b = 0; b < edited->sum.blockCount(); ++b)
      renewed += edited->sum.sharesBlock(first->sum, b) ? 0 : 1;
    state.ResumeTiming();
    benchmark::DoNotOptimize(reference::snapshotOf(*edited, *before, 24000, 44100, cache));
  }
  state.counters["sum_blocks"] = static_cast<double>(first->sum.blockCount());
  state.counters["renewed"] = renewed;
}
BENCHMARK(snapshotAtAnotherRate)->ArgName("bars")->Arg(2)->Arg(8)->UseRealTime()->Unit(benchmark::kMillisecond);

void studyOfAnEdit(benchmark::State& state) {
  StepCache cache = StepCache().onAllThreads();
  Session s = busy();
  if (state.range(0) == 3)
    s.bass().finish.list.push_back(addedProcessor(3)), s.bass().finish.list[0].switchOn(true);
  int n = 0;
  // What no edit changes, references included, is measured once.
  benchmark::DoNotOptimize(study(s, theDemo().assets, *render(s, theDemo().assets, cache), cache));
  for (auto _ : state) {
    ++n;
    if (state.range(0) == 0) s.duck().curve.depthDb = 3.0 + 0.01 * (n % 900);
    if (state.range(0) == 1) s.kick().hits[1].startQuarters = 1.0 + 0.001 * (n % 400);
    if (state.range(0) == 2) s.bass().notes[1].lengthQuarters = 0.2 + 0.0005 * (n % 400);
    if (state.range(0) == 3) s.bass().finish.list[0].as<Drive>()->driveDb = 3.0 + 0.01 * (n % 900);
    const auto stems = render(s, theDemo().assets, cache);
    const auto facts = study(s, theDemo().assets, *stems, cache);
    benchmark::DoNotOptimize(ledger(s, *facts));
  }
}
BENCHMARK(studyOfAnEdit)
    ->ArgName("0 depth, 1 a hit, 2 a note, 3 a kept drive")
    ->DenseRange(0, 3)
    ->Unit(benchmark::kMillisecond);

// Two seconds at another speed: our reader and the best converter of libsamplerate.
void twoSecondsFaster(benchmark::State& state) {
  const auto sound = reference::bufferOf(reference::noise(0.1, 96000, 3), 48000);
  const double speed = std::exp2(-0.58 / 12);
  for (auto _ : state) {
    if (state.range(0) == 0) {
      benchmark::DoNotOptimize(playedFaster(sound, speed));
    } else {
      benchmark::DoNotOptimize(resampled(sound, 48000 / speed));
    }
  }
}
BENCHMARK(twoSecondsFaster)
    ->ArgName("0 ours, 1 libsamplerate")
    ->DenseRange(0, 1)
    ->Unit(benchmark::kMillisecond);

void alignSixteenHits(benchmark::State& state) {
  reference::KickRecipe recipe;
  std::vector<double> kick = reference::makeKick(recipe), bass = reference::sine(55, 0.5, 0.5, 48000, 1.0);
  for (auto _ : state) {
    std::vector<AlignCurve> curves;
    for (int i = 0; i < 16; ++i) curves.push_back(alignCurve({kick, bass}, 48000, {}));
    const auto answer = bestAlignment(combined(curves));
    require(answer.afterDb >= answer.beforeDb, "alignment");
  }
}
BENCHMARK(alignSixteenHits)->Unit(benchmark::kMillisecond);

// Five minutes of stereo as FLAC: everything Compare measures, against decoding and libebur128 (loudness and
// true peak) alone.
std::string fiveMinutes() {
  static const std::string bytes = [] {
    auto x = reference::noise(0.1, 48000 * 300, 3);
    for (size_t i = 0; i < x.size(); ++i)
      x[i] += 0.3 * std::sin(reference::kTwoPi * 50 * static_cast<double>(i) / 48000);
    return *encodeSound(reference::bufferOf(x, 48000, 2), SampleFormat::Flac24);
  }();
  return bytes;
}

void referenceAllFigures(benchmark::State& state) {
  const std::string bytes = fiveMinutes();
  for (auto _ : state) {
    const auto loaded = decodeSound(bytes, "r");
    benchmark::DoNotOptimize(measureProgramme(*loaded->sound));
  }
}
BENCHMARK(referenceAllFigures)->Unit(benchmark::kMillisecond)->Iterations(2);

// As it arrives: the whole track for the shelf, then its section with all facts.
void referenceArrives(benchmark::State& state) {
  const std::string bytes = fiveMinutes();
  for (auto _ : state) {
    const auto loaded = decodeSound(bytes, "r");
    const auto track = profileTrack(*loaded->sound);
    const Section section = proposedSection(*track);
    const auto profile = profileSection(stretchOf(*loaded->sound, section.fromSeconds, section.toSeconds));
    benchmark::DoNotOptimize(factsOf(*profile));
  }
}
BENCHMARK(referenceArrives)->Unit(benchmark::kMillisecond)->Iterations(2);

// The demo's sum at -8 LUFS under a limiter, and everything taken out of its five worst peaks one at a time.
void ceilingAndBlame(benchmark::State& state) {
  const auto& demo = reference::theDemo();
  StepCache rendered;
  const auto stems = render(demo.session, demo.assets, rendered);
  std::vector<double> hits;
  for (const double frame : stems->hitFrames()) hits.push_back(frame / stems->sampleRate);
  for (auto _ : state) {
    state.PauseTiming();
    StepCache cache;
    benchmark::DoNotOptimize(render(demo.session, demo.assets, cache));
    state.ResumeTiming();
    const auto facts = underCeiling(stems->sum.toBuffer(stems->sampleRate), true, {-8.0}, hits, 100.0);
    benchmark::DoNotOptimize(peakMakers(demo.session, demo.assets, *stems, facts->gainDb, -1.0, cache));
  }
}
BENCHMARK(ceilingAndBlame)->Unit(benchmark::kMillisecond);

void referenceDecodingAndLoudnessAlone(benchmark::State& state) {
  const std::string bytes = fiveMinutes();
  for (auto _ : state) {
    const auto loaded = decodeSound(bytes, "r");
    ebur128_state* meter = ebur128_init(2, 48000, EBUR128_MODE_I | EBUR128_MODE_TRUE_PEAK);
    std::vector<float> piece(2 * 16384);
    for (size_t at = 0; at < loaded->sound->frames(); at += 16384) {
      const size_t count = std::min<size_t>(16384, loaded->sound->frames() - at);
      for (size_t i = 0; i < count; ++i)
        for (size_t c = 0; c < 2; ++c) piece[2 * i + c] = loaded->sound->channels[c][at + i];
      ebur128_add_frames_float(meter, piece.data(), count);
    }
    double lufs = 0;
    ebur128_loudness_global(meter, &lufs);
    benchmark::DoNotOptimize(lufs);
    ebur128_destroy(&meter);
  }
}
BENCHMARK(referenceDecodingAndLoudnessAlone)->Unit(benchmark::kMillisecond)->Iterations(2);

}  // namespace

BENCHMARK_MAIN();
