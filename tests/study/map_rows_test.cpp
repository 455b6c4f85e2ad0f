// Rows of Align's map: a hit each while they are few, else together by section and note.

#include "core/looks/map_rows.h"

#include "core/judge/ledger.h"
#include "core/session/edits/automation.h"
#include "core/session/versions.h"
#include "core/theory/note.h"
#include "tests/reference/rendered.h"
#include "tests/reference/repeated.h"

namespace heft {
namespace {

using namespace reference;

TEST(MapRows, GroupManyHitsBySectionAndNoteAndAddTheirCurvesUp) {
  StepCache cache;
  Session s = theDemo().session;
  const auto few = study(s, theDemo().assets, rendered(s, cache), cache);
  ASSERT_TRUE(few);
  const auto single = mapRows(s, *few);
  ASSERT_EQ(single.size(), few->pair.hits.size());
  for (size_t i = 0; i < single.size(); ++i) EXPECT_EQ(single[i].hits, std::vector<size_t>{i});
  repeatAsSong(s, 12);
  s.sections = {{1, "Intro", 0.0, 16.0}, {2, "Drop", 16.0, 64.0}};
  const auto many = study(s, theDemo().assets, rendered(s, cache), cache);
  ASSERT_TRUE(many);
  const auto rows = mapRows(s, *many);
  EXPECT_LT(rows.size(), 20u);
  size_t all = 0, met = 0;
  double cross = 0.0;
  std::set<std::pair<std::string, int>> groups;
  for (const MapRow& row : rows) {
    EXPECT_TRUE(groups.emplace(row.section, row.noteMidi.value_or(-1)).second) << "each group once";
    all += row.hits.size(), cross += row.curve.cross.front();
    for (const size_t hit : row.hits) {
      EXPECT_EQ(many->pair.hits[hit].noteMidi, row.noteMidi);
      EXPECT_GE(many->pair.hits[hit].heardDb, many->pair.hits[row.worst].heardDb);
    }
  }
  for (const HitFacts& h : many->pair.hits) met += h.meets();
  EXPECT_EQ(all, met) << "every hit with a bass under it is in one row";
  EXPECT_NEAR(cross, many->pair.all.cross.front(), 1e-9 * std::abs(cross)) << "and all rows are all hits";
}

// A semitone up in the drop by its version, and one cent a bar by automation in the intro: each hit's own kick
// and the bass under it, and a line for those off their notes.
TEST(HitSounds, AreThoseOfTheirSectionAndMoment) {
  StepCache cache;
  Session s = theDemo().session;
  repeatAsSong(s, 8);
  addVersion(s.kick(), "Up");
  for (Layer& l : s.kick().layers) l.semitones += 1.0;
  switchVersion(s.kick(), 0);
  s.sections = {{1, "Intro", 0.0, 32.0}, {2, "Drop", 32.0, 64.0}};
  s = versionInSection(2, s.kick().id, "Up").applied(s);
  const auto of = study(s, theDemo().assets, rendered(s, cache), cache);
  ASSERT_TRUE(of);
  size_t up = 0;
  for (const HitFacts& h : of->pair.hits) {
    const bool drop = h.frame / s.track.framesPerQuarter() > 31.9;
    EXPECT_EQ(h.kickSound != nullptr, drop);
    if (h.kickSound && ++up)
      EXPECT_NEAR(1200.0 * std::log2(*h.kickSound->landing.noteHz() / *of->pair.kick.sound->landing.noteHz()), 100.0, 8.0);
    EXPECT_EQ(h.bassSound != nullptr, h.noteMidi && h.noteMidi != of->pair.bass.noteMidi);
    if (h.bassSound) EXPECT_NEAR(midiFromHz(*h.bassSound->landing.noteHz(), 440.0), *h.noteMidi, 0.15);
  }
  ASSERT_GT(up, 0u);
  const auto lines = ledger(s, *of);
  const auto line =
      std::find_if(lines.begin(), lines.end(), [](const auto& f) { return f.id == "kick-key-hits"; });
  ASSERT_NE(line, lines.end());
  EXPECT_EQ(line->verdict, Verdict::Watch);
  EXPECT_EQ(line->hits.size(), up);
  EXPECT_NE(line->sentence.find("in Drop"), std::string::npos) << line->sentence;
  // With nothing chosen there is no such line.
  s.sections[1].parts.clear();
  const auto plain = ledger(s, *study(s, theDemo().assets, rendered(s, cache), cache));
  EXPECT_EQ(std::count_if(plain.begin(), plain.end(), [](const auto& f) { return f.id == "kick-key-hits"; }),
            0);
}

}  // namespace
}  // namespace heft
