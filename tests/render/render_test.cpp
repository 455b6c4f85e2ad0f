// The one path from session to sound: against a plain recomputation, in its steady state, and with only what
// changed.

#include "core/render/lanes/render.h"

#include <gtest/gtest.h>
#include <malloc.h>

#include "core/export/export_files.h"
#include "core/render/cache/at_once.h"
#include "core/shape/trim.h"
#include "core/sound/interpolate.h"
#include "core/sound/resample.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

double worstDifference(const Signal& a, const Signal& b) {
  double worst = 0;
  for (size_t i = 0; i < a.frames(); ++i)
    worst = std::max(worst, std::abs(static_cast<double>(a.at(0, i)) - b.at(0, i)));
  return worst;
}

// The kick lane by hand: each hit's sound added at its frame on the circle, cut by the next hit.
TEST(Render, TheKickLaneIsThePlainSumOfItsHits) {
  Session s = theDemo().session;
  StepCache cache;
  const auto stems = rendered(s, cache);
  const auto& sound = theDemo().assets.sound(s.kick().layers[0].recorded()->asset)->channels[0];
  const double level = std::pow(10.0, s.kick().layers[0].levelDb / 20);
  std::vector<double> want(stems.frames, 0.0);
  for (size_t h = 0; h < s.kick().hits.size(); ++h) {
    const auto at = std::llround(s.kick().hits[h].startQuarters * s.track.framesPerQuarter());
    const auto next = h + 1 < s.kick().hits.size()
                          ? std::llround(s.kick().hits[h + 1].startQuarters * s.track.framesPerQuarter())
                          : static_cast<long long>(stems.frames);
    for (long long i = 0; i < std::min<long long>(static_cast<long long>(sound.size()), next - at); ++i)
      want[static_cast<size_t>(at + i) % stems.frames] +=
          level * s.kick().hits[h].velocity * sound[static_cast<size_t>(i)];
  }
  for (size_t i = 0; i < stems.frames; ++i) {
    // In the last 20 ms before a hit the previous sound fades.
    const bool fading = std::any_of(stems.hitFrames().begin(), stems.hitFrames().end(), [&](double hit) {
      const double ahead = std::fmod(hit - static_cast<double>(i) + static_cast<double>(stems.frames),
                                     static_cast<double>(stems.frames));
      return ahead > 0 && ahead < 961;
    });
    ASSERT_NEAR(stems.kick().at(0, i), want[i], fading ? std::abs(want[i]) + 1e-9 : 1e-6) << i;
  }
}

TEST(Render, LoopLengthIsRoundedOnceAtItsEnd) {
  Session s;
  s.track.tempoBpm = 122;
  s.track.loopBeats = 8;
  EXPECT_EQ(s.track.loopFrames(), 188852u);  // 188,852.459
  s.track.loopBeats = 1;
  EXPECT_EQ(s.track.loopFrames(), 23607u);
}

TEST(Render, TailsWrapIntoTheLoopsStart) {
  Session s = theDemo().session;
  s.kick().hits = {{7.9, 1.0}};
  StepCache cache;
  const auto stems = rendered(s, cache);
  double early = 0, middle = 0;
  for (size_t i = 0; i < 4800; ++i)
    early = std::max(early, std::abs(static_cast<double>(stems.kick().at(0, i))));
  for (size_t i = 90000; i < 95000; ++i)
    middle = std::max(middle, std::abs(static_cast<double>(stems.kick().at(0, i))));
  EXPECT_GT(early, 0.05);
  EXPECT_EQ(middle, 0.0);
}

TEST(Signal, OneSidedSoundIsFollowedAndDrawnFromItsSide) {
  auto block = std::make_shared<Block>();
  block->channels = {{0.1f, -0.1f, 0.1f, 0.0f}, {0.0f, 0.3f, -0.8f, 0.0f}};
  Signal stem({4}, 2);
  stem.push(block, StepKey());
  EXPECT_EQ(stem.loudest(-1, 5), (std::vector<float>{0.0f, 0.1f, 0.3f, -0.8f, 0.0f}));
  EXPECT_EQ(stem.drawnChannel(0, 4), 1u);
  EXPECT_EQ(stem.drawnChannel(0, 1), 0u);
}

TEST(Render, SumIsKickPlusBassPlusBackingToTheBit) {
  StepCache cache;
  const auto stems = rendered(theDemo().session, cache);
  for (size_t c = 0; c < 2; ++c)
    for (size_t i = 0; i < stems.frames; ++i)
      ASSERT_EQ(stems.sum.at(c, i), stems.kick().at(c, i) + stems.bass().at(c, i) + stems.backing.at(c, i));
}

TEST(Render, IsTheSameColdWarmAndAgain) {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  s.bass().align.delayMs = 1.234;
  s.duck().on = true;
  s.duck().band.kind = DuckBandKind::Below, s.duck().band.belowHz = 120;
  StepCache cold, warm;
  rendered(theDemo().session, warm);
  const auto a = rendered(s, cold), b = rendered(s, warm);
  EXPECT_EQ(a.sum.key(), b.sum.key());
  EXPECT_EQ(worstDifference(a.sum, b.sum), 0.0);
}

TEST(Render, AnEditRendersOnlyTheBlocksItTouches) {
  Session s = theDemo().session;
  StepCache cache;
  const auto before = rendered(s, cache);
  s.kick().hits.erase(s.kick().hits.begin() + 4);  // the hit at 4.0 quarters, frame 94426
  const auto after = rendered(s, cache);
  size_t shared = 0;
  for (size_t b = 0; b < before.sum.blockCount(); ++b) shared += before.sum.sharesBlock(after.sum, b) ? 1 : 0;
  EXPECT_GE(shared, before.sum.blockCount() - 3);
  EXPECT_LT(shared, before.sum.blockCount());
  for (size_t b = 0; b < before.bass().blockCount(); ++b)
    EXPECT_TRUE(before.bass().sharesBlock(after.bass(), b));
}

TEST(Render, AlignMovesTheBassByPartsOfASample) {
  Session s = theDemo().session;
  s.bass().notes = {{2.0, 1.0, 33, 1.0}};
  StepCache cache;
  const auto still = rendered(s, cache);
  s.bass().align = {2.505, true, {}};  // 120.24 samples
  const auto moved = rendered(s, cache);
  const auto x = still.bass().read(0, 0, still.frames);
  const auto want = readAt(x, -120.24, 1.0, still.frames);
  double worst = 0;
  for (size_t i = 50000; i < 75000; ++i)
    worst = std::max(worst, std::abs(static_cast<double>(moved.bass().at(0, i)) + want[i]));
  EXPECT_LT(worst, 1e-4);
  EXPECT_EQ(worstDifference(still.bassPlaced(), moved.bassPlaced()), 0.0);
}

TEST(Render, DuckedBassIsTheMovedBassTimesTheGain) {
  Session s = theDemo().session;
  s.duck().on = true;
  StepCache cache;
  const auto stems = rendered(s, cache);
  for (size_t i = 0; i < stems.frames; ++i)
    ASSERT_NEAR(stems.bass().at(0, i), stems.bassPlaced().at(0, i) * stems.gain().at(0, i), 1e-7);
}

TEST(Render, BlockwiseCrossoverIsThePlainOne) {
  Session s = theDemo().session;
  s.duck().on = true;
  s.duck().band.kind = DuckBandKind::Below, s.duck().band.belowHz = 90;
  s.bass().align = {3.3, true, {}};  // the lows are moved, not made of the moved bass: that must be the same
  StepCache cache;
  const auto stems = rendered(s, cache);
  Session dry = s;
  dry.duck().on = false;
  const auto x = rendered(dry, cache).bass().read(0, 0, stems.frames),
             g = stems.gain().read(0, 0, stems.frames);
  // Direct sum with the kernel of the header's definition at a few hundred frames.
  const auto kernel = [&] {
    const auto half = static_cast<ptrdiff_t>(std::ceil(5.5 * 48000 / 90.0 / 2));
    std::vector<double> k;
    double sum = 0;
    for (ptrdiff_t i = -half; i <= half; ++i) {
      const double a = 2 * 90.0 / 48000 * static_cast<double>(i),
                   p = std::numbers::pi * static_cast<double>(i) / static_cast<double>(half + 1);
      k.push_back((i == 0 ? 1 : std::sin(std::numbers::pi * a) / (std::numbers::pi * a)) *
                  (0.42 + 0.5 * std::cos(p) + 0.08 * std::cos(2 * p)));
      sum += k.back();
    }
    for (double& v : k) v /= sum;
    return k;
  }();
  const auto n = static_cast<ptrdiff_t>(x.size()), half = static_cast<ptrdiff_t>(kernel.size() / 2);
  for (ptrdiff_t at = 0; at < n; at += 811) {
    double low = 0;
    for (ptrdiff_t k = -half; k <= half; ++k)
      low += kernel[static_cast<size_t>(k + half)] * x[static_cast<size_t>(((at + k) % n + n) % n)];
    const auto i = static_cast<size_t>(at);
    ASSERT_NEAR(stems.bass().at(0, i), x[i] + (g[i] - 1.0) * low, 1e-5) << at;
  }
}

// Converts only as much of a long backing as the loop plays, with the same result as converting all of it.
TEST(Render, ALongBackingAtAnotherRateIsConvertedAsFarAsItPlays) {
  TemporaryFolder folder;
  Session s = theDemo().session;
  Assets assets = theDemo().assets;
  const auto path =
      writeSound(folder, "long.wav", bufferOf(noise(0.2, 44100 * 40, 5), 44100), SampleFormat::WavFloat);
  const auto loaded = loadSound(path);
  s.backing.asset = assets.add(*loaded, path);
  s.backing.levelDb = 0.0;
  StepCache cache;
  const auto stems = render(s, assets, cache);
  ASSERT_TRUE(stems);
  const auto whole = resampled(*loaded->sound, 48000);
  for (size_t i = 0; i < stems->frames; i += 7) ASSERT_EQ(stems->backing.at(0, i), whole->channels[0][i]) << i;
  const size_t before = cache.bytes();
  SoundSteps(assets, cache, 48000).backing(s.backing, stems->frames - 4000, cache);
  EXPECT_LT(cache.bytes() - before, 4 * stems->frames + 4096) << "another tempo converts nothing anew";
}

TEST(Render, MutingWhatIsHeardNeverChangesWhatTriggers) {
  Session s = theDemo().session;
  s.duck().on = true;
  StepCache cache;
  const auto heard = rendered(s, cache);
  s.kick().layers[0].mute = true;
  const auto muted = rendered(s, cache);
  EXPECT_EQ(heard.gain().key(), muted.gain().key());
  EXPECT_EQ(worstDifference(heard.bass(), muted.bass()), 0.0);
  double kick = 0;
  for (size_t i = 0; i < muted.frames; ++i)
    kick = std::max(kick, std::abs(static_cast<double>(muted.kick().at(0, i))));
  EXPECT_EQ(kick, 0.0);
}

TEST(Render, BassNotesSoundAtThePatternsPitch) {
  Session s = theDemo().session;
  for (int midi : {28, 33, 36, 45}) {
    s.bass().notes = {{1.0, 5.0, midi, 1.0}};
    StepCache cache;
    const auto stems = rendered(s, cache);
    const auto x = stems.bass().read(0, 30000, 30000);
    EXPECT_NEAR(1200 * std::log2(frequencyByCrossings(x, 48000) / hzFromMidi(midi)), 0.0, 3.0) << midi;
  }
}

TEST(Render, EveryLengthTempoAndRateInRangeWorks) {
  StepCache cache;
  for (double tempo : {40.0, 240.0})
    for (int beats : {1, 3, 32})
      for (double rate : sweep({8000.0, 44100.0, 96000.0})) {
        Session s = theDemo().session;
        s.track.tempoBpm = tempo, s.track.loopBeats = beats, s.track.sampleRate = rate;
        s.duck().on = true, s.duck().band.kind = DuckBandKind::Below, s.duck().band.belowHz = 30,
        s.bass().align.delayMs = -17.3;
        const auto stems = rendered(s, cache);
        EXPECT_EQ(stems.sum.frames(), s.track.loopFrames());
        for (size_t i = 0; i < stems.frames; i += 97) ASSERT_TRUE(std::isfinite(stems.sum.at(0, i)));
      }
}

// Stretching whole sounds at every note of many layers would take minutes: it is refused with a remedy.
TEST(Render, TooMuchToStretchIsRefusedWithASentence) {
  Session s = theDemo().session;
  s.bass().notes.clear();
  for (int i = 0; i < 24; ++i) s.bass().notes.push_back({0.25 * i, 0.2, 24 + i, 1.0});
  const Layer one = s.bass().layers[0];
  s.bass().layers.clear();
  for (int i = 0; i < 8; ++i) {
    s.bass().layers.push_back(one);
    s.bass().layers.back().id = i + 1, s.bass().layers.back().recorded()->keepLength = true;
  }
  const double each = theDemo().assets.sound(one.asset())->seconds();
  EXPECT_NEAR(stretchedSeconds(s, theDemo().assets), 8 * 24 * each, 1e-9);
  StepCache cache;
  const auto refused = render(s, theDemo().assets, cache);
  ASSERT_FALSE(refused);
  EXPECT_EQ(refused.error().kind, ErrorKind::BadUsage);
  EXPECT_NE(refused.error().reason.find("play by speed"), std::string::npos);
  for (Layer& l : s.bass().layers) l.recorded()->keepLength = l.id == 1;
  s.bass().notes.resize(2);
  EXPECT_TRUE(render(s, theDemo().assets, cache));
}

TEST(Render, StopsWhereAsked) {
  StepCache cache;
  std::stop_source stop;
  stop.request_stop();
  const auto stems = render(theDemo().session, theDemo().assets, cache, stop.get_token());
  ASSERT_FALSE(stems);
  EXPECT_EQ(stems.error().kind, ErrorKind::Cancelled);
}

// What the allocator itself reports: many small figures must not slip under the bound.
TEST(StepCache, MemoryUnderLongEditingStaysAtItsBound) {
  if (isWatched()) GTEST_SKIP() << "sanitizers have an allocator of their own";
  constexpr size_t kBound = 8'000'000;
  StepCache cache(kBound);
  auto fill = [&](int from, int to) {
    for (int i = from; i < to; ++i)
      cache.get<double>(
          KeyMaker("figure").add(i).key(), [i] { return 1.0 * i; }, [](double) { return sizeof(double); });
  };
  const size_t before = mallinfo2().uordblks;
  fill(0, 200000);
  const size_t full = mallinfo2().uordblks;
  fill(200000, 400000);
  EXPECT_LE(cache.bytes(), kBound);
  EXPECT_LT(full - before, kBound * 11 / 10);
  EXPECT_LT(mallinfo2().uordblks, full + kBound / 100) << "and no more after as many again";
}

TEST(StepCache, StaysWithinItsBoundAndDropsTheOldest) {
  StepCache cache(1000);
  auto put = [&](int n) {
    return cache.get<int>(
        KeyMaker("t").add(n).key(), [n] { return n; }, [](int) { return size_t{300}; });
  };
  for (int i = 0; i < 50; ++i) EXPECT_EQ(*put(i), i);
  EXPECT_LE(cache.bytes(), 1000u);
  EXPECT_NE(KeyMaker("t").add(1).key(), KeyMaker("t").add(2).key());
  EXPECT_NE(KeyMaker("t").add(1).key(), KeyMaker("u").add(1).key());
  EXPECT_EQ(KeyMaker("t").add(0.0).key(), KeyMaker("t").add(-0.0).key());
}

// However many threads take part, and however often they meet at one step.
TEST(StepCache, OnSeveralThreadsAStepIsMadeOnceAndARenderIsTheSame) {
  StepCache cache = StepCache().onThreads(8);
  std::atomic<int> made{0};
  const auto out = madeAtOnce(200, cache, {}, [&](size_t i) {
    return *cache.get<int>(
        KeyMaker("met").add(i % 5).key(),
        [&] {
          ++made;
          std::this_thread::sleep_for(std::chrono::milliseconds(2));
          return static_cast<int>(i % 5);
        },
        [](int) { return size_t{4}; });
  });
  EXPECT_EQ(made, 5);
  for (size_t i = 0; i < out.size(); ++i) EXPECT_EQ(out[i], static_cast<int>(i % 5));
  Session s = theDemo().session;
  s.duck().on = true, s.bass().align.delayMs = 3.3;
  s.sum.finish.put({0, SoftClip{true, 6.0, -12.0}});
  StepCache alone, many = StepCache().onThreads(8);
  const Stems one = rendered(s, alone), other = rendered(s, many);
  EXPECT_EQ(one.sum.toBuffer(48000).channels, other.sum.toBuffer(48000).channels);
  EXPECT_EQ(one.sum.key(), other.sum.key());
}

TEST(Export, WritesTheSameSamplesThatPlayWithTheirRoots) {
  TemporaryFolder folder;
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  s.duck().on = true;
  s.exports.format = SampleFormat::WavFloat;
  StepCache cache;
  const auto stems = rendered(s, cache);
  const auto files = exportFiles(s, theDemo().assets, stems, cache);
  ASSERT_TRUE(files);
  ASSERT_TRUE(writeExport(folder / "out", *files));
  const auto sum = loadSound(folder / "out/Saltworks - sum.wav");
  ASSERT_TRUE(sum) << sum.error().sentence();
  EXPECT_EQ(*sum->sound, stems.sum.toBuffer(48000));
  EXPECT_EQ(sum->sound->frames(), 188852u);
  const auto kick = loadSound(folder / "out/Saltworks - kick A1.wav");
  ASSERT_TRUE(kick);
  EXPECT_NEAR(1200 * std::log2(*measureSound(*kick->sound).landing.hz / 55.0), 0.0, 2.0);
  EXPECT_NE(contentsOf(folder / "out/Saltworks - kick A1.wav").find("smpl"), std::string::npos);
  EXPECT_TRUE(std::filesystem::exists(folder / "out/Saltworks - gain.csv"));
  EXPECT_TRUE(std::filesystem::exists(folder / "out/Saltworks - gain.mid"));
  EXPECT_NE(exportLog(*files, "out").find("Saltworks - sum.wav"), std::string::npos);
  EXPECT_EQ(sizeText(49702), "50 kB");
  EXPECT_EQ(sizeText(1323044), "1.3 MB");
}

TEST(Export, AFaultLeavesNoHalfSet) {
  TemporaryFolder folder;
  StepCache cache;
  const auto stems = rendered(theDemo().session, cache);
  const auto files = exportFiles(theDemo().session, theDemo().assets, stems, cache);
  std::filesystem::create_directories(folder / ("out/" + files->back().name));
  const auto wrote = writeExport(folder / "out", *files);
  ASSERT_FALSE(wrote);
  EXPECT_EQ(wrote.error().kind, ErrorKind::Unwritable);
  size_t left = 0;
  for ([[maybe_unused]] const auto& e : std::filesystem::directory_iterator(folder / "out")) ++left;
  EXPECT_EQ(left, 1u);
}

}  // namespace
}  // namespace heft
