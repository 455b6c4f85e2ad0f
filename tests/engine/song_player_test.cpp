// A song as it plays: laid out ahead of the playhead, once to its end, from anywhere, a region again and again.

#include <gtest/gtest.h>

#include <thread>

#include "engine/player/song_feed.h"
#include "tests/reference/four_parts.h"
#include "tests/reference/player_hands.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

// Ten bars with a kick in each, at 48 kHz; short.
Session shortSong() {
  Session s = fourParts();
  s.track.sampleRate = 48000, s.track.tempoBpm = 240, s.track.song = true, s.track.loopBeats = 40;
  s.kick().hits.clear();
  for (int beat = 0; beat < 40; ++beat) s.kick().hits.push_back({static_cast<double>(beat), 1.0});
  return s;
}

// With every block in its place.
Rendered wholeSong(const Session& s) {
  Rendered out = renderedOf(s);
  for (size_t i = 0; i < out.snapshot->lanes; ++i) out.snapshot->after[i]->fillAll();
  return out;
}

TEST(SongPlayer, PlaysOnceToTheEndOfItsTailsAndStops) {
  const Rendered r = wholeSong(shortSong());
  Player player;
  player.setSnapshot(r.snapshot);
  player.play();
  const auto out = played(player, r.after.frames + 5000);
  for (size_t i = 0; i < r.after.frames; ++i)
    for (size_t c = 0; c < 2; ++c) ASSERT_EQ(out[2 * i + c], r.after.sum.at(c, i)) << i;
  for (size_t i = r.after.frames; i < out.size() / 2; ++i) ASSERT_EQ(out[2 * i], 0.0f) << "after its end";
  EXPECT_FALSE(player.isPlaying());
  player.play(0.0, 8.0);
  const auto first = static_cast<size_t>(std::llround(8.0 * r.snapshot->framesPerQuarter));
  const auto from = played(player, 20000);
  for (size_t i = 2000; i < 20000; ++i) ASSERT_EQ(from[2 * i], r.after.sum.at(0, first + i)) << i;
  EXPECT_NEAR(player.positionQuarters(), 8.0 + 20000 / r.snapshot->framesPerQuarter, 1e-6);
}

// From its start to its end and again, with a crossfade of 20 ms where it begins anew: no step is larger than
// the sound's own.
TEST(SongPlayer, ARegionRepeatsWithoutAClick) {
  Rendered r;
  r.snapshot = toneSnapshot(0.5, 0.0);
  Player player;
  player.setSnapshot(r.snapshot);
  player.setRegion(std::pair(0.31, 1.13));
  player.play(0.0, 0.31);
  const auto out = played(player, 96000);
  double most = 0.0;
  for (size_t i = 3000; i < out.size() / 2; ++i)
    most = std::max(most, std::abs(static_cast<double>(out[2 * i]) - out[2 * (i - 1)]));
  EXPECT_LT(most, 2.0 * 0.5 * 2.0 * 3.14159 * 50 / 48000) << "a 50 Hz tone moves by this much a sample";
  EXPECT_GE(player.positionQuarters(), 0.31);
  EXPECT_LT(player.positionQuarters(), 1.13);
}

TEST(SongPlayer, GoesElsewhereWhileItPlays) {
  const Rendered r = wholeSong(shortSong());
  Player player;
  player.setSnapshot(r.snapshot);
  player.play();
  played(player, 4096);
  player.locate(16.0);
  const auto out = played(player, 12000);
  const auto first = static_cast<size_t>(std::llround(16.0 * r.snapshot->framesPerQuarter));
  for (size_t i = 1000; i < 12000; ++i) ASSERT_EQ(out[2 * i], r.after.sum.at(0, first + i)) << i;
}

// The feed beside a playing callback: what is heard is the song, blocks far behind are taken away, and a place
// far ahead is laid out before the player goes there.
TEST(SongFeeds, LayOutWhatSoundsNextAndTakeAwayWhatHasBeen) {
  Session s = shortSong();
  s.track.tempoBpm = 60;
  const Rendered r = renderedOf(s);
  Player player;
  SongFeed feed(player);
  SongFeed::layOut(*r.snapshot, 0.0, 48000, false);
  feed.feed(r.snapshot);
  player.setSnapshot(r.snapshot);
  player.play();
  const PlayedLane& kick = *r.snapshot->after[0];
  std::vector<float> block(2 * 4096);
  size_t at = 0, silent = 0;
  auto playUntil = [&](size_t end, size_t check) {
    for (; at < end; at += 4096) {
      player.process(block.data(), 4096);
      for (size_t i = 0; i < 4096; ++i)
        if (at + i >= check && block[2 * i] != r.after.sum.at(0, at + i)) ++silent;
      std::this_thread::sleep_for(std::chrono::milliseconds(isWatched() ? 40 : 5));
    }
  };
  playUntil(48000 * 14, 0);
  EXPECT_EQ(silent, 0u) << "samples that were not there in time";
  EXPECT_FALSE(kick.has(6)) << "long past";
  feed.locate(30.0, true);
  const auto to = static_cast<size_t>(30.0 * r.snapshot->framesPerQuarter);
  for (int i = 0; i < 400 && player.positionQuarters() < 30.0; ++i) {
    player.process(block.data(), 4096);
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
  ASSERT_GE(player.positionQuarters(), 30.0);
  EXPECT_TRUE(kick.has(to / kBlockFrames));
}

}  // namespace
}  // namespace heft
