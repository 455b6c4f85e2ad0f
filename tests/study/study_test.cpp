// What is measured on a rendered session, held against the lanes themselves.

#include "core/study/study.h"

#include <gtest/gtest.h>

#include <algorithm>

#include "core/judge/ledger.h"
#include "core/looks/compare_curves.h"
#include "core/sound/audio_file.h"
#include "core/sound/filter.h"
#include "scenario/make_demo.h"
#include "tests/reference/measured.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

struct Studied {
  Session session;
  Stems stems;
  Study study;
};

Studied studied(const Session& s) {
  static StepCache cache;
  Studied out{s, *render(s, theDemo().assets, cache), {}};
  out.study = *study(s, theDemo().assets, out.stems, cache);
  return out;
}

std::vector<double> laneFrom(const Signal& stem, double frame, size_t count) {
  const auto x = stem.read(0, static_cast<int64_t>(frame), count);
  return {x.begin(), x.end()};
}

double lowEnergy(const std::vector<double>& x, double highHz) {
  double sum = 0;
  for (double v : bandLimited(x, 48000, 20, highHz)) sum += v * v;
  return sum;
}

// The level that Align promises for a delay is the level that the moved lane has once it is rendered.
TEST(Study, ThePromisedLevelIsReached) {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  const auto before = studied(s);
  s.bass().align.delayMs = before.study.pair.best.delayMs;
  s.bass().align.invert = before.study.pair.best.invert;
  const auto after = studied(s);
  EXPECT_NEAR(after.study.pair.alignedDb, before.study.pair.best.afterDb, 1e-6);
  EXPECT_GT(after.study.pair.alignedDb, before.study.pair.alignedDb + 0.5);
  // And on the sound itself: kick plus moved bass holds more low energy over the hits than kick plus unmoved
  // bass.
  double still = 0, moved = 0;
  for (double hit : after.stems.hitFrames()) {
    const auto kick = laneFrom(after.stems.kick(), hit, 9600),
               a = laneFrom(after.stems.bassPlaced(), hit, 9600), b = laneFrom(after.stems.bass(), hit, 9600);
    std::vector<double> x(9600), y(9600);
    for (size_t i = 0; i < x.size(); ++i) x[i] = kick[i] + a[i], y[i] = kick[i] + b[i];
    still += lowEnergy(x, 150), moved += lowEnergy(y, 150);
  }
  EXPECT_GT(moved, still);
}

// A sum that is its only reference is level with it, whatever it is; parts are below the sum.
TEST(Study, CurvesStandAgainstTheMedianOrUnderTheHighest) {
  Study own = studied(theDemo().session).study;
  own.references = {measuredAs(own.sum)};
  using Of = CompareCurve::Of;
  for (const CompareCurve& c : compareCurves(own, true)) {
    if (c.of == Of::Sum || c.of == Of::Reference)
      for (double db : c.db) EXPECT_NEAR(db, 0.0, 1e-9);
    else
      EXPECT_LT(*std::max_element(c.db.begin(), c.db.end()), 3.0);
  }
  for (const CompareCurve& c : compareCurves(own, false))
    EXPECT_LE(*std::max_element(c.db.begin(), c.db.end()), 0.0);
  // A part that fills a band is there too, one that is under kick and bass everywhere is not.
  auto quiet = own.pair.kick.low;
  for (double& power : quiet.bandPower) power = 0.0;
  own.others = {{.part = 7, .low = own.sum.low}, {.part = 8, .low = quiet}};
  std::vector<int> parts;
  for (const CompareCurve& c : compareCurves(own, true))
    if (c.part) parts.push_back(*c.part);
  EXPECT_EQ(parts, std::vector<int>{7});
  EXPECT_GT(*own.kickToBassDb(), -20.0);
  EXPECT_FALSE(Study().kickToBassDb());
}

TEST(Study, TheBassUnderTheKickIsMeasuredAfterDucking) {
  Session s = theDemo().session;
  const auto open = studied(s);
  s.duck().on = true;
  s.duck().curve.depthDb = 12;
  s.duck().curve.hold = TimeValue::milliseconds(120);
  const auto ducked = studied(s);
  for (size_t i = 0; i < open.study.pair.hits.size(); ++i) {
    if (open.study.pair.hits[i].noteMidi < 0) continue;
    // Held down for longer than the kick's body: twelve decibels less, but for the attack.
    EXPECT_NEAR(*open.study.pair.hits[i].bassReKickDb - *ducked.study.pair.hits[i].bassReKickDb, 12.0, 1.0) << i;
  }
}

// A shorter tail is judged over as much kick as before: what it loses counts, and no less of the bass.
TEST(Study, TheBodyIsTheKicksBeforeAnyTrim) {
  const Session whole = theDemo().session;
  Session cut = whole;
  cut.kick().layers[0].recorded()->length = TimeValue::milliseconds(60);
  StepCache cache;
  const SoundSteps steps(theDemo().assets, cache, whole.track.sampleRate);
  const auto body = steps.kickBodySeconds(whole.kick(), whole.track);
  ASSERT_TRUE(body);
  EXPECT_GE(*body, 0.05);
  EXPECT_EQ(steps.kickBodySeconds(cut.kick(), cut.track), body);
  const auto before = studied(whole), after = studied(cut);
  EXPECT_GT(*after.study.pair.hits[2].bassReKickDb, *before.study.pair.hits[2].bassReKickDb);
  // A built kick that is as short from the start is judged as one of 250 ms.
  Part built;
  built.layers.emplace_back();
  built.layers[0].what = KickVoice();
  const auto usual = steps.kickBodySeconds(built, whole.track);
  built.layers[0].kickVoice()->length = TimeValue::milliseconds(60);
  EXPECT_EQ(steps.kickBodySeconds(built, whole.track), usual);
}

TEST(Study, HitsKnowTheirNotesAndGaps) {
  Session s = theDemo().session;
  const auto one = studied(s);
  ASSERT_EQ(one.study.pair.hits.size(), 8u);
  EXPECT_EQ(one.study.pair.hits[0].noteMidi, 33);
  EXPECT_EQ(one.study.pair.hits[3].noteMidi, 36);
  EXPECT_EQ(one.study.pair.hits[5].noteMidi, std::nullopt) << "nothing sounds in the sixteenth after the sixth hit";
  // The next note starts a sixteenth after it: 122.95 ms at 122 BPM.
  ASSERT_TRUE(one.study.pair.hits[5].nextNoteGapMs);
  EXPECT_NEAR(*one.study.pair.hits[5].nextNoteGapMs, 15000.0 / 122, 0.01);
  // A note that starts 5 ms before the loop's end meets the first hit.
  const double loop = s.track.loopQuarters();
  s.bass().notes = {{loop - 0.005 * s.track.tempoBpm / 60.0, 1.0, 40, 1.0}};
  const auto over = studied(s);
  EXPECT_EQ(over.study.pair.hits[0].noteMidi, 40);
  EXPECT_EQ(over.study.pair.hits[1].noteMidi, std::nullopt);
  s.bass().notes.clear();
  const auto none = studied(s);
  for (const HitFacts& h : none.study.pair.hits) EXPECT_FALSE(h.nextNoteGapMs);
  EXPECT_FALSE(none.study.pair.all.overlap);
}

// Bounds the cost of a session: hits beyond two on every sixteenth of 64 bars play but are not judged, and
// the Ledger says so.
TEST(Study, OfVeryManyHitsTheFirstAreJudged) {
  Session s = theDemo().session;
  s.kick().hits.clear();
  constexpr size_t kHits = 2100;
  for (size_t i = 0; i < kHits; ++i)
    s.kick().hits.push_back(
        {s.track.loopQuarters() * static_cast<double>(i) / kHits, 0.2 + 0.0002 * static_cast<double>(i)});
  const auto result = studied(s);
  EXPECT_EQ(result.stems.hitFrames().size(), kHits);
  EXPECT_EQ(result.study.pair.hits.size(), kMostJudgedHits);
  EXPECT_EQ(result.study.pair.hitsInLoop, kHits);
  const auto lines = ledger(s, result.study);
  const auto said =
      std::find_if(lines.begin(), lines.end(), [](const Finding& f) { return f.id == "hits-judged"; });
  ASSERT_NE(said, lines.end());
  EXPECT_EQ(said->sentence, "The first 2048 of 2100 hits are judged");
  for (const Finding& f : ledger(theDemo().session, studied(theDemo().session).study))
    EXPECT_NE(f.id, "hits-judged");
}

TEST(Study, TheSumIsJudgedAsOneLoop) {
  const auto one = studied(theDemo().session);
  const auto whole = measureProgramme(one.stems.sum.toBuffer(48000), true);
  EXPECT_NEAR(*one.study.sum.integratedLufs, *whole->integratedLufs, 1e-9);
  EXPECT_TRUE(one.study.hasBacking);
  EXPECT_EQ(one.study.references.size(), 3u);
  // Total power of the lanes' figures is that of the lanes.
  double kick = 0;
  for (size_t i = 0; i < one.stems.frames; ++i)
    kick += 2.0 * std::pow(one.stems.kick().at(0, i), 2) / static_cast<double>(one.stems.frames);
  EXPECT_NEAR(10 * std::log10(one.study.pair.kick.low.totalPower / kick), 0.0, 1e-3);
}

TEST(Study, ATrimmedKickKeepsTheLandingOfTheWholeOne) {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  const auto whole = studied(s);
  for (const char* length : {"1/16", "1/32", "60 ms"}) {
    s.kick().layers[0].recorded()->length = *parseTime(length);
    const auto cut = studied(s);
    ASSERT_TRUE(cut.study.pair.kick.sound->landing.hz);
    EXPECT_EQ(*cut.study.pair.kick.sound->landing.hz, *whole.study.pair.kick.sound->landing.hz) << length;
    EXPECT_LT(cut.study.pair.kick.sound->tailMs, whole.study.pair.kick.sound->tailMs);
  }
}

// A glide that is cut short has its note where it is loudest in what is left, and never loses it by the cut.
TEST(Study, ATrimmedSlideIsHeardOnWhatIsLeftOfItsPath) {
  std::vector<double> x(static_cast<size_t>(0.6 * 48000));
  double phase = 0;
  auto hzAt = [](double t) { return 98.0 * std::exp2(-1.2 * t); };
  for (size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / 48000;
    x[i] = 0.7 * std::min(1.0, t / 0.001) * std::exp(-3.0 * t) * std::sin(phase);
    phase += kTwoPi * hzAt(t) / 48000;
  }
  Assets assets;
  Session s;
  Layer layer;
  layer.what.emplace<Recorded>().asset = assets.add(
      *decodeSound(*encodeSound(bufferOf(x, 48000), SampleFormat::WavFloat), "slide.wav"), "slide.wav");
  s.kick().layers = {layer};
  StepCache cache;
  const SoundSteps steps(assets, cache, 48000);
  const auto whole = steps.kickFacts(s.kick(), s.track);
  ASSERT_TRUE(whole->landing.slides());
  for (const char* length : {"300 ms", "150 ms", "80 ms", "50 ms"}) {
    s.kick().layers[0].recorded()->length = *parseTime(length);
    const auto cut = steps.kickFacts(s.kick(), s.track);
    ASSERT_TRUE(cut->landing.slides()) << length;
    const double end = std::stod(length) / 1000;
    EXPECT_GE(*cut->landing.heardHz, hzAt(end) - 0.5) << length;
    EXPECT_LE(*cut->landing.heardHz, 98.5) << length;
    EXPECT_LE(cut->landing.slideCents, whole->landing.slideCents + 1) << length;
  }
}

TEST(Study, WhatIsMissingIsLeftOut) {
  Session s = theDemo().session;
  s.bass().layers[0].recorded()->asset.hash = std::string(32, '0');
  s.references[1].asset.hash = std::string(32, '1');
  const auto torn = studied(s);
  EXPECT_FALSE(torn.study.pair.bass.sound);
  EXPECT_FALSE(torn.study.references[1]);
  EXPECT_TRUE(torn.study.references[2]);
  EXPECT_TRUE(torn.study.pair.kick.sound);
  for (size_t i = 0; i < torn.stems.frames; i += 101) ASSERT_EQ(torn.stems.bass().at(0, i), 0.0f);
}

// The band in which a landing is looked for chooses between two resting tones.
TEST(Study, TheBandChoosesTheTone) {
  auto x = sine(52, 0.5, 0.8, 48000);
  const auto high = sine(190, 0.4, 0.8, 48000, 0.5);
  for (size_t i = 0; i < x.size(); ++i)
    x[i] = (x[i] + high[i]) * std::exp(-4.0 * static_cast<double>(i) / 48000);
  const auto sound = bufferOf(x, 48000);
  EXPECT_NEAR(*measureSound(sound, {30, 100}).landing.hz, 52, 0.2);
  EXPECT_NEAR(*measureSound(sound, {120, 300}).landing.hz, 190, 0.5);
}

}  // namespace
}  // namespace heft
