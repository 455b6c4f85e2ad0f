// The player against a slow one that knows no blocks, no pointers and no state machine: random orders at random
// moments, random block sizes, and what must come out at every frame once all fades are over.

#include <gtest/gtest.h>

#include "engine/player/player.h"
#include "scenario/make_demo.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

struct Scene {
  std::shared_ptr<const LoopSnapshot> snapshot;
  Stems after, before;
};

Scene scene(const Session& s, const Assets& assets) {
  StepCache cache;
  Scene out;
  out.after = *render(s, assets, cache);
  out.before = *render(withoutMoves(s), assets, cache);
  out.snapshot = reference::snapshotOf(out.after, out.before, s.track.framesPerQuarter(), 48000, cache);
  return out;
}

// What should play at a frame of the loop, added up from the lanes in order.
float heardAt(const Scene& scene, size_t frame, size_t channel, const std::array<bool, 3>& heard, bool before) {
  const Stems& stems = before ? scene.before : scene.after;
  const HeardLanes mask = (heard[0] ? 1 : 0) + (heard[1] ? 2 : 0) + (heard[2] ? 4 : 0);
  const std::array<const Signal*, 3> lanes{&stems.kick(), &stems.bass(), &stems.backing};
  float out = 0.0f;
  for (size_t i = 0; i < 3; ++i)
    if (heard[i])
      out += (before ? scene.snapshot->beforeGains.of(mask)[i] : 1.0f) * lanes[i]->at(channel, frame);
  return out;
}

TEST(PlayerOracle, RandomOrdersInRandomBlocks) {
  const auto demo = demo::make();
  Session moved = demo->session;
  moved.kick().layers[0].recorded()->targetMidi = 33;
  moved.duck().on = true;
  Session shorter = moved;
  shorter.kick().hits.resize(3);
  const std::vector<Scene> scenes{scene(demo->session, demo->assets), scene(moved, demo->assets),
                                  scene(shorter, demo->assets)};
  std::mt19937 random(77);
  Player player;
  player.setSnapshot(scenes[0].snapshot);
  player.play();
  size_t now = 0, frame = 0, sinceOrder = 0;
  std::array<bool, 3> heard{true, true, true};
  bool before = false;
  std::vector<float> out(2 * 4000);
  size_t compared = 0;
  for (int step = 0; step < 1500; ++step) {
    const size_t count = 1 + random() % 2000;
    player.process(out.data(), count);
    // Fades last 20 ms (960 frames); a swap may wait for one before it, and its level match follows at the next
    // block.
    for (size_t i = 0; i < count; ++i, ++sinceOrder, frame = (frame + 1) % scenes[now].snapshot->frames)
      if (sinceOrder > 5000)
        for (size_t c = 0; c < 2; ++c, ++compared)
          ASSERT_EQ(out[2 * i + c], heardAt(scenes[now], frame, c, heard, before))
              << "step " << step << ", frame " << frame << " scene " << now << " before " << before << " heard "
              << heard[0] << heard[1] << heard[2] << " since " << sinceOrder << " channel " << c;
    if (random() % 14 != 0) continue;
    sinceOrder = 0;
    switch (random() % 3) {
      case 0:
        now = random() % scenes.size();
        player.setSnapshot(scenes[now].snapshot);
        break;
      case 1: {
        const size_t lane = random() % 3;
        heard[lane] = !heard[lane];
        SilencedLanes silenced;
        for (size_t i = 0; i < 3; ++i)
          if (!heard[i]) silenced.insert(scenes[0].snapshot->ids[i]);
        player.setSilenced(silenced);
        break;
      }
      default:
        before = !before;
        player.setBefore(before);
    }
  }
  EXPECT_GT(compared, 200000u);
}

TEST(PlayerOracle, StoppedItIsSilentAndStartsAgainAtTheStart) {
  const auto demo = demo::make();
  const Scene one = scene(demo->session, demo->assets);
  Player player;
  std::vector<float> out(2 * 4800);
  player.process(out.data(), 4800);
  for (float x : out) ASSERT_EQ(x, 0.0f) << "nothing to play";
  player.setSnapshot(one.snapshot);
  player.process(out.data(), 4800);
  for (float x : out) ASSERT_EQ(x, 0.0f) << "not started";
  for (int turn = 0; turn < 3; ++turn) {
    player.play();
    player.process(out.data(), 4800);
    for (size_t i = 0; i < 4800; ++i) ASSERT_EQ(out[2 * i], one.after.sum.at(0, i)) << turn;
    player.stop();
    player.process(out.data(), 4800);
    for (size_t i = 2000; i < 4800; ++i) ASSERT_EQ(out[2 * i], 0.0f) << turn;
  }
}

TEST(PlayerOracle, AnEmptySessionPlaysSilence) {
  StepCache cache;
  const Session empty;
  const auto stems = render(empty, {}, cache);
  ASSERT_TRUE(stems);
  Player player;
  player.setSnapshot(reference::snapshotOf(*stems, *stems, empty.track.framesPerQuarter(), 48000, cache));
  player.play();
  std::vector<float> out(2 * 9600, 1.0f);
  player.process(out.data(), 9600);
  for (float x : out) ASSERT_EQ(x, 0.0f);
  EXPECT_NEAR(player.positionQuarters(), 9600 / 24000.0, 1e-6);
}

}  // namespace
}  // namespace heft
