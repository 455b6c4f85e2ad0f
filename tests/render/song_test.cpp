// Songs: from rest to their tails, any block alone, the same bars as in a loop, edits as a cold render.

#include <random>

#include "core/duck/follower.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/lane_gain.h"
#include "core/render/lanes/lane_wave.h"
#include "core/session/edits/sections.h"
#include "core/session/edits/track.h"
#include "core/shape/eq.h"
#include "tests/reference/four_parts.h"
#include "tests/reference/random_edits.h"
#include "tests/reference/rendered.h"
#include "tests/reference/repeated.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

double worstBetween(const std::vector<float>& a, const std::vector<float>& b) {
  double worst = 0.0;
  for (size_t i = 0; i < std::min(a.size(), b.size()); ++i)
    worst = std::max(worst, std::abs(static_cast<double>(a[i]) - b[i]));
  return worst;
}

// Four parts over a song of some bars, events in every bar.
Session aSong(int bars, double rate = 8000) {
  Session s = fourParts();
  s.track.sampleRate = rate;
  repeatAsSong(s, bars);
  return s;
}

// A signal of noise with a span, whose samples are known.
Signal noiseSignal(const Span& span, size_t channels, unsigned seed) {
  std::mt19937 dice(seed);
  std::uniform_real_distribution<float> x(-0.7f, 0.7f);
  Signal out(span, channels);
  for (size_t b = 0; b < out.blockCount(); ++b) {
    Block block{std::vector<std::vector<float>>(channels, std::vector<float>(out.blockSize(b)))};
    // Loud and soft stretches, so that what follows a level has something to do.
    const float level = b % 3 == 0 ? 1.0f : 0.05f;
    for (auto& channel : block.channels)
      for (float& v : channel) v = level * x(dice);
    out.push(std::make_shared<const Block>(std::move(block)), KeyMaker("noise").add(seed).add(b).key());
  }
  return out;
}

TEST(Signals, ALoopWrapsAndASongIsSilentOutside) {
  for (const bool wraps : {true, false}) {
    const Span span{kBlockFrames + 100, wraps};
    const Signal x = noiseSignal(span, 2, 1);
    const auto whole = x.read(1, 0, span.frames);
    const auto wide = x.read(1, -50, span.frames + 120);
    for (size_t i = 0; i < wide.size(); ++i) {
      const auto at = static_cast<int64_t>(i) - 50, n = static_cast<int64_t>(span.frames);
      const float want = at >= 0 && at < n ? whole[static_cast<size_t>(at)]
                         : wraps           ? whole[static_cast<size_t>((at + n) % n)]
                                           : 0.0f;
      ASSERT_EQ(wide[i], want) << at << (wraps ? " of a loop" : " of a song");
    }
  }
}

// What has a memory, over a song: each block alone, in any order and on a cache too small to keep any, is as
// one pass over the whole sound from rest, by the processors themselves.
struct OnePass {
  const char* name;
  std::function<Signal(const Signal&, StepCache&)> blocks;
  std::function<void(AudioBuffer&)> whole;
  double within;
};

std::vector<OnePass> onePasses(double rate) {
  Compressor c{true, -30, 4, 6, 5, 200, 3};
  Limiter l{true, -12, 80, false};
  Eq eq;
  eq.on = true, eq.lowCut = {true, 35, 24}, eq.bands[0] = {true, EqBand::Kind::Bell, 90, 9, 8};
  Rotation turn;
  turn.on = true, turn.stages[0] = {true, 60, 2};
  auto chained = [rate](Processor p) {
    return [p, rate](const Signal& x, StepCache& cache) {
      Chain chain;
      chain.put(p);
      return chainedLane(x, readyOf(chain), {}, rate, cache);
    };
  };
  return {{"compressor", chained({0, c}), [c](AudioBuffer& x) { applyCompressor(x, c); }, 1e-6},
          {"limiter", chained({0, l}), [l](AudioBuffer& x) { applyLimiter(x, l); }, 1e-5},
          {"EQ", chained({0, eq}), [eq](AudioBuffer& x) { applyEq(x, eq); }, 1e-6},
          {"phase rotation",
           [turn, rate](const Signal& x, StepCache& cache) { return rotatedStem(x, turn, rate, cache); },
           [turn](AudioBuffer& x) { rotate(x, turn); }, 1e-6}};
}

TEST(Songs, AnyBlockAloneIsAsOnePassFromRest) {
  constexpr double kSongRate = 8000;
  const Span span{60 * kBlockFrames + 777, false};
  const Signal x = noiseSignal(span, 2, 5);
  std::vector<size_t> order(x.blockCount());
  std::iota(order.begin(), order.end(), size_t{0});
  std::shuffle(order.begin(), order.end(), std::mt19937(3));
  for (const OnePass& step : onePasses(kSongRate)) {
    AudioBuffer whole = x.toBuffer(kSongRate);
    step.whole(whole);
    StepCache small(1);
    const Signal y = step.blocks(x, small);
    double worst = 0.0;
    for (const size_t b : order)
      for (size_t c = 0; c < 2; ++c) {
        const auto first = whole.channels[c].begin() + static_cast<ptrdiff_t>(b * kBlockFrames);
        const std::vector<float> want(first, first + static_cast<ptrdiff_t>(y.blockSize(b)));
        worst = std::max(worst, worstBetween(y.hold(b)->channels[c], want));
      }
    EXPECT_LT(worst, step.within) << step.name;
  }
}

TEST(Songs, AFollowerAloneIsAsOnePassFromRest) {
  constexpr double kSongRate = 8000;
  const Span span{40 * kBlockFrames + 50, false};
  const Signal x = noiseSignal(span, 1, 9);
  const Follower f{-30, 6, 6, 4, 20, 150, 3, LevelBy::Rms, 30};
  std::vector<float> heard = x.read(0, static_cast<int64_t>(lookaheadFrames(f, kSongRate)), span.frames),
                     want(span.frames);
  FollowerState rest;
  followLevel(f, heard, kSongRate, rest, want);
  StepCache small(1);
  const Signal gain = followedGain(f, x, kSongRate, small);
  for (const size_t b : {size_t{39}, size_t{0}, size_t{17}, size_t{16}, size_t{40}}) {
    const auto first = want.begin() + static_cast<ptrdiff_t>(b * kBlockFrames);
    EXPECT_LT(
        worstBetween(gain.hold(b)->channels[0], {first, first + static_cast<ptrdiff_t>(gain.blockSize(b))}),
        1e-6)
        << b;
  }
}

// Where nothing reaches in from before: a loop whose last sounds end before it does, and the same bars after
// silence in a song. A line's times are counted from the song's start: they round differently, at -100 dB.
TEST(Songs, TheSameBarsAsALoopAndInASongSoundTheSame) {
  Session loop = fourParts();
  loop.track.loopBeats = 8, loop.duck().on = true;
  loop.track.tempoBpm = 120;  // whole frames a quarter: both round alike
  for (Part& part : loop.parts) part.align = {};
  Session song = aSong(20, loop.track.sampleRate);
  song.track.tempoBpm = 120;
  constexpr double kAt = 4.0 * 13;
  for (Part& part : song.parts) {
    const Part& same = *loop.part(part.id);
    part.align = {}, part.hits = same.hits, part.notes = same.notes;
    for (Hit& h : part.hits) h.startQuarters += kAt;
    for (Note& n : part.notes) n.startQuarters += kAt;
  }
  StepCache cache;
  const Stems a = rendered(loop, cache), b = rendered(song, cache);
  const auto first = static_cast<int64_t>(std::llround(kAt * song.track.framesPerQuarter()));
  // Up to where the loop's own next round begins to reach in.
  const auto count = static_cast<size_t>(7.9 * loop.track.framesPerQuarter());
  for (size_t i = 0; i < a.lanes.size(); ++i)
    EXPECT_LT(worstBetween(a.lanes[i].placed.read(0, 0, count), b.lanes[i].placed.read(0, first, count)), 1e-5)
        << i;
  EXPECT_LT(worstBetween(a.gain().read(0, 0, count), b.gain().read(0, first, count)), 1e-5);
}

TEST(Songs, BeginAtRestAndEndWithTheirTails) {
  Session s = aSong(3);
  s.kick().hits = {{11.75, 1.0}};
  const Part bare = s.kick();
  StepCache cache;
  const Stems song = rendered(s, cache);
  EXPECT_EQ(song.frames, s.track.loopFrames() + static_cast<size_t>(kSongTailSeconds * s.track.sampleRate));
  EXPECT_EQ(song.kick().peak(0, static_cast<size_t>(11.7 * s.track.framesPerQuarter())), 0.0f)
      << "nothing comes round from the end";
  const auto end = static_cast<int64_t>(s.track.loopFrames());
  EXPECT_GT(song.kick().peak(end, 500), 0.01f) << "the last kick rings on";
  EXPECT_EQ(song.sum.peak(static_cast<int64_t>(song.frames), 1000), 0.0f);
  s.track.song = false;
  const Stems loop = rendered(s, cache);
  EXPECT_GT(loop.kick().peak(0, 500), 0.01f) << "in a loop it comes round";
}

// Warm after many edits, against a render of the result from nothing, to the bit, at places taken at random.
TEST(Songs, AfterAnyEditsSoundAsFromNothing) {
  std::mt19937 dice(11);
  Session s = aSong(isWatched() ? 12 : 60);
  StepCache warm;
  RandomEdits edits(7, {});
  const int turns = isWatched() ? 3 : 14;
  for (int turn = 0; turn < turns; ++turn) {
    for (int i = 0; i < 3; ++i) {
      Session next = edits.next(s).applied(s);
      // What changes the track's length or rate makes all anew and hides what is stale.
      if (next.track.loopBeats == s.track.loopBeats && next.track.sampleRate == s.track.sampleRate) s = next;
    }
    s.track.song = true;
    const auto a = render(s, theDemo().assets, warm);
    StepCache cold;
    const auto b = render(s, theDemo().assets, cold);
    ASSERT_EQ(a.has_value(), b.has_value());
    if (!a) continue;
    for (int i = 0; i < 4; ++i) {
      const size_t block = dice() % a->sum.blockCount();
      ASSERT_EQ(a->sum.hold(block)->channels, b->sum.hold(block)->channels)
          << "turn " << turn << " at " << block;
    }
  }
}

TEST(Songs, AWaveOfStepsHoldsEverySamplesExtremes) {
  const Signal x = noiseSignal({5 * kBlockFrames + 999, false}, 1, 2);
  const auto all = x.read(0, 0, x.frames());
  const LaneWave wave = waveOf(x, StepCache());
  std::mt19937 dice(4);
  for (int i = 0; i < 200; ++i) {
    const size_t from = dice() % all.size(), to = std::min(all.size(), from + 1 + dice() % 3000);
    const auto first = all.begin() + static_cast<ptrdiff_t>(from),
               last = all.begin() + static_cast<ptrdiff_t>(to);
    const auto [least, most] = wave.range(static_cast<int64_t>(from), static_cast<int64_t>(to));
    EXPECT_LE(least, *std::min_element(first, last));
    EXPECT_GE(most, *std::max_element(first, last));
  }
  EXPECT_EQ(wave.range(-500, -10), std::pair(0.0f, 0.0f));
}

// A loop of 64 bars and the same as a song, and back: nothing is lost either way, and what lies beyond the end
// stays where it is through edits of the pattern.
TEST(Songs, ChangedEitherWayLoseNothing) {
  Session s = fourParts();
  setLoopBeats(64 * 4).change(s);
  EXPECT_EQ(s.track.loopBeats, 256);
  s.kick().hits = {{0.0, 1.0}, {3.0, 1.0}, {250.0, 0.5}};
  const Session before = s;
  setSong(true).change(s);
  setSong(false).change(s);
  EXPECT_EQ(s, before);
  setLoopBeats(4).change(s);
  nudgePatterns(2.0).change(s);
  EXPECT_EQ(s.kick().hits.back().startQuarters, 250.0) << "beyond the end it is not moved into the loop";
  EXPECT_EQ(s.kick().hits.front().startQuarters, 1.0) << "the last of the loop comes round";
  setLoopBeats(256).change(s);
  EXPECT_EQ(s.kick().hits.size(), 3u);
  StepCache cache;
  s.kick().hits = {{0.0, 1.0}};
  for (const bool song : {true, false}) {
    s.track.song = song;
    EXPECT_EQ(rendered(s, cache).hitFrames().size(), 1u) << "one hit";
  }
  s.kick().hits.clear();
  EXPECT_TRUE(rendered(s, cache).hitFrames().empty()) << "none";
}

TEST(Songs, TenMinutesAtAnyTempoAreWithinBounds) {
  for (const double bpm : {40.0, 122.0, 240.0}) {
    Session s = fourParts();
    s.track.tempoBpm = bpm;
    setSong(true).change(s);
    setLoopBeats(1000000).change(s);
    EXPECT_LE(s.track.seconds(), kMostSongSeconds + 1e-6) << bpm;
    EXPECT_GT(s.track.seconds(), kMostSongSeconds - 2.0) << bpm;
    EXPECT_TRUE(sessionFromJson(sessionToJson(s), "x")) << bpm;
    setTempo(40.0).change(s);
    EXPECT_LE(s.track.seconds(), kMostSongSeconds + 1e-6) << "slowed down from " << bpm;
  }
}

}  // namespace
}  // namespace heft
