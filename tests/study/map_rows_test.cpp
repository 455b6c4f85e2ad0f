// Rows of Align's map: a hit each while they are few, else together by section and note.

#include "core/looks/map_rows.h"

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
  ASSERT_EQ(single.size(), few->hits.size());
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
      EXPECT_EQ(many->hits[hit].noteMidi, row.noteMidi);
      EXPECT_GE(many->hits[hit].heardDb, many->hits[row.worst].heardDb);
    }
  }
  for (const HitFacts& h : many->hits) met += h.meets();
  EXPECT_EQ(all, met) << "every hit with a bass under it is in one row";
  EXPECT_NEAR(cross, many->all.cross.front(), 1e-9 * std::abs(cross)) << "and all rows are all hits";
}

}  // namespace
}  // namespace heft
