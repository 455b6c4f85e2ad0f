// What triggers a ducking, and what a follower makes of it.

#include <gtest/gtest.h>

#include <algorithm>

#include "tests/reference/duck_world.h"

namespace heft {
namespace {

using namespace reference;

// A drum loop of kicks and louder snares whose low end the detection band does not keep out: the lane says that
// the kicks fire, and so it is; at a snare the gain stays where the kick left it.
TEST(Duckings, AFollowerMovesAtTheDrumThatFiresAlone) {
  DuckWorld w = duckWorld();
  std::vector<double> x(static_cast<size_t>(2.0 * kLoopRate), 0.0);
  auto lay = [&](double seconds, double hz, double amplitude, double noiseAmplitude) {
    const auto grain = noise(noiseAmplitude, static_cast<size_t>(0.2 * kLoopRate), static_cast<unsigned>(hz));
    for (size_t i = 0; i < grain.size(); ++i) {
      const double t = static_cast<double>(i) / kLoopRate;
      x[static_cast<size_t>(seconds * kLoopRate) + i] +=
          (amplitude * std::sin(kTwoPi * hz * t) + grain[i]) * std::exp(-t / 0.05);
    }
  };
  for (const double beat : {0.0, 1.0}) lay(beat, 55.0, 0.8, 0.0);
  for (const double beat : {0.5, 1.5}) lay(beat, 190.0, 0.25, 0.25);
  Duck& d = addTo(w.s, Movement::Follower);
  d.source.kind = TriggerKind::Audio, d.source.asset = w.add(bufferOf(x, kLoopRate), "drums.wav");
  d.source.highCutHz = 250.0, d.follower.thresholdDb = -30.0;
  // Set by hand, so that this tests the follower, not the detector.
  for (const double beat : {0.5, 1.5}) d.source.marks.push_back({beat, false});
  const Stems stems = w.rendered();
  std::vector<double> firing;
  for (const LaneHit& hit : stems.ducks[0].hits)
    if (hit.fires()) firing.push_back(hit.frame / kLoopRate);
  ASSERT_EQ(firing.size(), 2u) << "the kicks";
  const auto gain = everyFrame(stems.ducks[0].gain);
  auto deepest = [&](double from, double to) {
    return *std::min_element(gain.begin() + static_cast<ptrdiff_t>(from * kLoopRate),
                             gain.begin() + static_cast<ptrdiff_t>(to * kLoopRate));
  };
  EXPECT_LT(deepest(0.0, 0.1), amplitudeFromDb(-6.0));
  EXPECT_LT(deepest(1.0, 1.1), amplitudeFromDb(-6.0));
  EXPECT_GT(deepest(0.49, 0.8), amplitudeFromDb(-0.5)) << "a snare";
  EXPECT_GT(deepest(1.49, 1.8), amplitudeFromDb(-0.5)) << "a snare";
}

// A note that starts together with a trigger lends it no length: a pedal note held for a bar on another
// pitch.
TEST(Duckings, AMidiNoteThatFiresLastsAsLongAsItSays) {
  DuckWorld w = duckWorld();
  Duck& d = addTo(w.s, Movement::Follower);
  d.source.kind = TriggerKind::Midi;
  d.source.notes = {{0.0, 0.25, 1.0, 36}, {0.0, 4.0, 1.0, 48}};
  d.source.pitches = {36};
  const Stems stems = w.rendered();
  const auto gain = everyFrame(stems.ducks[0].gain);
  EXPECT_LT(gain[static_cast<size_t>(0.1 * kLoopRate)], 0.5f);
  EXPECT_GT(gain[static_cast<size_t>(0.6 * kLoopRate)], 0.99f);
}

// Tied notes are struck once, and a note with an offset of its own where it sounds: so do duckings fire, and so
// do a lane's processors begin.
TEST(Duckings, TiedAndMovedNotesFireWhereTheyAreStruck) {
  DuckWorld w = duckWorld();
  w.s.bass().notes = {{0.0, 1.0, 33, 1.0}, {1.0, 1.0, 35, 0.5}, {3.0, 0.5, 33, 0.7}};
  w.s.bass().notes[0].tie = true;
  w.s.bass().notes[2].move.offsetMs = 20.0;
  Duck& d = addTo(w.s);
  d.source.kind = TriggerKind::Part, d.source.part = w.s.bass().id;
  d.target = {DuckTargetKind::Backing};
  const Stems stems = w.rendered();
  ASSERT_EQ(stems.ducks[0].triggers.size(), 2u);
  EXPECT_EQ(stems.ducks[0].triggers[0].frame, 0.0);
  EXPECT_NEAR(stems.ducks[0].triggers[1].frame, 1.52 * kLoopRate, 1.0);
  EXPECT_EQ(stems.lane(w.s.bass().id)->eventFrames.size(), 2u);
}

}  // namespace
}  // namespace heft
