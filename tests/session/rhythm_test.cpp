// Timing and velocity: legato, shorter notes, seeded variations, a copied rhythm; recorded hits.

#include "core/session/edits/rhythm.h"

#include <gtest/gtest.h>

#include "core/session/edits/parts.h"
#include "core/session/edits/patterns.h"
#include "core/session/pattern.h"

namespace heft {
namespace {

Session line() {
  Session s;
  s.track.loopBeats = 8;
  s.bass().notes = {{0.5, 0.25, 33, 0.9}, {2.0, 0.5, 36, 0.6}, {5.0, 1.0, 31, 0.8}};
  s.kick().hits = {{0, 1}, {1.5, 0.7}, {4, 1}, {6.25, 0.4}};
  Layer second = recordedLayer({std::string(32, 'a'), "a.wav"});
  s.kick().layers = {second, second};
  s.kick().layers[1].id = 2;
  return s;
}

TEST(Rhythm, LegatoReachesTheNextNoteRoundTheLoop) {
  const Session s = playLegato(line().bass()).applied(line());
  EXPECT_EQ(s.bass().notes[0].lengthQuarters, 1.5);
  EXPECT_EQ(s.bass().notes[1].lengthQuarters, 3.0);
  EXPECT_EQ(s.bass().notes[2].lengthQuarters, 3.5) << "until the first comes round";
  const Session shorter = shortenNotes(s.bass(), 0.25).applied(s);
  EXPECT_EQ(shorter.bass().notes[1].lengthQuarters, 2.75);
  EXPECT_EQ(shortenNotes(s.bass(), 99).applied(s).bass().notes[0].lengthQuarters, 1.0 / 32);
  EXPECT_EQ(playLegato(line().kick()).applied(line()), line()) << "hits have no lengths";
}

TEST(Rhythm, VariationsAreTheSameFromTheSameSeedAndStayInOrder) {
  const Session s = line();
  const PatternRange all{0.0, 8.0};
  const Session once = varyRange(all, 0.2, 400, 7).applied(s);
  EXPECT_EQ(varyRange(all, 0.2, 400, 7).applied(s), once);
  EXPECT_NE(varyRange(all, 0.2, 400, 8).applied(s), once);
  const double quarters = 0.4 * s.track.tempoBpm / 60.0;
  for (uint64_t seed = 1; seed < 200; ++seed) {
    const Session v = varyRange(all, 0.2, 400, seed).applied(s);
    for (size_t i = 0; i < s.kick().hits.size(); ++i) {
      const Hit &was = s.kick().hits[i], &is = v.kick().hits[i];
      ASSERT_LE(std::abs(is.startQuarters - was.startQuarters), quarters + 1e-9);
      ASSERT_LE(std::abs(is.velocity - was.velocity), 0.2 + 1e-9);
      ASSERT_TRUE(is.velocity > 0.0 && is.velocity <= 1.0 && is.startQuarters >= 0.0 && is.startQuarters < 8.0);
      if (i > 0) ASSERT_GT(is.startQuarters, v.kick().hits[i - 1].startQuarters);
    }
  }
  // A range and a part leave the rest alone.
  const Session some = varyRange({4.0, 8.0, {s.kick().id}}, 0.2, 10, 3).applied(s);
  EXPECT_EQ(some.bass(), s.bass());
  EXPECT_EQ(some.kick().hits[1], s.kick().hits[1]);
  EXPECT_NE(some.kick().hits[2], s.kick().hits[2]);
  EXPECT_EQ(varyRange(all, 0, 0, 5).applied(s), s);
}

TEST(Rhythm, IsTakenFromAnotherPartOrLayer) {
  const Session s = line();
  const Session hits = copyRhythm(s.bass(), s.kick()).applied(s);
  ASSERT_EQ(hits.kick().hits.size(), 3u);
  EXPECT_EQ(hits.kick().hits[1].startQuarters, 2.0);
  EXPECT_EQ(hits.kick().hits[1].velocity, 0.6);
  const Session notes = copyRhythm(s.kick(), s.bass()).applied(s);
  ASSERT_EQ(notes.bass().notes.size(), 4u);
  EXPECT_EQ(notes.bass().notes[1].midi, 33) << "the pitch that sounded there";
  EXPECT_EQ(notes.bass().notes[2].midi, 36);
  EXPECT_EQ(notes.bass().notes[1].lengthQuarters, 0.5);
  EXPECT_EQ(copyRhythm(s.kick(), s.kick()).applied(s), s);
  Session rests = s;
  rests.kick().hits[1].without = {1}, rests.kick().hits[2].without = {2};
  const Session layers = copyLayerRhythm(rests.kick(), 1, 2).applied(rests);
  EXPECT_EQ(layers.kick().hits[1].without, (std::vector<int>{1, 2}));
  EXPECT_TRUE(layers.kick().hits[2].without.empty()) << "the first plays there";
}

TEST(Rhythm, PlayedHitsTakeTheirPlaceAmongTheOthers) {
  Session s = line();
  s = insertHit(s.kick(), {3.0, 0.5}).applied(s);
  EXPECT_EQ(s.kick().hits.size(), 5u);
  EXPECT_EQ(s.kick().hits[2].startQuarters, 3.0);
  s = insertHit(s.kick(), {3.0, 0.9}).applied(s);
  EXPECT_EQ(s.kick().hits.size(), 5u);
  EXPECT_EQ(s.kick().hits[2].velocity, 0.9);
  EXPECT_EQ(insertHit(s.kick(), {8.0, 0.9}).applied(s), s) << "beyond the loop";
}

}  // namespace
}  // namespace heft
