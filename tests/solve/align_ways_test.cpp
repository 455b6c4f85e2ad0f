// Ways to align kick and bass: each does what it says, measured again on its result.

#include "core/solve/align_ways.h"

#include <gtest/gtest.h>

#include "core/judge/ledger.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/track.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

PairFacts pairOf(const Session& s, const Assets& assets) {
  StepCache cold;
  const auto stems = render(s, assets, cold);
  EXPECT_TRUE(stems);
  return *studyPair(s, assets, *stems, cold);
}

// Kick and bass both built, five notes under five hits, ducked.
Session builtPair(double startPhase) {
  Session s;
  s.track.sampleRate = 24000, s.track.loopBeats = 4;
  for (const Part& part : std::vector<Part>(s.parts)) addBuiltLayer(part).change(s);
  KickVoice& kick = *s.kick().layers[0].kickVoice();
  kick.landingMidi = 33, kick.length = TimeValue::milliseconds(400);
  kick.fall = {{0, 4, 0}, {1, 0, 0}}, kick.landingAt = 0.02;
  s.bass().layers[0].bassVoice()->startPhaseDegrees = startPhase;
  for (int i = 0; i < 4; ++i) {
    s.kick().hits.push_back({1.0 * i, 1.0});
    s.bass().notes.push_back({1.0 * i, 0.8, 33, 0.9});
  }
  return s;
}

TEST(AlignWays, EachDoesWhatItSaysOnTheDemo) {
  const demo::Demo& demo = theDemo();
  StepCache cache;
  std::vector<double> progress;
  const auto found = alignWays(demo.session, demo.assets, cache, {}, [&](double p) { progress.push_back(p); });
  ASSERT_TRUE(found);
  EXPECT_TRUE(std::is_sorted(progress.begin(), progress.end()));
  EXPECT_EQ(progress.back(), 1.0);
  const PairFacts now = pairOf(demo.session, demo.assets);
  EXPECT_NEAR(found->nowDb, now.alignedDb, 0.02);
  ASSERT_GE(found->ways.size(), 3u);
  for (size_t i = 0; i < found->ways.size(); ++i) {
    const AlignWay& way = found->ways[i];
    EXPECT_GE(way.levelDb, found->unmovedDb) << way.name;
    const PairFacts after = pairOf(way.edit.applied(demo.session), demo.assets);
    EXPECT_NEAR(after.alignedDb, way.levelDb, 0.25) << way.name;
    if (i > 0) EXPECT_LE(way.levelDb, found->ways[i - 1].levelDb + kCloseEnoughDb);
  }
  // Its tolerance is as stated: when moved, and at another tempo.
  const AlignWay& best = found->ways.front();
  const AlignStands& stands = found->stands;
  const double within = Limits().pairHolds + 0.3;
  for (const double by : {-stands.delay.earlierMs, stands.delay.laterMs}) {
    Session moved = best.edit.applied(demo.session);
    moved.bass().align.delayMs += by;
    EXPECT_GT(pairOf(moved, demo.assets).alignedDb, best.levelDb - within) << by;
    moved.bass().align.delayMs += by < 0 ? -2.0 : 2.0;
    EXPECT_LT(pairOf(moved, demo.assets).alignedDb, best.levelDb - Limits().pairHolds) << by;
  }
  EXPECT_LT(stands.slowestBpm, demo.session.track.tempoBpm);
  EXPECT_GT(stands.fastestBpm, demo.session.track.tempoBpm);
}

TEST(AlignWays, AStartPhaseBringsABuiltBassRound) {
  const Session s = builtPair(180);
  StepCache cache;
  const auto found = alignWays(s, Assets(), cache);
  ASSERT_TRUE(found);
  const auto phase = std::find_if(found->ways.begin(), found->ways.end(),
                                  [](const AlignWay& w) { return w.kind == AlignWayKind::StartPhase; });
  ASSERT_TRUE(phase != found->ways.end());
  // Against all start phases, by steps of ten degrees.
  double best = -200;
  for (int degrees = 0; degrees < 360; degrees += 10)
    best = std::max(best, pairOf(builtPair(degrees), Assets()).alignedDb);
  EXPECT_GT(phase->levelDb, best - 0.25);
  EXPECT_NEAR(pairOf(phase->edit.applied(s), Assets()).alignedDb, phase->levelDb, 1e-6);
  // A free-running phase cannot be set.
  Session free = s;
  free.bass().layers[0].bassVoice()->freePhase = true;
  for (const AlignWay& w : alignWays(free, Assets(), cache)->ways) EXPECT_NE(w.kind, AlignWayKind::StartPhase);
}

TEST(AlignWays, TuningAndTempoHoldAsFarAsTheySay) {
  // Hits half way through long notes: how long a note has sounded depends on tempo and tuning.
  Session s = builtPair(0);
  s.bass().notes.clear();
  for (int i = 0; i < 2; ++i) s.bass().notes.push_back({2.0 * i, 1.9, 33, 0.9});
  s.kick().hits = {{1.0, 1.0}, {3.0, 1.0}};
  StepCache cache;
  const auto found = alignWays(s, Assets(), cache);
  ASSERT_TRUE(found);
  ASSERT_FALSE(found->ways.empty());
  const AlignWay& best = found->ways.front();
  const Session aligned = best.edit.applied(s);
  const double reached = pairOf(aligned, Assets()).alignedDb, within = Limits().pairHolds;
  for (const double bpm : {found->stands.slowestBpm, found->stands.fastestBpm}) {
    Session other = aligned;
    other.track.tempoBpm = bpm;
    EXPECT_GT(pairOf(other, Assets()).alignedDb, reached - within - 0.4) << bpm << " of " << s.track.tempoBpm;
    other.track.tempoBpm += bpm < s.track.tempoBpm ? -0.6 : 0.6;
    EXPECT_LT(pairOf(other, Assets()).alignedDb, reached - within) << "further than " << bpm;
  }
  for (const double cents : {-found->stands.lowerCents, found->stands.higherCents}) {
    Session other = aligned;
    other.bass().layers[0].semitones += cents / 100;
    EXPECT_GT(pairOf(other, Assets()).alignedDb, reached - within - 0.5) << cents;
  }
  EXPECT_LT(found->stands.fastestBpm - found->stands.slowestBpm, 40) << "it does hang on the tempo";
}

// Five notes with different pitches and phases: what suits one does not suit another.
TEST(AlignWays, EachNoteByItselfReachesWhatNoMoveOfAllDoes) {
  Session s = builtPair(0);
  s.track.loopBeats = 5, s.kick().hits.clear(), s.bass().notes.clear();
  const int line[] = {33, 35, 31, 33, 36};
  const double phases[] = {180, 60, 300, 90, 200};
  for (int i = 0; i < 5; ++i) {
    s.kick().hits.push_back({1.0 * i, 1.0});
    s.bass().notes.push_back({1.0 * i, 0.9, line[i], 0.9});
    s.bass().notes.back().move.phaseDegrees = phases[i];
  }
  // The measured phases count, whatever the line says.
  const double scattered = pairOf(s, Assets()).alignedDb;
  StepCache cache;
  const auto found = alignWays(s, Assets(), cache);
  ASSERT_TRUE(found);
  EXPECT_NEAR(found->nowDb, scattered, 1e-9);
  for (const AlignWay& way : found->ways) {
    const Session after = way.edit.applied(s);
    EXPECT_NEAR(pairOf(after, Assets()).alignedDb, way.levelDb, 0.25) << way.name;
    if (way.notes == 0)
      for (const Note& n : after.bass().notes) EXPECT_EQ(n.move, NoteMove()) << way.name;
  }
  const auto byPhase = std::find_if(found->ways.begin(), found->ways.end(),
                                    [](const AlignWay& w) { return w.kind == AlignWayKind::PhasePerNote; });
  if (byPhase != found->ways.end()) {
    EXPECT_GT(byPhase->levelDb, scattered + 1);
    EXPECT_EQ(byPhase->noteMoves.size(), 5u);
  }
  EXPECT_EQ(clearNoteMoves(s.bass()).applied(s).bass().notes[2].move, NoteMove());
  Session fewer = s;
  fewer.bass().notes.pop_back();
  EXPECT_EQ(moveEachNote(s.bass(), std::vector<NoteMove>(5)).applied(fewer), fewer) << "another line by now";
}

TEST(AlignWays, ANoteStartsByAsMuchAsItSaysAndEndsWhereItDid) {
  Session s = builtPair(0);
  s.track.sampleRate = 48000, s.kick().hits.clear();
  s.bass().notes = {{1.0, 1.0, 45, 1.0}};
  s.bass().layers[0].bassVoice()->attackMs = 0;
  Session later = s;
  later.bass().notes[0].move.offsetMs = 10;
  StepCache cache;
  const auto had = render(s, Assets(), cache), has = render(later, Assets(), cache);
  auto startOf = [](const Signal& lane) {
    size_t i = 0;
    while (i < lane.frames() && lane.at(0, i) == 0.0f) ++i;
    return static_cast<double>(i);
  };
  EXPECT_NEAR(startOf(has->bassPlaced()) - startOf(had->bassPlaced()), 480, 1);
  auto endOf = [](const Signal& lane) {
    size_t i = lane.frames();
    while (i > 0 && std::abs(lane.at(0, i - 1)) < 1e-4f) --i;
    return static_cast<double>(i);
  };
  EXPECT_NEAR(endOf(has->bassPlaced()), endOf(had->bassPlaced()), 300);
  // Before the loop's start it wraps from the end.
  s.bass().notes[0].startQuarters = 0.0, s.bass().notes[0].move.offsetMs = -10;
  const auto before = render(s, Assets(), cache);
  float most = 0;
  for (size_t i = before->frames - 400; i < before->frames; ++i)
    most = std::max(most, std::abs(before->bassPlaced().at(0, i)));
  EXPECT_GT(most, 0.1f);
}

TEST(Rotation, LowsOfARecordingAreTurnedByAsMuchAsSaid) {
  AudioBuffer sound = bufferOf(sine(50, 0.5, 1.0, 48000, 0.4), 48000);
  const auto high = sine(2000, 0.2, 1.0, 48000);
  for (size_t i = 0; i < high.size(); ++i) sound.channels[0][i] += static_cast<float>(high[i]);
  AudioBuffer turned = sound;
  turnLows(turned, 90);
  const auto expected = sine(50, 0.5, 1.0, 48000, 0.4 + M_PI / 2);
  for (size_t i = 12000; i < 36000; i += 11)
    EXPECT_NEAR(turned.channels[0][i], expected[i] + high[i], 0.01) << "the 2 kHz stay where they are";
  AudioBuffer round = sound;
  turnLows(round, 360);
  EXPECT_EQ(round.channels, sound.channels);
}

TEST(AlignWays, WhereNoneHelpsItSaysWhatWould) {
  Session apart = builtPair(0);
  for (Note& n : apart.bass().notes) n.midi = 38, n.lengthQuarters = 0.95;
  StepCache cache;
  const auto found = alignWays(apart, Assets(), cache);
  ASSERT_TRUE(found);
  if (!found->ways.empty()) EXPECT_GE(found->ways[0].levelDb, found->unmovedDb);
  EXPECT_NE(found->elsewhere.find("5 st apart"), std::string::npos) << found->elsewhere;
  Session never = builtPair(0);
  for (Note& n : never.bass().notes) n.startQuarters += 0.9, n.lengthQuarters = 0.05;
  never.kick().layers[0].kickVoice()->length = TimeValue::milliseconds(60);
  never.kick().hits = {{0.0, 1.0}};
  never.bass().notes.resize(1);
  const auto none = alignWays(never, Assets(), cache);
  ASSERT_FALSE(none);
  EXPECT_EQ(none.error().kind, ErrorKind::BadUsage);
}

TEST(AlignWays, TheRotationIsOneUndoableMoveAndIsLeftOut) {
  const demo::Demo& demo = theDemo();
  AlignAnswer answer;
  answer.delayMs = 1.5, answer.rotation.stages[1] = {true, 80, 0.9};
  const Session turned = moveAs(demo.session.bass(), answer).applied(demo.session);
  EXPECT_EQ(turned.bass().align.rotation.stages[1], (AllPass{true, 80, 0.9}));
  EXPECT_FALSE(turned.bass().align.rotation.stages[0].on);
  EXPECT_FALSE(withoutMoves(turned, MovesOf::Align).bass().align.rotation.works());
  EXPECT_EQ(moveAs(turned.bass(), {}).applied(turned).bass().align.rotation.works(), false);
  StepCache cache;
  const auto plain = render(demo.session, demo.assets, cache), other = render(turned, demo.assets, cache);
  EXPECT_FALSE(other->bass().sharesBlock(plain->bass(), 0));
  EXPECT_TRUE(other->kick().sharesBlock(plain->kick(), 0));
}

}  // namespace
}  // namespace heft
