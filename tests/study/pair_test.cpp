// Alignment and ducking: known answers, brute force in the time domain, and what must never happen.

#include <gtest/gtest.h>

#include <numeric>

#include "core/align/align.h"
#include "core/compare/difference.h"
#include "core/judge/ledger.h"
#include "core/sound/filter.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;
constexpr double kRate = 48000;

std::vector<double> decaying(double hz, double phase, double seconds = 0.5) {
  auto x = sine(hz, 0.8, seconds, kRate, phase);
  for (size_t i = 0; i < x.size(); ++i)
    x[i] *= std::exp(-5.0 * static_cast<double>(i) / kRate) * std::min(1.0, static_cast<double>(i) / 200.0);
  return x;
}

// The published definition of the figure, step by step at the full rate: band limit with zero phase, the region
// where the 25 ms RMS of each is above -40 dB of its own maximum before any move, level of the sum re the
// amplitude sum.
double figureByDefinition(const std::vector<double>& kick, const std::vector<double>& bass, double delaySamples,
                          bool invert, double low, double high) {
  const size_t n = kick.size() + 4800;
  auto band = [&](std::vector<double> x) {
    x.resize(n, 0.0);
    return bandLimited(x, kRate, low, high);
  };
  const auto k = band(kick), b = band(bass);
  auto region = [&](const std::vector<double>& x) {
    std::vector<double> power(n, 0.0);
    const auto half = static_cast<size_t>(0.0125 * kRate);
    for (size_t i = 0; i < n; i += 16) {
      double sum = 0;
      for (size_t j = i > half ? i - half : 0; j < std::min(n, i + half); ++j) sum += x[j] * x[j];
      for (size_t j = i; j < std::min(n, i + 16); ++j) power[j] = sum;
    }
    const double most = *std::max_element(power.begin(), power.end());
    for (double& p : power) p = p > 1e-4 * most ? 1.0 : 0.0;
    return power;
  };
  const auto rk = region(k), rb = region(b);
  double sum = 0, ek = 0, eb = 0;
  for (size_t i = 0; i < n; ++i) {
    if (rk[i] * rb[i] == 0.0) continue;
    const double at = static_cast<double>(i) - delaySamples, whole = std::floor(at);
    const auto j = static_cast<ptrdiff_t>(whole);
    double moved = 0;
    if (j >= 0 && j + 1 < static_cast<ptrdiff_t>(n))
      moved = b[static_cast<size_t>(j)] +
              (at - whole) * (b[static_cast<size_t>(j + 1)] - b[static_cast<size_t>(j)]);
    if (invert) moved = -moved;
    sum += (k[i] + moved) * (k[i] + moved), ek += k[i] * k[i], eb += moved * moved;
  }
  return 10 * std::log10(sum / std::pow(std::sqrt(ek) + std::sqrt(eb), 2));
}

TEST(Align, TheFigureIsTheDefinitions) {
  const auto kick = decaying(54, 0.2), bass = decaying(55, 2.1);
  const auto curve = alignCurve({kick, bass}, kRate, {});
  for (double ms : {-9.0, -2.5, 0.0, 1.3, 7.7})
    for (bool invert : {false, true})
      EXPECT_NEAR(curve.levelAt(ms, invert), figureByDefinition(kick, bass, ms * 48, invert, 20, 150), 0.12)
          << ms << " " << invert;
}

TEST(Align, AKnownDelayIsTakenBack) {
  const auto kick = decaying(55, 0.0);
  for (double samples : {37.0, 100.5, 210.25}) {
    // The bass starts early by that much.
    std::vector<double> bass = sine(55, 0.8, 0.5, kRate, kTwoPi * 55 * samples / kRate);
    for (size_t i = 0; i < bass.size(); ++i)
      bass[i] *= std::exp(-5.0 * (static_cast<double>(i) + samples) / kRate) *
                 std::min(1.0, (static_cast<double>(i) + samples) / 200.0);
    const auto curve = alignCurve({kick, bass}, kRate, {20, 150, 8});  // less than half a period either way
    double best = -200, at = 0;
    for (size_t i = 0; i < curve.size(); ++i)
      if (curve.levelDb(i, false) > best) best = curve.levelDb(i, false), at = curve.delayMs(i);
    // The top is flat: a tenth of a millisecond is a hundredth of a decibel.
    EXPECT_NEAR(at * 48, samples, 6.0);
    EXPECT_GT(best, -0.02);
    EXPECT_GT(bestAlignment(curve).afterDb, best - 0.26);
  }
}

TEST(Align, PolarityAloneMendsAPairInOppositePhase) {
  const auto kick = decaying(55, 0.0), bass = decaying(55, std::numbers::pi);
  const auto answer = bestAlignment(alignCurve({kick, bass}, kRate, {}));
  EXPECT_TRUE(answer.invert);
  EXPECT_EQ(answer.delayMs, 0.0);
  EXPECT_LT(answer.beforeDb, -25);
  EXPECT_GT(answer.afterDb, -0.05);
}

TEST(Align, NeverWorseThanNothingAndNeverALargerMoveThanNeeded) {
  std::mt19937 random(5);
  auto uniform = [&](double a, double b) { return a + (b - a) * random() / 4294967296.0; };
  for (int i = 0; i < 25; ++i) {
    const auto kick = decaying(uniform(40, 80), uniform(0, 6)), bass = decaying(uniform(40, 80), uniform(0, 6));
    const auto curve = alignCurve({kick, bass}, kRate, {});
    const auto answer = bestAlignment(curve);
    EXPECT_GE(answer.afterDb, answer.beforeDb);
    double best = -200;
    for (size_t k = 0; k < curve.size(); ++k)
      best = std::max({best, curve.levelDb(k, false), curve.levelDb(k, true)});
    EXPECT_GE(answer.afterDb, best - 0.2501);
    for (size_t k = 0; k < curve.size(); ++k)
      if (std::abs(curve.delayMs(k)) < std::abs(answer.delayMs) - 1e-9) {
        ASSERT_LT(curve.levelDb(k, false), best - 0.2499);
        ASSERT_LT(curve.levelDb(k, true), best - 0.2499);
      }
  }
}

TEST(Align, SeveralHitsAreWeightedByTheirEnergy) {
  const auto loudKick = decaying(55, 0.0), loudBass = decaying(55, 0.5);
  auto quietKick = decaying(55, 0.0), quietBass = decaying(55, 3.0);
  for (double& x : quietKick) x *= 0.05;
  for (double& x : quietBass) x *= 0.05;
  const auto loud = alignCurve({loudKick, loudBass}, kRate, {}),
             quiet = alignCurve({quietKick, quietBass}, kRate, {});
  const auto both = combined({loud, quiet});
  EXPECT_NEAR(bestAlignment(both).delayMs, bestAlignment(loud).delayMs, 0.1);
  EXPECT_NEAR(both.levelAt(0, false), loud.levelAt(0, false), 0.1);
}

TEST(Align, PartsThatNeverMeetAreLeftAlone) {
  const std::vector<double> silence(24000, 0.0);
  const auto answer = bestAlignment(alignCurve({decaying(55, 0), silence}, kRate, {}));
  EXPECT_FALSE(answer.overlap);
  EXPECT_EQ(answer.delayMs, 0.0);
  EXPECT_FALSE(bestAlignment(combined({})).overlap);
}

TEST(Compare, DifferencesAreAgainstTheMedianOfTheReferences) {
  auto programme = [](double toneAmplitude) {
    auto x = sine(1000, 0.5, 3.0, kRate);
    const auto low = sine(50, toneAmplitude, 3.0, kRate);
    for (size_t i = 0; i < x.size(); ++i) x[i] += low[i];
    return *measureProgramme(bufferOf(x, kRate, 2));
  };
  const auto mix = programme(0.02);
  const std::vector<ProgrammeFacts> references{programme(0.01), programme(0.005), programme(0.03)};
  const auto difference = bandDifferences(mix, references);
  // 50 Hz adds little to K-weighted loudness, so the band stands 20 log10(0.02 / 0.01) over the median.
  EXPECT_NEAR(*difference[1].levelReLufsDb, 6.02, 0.1);
  EXPECT_EQ(difference[1].beyondDb, 0.0) << "one of the references has more";
  EXPECT_EQ(bandVerdict(difference[1]), Verdict::Holds);
  const auto over = bandDifferences(programme(0.06), references)[1];
  EXPECT_NEAR(over.beyondDb, 6.02, 0.1) << "over the loudest of them";
  EXPECT_EQ(bandVerdict(over), Verdict::Off);
  EXPECT_NEAR(bandDifferences(programme(0.004), references)[1].beyondDb, 20 * std::log10(0.8), 0.1);
  EXPECT_EQ(median({3, 1, 2}), 2);
  EXPECT_EQ(median({4, 1, 2, 3}), 2.5);
  EXPECT_FALSE(bandDifferences(mix, {})[1].levelReLufsDb);
  // The same file 9 dB lower shows no difference: loudness matched.
  auto quiet = sine(50, 0.02, 3.0, kRate);
  const auto high = sine(1000, 0.5, 3.0, kRate);
  for (size_t i = 0; i < quiet.size(); ++i) quiet[i] = 0.355 * (quiet[i] + high[i]);
  EXPECT_NEAR(*bandDifferences(mix, {*measureProgramme(bufferOf(quiet, kRate, 2))})[1].levelReLufsDb, 0.0,
              0.05);
}

}  // namespace
}  // namespace heft
