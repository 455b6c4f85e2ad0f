// A bounce sounds like its source: a part, one layer, hits and notes, in time to the sample.

#include "core/render/lanes/bounce.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "core/measure/levels/loudness.h"
#include "core/session/edits/parts.h"
#include "tests/reference/four_parts.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// The driven part is a recording now, and sounds the same to the bit where hits are at full velocity.
TEST(Bounce, IsWhatWasHeard) {
  Session s = fourParts();
  addBuiltLayer(s.kick()).change(s);
  s.kick().layers[1].offsetMs = -3.5, s.kick().layers[1].levelDb = -8, s.kick().layers[1].invert = true;
  s.kick().layers[0].chain.put({0, Drive{true, DriveKind::Firm, 2, 14, 1}});
  s.kick().finish.need<SoftClip>()->on = true;
  for (Hit& h : s.kick().hits) h.velocity = 1.0;
  s.kick().levelDb = -2;
  for (const std::optional<int> layer : {std::optional<int>(), std::optional<int>(1)}) {
    StepCache cache;
    Assets assets;
    const Stems before = *render(s, assets, cache);
    const auto bounce = bounced(s, assets, s.kick().id, layer, cache);
    ASSERT_TRUE(bounce) << bounce.error().sentence();
    const AssetRef ref = assets.add(*decodeSound(bounce->bytes, bounce->fileName), bounce->fileName);
    const Session after = bounce->edit(ref).applied(s);
    EXPECT_EQ(after.kick().layers.size(), layer ? 2u : 1u);
    EXPECT_EQ(after.kick().levelDb, -2);
    const auto stems = render(after, assets, cache);
    ASSERT_TRUE(stems);
    EXPECT_EQ(samplesOf(stems->kick()), samplesOf(before.kick())) << (layer ? "layer" : "part");
    EXPECT_EQ(bounce->edit(ref).name, layer ? "bounce Built kick" : "bounce Kick");
  }
  // A line: the same at its main note, up to where the note ends.
  StepCache cache;
  Assets assets;
  const Stems before = *render(s, assets, cache);
  const auto bounce = bounced(s, assets, 4, std::nullopt, cache);
  ASSERT_TRUE(bounce);
  const AssetRef ref = assets.add(*decodeSound(bounce->bytes, bounce->fileName), bounce->fileName);
  const Session after = bounce->edit(ref).applied(s);
  const auto stems = render(after, assets, cache);
  ASSERT_TRUE(stems);
  for (size_t i = 0; i < 2500; ++i)
    ASSERT_NEAR(stems->lanes[3].heard.at(0, i), before.lanes[3].heard.at(0, i), 1e-6) << i;
}

// A layer of a line whose EQ rings ahead of its notes, and one with a sub-sample offset, stay in place.
TEST(Bounce, OfALayerStaysInTime) {
  for (const double lateMs : {0.0, -120.3}) {
    Session s = fourParts();
    s.track.sampleRate = 44100;
    Eq eq;
    eq.on = eq.linearPhase = true;
    eq.lowCut = {true, 60.0, 2};
    Layer& second = s.bass().layers.emplace_back(s.bass().layers.front());
    second.id = 2, second.offsetMs = lateMs, second.betweenSamples = true;
    second.chain.put({0, eq});
    s.bass().notes = {{1.0, 2.0, 33, 1.0}};
    s.duck().on = false;
    StepCache cache;
    Assets assets;
    const Stems before = *render(s, assets, cache);
    const auto bounce = bounced(s, assets, s.bass().id, 2, cache);
    ASSERT_TRUE(bounce) << bounce.error().sentence();
    const AssetRef ref = assets.add(*decodeSound(bounce->bytes, bounce->fileName), bounce->fileName);
    const Session after = bounce->edit(ref).applied(s);
    EXPECT_TRUE(after.bass().layers[1].betweenSamples);
    const auto stems = render(after, assets, cache);
    ASSERT_TRUE(stems);
    const auto is = samplesOf(stems->bass());
    const auto was = samplesOf(before.bass());
    double loudest = 0.0, worst = 0.0;
    for (size_t i = 0; i < std::min<size_t>(is.size(), 44100 * 9 / 10); ++i) {
      loudest = std::max<double>(loudest, std::abs(was[i]));
      worst = std::max<double>(worst, std::abs(is[i] - was[i]));
    }
    EXPECT_GT(loudest, 0.1);
    EXPECT_LT(worst, loudest * 2e-3) << lateMs;
  }
}

// With a set true peak a bounce has it (libebur128), and sounds the same.
TEST(Bounce, AtANamedPeakSoundsTheSame) {
  for (const double peakDb : {-1.0, -12.0})
    for (const bool bass : {false, true}) {
      Session s = fourParts();
      s.track.sampleRate = 44100;
      s.duck().on = false;
      for (Hit& h : s.kick().hits) h.velocity = 1.0;
      Part& part = bass ? s.bass() : s.kick();
      part.layers[0].levelDb = -3.0;
      StepCache cache;
      Assets assets;
      const auto bouncedLane = [&](std::optional<double> atDb) {
        s.exports.oneShotPeakDb = atDb;
        const auto bounce = bounced(s, assets, part.id, part.layers[0].id, cache);
        EXPECT_TRUE(bounce);
        const auto file = *decodeSound(bounce->bytes, bounce->fileName);
        if (atDb) EXPECT_NEAR(dbFromAmplitude(*truePeakOf(*file.sound)), *atDb, 0.1);
        const Session after = bounce->edit(assets.add(file, bounce->fileName)).applied(s);
        return samplesOf((*render(after, assets, cache)).lane(part.id)->heard);
      };
      const auto before = bouncedLane(std::nullopt), now = bouncedLane(peakDb);
      double worst = 0.0;
      for (size_t i = 0; i < now.size(); ++i) worst = std::max<double>(worst, std::abs(now[i] - before[i]));
      EXPECT_LT(worst, 1e-4) << peakDb << (bass ? " bass" : " kick");
    }
}

}  // namespace
}  // namespace heft
