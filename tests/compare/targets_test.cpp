// Figures taken as targets, bands with edges and tolerances of their own, and who makes a peak.

#include "core/session/edits/targets.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/compare/ceiling.h"
#include "core/compare/section_facts.h"
#include "core/measure/levels/loudness.h"
#include "core/remedies/remedies.h"
#include "core/render/lanes/judged_stretch.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/solve/key_advice.h"
#include "core/solve/peak_makers.h"
#include "core/theory/text.h"
#include "tests/reference/measured.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

std::vector<Finding> linesOf(const Session& s, StepCache& cache) {
  const auto stems = render(s, theDemo().assets, cache);
  const auto facts = study(s, theDemo().assets, *stems, cache);
  return ledger(s, *facts);
}

const Finding* lineIn(const std::vector<Finding>& all, const std::string& id) {
  for (const Finding& f : all)
    if (f.id == id) return &f;
  return nullptr;
}

// A session whose pair ducks, as targets expect it.
Session ducked() {
  Session s = theDemo().session;
  s.references.clear();
  Duck& d = s.duck();
  d.on = true, d.band.kind = DuckBandKind::All;
  d.curve = {.depthDb = 12.0,
             .attack = TimeValue::milliseconds(2.0),
             .hold = TimeValue::milliseconds(40.0),
             .release = TimeValue::milliseconds(60.0)};
  return s;
}

// Each target has a line; the move that it offers, taken alone, brings the figure in.
TEST(Targets, EachIsJudgedAndItsMoveBringsItIn) {
  StepCache cache;
  const std::pair<const char*, std::pair<const char*, double>> targets[] = {
      {"targets.dip_db", {"target-dip", 6.0}},
      {"targets.dip_back_ms", {"target-return", 180.0}},
      {"targets.kick_to_bass_db", {"target-kick-to-bass", 8.0}}};
  for (const auto& [key, line] : targets) {
    SCOPED_TRACE(key);
    Session s = ducked();
    ASSERT_FALSE(lineIn(linesOf(s, cache), line.first)) << "nothing is wanted yet";
    ASSERT_TRUE(putValue(s, {}, key, line.second));
    const auto lines = linesOf(s, cache);
    const Finding* f = lineIn(lines, line.first);
    ASSERT_TRUE(f);
    EXPECT_NE(f->verdict, Verdict::Holds) << f->sentence;
    const bool mends = std::any_of(f->options.begin(), f->options.end(), [&](const Remedy& r) {
      const auto after = linesOf(r.applied(s), cache);
      return lineIn(after, line.first)->verdict == Verdict::Holds;
    });
    EXPECT_TRUE(mends) << f->sentence << " has " << f->options.size() << " moves";
    ASSERT_TRUE(putValue(s, {}, key, f->value));
    EXPECT_EQ(lineIn(linesOf(s, cache), line.first)->verdict, Verdict::Holds) << "at its own figure";
  }
}

TEST(Targets, AreOfTheDocumentAndStaySane) {
  Session s = theDemo().session;
  EXPECT_EQ(sessionToJson(s).find("\"targets\""), std::string::npos) << "not where none is set";
  ASSERT_TRUE(putValue(s, {}, "targets.kick_length_ms", 85.0));
  s = setBandAim({45.0, 70.0, 0.5, -3.0}).applied(s);
  s = setBandAim({20.0, 40.0, 2.5, {}}).applied(s);
  const auto again = sessionFromJson(sessionToJson(s), "again.json");
  ASSERT_TRUE(again);
  EXPECT_EQ(*again, s);
  EXPECT_EQ(comparedBands(s.targets).size(), kBands.size() + 1);
  EXPECT_EQ(comparedBands(s.targets)[0].toleranceDb, 2.5);
  s = moveBandAim(comparedBands(s.targets).back(), {50.0, 80.0}).applied(s);
  EXPECT_EQ(comparedBands(s.targets).back().targetDb, -3.0) << "what was set goes along";
  s = removeBandAim({50.0, 80.0}).applied(s);
  s = removeBandAim({20.0, 40.0}).applied(s);
  EXPECT_TRUE(s.targets.bands.empty());
  // Without a width, or twice: put right as it is read.
  s.targets.bands = {{60.0, 60.0}, {45.0, 70.0}, {45.0, 70.0, 9.0}};
  EXPECT_EQ(sessionFromJson(sessionToJson(s), "odd.json")->targets.bands.size(), 1u);
}

// A band with a target of its own is judged by that, without any reference; its tolerance counts.
TEST(Targets, ABandIsJudgedByItsOwnTargetAndTolerance) {
  StepCache cache;
  Session s = theDemo().session;
  s.references.clear();
  const auto stems = render(s, theDemo().assets, cache);
  const double now = *study(s, theDemo().assets, *stems, cache)->sum.bandReLufs(Band{45.0, 70.0});
  s = setBandAim({45.0, 70.0, 1.0, now - 1.6}).applied(s);
  auto lines = linesOf(s, cache);
  const Finding* f = lineIn(lines, "band-45-70");
  ASSERT_TRUE(f);
  EXPECT_EQ(f->verdict, Verdict::Watch) << f->sentence;
  EXPECT_NEAR(f->value, 1.6, 1e-6);
  EXPECT_NE(f->sentence.find("Bass is 1.6 dB above the target at A1"), std::string::npos) << f->sentence;
  s = setBandAim({45.0, 70.0, 2.0, now - 1.6}).applied(s);
  lines = linesOf(s, cache);
  EXPECT_FALSE(lineIn(lines, "band-45-70"));
}

// Any band's power is the sum of bands that share its edges; the side's share by a sum whose side is known.
TEST(Targets, AnyBandAndAnySideBelow) {
  auto tones = sine(50, 0.3, 4, 48000);
  const auto high = sine(160, 0.1, 4, 48000);
  AudioBuffer wide = bufferOf(tones, 48000, 2);
  for (size_t i = 0; i < high.size(); ++i)
    wide.channels[0][i] += static_cast<float>(high[i]), wide.channels[1][i] -= static_cast<float>(high[i]);
  const LowEnd low = measureLowEnd(wide, true);
  EXPECT_NEAR(dbFromPower(low.powerIn({45.0, 57.0})), dbFromPower(0.09), 0.05)
      << "a sine of 0.3 in two channels";
  EXPECT_NEAR(dbFromPower(low.powerIn({150.0, 170.0})), dbFromPower(0.01), 0.05);
  EXPECT_LT(*low.sideBelowDb(120.0), -60.0);
  EXPECT_NEAR(*low.sideBelowDb(200.0), 20.0 * std::log10(1.0 / 3.0), 0.05);
  EXPECT_FALSE(measureLowEnd(bufferOf(tones, 48000, 1)).sideBelowDb(120.0)) << "one channel has none";
}

// Without a bass a sine: ISO 226:2003 gives 60 phon for 89.96 dB at 50 Hz (its table, from memory). With a
// bass, a lower tonic is quieter, and what a laptop leaves of it is quieter still.
TEST(KeyAdvice, FollowsTheContoursAndTheHeavyOctave) {
  StepCache cache;
  Session s;
  s.track.key = {9, Mode::Minor};
  s.bass().layers.clear();
  s.track.listening.fullScaleDb = 89.96 + 6.02;  // it plays at half of full scale
  const auto plain = keyAdvice(s, {}, cache);
  ASSERT_TRUE(plain);
  ASSERT_EQ(plain->size(), 12u);
  for (const KeyAdvice& k : *plain) {
    EXPECT_GE(k.tonicMidi, 27) << k.key.name();
    EXPECT_LE(k.tonicMidi, 38);
    EXPECT_EQ((k.fifthMidi - k.tonicMidi + 24) % 12, 7);
  }
  EXPECT_NEAR((*plain)[10].tonicPhon, 60.0, 1.5) << "G1, 49 Hz";
  const auto demo = keyAdvice(theDemo().session, theDemo().assets, cache);
  ASSERT_TRUE(demo);
  for (const KeyAdvice& k : *demo) EXPECT_LT(k.tonicLaptopPhon, k.tonicPhon) << k.key.name();
  EXPECT_LT((*demo)[6].tonicPhon, (*demo)[5].tonicPhon) << "Eb1 against D2";
  EXPECT_NEAR(*(*demo)[1].shiftSemitones - *(*demo)[0].shiftSemitones, 1.0, 1e-6);
}

TEST(Swing, IsToldFromTheHitsThatAreLate) {
  std::vector<double> hits;
  const double step = 15.0 / 120.0, swing = 0.6;
  for (int bar = 0; bar < 4; ++bar)
    for (const int at : {0, 3, 4, 7, 8, 10, 13})
      hits.push_back(1.234 + step * (16 * bar + at + (at % 2 ? swing / 3.0 : 0.0)));
  ASSERT_TRUE(swingOf(hits, 120.0));
  EXPECT_NEAR(swingOf(hits, 120.0)->value, swing, 0.05);
  EXPECT_FALSE(swingOf({0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0}, 120.0)) << "nothing stands on a second sixteenth";
}

// Instead of a limiter on every sample: within half a dB of it, on the demo and under more and more gain.
TEST(Ceiling, TheLedgersEstimateIsCloseToTheLimiter) {
  StepCache cache;
  const auto stems = render(theDemo().session, theDemo().assets, cache);
  const AudioBuffer loop = stems->sum.toBuffer(stems->sampleRate);
  const double lufs = *measureLoudness(loop, false)->integratedLufs;
  std::vector<double> hits;
  for (const double frame : stems->hitFrames()) hits.push_back(frame / stems->sampleRate);
  const JudgedStretch where = judgedStretch(stems->sum, stems->sampleRate, cache);
  for (const double gainDb : {2.0, 5.0, 8.0}) {
    const CeilingAsk ask{lufs + gainDb};
    const auto real = underCeiling(loop, true, ask, hits, CeilingLoss::kBodyMs);
    const auto guess = estimatedLoss(ceilingPartsOf(stems->sum, where, cache), ask, real->gainDb,
                                     where.within(stems->hitFrames()));
    ASSERT_TRUE(guess);
    ASSERT_EQ(guess->lostDb.size(), real->hits.size());
    for (size_t i = 0; i < hits.size(); ++i)
      EXPECT_NEAR(guess->lostDb[i], real->hits[i].lostDb, 0.5) << gainDb << " " << i;
  }
}

// Against taking each out by hand: the part that is blamed the most is the one without which the peak is the
// lowest, and the move wins what it says.
TEST(PeakMakers, BlameWhatLowersThePeakTheMostWhenItIsGone) {
  constexpr double kApart = 0.6;  // dB, samples against true peak
  StepCache cache;
  Session s = theDemo().session;
  s.kick().layers.push_back(s.kick().layers.front());
  s.kick().layers.back().id = 2, s.kick().layers.back().levelDb -= 12.0,
  s.kick().layers.back().semitones = 12.0;
  const auto stems = render(s, theDemo().assets, cache);
  const double gainDb = 9.0, ceilingDb = -1.0;
  const auto peaks = peakMakers(s, theDemo().assets, *stems, gainDb, ceilingDb, cache);
  ASSERT_TRUE(peaks && !peaks->empty());
  const auto peakAbout = [&](const Session& of, double seconds) {
    const auto made = render(of, theDemo().assets, cache);
    const AudioBuffer sum = made->sum.toBuffer(made->sampleRate);
    double most = 0.0;
    for (const auto& c : sum.channels)
      for (int i = -140; i <= 140; ++i) {
        const auto n = static_cast<ptrdiff_t>(c.size());
        const auto at = (static_cast<ptrdiff_t>(seconds * made->sampleRate) + i + n) % n;
        most = std::max(most, std::abs(static_cast<double>(c[static_cast<size_t>(at)])));
      }
    return dbFromAmplitude(most);
  };
  double last = 1e9;
  for (const MadePeak& peak : *peaks) {
    EXPECT_LE(peak.overDb, last), last = peak.overDb;
    const double now = peakAbout(s, peak.seconds);
    EXPECT_NEAR(now + gainDb - ceilingDb, peak.overDb, kApart);
    for (const PeakBlame& layer : peak.layers) {
      Session without = s;
      without.part(*layer.part)->layer(*layer.layer)->mute = true;
      EXPECT_NEAR(now - peakAbout(without, peak.seconds), layer.dropDb, kApart) << layer.words;
    }
    Session quietBacking = s;
    quietBacking.backing.mute = true;
    for (const PeakBlame& part : peak.parts)
      if (!part.part) EXPECT_NEAR(now - peakAbout(quietBacking, peak.seconds), part.dropDb, kApart);
    EXPECT_GE(peak.parts.front().dropDb, peak.parts.back().dropDb);
    if (peak.move) EXPECT_NEAR(now - peakAbout(peak.move->applied(s), peak.seconds), peak.winsDb, kApart);
  }
  EXPECT_TRUE(peakMakers(s, theDemo().assets, *stems, -30.0, ceilingDb, cache)->empty());
}

// Of a part with two layers the one that fills the band is named, and its own level is the first move: of the
// bass, and of a part beside the pair that plays the same.
TEST(Ledger, ABandBlamesTheLayerThatFillsIt) {
  for (const bool beside : {false, true}) {
    StepCache cache;
    Session s = theDemo().session;
    s.references.clear();
    if (beside) {
      addPart(9, "Line", Plays::Notes).change(s);
      s.part(9)->layers = s.bass().layers, s.part(9)->notes = s.bass().notes;
      s.part(9)->levelDb = s.bass().levelDb, s.bass().levelDb -= 40.0;
    }
    const int id = beside ? 9 : s.bass().id;
    Part& line = *s.part(id);
    line.layers.front().name = "Low";
    Layer high = line.layers.front();
    high.id = 2, high.name = "High", high.semitones = 12.0, high.levelDb -= 6.0;
    line.layers.push_back(high);
    const auto stems = render(s, theDemo().assets, cache);
    const double now = *study(s, theDemo().assets, *stems, cache)->sum.bandReLufs(Band{45.0, 70.0});
    s = setBandAim({45.0, 70.0, 1.0, now - 2.5}).applied(s);
    const auto lines = linesOf(s, cache);
    const Finding* f = lineIn(lines, "band-45-70");
    ASSERT_TRUE(f);
    EXPECT_EQ(f->sentence,
              std::string(beside ? "Line" : "Bass") + " layer Low is 2.5 dB above the target at A1");
    ASSERT_FALSE(f->options.empty());
    const Session moved = f->options.front().applied(s);
    const Layer &was = *s.part(id)->layer(1), &is = *moved.part(id)->layer(1);
    EXPECT_EQ(f->options.front().label, "Lower Low " + fixedNumber(was.levelDb - is.levelDb, 1) + " dB");
    EXPECT_LT(is.levelDb, was.levelDb);
    EXPECT_EQ(moved.part(id)->layer(2)->levelDb, s.part(id)->layer(2)->levelDb) << "the other one stays";
    const auto after = linesOf(moved, cache);
    const Finding* then = lineIn(after, "band-45-70");
    EXPECT_TRUE(!then || std::abs(then->value) < f->value - 1.0);
  }
}

// Lines that rest on a single figure of the study: they stand where it is bad, and not where it is good.
TEST(Ledger, WidthLimiterAndPhoneHaveLinesOfTheirOwn) {
  StepCache cache;
  const Session s = theDemo().session;
  const auto stems = render(s, theDemo().assets, cache);
  Study plain = *study(s, theDemo().assets, *stems, cache);
  plain.ceiling.reset();
  const auto usual = ledger(s, plain);
  EXPECT_FALSE(lineIn(usual, "ceiling"));
  EXPECT_EQ(lineIn(usual, "low-mono")->verdict, Verdict::Holds);

  // Mono up to 120 Hz, wide at 170: two references that are mono to the top say it is too wide.
  Study wide = plain;
  AudioBuffer sum = bufferOf(sine(60, 0.3, 4, 48000), 48000, 2);
  const auto high = sine(170, 0.2, 4, 48000);
  for (size_t i = 0; i < high.size(); ++i)
    sum.channels[0][i] += static_cast<float>(high[i]), sum.channels[1][i] -= static_cast<float>(high[i]);
  wide.sum.low = measureLowEnd(sum, true);
  const auto narrow = profileSection(bufferOf(noise(0.2, 48000 * 5, 4), 48000, 2));
  ASSERT_TRUE(narrow);
  const MeasuredSection mono{{}, std::make_shared<const SectionProfile>(*narrow)};
  wide.references = {mono};
  auto lines = ledger(s, wide);
  EXPECT_EQ(lineIn(lines, "low-mono")->verdict, Verdict::Holds) << "what one reference has is its own affair";
  wide.references = {mono, mono};
  lines = ledger(s, wide);
  const Finding* f = lineIn(lines, "low-mono");
  EXPECT_EQ(f->verdict, Verdict::Watch);
  EXPECT_NE(f->sentence.find("Wider than the references below 250 Hz"), std::string::npos) << f->sentence;
  EXPECT_FALSE(f->options.empty());

  Study pressed = plain;
  pressed.ceiling = CeilingLoss{-8.0, 6.0, {-3.5, -5.0, -4.0}, -4.0, 1};
  lines = ledger(s, pressed);
  f = lineIn(lines, "ceiling");
  ASSERT_TRUE(f);
  EXPECT_EQ(f->verdict, Verdict::Watch);
  EXPECT_EQ(f->hit, 1) << "the hit that loses the most";
  EXPECT_GE(f->options.size(), 4u);
  pressed.ceiling->medianDb = -2.5;
  EXPECT_FALSE(lineIn(ledger(s, pressed), "ceiling"));

  Study gone = plain;
  ASSERT_FALSE(gone.line.notes.empty());
  for (NoteHeard& n : gone.line.notes) n.phonePhon = s.bass().notes[n.note].midi == 28 ? 4.0 : 30.0;
  gone.pair.bass.phon = 40.0;
  lines = ledger(s, gone);
  f = lineIn(lines, "small-speaker");
  ASSERT_TRUE(f);
  EXPECT_EQ(f->sentence, "Bass note E1 is gone on a phone");
  EXPECT_EQ(f->verdict, Verdict::Watch);
}

// A click that alone makes the kick's peak is told, where the peak matters.
TEST(Ledger, ALayerThatAloneMakesThePeakIsTold) {
  StepCache cache;
  Session s = theDemo().session;
  Layer click = s.kick().layers.front();
  click.id = 2, click.name = "Click";
  s.kick().layers.push_back(click);
  s.kick().layers.front().levelDb -= 10.0;
  Processor cut;
  Eq eq;
  eq.lowCut = {true, 500.0, 24};
  cut.what = eq;
  s.kick().layers.back().chain.list = {cut};
  s.kick().layers.back().levelDb += 18.0;
  const auto lines = linesOf(s, cache);
  const Finding* f = lineIn(lines, "kick-layer-peak");
  ASSERT_TRUE(f);
  ASSERT_GE(f->options.size(), 2u);
  const auto after = linesOf(f->options.front().applied(s), cache);
  const Finding* now = lineIn(after, "kick-layer-peak");
  EXPECT_TRUE(!now || now->value < f->value - 2.0);
}

}  // namespace
}  // namespace heft
