// What sticks out of a spectrum, and the cut that flattens it through a drive.

#include "core/measure/levels/standing_out.h"

#include <gtest/gtest.h>

#include "core/looks/layer_spectrum.h"
#include "core/session/edits/sounds.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// Harmonics of a low note that fall by 6 dB an octave, some of them raised.
std::vector<double> comb(double hz, const std::vector<std::pair<int, double>>& raised = {}) {
  std::vector<double> out(48000, 0.0);
  for (int k = 1; k <= 60; ++k) {
    double level = 0.5 / k;
    for (const auto& [which, db] : raised)
      if (which == k) level *= std::pow(10.0, db / 20);
    const auto tone = sine(hz * k, level, 1.0, 48000, 0.7 * k * k);
    for (size_t i = 0; i < out.size(); ++i) out[i] += tone[i];
  }
  return out;
}

TEST(StandingOut, FindsWhatWasRaisedAndNothingElse) {
  EXPECT_TRUE(standingOut(fineSpectrum(comb(55), 48000), 75).empty());
  const auto one = standingOut(fineSpectrum(comb(55, {{6, 10.0}}), 48000), 75);
  ASSERT_EQ(one.size(), 1u);
  EXPECT_NEAR(one[0].hz, 330, 6);
  EXPECT_NEAR(one[0].overDb, 10.0, 2.0);
  const auto two = standingOut(fineSpectrum(comb(43, {{5, 9.0}, {17, 12.0}}), 48000), 60);
  ASSERT_EQ(two.size(), 2u);
  EXPECT_NEAR(two[0].hz, 215, 5);
  EXPECT_NEAR(two[1].hz, 731, 15);
  // A lone tone, noise and silence report nothing.
  EXPECT_TRUE(standingOut(fineSpectrum(sine(300, 0.5, 1.0, 48000), 48000), 75).empty());
  EXPECT_TRUE(standingOut(fineSpectrum(noise(0.2, 48000, 3), 48000), 150).empty());
  EXPECT_TRUE(standingOut(fineSpectrum(std::vector<double>(4800, 0.0), 48000), 75).empty());
  EXPECT_TRUE(standingOut({}, 75).empty());
  EXPECT_EQ(standsOver({}, 100, 75), 0.0);
  // The level of a band: a tone's power by hand, a Hann-like window apart.
  EXPECT_NEAR(fineSpectrum(sine(1000, 1.0, 1.0, 48000),
                           48000)[static_cast<size_t>(std::lround(24 * std::log2(1000 / kFineLowHz)))] -
                  fineSpectrum(sine(1000, 0.1, 1.0, 48000),
                               48000)[static_cast<size_t>(std::lround(24 * std::log2(1000 / kFineLowHz)))],
              20.0, 0.01);
}

// A recorded body with a resonance, driven: the cut that is offered lies in the EQ before the drive, and what
// is rendered with it stands no higher than the others.
TEST(LayerSpectra, TheCutEvensWhatIsRendered) {
  auto x = comb(55, {{7, 14.0}});
  for (size_t i = 0; i < x.size(); ++i) x[i] *= 0.5 * std::exp(-static_cast<double>(i) / 14000.0);
  Assets assets;
  TemporaryFolder folder;
  const auto file = writeSound(folder, "body.wav", bufferOf(x, 48000));
  Session s;
  s.kick().layers = {recordedLayer(assets.add(*loadSound(file), file))};
  s.kick().hits = {{0}};
  Layer& layer = s.kick().layers[0];
  layer.chain.put({0, Drive{true, DriveKind::Soft, 0, 8}});
  StepCache cache;
  const int part = s.kick().id, id = layer.id;
  const LayerSpectrum now = layerSpectrum(s, part, id, assets, cache);
  ASSERT_FALSE(now.cuts.empty());
  const auto at = std::find_if(now.cuts.begin(), now.cuts.end(),
                               [](const auto& c) { return std::abs(c.peak.hz - 385) < 12; });
  ASSERT_NE(at, now.cuts.end());
  EXPECT_LT(at->band.gainDb, -3.0);
  EXPECT_LT(std::abs(at->leftDb), 2.5);
  const Session cut = cutPeak(part, id, at->band).applied(s);
  const LayerSpectrum after = layerSpectrum(cut, part, id, assets, cache);
  for (const auto& c : after.cuts) EXPECT_GT(std::abs(c.peak.hz - 385), 12.0) << "still stands out";
  EXPECT_NEAR(standsOver(after.heardDb, at->peak.hz, 75), at->leftDb, 0.6);
  EXPECT_EQ(after.withoutEqDb, now.heardDb);
  EXPECT_TRUE(now.withoutEqDb.empty());
  // Four places; then nothing happens.
  Eq full;
  for (EqBand& b : full.bands) b.on = true;
  EXPECT_FALSE(putEqBand(full, at->band));
  EXPECT_TRUE(layerSpectrum(s, part, 99, assets, cache).heardDb.empty());
}

}  // namespace
}  // namespace heft
