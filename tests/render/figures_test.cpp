// Figures made from pieces against the same figures of the whole.

#include <gtest/gtest.h>

#include <random>

#include "core/looks/layer_looks.h"
#include "core/render/lanes/figure_steps.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

Signal stemOf(const std::vector<std::vector<double>>& channels, const char* name) {
  Signal out({channels[0].size()}, channels.size());
  for (size_t b = 0; b < out.blockCount(); ++b) {
    Block block;
    KeyMaker key(name);
    for (const auto& x : channels) {
      const auto first = x.begin() + static_cast<ptrdiff_t>(b * kBlockFrames);
      block.channels.emplace_back(first, first + static_cast<ptrdiff_t>(out.blockSize(b)));
      for (float v : block.channels.back()) key.add(static_cast<double>(v));
    }
    out.push(std::make_shared<const Block>(std::move(block)), key.key());
  }
  return out;
}

// Lows that go round the loop's end, a burst that is all highs, and another one on the other side.
std::vector<double> channel(size_t frames, double rate, unsigned seed) {
  auto x = sine(50 + 7 * seed, 0.4, static_cast<double>(frames) / rate, rate, 0.3 * seed);
  x.resize(frames);
  const auto bright = noise(0.5, frames, seed);
  for (size_t i = frames / 3; i < frames / 2; ++i) x[i] += bright[i];
  return x;
}

void expectSame(const LowEnd& a, const LowEnd& b) {
  EXPECT_NEAR(a.totalPower, b.totalPower, 1e-6 * b.totalPower);
  for (size_t i = 0; i < kBands.size(); ++i) EXPECT_NEAR(a.bandDb(i), b.bandDb(i), 1e-6) << i;
  for (size_t i = 0; i < a.curveDb.size(); ++i) EXPECT_NEAR(a.curveDb[i], b.curveDb[i], 1e-6) << i;
  EXPECT_NEAR(a.crestLowDb, b.crestLowDb, 1e-6);
  ASSERT_EQ(a.sideDbBelow120.has_value(), b.sideDbBelow120.has_value());
  if (a.sideDbBelow120) EXPECT_NEAR(*a.sideDbBelow120, *b.sideDbBelow120, 1e-6);
}

TEST(Figures, OfPiecesAreThoseOfTheWhole) {
  for (double rate : {44100.0, 48000.0, 96000.0})
    for (size_t channels : {1u, 2u})
      // Shorter than a block, a few blocks to the frame, and with a rest.
      for (size_t frames : {size_t{9000}, 4 * kBlockFrames, 9 * kBlockFrames + 4321}) {
        std::vector<std::vector<double>> x;
        for (size_t c = 0; c < channels; ++c) x.push_back(channel(frames, rate, static_cast<unsigned>(c + 1)));
        const Signal stem = stemOf(x, "whole");
        StepCache cache;
        const AudioBuffer whole = stem.toBuffer(rate);
        expectSame(laneLowEnd(stem, rate, cache), measureLowEnd(whole, true));
        const auto programme = laneProgramme(stem, rate, cache);
        const auto expected = measureProgramme(whole, true);
        ASSERT_TRUE(programme);
        EXPECT_NEAR(programme->integratedLufs.value_or(-1), expected->integratedLufs.value_or(-1), 1e-9);
        // The whole's begins and ends in silence, the loop's goes on.
        EXPECT_NEAR(programme->truePeakDbtp, expected->truePeakDbtp, 0.02)
            << rate << " " << channels << " " << frames;
        EXPECT_GE(programme->truePeakDbtp, dbFromAmplitude(peakOf(whole)) - 1e-9);
      }
}

TEST(Figures, AfterAnEditOfOneBlockTheyAreThoseOfAColdCache) {
  constexpr double kRate = 48000;
  auto x = channel(7 * kBlockFrames + 999, kRate, 3);
  StepCache warm;
  std::mt19937 random(4);
  for (int n = 0; n < 12; ++n) {
    const Signal stem = stemOf({x, x}, "edited");
    StepCache cold;
    const auto a = laneProgramme(stem, kRate, warm), b = laneProgramme(stem, kRate, cold);
    EXPECT_EQ(a->low.bandPower, b->low.bandPower);
    EXPECT_EQ(a->low.curveDb, b->low.curveDb);
    EXPECT_EQ(a->truePeakDbtp, b->truePeakDbtp);
    EXPECT_EQ(a->integratedLufs, b->integratedLufs);
    for (size_t i = 0, at = random() % x.size(); i < 700; ++i) x[(at + i) % x.size()] *= -0.7;
  }
}

TEST(Figures, ALaneBroughtDownReadsRoundTheLoopsEnd) {
  constexpr double kRate = 48000, kTarget = 2100;
  const Signal stem = stemOf({channel(3 * kBlockFrames + 77, kRate, 2)}, "round");
  StepCache cache;
  const int64_t first = -5000;
  const size_t count = stem.frames() + 60000;
  const auto whole = stem.read(0, first - 22000, count + 44000);
  const auto expected = decimated(std::span<const float>(whole), kRate, kTarget);
  const auto got = decimatedLane(stem, Fold::Mid, kRate, kTarget, first, count, cache);
  ASSERT_EQ(got.factor, expected.factor);
  ASSERT_EQ(got.samples.size(), (count + got.factor - 1) / got.factor);
  const size_t skipped = 22000 / got.factor;
  ASSERT_EQ(22000 % got.factor, 0u);
  for (size_t i = 0; i < got.samples.size(); ++i)
    ASSERT_NEAR(got.samples[i], expected.samples[i + skipped], 1e-9) << i;
}

// The sound comes before its figures: known figures of it stay until then, those of another do not.
TEST(Figures, OfALayerStayWhileItsSoundIsTheSame) {
  const auto& demo = theDemo();
  StepCache cache;
  Session s = demo.session;
  const auto measured = layerSounds(s, demo.assets, cache, true);
  ASSERT_TRUE(measured[0].figures && measured[0].figures->recordedHz);
  EXPECT_GT(measured[0].figures->tailMs, 100);
  s.kick().layers[0].levelDb -= 3;
  auto edited = layerSounds(s, demo.assets, cache, false);
  EXPECT_FALSE(edited[0].figures);
  keepFigures(edited, measured);
  ASSERT_TRUE(edited[0].figures);
  EXPECT_EQ(edited[0].figures->recordedHz, measured[0].figures->recordedHz);
  s.kick().layers[0].what = Recorded{s.bass().layers[0].asset()};
  auto other = layerSounds(s, demo.assets, cache, false);
  keepFigures(other, measured);
  EXPECT_FALSE(other[0].figures);
}

}  // namespace
}  // namespace heft
