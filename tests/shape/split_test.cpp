// Strike and body: the sides add up to the sound, keep meeting when one is processed, and say where they do
// not.

#include "core/session/edits/split.h"

#include <gtest/gtest.h>

#include "core/looks/layer_joint.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/session/folder.h"
#include "tests/cli/cli_fixture.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

AudioBuffer kickOf(double rate = 48000, size_t channels = 1) {
  KickRecipe recipe;
  recipe.sampleRate = rate, recipe.clickDb = -12, recipe.noiseDb = -30, recipe.tailMs = 400;
  AudioBuffer out = bufferOf(makeKick(recipe), rate);
  while (out.channelCount() < channels) out.channels.push_back(out.channels[0]);
  if (channels == 2)
    for (float& x : out.channels[1]) x *= 0.3f;
  return out;
}

// Bit for bit, at any cut, over any join, on both channels; outside the join each side is the sound itself.
TEST(Split, SidesAddUpToTheSoundSampleForSample) {
  for (const double rate : {44100.0, 96000.0})
    for (const double join : {0.0, 4.0, 50.0})
      for (const double cut : {0.002, 0.013, 0.4}) {
        const AudioBuffer x = kickOf(rate, 2);
        const AudioBuffer strike = sideOf(x, Side::Strike, cut, join / 1000),
                          body = sideOf(x, Side::Body, cut, join / 1000);
        ASSERT_EQ(body.frames(), x.frames());
        EXPECT_LE(strike.frames(), (cut + 0.5 * join / 1000) * rate + 3) << "nothing rings behind the cut";
        const double before = (cut - 0.5 * join / 1000) * rate, after = (cut + 0.5 * join / 1000) * rate;
        for (size_t c = 0; c < 2; ++c)
          for (size_t i = 0; i < x.frames(); ++i) {
            const float s = i < strike.frames() ? strike.channels[c][i] : 0.0f;
            ASSERT_EQ(s + body.channels[c][i], x.channels[c][i]) << i;
            if (static_cast<double>(i) < before - 1) ASSERT_EQ(s, x.channels[c][i]) << i;
            if (static_cast<double>(i) > after + 1) ASSERT_EQ(body.channels[c][i], x.channels[c][i]) << i;
          }
      }
}

// A click that was laid over a tone ends where it was made to end.
TEST(Split, TheStrikeEndsWhereItsHighsDo) {
  for (const double endMs : {5.0, 14.0, 25.0}) {
    auto x = sine(50, 0.6, 0.5, 48000);
    for (size_t i = 0; i < static_cast<size_t>(0.048 * endMs * 1000); ++i) {
      const double left = 1.0 - static_cast<double>(i) / (48.0 * endMs);
      x[i] += 0.4 * left * std::sin(2 * M_PI * 3000 * static_cast<double>(i) / 48000);
    }
    // A line to nothing is 20 dB down at nine tenths of its way.
    EXPECT_NEAR(strikeEndMs(bufferOf(x, 48000), 0.0), 0.9 * endMs, 1.0) << endMs;
  }
  EXPECT_EQ(strikeEndMs(bufferOf(sine(50, 0.6, 0.5, 48000, 0.0), 48000), 0.0), 3.0) << "no strike: the least";
}

// Known joints: the same wave meets, an inverted one leaves a hole, a step clicks.
TEST(Split, AJointIsMeasured) {
  const AudioBuffer x = bufferOf(sine(55, 0.5, 0.6, 48000), 48000);
  const auto laid = [&](const AudioBuffer& body) {
    AudioBuffer sum = sideOf(x, Side::Strike, 0.2, 0.004);
    sum.channels[0].resize(x.frames());
    const auto rest = sideOf(body, Side::Body, 0.2, 0.004);
    for (size_t i = 0; i < x.frames(); ++i) sum.channels[0][i] += rest.channels[0][i];
    return measureJoint(sum, x, body, 0.2, 0.004);
  };
  const JointFacts same = laid(x);
  EXPECT_NEAR(same.notchDb, 0.0, 0.05);
  EXPECT_NEAR(same.clickDb, 0.0, 0.05);
  AudioBuffer inverted = x, quarter = x;
  for (float& v : inverted.channels[0]) v = -v;
  EXPECT_LT(laid(inverted).notchDb, -12.0);
  // A quarter turn at the crossing: between two equal vectors at right angles lies 1/sqrt(2) of either.
  quarter = bufferOf(sine(55, 0.5, 0.6, 48000, M_PI / 2), 48000);
  EXPECT_LT(laid(quarter).notchDb, -1.0);
  EXPECT_GT(laid(quarter).notchDb, -3.5);
  AudioBuffer sum = x;
  for (size_t i = 9600; i < sum.frames(); ++i) sum.channels[0][i] += 0.2f;
  EXPECT_GT(measureJoint(sum, x, x, 0.2, 0.0).clickDb, 20.0) << "a step";
}

Session splitDemo(double atMs) {
  const Session& s = theDemo().session;
  return splitLayer(s.kick(), s.kick().layers[0].id, atMs).applied(s);
}

// In a session: a split alone is inaudible, and joined it is as before.
TEST(Split, ASplitAloneChangesNoSample) {
  const Session& s = theDemo().session;
  StepCache cache;
  const Session split = splitDemo(11.0);
  ASSERT_EQ(split.kick().layers.size(), s.kick().layers.size() + 1);
  EXPECT_EQ(split.kick().layers[0].id, s.kick().layers[0].id) << "the body carries on";
  const Stems before = rendered(s, cache), after = rendered(split, cache);
  // Within the last place of a level that is applied to both sides.
  const auto has = after.sum.toBuffer(after.sampleRate), had = before.sum.toBuffer(before.sampleRate);
  for (size_t c = 0; c < had.channelCount(); ++c)
    for (size_t i = 0; i < had.frames(); ++i) ASSERT_NEAR(has.channels[c][i], had.channels[c][i], 1.2e-7) << i;
  for (const Layer& side : split.kick().layers) {
    if (side.recorded()->split.side == Side::Whole) continue;
    const Session joined = joinSides(split.kick(), side.id).applied(split);
    EXPECT_EQ(joined.kick().layers.size(), s.kick().layers.size()) << "either side may be named";
    EXPECT_EQ(joined, s);
  }
  const Session moved = setCut(split.kick(), split.kick().layers[1].id, 25, 8).applied(split);
  for (size_t i : {0u, 1u}) {
    EXPECT_EQ(moved.kick().layers[i].recorded()->split.atMs, 25.0);
    EXPECT_EQ(moved.kick().layers[i].recorded()->split.joinMs, 8.0);
  }
}

// The body is driven and tuned: the strike keeps its samples, the body lands on its note, and they still meet.
TEST(Split, TheBodyIsWorkedOnAndTheStrikeStays) {
  StepCache cache;
  Session s = splitDemo(14.0);
  const int body = s.kick().layers[0].id, strike = s.kick().layers[1].id;
  const SoundSteps steps(theDemo().assets, cache, s.track.sampleRate);
  s = tunePart(s.kick(), 31.58, 33, s.track.notes).applied(s);
  EXPECT_EQ(s.kick().layers[0].recorded()->targetMidi, 33.0);
  EXPECT_FALSE(s.kick().layers[1].recorded()->targetMidi) << "the strike stays where it is";
  s.kick().layer(body)->chain.put({0, Drive{true, DriveKind::Soft, 0, 9}});
  const auto source = steps.source(s.kick().layers[1].asset()).sound;
  const auto heard = steps.kickLayer(*s.kick().layer(strike), s.track);
  const auto until = static_cast<size_t>((heard->onsetSeconds + 0.012) * 48000 * s.track.sampleRate / 48000);
  for (size_t i = 0; i < until; ++i) ASSERT_EQ(heard->sound.channels[0][i], source->channels[0][i]) << i;
  EXPECT_NEAR(1200 * std::log2(*steps.kickFacts(s.kick(), s.track)->landing.hz / 55.0), 0.0, 2.0);
  const auto joint = jointOf(s.kick(), s.kick().layers[0], s.track, steps, cache);
  ASSERT_TRUE(joint);
  EXPECT_GT(joint->notchDb, -1.5);
  EXPECT_LT(joint->clickDb, 3.0);
  // Inverting one side leaves a hole, which is reported.
  s.kick().layers[0].invert = !s.kick().layers[0].invert;
  EXPECT_LT(jointOf(s.kick(), s.kick().layers[1], s.track, steps, cache)->notchDb, joint->notchDb - 2.0);
  s.kick().layers.erase(s.kick().layers.begin() + 1);
  EXPECT_FALSE(jointOf(s.kick(), s.kick().layers[0], s.track, steps, cache)) << "one side alone meets nothing";
}

// The strike keeps the rests, the file keeps the split, and without room nothing happens.
TEST(Split, RestsRoomAndTheFile) {
  Session s = theDemo().session;
  s.kick().hits[2].without = {s.kick().layers[0].id};
  const Session split = splitLayer(s.kick(), s.kick().layers[0].id, 9).applied(s);
  EXPECT_EQ(split.kick().hits[2].without.size(), 2u);
  EXPECT_EQ(joinSides(split.kick(), split.kick().layers[1].id).applied(split).kick().hits[2].without.size(),
            1u);
  TemporaryFolder folder;
  ASSERT_TRUE(saveSession(folder / "s.heft", split, theDemo().assets));
  const auto opened = openSession(folder / "s.heft");
  ASSERT_TRUE(opened);
  EXPECT_EQ(opened->session.kick().layers[1].recorded()->split, split.kick().layers[1].recorded()->split);
  while (s.kick().layers.size() < kMostLayers) {
    Layer more = s.kick().layers[0];
    more.id = freshLayerId(s.kick());
    s.kick().layers.push_back(more);
  }
  EXPECT_FALSE(canSplit(s.kick(), s.kick().layers[0].id));
  EXPECT_EQ(splitLayer(s.kick(), s.kick().layers[0].id, 9).applied(s), s);
  EXPECT_FALSE(canSplit(s.bass(), s.bass().layers[0].id)) << "notes";
}

// The command: two files that add up, at the file's own rate; faults name the file.
TEST_F(Cli, SplitWritesStrikeAndBody) {
  const auto path = writeSound(folder, "kick.wav", kickOf(44100, 2), SampleFormat::Wav24);
  const Ran r = run({"split", path, "-o", folder / "sides", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const auto strike = loadSound(r.json()["strike"]), body = loadSound(r.json()["body"]),
             whole = loadSound(path);
  ASSERT_TRUE(strike && body && whole);
  EXPECT_EQ(strike->sound->sampleRate, 44100);
  for (size_t c = 0; c < 2; ++c)
    for (size_t i = 0; i < whole->sound->frames(); ++i) {
      const float s = i < strike->sound->frames() ? strike->sound->channels[c][i] : 0.0f;
      ASSERT_EQ(s + body->sound->channels[c][i], whole->sound->channels[c][i]) << i;
    }
  // Existing files stay.
  const Ran again = run({"split", path, "--at-ms", "20", "--join-ms", "0", "-o", folder / "sides", "--json"});
  EXPECT_EQ(again.json()["at_ms"], 20);
  EXPECT_NE(again.json()["body"], r.json()["body"]);
  EXPECT_EQ(filesIn(folder / "sides"), 4u);
  const auto brief = writeSound(folder, "brief.wav", bufferOf(sine(60, 0.5, 0.2, 48000), 48000));
  expectFault(run({"split", brief, "--at-ms", "490", "-o", folder / "late"}), 2, "beyond the end");
  expectFault(run({"split", path, "--at-ms", "nan", "-o", folder / "late"}), 2, "--at-ms");
  const auto silent = writeSound(folder, "silent.wav", AudioBuffer(48000, 1, 4800));
  expectFault(run({"split", silent, "-o", folder / "late"}), 3, "silent");
  expectFault(run({"split", folder / "none.wav", "-o", folder / "late"}), 3, "none.wav");
  EXPECT_FALSE(std::filesystem::exists(folder / "late"));
}

}  // namespace
}  // namespace heft
