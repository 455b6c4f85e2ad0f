// Ways to make room: each does what it says, measured again on its lanes.

#include "core/solve/ways.h"

#include <gtest/gtest.h>

#include "core/measure/levels/levels.h"
#include "core/remedies/remedies.h"
#include "core/session/edits/parts.h"
#include "core/study/study_hits.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// Power between two frequencies of a stretch, by a plain transform.
double lowPower(const Signal& lane, double rate, double from, double seconds) {
  const auto first = static_cast<int64_t>(from * rate);
  const auto x = lane.read(0, first, static_cast<size_t>(seconds * rate));
  std::vector<double> slow;
  for (size_t i = 0; i + 16 <= x.size(); i += 16) {
    double sum = 0;
    for (size_t k = 0; k < 16; ++k) sum += x[i + k];
    slow.push_back(sum / 16);
  }
  double power = 0;
  for (const double v : slow) power += v * v;
  return power;
}

TEST(Ways, EachDoesWhatItSays) {
  const demo::Demo& demo = theDemo();
  StepCache cache;
  std::vector<double> progress;
  const auto found =
      waysToMakeRoom(demo.session, demo.assets, cache, {}, [&](double p) { progress.push_back(p); });
  ASSERT_TRUE(found);
  EXPECT_GT(found->beforeDb, found->goalDb);
  ASSERT_GE(found->ways.size(), 7u);
  EXPECT_EQ(progress.size(), 9u);
  EXPECT_EQ(progress.back(), 1.0);
  bool reaches = true;
  for (size_t i = 0; i < found->ways.size(); ++i) {
    const RoomWay& way = found->ways[i];
    EXPECT_TRUE(reaches || !way.reaches) << "those that reach the goal come first";
    const bool asksLater = i > 0 && found->ways[i - 1].asks.empty() && !way.asks.empty();
    EXPECT_TRUE(i == 0 || !way.reaches || found->ways[i - 1].asks.empty() || !way.asks.empty())
        << "those that ask come last";
    if (i > 0 && way.reaches && !asksLater) EXPECT_GE(way.cost.sum(), found->ways[i - 1].cost.sum());
    reaches = way.reaches;
    // Measured anew, without the cache.
    StepCache cold;
    const Session after = way.edit.applied(demo.session);
    const auto stems = render(after, demo.assets, cold);
    ASSERT_TRUE(stems);
    const auto facts = study(after, demo.assets, *stems, cold);
    ASSERT_TRUE(facts);
    double worst = RoomFacts::kNothing;
    for (const HitFacts& h : facts->pair.hits) worst = std::max(worst, h.bassReKickDb.value_or(RoomFacts::kNothing));
    EXPECT_NEAR(worst, way.worstDb, 1e-6) << way.name;
    EXPECT_EQ(worst <= found->goalDb, way.reaches) << way.name;
    if (way.kind != WayKind::Full) continue;
    // Half a decibel less is not enough.
    Session less = after;
    less.duck().curve.depthDb -= 1.0;
    StepCache other;
    const auto shallow = render(less, demo.assets, other);
    const auto room = measureRoom(less, demo.assets, *shallow, other);
    EXPECT_GT(room->worstDb(), found->goalDb) << way.name;
    // And by a plain sum of squares of the lanes the bass is that much lower under the kick.
    const double rate = stems->sampleRate, at = stems->hitFrames()[2] / rate;
    const double had = lowPower(stems->bassPlaced(), rate, at, 0.05),
                 has = lowPower(stems->bass(), rate, at, 0.05);
    EXPECT_LT(10 * std::log10(has / had), -0.6 * after.duck().curve.depthDb) << way.name;
  }
  // Present duckings do not count: the ways are the same without them, and taking one removes them.
  Session ducked = demo.session;
  ducked.duck().on = true;
  const auto again = waysToMakeRoom(ducked, demo.assets, cache);
  EXPECT_EQ(again->beforeDb, found->beforeDb);
  ASSERT_EQ(again->ways.size(), found->ways.size());
  for (const RoomWay& way : found->ways) {
    // A set ducking keeps its shape beside another move, which may then cost more or less.
    if (way.kind == WayKind::Together || way.kind == WayKind::Full) continue;
    const auto same = std::find_if(again->ways.begin(), again->ways.end(),
                                   [&](const RoomWay& w) { return w.kind == way.kind && w.name == way.name; });
    ASSERT_TRUE(same != again->ways.end()) << way.name;
    EXPECT_EQ(same->edit.applied(ducked), way.edit.applied(demo.session)) << way.name;
  }
}

// The Ledger's remedy: no way that fixes the line and makes none worse costs less; also where something
// already ducks.
TEST(Ways, TheLedgerOffersTheCheapestThatHelps) {
  const demo::Demo& demo = theDemo();
  StepCache cache;
  Session plain = demo.session;
  plain.references.clear();  // the bands' lines are another matter
  Session trimmed = trimPart(plain.kick(), TimeValue::note(1, 16)).applied(plain);
  Session shallow = plain;
  shallow.duck().on = true, shallow.duck().curve.depthDb = 2.0;
  int choices = 0;
  for (const Session& session : {plain, trimmed, shallow}) {
    auto lines = *judgedSession(session, demo.assets, cache);
    for (Finding& f : lines)
      if (f.id != "overlap") f.options.clear();
    const auto tried = *withTriedRemedies(session, demo.assets, lines, cache);
    const auto line =
        std::find_if(tried.begin(), tried.end(), [](const Finding& f) { return f.id == "overlap"; });
    ASSERT_TRUE(line != tried.end() && line->remedy);
    const auto ways = *waysToMakeRoom(session, demo.assets, cache);
    const Session offered = line->remedy->applied(session);
    const auto taken = std::find_if(ways.ways.begin(), ways.ways.end(),
                                    [&](const RoomWay& w) { return w.edit.applied(session) == offered; });
    ASSERT_TRUE(taken != ways.ways.end()) << line->remedy->name();
    for (const RoomWay& way : ways.ways) {
      const auto after = *judgedSession(way.edit.applied(session), demo.assets, cache);
      const bool mends = std::none_of(after.begin(), after.end(), [&](const Finding& f) {
        const auto was =
            std::find_if(tried.begin(), tried.end(), [&](const Finding& t) { return t.id == f.id; });
        return f.id == "overlap" ? f.verdict != Verdict::Holds
                                 : f.verdict > (was == tried.end() ? Verdict::Holds : was->verdict);
      });
      if (!mends) continue;
      ++choices;
      EXPECT_TRUE(taken->reaches);
      EXPECT_LE(taken->cost.sum(), way.cost.sum()) << line->remedy->name() << " against " << way.name;
    }
  }
  EXPECT_GE(choices, 2) << "there was something to choose from";
}

// What triggers where the kick does is the pair's ducking, whatever its source: a way replaces it, and other
// triggers stay.
TEST(Ways, ASilentCopyOfTheKickIsLeftOut) {
  const demo::Demo& demo = theDemo();
  StepCache cache;
  const auto plain = *waysToMakeRoom(demo.session, demo.assets, cache);
  Session s = demo.session;
  Duck copy;
  copy.id = 7, copy.on = true, copy.source.kind = TriggerKind::Drawn, copy.target.part = s.bass().id;
  copy.curve.depthDb = 5.0;
  for (const Hit& h : s.kick().hits) copy.source.hits.push_back({h.startQuarters + 0.004, h.velocity});
  Duck between = copy;
  between.id = 8;
  for (TriggerHit& h : between.source.hits) h.startQuarters += 0.5;
  s.ducks.push_back(copy);
  const auto found = waysToMakeRoom(s, demo.assets, cache);
  ASSERT_TRUE(found);
  EXPECT_EQ(found->beforeDb, plain.beforeDb) << "judged without it";
  for (const RoomWay& way : found->ways) EXPECT_FALSE(way.edit.applied(s).duck(7)->on) << way.name;
  s.ducks.push_back(between);
  const auto beside = waysToMakeRoom(s, demo.assets, cache);
  ASSERT_TRUE(beside);
  for (const RoomWay& way : beside->ways) {
    EXPECT_FALSE(way.edit.applied(s).duck(7)->on) << way.name;
    EXPECT_TRUE(way.edit.applied(s).duck(8)->on) << way.name;
  }
}

// A drawn ducking of the pair keeps its shape in the way of its kind, at another depth.
TEST(Ways, ADrawnDuckingKeepsItsShape) {
  const demo::Demo& demo = theDemo();
  Session s = demo.session;
  s.duck().on = true, s.duck().curve.depthDb = 1.0;
  s.duck().curve.release = TimeValue::milliseconds(217), s.duck().curve.lasts = CurveLasts::AsSet;
  StepCache cache;
  const auto found = waysToMakeRoom(s, demo.assets, cache);
  ASSERT_TRUE(found);
  int kept = 0;
  for (const RoomWay& way : found->ways) {
    if (way.kind != WayKind::Full && way.kind != WayKind::LowBand) continue;
    Duck deeper = s.duck();
    deeper.curve.depthDb = way.edit.applied(s).duck().curve.depthDb;
    const bool same = way.edit.applied(s).duck() == deeper;
    EXPECT_EQ(same, way.kind == WayKind::Full) << way.name;
    kept += same;
  }
  EXPECT_EQ(kept, 1);
}

TEST(Ways, WithoutAKickOrABassItSaysWhy) {
  StepCache cache;
  const auto none = waysToMakeRoom(Session(), Assets(), cache);
  ASSERT_FALSE(none);
  EXPECT_EQ(none.error().kind, ErrorKind::BadUsage);
  // So it does where there is room enough.
  Session quiet = theDemo().session;
  quiet.bass().levelDb = -40;
  const auto needless = waysToMakeRoom(quiet, theDemo().assets, cache);
  ASSERT_FALSE(needless);
  EXPECT_NE(needless.error().reason.find("room at every kick"), std::string::npos) << needless.error().reason;
}

}  // namespace
}  // namespace heft
