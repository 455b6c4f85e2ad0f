// Fixes are gentle: they change the least, keep hand-set values, and ask before anything drastic.

#include <gtest/gtest.h>

#include "core/remedies/remedies.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/sounds.h"
#include "core/session/replaced.h"
#include "core/solve/ways.h"
#include "core/study/drastic.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using namespace reference;

const Finding* lineOf(const std::vector<Finding>& lines, const std::string& id) {
  for (const Finding& f : lines)
    if (f.id == id) return &f;
  return nullptr;
}

// A kick on its note and short, over one held bass note per hit.
Session heldBass() {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  s.kick().layers[0].recorded()->length = TimeValue::note(1, 16);
  const Note like = s.bass().notes.front();
  s.bass().notes.clear();
  for (const Hit& h : s.kick().hits) {
    Note n = like;
    n.startQuarters = h.startQuarters, n.lengthQuarters = 0.45;
    s.bass().notes.push_back(n);
  }
  return s;
}

TEST(Replaced, NamesWhatWasSetByHandAndNothingElse) {
  Session s = theDemo().session;
  Recorded& kick = *s.kick().layers[0].recorded();
  EXPECT_TRUE(replacedBy(s, trimPart(s.kick(), TimeValue::note(1, 16)).applied(s)).empty())
      << "a length that nobody had set";
  kick.length = TimeValue::milliseconds(200);
  EXPECT_EQ(replacedBy(s, trimPart(s.kick(), TimeValue::note(1, 16)).applied(s)),
            std::vector<std::string>{"kick length 200 ms"});
  s.bass().align.delayMs = 2.5;
  Session other = s;
  other.bass().align.delayMs = -1.0;
  EXPECT_EQ(replacedBy(s, other), std::vector<std::string>{"bass delay 2.5 ms"});
  other = s;
  other.bass().levelDb -= 3.0;
  EXPECT_TRUE(replacedBy(s, other).empty()) << "levels add up";
  s.duck().curve.depthDb = 3.0;
  other = s;
  other.duck().on = true, other.duck().curve.depthDb = 9.0;
  EXPECT_TRUE(replacedBy(s, other).empty()) << "a ducking that is off";
  s.duck().on = true;
  EXPECT_EQ(replacedBy(s, other), std::vector<std::string>{"ducking depth 3 dB"});
  EXPECT_TRUE(keepsWhatWasSet(s, other));
  other.duck().band.kind = DuckBandKind::Below;
  s.duck().band.kind = DuckBandKind::Bell;
  EXPECT_FALSE(keepsWhatWasSet(s, other));
}

// A hand-set ducking keeps its band, shape and times: it only gets deeper.
TEST(Gentle, ADuckingSetByHandOnlyGoesDeeper) {
  Session s = heldBass();
  Duck& duck = s.duck();
  duck.on = true, duck.band.kind = DuckBandKind::Below, duck.band.belowHz = 111.0;
  duck.curve.depthDb = 2.0, duck.curve.release = TimeValue::note(1, 16), duck.curve.lasts = CurveLasts::AsSet;
  StepCache cache;
  auto lines = *judgedSession(s, theDemo().assets, cache);
  ASSERT_NE(lineOf(lines, "overlap")->verdict, Verdict::Holds);
  const auto tried = *withTriedRemedies(s, theDemo().assets, lines, cache);
  const Finding* line = lineOf(tried, "overlap");
  ASSERT_TRUE(line->remedy) << line->sentence;
  const Session after = line->remedy->applied(s);
  Duck deeper = duck;
  deeper.curve.depthDb = after.duck().curve.depthDb;
  EXPECT_EQ(after.duck(), deeper) << line->remedy->name();
  EXPECT_LE(after.duck().curve.depthDb, kDeepestUnaskedDb);
  EXPECT_TRUE(line->remedy->asks.empty());
}

// The kick 18 dB under the bass: levels come first, and are enough where they can be.
TEST(Gentle, LevelsComeFirstWhereBalanceIsTheCause) {
  Session s = heldBass();
  s.kick().levelDb -= 12.0;
  StepCache cache;
  const auto found = waysToMakeRoom(s, theDemo().assets, cache);
  ASSERT_TRUE(found);
  const auto level = std::find_if(found->ways.begin(), found->ways.end(),
                                  [](const RoomWay& w) { return w.kind == WayKind::Level; });
  ASSERT_NE(level, found->ways.end());
  EXPECT_TRUE(level->ofBalance);
  if (level->reaches) EXPECT_EQ(level, found->ways.begin());
  // Both lanes moved and nothing else; together by no more than the most.
  const Session after = level->edit.applied(s);
  EXPECT_GT(after.kick().levelDb, s.kick().levelDb);
  EXPECT_LT(after.bass().levelDb, s.bass().levelDb);
  const double apart = (after.kick().levelDb - s.kick().levelDb) + (s.bass().levelDb - after.bass().levelDb);
  EXPECT_LE(apart, kMostLevelWayDb + 1e-9);
  EXPECT_NEAR(found->beforeDb - level->worstDb, apart, 0.05) << "a dB is a dB at the hit";
  Session same = after;
  same.kick().levelDb = s.kick().levelDb, same.bass().levelDb = s.bass().levelDb;
  EXPECT_EQ(same, s);
  Session balanced = heldBass();
  balanced.kick().levelDb += 6.0;
  if (const auto usual = waysToMakeRoom(balanced, theDemo().assets, cache))
    for (const RoomWay& w : usual->ways) EXPECT_FALSE(w.ofBalance) << w.name;
}

TEST(Gentle, WhatIsDrasticIsAskedAbout) {
  const Session s = theDemo().session;
  Session cut = s, octave = s;
  cut.kick().layers[0].recorded()->length = TimeValue::milliseconds(60);
  for (Note& n : octave.bass().notes) n.midi += 12;
  const Reach now{2.0, 300.0, 0.5, 33.0};
  EXPECT_EQ(asksBefore(s, now, s, now), "");
  EXPECT_EQ(asksBefore(s, now, s, {12.0, 300.0, 2.0, 33.0}), "") << "up to the limits";
  EXPECT_EQ(asksBefore(s, now, s, {18.0, 300.0, 0.5, 33.0}), "ducks the bass by 18 dB");
  EXPECT_EQ(asksBefore(s, {20.0, 300.0, 0.5, 33.0}, s, {18.0, 300.0, 0.5, 33.0}), "") << "less than before";
  EXPECT_EQ(asksBefore(s, now, cut, {2.0, 60.0, 0.5, 33.0}), "cuts the kick to 60 ms, under a 1/16");
  EXPECT_EQ(asksBefore(s, now, s, {2.0, 60.0, 0.5, 33.0}), "") << "shorter by its speed, not by a trim";
  EXPECT_EQ(asksBefore(s, now, s, {2.0, 300.0, -3.2, 30.0}), "shifts the kick by -3.2 st");
  EXPECT_EQ(asksBefore(s, now, s, {2.0, 300.0, -12.0, 21.0}), "moves the kick by an octave");
  EXPECT_EQ(asksBefore(s, now, octave, now), "moves the bass line by an octave");
}

// A kick far from its note: the fix asks, Fix all skips it without consent, and unticked lines stay.
TEST(Gentle, FixAllLeavesWhatAsksAndWhatIsLeftOut) {
  if (isWatched()) GTEST_SKIP() << "half a minute of what the tests beside it do as well";
  Session s = theDemo().session;
  s.track.key = {4, Mode::Minor};
  s.references.clear();                             // another bass line is another low end: no matter here
  for (Note& n : s.bass().notes) n.midi = 28 + 12;  // E2: the kick is nearly five semitones over E1
  StepCache cache;
  const auto lines = *withTriedRemedies(s, theDemo().assets, *judgedSession(s, theDemo().assets, cache), cache);
  const auto plain = *mendAll(s, theDemo().assets, cache);
  for (const Mended& m : plain.mended) {
    const Finding* line = lineOf(lines, m.id);
    if (m.id == "kick-key") EXPECT_TRUE(line && line->remedy && line->remedy->asks.empty());
  }
  ASSERT_FALSE(plain.mended.empty());
  const std::string first = plain.mended.front().id;
  FixChoice without;
  without.without = {first};
  const auto other = *mendAll(s, theDemo().assets, cache, without);
  for (const Mended& m : other.mended) EXPECT_NE(m.id, first);
  FixChoice only;
  only.only = {first};
  const auto one = *mendAll(s, theDemo().assets, cache, only);
  EXPECT_FALSE(one.mended.empty());
  for (const Mended& m : one.mended) EXPECT_EQ(m.id, first);
}

// One line a matter, with its hits inside: none appears twice.
TEST(Gentle, OneLineAMatter) {
  StepCache cache;
  const auto lines = *judgedSession(theDemo().session, theDemo().assets, cache);
  std::set<std::string> ids;
  for (const Finding& f : lines) EXPECT_TRUE(ids.insert(f.id).second) << f.id;
  const Finding* pair = lineOf(lines, "pair-level");
  ASSERT_TRUE(pair);
  EXPECT_EQ(pair->hits.size(), theDemo().session.kick().hits.size());
  const auto bad = std::count_if(pair->hits.begin(), pair->hits.end(),
                                 [](const HitLine& h) { return h.verdict != Verdict::Holds; });
  ASSERT_GT(bad, 0);
  EXPECT_NE(pair->sentence.find(std::to_string(bad)), std::string::npos) << pair->sentence;
  for (const HitLine& h : pair->hits) EXPECT_LE(h.verdict, pair->verdict);
  // More hits out weigh more, so fixing some of them helps.
  Finding few = *pair, many = *pair;
  for (HitLine& h : few.hits) h.verdict = h.hit == 0 ? Verdict::Off : Verdict::Holds;
  for (HitLine& h : many.hits) h.verdict = Verdict::Off;
  EXPECT_LT(weightOf(few), weightOf(many));
}

// A shift by speed carries the note of a kick that is short and slides: at every speed it sounds just as much
// higher, and Tune's targets are met and not lost.
void expectCarried(double fallMs) {
  KickRecipe recipe;
  recipe.landingHz = 58.0, recipe.fallSemitones = 24.0, recipe.fallMs = fallMs, recipe.tailMs = 110.0;
  Assets assets;
  Session s;
  s.kick().hits = {{0.0}};
  TemporaryFolder folder;
  const std::string file = writeSound(folder, "k.wav", bufferOf(makeKick(recipe), 48000));
  const AssetRef ref = assets.add(*loadSound(file), file);
  s.kick().layers = {recordedLayer(ref)};
  StepCache cache;
  const SoundSteps steps(assets, cache, 48000);
  const auto before = steps.kickFacts(s.kick(), s.track);
  ASSERT_TRUE(before && before->landing.noteHz());
  const double midi = midiFromHz(*before->landing.noteHz(), 440.0);
  for (const double target :
       {std::round(midi) - 2, std::round(midi) - 1, std::round(midi), std::round(midi) + 1}) {
    s.kick().layers[0].recorded()->targetMidi = target;
    const auto after = steps.kickFacts(s.kick(), s.track);
    ASSERT_TRUE(after && after->landing.noteHz()) << target;
    EXPECT_NEAR(midiFromHz(*after->landing.noteHz(), 440.0), target, 0.02);
    EXPECT_EQ(after->landing.slides(), before->landing.slides());
  }
}

TEST(Gentle, AShiftCarriesTheNoteOfAKick) {
  for (const double fallMs : {12.0, 30.0}) expectCarried(fallMs);
}

}  // namespace
}  // namespace heft
