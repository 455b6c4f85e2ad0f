// A loop or a track is recognised, used as what it is, and not judged as a one-shot.

#include "core/measure/events/material.h"

#include <gtest/gtest.h>

#include <numbers>

#include "core/remedies/remedies.h"
#include "core/session/edits/material.h"
#include "tests/reference/bass_maker.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

AudioBuffer kicksAt(const std::vector<double>& seconds, double length) {
  KickRecipe recipe;
  const auto kick = makeKick(recipe);
  std::vector<double> out(static_cast<size_t>(length * 48000));
  for (const double at : seconds)
    for (size_t i = 0; i < kick.size(); ++i)
      if (const auto to = static_cast<size_t>(at * 48000) + i; to < out.size()) out[to] += 0.7 * kick[i];
  return bufferOf(out, 48000);
}

TEST(Material, LoopsAndTracksAreToldFromOneShots) {
  const auto loop = recogniseMaterial(kicksAt({0.0, 0.5, 1.0, 1.5}, 2.0));
  EXPECT_EQ(loop.kind, Material::Loop);
  ASSERT_EQ(loop.onsets.size(), 4u);
  for (size_t i = 0; i < 4; ++i) EXPECT_NEAR(loop.onsets[i], 0.5 * static_cast<double>(i), 0.04);
  EXPECT_EQ(recogniseMaterial(kicksAt({0.0, 0.5, 1.0}, 60.0)).kind, Material::Track);
  EXPECT_TRUE(recogniseMaterial(AudioBuffer(48000, 2, 4800)).isOneShot()) << "silence";
  EXPECT_TRUE(recogniseMaterial(AudioBuffer(48000, 1, 0)).isOneShot());
  EXPECT_TRUE(recogniseMaterial(kicksAt({0.0, 0.03}, 1.0)).isOneShot()) << "a flam";
  for (unsigned seed = 0; seed < 24; ++seed)
    EXPECT_TRUE(recogniseMaterial(bufferOf(makeKick(randomRecipe(seed)), 48000)).isOneShot())
        << "kick " << seed;
  for (const double hz : {28.0, 41.2, 55.0, 98.0}) {
    BassRecipe bass;
    bass.hz = hz, bass.seconds = 4.0;
    EXPECT_TRUE(recogniseMaterial(bufferOf(makeBass(bass), 48000)).isOneShot()) << hz;
  }
}

// Two notes that ring into each other without a dip: a line. A glide, a vibrato or a beat is one sound.
TEST(Material, NotesWithoutAGapAreALine) {
  const auto line = [](double glideSeconds, double to) {
    std::vector<double> out(96000);
    double phase = 0.0;
    for (size_t i = 0; i < out.size(); ++i) {
      const double t = static_cast<double>(i) / 48000.0, part = std::clamp((t - 0.6) / glideSeconds, 0.0, 1.0);
      phase += 2.0 * std::numbers::pi * 55.0 * std::pow(to / 55.0, part) / 48000.0;
      out[i] = 0.5 * (std::sin(phase) + 0.3 * std::sin(2.0 * phase)) * std::exp(-0.5 * t);
    }
    return bufferOf(out, 48000);
  };
  EXPECT_EQ(recogniseMaterial(line(1e-4, 61.7)).kind, Material::Loop) << "a tone up";
  EXPECT_EQ(recogniseMaterial(line(1e-4, 65.4)).kind, Material::Loop);
  EXPECT_TRUE(recogniseMaterial(line(0.3, 65.4)).isOneShot()) << "an 808 that glides";
  EXPECT_TRUE(recogniseMaterial(line(1e-4, 56.0)).isOneShot()) << "31 cents";
  EXPECT_TRUE(recogniseMaterial(line(1e-4, 110.0)).isOneShot()) << "an octave may be the same note";
  for (unsigned seed = 0; seed < 40; ++seed)
    EXPECT_TRUE(recogniseMaterial(bufferOf(makeBass(randomBass(seed)), 48000)).isOneShot()) << "bass " << seed;
}

// A loop on the kick: no note and no tail are judged; played through it is in range; cut to a hit it is a kick
// again.
TEST(Material, ALoopOnALayerIsNotJudgedAsOneSound) {
  TemporaryFolder folder;
  const std::string file = writeSound(folder, "loop.wav", kicksAt({0.0, 0.5, 1.0, 1.5}, 2.0));
  Session s = theDemo().session;
  Assets assets = theDemo().assets;
  s.kick().layers = {recordedLayer(assets.add(*loadSound(file), file))};
  StepCache cache;
  auto find = [&](const Session& of, const std::string& id) -> std::optional<Finding> {
    const auto lines = judgedSession(of, assets, cache);
    EXPECT_TRUE(lines);
    for (const Finding& f : *lines)
      if (f.id == id) return f;
    return std::nullopt;
  };
  EXPECT_FALSE(find(s, "kick-tail"));
  EXPECT_FALSE(find(s, "kick-key"));
  const auto line = find(s, "kick-material");
  ASSERT_TRUE(line);
  EXPECT_EQ(line->verdict, Verdict::Watch);
  const Session through = line->options.front().applied(s);
  EXPECT_EQ(through.kick().hits.size(), 1u);
  EXPECT_EQ(find(through, "kick-material")->verdict, Verdict::Holds);
  const Session hit = takeOneHit(s.kick(), s.kick().layers[0].id, 500.0, 300.0).applied(s);
  EXPECT_FALSE(find(hit, "kick-material"));
  EXPECT_TRUE(find(hit, "kick-tail"));
  const Session backing = useAsBacking(s.kick(), s.kick().layers[0].id).applied(s);
  EXPECT_TRUE(backing.kick().layers.empty());
  EXPECT_EQ(backing.backing.asset, s.kick().layers[0].recorded()->asset);
  const Session trigger = useAsTrigger(s, s.kick(), s.kick().layers[0].id).applied(s);
  EXPECT_TRUE(trigger.duck().on);
  EXPECT_EQ(trigger.duck().source.kind, TriggerKind::Audio);
  EXPECT_TRUE(trigger.kick().layers.empty());
}

TEST(Material, ABassLoopIsOneNoteAtItsOwnPitch) {
  Session s = theDemo().session;
  const Session through = playThrough(s.bass(), s.bass().layers[0].id).applied(s);
  ASSERT_EQ(through.bass().notes.size(), 1u);
  EXPECT_EQ(through.bass().notes[0].lengthQuarters, s.track.loopQuarters());
  EXPECT_FALSE(through.bass().layers[0].recorded()->followNotes);
  EXPECT_TRUE(isPlayedThrough(through.bass(), through.bass().layers[0]));
  EXPECT_FALSE(isPlayedThrough(s.bass(), s.bass().layers[0]));
}

}  // namespace
}  // namespace heft
