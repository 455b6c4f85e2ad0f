// Ducking: movements, bands, detector and files.

#include <gtest/gtest.h>

#include <numbers>
#include <numeric>

#include "core/duck/apply.h"
#include "core/duck/detector.h"
#include "core/duck/hit_spectra.h"
#include "core/measure/levels/spectrum.h"
#include "core/sound/filter.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"
#include "tests/reference/triggers.h"

namespace heft {
namespace {

using namespace reference;
constexpr double kDuckRate = 48000;

ActingBand below(double hz) {
  return {.kind = DuckBandKind::Several, .steps = {{hz, 1.0}}};
}

TEST(Dip, ReachesItsDepthHoldsAndIsBackInTime) {
  for (double depth : {3.0, 8.5, 24.0, 120.0}) {
    const DrawnDip dip{depth, 4, 30, 80};
    const auto triggers = triggersAt({4800});
    const auto gain = drawnGain(dip, triggers, kDuckRate, 48000, false);
    auto db = [&](double ms) { return dbFromAmplitude(gain[static_cast<size_t>(4800 + ms * 48)], -120); };
    EXPECT_EQ(gain[4799], 1.0f);
    EXPECT_NEAR(db(4.05), -depth, 0.01);
    EXPECT_NEAR(db(33.9), -depth, 0.01);
    EXPECT_GT(db(114.0), -0.5);
    EXPECT_EQ(gain[47999], 1.0f);
    const auto facts = measureDip(gain, triggers, kDuckRate);
    EXPECT_NEAR(facts.depthDb, -depth, 0.01);
    EXPECT_LE(facts.returnMs, 114.0);
    EXPECT_EQ(facts.fired, 1);
    // No corner that could click: over 1 ms the gain changes by less than the whole way in the attack would.
    for (size_t i = 1; i < gain.size(); ++i) ASSERT_LT(std::abs(gain[i] - gain[i - 1]), 1.6 / (4 * 48)) << i;
  }
}

TEST(Dip, ADepthIsWhereItsGainIs) {
  for (double db : {0.0, 0.3, 8.5, 24.0, 39.9}) EXPECT_NEAR(depthAtGain(gainAtDepth(db)), db, 1e-9);
  EXPECT_EQ(gainAtDepth(kSilentDepthDb), 0.0);
  EXPECT_EQ(depthAtGain(0.0), kSilentDepthDb);
}

TEST(Dip, TriggersDuringAReturnStartFromWhereTheGainIs) {
  const auto triggers = triggersAt({1000, 1000 + 60 * 48, 1000 + 75 * 48});
  const auto gain = drawnGain({12, 5, 20, 100}, triggers, kDuckRate, 48000, false);
  for (size_t i = 1; i < gain.size(); ++i) ASSERT_LT(std::abs(gain[i] - gain[i - 1]), 0.006f);
  EXPECT_EQ(measureDip(gain, triggers, kDuckRate).fired, 3);
}

// A loop in its steady state is what the third turn of an unwrapped stretch sounds like.
TEST(Dip, ALoopIsItsOwnSteadyState) {
  const size_t n = 30000;
  const auto triggers = triggersAt({500, 12000, 28000});
  std::vector<Trigger> longTriggers;
  for (int turn = 0; turn < 3; ++turn)
    for (const Trigger& t : triggers) longTriggers.push_back({t.frame + turn * static_cast<double>(n)});
  const DrawnDip dip{9, 3, 40, 150};
  const auto loop = drawnGain(dip, triggers, kDuckRate, n, true);
  const auto longRun = drawnGain(dip, longTriggers, kDuckRate, 3 * n, false);
  for (size_t i = 0; i < n; ++i) ASSERT_NEAR(loop[i], longRun[2 * n + i], 1e-6) << i;
}

TEST(Crossover, LeavesTheSoundExactlyAsItIsWhereNothingMoves) {
  const auto x = bufferOf(noise(0.2, 30000, 8), kDuckRate, 2);
  const std::vector<float> ones(30000, 1.0f);
  EXPECT_EQ(ducked(x, ones, below(120), false), x);
  EXPECT_EQ(ducked(x, ones, {}, false), x);
}

TEST(Crossover, MovesOnlyWhatLiesBelow) {
  std::vector<float> half(48000, 0.5f);
  auto levelOf = [&](double hz) {
    const auto y = ducked(bufferOf(sine(hz, 0.5, 1.0, kDuckRate), kDuckRate), half, below(120), true);
    return 20 * std::log10(rms({y.channels[0].begin(), y.channels[0].end()}) / (0.5 / std::numbers::sqrt2));
  };
  EXPECT_NEAR(levelOf(40), -6.02, 0.1);
  EXPECT_NEAR(levelOf(400), 0.0, 0.02);
  EXPECT_NEAR(levelOf(5000), 0.0, 0.001);
  // Linear phase: a 55 Hz tone keeps its zero crossings.
  const auto y = ducked(bufferOf(sine(55, 0.5, 1.0, kDuckRate), kDuckRate), half, below(120), true);
  const auto x = sine(55, 0.5, 1.0, kDuckRate);
  for (size_t i = 0; i < x.size(); ++i) ASSERT_NEAR(y.channels[0][i], 0.5 * x[i], 0.01);
}

// A drum loop with known times: kicks, snares with a body at 190 Hz, and hats, in three patterns off and on the
// beat.
TEST(Detector, FindsKicksAndIgnoresSnaresAndHats) {
  KickRecipe recipe;
  recipe.tailMs = 250;
  recipe.clickDb = -18;
  const auto kick = makeKick(recipe);
  const std::vector<std::vector<double>> patterns = {
      {0.0, 0.5, 1.0, 1.5, 2.0}, {0.1, 0.475, 1.225, 1.35, 1.975, 2.1}, {0.3, 0.48, 1.71}};
  for (const auto& pattern : patterns) {
    std::vector<double> x(static_cast<size_t>(2.6 * kDuckRate), 0.0);
    auto add = [&](const std::vector<double>& sound, double at, double gain) {
      const auto first = static_cast<size_t>(at * kDuckRate);
      for (size_t i = 0; i < sound.size() && first + i < x.size(); ++i) x[first + i] += gain * sound[i];
    };
    std::vector<double> snare = noise(0.15, 9600, 3), hat = noise(0.1, 2400, 4);
    for (size_t i = 0; i < snare.size(); ++i)
      snare[i] = (snare[i] + 0.5 * std::sin(kTwoPi * 190 * static_cast<double>(i) / kDuckRate)) *
                 std::exp(-static_cast<double>(i) / 2400);
    for (size_t i = hat.size(); i-- > 1;)
      hat[i] = (hat[i] - hat[i - 1]) * std::exp(-static_cast<double>(i) / 600);
    for (double t : pattern) add(kick, t, 0.9);
    for (double t = 0.25; t < 2.5; t += 0.5) add(snare, t, 1.0);
    for (double t = 0.0; t < 2.5; t += 0.125) add(hat, t, 1.0);
    const auto hits = findHits(bufferOf(x, kDuckRate));
    ASSERT_EQ(hits.size(), pattern.size()) << "first at " << pattern[0];
    for (size_t i = 0; i < hits.size(); ++i) EXPECT_NEAR(1000 * hits[i], 1000 * pattern[i], 6.0);
    EXPECT_FALSE(searchHits(bufferOf(x, kDuckRate)).isBusy);
    // With a bass line in it a trigger may be one of its notes.
    const auto bass = sine(55, 0.3, 2.6, kDuckRate);
    for (size_t i = 0; i < std::min(x.size(), bass.size()); ++i) x[i] += i % 24000 < 20000 ? bass[i] : 0.0;
    EXPECT_TRUE(searchHits(bufferOf(x, kDuckRate)).isBusy);
  }
  EXPECT_TRUE(findHits(AudioBuffer(kDuckRate, 1, 48000)).empty());
  EXPECT_TRUE(findHits(AudioBuffer()).empty());
}

// Soft strokes of the same drum count, down to a quarter of the full level; a snare of that level does not.
TEST(Detector, FindsGhostHitsBesideFullOnes) {
  for (double landingHz : {45.0, 62.0})
    for (double soft : {0.5, 0.35, 0.25})
      for (bool withSnare : {false, true}) {
        KickRecipe recipe;
        recipe.landingHz = landingHz, recipe.tailMs = 160, recipe.clickDb = -18;
        const auto kick = makeKick(recipe);
        std::vector<double> x(static_cast<size_t>(2.2 * kDuckRate), 0.0), snare = noise(0.15, 9600, 3);
        for (size_t i = 0; i < snare.size(); ++i)
          snare[i] = (snare[i] + 0.5 * std::sin(kTwoPi * 190 * static_cast<double>(i) / kDuckRate)) *
                     std::exp(-static_cast<double>(i) / 2400);
        auto add = [&](const std::vector<double>& sound, double at, double gain) {
          const auto first = static_cast<size_t>(at * kDuckRate);
          for (size_t i = 0; i < sound.size() && first + i < x.size(); ++i) x[first + i] += gain * sound[i];
        };
        const std::vector<double> at{0.0, 0.25, 0.5, 0.8, 1.0, 1.25, 1.6, 1.85};
        for (size_t i = 0; i < at.size(); ++i) add(kick, at[i], i % 2 == 0 ? 0.9 : 0.9 * soft);
        if (withSnare)
          for (double t : {0.38, 1.42}) add(snare, t, 0.8);
        const auto hits = findHits(bufferOf(x, kDuckRate));
        ASSERT_EQ(hits.size(), at.size()) << landingHz << " " << soft << " " << withSnare;
        for (size_t i = 0; i < hits.size(); ++i) EXPECT_NEAR(hits[i], at[i], 0.006);
      }
}

// Three kicks, a soft stroke of the same drum, a bongo that lies higher, one that is too soft, one that is too
// soon.
TEST(Detector, SaysWhatItNearlyFoundAndWhy) {
  KickRecipe recipe;
  recipe.tailMs = 90, recipe.clickDb = -18;
  const auto kick = makeKick(recipe);
  std::vector<double> x(static_cast<size_t>(3.6 * kDuckRate), 0.0);
  auto add = [&](double at, double gain) {
    for (size_t i = 0; i < kick.size(); ++i) x[static_cast<size_t>(at * kDuckRate) + i] += gain * kick[i];
  };
  auto bongo = [&](double at, double gain) {
    for (size_t i = 0; i < 6000; ++i)
      x[static_cast<size_t>(at * kDuckRate) + i] +=
          gain * std::exp(-(i / 2000.0)) * std::sin(kTwoPi * 210 * i / kDuckRate);
  };
  for (double at : {0.3, 1.3, 2.3}) add(at, 0.9);
  add(0.8, 0.2), bongo(1.8, 0.5), add(2.8, 0.9 * std::pow(10.0, -33 / 20.0)), add(3.2, 0.9), add(3.35, 0.9);
  const auto search = searchHits(bufferOf(x, kDuckRate), {.shortestGapMs = 200});
  auto at = [&](double seconds) -> const FoundHit* {
    for (const FoundHit& h : search.all)
      if (std::abs(h.seconds - seconds) < 0.02) return &h;
    return nullptr;
  };
  for (double t : {0.3, 0.8, 1.3, 2.3, 3.2}) {
    ASSERT_TRUE(at(t)) << t;
    EXPECT_TRUE(at(t)->fires()) << t;
  }
  EXPECT_NEAR(at(0.8)->strengthDb, 20 * std::log10(0.2 / 0.9), 1.0);
  ASSERT_TRUE(at(1.8) && at(2.8) && at(3.35));
  EXPECT_EQ(at(1.8)->verdict, HitVerdict::OtherDrum);
  EXPECT_EQ(at(2.8)->verdict, HitVerdict::UnderThreshold);
  EXPECT_EQ(at(3.35)->verdict, HitVerdict::TooSoon);
  for (size_t i = 1; i < search.all.size(); ++i)
    EXPECT_GT(search.all[i].seconds, search.all[i - 1].seconds + 0.004) << "none is told twice";
  EXPECT_NEAR(*std::max_element(search.levelDb.begin() + 300, search.levelDb.begin() + 340), 0.0, 1.0);
}

// 62 Hz strokes, loud and soft, against 500 Hz ones: each kind peaks where it lies, however loud it is.
TEST(HitSpectra, EachKindOfHitsLiesWhereItLies) {
  std::vector<double> x(static_cast<size_t>(3.0 * kDuckRate), 0.0);
  auto stroke = [&](double at, double hz, double gain) {
    for (size_t i = 0; i < 4800; ++i)
      x[static_cast<size_t>(at * kDuckRate) + i] +=
          gain * std::exp(-(i / 1500.0)) * std::sin(kTwoPi * hz * i / kDuckRate);
  };
  const std::vector<double> low{0.1, 1.1, 2.1}, high{0.6, 1.6, 2.89};
  stroke(0.1, 62, 0.9), stroke(1.1, 62, 0.02), stroke(2.1, 62, 0.9);
  for (const double at : high) stroke(at, 500, 0.1);
  const HitSpectra spectra = hitSpectra(bufferOf(x, kDuckRate, 2), low, high);
  auto peakHz = [](const std::vector<double>& db) {
    return spectrumHz(static_cast<size_t>(std::max_element(db.begin(), db.end()) - db.begin()));
  };
  EXPECT_NEAR(peakHz(spectra.firing), 62, 5);
  EXPECT_NEAR(peakHz(spectra.others), 500, 30);
  EXPECT_EQ(*std::max_element(spectra.firing.begin(), spectra.firing.end()), 0.0);
  EXPECT_TRUE(hitSpectra(bufferOf(x, kDuckRate), {}, high).firing.empty());
  EXPECT_NO_THROW(hitSpectra(bufferOf(x, kDuckRate), std::vector{9.0}, {})) << "past the end: silence";
}

}  // namespace
}  // namespace heft
