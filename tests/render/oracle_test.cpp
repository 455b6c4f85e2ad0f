// Slow, obvious second implementations, held against the product's on seeded random input.

#include <gtest/gtest.h>

#include <array>
#include <complex>
#include <deque>
#include <numbers>
#include <thread>

#include "core/duck/apply.h"
#include "core/duck/gain_curve.h"
#include "core/measure/levels/levels.h"
#include "core/render/lanes/render.h"
#include "core/sound/elementwise.h"
#include "core/sound/fft.h"
#include "core/sound/filter.h"
#include "core/sound/fir.h"
#include "engine/player/snapshot.h"
#include "scenario/make_demo.h"
#include "tests/reference/signals.h"
#include "tests/reference/triggers.h"

namespace heft {
namespace {

using namespace reference;

// A dip, frame by frame, as a state machine: where are we, since when, and from which gain did we start.
std::vector<double> dipStepByStep(const DrawnDip& d, const std::vector<double>& triggers, double rate,
                                  size_t frames) {
  const double low = d.depthDb >= 120 ? 0.0 : std::pow(10.0, -d.depthDb / 20.0);
  const double attack = std::max(0.5, d.attackMs) * rate / 1000, hold = d.holdMs * rate / 1000,
               back = std::max(1.0, d.returnMs) * rate / 1000;
  std::vector<double> out(frames, 1.0);
  double start = -1e18, from = 1.0;
  auto at = [&](double since) {
    if (since < attack)
      return low + (from - low) * std::pow(std::cos(0.5 * std::numbers::pi * since / attack), 2);
    if (since < attack + hold) return low;
    if (since < attack + hold + back)
      return low + (1 - low) * std::pow(std::sin(0.5 * std::numbers::pi * (since - attack - hold) / back), 2);
    return 1.0;
  };
  size_t next = 0;
  for (size_t i = 0; i < frames; ++i) {
    for (; next < triggers.size() && triggers[next] <= static_cast<double>(i); ++next) {
      const double now = start < -1e17 ? 1.0 : at(triggers[next] - start);
      from = std::max(low, now);
      start = triggers[next];
    }
    out[i] = start < -1e17 ? 1.0 : at(static_cast<double>(i) - start);
  }
  return out;
}

TEST(Oracle, DipsOfRandomTriggersAndTimes) {
  std::mt19937 random(31);
  auto uniform = [&](double a, double b) { return a + (b - a) * random() / 4294967296.0; };
  for (int trial = 0; trial < 40; ++trial) {
    const DrawnDip dip{uniform(0.5, 130), uniform(0, 30), uniform(0, 120), uniform(0, 300)};
    std::vector<double> triggers;
    for (double t = uniform(0, 5000); t < 60000; t += uniform(200, 20000)) triggers.push_back(t);
    const auto gain = drawnGain(dip, triggersAt(triggers), 48000, 60000, false);
    const auto want = dipStepByStep(dip, triggers, 48000, 60000);
    for (size_t i = 0; i < gain.size(); i += 7)
      ASSERT_NEAR(gain[i], want[i], 2e-6) << "trial " << trial << ", frame " << i;
    // Read block by block it is the same curve.
    const auto marks = triggersAt(triggers);
    const DipPlan plan(dip, marks, 48000, {0, false});
    for (size_t at = 0; at < gain.size();) {
      std::vector<float> block(std::min<size_t>(1 + random() % 9000, gain.size() - at));
      plan.fill(at, block);
      for (size_t i = 0; i < block.size(); ++i) ASSERT_EQ(block[i], gain[at + i]);
      if (plan.rests(at, block.size())) ASSERT_EQ(*std::min_element(block.begin(), block.end()), 1.0f);
      at += block.size();
    }
  }
}

TEST(Oracle, WhatADipDoesIsCountedByHand) {
  std::mt19937 random(32);
  for (int trial = 0; trial < 20; ++trial) {
    std::vector<double> triggers;
    for (double t = 1000; t < 90000; t += 6000 + random() % 9000) triggers.push_back(t);
    const DrawnDip dip{3.0 + random() % 12, 2, 20, 40.0 + random() % 60};
    const auto gain = drawnGain(dip, triggersAt(triggers), 48000, 100000, false);
    const auto facts = measureDip(gain, triggersAt(triggers), 48000);
    EXPECT_EQ(facts.fired, static_cast<int>(triggers.size()));
    EXPECT_NEAR(facts.depthDb, -dip.depthDb, 1e-3);
    double longest = 0;
    for (size_t t = 0; t < triggers.size(); ++t) {
      const auto end = static_cast<size_t>(t + 1 < triggers.size() ? triggers[t + 1] : 100000);
      for (auto i = static_cast<size_t>(triggers[t]); i < end; ++i)
        if (20 * std::log10(gain[i]) < -0.5)
          longest = std::max(longest, (static_cast<double>(i) - triggers[t]) / 48.0);
    }
    EXPECT_NEAR(facts.returnMs, longest, 0.05);
  }
}

TEST(Oracle, SlidingPeakIsThePlainMaximum) {
  const auto x = noise(0.3, 3000, 41);
  for (double window : {0.001, 0.0125, 0.05}) {
    const auto fast = slidingPeak(x, 8000, window);
    const auto half = std::max<ptrdiff_t>(1, static_cast<ptrdiff_t>(0.5 * window * 8000));
    for (ptrdiff_t i = 0; i < 3000; ++i) {
      double most = 0;
      for (ptrdiff_t k = std::max<ptrdiff_t>(0, i - half); k <= std::min<ptrdiff_t>(2999, i + half); ++k)
        most = std::max(most, std::abs(x[static_cast<size_t>(k)]));
      ASSERT_EQ(fast[static_cast<size_t>(i)], most) << i;
    }
  }
}

TEST(Oracle, OverlapSaveIsADirectConvolution) {
  std::mt19937 random(43);
  for (size_t frames : {1u, 50u, 3000u, 9000u})
    for (bool wraps : {false, true}) {
      std::vector<float> x(frames);
      for (float& v : x) v = static_cast<float>(random() % 2001) / 1000.0f - 1.0f;
      const auto kernel = lowPassKernel(8000, 120, 120);
      const auto fast = LowPart(8000, 120, x.size()).of(x, wraps);
      const auto half = static_cast<ptrdiff_t>(kernel.size() / 2), n = static_cast<ptrdiff_t>(frames);
      for (ptrdiff_t i = 0; i < n; i += 1 + n / 200) {
        double sum = 0;
        for (ptrdiff_t k = -half; k <= half; ++k) {
          ptrdiff_t from = i + k;
          if (wraps) from = ((from % n) + n) % n;
          if (from >= 0 && from < n)
            sum += kernel[static_cast<size_t>(k + half)] * x[static_cast<size_t>(from)];
        }
        ASSERT_NEAR(fast[static_cast<size_t>(i)], sum, 1e-6) << frames << " " << wraps << " " << i;
      }
      if (x.size() <= 2 * kernel.size()) continue;
      const auto inside = LowPart(8000, 120, 1000).inside(x);
      ASSERT_EQ(inside.size(), frames - 2 * LowPart::reach(8000, 120));
      for (size_t i = 0; i < inside.size(); ++i)
        if (!wraps) ASSERT_NEAR(inside[i], fast[i + LowPart::reach(8000, 120)], 1e-6) << i;
    }
}

// Each output is its own sum, to the bit where the order is given, whatever goes together with it.
TEST(Oracle, TapsByEightsAreTheirSums) {
  std::mt19937 random(47);
  auto some = [&](size_t count) {
    std::vector<float> out(count);
    for (float& v : out) v = static_cast<float>(random() % 2001) / 1000.0f - 1.0f;
    return out;
  };
  for (size_t count : {1u, 7u, 16u, 33u, 100u}) {
    const auto in = some(count + 63), taps = some(64);
    std::vector<float> plain(count), added(count, 1.0f), tree(count);
    filterFir(in.data(), std::span(taps).first(37), plain.data(), count, FirInto::Set);
    filterFir(in.data(), std::span(taps).first(37), added.data(), count, FirInto::Add);
    filterFir64(in.data(), std::span<const float, 64>(taps), tree.data(), count);
    for (size_t i = 0; i < count; ++i) {
      float inOrder = 0.0f, from = 1.0f;
      double exact = 0.0;
      for (size_t t = 0; t < 64; ++t) {
        if (t < 37) inOrder += taps[t] * in[i + t], from += taps[t] * in[i + t];
        exact += static_cast<double>(taps[t]) * in[i + t];
      }
      EXPECT_EQ(plain[i], inOrder) << count << " " << i;
      EXPECT_EQ(added[i], from) << count << " " << i;
      EXPECT_NEAR(tree[i], exact, 1e-5) << count << " " << i;
      // Alone it is what it is among others.
      float alone = 0.0f;
      filterFir64(in.data() + i, std::span<const float, 64>(taps), &alone, 1);
      EXPECT_EQ(tree[i], alone) << count << " " << i;
    }
  }
}

// Against the C library, one at a time; nothing and one are what they are exactly.
TEST(Oracle, ManyAtOnceAreWhatOneIs) {
  std::vector<float> amplitudes{0.0f, 1.0f, 1e-38f};
  std::vector<double> db{0.0, -300.0, 900.0}, turns{0.0, 0.25, 1.5};
  std::mt19937 random(53);
  for (int i = 0; i < 3001; ++i) {
    amplitudes.push_back(std::ldexp(static_cast<float>(random() % 4096), -static_cast<int>(random() % 40)));
    db.push_back(static_cast<double>(random() % 400000) / 1000.0 - 300.0);
    turns.push_back(static_cast<double>(random() % 4000000) / 1000.0);
  }
  std::vector<double> levels(amplitudes.size()), gains = db, sines(turns.size()), cosines(turns.size());
  dbFromAmplitudes(amplitudes, -200.0, levels);
  amplitudesFromDb(gains);
  sinesAndCosines(turns, sines, cosines);
  for (size_t i = 0; i < levels.size(); ++i) {
    const double one = amplitudes[i];
    EXPECT_NEAR(levels[i], one > 0.0 ? std::max(-200.0, 20.0 * std::log10(one)) : -200.0, 1e-12);
  }
  for (size_t i = 0; i < db.size(); ++i) EXPECT_NEAR(gains[i] / std::pow(10.0, db[i] / 20.0), 1.0, 1e-12);
  for (size_t i = 0; i < turns.size(); ++i) {
    EXPECT_NEAR(sines[i], std::sin(2.0 * std::numbers::pi * turns[i]), 1e-11);
    EXPECT_NEAR(cosines[i], std::cos(2.0 * std::numbers::pi * turns[i]), 1e-11);
  }
  EXPECT_EQ(levels[0], -200.0);
  EXPECT_EQ(levels[1], 0.0);
  EXPECT_EQ(gains[0], 1.0);
  EXPECT_EQ(sines[0], 0.0);
  EXPECT_EQ(cosines[0], 1.0);
}

TEST(Oracle, SectionsInPairsAreOneAfterTheOther) {
  const auto first = Biquad::highPass(48000, 50, 0.7), second = Biquad::bell(48000, 300, 2, 6),
             third = Biquad::lowPass(48000, 4000, 1.2);
  auto x = noise(0.5, 2000, 59);
  std::vector<float> together(x.begin(), x.end());
  Biquad sections[] = {Biquad(first), Biquad(second), Biquad(third)};
  // In two pieces: each goes on from where it was.
  filterBy(sections, std::span(together).first(777));
  filterBy(sections, std::span(together).subspan(777));
  std::vector<float> apart(x.begin(), x.end());
  for (const auto& section : {first, second, third}) {
    Biquad filter(section);
    for (float& v : apart) v = static_cast<float>(filter.process(v));
  }
  EXPECT_EQ(together, apart);
}

TEST(Oracle, DecimationKeepsTheLowsAndFoldsNothing) {
  for (double rate : {44100.0, 48000.0, 96000.0}) {
    const auto tone = decimated(std::span<const double>(sine(55, 0.7, 0.5, rate)), rate, 1000);
    for (size_t i = tone.samples.size() / 4; i < tone.samples.size() * 3 / 4; ++i)
      ASSERT_NEAR(tone.samples[i], 0.7 * std::sin(kTwoPi * 55 * static_cast<double>(i) / tone.sampleRate),
                  5e-4);
    const auto high =
        decimated(std::span<const double>(sine(tone.sampleRate + 90, 0.7, 0.5, rate)), rate, 1000);
    double worst = 0;
    for (size_t i = high.samples.size() / 4; i < high.samples.size() * 3 / 4; ++i)
      worst = std::max(worst, std::abs(high.samples[i]));
    EXPECT_LT(20 * std::log10(worst / 0.7), -70) << rate;
  }
}

TEST(Oracle, AStemReadsTheSameInAnyPieces) {
  const auto demo = demo::make();
  StepCache cache;
  const auto stems = render(demo->session, demo->assets, cache);
  const Signal& sum = stems->sum;
  const AudioBuffer whole = sum.toBuffer(48000);
  std::mt19937 random(47);
  const auto n = static_cast<int64_t>(sum.frames());
  for (int i = 0; i < 60; ++i) {
    const auto first = static_cast<int64_t>(random() % (4 * sum.frames())) - 2 * n;
    const auto count = 1 + random() % 40000;
    for (size_t c = 0; c < 2; ++c) {
      const auto piece = sum.read(c, first, count);
      for (size_t k = 0; k < count; k += 97)
        ASSERT_EQ(piece[k],
                  whole.channels[c][static_cast<size_t>((((first + static_cast<int64_t>(k)) % n) + n) % n)]);
    }
  }
}

TEST(Oracle, ALoopAtAnotherRateStillMeetsItself) {
  const auto demo = demo::make();
  StepCache cache;
  const auto stems = render(demo->session, demo->assets, cache);
  const Signal other = convertedLoop(stems->bass(), 48000, 44100, cache);
  // The step across the seam is no larger than those beside it.
  double seam = std::abs(static_cast<double>(other.at(0, 0)) - other.at(0, other.frames() - 1)), beside = 0;
  for (size_t i = 1; i < 2000; ++i)
    beside = std::max(beside, std::abs(static_cast<double>(other.at(0, i)) - other.at(0, i - 1)));
  EXPECT_LE(seam, beside + 1e-6);
  EXPECT_EQ(&convertedLoop(stems->bass(), 48000, 48000, cache).block(0), &stems->bass().block(0))
      << "the same rate costs nothing";
}

// Plans are shared between threads: each transform still gives what a direct sum gives, to the last bits of a
// double, also where more lengths are asked for than are kept.
TEST(Oracle, TransformsOnSeveralThreadsAreTheDirectSum) {
  std::vector<std::thread> threads;
  std::array<double, 4> worst{};
  for (size_t t = 0; t < worst.size(); ++t)
    threads.emplace_back([&worst, t] {
      for (size_t n = 30; n < 130; ++n) {
        RealFft fft(n);
        const auto x = noise(1.0, n, static_cast<unsigned>(n + t));
        std::copy(x.begin(), x.end(), fft.time().begin());
        fft.forward();
        const size_t k = (n + t) % (n / 2);
        std::complex<double> want = 0;
        for (size_t i = 0; i < n; ++i)
          want += x[i] * std::polar(1.0, -2.0 * std::numbers::pi * static_cast<double>(k * i % n) /
                                             static_cast<double>(n));
        worst[t] = std::max(worst[t], std::abs(fft.bins()[k] - want));
        fft.inverse();
        for (size_t i = 0; i < n; ++i) worst[t] = std::max(worst[t], std::abs(fft.time()[i] - x[i]));
      }
    });
  for (auto& thread : threads) thread.join();
  for (double w : worst) EXPECT_LT(w, 1e-10);
}

TEST(Oracle, ResolvedDipFollowsTempoAndKick) {
  Duck duck;
  duck.curve.hold = TimeValue::note(1, 64);
  duck.curve.release = TimeValue::note(1, 16);
  // At 120 BPM a sixteenth is 125 ms, a sixty-fourth 31.25 ms.
  auto dip = resolvedDip(duck, 120, {});
  EXPECT_NEAR(dip.holdMs, 31.25, 1e-9);
  EXPECT_NEAR(dip.returnMs, 125, 1e-9);
  duck.curve.lasts = CurveLasts::AsSource;
  dip = resolvedDip(duck, 120, 200);
  EXPECT_NEAR(dip.attackMs + dip.holdMs + dip.returnMs, 200, 1e-9);
  EXPECT_NEAR(dip.holdMs / dip.returnMs, 0.25, 1e-9);
  EXPECT_NEAR(resolvedDip(duck, 120, {}).returnMs, 125, 1e-9) << "without a kick it is as set";
}

}  // namespace
}  // namespace heft
