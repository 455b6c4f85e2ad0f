// The peak all-pass lowers a peak and changes no level.

#include "core/solve/free_turn.h"

#include <gtest/gtest.h>

#include "core/render/lanes/figure_steps.h"
#include "core/session/edits/pair.h"
#include "core/solve/align_ways.h"
#include "core/study/study.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// Cosines that all crest at one moment, the worst wave there is (Schroeder, IEEE Trans. IT 16, 1970): a turn
// takes much of the peak, and no fine search over single stages finds much more than one stage does.
TEST(PeakTurns, TakeTheCrestOfHarmonicsInPhase) {
  constexpr double kToneRate = 8000.0;
  PeakStretch stretch;
  std::vector<float> x(6000);
  for (size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / kToneRate;
    double v = 0.0;
    for (int k = 1; k <= 5; ++k) v += 0.2 * std::cos(kTwoPi * 50 * k * t);
    x[i] = static_cast<float>(v);
  }
  stretch.turned = {x}, stretch.leadFrames = 2000;
  const PeakTurn turn = lowestPeak({stretch}, kToneRate);
  ASSERT_FALSE(turn.stages.empty());
  EXPECT_NEAR(turn.beforePeak, 1.0, 1e-3);
  EXPECT_GT(20 * std::log10(turn.beforePeak / turn.afterPeak), 2.0);
  EXPECT_LE(keptBackMs(turn.stages), kMostKeptBackMs + 0.05);
  // Said by its own slope too: an all-pass keeps its middle back by 2 q / (pi hz).
  Rotation one;
  one.stages[0] = {true, 60, 0.7};
  EXPECT_NEAR(groupDelayMs(one, 48000, 60), keptBackMs({one.stages[0]}), 0.01);
  EXPECT_EQ(peakThrough({stretch}, turn.stages, kToneRate), turn.afterPeak);
  double fine = 1e9;
  for (double hz = 20; hz < 400; hz *= 1.05)
    for (double q = 0.25; q < 2.5; q *= 1.15)
      if (keptBackMs({{true, hz, q}}) <= kMostKeptBackMs)
        fine = std::min(fine, peakThrough({stretch}, {{true, hz, q}}, kToneRate));
  EXPECT_LT(turn.afterPeak, fine * std::pow(10.0, 0.15 / 20))
      << "within 0.15 dB of a search twenty times as fine";
  // A lone sine has nothing to win, silence neither.
  PeakStretch lone;
  const auto tone = sine(60, 0.5, 1.0, kToneRate);
  lone.turned = {std::vector<float>(tone.begin(), tone.end())}, lone.leadFrames = 2000;
  EXPECT_TRUE(lowestPeak({lone}, kToneRate).stages.empty());
  lone.turned[0].assign(4000, 0.0f);
  EXPECT_TRUE(lowestPeak({lone}, kToneRate).stages.empty());
  EXPECT_TRUE(lowestPeak({}, kToneRate).stages.empty());
}

double bandOf(const Signal& lane, double rate, double low, double high) {
  std::vector<double> x;
  for (size_t i = 0; i < lane.frames(); i += 40) x.push_back(lane.at(0, i));
  return directBandPower(x, rate / 40, low, high);
}

// On the demo: the true peak falls by the stated amount, the pair's phase stays, no band changes, and
// switched off it is the same to the sample.
TEST(FreeTurns, LowerThePeakAndNothingElse) {
  Session s = theDemo().session;
  s.ducks.front().on = false;
  StepCache cache;
  const Stems before = rendered(s, cache);
  const auto turns = freeTurns(s, theDemo().assets, cache);
  ASSERT_TRUE(turns);
  ASSERT_FALSE(turns->empty());
  const auto studied = studyPair(s, theDemo().assets, before, cache);
  for (const FreeTurn& turn : *turns) {
    const Session with = turn.edit.applied(s);
    const Stems after = rendered(with, cache);
    const Signal &was = turn.of == PeakOf::Kick ? before.kick() : before.sum,
               &is = turn.of == PeakOf::Kick ? after.kick() : after.sum;
    EXPECT_NEAR(laneTruePeakDbtp(is, after.sampleRate, cache), turn.afterDbtp, 0.01);
    EXPECT_NEAR(laneTruePeakDbtp(was, after.sampleRate, cache), turn.beforeDbtp, 0.01);
    EXPECT_GE(turn.gainDb(), kLeastPeakGainDb);
    const auto now = studyPair(with, theDemo().assets, after, cache);
    EXPECT_NEAR(now->alignedDb, studied->alignedDb, 0.35) << "the pair stands as it stood";
    for (const auto& [low, high] : {std::pair(30.0, 60.0), {60.0, 120.0}, {120.0, 240.0}})
      EXPECT_NEAR(10 * std::log10(bandOf(after.kick(), after.sampleRate, low, high) /
                                  bandOf(before.kick(), before.sampleRate, low, high)),
                  0.0, 0.1)
          << low;
    EXPECT_EQ(freeTurnOf(with), turn.stages);
    const Session out = switchFreeTurn(false).applied(with);
    EXPECT_TRUE(freeTurnOf(out).empty());
    EXPECT_TRUE(hasFreeTurn(out));
    const Stems same = rendered(out, cache);
    for (size_t b = 0; b < same.sum.blockCount(); ++b) EXPECT_TRUE(same.sum.sharesBlock(before.sum, b));
    EXPECT_EQ(switchFreeTurn(true).applied(out), with);
    EXPECT_EQ(setFreeTurn(s, {}).applied(with), s);
    // Solved again while on, it gives the same.
    const auto again = freeTurns(with, theDemo().assets, cache);
    ASSERT_TRUE(again);
    EXPECT_EQ(again->front().stages, turns->front().stages);
  }
}

// What lines the pair up is told of the pair: a free turn in both changes none of it, and a way that is taken
// leaves it in.
TEST(FreeTurns, WaysToLineUpAreTheSameWithOneIn) {
  const Session s = theDemo().session;
  const Session with = setFreeTurn(s, {{true, 70, 0.5}}).applied(s);
  StepCache cache;
  const auto plain = alignWays(s, theDemo().assets, cache), turned = alignWays(with, theDemo().assets, cache);
  ASSERT_TRUE(plain && turned);
  EXPECT_EQ(turned->nowDb, plain->nowDb);
  ASSERT_EQ(turned->ways.size(), plain->ways.size());
  EXPECT_EQ(turned->ways.front().answer, plain->ways.front().answer);
  EXPECT_EQ(freeTurnOf(turned->ways.front().edit.applied(with)), freeTurnOf(with));
  // Before bypasses it on kick and bass alike.
  const Session before = withoutMoves(with, MovesOf::Align);
  EXPECT_TRUE(freeTurnOf(before).empty());
  EXPECT_FALSE(before.bass().align.rotation.works());
  // A bypassed rotation of the bass stays off when the peak all-pass is switched on.
  Session out = s;
  out.bass().align.rotation.on = false, out.bass().align.rotation.stages[0] = {true, 50, 1.0};
  const Session in = setFreeTurn(out, {{true, 70, 0.5}}).applied(out);
  EXPECT_FALSE(in.bass().align.rotation.stages[0].on);
  EXPECT_TRUE(in.bass().align.rotation.stages[2].on);
}

}  // namespace
}  // namespace heft
