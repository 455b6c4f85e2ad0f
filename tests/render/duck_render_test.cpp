// Duckings of a session: sources, targets, bands and amounts in the rendered lanes; the Ledger's lines about
// them.

#include <gtest/gtest.h>

#include <algorithm>

#include "core/duck/follower.h"
#include "core/judge/ledger.h"
#include "core/render/lanes/render.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "tests/reference/duck_world.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

TEST(Duckings, SeveralOfOneTargetMultiplyOrTheDeepestWins) {
  DuckWorld w = duckWorld();
  addTo(w.s).curve.depthDb = 6;
  Duck& clap = addTo(w.s);
  clap.source.part = 3, clap.curve.depthDb = 10;
  const Stems product = w.rendered();
  w.s.ducking.meet = GainsMeet::Deepest;
  const Stems deepest = w.rendered();
  const auto a = everyFrame(product.ducks[0].gain), b = everyFrame(product.ducks[1].gain),
             dry = everyFrame(product.lanes[1].placed);
  bool together = false;
  for (size_t i = 0; i < dry.size(); ++i) {
    ASSERT_NEAR(product.bass().at(0, i), dry[i] * a[i] * b[i], 1e-6) << i;
    ASSERT_EQ(deepest.gain().at(0, i), std::min(a[i], b[i])) << i;
    ASSERT_NEAR(deepest.bass().at(0, i), dry[i] * std::min(a[i], b[i]), 1e-6) << i;
    together = together || (a[i] < 0.6f && b[i] < 0.6f);
  }
  EXPECT_TRUE(together) << "they meet on the second beat";
}

TEST(Duckings, AmountsGiveBackWhatWasTaken) {
  DuckWorld w = duckWorld();
  addTo(w.s).curve.depthDb = 12;
  const auto whole = everyFrame(w.rendered().gain());
  w.s.ducks[0].amount = 0.5, w.s.ducking.amount = 0.8;
  const auto part = everyFrame(w.rendered().gain());
  for (size_t i = 0; i < whole.size(); ++i) ASSERT_NEAR(1 - part[i], 0.4 * (1 - whole[i]), 1e-6);
  w.s.ducking.amount = 0.0;
  const Stems none = w.rendered();
  EXPECT_EQ(everyFrame(none.bass()), everyFrame(none.bassPlaced()));
}

TEST(Duckings, VelocitiesAndTheNextHitCount) {
  DuckWorld w = duckWorld();
  Duck& d = addTo(w.s);
  d.curve.velocityToDepth = 1.0, d.curve.lasts = CurveLasts::ToNext;
  const Stems stems = w.rendered();
  ASSERT_EQ(stems.ducks[0].triggers.size(), 3u);
  const auto gain = everyFrame(stems.gain());
  const double taken = 1 - std::pow(10, -8.5 / 20);
  EXPECT_NEAR(gain[160], 1 - taken, 1e-5);
  EXPECT_NEAR(gain[8000 + 160], 1 - 0.5 * taken, 1e-5);
  EXPECT_LT(gain[20000 - 2000], 0.99f) << "it lasts until the next hit";
}

// Ducks only the backing's lows: a 400 Hz tone stays as it was.
TEST(Duckings, ABandLeavesTheRestAlone) {
  DuckWorld w = duckWorld();
  for (const DuckBandKind kind : {DuckBandKind::Below, DuckBandKind::Bell, DuckBandKind::Several}) {
    w.s.ducks.clear();
    Duck& d = addTo(w.s, Movement::Static);
    d.target.kind = DuckTargetKind::Backing, d.curve.depthDb = 12, d.band.kind = kind;
    d.band.at = BellAt::Key, d.band.semitones = midiFromHz(50, 440) - lowTonic(w.s.track.key),
    d.band.octaves = 0.7;
    d.band.steps = {{90, 1}, {200, 0.2}};
    const auto y = everyFrame(w.rendered().backing);
    EXPECT_NEAR(levelAt(y, 50), 0.2 * std::pow(10, -12 / 20.0), 0.002) << static_cast<int>(kind);
    EXPECT_NEAR(levelAt(y, 400), 0.2, 0.0012) << static_cast<int>(kind);
  }
}

TEST(Duckings, ALayerGivesWayWithinItsPart) {
  DuckWorld w = duckWorld();
  Layer second;
  second.id = 2, second.what.emplace<BassVoice>().partialDb[0] = -6;
  second.chain.put({0, Drive{true, DriveKind::Soft, 0, 6, 1}});
  w.s.bass().layers.push_back(second);
  w.s.bass().finish.put({0, Compressor{true, -20, 3, 6, 5, 60, 0}});
  Duck& d = addTo(w.s, Movement::Static);
  d.target = {DuckTargetKind::Layer, 2, 2}, d.curve.depthDb = kSilentDepthDb;
  const auto ducked = everyFrame(w.rendered().bass());
  w.s.ducks[0].on = false;
  const auto whole = everyFrame(w.rendered().bass());
  w.s.bass().layers[1].mute = true;
  const auto without = everyFrame(w.rendered().bass());
  for (size_t i = 0; i < ducked.size(); ++i) ASSERT_NEAR(ducked[i], without[i], 1e-6) << i;
  EXPECT_NE(whole, without);
}

// Shapes the end of the kick's own tail; its strikes stay to the sample.
TEST(Duckings, TheKicksOwnTailGivesWayAndItsStrikeDoesNot) {
  DuckWorld w = duckWorld();
  Duck& d = addTo(w.s);
  d.target.part = 1, d.curve.depthDb = kSilentDepthDb, d.curve.length = TimeValue::milliseconds(120);
  d.curve.points = {{0, 0, 0}, {0.5, 0, 0}, {1, 1, 0}};
  const Stems stems = w.rendered();
  for (const double hit : {0.0, 8000.0, 20000.0})
    for (size_t i = 0; i < 900; ++i) {
      const auto at = static_cast<size_t>(hit) + i;
      ASSERT_EQ(stems.lanes[0].heard.at(0, at), stems.lanes[0].placed.at(0, at)) << at;
    }
  EXPECT_EQ(stems.lanes[0].heard.at(0, 2200), 0.0f);
  EXPECT_NE(stems.lanes[0].placed.at(0, 2200), 0.0f);
}

// A loop in its steady state is what one pass over many turns comes to, to the bit.
TEST(Duckings, AFollowerGoesOnOverTheSeam) {
  DuckWorld w = duckWorld();
  Duck& d = addTo(w.s, Movement::Follower);
  d.follower = {-30, 6, 6, 3, 40, 400, 2.5, LevelBy::Rms, 40};
  const Stems stems = w.rendered();
  const auto heard = everyFrame(stems.ducks[0].heard);
  std::vector<float> turns;
  for (int turn = 0; turn < 8; ++turn) turns.insert(turns.end(), heard.begin(), heard.end());
  std::rotate(turns.begin(), turns.begin() + static_cast<ptrdiff_t>(lookaheadFrames(d.follower, kLoopRate)),
              turns.end());
  std::vector<float> gain(turns.size());
  FollowerState rest;
  followLevel(d.follower, turns, kLoopRate, rest, gain);
  const auto looped = everyFrame(stems.gain());
  for (size_t i = 0; i < looped.size(); ++i) ASSERT_EQ(looped[i], gain[6 * looped.size() + i]) << i;
}

TEST(Duckings, WhatTriggersIsNotWhatIsMuted) {
  DuckWorld w = duckWorld();
  for (const Movement movement : {Movement::Curve, Movement::Follower, Movement::Mirror}) {
    w.s.ducks.clear();
    addTo(w.s, movement);
    w.s.kick().layers[0].mute = false;
    const auto heard = everyFrame(w.rendered().gain());
    w.s.kick().layers[0].mute = true;
    EXPECT_EQ(everyFrame(w.rendered().gain()), heard) << static_cast<int>(movement);
    EXPECT_LT(*std::min_element(heard.begin(), heard.end()), 0.8f) << static_cast<int>(movement);
  }
}

// A bar of drums at another rate under two bars: found, repeated, corrected by hand.
TEST(Duckings, HitsOfASoundRepeatAndStayCorrected) {
  DuckWorld w = duckWorld();
  w.s.track.loopBeats = 8;
  std::vector<double> drums(static_cast<size_t>(2.0 * 44100), 0.0);
  KickRecipe recipe;
  recipe.tailMs = 90;
  const auto kick = makeKick(recipe);  // at 48 kHz: a little lower here
  for (double at : {0.1, 0.6, 1.35})
    for (size_t i = 0; i < kick.size() && static_cast<size_t>(at * 44100) + i < drums.size(); ++i)
      drums[static_cast<size_t>(at * 44100) + i] += 0.8 * kick[i];
  Duck& d = addTo(w.s);
  setTriggerAudio(d, w.add(bufferOf(drums, 44100), "drums.wav")).change(w.s);
  const auto found = w.rendered().ducks[0];
  ASSERT_EQ(found.triggers.size(), 6u);
  for (size_t i = 0; i < 6; ++i)
    EXPECT_NEAR(found.triggers[i].frame / kLoopRate,
                (i % 3 == 0   ? 0.1
                 : i % 3 == 1 ? 0.6
                              : 1.35) +
                    (i / 3) * 2.0,
                0.004);
  markHit(d, 0.602, false).change(w.s);
  markHit(d, 1.8, true).change(w.s);
  for (const double threshold : {-26.0, -40.0}) {
    w.s.ducks[0].source.thresholdDb = threshold;
    const auto now = w.rendered().ducks[0];
    ASSERT_EQ(now.triggers.size(), 6u) << threshold;
    EXPECT_NEAR(now.triggers[2].frame / kLoopRate, 1.8, 1e-3);
  }
  w.s.ducks[0].source.repeats = false;
  EXPECT_EQ(w.rendered().ducks[0].triggers.size(), 3u);
  const auto lines = w.lines();
  ASSERT_TRUE(lineOf(lines, "duck-1-span"));
  EXPECT_EQ(lineOf(lines, "duck-1-span")->verdict, Verdict::Watch);
  EXPECT_FALSE(lineOf(lines, "duck-1-span")->options.empty());
}

TEST(Duckings, ChosenNotesOfAMidiFileFire) {
  DuckWorld w = duckWorld();
  MidiFile file;
  file.tracks = {{"Drums", {{0, 0.5, 9, 36, 127}, {1, 0.5, 9, 42, 64}, {2, 0.5, 9, 36, 100}}, {}, {}}};
  file.endQuarters = 4;
  setTriggerMidi(addTo(w.s), file, "drums.mid").change(w.s);
  EXPECT_EQ(w.rendered().ducks[0].triggers.size(), 3u);
  togglePitch(w.s.ducks[0], 42).change(w.s);
  const auto chosen = w.rendered().ducks[0];
  ASSERT_EQ(chosen.triggers.size(), 2u);
  EXPECT_NEAR(chosen.triggers[1].velocity, 100 / 127.0, 1e-9);
  // A follower takes a note as its velocity for as long as it lasts.
  w.s.ducks[0].movement = Movement::Follower;
  const auto gain = everyFrame(w.rendered().gain());
  EXPECT_LT(gain[2000], 0.5f);
  EXPECT_GT(gain[7900], 0.95f);
}

TEST(Duckings, ABellMovesWithTheKeyAndTheKick) {
  DuckWorld w = duckWorld();
  Duck& d = addTo(w.s);
  d.band.kind = DuckBandKind::Bell, d.band.at = BellAt::Source;
  w.s.kick().layers[0].kickVoice()->landingMidi = 31;
  EXPECT_NEAR(1200 * std::log2(*w.rendered().ducks[0].bellHz / hzFromMidi(31)), 0, 5);
  w.s.kick().layers[0].kickVoice()->landingMidi = 35;
  EXPECT_NEAR(1200 * std::log2(*w.rendered().ducks[0].bellHz / hzFromMidi(35)), 0, 5);
  setBellNote(w.s.ducks[0], 33, w.s.track.key).change(w.s);
  EXPECT_NEAR(*w.rendered().ducks[0].bellHz, 55, 1e-9);
  w.s.track.key.tonic = (w.s.track.key.tonic + 2) % 12;
  const double moved = 12 * std::log2(*w.rendered().ducks[0].bellHz / 55);
  EXPECT_NEAR(std::remainder(moved - 2, 12), 0, 1e-9) << "by two semitones, in the octave that is heavy";
}

// The line's own notes move the backing; hits may stand off any grid.
TEST(Duckings, NotesFireTooAndOffTheGrid) {
  DuckWorld w = duckWorld();
  w.s.bass().notes = {{0.113, 0.3, 33, 0.9}, {1.907, 0.4, 36, 0.8}, {3.0001, 0.5, 33, 1.0}};
  Duck& d = addTo(w.s);
  d.source.part = 2, d.target.kind = DuckTargetKind::Backing;
  const Stems stems = w.rendered();
  const double perQuarter = w.s.track.framesPerQuarter();
  ASSERT_EQ(stems.ducks[0].triggers.size(), 3u);
  for (size_t i = 0; i < 3; ++i) {
    const double frame = stems.ducks[0].triggers[i].frame;
    EXPECT_NEAR(frame, w.s.bass().notes[i].startQuarters * perQuarter, 0.5);
    EXPECT_EQ(stems.backingGain.at(0, static_cast<size_t>(frame) - 1), 1.0f);
    EXPECT_NEAR(stems.backingGain.at(0, static_cast<size_t>(frame) + 320), std::pow(10, -8.5 / 20), 1e-5);
  }
  const auto unducked = [&] {
    w.s.ducks[0].on = false;
    return everyFrame(w.rendered().backing);
  }();
  for (size_t i = 0; i < unducked.size(); i += 7)
    ASSERT_NEAR(stems.backing.at(0, i), unducked[i] * stems.backingGain.at(0, i), 1e-6);
}

// Each states its fault in one line.
TEST(Duckings, TheLedgerSaysWhatDoesNothing) {
  DuckWorld w = duckWorld();
  Duck& silent = addTo(w.s);
  silent.source.kind = TriggerKind::Audio, silent.target.kind = DuckTargetKind::Backing;
  silent.source.asset = w.add(AudioBuffer(kLoopRate, 1, 8000), "silence.wav");
  Duck& gone = addTo(w.s);
  gone.source.part = 77, gone.target.part = 3;
  Duck& never = addTo(w.s, Movement::Follower);
  never.follower.thresholdDb = 0, never.target.part = 3;
  Duck& always = addTo(w.s, Movement::Follower);
  always.follower.thresholdDb = -80, always.follower.releaseMs = 5000, always.target.part = 3;
  Duck& nothing = addTo(w.s);
  nothing.curve.hold = nothing.curve.release = TimeValue::milliseconds(0), nothing.target.part = 3;
  Duck& slow = addTo(w.s);
  slow.source.kind = TriggerKind::Drawn, slow.source.hits = {{0, 0.25, 1, 36}, {0.01, 0.25, 1, 36}};
  slow.curve.attack = TimeValue::milliseconds(40), slow.target.part = 3;
  Duck& midi = addTo(w.s);
  midi.source.kind = TriggerKind::Midi, midi.target.part = 3;
  const auto lines = w.lines();
  for (const auto& [id, verdict] : {std::pair("duck-1-fires", Verdict::Off),
                                    {"duck-2-gone", Verdict::Off},
                                    {"duck-3-threshold", Verdict::Off},
                                    {"duck-4-threshold", Verdict::Off},
                                    {"duck-5-times", Verdict::Watch},
                                    {"duck-6-attack", Verdict::Watch},
                                    {"duck-7-gone", Verdict::Off}}) {
    const Finding* f = lineOf(lines, id);
    ASSERT_TRUE(f) << id;
    EXPECT_EQ(f->verdict, verdict) << id;
    EXPECT_FALSE(f->options.empty()) << id;
  }
  // Fixes of thresholds do what they say.
  const Session set = lineOf(lines, "duck-3-threshold")->options[0].applied(w.s);
  DuckWorld mended = w;
  mended.s = set;
  EXPECT_FALSE(lineOf(mended.lines(), "duck-3-threshold"));
}

// Blocks far from an edit share memory.
TEST(Duckings, AnEditRenewsWhatItTouches) {
  DuckWorld w = duckWorld();
  w.s.track.loopBeats = 32;
  w.s.bass().notes = {{0.0, 31, 33, 1.0}};
  Duck& d = addTo(w.s, Movement::Follower);
  d.follower.releaseMs = 30;
  d.source.kind = TriggerKind::Drawn, d.source.hits = {{0.5, 0.2, 1, 36}, {20, 0.2, 1, 36}};
  StepCache cache;
  const auto before = render(w.s, w.assets, cache);
  placeTriggerHit(d, 25).change(w.s);
  const auto after = render(w.s, w.assets, cache);
  size_t shared = 0;
  for (size_t b = 0; b < before->gain().blockCount(); ++b)
    shared += before->gain().sharesBlock(after->gain(), b);
  EXPECT_GE(shared + 3, before->gain().blockCount());
  EXPECT_LT(shared, before->gain().blockCount());
}

}  // namespace
}  // namespace heft
