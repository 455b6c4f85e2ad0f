// Any two sounds against each other: strikes to a part of a sample, moves, and the correlation at each
// frequency.

#include "core/solve/two_sounds.h"

#include <gtest/gtest.h>

#include "core/session/edits/parts.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

Meeting meetingOf(const std::vector<double>& a, const std::vector<double>& b) {
  return {a, b};
}

// Two tones a phase apart correlate by its cosine; what a delay of d makes of it at f is cos(2 pi f d).
TEST(Correlations, AreTheCosineOfThePhaseBetweenTones) {
  constexpr double kRate = 2000.0;
  for (const double phase : {0.0, 0.5, 1.6, 3.1}) {
    const auto a = sine(50, 1.0, 1.0, kRate), b = sine(50, 0.3, 1.0, kRate, phase);
    const Correlation c({meetingOf(a, b)}, kRate);
    EXPECT_NEAR(*c.at(50, 1.0 / 6), std::cos(phase), 0.01) << phase;
    EXPECT_NEAR(*c.at(50, 1.0 / 6, 0.0, true), -std::cos(phase), 0.01);
    for (const double ms : {-4.0, 2.5})
      EXPECT_NEAR(*c.at(50, 1.0 / 6, ms), std::cos(phase - kTwoPi * 50 * ms / 1000), 0.01) << ms;
    EXPECT_FALSE(c.at(180, 1.0 / 6)) << "nothing sounds there";
  }
  // Noises of their own have next to none; the same noise has all of it.
  const auto a = noise(1.0, 4000, 1), b = noise(1.0, 4000, 2);
  EXPECT_LT(std::abs(*Correlation({meetingOf(a, b)}, kRate).at(100, 1.0)), 0.2);
  EXPECT_NEAR(*Correlation({meetingOf(a, a)}, kRate).at(100, 1.0), 1.0, 1e-9);
  EXPECT_TRUE(Correlation({}, kRate).empty());
  EXPECT_FALSE(Correlation().at(100, 1.0));
}

// A kick of two layers that are one sound, the second moved by parts of a sample.
Session doubled(double offsetMs) {
  Session s = theDemo().session;
  s.kick().layers.push_back(s.kick().layers[0]);
  Layer& copy = s.kick().layers[1];
  copy.id = 9, copy.offsetMs = offsetMs, copy.betweenSamples = true;
  return s;
}

TEST(TwoSounds, StrikesOfLayersAreBroughtTogetherToAPartOfASample) {
  for (const double offset : {0.37, -1.2135, 0.01}) {
    const Session s = doubled(offset);
    StepCache cache;
    const SoundRef first{s.kick().id, s.kick().layers[0].id}, second{s.kick().id, 9};
    const auto apart = twoSounds(s, theDemo().assets, first, second, cache);
    ASSERT_TRUE(apart) << apart.error().sentence();
    ASSERT_TRUE(apart->strikesApartMs);
    EXPECT_NEAR(*apart->strikesApartMs, offset, 1e-6);
    const Session mended = moveSound("together", second, -*apart->strikesApartMs, false).applied(s);
    // What is rendered is one sound twice as loud, to -60 dB: offset and back within the reading between
    // samples.
    const Stems once = rendered(theDemo().session, cache), twice = rendered(mended, cache);
    double off = 0.0, all = 0.0;
    for (size_t i = 0; i < once.frames; ++i) {
      const double want = 2.0 * once.lanes[once.kickLane].placed.at(0, i),
                   has = twice.lanes[twice.kickLane].placed.at(0, i);
      off += (has - want) * (has - want), all += want * want;
    }
    EXPECT_LT(off, 1e-6 * all) << offset;
    EXPECT_NEAR(mended.kick().layers[1].offsetMs, 0.0, 1e-6);
  }
  // Between samples the sum is what a band-limited delay gives: far from the nearest whole sample's.
  StepCache cache;
  Session half = doubled(0.5 / 48.0), whole = half;
  whole.kick().layers[1].betweenSamples = false;
  EXPECT_NE(rendered(half, cache).kick().at(0, 200), rendered(whole, cache).kick().at(0, 200));
}

// Against brute force: the bass shifted in the session by the answer gains what the answer says, and nothing
// beats it on a coarse search by rendering.
TEST(TwoSounds, TheMoveDoesWhatItSays) {
  Session s = theDemo().session;
  s.ducks.front().on = false;
  StepCache cache;
  const SoundRef kick{s.kick().id, {}}, bass{s.bass().id, {}};
  const auto now = twoSounds(s, theDemo().assets, kick, bass, cache);
  ASSERT_TRUE(now);
  ASSERT_TRUE(now->best.overlap);
  EXPECT_GT(now->best.afterDb, now->nowDb + 1.0);
  const Session moved = moveSound("align", bass, now->best.delayMs, now->best.invert).applied(s);
  const auto after = twoSounds(moved, theDemo().assets, kick, bass, cache);
  ASSERT_TRUE(after);
  EXPECT_NEAR(after->nowDb, now->best.afterDb, 0.5);
  EXPECT_EQ(after->best.delayMs, 0.0) << "aligned, it stays";
  EXPECT_FALSE(after->best.invert);
  // The correlation with the move is the correlation that the moved pair has.
  for (const double hz : {45.0, 55.0, 65.0})
    if (const auto said = now->between.at(hz, 1.0 / 3, now->best.delayMs, now->best.invert))
      EXPECT_NEAR(*said, *after->between.at(hz, 1.0 / 3), 0.12) << hz;
  EXPECT_EQ(now->waves.size(), s.kick().hits.size());
}

TEST(TwoSounds, AreAskedForByNameAndRefusedWithASentence) {
  Session s = doubled(0.0);
  const auto all = soundsOf(s);
  ASSERT_EQ(all.size(), 4u) << "the kick, its two layers, the bass";
  EXPECT_EQ(soundTitle(s, all[0]), "Kick");
  EXPECT_EQ(soundTitle(s, all[1]).rfind("Kick: ", 0), 0u);
  EXPECT_EQ(soundTitle(s, {77, {}}), "");
  StepCache cache;
  EXPECT_FALSE(twoSounds(s, theDemo().assets, all[0], all[0], cache));
  const auto own = twoSounds(s, theDemo().assets, all[1], all[0], cache);
  ASSERT_FALSE(own);
  EXPECT_NE(own.error().reason.find("moves with its layers"), std::string::npos);
  s.bass().notes.clear();
  const auto none = twoSounds(s, theDemo().assets, all[0], all[3], cache);
  ASSERT_FALSE(none);
  EXPECT_NE(none.error().reason.find("Bass has no hits"), std::string::npos);
  // Missing by then: nothing happens.
  EXPECT_EQ(moveSound("x", {77, 3}, 1.0, true).applied(s), s);
  // A part that plays notes against one that plays hits, and a muted layer alone.
  s = doubled(0.0);
  s.kick().layers[1].mute = true;
  const auto silent = twoSounds(s, theDemo().assets, all[1], all[2], cache);
  ASSERT_TRUE(silent);
  EXPECT_NEAR(silent->nowDb, 0.0, 0.01) << "heard alone though it is muted";
  EXPECT_TRUE(twoSounds(s, theDemo().assets, all[3], all[0], cache));
}

// A snare and a clap from files of other rates, the clap late and inverted: found, and aligned as parts.
TEST(TwoSounds, SnareAndClapAreBroughtTogether) {
  TemporaryFolder folder;
  Assets assets;
  auto drum = [&](const char* name, double rate, double silentMs, double sign) {
    std::vector<double> x(static_cast<size_t>(0.3 * rate), 0.0);
    const auto first = static_cast<size_t>(silentMs / 1000 * rate);
    for (size_t i = first; i < x.size(); ++i) {
      const double t = static_cast<double>(i - first) / rate;
      x[i] = sign * 0.6 * std::exp(-t / 0.05) * std::sin(kTwoPi * 190 * t);
    }
    const auto file = writeSound(folder, name, bufferOf(x, rate));
    return recordedLayer(assets.add(*loadSound(file), file));
  };
  Session s;
  s = addPart(3, "Snare", Plays::Hits).applied(addPart(4, "Clap", Plays::Hits).applied(s));
  s.part(3)->layers = {drum("snare.wav", 44100, 5, 1.0)};
  s.part(4)->layers = {drum("clap.wav", 96000, 2, -1.0)};
  s.part(3)->hits = s.part(4)->hits = {{1}, {3}};
  s.part(4)->align.delayMs = 1.6;
  s.part(4)->align.question = {100, 600, 8};
  StepCache cache;
  const auto found = twoSounds(s, assets, {3, {}}, {4, {}}, cache);
  ASSERT_TRUE(found) << found.error().sentence();
  EXPECT_NEAR(*found->strikesApartMs, 1.6, 0.03);
  EXPECT_NEAR(found->nowDb, 10 * std::log10((1 - std::cos(kTwoPi * 190 * 1.6e-3)) / 2), 0.15);
  const Session mended = moveSound("together", {4, {}}, -*found->strikesApartMs, true).applied(s);
  EXPECT_NEAR(mended.part(4)->align.delayMs, 0.0, 0.03);
  EXPECT_TRUE(mended.part(4)->align.invert);
  const auto after = twoSounds(mended, assets, {3, {}}, {4, {}}, cache);
  ASSERT_TRUE(after);
  EXPECT_NEAR(after->nowDb, 0.0, 0.05);
  EXPECT_NEAR(*after->between.at(190, 1.0 / 3), 1.0, 0.01);
  // Where no events of both coincide, there are no strike figures.
  s.part(4)->hits = {{0.5}};
  EXPECT_FALSE(twoSounds(s, assets, {3, {}}, {4, {}}, cache)->strikesApartMs);
}

}  // namespace
}  // namespace heft
