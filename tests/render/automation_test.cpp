// Values along the track: what is rendered is what each value alone would give there; sections choose; edits as
// a cold render.

#include "core/session/edits/automation.h"

#include "core/export/automation_exports.h"
#include "core/render/lanes/automation_lanes.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/over_section.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/sections.h"
#include "core/session/edits/states.h"
#include "core/session/edits/values.h"
#include "core/session/folder.h"
#include "core/session/versions.h"
#include "core/study/study.h"
#include "tests/reference/four_parts.h"
#include "tests/reference/rendered.h"
#include "tests/reference/repeated.h"

namespace heft {
namespace {

using namespace reference;

constexpr double kRate = 16000;

Session aSong(int bars) {
  Session s = fourParts();
  repeatAsSong(s, bars);
  return s;
}

AutomationOf levelOf(int part) {
  return {{.part = part}, "level_db", "level"};
}

size_t frameAt(const Session& s, double quarters) {
  return static_cast<size_t>(std::llround(quarters * s.track.framesPerQuarter()));
}

std::vector<float> laneOf(const Session& s, int part, StepCache& cache) {
  return samplesOf(rendered(s, cache).lane(part)->placed);
}

TEST(Automation, ReadsBetweenPointsAndTakesStepsAtTheirMoment) {
  Automation a;
  a.points = {{1.0, 10.0}, {3.0, 20.0}, {3.0, 5.0}, {4.0, 0.0, 0.5}};
  EXPECT_EQ(a.at(0.0), 10.0);
  EXPECT_EQ(a.at(2.0), 15.0);
  EXPECT_EQ(a.at(3.0), 5.0);
  EXPECT_EQ(a.at(9.0), 0.0);
  EXPECT_EQ(a.ahead(2.95, 0.1), 5.0) << "a step has been made when its moment comes";
  EXPECT_EQ(a.ahead(2.5, 0.1), 17.5);
  a.points[2].bend = 1.0;
  EXPECT_LT(a.at(3.25), 2.5) << "1 moves early";
}

TEST(Automation, ALevelMovesTheLaneByAsMuchAndNoMore) {
  StepCache cache;
  Session s = aSong(8);
  const auto plain = laneOf(s, 4, cache);
  s = placeAutomationPoint(levelOf(4), 0.0, -30.0).applied(s);
  s = placeAutomationPoint(levelOf(4), 16.0, 6.0).applied(s);
  const auto moved = laneOf(s, 4, cache);
  size_t compared = 0;
  for (size_t i = 0; i < moved.size(); ++i) {
    const double quarters = static_cast<double>(i) / s.track.framesPerQuarter();
    const double wantDb = std::min(6.0, -30.0 + 36.0 * quarters / 16.0);
    // A corner is rounded within a tick.
    if (std::abs(plain[i]) < 1e-4f || std::abs(quarters - 16.0) < 0.15) continue;
    ++compared;
    ASSERT_NEAR(20.0 * std::log10(moved[i] / plain[i]), wantDb, 0.03) << quarters;
  }
  EXPECT_GT(compared, 1000u);
  s = switchAutomation(levelOf(4), false).applied(s);
  EXPECT_EQ(laneOf(s, 4, cache), plain) << "bypassed it is the value itself, to the bit";
  const Session before = switchAutomation(levelOf(4), true).applied(s);
  s = putValue("level", {.part = 4}, "level_db", -3.0).applied(before);
  EXPECT_EQ(s.automation[0].points[0].value, -33.0) << "a hand on the value moves the whole curve";
}

TEST(Automation, AHitHasTheValuesOfItsStart) {
  StepCache cache;
  Session s = aSong(4);
  const AutomationOf landing{{1, s.kick().layers[0].id}, "built_kick.landing_midi", "landing"};
  s.kick().hits = {{0.0, 1.0}, {4.0, 1.0}, {8.0, 1.0}};
  Session high = putValue("landing", landing.owner, landing.key, 40.0).applied(s);
  s = placeAutomationPoint(landing, 0.0, 30.0).applied(s);
  s = placeAutomationPoint(landing, 8.0, 40.0).applied(s);
  const Session low = putValue("landing", landing.owner, landing.key, 30.0).applied([&] {
    Session plain = s;
    plain.automation.clear();
    return plain;
  }());
  const auto mine = laneOf(s, 1, cache), lows = laneOf(low, 1, cache), highs = laneOf(high, 1, cache);
  auto alike = [&](const std::vector<float>& other, double from, double to) {
    return std::equal(mine.begin() + static_cast<ptrdiff_t>(frameAt(s, from)),
                      mine.begin() + static_cast<ptrdiff_t>(frameAt(s, to)),
                      other.begin() + static_cast<ptrdiff_t>(frameAt(s, from)));
  };
  EXPECT_TRUE(alike(lows, 0.0, 3.9));
  EXPECT_TRUE(alike(highs, 8.0, 12.0));
  EXPECT_FALSE(alike(lows, 4.0, 7.9)) << "halfway it is neither";
  EXPECT_FALSE(alike(highs, 4.0, 7.9));
}

TEST(Automation, ProcessorsOverALaneCrossfadeBetweenTheirStates) {
  StepCache cache;
  Session s = aSong(8);
  Eq eq;
  eq.on = true, eq.bands[0] = {true, EqBand::Kind::Bell, 110, 0.0, 1.0};
  s = addProcessor({.part = 4}, Processor{1, eq}).applied(s);
  s.part(4)->finishOver = FinishOver::Lane;
  const AutomationOf gain{{.part = 4, .processor = s.part(4)->finish.list[0].id}, "eq.band_1.gain_db", "gain"};
  auto fixed = [&](double db) {
    return laneOf(putValue("gain", gain.owner, gain.key, db).applied(s), 4, cache);
  };
  Session moved = setAutomationOver(gain, 0.0, 8.0, 0.0).applied(s);
  moved = placeAutomationPoint(gain, 8.0, 0.0).applied(moved);
  moved = placeAutomationPoint(gain, 16.0, 12.0).applied(moved);
  const auto mine = laneOf(moved, 4, cache), flat = fixed(0.0), up = fixed(12.0);
  const auto from = static_cast<ptrdiff_t>(frameAt(s, 16.5)), border = static_cast<ptrdiff_t>(frameAt(s, 7.9));
  EXPECT_TRUE(std::equal(mine.begin(), mine.begin() + border, flat.begin())) << "one state is itself";
  EXPECT_TRUE(std::equal(mine.begin() + from, mine.end(), up.begin() + from));
  // Nothing jumps on the way: no step between samples is larger than in either state, but for the crossfades.
  auto steepest = [](const std::vector<float>& x) {
    float out = 0.0f;
    for (size_t i = 1; i < x.size(); ++i) out = std::max(out, std::abs(x[i] - x[i - 1]));
    return out;
  };
  EXPECT_LE(steepest(mine), 1.05f * std::max(steepest(flat), steepest(up)));
}

TEST(Automation, AConstantIsTheValueItself) {
  StepCache cache;
  Session s = aSong(4);
  s.bass().finishOver = FinishOver::Lane;
  const AutomationOf depth{{.duck = 1}, "curve.depth_db", "depth"};
  const Session fixed = putValue("depth", depth.owner, depth.key, 14.0).applied(s);
  const Session along = placeAutomationPoint(depth, 2.0, 14.0).applied(s);
  EXPECT_EQ(samplesOf(rendered(along, cache).gain()), samplesOf(rendered(fixed, cache).gain()));
  EXPECT_NE(samplesOf(rendered(along, cache).gain()), samplesOf(rendered(s, cache).gain()));
}

// Where a switch or a choice is, the lane is to the bit what that value alone gives; between, it holds.
TEST(Automation, SwitchesAndChoicesHoldUntilTheNextPoint) {
  StepCache cache;
  Session s = aSong(8);
  s.part(4)->notes = {{0.0, 1.0, 45, 1.0}, {8.0, 1.0, 45, 1.0}, {16.0, 1.0, 45, 1.0}, {24.0, 1.0, 45, 1.0}};
  const Owner layer{4, s.part(4)->layers[0].id};
  const AutomationOf invert{layer, "invert", "polarity"};
  Session moved = placeAutomationPoint(invert, 0.0, 0.0).applied(s);
  moved = setAutomationOver(invert, 8.0, 16.0, 0.7).applied(moved);
  ASSERT_TRUE(moved.automation[0].holds);
  EXPECT_EQ(moved.automation[0].at(12.0), 1.0) << "held to one of its values";
  EXPECT_EQ(moved.automation[0].at(7.9), 0.0);
  EXPECT_EQ(moved.automation[0].at(16.0), 0.0);
  const auto mine = laneOf(moved, 4, cache), plain = laneOf(s, 4, cache);
  for (size_t i = 0; i < mine.size(); ++i)
    ASSERT_EQ(mine[i], i >= frameAt(s, 7.9) && i < frameAt(s, 15.9) ? -plain[i] : plain[i]) << i;
  // A hand on the switch turns the points over that have its value.
  moved = putValue("polarity", layer, "invert", true).applied(moved);
  EXPECT_EQ(moved.automation[0].at(0.0), 1.0);
  EXPECT_EQ(moved.automation[0].at(12.0), 1.0);
  // The number, the name and the switch of a layer, and what a ducking is, do not move.
  for (const char* key : {"id", "mute", "solo", "name"}) EXPECT_FALSE(canBeAutomated(s, layer, key)) << key;
  for (const char* key : {"on", "movement", "source.part", "target.kind"})
    EXPECT_FALSE(canBeAutomated(s, {.duck = 1}, key)) << key;
}

TEST(Automation, ADuckingsBandMovesBetweenWhatEachBandGives) {
  StepCache cache;
  Session s = aSong(8);
  s = putValue("depth", {.duck = 1}, "curve.depth_db", 24.0).applied(s);
  s.ducks[0].on = true;
  const AutomationOf kind{{.duck = 1}, "band.kind", "band"}, below{{.duck = 1}, "band.below_hz", "below"};
  auto heard = [&](const Session& x) { return samplesOf(rendered(x, cache).lane(2)->heard); };
  auto fixed = [&](DuckBandKind band, double hz) {
    Session x = s;
    x.ducks[0].band.kind = band, x.ducks[0].band.belowHz = hz;
    return heard(x);
  };
  Session moved = placeAutomationPoint(kind, 0.0, static_cast<double>(DuckBandKind::All)).applied(s);
  moved = placeAutomationPoint(kind, 8.0, static_cast<double>(DuckBandKind::Below)).applied(moved);
  moved = placeAutomationPoint(below, 0.0, 90.0).applied(moved);
  moved = placeAutomationPoint(below, 16.0, 90.0).applied(moved);
  moved = placeAutomationPoint(below, 24.0, 180.0).applied(moved);
  const auto mine = heard(moved), all = fixed(DuckBandKind::All, 90.0), low = fixed(DuckBandKind::Below, 90.0),
             high = fixed(DuckBandKind::Below, 180.0);
  auto alike = [&](const std::vector<float>& other, double from, double to) {
    return std::equal(mine.begin() + static_cast<ptrdiff_t>(frameAt(s, from)),
                      mine.begin() + static_cast<ptrdiff_t>(frameAt(s, to)),
                      other.begin() + static_cast<ptrdiff_t>(frameAt(s, from)));
  };
  EXPECT_FALSE(alike(low, 0.0, 7.8)) << "or this shows nothing";
  EXPECT_TRUE(alike(all, 0.0, 7.8));
  EXPECT_TRUE(alike(low, 8.1, 15.9));
  EXPECT_FALSE(alike(low, 17.0, 23.0));
  EXPECT_FALSE(alike(high, 17.0, 23.0)) << "on the way it is neither";
  EXPECT_TRUE(alike(high, 24.1, 31.0));
}

TEST(Automation, ALoopsEndMeetsItsStart) {
  StepCache cache;
  Session s = fourParts();
  s.part(4)->notes = {{0.0, 4.0, 45, 1.0}};
  s = placeAutomationPoint(levelOf(4), 0.0, -40.0).applied(s);
  s = placeAutomationPoint(levelOf(4), 4.0, 0.0).applied(s);
  const Session flat = removeAutomation(levelOf(4)).applied(s);
  const auto x = laneOf(s, 4, cache), plain = laneOf(flat, 4, cache);
  EXPECT_NEAR(std::abs(x.back()), std::abs(plain.back()) * std::pow(10.0, -40.0 / 20.0),
              1e-3 * std::abs(plain.back()) + 1e-6);
}

// Intro with another kick, no kick in the break, half the ducking in the drop.
Session bySection() {
  Session s = aSong(12);
  addVersion(s.kick(), "Short");
  s.kick().layers[0].kickVoice()->length = TimeValue::milliseconds(90);
  switchVersion(s.kick(), 0);
  s.sections = {{1, "Intro", 0.0, 16.0}, {2, "Break", 16.0, 32.0}, {3, "Drop", 32.0, 48.0}};
  s = versionInSection(1, 1, "Short").applied(s);
  s = muteInSection(2, 1, true).applied(s);
  return duckAmountInSection(3, 1, 0.5).applied(s);
}

TEST(SectionChoices, AreHeardInTheirSectionAndNowhereElse) {
  StepCache cache;
  const Session s = bySection();
  Session plain = s, shorter = s;
  for (TrackSection& t : plain.sections) t.parts.clear(), t.ducks.clear();
  shorter = plain;
  switchVersion(shorter.kick(), 1);
  const Stems mine = rendered(s, cache), first = rendered(plain, cache), second = rendered(shorter, cache);
  auto kick = [&](const Stems& of, double from, double to) {
    return of.kick().read(0, static_cast<int64_t>(frameAt(s, from)), frameAt(s, to) - frameAt(s, from));
  };
  EXPECT_EQ(kick(mine, 0, 15.9), kick(second, 0, 15.9)) << "the other version";
  const auto silent = kick(mine, 17.5, 31.9);
  EXPECT_TRUE(std::all_of(silent.begin(), silent.end(), [](float v) { return v == 0.0f; }));
  EXPECT_EQ(kick(mine, 32, 47), kick(first, 32, 47)) << "and back";
  // No hits there: none fire, none is judged.
  for (const double frame : mine.hitFrames())
    EXPECT_FALSE(frame >= 16.0 * s.track.framesPerQuarter() && frame < 31.99 * s.track.framesPerQuarter());
  const auto studied = study(s, theDemo().assets, mine, cache);
  ASSERT_TRUE(studied);
  EXPECT_EQ(studied->pair.hitsInLoop, mine.hitFrames().size());
  EXPECT_LT(studied->pair.hitsInLoop, first.hitFrames().size());
  auto deepest = [&](double from, double to) {
    const auto g =
        mine.gain().read(0, static_cast<int64_t>(frameAt(s, from)), frameAt(s, to) - frameAt(s, from));
    return *std::min_element(g.begin(), g.end());
  };
  EXPECT_NEAR(1.0 - deepest(33, 47), 0.5 * (1.0 - deepest(1, 15)), 1e-3) << "half of the movement";
  EXPECT_EQ(deepest(18, 31), 1.0f) << "what is muted does not duck";
}

TEST(SectionChoices, AndAutomationComeBackFromTheFile) {
  Session s = bySection();
  s = setAutomationOver(levelOf(2), 32.0, 48.0, -6.0).applied(s);
  s = bendAutomation(levelOf(2), 1, 0.7).applied(s);
  const auto back = sessionFromJson(sessionToJson(s), "a file");
  ASSERT_TRUE(back) << back.error().reason;
  EXPECT_EQ(*back, s);
  // What is of a part that goes, goes with it; a renamed version stays chosen.
  EXPECT_EQ(nameVersion(s.kick(), 1, "Tight").applied(s).sections[0].ofPart(1).version, "Tight");
  Session more = setAutomationOver(levelOf(4), 0.0, 1.0, 0.0).applied(muteInSection(1, 4, true).applied(s));
  const Session fewer = removePart(more, 4).applied(more);
  EXPECT_EQ(fewer.automation, s.automation);
  EXPECT_EQ(fewer.sections, s.sections);
  // Also of a layer: the next one may get its id.
  const AutomationOf ofLayer{{1, s.kick().layers[0].id}, "level_db", "Level"};
  Session layered = placeAutomationPoint(ofLayer, 1.0, -6.0).applied(s);
  EXPECT_EQ(layered.automation.size(), s.automation.size() + 1);
  EXPECT_EQ(playVersion(layered.kick(), 1).applied(layered).automation, layered.automation)
      << "another version keeps it";
  Session bare = s;
  bare.kick().versions = {};
  bare = placeAutomationPoint(ofLayer, 1.0, -6.0).applied(bare);
  EXPECT_EQ(removeLayer(bare.kick(), ofLayer.owner.layer.value()).applied(bare).automation, s.automation);
}

TEST(SectionChoices, AStretchIsSetWithoutMovingTheRest) {
  Session s = aSong(12);
  s = placeAutomationPoint(levelOf(2), 0.0, -10.0).applied(s);
  s = placeAutomationPoint(levelOf(2), 40.0, 0.0).applied(s);
  const Automation before = s.automation[0];
  s = setAutomationOver(levelOf(2), 16.0, 24.0, 3.0).applied(s);
  s = setAutomationOver(levelOf(2), 16.0, 24.0, 4.0).applied(s);
  for (double q = 0.0; q < 48.0; q += 0.25)
    EXPECT_NEAR(s.automation[0].at(q), q >= 16.0 && q < 24.0 ? 4.0 : before.at(q), 1e-4) << q;
  EXPECT_LE(s.automation[0].points.size(), 6u) << "again does not pile points up";
  EXPECT_EQ(placeAutomationPoint({{.part = 2}, "align.delay_ms"}, 0.0, 1.0).applied(s), s)
      << "an alignment does not move";
}

TEST(SectionFixes, AreHeardInTheirSectionAlone) {
  StepCache cache;
  Session s = aSong(12);
  s.sections = {{1, "Intro", 0.0, 16.0}, {2, "Drop", 16.0, 32.0}};
  const Edit louder = setPartLevel(s.bass(), -6.0);
  const auto inDrop = overSection(s, louder, 2);
  ASSERT_TRUE(inDrop);
  EXPECT_EQ(inDrop->name, louder.name + " in Drop");
  const Session fixed = inDrop->applied(s);
  const auto mine = laneOf(fixed, 2, cache), before = laneOf(s, 2, cache),
             all = laneOf(louder.applied(s), 2, cache);
  const auto at = [&](double q) { return static_cast<ptrdiff_t>(frameAt(s, q)); };
  EXPECT_TRUE(std::equal(mine.begin(), mine.begin() + at(15.5), before.begin()));
  for (ptrdiff_t i = at(16.0); i < at(31.5); ++i) {
    const auto k = static_cast<size_t>(i);
    ASSERT_NEAR(mine[k], all[k], 1e-6f) << i;
  }
  EXPECT_TRUE(std::equal(mine.begin() + at(32.5), mine.end(), before.begin() + at(32.5)));
  // A switch of a layer moves: the section's hits are turned over.
  const Edit turned = putValue("polarity", {1, s.kick().layers[0].id}, "invert", true);
  const auto inIntro = overSection(s, turned, 1);
  ASSERT_TRUE(inIntro);
  EXPECT_EQ(inIntro->applied(s).automation.at(0).at(15.9), 1.0);
  EXPECT_EQ(inIntro->applied(s).automation.at(0).at(16.0), 0.0);
  // What cannot move along the track is for all of it or not at all.
  EXPECT_FALSE(overSection(s, setPolarity(s.bass(), true), 2));
  EXPECT_FALSE(overSection(s, setDelay(s.bass(), 3.0), 2));
  EXPECT_FALSE(overSection(s, setPartLevel(s.bass(), s.bass().levelDb), 2)) << "nothing changes";
  EXPECT_FALSE(overSection(s, louder, 9));
  const Edit both = allOf("two", {louder, setDepth(s.duck(), 20.0)});
  const auto two = overSection(s, both, 1);
  ASSERT_TRUE(two);
  EXPECT_EQ(two->applied(s).automation.size(), 2u);
}

TEST(States, HoldTheWholeSessionAndTheSoundsItNeeds) {
  Session s = theDemo().session;
  s = keepState("Rough").applied(s);
  const Session rough = s;
  s = removePart(s, s.parts.back().id).applied(putValue("level", {.part = 2}, "level_db", -9.0).applied(s));
  s.kick().layers.clear();
  const auto needed = assetsOf(s), before = assetsOf(theDemo().session);
  EXPECT_EQ(needed.size(), before.size()) << "what only the state needs is kept";
  const auto back = goToState(s, 0);
  ASSERT_TRUE(back);
  Session there = back->applied(s);
  EXPECT_EQ(there, rough);
  EXPECT_EQ(keepState("Rough").applied(s).states.size(), 1u) << "a name is kept once";
  s.states[0].session = SharedText("{ not a session");
  const auto broken = goToState(s, 0);
  ASSERT_FALSE(broken);
  EXPECT_NE(broken.error().sentence().find("Rough"), std::string::npos);
  EXPECT_FALSE(goToState(s, 5));
}

TEST(AutomationFiles, SayEachValueAndStayWithinHalfAStep) {
  Track track;
  track.tempoBpm = 120, track.loopBeats = 16, track.song = true;
  Automation a;
  a.points = {{0.0, -60.0}, {8.0, 24.0}, {12.0, 24.0}, {12.0, -6.0}};
  const std::string csv = automationCsv(a, track);
  EXPECT_TRUE(csv.starts_with("time_s,value\n0,-60\n0.01,-59.79\n")) << csv.substr(0, 60);
  EXPECT_NE(csv.find("\n6,-6\n"), std::string::npos) << "a step at its moment";
  EXPECT_TRUE(csv.ends_with("7.99,-6\n"));
  const AutomationMidi seven = automationMidi(a, track, -60, 24, 11, 3, false),
                       fourteen = automationMidi(a, track, -60, 24, 11, 3, true);
  EXPECT_EQ(seven.values, 129) << "each step on the way up, and the one down";
  EXPECT_LE(seven.error, 0.5 * 84.0 / 127.0 + 1e-9);
  EXPECT_LE(fourteen.error, 0.5 * 84.0 / 16383.0 + 1e-9);
  EXPECT_NE(seven.bytes.find("\xb2\x0b\x7f"), std::string::npos)
      << "full, controller 11 on channel 3 (MIDI 1.0)";
}

}  // namespace
}  // namespace heft
