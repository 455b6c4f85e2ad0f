// Sections of the track: made, moved, filled, read from files that say nonsense; and bars as people type them.

#include "core/session/edits/sections.h"

#include "core/solve/excerpt.h"
#include "core/session/edits/track.h"
#include "core/session/pattern.h"
#include "tests/reference/four_parts.h"

namespace heft {
namespace {

Session songOfBars(int bars) {
  Session s = reference::fourParts();
  s.track.song = true, s.track.loopBeats = 4 * bars;
  return s;
}

std::string listed(const Session& s) {
  std::string out;
  for (const TrackSection& t : s.sections)
    out += t.name + " " + std::to_string(static_cast<int>(t.fromQuarters)) + "-" +
           std::to_string(static_cast<int>(t.toQuarters)) + " ";
  return out;
}

TEST(Sections, NeverOverlapAndStayInTheTrack) {
  Session s = songOfBars(16);
  auto put = [&s](const char* name, double from, double to) {
    s = addSection(name, from, to).applied(s);
    for (size_t i = 0; i + 1 < s.sections.size(); ++i)
      EXPECT_LE(s.sections[i].toQuarters, s.sections[i + 1].fromQuarters) << listed(s);
  };
  put("a", 0, 16), put("b", 16, 32);
  EXPECT_EQ(listed(s), "a 0-16 b 16-32 ");
  put("c", 12, 20);
  EXPECT_EQ(listed(s), "a 0-12 c 12-20 b 20-32 ") << "the others make room";
  put("d", 8, 24);
  EXPECT_EQ(listed(s), "a 0-8 d 8-24 b 24-32 ") << "what lies under it goes";
  put("e", 60, 999);
  EXPECT_EQ(s.sections.back().toQuarters, 64.0) << "not beyond the end";
  put("f", 3, 3);
  EXPECT_EQ(s.sections.size(), 4u) << "one without a length is none";
  s = moveSection(s.sections[1].id, 2, 40).applied(s);
  EXPECT_EQ(listed(s), "a 0-8 d 8-24 b 24-32 e 60-64 ") << "neighbours stay";
  EXPECT_EQ(s.sectionAt(8.0)->name, "d");
  EXPECT_EQ(s.sectionAt(50.0), nullptr);
}

TEST(Sections, APatternFillsAnotherSectionAgainAndAgain) {
  Session s = songOfBars(8);
  s.kick().hits = {{0.0, 1.0}, {1.5, 0.5}, {9.0, 0.2}, {30.0, 1.0}};
  s.sections = {{1, "a", 0.0, 4.0}, {2, "b", 8.0, 18.0}};
  s = fillSection(1, 2).applied(s);
  std::vector<double> at;
  for (const Hit& h : s.kick().hits) at.push_back(h.startQuarters);
  EXPECT_EQ(at, (std::vector<double>{0, 1.5, 8, 9.5, 12, 13.5, 16, 17.5, 30}));
}

TEST(Sections, ComeBackFromTheFileInOrderAndNonsenseIsRefused) {
  Session s = songOfBars(8);
  s.sections = {{1, "Intro <b>", 0.0, 8.0}, {2, "", 8.0, 32.0}};
  const auto back = sessionFromJson(sessionToJson(s), "x");
  ASSERT_TRUE(back) << back.error().sentence();
  EXPECT_EQ(back->sections, s.sections);
  EXPECT_TRUE(back->track.song);
  auto with = [](const std::string& sections) {
    return sessionFromJson(R"({"heft_session": 7, "sections": [)" + sections + "]}", "my.json");
  };
  const auto mixed =
      with(R"({"id": 1, "name": "b", "from": 4, "to": 9}, {"id": 1, "name": "a", "from": 0, "to": 6})");
  ASSERT_TRUE(mixed);
  EXPECT_EQ(listed(*mixed), "a 0-4 b 4-9 ") << "in order, one ends where the next begins";
  EXPECT_NE(mixed->sections[0].id, mixed->sections[1].id);
  const auto far = with(R"({"id": 1, "name": "far", "from": 4000, "to": 9000})");
  ASSERT_TRUE(far) << "beyond the end it is kept";
  EXPECT_EQ(far->sections.size(), 1u);
  for (const char* bad : {R"({"id": 1, "from": 8, "to": 4})", R"({"id": 1, "from": -1, "to": 4})",
                          R"({"id": 1, "from": 1e9, "to": 4})", R"({"id": 0, "from": 0, "to": 4})", "7"}) {
    const auto s2 = with(bad);
    ASSERT_FALSE(s2) << bad;
    EXPECT_NE(s2.error().sentence().find("my.json"), std::string::npos);
  }
  EXPECT_FALSE(sessionFromJson(
      R"({"heft_session": 7, "track": {"loop_beats": 3000, "song": true, "tempo_bpm": 60}})", "x"));
  EXPECT_FALSE(sessionFromJson(R"({"heft_session": 7, "track": {"loop_beats": 257}})", "x"));
}

TEST(Positions, AreReadAsTheyAreWritten) {
  Track t;
  t.song = true, t.loopBeats = 800;
  for (double at = 0.0; at < t.loopQuarters(); at += 7.25)
    EXPECT_EQ(parsePosition(positionName(t, at), t).value_or(-1), at);
  EXPECT_EQ(parsePosition("57", t).value_or(-1), 224.0);
  EXPECT_EQ(parsePosition(" 57.3 ", t).value_or(-1), 226.0);
  for (const char* bad : {"", "0", "201", "1.2.3.4", "a", "1..2", "-3", "1e9", "1.0"})
    EXPECT_FALSE(parsePosition(bad, t)) << bad;
}

// What fixes are tried on: eight bars about the most faults, and back without touching what plays.
TEST(Excerpts, AreTheBarsWithTheMostFaultsAndComeBackWhole) {
  Session s = songOfBars(40);
  s.kick().hits.clear();
  for (int beat = 0; beat < 160; ++beat) s.kick().hits.push_back({static_cast<double>(beat), 1.0});
  s.bass().wheel = {{0.0, 0.0}, {160.0, 1.0}};
  s.backing.offsetSeconds = 2.0;
  Finding bad;
  for (int hit = 100; hit < 110; ++hit) bad.hits.push_back({hit, Verdict::Off, -6.0});
  const Excerpt e = excerptOf(s, {bad});
  EXPECT_FALSE(e.session.track.song);
  EXPECT_LE(e.fromQuarters, 100.0);
  EXPECT_GE(e.toQuarters, 110.0);
  EXPECT_EQ(e.toQuarters - e.fromQuarters, 32.0);
  EXPECT_EQ(e.session.kick().hits.size(), 32u);
  EXPECT_EQ(e.session.kick().hits.front().startQuarters, 0.0);
  EXPECT_NEAR(e.session.bass().wheel.front().value, e.fromQuarters / 160.0, 1e-9);
  EXPECT_NEAR(e.session.backing.offsetSeconds, 2.0 + e.fromQuarters * 60.0 / s.track.tempoBpm, 1e-9);
  EXPECT_EQ(carriedBack(s, e, e.session), s);
  Session louder = e.session;
  louder.kick().levelDb = 3.0;
  const Session back = carriedBack(s, e, louder);
  EXPECT_EQ(back.kick().levelDb, 3.0);
  EXPECT_EQ(back.kick().hits, s.kick().hits);
  EXPECT_TRUE(keepsEvents(e.session, louder));
  louder.kick().hits.pop_back();
  EXPECT_FALSE(keepsEvents(e.session, louder));
}

}  // namespace
}  // namespace heft
