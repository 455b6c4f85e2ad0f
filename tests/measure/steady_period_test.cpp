// Notes of basses by their period: what hides a fundamental, blurs it or makes it waver.

#include "core/measure/pitch/steady_period.h"

#include <gtest/gtest.h>

#include <random>

#include "core/measure/levels/levels.h"
#include "tests/reference/bass_maker.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

double centsOf(double hz, double of) {
  return 1200.0 * std::log2(hz / of);
}

Decimated at8k(std::vector<double> x) {
  return {std::move(x), 8000.0};
}

std::vector<double> tones(const std::vector<std::pair<double, double>>& parts, double seconds) {
  std::vector<double> out(static_cast<size_t>(seconds * 8000));
  for (size_t i = 0; i < out.size(); ++i)
    for (const auto& [hz, amplitude] : parts)
      out[i] += amplitude * std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / 8000.0 + hz);
  return out;
}

// Detuned, beating, pulse width, vibrato, weak or missing fundamental, drive: the note that a player names
// within 30 cents on 95 of 100, and no wrong one with confidence.
TEST(BassNotes, NinetyFiveOfAHundredWithinThirtyCents) {
  int right = 0;
  const unsigned count = 100;
  for (unsigned seed = 0; seed < count; ++seed) {
    const BassRecipe recipe = randomBass(seed);
    const auto bass = makeBass(recipe);
    const Landing landing =
        measureLanding(bass, recipe.sampleRate, findOnset(bass, recipe.sampleRate).value_or(0.0));
    const auto hz = landing.noteHz();
    const bool near = hz && std::abs(centsOf(*hz, recipe.hz)) <= 30.0;
    right += near;
    const double confidence = landing.hz ? landing.confidence : landing.heardConfidence;
    if (hz && !near) EXPECT_LE(confidence, 0.5) << seed << ": " << *hz << " for " << recipe.hz;
  }
  EXPECT_GE(right, 95);
}

TEST(SteadyPeriod, IsTheCommonPeriodOfPartials) {
  // Partials 2 to 7 of A1 over a fundamental 26 dB under them.
  std::vector<std::pair<double, double>> parts = {{55.0, 0.05}};
  for (int k = 2; k <= 7; ++k) parts.push_back({55.0 * k, 1.0 / k});
  for (const bool missing : {false, true}) {
    if (missing) parts.erase(parts.begin());
    const auto found = steadyPeriod(at8k(tones(parts, 0.6)), 20, 400);
    ASSERT_TRUE(found);
    EXPECT_NEAR(centsOf(found->hz, 55.0), 0.0, 3.0);
    EXPECT_GT(found->confidence, 0.8);
    EXPECT_FALSE(found->wavers);
    EXPECT_GE(found->points.size(), 4u);
  }
}

TEST(SteadyPeriod, OfTwoNotesSlidesNoiseAndSilenceThereIsNone) {
  EXPECT_FALSE(steadyPeriod(at8k(tones({{110, 1}, {165, 1}}, 0.6)), 20, 400)) << "a root and its fifth";
  std::vector<double> slide(4800);
  double phase = 0.0;
  for (size_t i = 0; i < slide.size(); ++i) {
    slide[i] = std::sin(phase);
    phase += 2.0 * std::numbers::pi * 60.0 * std::exp2(static_cast<double>(i) / 4800.0) / 8000.0;
  }
  EXPECT_FALSE(steadyPeriod(at8k(slide), 20, 400));
  EXPECT_FALSE(steadyPeriod(at8k(std::vector<double>(4800)), 20, 400));
  EXPECT_FALSE(steadyPeriod(at8k(std::vector<double>(10, 0.5)), 20, 400)) << "too short";
  EXPECT_FALSE(steadyPeriod(at8k(tones({{700, 1}}, 0.6)), 20, 400)) << "beyond the range";
  for (unsigned seed = 1; seed <= 20; ++seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    std::vector<double> noise(4800);
    double low = 0.0;
    for (double& x : noise) x = low += (seed % 2 ? 0.05 : 1.0) * (normal(random) - low);
    EXPECT_FALSE(steadyPeriod(at8k(noise), 20, 400)) << seed;
  }
}

TEST(SteadyPeriod, TheMiddleOfAVibratoIsItsNote) {
  BassRecipe recipe;
  recipe.kind = BassKind::Vibrato, recipe.vibratoCents = 40, recipe.hz = 61.7, recipe.seconds = 1.5;
  recipe.sampleRate = 8000, recipe.decaySeconds = 10;
  const auto found = steadyPeriod(at8k(makeBass(recipe)), 20, 400);
  ASSERT_TRUE(found);
  EXPECT_TRUE(found->wavers);
  EXPECT_NEAR(centsOf(found->hz, 61.7), 0.0, 12.0);
}

}  // namespace
}  // namespace heft
