// Ducking: points, followers, mirrors, bands, what is found and what is written.

#include <gtest/gtest.h>

#include <numbers>
#include <numeric>

#include "core/duck/apply.h"
#include "core/duck/drawn_from.h"
#include "core/duck/follower.h"
#include "core/duck/mirror.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"
#include "tests/reference/triggers.h"

namespace heft {
namespace {

using namespace reference;

constexpr double kMoveRate = 48000;

double dbOf(double gain) {
  return 20.0 * std::log10(std::max(gain, 1e-9));
}

// A curve through points read by hand: where between which two, how far along that slope's raised cosine.
double readByHand(const std::vector<DipPoint>& points, double low, double u) {
  if (u >= 1.0) return 1.0 - points.back().taken * (1.0 - low);
  size_t k = 0;
  while (k + 2 < points.size() && points[k + 1].at <= u) ++k;
  double along = (u - points[k].at) / (points[k + 1].at - points[k].at);
  const double bend = points[k].bend * 10.0;
  if (bend != 0.0) along = (1.0 - std::exp(-bend * along)) / (1.0 - std::exp(-bend));
  const double way = std::pow(std::sin(0.5 * std::numbers::pi * along), 2);
  const double taken = points[k].taken + way * (points[k + 1].taken - points[k].taken);
  return 1.0 - taken * (1.0 - low);
}

TEST(DipPoints, GoThroughTheirPointsByTheirBends) {
  DrawnDip dip{.depthDb = 14};
  dip.points = {{0, 0, 0.3}, {0.1, 1, 0}, {0.35, 0.4, -0.6}, {0.6, 0.7, 0}, {1, 0, 0.2}};
  dip.lengthMs = 180;
  const auto triggers = triggersAt({3000, 20000});
  const auto gain = drawnGain(dip, triggers, kMoveRate, 40000, false);
  const double low = std::pow(10.0, -14 / 20.0);
  for (size_t i = 0; i < gain.size(); i += 11) {
    const double since = i < 3000 ? -1 : i < 20000 ? i - 3000.0 : i - 20000.0;
    const double want = since < 0 ? 1.0 : readByHand(dip.points, low, since / (0.18 * kMoveRate));
    ASSERT_NEAR(gain[i], want, 2e-6) << i;
  }
  EXPECT_NEAR(measureDip(gain, triggers, kMoveRate).depthDb, -14, 0.01);
}

// The four dimensions are four of the points.
TEST(DipPoints, AreTheSameCurveAsTheFourDimensions) {
  for (const auto& [hold, back] : {std::pair(30.0, 80.0), {0.0, 120.0}, {55.0, 1.0}}) {
    const DrawnDip four{9, 4, hold, back};
    DrawnDip points = four;
    points.points = pointsOf(four), points.lengthMs = four.wholeMs();
    // Far apart, and during each other's return.
    const auto triggers = triggersAt({1000, 12000, 13900, 15000});
    const auto a = drawnGain(four, triggers, kMoveRate, 30000, true),
               b = drawnGain(points, triggers, kMoveRate, 30000, true);
    for (size_t i = 0; i < a.size(); ++i) ASSERT_NEAR(a[i], b[i], 2e-5) << i << ", hold " << hold;
  }
}

TEST(DipPoints, LengthVelocityAndTheNextHitCount) {
  DrawnDip dip{12, 2, 30, 60};
  dip.velocityToDepth = 0.5;
  const std::vector<Trigger> triggers{{1000, 1.0}, {11000, 0.4}};
  const auto gain = drawnGain(dip, triggers, kMoveRate, 24000, false);
  const double taken = 1.0 - std::pow(10.0, -12 / 20.0);
  EXPECT_NEAR(gain[1000 + 480], 1.0 - taken, 1e-6);
  EXPECT_NEAR(gain[11000 + 480], 1.0 - taken * (1.0 - 0.5 * 0.6), 1e-6);
  DrawnDip next = dip;
  next.toNext = true, next.velocityToDepth = 0;
  const auto stretched = drawnGain(next, triggers, kMoveRate, 24000, true);
  const auto facts = measureDip(stretched, triggers, kMoveRate, true);
  for (const double gapMs : {10000 / 48.0, 14000 / 48.0}) {
    const TriggerFacts& f = facts.each[gapMs > 250 ? 1 : 0];
    EXPECT_GT(f.returnMs, 0.85 * gapMs);
    EXPECT_LE(f.returnMs, gapMs);
  }
}

// Where a kick's own tail is ducked each hit restarts: the previous one never lowers its strike.
TEST(DipPoints, BegunAnewTheStartIsItsOwn) {
  DrawnDip dip{60, 2, 30, 60};
  dip.points = {{0, 0, 0}, {0.5, 0, 0}, {1, 1, 0}}, dip.lengthMs = 100, dip.anew = true;
  const auto triggers = triggersAt({2000, 12000});
  const auto gain = drawnGain(dip, triggers, kMoveRate, 20000, true);
  EXPECT_EQ(gain[2000], 1.0f);
  EXPECT_EQ(gain[12000], 1.0f);
  EXPECT_NEAR(dbOf(gain[11990]), -60, 0.1) << "what the last point takes stays taken until the next hit";
  EXPECT_NEAR(dbOf(gain[100]), -60, 0.1) << "and over the loop's seam";
}

// Giannoulis, Massberg, Reiss 2012, equation 4: T + (x - T) / R above the knee, x under it, between them a
// parabola.
TEST(FollowerLevels, TheStaticCurveIsThePapers) {
  const Follower f{.thresholdDb = -20, .ratio = 4, .kneeDb = 8};
  for (double x : {-60.0, -30.0, -24.0}) EXPECT_NEAR(followerReductionDb(f, x), 0.0, 1e-12) << x;
  for (double x : {-16.0, -10.0, 0.0}) EXPECT_NEAR(followerReductionDb(f, x), (x + 20) * 0.75, 1e-12) << x;
  for (double x : {-23.0, -20.0, -17.5})
    EXPECT_NEAR(followerReductionDb(f, x), 0.75 * (x + 24) * (x + 24) / 16, 1e-12) << x;
  EXPECT_EQ(followerReductionDb({.thresholdDb = -40, .ratio = 100, .kneeDb = 0, .deepestDb = 7}, -10), 7.0);
}

std::vector<double> reductionOf(const Follower& f, const std::vector<float>& x) {
  std::vector<float> gain(x.size());
  FollowerState rest;
  followLevel(f, x, kMoveRate, rest, gain);
  std::vector<double> out;
  for (const float g : gain) out.push_back(-dbOf(g));
  return out;
}

// Smooth branching (equation 17): a step is answered by 1 - exp(-t / attack), its end by exp(-t / release), in
// dB.
TEST(FollowerLevels, BallisticsAreThePapers) {
  for (const LevelBy by : {LevelBy::Peak, LevelBy::Rms}) {
    const Follower f{.thresholdDb = -30,
                     .ratio = 5,
                     .kneeDb = 0,
                     .attackMs = 80,
                     .holdMs = 25,
                     .releaseMs = 90,
                     .level = by};
    std::vector<float> x(96000, 0.0f);
    std::fill(x.begin() + 4800, x.begin() + 48000, 0.5f);
    const auto taken = reductionOf(f, x);
    const double full = (dbOf(0.5) + 30) * 0.8;
    EXPECT_EQ(taken[4799], 0.0);
    for (double ms : {40.0, 80.0, 160.0, 400.0}) {
      const double want = full * (1 - std::exp(-ms / 80.0));
      // A mean square needs its own 10 ms to come up.
      EXPECT_NEAR(taken[4800 + static_cast<size_t>(48 * ms)], want, by == LevelBy::Peak ? 0.01 : 0.2 * full)
          << ms;
    }
    const double reached = taken[47999];
    EXPECT_NEAR(reached, full, 0.01);
    if (by == LevelBy::Rms) continue;
    EXPECT_NEAR(taken[48000 + 24 * 48], reached, 1e-4) << "held";
    for (double ms : {30.0, 90.0, 270.0})
      EXPECT_NEAR(taken[48000 + 1200 + static_cast<size_t>(48 * ms)], reached * std::exp(-ms / 90.0), 0.01)
          << ms;
  }
}

// The level of a sine by its mean square is 3.01 dB under its peak.
TEST(FollowerLevels, RmsOfASineIsThreeDecibelsUnderItsPeak) {
  Follower f{.thresholdDb = -40, .ratio = 2, .kneeDb = 0, .attackMs = 0.1, .releaseMs = 2000};
  const auto tone = sine(1000, 0.5, 1.0, kMoveRate);
  const std::vector<float> x(tone.begin(), tone.end());
  const double peak = reductionOf(f, x).back();
  f.level = LevelBy::Rms;
  EXPECT_NEAR(peak - reductionOf(f, x).back(), 0.5 * 3.01, 0.1);
}

TEST(FollowerLevels, GoesOnInPiecesToTheBit) {
  Follower f{.thresholdDb = -35,
             .ratio = 6,
             .kneeDb = 6,
             .attackMs = 3,
             .holdMs = 7,
             .releaseMs = 60,
             .level = LevelBy::Rms};
  const auto tone = noise(0.2, 40000, 12);
  std::vector<float> x(tone.begin(), tone.end());
  for (size_t i = 0; i < x.size(); ++i) x[i] *= static_cast<float>(0.5 + 0.5 * std::sin(i / 3000.0));
  std::vector<float> whole(x.size()), pieces(x.size());
  FollowerState a, b;
  followLevel(f, x, kMoveRate, a, whole);
  std::mt19937 random(5);
  for (size_t at = 0; at < x.size();) {
    const size_t n = std::min<size_t>(1 + random() % 5000, x.size() - at);
    followLevel(f, std::span(x).subspan(at, n), kMoveRate, b, std::span(pieces).subspan(at, n));
    at += n;
  }
  EXPECT_EQ(whole, pieces);
}

TEST(FollowerLevels, TheThresholdThatTakesSoMuchTakesIt) {
  KickRecipe recipe;
  const auto kick = makeKick(recipe);
  std::vector<float> x(kick.begin(), kick.end());
  for (double takes : {3.0, 6.0, 14.0}) {
    Follower f{.ratio = 4, .kneeDb = 6, .attackMs = 2, .releaseMs = 40};
    f.thresholdDb = thresholdTaking(f, x, kMoveRate, takes);
    const auto taken = reductionOf(f, x);
    EXPECT_NEAR(*std::max_element(taken.begin(), taken.end()), takes, 0.05);
  }
  EXPECT_EQ(thresholdTaking({}, std::vector<float>(4800, 0.0f), kMoveRate, 6), -80.0)
      << "silence takes nothing";
}

struct Mirrored {
  std::vector<float> gain;
  std::vector<double> kick, bass;
};

Mirrored mirror(const Mirror& m, std::vector<double> kick, std::vector<double> bass) {
  const size_t reach = mirrorReach(kMoveRate);
  const auto lows = LowPart(kMoveRate, m.belowHz, kick.size());
  auto low = [&](const std::vector<double>& x) {
    return lows.of(std::vector<float>(x.begin(), x.end()), false);
  };
  Mirrored out;
  out.gain = mirrorGain(m, low(kick), low(bass), kMoveRate);
  auto middle = [&](const std::vector<double>& x) {
    return std::vector<double>(x.begin() + static_cast<ptrdiff_t>(reach),
                               x.end() - static_cast<ptrdiff_t>(reach));
  };
  out.kick = middle(kick), out.bass = middle(bass);
  return out;
}

// Steady tones: what is left of the bass is (within * louder - kick) / bass.
TEST(MirrorLevels, BothTogetherStayWithinTheLouder) {
  for (double within : {1.0, 2.0, 4.0})
    for (double kickDb : {-12.0, -3.0, 0.0, 4.0}) {
      const double k = std::pow(10.0, kickDb / 20) * 0.3, b = 0.3;
      const auto m = mirror({.withinDb = within}, sine(52, k, 1.0, kMoveRate), sine(50, b, 1.0, kMoveRate));
      const double want = std::clamp((std::pow(10.0, within / 20) * std::max(k, b) - k) / b, 0.0, 1.0);
      for (size_t i = 4800; i + 4800 < m.gain.size(); i += 480)
        ASSERT_NEAR(m.gain[i], want, 0.004) << within << " " << kickDb;
    }
}

// What a 50 Hz tone is multiplied by must not give it partials of its own: from 90 Hz up 50 dB under it.
TEST(MirrorLevels, ItsProductsStayFiftyDecibelsUnderTheBass) {
  std::vector<double> kick(144000, 0.0);
  for (double at : {0.5, 1.0, 1.37, 2.0})
    for (size_t i = 0; i < 24000; ++i) {
      const double t = i / kMoveRate;
      kick[static_cast<size_t>(at * kMoveRate) + i] += 0.8 * std::exp(-t / 0.08) * std::sin(kTwoPi * 55 * t);
    }
  const auto m = mirror({}, kick, sine(50, 0.4, 3.0, kMoveRate));
  EXPECT_LT(*std::min_element(m.gain.begin(), m.gain.end()), 0.35f);
  std::vector<double> y(m.bass.size());
  for (size_t i = 0; i < y.size(); ++i)
    y[i] = m.bass[i] * m.gain[i] * (0.5 - 0.5 * std::cos(kTwoPi * i / static_cast<double>(y.size())));
  const double tone = directBandPower(y, kMoveRate, 20, 80), products = directBandPower(y, kMoveRate, 90, 400);
  EXPECT_LT(10 * std::log10(products / tone), -50);
}

TEST(MirrorLevels, SilenceOfEitherChangesNothing) {
  const std::vector<double> silence(20000, 0.0), tone = sine(50, 0.4, 20000 / kMoveRate, kMoveRate);
  for (const auto& m : {mirror({}, silence, tone), mirror({}, tone, silence)})
    for (const float g : m.gain) ASSERT_EQ(g, 1.0f);
}

TEST(DuckBands, NothingMovesWhereTheGainIsOne) {
  const auto x = bufferOf(noise(0.2, 20000, 8), kMoveRate, 2);
  const std::vector<float> ones(20000, 1.0f);
  EXPECT_EQ(ducked(x, ones, {.kind = DuckBandKind::Bell, .bellHz = 50}, false), x);
  EXPECT_EQ(ducked(x, ones, {.kind = DuckBandKind::Several, .steps = {{90, 1}, {250, 0.4}}, .aboveShare = 0.2},
                   false),
            x);
}

TEST(DuckBands, EachOfSeveralTakesItsShare) {
  const std::vector<float> half(48000, 0.5f);
  const ActingBand band{.kind = DuckBandKind::Several, .steps = {{100, 1}, {400, 0.5}}, .aboveShare = 0.0};
  auto levelOf = [&](double hz) {
    const auto y = ducked(bufferOf(sine(hz, 0.5, 1.0, kMoveRate), kMoveRate), half, band, true);
    return rms({y.channels[0].begin(), y.channels[0].end()}) / (0.5 / std::numbers::sqrt2);
  };
  EXPECT_NEAR(levelOf(40), 0.5, 0.005);
  EXPECT_NEAR(levelOf(200), 0.75, 0.005);
  EXPECT_NEAR(levelOf(3000), 1.0, 1e-4);
}

// The Cookbook's band-pass of 0 dB, |H|^2 = 1 / (1 + Q^2 (w/w0 - w0/w)^2) as an analogue one: x + (g - 1) part
// is g at its middle, half way at its -3 dB points an octave apart.
TEST(DuckBands, ABellIsTheCookbooksAndTurnsNoPhaseAtItsMiddle) {
  const auto section = bellSection(kMoveRate, 55, 1.0);
  for (const auto& [hz, db] :
       {std::pair(55.0, 0.0), {55 / std::numbers::sqrt2, -3.01}, {55 * std::numbers::sqrt2, -3.01}})
    EXPECT_NEAR(Biquad::responseDb(section, kMoveRate, hz), db, 0.02) << hz;
  const std::vector<float> quarter(96000, 0.25f);
  const ActingBand band{.kind = DuckBandKind::Bell, .bellHz = 55, .octaves = 1};
  const auto x = sine(55, 0.5, 2.0, kMoveRate);
  const auto y = ducked(bufferOf(x, kMoveRate), quarter, band, false);
  for (size_t i = 48000; i < x.size(); ++i) ASSERT_NEAR(y.channels[0][i], 0.25 * x[i], 1e-3) << i;
}

TEST(DrawnFrom, AFollowersCurveIsDrawnAgain) {
  KickRecipe recipe;
  const auto kick = makeKick(recipe);
  std::vector<float> x(96000, 0.0f);
  const auto triggers = triggersAt({2000, 40000, 62000});
  for (const Trigger& t : triggers)
    for (size_t i = 0; i < kick.size() && t.frame + i < x.size(); ++i)
      x[static_cast<size_t>(t.frame) + i] += static_cast<float>(kick[i]);
  std::vector<float> gain(x.size());
  FollowerState rest;
  followLevel({.thresholdDb = -20, .ratio = 5, .kneeDb = 6, .attackMs = 4, .holdMs = 12, .releaseMs = 50}, x,
              kMoveRate, rest, gain);
  const auto drawn = drawnFrom(gain, triggers, kMoveRate);
  ASSERT_TRUE(drawn);
  EXPECT_LE(drawn->points.size(), 24u);
  const auto again = drawnGain(*drawn, triggers, kMoveRate, x.size(), true);
  for (size_t i = 0; i < again.size(); ++i) ASSERT_NEAR(again[i], gain[i], 0.06) << i;
  const DrawnDip plain{9, 3, 40, 70};
  const auto back = drawnFrom(drawnGain(plain, triggers, kMoveRate, 96000, true), triggers, kMoveRate);
  ASSERT_TRUE(back);
  EXPECT_NEAR(back->depthDb, 9, 0.02);
  EXPECT_LE(back->points.size(), 8u) << "of four dimensions little more than four points";
  EXPECT_FALSE(drawnFrom(std::vector<float>(4800, 1.0f), triggersAt({100}), kMoveRate)) << "nothing is taken";
}

}  // namespace
}  // namespace heft
