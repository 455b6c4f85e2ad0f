// Any edits in any order with any numbers leave a session that opens.
#include "core/session/history.h"
#include "core/session/within.h"
#include "tests/reference/random_edits.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

std::vector<AssetRef> someRefs() {
  return {{std::string(32, 'a'), "kick.wav"}, {std::string(32, 'b'), "bass.wav"}};
}

TEST(AnyEdit, LeavesASessionThatOpensAndCanBeUndone) {
  unsigned changes = 0;
  const unsigned seeds = isWatched() ? 10 : 40;
  for (unsigned seed = 1; seed <= seeds; ++seed) {
    const auto first = sessionFromJson(sessionToJson(reference::randomSession(seed, someRefs())), "first.json");
    if (!first) continue;
    reference::RandomEdits edits(seed, someRefs());
    History history(*first);
    for (int i = 0; i < 60; ++i) {
      const Edit edit = edits.next(history.now());
      const Session next = edit.applied(history.now());
      const auto again = sessionFromJson(sessionToJson(next), "again.json");
      ASSERT_TRUE(again) << "seed " << seed << ", edit " << i << ", " << edit.name << ": "
                         << again.error().sentence();
      ASSERT_TRUE(*again == next) << "seed " << seed << ", edit " << i << ", " << edit.name
                                  << " comes back otherwise";
      if (next != history.now()) ++changes, history.apply(edit.name, next);
    }
    while (history.canUndo()) history.undo();
    ASSERT_TRUE(history.now() == *first) << "seed " << seed;
  }
  EXPECT_GT(changes, 25 * seeds);
}

TEST(AnyEdit, HoldsValuesToTheirRanges) {
  Session s;
  s.kick().hits = {{0.0, 1.0}};
  // As ms and as what a note lasts at the tempo: an attack of 5 s at the most, 1/1 at 40 BPM lasts 6.
  s.track.tempoBpm = 40.0;
  const Owner duck{.duck = s.duck().id};
  ASSERT_TRUE(putValue(s, duck, "curve.attack", TimeValue::milliseconds(90'000)));
  EXPECT_EQ(s.duck().curve.attack, TimeValue::milliseconds(5000));
  ASSERT_TRUE(putValue(s, duck, "curve.attack", TimeValue::note(1, 1)));
  EXPECT_EQ(s.duck().curve.attack, TimeValue::milliseconds(5000));
  const Edit loud{"loud", [](Session& x) { x.kick().levelDb = 1e9, x.kick().hits[0].velocity = std::nan(""); }};
  const Session held = loud.applied(s);
  EXPECT_EQ(held.kick().levelDb, kMostLevelDb);
  EXPECT_EQ(held.kick().hits[0].velocity, 0.0);
  // A rule across values that has no nearest value: nothing changes.
  const Edit crossed{"cross", [](Session& x) { x.bass().align.question = {300.0, 20.0, 20.0}; }};
  EXPECT_EQ(crossed.applied(s), s);
}

}  // namespace
}  // namespace heft
