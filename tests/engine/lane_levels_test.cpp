// Meters at the lanes' heads: against the true peak of BS.1770-4 by libebur128, and gain reduction against
// the same lane without the processor, sample by sample.

#include "engine/player/lane_levels.h"

#include <cmath>

#include "core/measure/levels/loudness.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

LoopLevels levelsOf(const Session& s, const Stems& stems, StepCache& cache,
                    const SilencedLanes& silenced = {}) {
  return heft::levelsOf({s, theDemo().assets, stems, silenced}, cache);
}

TEST(LaneLevels, PeaksBetweenSamplesAreThoseOfTheLibrary) {
  StepCache cache;
  const Session& s = theDemo().session;
  const Stems stems = rendered(s, cache);
  const LoopLevels levels = levelsOf(s, stems, cache);
  for (const Lane& lane : stems.lanes) {
    const auto whole = truePeakOf(lane.heard.toBuffer(48000));
    ASSERT_TRUE(whole);
    const double said = dbFromAmplitude(levels.lanes.at(lane.part).peak.highest(0, stems.frames));
    EXPECT_NEAR(said, dbFromAmplitude(*whole), 0.05) << lane.part;
    // And where it is: a stretch that the meter names is as loud by its samples at least.
    for (size_t at = 1000; at + 5000 < stems.frames; at += 7777)
      EXPECT_GE(levels.lanes.at(lane.part).peak.highest(static_cast<int64_t>(at) - 64, 5200),
                0.999f * lane.heard.peak(static_cast<int64_t>(at), 5000));
  }
}

TEST(LaneLevels, LanesAreDrawnByTheirHighestSampleAndTheLouderSide) {
  StepCache cache;
  Session s = theDemo().session;
  s.sum.finish.put({0, Gain{true, -3.0}});
  const Stems stems = rendered(s, cache);
  const LanePeaks peaks = lanePeaks(stems, cache);
  const auto drawn = [&](const Signal& x, const LanePeak& peak) {
    EXPECT_FLOAT_EQ(peak.peak, static_cast<float>(peakOf(x.toBuffer(48000))));
    EXPECT_EQ(peak.channel, x.drawnChannel(0, x.frames()));
  };
  for (const Lane& lane : stems.lanes) drawn(lane.heard, peaks.lanes.at(lane.part));
  drawn(stems.backing, peaks.lanes.at(kBackingLane)), drawn(stems.sum, peaks.sum);
  Signal right({200}, 2), none;
  right.push(std::make_shared<Block>(Block{{std::vector<float>(200, 0.1f), std::vector<float>(200, -0.4f)}}),
             KeyMaker("on the right").key());
  EXPECT_EQ(peakOf(right, cache).channel, 1u);
  EXPECT_EQ(peakOf(right, cache).peak, 0.4f);
  EXPECT_EQ(peakOf(none, cache).peak, 0.0f);
}

// The most gain reduction within a stretch, from the samples themselves.
double lostDb(const Signal& with, const Signal& without, int64_t first, size_t count) {
  double out = 0.0;
  const auto y = with.read(0, first, count), x = without.read(0, first, count);
  for (size_t i = 0; i < count; ++i)
    if (std::abs(x[i]) > 1e-3f) out = std::max(out, -20.0 * std::log10(std::abs(y[i] / x[i]) + 1e-9));
  return out;
}

enum class Holder { Layer, Events, Lane };

void put(Part& part, Holder holder, const Processor::What& what) {
  (holder == Holder::Layer ? part.layers[0].chain : part.finish).put({0, what});
  part.finishOver = holder == Holder::Lane ? FinishOver::Lane : FinishOver::Hits;
}

void expectTaken(const LoopLine& line, const Signal& with, const Signal& without, const std::string& where) {
  constexpr size_t kStretch = 4800;
  double most = 0.0;
  for (size_t at = 0; at + kStretch < with.frames(); at += kStretch) {
    const auto first = static_cast<int64_t>(at);
    constexpr auto kSteps = static_cast<int64_t>(2 * LoopLine::kStepFrames);
    const double said = line.highest(first, kStretch),
                 around = line.highest(first - kSteps, kStretch + 2 * kSteps);
    // To within two steps it says no less than was lost there, and no more than was lost there and over its
    // time back before: between waves no sample tells.
    EXPECT_GE(around, lostDb(with, without, first, kStretch) - 0.05) << where << " at " << at;
    const double lost = lostDb(with, without, first - 480 - kSteps, kStretch + 480 + 2 * kSteps);
    if (lost > 0.0) EXPECT_LE(said, lost + 0.3) << where << " at " << at;
    most = std::max(most, said);
  }
  EXPECT_GT(most, 3.0) << where;
}

TEST(LaneLevels, WhatIsTakenIsWhatTheLaneLostWhereverItIsTaken) {
  Compressor c;
  c.on = true, c.thresholdDb = -30.0, c.attackMs = 2.0, c.releaseMs = 80.0, c.makeupDb = 0.0, c.mix = 0.8;
  Limiter l{true, -20.0, 60.0};
  StepCache cache;
  for (const bool limited : {false, true})
    for (const bool ofKick : {false, true})
      for (const Holder holder : {Holder::Layer, Holder::Events, Holder::Lane}) {
        Session bare = theDemo().session;
        bare.kick().align.delayMs = 10.0, bare.bass().align.delayMs = -5.0;
        Session s = bare;
        put(ofKick ? s.kick() : s.bass(), holder, limited ? Processor::What(l) : Processor::What(c));
        const Stems with = rendered(s, cache), without = rendered(bare, cache);
        const LoopLevels levels = levelsOf(s, with, cache);
        const int id = ofKick ? s.kick().id : s.bass().id, other = ofKick ? s.bass().id : s.kick().id;
        expectTaken(levels.lanes.at(id).taken, with.lane(id)->heard, without.lane(id)->heard,
                    std::to_string(id) + " held by " + std::to_string(static_cast<int>(holder)));
        EXPECT_EQ(levels.lanes.at(other).taken.highest(0, with.frames), 0.0f);
        EXPECT_EQ(levels.sumTaken.highest(0, with.frames), 0.0f);
      }
}

// For the sum it is that of what plays; a clip reduces by its curve; off, nothing is reduced.
TEST(LaneLevels, OfTheSumWhatIsSilencedTakesNoPart) {
  StepCache cache;
  Session bare = theDemo().session;
  Session s = bare;
  s.sum.finish.put({0, Limiter{true, -24.0, 50.0}});
  const Stems with = rendered(s, cache), without = rendered(bare, cache);
  expectTaken(levelsOf(s, with, cache).sumTaken, with.sum, without.sum, "sum");
  EXPECT_LT(levelsOf(s, with, cache, {s.kick().id, s.bass().id}).sumTaken.highest(0, with.frames),
            levelsOf(s, with, cache).sumTaken.highest(0, with.frames));
  const SoftClip clip{true, 6.0, -20.0};
  s.sum.finish = {};
  s.sum.finish.put({0, clip});
  const double peak = without.sum.peak(0, without.frames);
  EXPECT_NEAR(levelsOf(s, rendered(s, cache), cache).sumTaken.highest(0, without.frames),
              -dbFromAmplitude(softClipCurve(clip, peak) / peak), 1e-3);
  s.sum.finish.on = false;
  EXPECT_TRUE(levelsOf(s, rendered(s, cache), cache).sumTaken.steps.empty());
}

}  // namespace
}  // namespace heft
