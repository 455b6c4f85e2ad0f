// The solver of alignments against closed forms, the definition in the time domain, and exhaustive search.

#include <gtest/gtest.h>

#include <random>

#include "core/align/solver.h"
#include "core/sound/filter.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

constexpr double kAlignRate = 6000;

std::vector<double> fading(double hz, double phase, double seconds = 0.6) {
  auto x = sine(hz, 0.8, seconds, kAlignRate, phase);
  for (size_t i = 0; i < x.size(); ++i)
    x[i] *= std::exp(-5.0 * static_cast<double>(i) / kAlignRate) * std::min(1.0, static_cast<double>(i) / 60.0);
  return x;
}

// Two tones whose phases no delay can bring together at once.
std::vector<double> twoTones(double phaseLow, double phaseHigh) {
  auto x = fading(45, phaseLow);
  const auto high = fading(118, phaseHigh);
  for (size_t i = 0; i < x.size(); ++i) x[i] += 0.8 * high[i];
  return x;
}

// The cookbook's all-pass by its difference equation, from the page itself.
std::vector<double> allPassed(const std::vector<double>& x, double hz, double q) {
  const double w = kTwoPi * hz / kAlignRate, alpha = std::sin(w) / (2 * q), a0 = 1 + alpha;
  const double b0 = (1 - alpha) / a0, b1 = -2 * std::cos(w) / a0, b2 = 1.0, a1 = b1, a2 = b0;
  std::vector<double> y(x.size());
  for (size_t i = 0; i < x.size(); ++i)
    y[i] = b0 * x[i] + (i > 0 ? b1 * x[i - 1] - a1 * y[i - 1] : 0.0) +
           (i > 1 ? b2 * x[i - 2] - a2 * y[i - 2] : 0.0);
  return y;
}

// The definition: both banded with zero phase, the region of the unmoved pair, level re the sum of amplitudes.
struct Definition {
  std::vector<double> kick, bass;
  std::vector<char> region;

  Definition(std::vector<double> k, std::vector<double> b) {
    k.resize(k.size() + 2400, 0.0), b.resize(k.size(), 0.0);
    kick = bandLimited(k, kAlignRate, 20, 150), bass = bandLimited(b, kAlignRate, 20, 150);
    const auto one = loudWhere(kick), two = loudWhere(bass);
    for (size_t i = 0; i < one.size(); ++i) region.push_back(one[i] && two[i]);
  }
  static std::vector<char> loudWhere(const std::vector<double>& x) {
    const auto half = static_cast<size_t>(0.0125 * kAlignRate);
    std::vector<double> power(x.size(), 0.0);
    for (size_t i = 0; i < x.size(); ++i)
      for (size_t j = i > half ? i - half : 0; j < std::min(x.size(), i + half + 1); ++j)
        power[i] += x[j] * x[j];
    const double most = *std::max_element(power.begin(), power.end());
    std::vector<char> out;
    for (const double p : power) out.push_back(p > 1e-4 * most);
    return out;
  }
  // `delay` in samples, whole.
  double level(const std::vector<double>& turnedBass, int delay, bool invert) const {
    double sum = 0, k2 = 0, b2 = 0;
    for (size_t i = 0; i < kick.size(); ++i) {
      if (!region[i]) continue;
      const auto j = static_cast<ptrdiff_t>(i) - delay;
      const double b = j >= 0 && j < static_cast<ptrdiff_t>(turnedBass.size())
                           ? (invert ? -1 : 1) * turnedBass[static_cast<size_t>(j)]
                           : 0.0;
      sum += (kick[i] + b) * (kick[i] + b), k2 += kick[i] * kick[i], b2 += b * b;
    }
    return 10 * std::log10(std::max(1e-12, sum / std::pow(std::sqrt(k2) + std::sqrt(b2), 2)));
  }
};

AlignMatter matterOf(const std::vector<double>& kick, const std::vector<double>& bass) {
  return {alignCurve({kick, bass}, kAlignRate, {}), crossSpectrum({kick, bass}, kAlignRate, {}), kAlignRate};
}

TEST(Rotation, TurnsPhaseByTheCookbooksFormAndKeepsEveryMagnitude) {
  Rotation r;
  r.stages[0] = {true, 60, 0.7}, r.stages[2] = {true, 140, 2.0};
  for (double hz = 12; hz < 20000; hz *= 1.3) {
    EXPECT_NEAR(20 * std::log10(std::abs(rotationAt(r, 48000, hz))), 0.0, 1e-9) << hz;
    // H(s) = (s^2 - s w0 / q + w0^2) / (s^2 + s w0 / q + w0^2) through the bilinear transform.
    double expected = 0;
    for (const AllPass& s : {r.stages[0], r.stages[2]}) {
      const double w = std::tan(M_PI * hz / 48000) / std::tan(M_PI * s.hz / 48000);
      double half = std::atan2(w / s.q, 1 - w * w);
      expected += 2 * half * 180 / M_PI;
    }
    EXPECT_NEAR(std::remainder(turnedDegrees(r, 48000, hz) - expected, 360.0), 0.0, 1e-6) << hz;
  }
  EXPECT_LT(turnedDegrees(r, 48000, 1.0), 4.0) << "far below little is turned";
  r.on = false;
  EXPECT_FALSE(r.works());
  EXPECT_EQ(turnedDegrees(r, 48000, 60), 0.0);
}

TEST(Rotation, ASoundKeepsItsEnergy) {
  Rotation r;
  r.stages[1] = {true, 70, 1.5};
  auto sound = bufferOf(twoTones(0.3, 1.0), kAlignRate, 2);
  for (auto& channel : sound.channels) channel.resize(channel.size() + 6000, 0.0f);
  const auto before = sound;
  rotate(sound, r);
  double had = 0, has = 0, most = 0;
  for (size_t i = 0; i < sound.frames(); ++i) {
    had += before.channels[0][i] * before.channels[0][i], has += sound.channels[0][i] * sound.channels[0][i];
    most = std::max<double>(most, std::abs(sound.channels[0][i] - before.channels[0][i]));
  }
  EXPECT_NEAR(10 * std::log10(has / had), 0.0, 0.001);
  EXPECT_GT(most, 0.1);
}

TEST(Rotation, TheEnvelopeOfASineIsItsAmplitude) {
  // The envelope of a sine that swells and fades is that swell, at any phase.
  for (const double phase : {0.0, 1.0, 2.5}) {
    auto x = sine(60, 1.0, 1.0, kAlignRate, phase);
    std::vector<double> swell(x.size());
    for (size_t i = 0; i < x.size(); ++i) {
      swell[i] = std::pow(std::sin(M_PI * static_cast<double>(i) / static_cast<double>(x.size())), 2);
      x[i] *= swell[i];
    }
    const auto envelope = analyticEnvelope(x);
    for (size_t i = 600; i < x.size() - 600; i += 37) EXPECT_NEAR(envelope[i], swell[i], 0.01);
  }
}

TEST(AlignSolver, TheSpectrumGivesTheCurvesCorrelation) {
  const auto kick = fading(54, 0.2), bass = twoTones(1.0, 2.0);
  const auto matter = matterOf(kick, bass);
  for (const double ms : {-19.0, -6.3, 0.0, 2.22, 17.5})
    for (const bool invert : {false, true})
      EXPECT_NEAR(levelOf(matter, ms, invert, {}), matter.curve.levelAt(ms, invert), 0.02) << ms;
}

TEST(AlignSolver, ARotatedBassHasTheLevelThatWasSaid) {
  const auto kick = twoTones(0.1, 0.4), bass = twoTones(1.9, 4.0);
  const auto matter = matterOf(kick, bass);
  const Definition def(kick, bass);
  for (const double hz : {40.0, 75.0, 160.0})
    for (const double q : {0.4, 1.0, 2.5}) {
      Rotation r;
      r.stages[0] = {true, hz, q};
      const auto turned = allPassed(def.bass, hz, q);
      for (const int delay : {-30, 0, 18})
        EXPECT_NEAR(levelOf(matter, delay / 6.0, false, r), def.level(turned, delay, false), 0.25)
            << hz << " Hz, q " << q << ", " << delay;
    }
}

TEST(AlignSolver, IsAsGoodAsTryingEverything) {
  for (const auto& [low, high] : {std::pair(2.2, 0.3), {4.0, 1.0}, {1.2, 5.0}}) {
    const auto kick = twoTones(0.0, 0.0), bass = twoTones(low, high);
    const Definition def(kick, bass);
    double best = -200;
    for (double hz = 30; hz < 300; hz *= 1.22)
      for (const double q : {0.35, 0.7, 1.4, 2.8}) {
        const auto turned = allPassed(def.bass, hz, q);
        for (int delay = -60; delay <= 60; delay += 6)
          for (const bool invert : {false, true}) best = std::max(best, def.level(turned, delay, invert));
      }
    const auto matter = matterOf(kick, bass);
    const AlignAnswer answer = solveAlignment(matter, {true, true, 1});
    EXPECT_GT(answer.afterDb, best - 0.3) << low << " " << high;
    const AllPass& s = answer.rotation.stages[0];
    const auto turned = s.on ? allPassed(def.bass, s.hz, s.q) : def.bass;
    EXPECT_NEAR(def.level(turned, static_cast<int>(std::lround(6 * answer.delayMs)), answer.invert),
                answer.afterDb, 0.4)
        << "what was promised is there";
    const AlignAnswer two = solveAlignment(matter, {true, true, 2});
    EXPECT_GE(two.afterDb, answer.afterDb - 1e-9);
    EXPECT_GE(answer.afterDb, solveAlignment(matter, {}).afterDb - 1e-9);
  }
}

TEST(AlignSolver, WhatIsAlignedStaysAndNothingGetsWorse) {
  const auto kick = fading(55, 0.0);
  const AlignAnswer same = solveAlignment(matterOf(kick, kick), {true, true, 2});
  EXPECT_EQ(same.delayMs, 0.0);
  EXPECT_FALSE(same.invert);
  EXPECT_FALSE(same.rotation.works());
  std::mt19937 random(3);
  auto phase = [&] { return kTwoPi * random() / 4294967296.0; };
  for (int i = 0; i < 6; ++i) {
    const auto matter = matterOf(twoTones(phase(), phase()), twoTones(phase(), phase()));
    double last = -200;
    for (const AlignFreedom& freedom :
         {AlignFreedom{false, false, 0}, {false, true, 0}, {true, true, 0}, {true, true, 1}, {true, true, 2}}) {
      const AlignAnswer a = solveAlignment(matter, freedom);
      EXPECT_GE(a.afterDb, a.beforeDb);
      EXPECT_GE(a.afterDb, last - kCloseEnoughDb) << "more freedom is no worse";
      last = a.afterDb;
      if (!freedom.delay) EXPECT_EQ(a.delayMs, 0.0);
      if (!freedom.polarity) EXPECT_FALSE(a.invert);
    }
  }
  const AlignAnswer never = solveAlignment(matterOf(kick, std::vector<double>(3000, 0.0)), {true, true, 2});
  EXPECT_FALSE(never.overlap || never.rotation.works());
}

TEST(AlignSolver, HoldsAsFarAsItSays) {
  const auto matter = matterOf(fading(55, 0.0), fading(55, 1.1));
  const AlignAnswer answer = solveAlignment(matter, {});
  const AlignHold hold = holdOf(matter.curve, answer.delayMs, answer.invert, 0.6);
  const double best = matter.curve.levelAt(answer.delayMs, answer.invert);
  EXPECT_GT(hold.earlierMs + hold.laterMs, 1.0);
  EXPECT_GE(matter.curve.levelAt(answer.delayMs - hold.earlierMs, answer.invert), best - 0.62);
  EXPECT_GE(matter.curve.levelAt(answer.delayMs + hold.laterMs, answer.invert), best - 0.62);
  EXPECT_LT(matter.curve.levelAt(answer.delayMs - hold.earlierMs - 0.2, answer.invert), best - 0.58);
  EXPECT_LT(matter.curve.levelAt(answer.delayMs + hold.laterMs + 0.2, answer.invert), best - 0.58);
}

TEST(AlignSolver, WhatIsDuckedAwayCountsLess) {
  // The bass is out of phase with the kick for its first 0.2 s and in phase afterwards; the first part is
  // ducked away.
  const auto kick = fading(50, 0.0);
  auto bass = fading(50, M_PI);
  std::vector<double> left(kick.size(), 1.0);
  for (size_t i = 0; i < bass.size(); ++i) i < 1200 ? left[i] = 0.01 : bass[i] *= -1;
  const auto all = alignCurve({kick, bass}, kAlignRate, {}),
             heard = alignCurve({kick, bass, left}, kAlignRate, {});
  EXPECT_TRUE(bestAlignment(all).invert || bestAlignment(all).delayMs != 0.0);
  EXPECT_GT(heard.levelAt(0, false), all.levelAt(0, false) + 3);
  EXPECT_FALSE(bestAlignment(heard).invert);
  const auto cross = crossSpectrum({kick, bass, left}, kAlignRate, {});
  EXPECT_NEAR(levelOf({heard, cross, kAlignRate}, 3.0, false, {}), heard.levelAt(3.0, false), 0.05);
}

}  // namespace
}  // namespace heft
