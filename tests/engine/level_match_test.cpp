// Before and Now equally loud by the loudness standard, for any audible lanes; equal lanes untouched.

#include "engine/player/level_match.h"

#include <gtest/gtest.h>

#include "core/measure/levels/k_weighting.h"
#include "core/measure/levels/loudness.h"
#include "engine/devices/device.h"
#include "engine/player/heard_match.h"
#include "engine/player/player.h"
#include "scenario/make_demo.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

// ITU-R BS.1770-4, annex 1, tables 1 and 2: the two sections at 48 kHz.
TEST(KWeighting, IsTheStandardsAt48Kilohertz) {
  const auto sections = kWeighting(48000);
  const double kShelf[] = {1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241,
                           0.73248077421585};
  const double kHigh[] = {1.0, -2.0, 1.0, -1.99004745483398, 0.99007225036621};
  auto expect = [](const Biquad::Coefficients& c, const double* table) {
    EXPECT_NEAR(c.b0, table[0], 1e-6);
    EXPECT_NEAR(c.b1, table[1], 1e-6);
    EXPECT_NEAR(c.b2, table[2], 1e-6);
    EXPECT_NEAR(c.a1, table[3], 1e-6);
    EXPECT_NEAR(c.a2, table[4], 1e-6);
  };
  expect(sections[0], kShelf);
  expect(sections[1], kHigh);
}

// Loudness from our weighting and gating beside libebur128's own, on steps of level that the gates part.
TEST(KWeighting, GatedLoudnessIsLibebur128s) {
  for (double rate : {44100.0, 48000.0, 96000.0}) {
    auto x = sine(60, 0.5, 4.0, rate);
    const auto soft = sine(900, 0.02, 4.0, rate), hiss = noise(0.05, static_cast<size_t>(2 * rate), 8);
    x.insert(x.end(), soft.begin(), soft.end());
    x.insert(x.end(), hiss.begin(), hiss.end());
    const auto known = measureLoudness(bufferOf(x, rate, 2), false);
    ASSERT_TRUE(known && known->integratedLufs);
    const auto sections = kWeighting(rate);
    Biquad shelf(sections[0]), high(sections[1]);
    std::vector<double> y;
    for (double v : x) y.push_back(high.process(shelf.process(static_cast<double>(static_cast<float>(v)))));
    // Blocks of 400 ms, each 100 ms after the one before; two channels alike.
    const auto block = static_cast<size_t>(std::lround(0.4 * rate)), step = block / 4;
    std::vector<double> squares;
    for (size_t at = 0; at + block <= y.size(); at += step) {
      double sum = 0;
      for (size_t i = at; i < at + block; ++i) sum += y[i] * y[i];
      squares.push_back(2 * sum / static_cast<double>(block));
    }
    EXPECT_NEAR(*gatedLufs(squares), *known->integratedLufs, 0.02) << rate;
  }
  EXPECT_FALSE(gatedLufs(std::vector<double>(20, 1e-9)));
  EXPECT_FALSE(gatedLufs({}));
}

struct Heard {
  AudioBuffer sound;
  double lufs = -200;
};

struct Pair {
  Stems after, before;
  std::shared_ptr<const LoopSnapshot> snapshot;
};

Pair pairOf(const Session& now, const Session& was) {
  static StepCache cache;
  Pair out{*render(now, theDemo().assets, cache), *render(was, theDemo().assets, cache), {}};
  out.snapshot = reference::snapshotOf(out.after, out.before, now.track.framesPerQuarter(), 48000, cache);
  return out;
}

// What a device is handed over one whole loop.
Heard heard(const Pair& pair, bool before, std::array<bool, 3> lanes = {true, true, true}) {
  Player player;
  player.setSnapshot(pair.snapshot);
  SilencedLanes silenced;
  for (size_t i = 0; i < 3; ++i)
    if (!lanes[i]) silenced.insert(pair.snapshot->ids[i]);
  player.setSilenced(silenced);
  player.setBefore(before);
  player.play();
  const size_t frames = pair.after.frames;
  std::vector<float> out(2 * 2 * frames);
  for (size_t at = 0; at < 2 * frames; at += 512)
    player.process(out.data() + 2 * at, std::min<size_t>(512, 2 * frames - at));
  Heard h{AudioBuffer(48000, 2, frames), -200};
  for (size_t i = 0; i < frames; ++i)
    for (size_t c = 0; c < 2; ++c) h.sound.channels[c][i] = out[2 * (frames + i) + c];
  const auto loudness = measureLoudness(h.sound, false);
  if (loudness && loudness->integratedLufs) h.lufs = *loudness->integratedLufs;
  return h;
}

// Each stage's move and each processor, with the backing audible: the same loudness within 0.2 LU, for every
// choice of lanes that have anything to match.
TEST(LevelMatch, EveryStageAndProcessorIsComparedAtTheSameLoudness) {
  // With room over it: Before is not raised past full scale (the next test but one).
  Session plain = theDemo().session;
  plain.kick().layers[0].levelDb -= 8, plain.bass().layers[0].levelDb -= 8;
  std::vector<std::pair<std::string, Session>> moves;
  auto add = [&](const std::string& name, auto change) {
    Session s = plain;
    change(s);
    moves.emplace_back(name, s);
  };
  add("tune", [](Session& s) { s.kick().layers[0].recorded()->targetMidi = 33; });
  add("level", [](Session& s) { s.bass().layers[0].levelDb -= 7; });
  add("align", [](Session& s) { s.bass().align.delayMs = 4, s.bass().align.invert = true; });
  add("duck", [](Session& s) { s.duck().on = true, s.duck().curve.depthDb = 18; });
  add("drive", [](Session& s) { s.kick().layers[0].chain.put({0, Drive{true, DriveKind::Firm, 0, 14, 1}}); });
  add("eq", [](Session& s) {
    s.bass().layers[0].chain.need<Eq>()->bands[1] = {true, EqBand::Kind::Bell, 110, 9, 1};
  });
  add("compressor", [](Session& s) { s.kick().finish.put({0, Compressor{true, -26, 6, 4, 1, 60, 5}}); });
  for (const auto& [name, s] : moves) {
    const Pair pair = pairOf(s, plain);
    for (auto lanes :
         {std::array{true, true, true}, std::array{true, true, false}, std::array{false, true, true}}) {
      const Heard now = heard(pair, false, lanes), was = heard(pair, true, lanes);
      EXPECT_NEAR(was.lufs, now.lufs, 0.2) << name << " " << lanes[0] << lanes[1] << lanes[2];
    }
  }
}

// A backing that no move touches is the same to the bit in both, also under a kick that changed a lot.
TEST(LevelMatch, LanesThatAreAlikeAreUntouchedToTheBit) {
  Session s = theDemo().session;
  s.kick().layers[0].levelDb = -9;
  const Pair pair = pairOf(s, theDemo().session);
  for (const auto& set : pair.snapshot->beforeGains.sets) EXPECT_EQ(set.gains[2], 1.0f);
  const Heard now = heard(pair, false, {false, true, true}), was = heard(pair, true, {false, true, true});
  EXPECT_EQ(now.sound, was.sound);
  const Pair same = pairOf(s, s);
  EXPECT_EQ(heard(same, false).sound, heard(same, true).sound);
}

// Matched or not, Before is never raised over full scale.
TEST(LevelMatch, NothingIsRaisedOverFullScale) {
  Session now = theDemo().session, was = now;
  now.kick().layers[0].chain.put({0, Drive{true, DriveKind::Firm, 0, 30, 1}});
  now.kick().layers[0].levelDb = 0;
  const Pair pair = pairOf(now, was);
  auto peakOf = [](const AudioBuffer& b) {
    float peak = 0;
    for (const auto& c : b.channels)
      for (float x : c) peak = std::max(peak, std::abs(x));
    return peak;
  };
  EXPECT_LE(peakOf(heard(pair, true).sound), std::max(1.0f, peakOf(heard(pair, false).sound)) + 1e-4f);
}

// The same through the simulated device, as it writes what is heard.
TEST(LevelMatch, TheSimulatedDeviceHearsBothAlike) {
  TemporaryFolder folder;
  Session s = theDemo().session;
  s.duck().on = true, s.duck().curve.depthDb = 12;
  const Pair pair = pairOf(s, theDemo().session);
  double lufs[2];
  for (bool before : {false, true}) {
    Player player;
    player.setSnapshot(pair.snapshot);
    player.setBefore(before);
    player.play();
    const std::string path = folder / (before ? "before.wav" : "now.wav");
    {
      const auto device = openSimulated(player, {path, static_cast<double>(pair.after.frames) / 48000 + 0.1});
      for (int i = 0; i < 60000 && device->isAlive(); ++i)
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    auto whole = loadSound(path);
    ASSERT_TRUE(whole);
    AudioBuffer loop = *whole->sound;
    ASSERT_GE(loop.frames(), pair.after.frames);
    for (auto& c : loop.channels) c.resize(pair.after.frames);
    lufs[before ? 1 : 0] = *measureLoudness(loop, false)->integratedLufs;
  }
  EXPECT_NEAR(lufs[0], lufs[1], 0.2);
}

// Three turns of what is chosen, after a turn for its filters to settle, as the simulated device wrote them.
double capturedLufs(Player& player, size_t frames, const std::string& path) {
  const double turn = static_cast<double>(frames) / 48000;
  {
    const auto device = openSimulated(player, {path, 4.0 * turn + 0.1});
    for (int i = 0; i < 60000 && device->isAlive(); ++i)
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  const auto whole = loadSound(path);
  if (!whole || (*whole).sound->frames() < 4 * frames) return -1e9;
  AudioBuffer loop = *whole->sound;
  for (auto& c : loop.channels)
    c = std::vector<float>(c.begin() + static_cast<ptrdiff_t>(frames),
                           c.begin() + static_cast<ptrdiff_t>(4 * frames));
  return measureLoudness(loop, false)->integratedLufs.value_or(-1e9);
}

// Now, Before and two references, through everything one listens with: as the device writes them, each within
// 0.2 LU of each other.
TEST(HeardMatch, TheSimulatedDeviceHearsEveryPairAlikeThroughEveryListening) {
  if (isWatched()) GTEST_SKIP() << "filters, limiter and codecs, which other tests watch as well";
  TemporaryFolder folder;
  Session plain = theDemo().session;
  plain.track.loopBeats = 4;
  Session s = plain;
  s.duck().on = true, s.duck().curve.depthDb = 12;
  StepCache cache;
  const Stems after = *render(s, theDemo().assets, cache), before = *render(plain, theDemo().assets, cache);
  std::vector<std::shared_ptr<const ReferenceSound>> sections;
  for (const Reference& r : {s.references[0], s.references[2]})
    sections.push_back(preparedReference(*theDemo().assets.sound(r.asset), r.section()->fromSeconds,
                                         r.section()->fromSeconds + 2.0, r.tempoBpm, 48000));
  std::vector<ListenTo> all;
  for (int kind = 0; kind < kListenKinds; ++kind) all.push_back({static_cast<ListenKind>(kind)});
  for (const char* text : {"opus 96", "vorbis 96", "40 Hz", "-6 LUFS"}) all.push_back(*parseListen(text, {}));
  size_t heard = 0;
  for (const ListenTo& to : all) {
    if (!canListen(to)) continue;
    const HeardHow how{to};
    const auto snapshot = makeSnapshot({after, before, s.track.framesPerQuarter(), 48000, {}, to}, cache);
    const auto now = heardLufs(*snapshot, {}, false, how, 48000),
               was = heardLufs(*snapshot, {}, true, how, 48000);
    std::vector<double> lufs;
    for (int source = 0; source < 4; ++source) {
      SCOPED_TRACE(listenText(to) + ", source " + std::to_string(source));
      Player player;
      player.setSnapshot(snapshot);
      player.setListen(to);
      player.setBefore(source == 1);
      auto reference = source < 2 ? nullptr : sections[static_cast<size_t>(source - 2)];
      if (reference && to.isPrepared()) reference = referenceThrough(*reference, to);
      const HeardGains gains =
          heardGains(how, now, was, reference ? heardLufs(*reference, how, 48000) : std::nullopt);
      player.setMatch(static_cast<float>(amplitudeFromDb(gains.beforeDb)),
                      static_cast<float>(amplitudeFromDb(gains.referenceDb)));
      player.setReference(reference);
      player.play();
      lufs.push_back(
          capturedLufs(player, reference ? reference->sound->frames() : after.frames, folder / "heard.wav"));
      EXPECT_NEAR(lufs.back(), lufs.front(), 0.2);
      ++heard;
    }
    const auto [least, most] = std::minmax_element(lufs.begin(), lufs.end());
    EXPECT_LE(*most - *least, 0.2) << listenText(to);
  }
  EXPECT_GE(heard, 4u * 13u);
}

}  // namespace
}  // namespace heft
