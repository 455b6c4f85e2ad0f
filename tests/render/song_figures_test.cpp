// Figures of songs, which are sums of figures of blocks, against the same measures of the whole sound:
// libebur128's loudness (ITU-R BS.1770-4), a ducking's dips in one pass; and that an edit renews only what it
// touched.

#include <random>

#include "core/duck/gain_curve.h"
#include "core/judge/ledger.h"
#include "core/measure/levels/loudness.h"
#include "core/measure/levels/low_end.h"
#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/judged_stretch.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_gain.h"
#include "core/session/edits/automation.h"
#include "core/session/edits/sections.h"
#include "core/session/settle.h"
#include "core/sound/filter.h"
#include "core/study/pair_lanes.h"
#include "core/study/study.h"
#include "tests/reference/four_parts.h"
#include "tests/reference/rendered.h"
#include "tests/reference/repeated.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// Tones, noise and rests of many levels: some below the gate, some far above the rest.
Signal manyLevels(double rate, double seconds, size_t channels) {
  const auto frames = static_cast<size_t>(seconds * rate);
  Signal out({frames, false}, channels);
  std::mt19937 dice(12);
  std::uniform_real_distribution<double> noise(-1.0, 1.0);
  const double levels[] = {0.3, 0.0001, 0.05, 0.7, 0.0, 0.01, 0.5};
  for (size_t b = 0; b < out.blockCount(); ++b) {
    Block block{std::vector<std::vector<float>>(channels, std::vector<float>(out.blockSize(b)))};
    for (size_t i = 0; i < out.blockSize(b); ++i) {
      const double t = static_cast<double>(b * kBlockFrames + i) / rate;
      const double level = levels[static_cast<size_t>(t / 1.7) % std::size(levels)];
      for (size_t c = 0; c < channels; ++c)
        block.channels[c][i] = static_cast<float>(
            level *
            (0.7 * std::sin(6.2831853 * (55.0 + 400.0 * static_cast<double>(c)) * t) + 0.2 * noise(dice)));
    }
    out.push(std::make_shared<const Block>(std::move(block)), KeyMaker("levels").add(b).add(rate).key());
  }
  return out;
}

// The demo's two bars over and over, with two sections; the kick alone comes 3 ms early.
Session longDemo(int times) {
  constexpr double kEarly = 0.006;
  Session s = theDemo().session;
  repeatAsSong(s, times);
  for (Hit& h : s.kick().hits) h.startQuarters = std::max(0.0, h.startQuarters - kEarly);
  s.sections = {{1, "Verse", 0.0, 4.0 * times}, {2, "Drop", 4.0 * times, 8.0 * times}};
  return s;
}

TEST(SongFigures, LoudnessIsLibebur128s) {
  for (const double rate : {44100.0, 48000.0, 96000.0})
    for (const size_t channels : {size_t{1}, size_t{2}}) {
      const Signal x = manyLevels(rate, 20.0, channels);
      StepCache cache;
      const auto whole = measureLoudness(x.toBuffer(rate), false);
      ASSERT_TRUE(whole && whole->integratedLufs);
      const auto summed = laneLoudness(x, rate, cache);
      ASSERT_TRUE(summed);
      EXPECT_NEAR(*summed, *whole->integratedLufs, 0.05) << rate << " " << channels;
    }
  StepCache cache;
  EXPECT_FALSE(laneLoudness(gainAtRest({480000, false}, cache, 0.0f), 48000, cache)) << "silence has none";
}

TEST(SongFigures, LowEndAndTruePeakAreTheWholeSounds) {
  const Signal x = manyLevels(48000, 14.0, 2);
  StepCache cache;
  const LowEnd pieces = laneLowEnd(x, 48000, cache), whole = measureLowEnd(x.toBuffer(48000), false);
  for (size_t i = 0; i < kBands.size(); ++i) EXPECT_NEAR(pieces.bandDb(i), whole.bandDb(i), 1e-3) << i;
  EXPECT_NEAR(pieces.totalPower, whole.totalPower, 1e-6 * whole.totalPower);
  EXPECT_NEAR(laneTruePeakDbtp(x, 48000, cache), dbFromAmplitude(*truePeakOf(x.toBuffer(48000))), 0.02);
}

// A loop of 64 bars is measured as a song is: by stretches and segments. The same sound as one buffer.
TEST(SongFigures, ALongLoopsAreTheWholeSounds) {
  const Signal song = manyLevels(48000, 60.0, 2);
  Signal x({song.frames(), true}, 2);
  for (size_t b = 0; b < song.blockCount(); ++b) x.push(song.hold(b), song.key(b));
  ASSERT_GT(x.blockCount(), kWholeLoopBlocks);
  StepCache cache;
  const AudioBuffer sound = x.toBuffer(48000);
  const LowEnd pieces = laneLowEnd(x, 48000, cache), whole = measureLowEnd(sound, true);
  for (size_t i = 0; i < kBands.size(); ++i) EXPECT_NEAR(pieces.bandDb(i), whole.bandDb(i), 0.05) << i;
  EXPECT_NEAR(pieces.crestLowDb, whole.crestLowDb, 0.05);
  EXPECT_NEAR(*pieces.sideDbBelow120, *whole.sideDbBelow120, 0.05);
  EXPECT_NEAR(*laneLoudness(x, 48000, cache), *measureLoudness(sound, false)->integratedLufs, 0.05);
}

// In stretches with their surroundings, against the band of the whole lane, at stretches' ends too.
TEST(SongFigures, SlowLanesInStretchesAreThoseInOnePiece) {
  constexpr double kLead = 0.1, kSlow = 2100.0;
  const Signal x = manyLevels(48000, 70.0, 1);
  StepCache cache;
  const auto lane = slowLane(x, 48000, kSlow, kLead, cache);
  ASSERT_GT(lane->samples.stretches.size(), 3u);
  constexpr size_t kPart = 1000;
  std::vector<double> all;
  for (size_t at = 0; at < lane->samples.count; at += kPart) {
    const auto part = lane->samples.from(at, kPart);
    all.insert(all.end(), part.begin(), part.end());
  }
  ASSERT_EQ(all.size(), lane->samples.count);
  const auto low = bandLimited(all, lane->rate, kBassFromHz, kBassToHz);
  double most = 0.0;
  for (const double v : low) most = std::max(most, std::abs(v));
  for (size_t at = 0; at + kPart < all.size(); at += kPart / 2) {
    const auto part = lane->low.from(at, kPart);
    ASSERT_EQ(part.size(), kPart);
    for (size_t i = 0; i < kPart; i += 7) EXPECT_NEAR(part[i], low[at + i], 3e-4 * most) << at;
  }
}

// A section's figures from blocks of the song, against the same measures of that piece cut out.
TEST(SongFigures, ASectionsAreThoseOfItsPiece) {
  const Signal x = manyLevels(48000, 60.0, 2);
  StepCache cache;
  // The second is not on a tenth of a second, where levels jump by 80 dB every 1.7 s.
  for (const auto& [range, withinLu] :
       {std::pair(FrameRange{480000, 1440000}, 0.05), std::pair(FrameRange{98304, 98304 + 30 * 16384}, 0.3)}) {
    AudioBuffer piece;
    piece.sampleRate = 48000;
    for (size_t c = 0; c < 2; ++c)
      piece.channels.push_back(x.read(c, static_cast<int64_t>(range.from), range.count()));
    const auto facts = laneProgramme(x, 48000, cache, range);
    ASSERT_TRUE(facts);
    const LowEnd whole = measureLowEnd(piece, false);
    for (size_t i = 0; i < kBands.size(); ++i) EXPECT_NEAR(facts->low.bandDb(i), whole.bandDb(i), 0.1) << i;
    EXPECT_NEAR(facts->low.totalPower, whole.totalPower, 1e-6 * whole.totalPower);
    EXPECT_NEAR(*facts->integratedLufs, *measureLoudness(piece, false)->integratedLufs, withinLu);
    EXPECT_EQ(facts->truePeakDbtp, laneTruePeakDbtp(x, 48000, cache)) << "of all";
  }
}

// With a loud drop compared, levels are the drop's: 12 dB over the intro's, and Compare says which it is.
TEST(SongFigures, TheComparedSectionIsWhatIsMeasured) {
  Session s = longDemo(16);
  s.backing = {};
  s.sections = {{1, "Intro", 0.0, 64.0}, {2, "Drop", 64.0, 128.0}};
  for (size_t p = 0; p < 2; ++p) {
    Automation quiet{.owner = {.part = s.parts[p].id}, .key = "level_db"};
    quiet.points = {{0.0, s.parts[p].levelDb - 12.0, 0.0},
                    {64.0, s.parts[p].levelDb - 12.0, 0.0},
                    {64.0, s.parts[p].levelDb, 0.0}};
    s.automation.push_back(quiet);
  }
  StepCache cache;
  const Stems stems = rendered(s, cache);
  const auto lufs = [&](std::optional<int> id) {
    s = compareSection(id).applied(s);
    const auto of = study(s, theDemo().assets, stems, cache);
    EXPECT_NEAR(*of->wholeLufs, *laneLoudness(stems.sum, stems.sampleRate, cache), 1e-9);
    return *of->sum.integratedLufs;
  };
  const double drop = lufs(2), intro = lufs(1), whole = lufs(std::nullopt);
  EXPECT_NEAR(drop - intro, 12.0, 0.5);
  EXPECT_GT(drop, whole);
  // One at most; it goes with its section.
  s = compareSection(2).applied(s);
  EXPECT_EQ(s.comparedSection()->name, "Drop");
  EXPECT_EQ(removeSection(2).applied(s).comparedSection(), nullptr);
  s.sections[0].compared = true;
  settle(s);
  EXPECT_TRUE(s.sections[0].compared);
  EXPECT_FALSE(s.sections[1].compared);
}

TEST(SongFigures, DipsByGroupsAreThoseOfOnePass) {
  constexpr double kPerSecond = 8000;
  std::mt19937 dice(2);
  std::vector<Trigger> triggers;
  double at = 900.0;
  while (at < 60 * kPerSecond) {
    triggers.push_back({at, 0.3 + 0.7 * static_cast<double>(dice() % 100) / 100.0});
    at += std::floor(1200.0 + static_cast<double>(dice() % 5000));
  }
  StepCache cache;
  Session s = fourParts();
  s.track.sampleRate = kPerSecond, s.track.tempoBpm = 60, s.track.song = true, s.track.loopBeats = 61;
  s.kick().hits.clear();
  for (const Trigger& t : triggers) s.kick().hits.push_back({t.frame / kPerSecond, t.velocity});
  s.duck().on = true, s.duck().curve.depthDb = 9.0, s.duck().curve.velocityToDepth = 0.6;
  const Stems stems = rendered(s, cache);
  const auto facts = study(s, theDemo().assets, stems, cache);
  ASSERT_TRUE(facts);
  const DipFacts whole =
      measureDip(stems.ducks[0].gain.read(0, 0, stems.frames), stems.ducks[0].triggers, kPerSecond);
  const DipFacts& groups = facts->ducks[0].dip;
  ASSERT_EQ(groups.each.size(), whole.each.size());
  EXPECT_GT(groups.each.size(), 100u);
  for (size_t i = 0; i < whole.each.size(); ++i) {
    EXPECT_NEAR(groups.each[i].depthDb, whole.each[i].depthDb, 1e-6) << i;
    EXPECT_NEAR(groups.each[i].returnMs, whole.each[i].returnMs, 1e-6) << i;
  }
  EXPECT_NEAR(groups.depthDb, whole.depthDb, 1e-6);
  EXPECT_EQ(groups.fired, whole.fired);
}

TEST(SongFigures, TheLoudestMinuteIsFound) {
  constexpr double kRate = 8000;
  const Signal soft = manyLevels(kRate, 100.0, 1);
  Signal x({soft.frames(), false}, 1);
  const auto first = static_cast<size_t>(25 * kRate), last = static_cast<size_t>(85 * kRate);
  for (size_t b = 0; b < soft.blockCount(); ++b) {
    Block block = *soft.hold(b);
    for (size_t i = 0; i < block.channels[0].size(); ++i)
      if (const size_t at = b * kBlockFrames + i; at < first || at >= last) block.channels[0][i] *= 0.01f;
    x.push(std::make_shared<const Block>(std::move(block)), KeyMaker("minute").add(b).key());
  }
  StepCache cache;
  const JudgedStretch minute = judgedStretch(x, kRate, cache);
  EXPECT_NEAR(static_cast<double>(minute.first) / kRate, 25.0, 0.3);
  EXPECT_EQ(soundOf(x, minute).frames(), static_cast<size_t>(60 * kRate));
  EXPECT_FALSE(minute.wraps);
  EXPECT_EQ(minute.within({0.0, 30 * kRate, 99 * kRate}).size(), 1u);
}

// A pass of sound larger than the cache leaves its small figures where they are.
TEST(StepCaches, SoundThatPassesThroughKeepsFigures) {
  StepCache cache(size_t{8} << 20);
  const auto figure = [&](int i) {
    return cache.get<double>(
        KeyMaker("figure").add(i).key(), [i] { return static_cast<double>(i); },
        [](double) { return size_t{16}; });
  };
  for (int i = 0; i < 500; ++i) figure(i);
  for (int i = 0; i < 400; ++i)
    cache.get<Block>(
        KeyMaker("sound").add(i).key(), [] { return Block{{std::vector<float>(kBlockFrames)}}; }, bytesOfBlock);
  EXPECT_LE(cache.bytes(), size_t{8} << 20);
  for (int i = 0; i < 500; ++i) EXPECT_TRUE(cache.known<double>(KeyMaker("figure").add(i).key())) << i;
  EXPECT_FALSE(cache.known<Block>(KeyMaker("sound").add(0).key()));
}

// Every hit of a song is judged; each line says where in the song, by bar and
// section, and each section's hits are told by its name.
TEST(SongFigures, ALineSaysItsWorstPlaceAndItsSections) {
  constexpr int kTimes = 60;
  Session s = longDemo(kTimes);
  StepCache cache;
  const Stems stems = rendered(s, cache);
  const auto facts = study(s, theDemo().assets, stems, cache);
  ASSERT_TRUE(facts);
  EXPECT_EQ(facts->pair.hits.size(), stems.hitFrames().size());
  const auto lines = ledger(s, *facts);
  const auto pair = std::find_if(lines.begin(), lines.end(), [](const Finding& f) {
    return f.sentence.find(" hits, worst at ") != std::string::npos;
  });
  ASSERT_NE(pair, lines.end());
  ASSERT_TRUE(pair->hit);
  const HitFacts& worst = facts->pair.hits[static_cast<size_t>(*pair->hit)];
  const double quarters = worst.frame / s.track.framesPerQuarter();
  const int bar = static_cast<int>((quarters + 0.1) / 4.0) + 1;
  const std::string section = quarters < 4.0 * kTimes - 0.1 ? " in Verse" : " in Drop";
  EXPECT_NE(pair->sentence.find("worst at " + std::to_string(bar) + "."), std::string::npos) << pair->sentence;
  EXPECT_NE(pair->sentence.find(section), std::string::npos) << pair->sentence;
  for (const HitLine& h : pair->hits)
    EXPECT_EQ(h.section,
              facts->pair.hits[static_cast<size_t>(h.hit)].frame / s.track.framesPerQuarter() < 4.0 * kTimes - 0.1
                  ? "Verse"
                  : "Drop");
}

// What sounds before a song's first hit and after its last is not what a loop would have there.
TEST(SongFigures, AHitAtAnEndKnowsNothingOfTheOther) {
  Session s = longDemo(2);
  s.kick().hits = {{0.0, 1.0}, {15.0, 1.0}};
  s.bass().notes = {{1.0, 0.5, 33, 1.0}, {14.0, 0.5, 33, 1.0}};
  auto hitsOf = [&](bool song) {
    s.track.song = song;
    StepCache cache;
    return study(s, theDemo().assets, rendered(s, cache), cache)->pair.hits;
  };
  const auto song = hitsOf(true), loop = hitsOf(false);
  ASSERT_EQ(song.size(), 2u);
  ASSERT_EQ(loop.size(), 2u);
  EXPECT_FALSE(song[1].nextNoteGapMs) << "no note follows";
  EXPECT_NEAR(loop[1].nextNoteGapMs.value_or(0.0), 2.0 * 60000.0 / s.track.tempoBpm, 1.0);
  EXPECT_NEAR(song[0].nextNoteGapMs.value_or(0.0), 60000.0 / s.track.tempoBpm, 1.0);
}

}  // namespace
}  // namespace heft
