// The contour of bass notes: computed by hand from its points, and as rendered.

#include "core/voices/contour.h"

#include <gtest/gtest.h>

#include "core/render/lanes/bounce.h"
#include "core/session/edits/contour.h"
#include "core/session/settle.h"
#include "core/study/study.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

Contour drawn() {
  Contour c;
  c.on = true;
  c.points = {{TimeValue::milliseconds(10), 3.0, 0.0},
              {TimeValue::milliseconds(60), -9.0, 0.0},
              {TimeValue::note(1, 8), -6.0, 0.0}};  // 250 ms at 120
  c.release = TimeValue::milliseconds(40);
  return c;
}

double gainOf(double db) {
  return std::pow(10.0, db / 20.0);
}

// Straight in decibels between points, a raised cosine from silence and to it: worked out by hand.
TEST(Contours, PassThroughTheirPoints) {
  const ContourGain g(drawn(), 120.0, 0.4);
  EXPECT_EQ(g.at(-0.001), 0.0);
  EXPECT_EQ(g.at(0.0), 0.0);
  EXPECT_NEAR(g.at(0.005), 0.5 * gainOf(3), 1e-9) << "half way up the rise";
  EXPECT_NEAR(g.at(0.010), gainOf(3), 1e-9);
  EXPECT_NEAR(g.at(0.035), gainOf(-3), 1e-9);
  EXPECT_NEAR(g.at(0.060), gainOf(-9), 1e-9);
  EXPECT_NEAR(g.at(0.155), gainOf(-7.5), 1e-9) << "a note value follows the tempo";
  EXPECT_NEAR(g.at(0.39), gainOf(-6), 1e-9);
  EXPECT_NEAR(g.at(0.42), 0.5 * gainOf(-6), 1e-9) << "half way down the release";
  EXPECT_NEAR(g.at(0.4401), 0.0, 1e-12);
  EXPECT_NEAR(ContourGain(drawn(), 60.0, 2.0).at(0.28), gainOf(-7.5), 1e-9);
  // No step is larger than a smooth movement makes it.
  for (double t = 0.0; t < 0.45; t += 1e-4) EXPECT_LT(std::abs(g.at(t + 1e-4) - g.at(t)), 0.025) << t;
  Contour half = drawn();
  half.amount = 0.5;
  EXPECT_NEAR(ContourGain(half, 120.0, 0.4).at(0.060), gainOf(-4.5), 1e-9);
  half.amount = 0.0;
  EXPECT_EQ(ContourGain(half, 120.0, 0.4).at(0.060), 1.0);
  // A tempo that moves a note value ahead of the previous point does not reverse time.
  Contour crossed = drawn();
  crossed.points[2].at = TimeValue::note(1, 64);
  const ContourGain fast(crossed, 200.0, 0.4);
  EXPECT_EQ(fast.pointSeconds(2), fast.pointSeconds(1));
  EXPECT_NEAR(fast.at(0.07), gainOf(-6), 1e-9);
  Contour bent = drawn();
  bent.points[0].bend = 0.5;
  EXPECT_LT(ContourGain(bent, 120.0, 0.4).at(0.035), gainOf(-6)) << "goes early";
}

// The demo's 808 and a built bass on four notes, two of them tied.
Session aLine(bool built) {
  Session s = theDemo().session;
  s.track.tempoBpm = 120.0;
  s.ducks.front().on = false;
  if (built) s.bass().layers[0].what = BassVoice();
  s.bass().notes = {{0, 1, 33}, {2, 0.5, 36}, {3, 1, 33}, {4, 1, 40}};
  s.bass().notes[2].tie = true;
  s.bass().wheel.clear();
  return s;
}

// Every note is its own sound times the gain from its own start; tied notes are one. Silent outside the
// gain's reach.
TEST(Contours, BeginAnewWithEachNote) {
  for (const bool built : {false, true}) {
    StepCache cache;
    const Session plain = aLine(built);
    Session s = plain;
    s.bass().contour = drawn();
    const Stems was = rendered(plain, cache), is = rendered(s, cache);
    const double rate = was.sampleRate;
    for (const auto& [startQuarters, heldSeconds] : {std::pair(0.0, 0.5), {2.0, 0.25}, {3.0, 1.0}}) {
      const ContourGain g(drawn(), 120.0, heldSeconds);
      const auto first = static_cast<size_t>(std::lround(startQuarters * 0.5 * rate));
      double worst = 0.0, loud = 0.0;
      // A recorded note is cut at its end, not at its release.
      const auto count = static_cast<size_t>((heldSeconds - 0.013) * rate);
      for (size_t i = 0; i < count; ++i) {
        const double x = was.bassPlaced().at(0, first + i);
        worst = std::max(worst,
                         std::abs(is.bassPlaced().at(0, first + i) - x * g.at(static_cast<double>(i) / rate)));
        loud = std::max(loud, std::abs(x));
      }
      EXPECT_GT(loud, 0.05);
      EXPECT_LT(worst, 1e-5) << built << " " << startQuarters;
    }
    // A recording rings on during the release; then it is silent.
    const auto end = static_cast<size_t>(0.5 * rate);
    double after = 0.0, gone = 0.0;
    for (size_t i = 0; i < static_cast<size_t>(0.02 * rate); ++i) {
      after = std::max(after, std::abs(static_cast<double>(is.bassPlaced().at(0, end + i))));
      gone = std::max(
          gone,
          std::abs(static_cast<double>(is.bassPlaced().at(0, end + i + static_cast<size_t>(0.045 * rate)))));
    }
    EXPECT_GT(after, 0.01) << built;
    EXPECT_EQ(gone, 0.0) << built;
    ASSERT_TRUE(is.lanes[is.bassLane].contour);
    EXPECT_FALSE(was.lanes[was.bassLane].contour);
    const ContourLine& line = *is.lanes[is.bassLane].contour;
    ASSERT_EQ(line.notes().size(), 3u);
    EXPECT_EQ(line.at(0.3), ContourGain(drawn(), 120.0, 0.5).at(0.3));
    EXPECT_EQ(line.at(1.26), ContourGain(drawn(), 120.0, 0.25).at(0.26));
    EXPECT_NEAR(line.at(2.2), ContourGain(drawn(), 120.0, 1.0).at(0.7), 1e-12) << "tied notes are one";
    EXPECT_EQ(line.at(0.8), 0.0) << "between two";
  }
}

// A sustain 6 dB down on a steady tone: what is saved and that the peak holds, recomputed from the samples.
TEST(Contours, SayWhatTheySave) {
  Session s = aLine(true);
  s.track.loopBeats = 1;
  s.bass().notes = {{0, 0.9, 33}};
  StepCache cache;
  const Assets& assets = theDemo().assets;
  const Stems was = rendered(s, cache);
  s.bass().contour = drawn();
  s.bass().contour.points = {{TimeValue::milliseconds(0), 0.0, 0.0}, {TimeValue::milliseconds(80), -6.0, 0.0}};
  const Stems is = rendered(s, cache);
  const auto studied = study(s, assets, is, cache);
  ASSERT_TRUE(studied);
  const ContourFacts* facts = studied->contourOf(s.bass().id);
  ASSERT_TRUE(facts);
  auto samples = [](const Signal& lane) {
    std::vector<double> out;
    for (size_t i = 0; i < lane.frames(); ++i) out.push_back(lane.at(0, i));
    return out;
  };
  auto lows = [&](const Stems& of) {
    auto x = samples(of.bassPlaced());
    return directBandPower(x, of.sampleRate, 1.0, 120.0);
  };
  EXPECT_NEAR(facts->savedDb, 10 * std::log10(lows(was) / lows(is)), 0.1);
  EXPECT_GT(facts->savedDb, 2.0);
  EXPECT_GT(facts->peakDb, -1.5) << "the peak holds";
  EXPECT_LE(facts->peakDb, 0.01);
  s.bass().contour.on = false;
  EXPECT_FALSE(study(s, assets, rendered(s, cache), cache)->contourOf(s.bass().id));
}

// A bounce contains no contour: it acts on the bounced sound as before.
TEST(Contours, ActOnceOnWhatIsBounced) {
  Session s = aLine(true);
  s.bass().contour = drawn();
  s.bass().notes = {{0, 1, 33}};
  StepCache cache;
  Assets assets = theDemo().assets;
  const Stems before = *render(s, assets, cache);
  const auto bounce = bounced(s, assets, s.bass().id, {}, cache);
  ASSERT_TRUE(bounce);
  const AssetRef file = assets.add(*decodeSound(bounce->bytes, bounce->fileName), bounce->fileName);
  const Stems after = *render(bounce->edit(file).applied(s), assets, cache);
  double worst = 0.0, loud = 0.0;
  for (size_t i = 0; i < static_cast<size_t>(0.49 * before.sampleRate); ++i) {
    worst = std::max(worst,
                     std::abs(static_cast<double>(before.bassPlaced().at(0, i)) - after.bassPlaced().at(0, i)));
    loud = std::max(loud, std::abs(static_cast<double>(before.bassPlaced().at(0, i))));
  }
  EXPECT_LT(worst, 0.02 * loud);
}

TEST(Contours, AreEditedPointByPoint) {
  Session s = aLine(false);
  auto& c = s.bass().contour;
  auto apply = [&](const Edit& edit) { edit.change(s); };
  apply(moveContourPoint(s.bass(), 0, TimeValue::milliseconds(400), 2.04));
  EXPECT_TRUE(c.on);
  EXPECT_EQ(c.points[0].at, TimeValue::note(1, 8)) << "not past the one that follows, whatever its tempo";
  EXPECT_EQ(c.points[0].db, 2.0);
  apply(moveContourPoint(s.bass(), 0, TimeValue::note(1, 32), 40.0));
  EXPECT_EQ(c.points[0].at, TimeValue::note(1, 32)) << "a note value stays one";
  EXPECT_EQ(c.points[0].db, kMostContourDb);
  apply(placeContourPoint(s.bass(), TimeValue::milliseconds(100), -12));
  ASSERT_EQ(c.points.size(), 3u);
  EXPECT_EQ(c.points[1].db, -12.0);
  apply(bendContour(s.bass(), 1, 3.0));
  EXPECT_EQ(c.points[1].bend, 1.0);
  apply(setContourSustain(s.bass(), -80));
  EXPECT_EQ(c.points[2].db, kLeastContourDb);
  apply(setContourFall(s.bass(), TimeValue::milliseconds(20)));
  EXPECT_EQ(c.points[2].at.toMs(120), 100.0);
  apply(removeContourPoint(s.bass(), 1));
  apply(removeContourPoint(s.bass(), 1));
  EXPECT_EQ(c.points.size(), 2u) << "peak and sustain stay";
  apply(moveContourPoint(s.bass(), 9, TimeValue::milliseconds(1), 0));
  for (size_t i = 0; i < 2 * kMostContourPoints; ++i)
    apply(placeContourPoint(s.bass(), TimeValue::milliseconds(10.0 * static_cast<double>(i)), 0));
  EXPECT_EQ(c.points.size(), kMostContourPoints);
  Contour none;
  none.points.resize(1);
  settle(none);
  EXPECT_EQ(none.points, Contour().points);
}

// A one-shot has it up to its sustain and rings out by itself; Before bypasses it; a part beside the pair has
// its own.
TEST(Contours, AreInOneShotsAndOfAnyPartThatPlaysNotes) {
  Session s = aLine(false);
  StepCache cache;
  const SoundSteps steps(theDemo().assets, cache, s.track.sampleRate);
  const Keyed plain = steps.bassNote(s.bass(), s.track, 33);
  s.bass().contour = drawn();
  const Keyed with = steps.bassNote(s.bass(), s.track, 33);
  ASSERT_EQ(with.sound->frames(), plain.sound->frames());
  const ContourGain g(drawn(), 120.0, 2.0, false);
  for (const double at : {0.004, 0.05, 0.2, 0.8, 1.4}) {
    const auto i = static_cast<size_t>(at * plain.sound->sampleRate);
    EXPECT_NEAR(with.sound->channels[0][i],
                plain.sound->channels[0][i] * g.at(static_cast<double>(i) / plain.sound->sampleRate), 1e-6)
        << at;
  }
  EXPECT_EQ(rendered(withoutMoves(s, MovesOf::Sounds), cache).bassPlaced().key(),
            rendered(withoutMoves(aLine(false), MovesOf::Sounds), cache).bassPlaced().key());
  // Another part on the same notes, with a contour where the bass has none.
  Session other = aLine(true);
  Part mid = other.bass();
  mid.id = 7, mid.role = "mid bass", mid.contour = drawn();
  other.parts.push_back(mid);
  const Stems stems = rendered(other, cache);
  const Lane &bass = stems.lanes[stems.bassLane], &beside = *stems.lane(7);
  ASSERT_TRUE(beside.contour && !bass.contour);
  const auto early = static_cast<size_t>(0.06 * stems.sampleRate);
  EXPECT_NEAR(beside.placed.at(0, early), bass.placed.at(0, early) * gainOf(-9), 2e-4);
  const auto facts =
      contourFacts(other, SoundSteps(theDemo().assets, cache, stems.sampleRate), stems, cache, {});
  ASSERT_EQ(facts.size(), 1u);
  EXPECT_EQ(facts[0].part, 7);
}

}  // namespace
}  // namespace heft
