// Layers, finishes and phrases through the one render path.

#include "core/export/export_files.h"
#include "core/judge/ledger.h"
#include "core/render/lanes/render.h"
#include "core/render/sounds/phrases.h"
#include "core/session/versions.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

Layer builtKick(double midi = 33) {
  Layer l;
  l.what.emplace<KickVoice>();
  l.kickVoice()->landingMidi = midi;
  l.id = 2;
  return l;
}

Layer builtBass() {
  Layer l;
  l.what.emplace<BassVoice>();
  l.bassVoice()->partialDb = {0};
  l.bassVoice()->sustainDb = 0;
  return l;
}

// The difference of two lanes over some frames, as RMS.
double differs(const Signal& a, const Signal& b, size_t from, size_t count) {
  double sum = 0;
  for (size_t i = from; i < from + count; ++i) sum += std::pow(a.at(0, i) - b.at(0, i), 2);
  return std::sqrt(sum / static_cast<double>(count));
}

TEST(Layers, PlayOnChosenHitsAndAddUp) {
  Session s = theDemo().session;
  StepCache cache;
  const Stems one = rendered(s, cache);
  s.kick().layers.push_back(builtKick());
  const Stems both = rendered(s, cache);
  Session alone = s;
  alone.kick().layers[0].mute = true;
  const Stems built = rendered(alone, cache);
  for (size_t i = 0; i < one.frames; i += 7)
    ASSERT_NEAR(both.kick().at(0, i), one.kick().at(0, i) + built.kick().at(0, i), 1e-4) << i;
  s.kick().hits[1].without = {2};
  const Stems chosen = rendered(s, cache);
  const auto first = static_cast<size_t>(both.hitFrames()[0]),
             second = static_cast<size_t>(both.hitFrames()[1]);
  EXPECT_EQ(differs(chosen.kick(), both.kick(), first, 4800), 0.0);
  EXPECT_GT(differs(chosen.kick(), both.kick(), second, 4800), 0.01);
  EXPECT_LT(differs(chosen.kick(), one.kick(), second, 2000), 1e-6);
  alone.kick().layers[0].solo = true, alone.kick().layers[0].mute = false;
  EXPECT_LT(differs(rendered(alone, cache).kick(), one.kick(), 0, one.frames), 1e-7)
      << "solo leaves the others out";
}

TEST(Layers, AMissingSoundLeavesTheOthersPlaying) {
  Session s = theDemo().session;
  s.kick().layers.push_back(builtKick());
  Layer lost;
  lost.asset() = {std::string(32, 'f'), "lost.wav"};
  lost.id = 9;
  Session with = s;
  with.kick().layers.insert(with.kick().layers.begin() + 1, lost);
  with.bass().layers.push_back(lost);
  StepCache cache;
  const Stems plain = rendered(s, cache), held = rendered(with, cache);
  EXPECT_EQ(differs(plain.kick(), held.kick(), 0, plain.frames), 0.0);
  EXPECT_EQ(differs(plain.bassPlaced(), held.bassPlaced(), 0, plain.frames), 0.0);
  // Where the first is missing, the rest still lands and is judged.
  with.kick().layers.erase(with.kick().layers.begin());
  const Stems left = rendered(with, cache);
  const auto facts = study(with, theDemo().assets, left, cache);
  ASSERT_TRUE(facts && facts->pair.kick.sound);
  EXPECT_NEAR(midiFromHz(*facts->pair.kick.sound->landing.hz), 33, 0.02);
  EXPECT_FALSE(ledger(with, *facts).empty());
  // A part of nothing but empty layers is silent and harmless.
  with.kick().layers = {Layer{}, lost};
  const Stems none = rendered(with, cache);
  for (size_t i = 0; i < none.frames; i += 100) ASSERT_EQ(none.kick().at(0, i), 0.0f);
  const auto silent = study(with, theDemo().assets, none, cache);
  ASSERT_TRUE(silent);
  EXPECT_FALSE(silent->pair.kick.sound);
  EXPECT_TRUE(silent->pair.hits.empty());
}

TEST(Layers, OnsetsMeetAndOffsetsPart) {
  Session s = theDemo().session;
  s.kick().layers = {builtKick(), builtKick()};
  s.kick().layers[1].id = 3;
  s.kick().layers[1].invert = true;
  StepCache cache;
  EXPECT_EQ(rendered(s, cache).kick().at(0, 500), 0.0f) << "two of the same, one turned over, cancel";
  s.kick().layers[1].offsetMs = -5;
  const Stems early = rendered(s, cache);
  EXPECT_LT(early.kick().at(0, early.frames - 200), 0.0f) << "the early one starts before the beat";
  // Twice as loud as one, by the part's level after a limiter at -12 dB: no louder than that.
  s.kick().layers[1].invert = false, s.kick().layers[1].offsetMs = 0;
  s.kick().finish.put({0, Limiter{true, -12, 50}});
  const Stems held = rendered(s, cache);
  double peak = 0;
  for (size_t i = 0; i < held.frames; ++i) peak = std::max<double>(peak, std::abs(held.kick().at(0, i)));
  EXPECT_LE(peak, std::pow(10, -12 / 20.0) + 1e-6);
  EXPECT_GT(peak, 0.9 * std::pow(10, -12 / 20.0));
}

TEST(Layers, VelocityActsByItsAmounts) {
  Session s = theDemo().session;
  s.kick().layers = {builtKick()};
  s.kick().hits = {{0, 1.0}, {4, 0.5}};
  auto peaks = [&](double toLevel) {
    s.kick().layers[0].kickVoice()->velocityToLevel = toLevel;
    StepCache cache;
    const Stems stems = rendered(s, cache);
    double first = 0, second = 0;
    for (size_t i = 0; i < 20000; ++i) {
      first = std::max<double>(first, std::abs(stems.kick().at(0, i)));
      second =
          std::max<double>(second, std::abs(stems.kick().at(0, i + static_cast<size_t>(stems.hitFrames()[1]))));
    }
    return second / first;
  };
  EXPECT_NEAR(peaks(1.0), 0.5, 1e-6);
  EXPECT_NEAR(peaks(0.4), 0.8, 1e-6);
  EXPECT_NEAR(peaks(0.0), 1.0, 1e-6);
}

TEST(Layers, OverlappingHitsRetriggerWithoutAClick) {
  Session s = theDemo().session;
  s.kick().layers = {builtKick()};
  s.kick().layers[0].kickVoice()->length = TimeValue::milliseconds(2000);
  s.kick().layers[0].kickVoice()->attackMs = 3;
  s.kick().layers[0].kickVoice()->fall = {{0, 12, 0.5}};
  auto highs = [&](std::vector<Hit> hits) {
    s.kick().hits = std::move(hits);
    StepCache cache;
    const AudioBuffer lane = rendered(s, cache).kick().toBuffer(48000);
    const std::vector<double> x(lane.channels[0].begin(), lane.channels[0].end());
    return directBandPower(x, 48000, 2000, 2040);
  };
  const double once = highs({{0, 1}});
  // Eight hits that cut each other's tails make the highs of eight hits, and no more than that twice over.
  std::vector<Hit> eight;
  for (int i = 0; i < 8; ++i) eight.push_back({i * 0.37, 1});
  EXPECT_LT(highs(eight), 16 * once);
}

TEST(Phrases, TiesGlideDivesAndTheWheelAreHeard) {
  Session s = theDemo().session;
  s.bass().layers = {builtBass()};
  s.track.tempoBpm = 120;
  s.bass().notes = {{0, 2, 33, 1, {}, true, {}}, {2, 2, 45, 1}, {4, 2, 33, 1, {}, false, Dive{12, 1, 0.5, 0}}};
  auto frequencies = [&](double from, double to) {
    StepCache cache;
    const AudioBuffer lane = rendered(s, cache).bassPlaced().toBuffer(48000);
    return frequencyByCrossings({lane.channels[0].begin() + static_cast<ptrdiff_t>(from * 48000),
                                 lane.channels[0].begin() + static_cast<ptrdiff_t>(to * 48000)},
                                48000);
  };
  EXPECT_EQ(phrasesOf(s.bass(), s.track).size(), 2u);
  EXPECT_NEAR(frequencies(0.1, 0.99), 55, 0.1);
  EXPECT_NEAR(frequencies(1.1, 1.9), 110, 0.2) << "after the glide";
  EXPECT_NEAR(frequencies(2.05, 2.45), 55, 0.2);
  EXPECT_NEAR(frequencies(2.78, 2.98), 27.5, 0.3) << "an octave down";
  s.bass().wheel = {{0, 0}, {0.5, 1}, {1.9, 1}, {2, 0}};
  s.bass().wheelRange = 2;
  EXPECT_NEAR(frequencies(0.3, 0.9), 55 * std::exp2(2 / 12.0), 0.3) << "two semitones by the wheel";
  s.bass().wheel.clear();
  // A recorded 808 follows the dive by its speed.
  s.bass().layers = theDemo().session.bass().layers;
  EXPECT_NEAR(frequencies(2.1, 2.45) / frequencies(2.78, 2.95), 2.0, 0.03);
}

TEST(Phrases, RecordedNotesKeepTheirLengthWhereAsked) {
  Session s = theDemo().session;
  s.bass().notes = {{0, 7, 40, 1}};
  auto lengthAndPitch = [&](bool keep) {
    s.bass().layers[0].recorded()->keepLength = keep;
    StepCache cache;
    const SoundSteps steps(theDemo().assets, cache, s.track.sampleRate);
    const Keyed note = steps.bassNote(s.bass(), s.track, 40);
    const SoundFacts facts = measureSound(*note.sound);
    return std::pair{note.sound->seconds(), midiFromHz(*facts.landing.hz)};
  };
  const auto [byself, quick] = lengthAndPitch(false);
  const auto [kept, same] = lengthAndPitch(true);
  EXPECT_NEAR(quick, 40, 0.05);
  EXPECT_NEAR(same, 40, 0.05);
  EXPECT_NEAR(kept / byself, std::exp2(7 / 12.0), 0.02) << "seven semitones up by speed are that much shorter";
}

TEST(Phrases, OneVoiceAtATimeWhateverTheRelease) {
  Session s = theDemo().session;
  s.bass().layers = {builtBass()};
  s.bass().layers[0].bassVoice()->releaseMs = 3000;
  s.bass().notes = {{0, 0.5, 33, 1}, {4, 0.5, 45, 1}};
  s.track.tempoBpm = 120;
  StepCache cache;
  const AudioBuffer lane = rendered(s, cache).bassPlaced().toBuffer(48000);
  double ringing = 0;
  for (size_t i = 60000; i < 80000; ++i) ringing = std::max<double>(ringing, std::abs(lane.channels[0][i]));
  EXPECT_GT(ringing, 0.001) << "it rings on after its note";
  const std::vector<float> second(lane.channels[0].begin() + 96500, lane.channels[0].begin() + 107000);
  EXPECT_NEAR(frequencyByCrossings(second, 48000), 110, 0.3) << "and is gone where the next begins";
}

TEST(Phrases, AnEarlyLayerBeginsBeforeTheBeatAndHoldsNoOtherBack) {
  Session s = theDemo().session;
  s.bass().layers = {builtBass()};
  s.bass().notes = {{2, 1, 33, 1}};
  StepCache cache;
  const Stems alone = rendered(s, cache);
  s.bass().layers.push_back(builtBass());
  s.bass().layers[1].id = 2;
  s.bass().layers[1].offsetMs = -10;
  const Stems both = rendered(s, cache);
  s.bass().layers[0].mute = true;
  const Stems early = rendered(s, cache);
  const auto beat = static_cast<size_t>(std::llround(2 * s.track.framesPerQuarter()));
  EXPECT_NE(early.bassPlaced().at(0, beat - 400), 0.0f) << "ten milliseconds are 480 frames";
  EXPECT_EQ(early.bassPlaced().at(0, beat - 500), 0.0f);
  for (size_t i = beat - 600; i < beat + 15000; ++i) {
    ASSERT_NEAR(both.bassPlaced().at(0, i), alone.bassPlaced().at(0, i) + early.bassPlaced().at(0, i), 1e-5)
        << i;
    ASSERT_NEAR(early.bassPlaced().at(0, i - 480), alone.bassPlaced().at(0, i), 1e-6) << i;
  }
}

TEST(Phrases, ALayerMayStayAsItIsUnderAllNotes) {
  Session s = theDemo().session;
  s.bass().layers[0].recorded()->followNotes = false;
  StepCache cache;
  const SoundSteps steps(theDemo().assets, cache, s.track.sampleRate);
  const Keyed low = steps.bassNote(s.bass(), s.track, 28), high = steps.bassNote(s.bass(), s.track, 45);
  EXPECT_EQ(*low.sound, *high.sound);
  s.bass().layers[0].semitones = 12;
  const SoundFacts up = measureSound(*steps.bassNote(s.bass(), s.track, 28).sound),
                   plain = measureSound(*low.sound);
  EXPECT_NEAR(*up.landing.hz / *plain.landing.hz, 2.0, 0.01) << "a shift by speed is its own";
}

TEST(Phrases, WithoutWorksForNotesAndTheWheelRestsAtZero) {
  Session s = theDemo().session;
  s.bass().layers.push_back(builtBass());
  s.bass().layers[1].id = 7;
  s.bass().notes = {{0, 1, 33, 1, {7}}, {2, 1, 33, 1, {1}}};
  StepCache cache;
  const Stems stems = rendered(s, cache);
  Session one = s;
  one.bass().layers.pop_back();
  const Stems recorded = rendered(one, cache);
  const auto second = static_cast<size_t>(2 * s.track.framesPerQuarter());
  EXPECT_LT(differs(stems.bassPlaced(), recorded.bassPlaced(), 0, 20000), 1e-7)
      << "the built one rests under the first";
  EXPECT_GT(differs(stems.bassPlaced(), recorded.bassPlaced(), second, 20000), 0.01);
  s.bass().wheel = {{0, 0}, {1, 0}};
  EXPECT_TRUE(phrasesOf(s.bass(), s.track)[0].ask.phrase.bend.empty()) << "a wheel at rest costs nothing";
  EXPECT_EQ(wheelAt(s.bass(), 0.5), 0.0);
}

TEST(Phrases, FreePhaseSpreadsTheHitsAndAFixedOneDoesNot) {
  Session s = theDemo().session;
  s.bass().layers = {builtBass()};
  s.bass().layers[0].bassVoice()->startPhaseDegrees = 90;
  s.bass().notes = {{0, 0.5, 33, 1}, {1.1, 0.5, 33, 1}, {2.3, 0.5, 33, 1}};
  StepCache cache;
  auto starts = [&] {
    const Stems stems = rendered(s, cache);
    std::vector<double> out;
    for (const Note& n : s.bass().notes)
      out.push_back(stems.bassPlaced().at(
          0, static_cast<size_t>(std::llround(n.startQuarters * s.track.framesPerQuarter())) + 300));
    return out;
  };
  const auto fixed = starts();
  EXPECT_EQ(fixed[0], fixed[1]);
  EXPECT_EQ(fixed[0], fixed[2]);
  s.bass().layers[0].bassVoice()->freePhase = true;
  const auto free = starts();
  EXPECT_GT(std::abs(free[0] - free[1]) + std::abs(free[0] - free[2]), 0.05);
}

const Finding* line(const std::vector<Finding>& all, const std::string& id) {
  for (const Finding& f : all)
    if (f.id == id) return &f;
  return nullptr;
}

std::vector<Finding> judgedLines(const Session& s) {
  StepCache cache;
  const Stems stems = rendered(s, cache);
  return ledger(s, *study(s, theDemo().assets, stems, cache));
}

TEST(LayerLines, TwoStrikesAFewMillisecondsApartAreBroughtTogether) {
  Session s = theDemo().session;
  Layer a = builtKick(), b = builtKick();
  a.id = 2, b.id = 3;
  a.name = "Weight", b.name = "Knock";
  a.kickVoice()->strike = {true, StrikeKind::Tick, 96, -6, 4, false};
  b.kickVoice()->strike = {true, StrikeKind::Tick, 96, -6, 4, false};
  b.chain.need<Eq>()->lowCut = {true, 400, 48};
  b.offsetMs = 4;
  s.kick().layers = {a, b};
  const auto lines = judgedLines(s);
  const Finding* strikes = line(lines, "kick-strikes");
  ASSERT_TRUE(strikes);
  EXPECT_EQ(strikes->verdict, Verdict::Off);
  EXPECT_NEAR(strikes->value, 4.0, 0.2);
  EXPECT_NE(strikes->measured.find("Knock"), std::string::npos);
  const Session met = strikes->options[0].applied(s);
  EXPECT_NEAR(met.kick().layers[1].offsetMs, 0.0, 0.2);
  EXPECT_FALSE(line(judgedLines(met), "kick-strikes"));
  EXPECT_EQ(line(lines, "kick-low-tails")->verdict, Verdict::Holds) << "the knock has no lows";
}

TEST(LayerLines, TwoLowTailsAreToldAndTheSecondIsCut) {
  Session s = theDemo().session;
  s.kick().layers[0].name = "Recorded";
  s.kick().layers.push_back(builtKick(35));
  s.kick().layers[1].name = "Built";
  s.kick().layers[1].levelDb = -6;
  const auto lines = judgedLines(s);
  const Finding* tails = line(lines, "kick-low-tails");
  ASSERT_TRUE(tails);
  EXPECT_NE(tails->verdict, Verdict::Holds);
  EXPECT_EQ(line(judgedLines(tails->options[0].applied(s)), "kick-low-tails")->verdict, Verdict::Holds);
}

TEST(LayerLines, AFreePhaseIsToldWithItsSpreadAndFixed) {
  Session s = theDemo().session;
  s.bass().layers = {builtBass()};
  s.kick().layers = {builtKick()};
  s.bass().notes.clear(), s.kick().hits.clear();
  s.track.tempoBpm = 120;  // a quarter is 27 and a half turns of A1
  s.kick().layers[0].kickVoice()->length = TimeValue::milliseconds(450);
  s.kick().layers[0].kickVoice()->landingAt = 0.08;
  for (int i = 0; i < 8; ++i) {
    s.kick().hits.push_back({i * 1.0, 1.0});
    s.bass().notes.push_back(Note{i * 1.0, 0.75, 33, 1.0});
  }
  EXPECT_FALSE(line(judgedLines(s), "free-phase")) << "with a fixed start there is nothing to tell";
  s.bass().layers[0].bassVoice()->freePhase = true;
  // Its cost depends on how the kick's phase meets it: somewhere in a half turn it is high.
  std::vector<Finding> lines;
  const Finding* free = nullptr;
  for (double phase = 0; phase < 180 && !(free && free->value > 3.0); phase += 30) {
    s.bass().layers[0].bassVoice()->startPhaseDegrees = phase;
    lines = judgedLines(s);
    free = line(lines, "free-phase");
    ASSERT_TRUE(free);
  }
  EXPECT_GT(free->value, 3.0);
  EXPECT_EQ(free->verdict, Verdict::Off) << free->measured;
  const Session fixed = free->options[0].applied(s);
  EXPECT_FALSE(fixed.bass().layers[0].bassVoice()->freePhase);
  StepCache cache;
  const Stems stems = rendered(fixed, cache);
  const auto figures = study(fixed, theDemo().assets, stems, cache);
  for (const HitFacts& h : figures->pair.hits)
    EXPECT_NEAR(h.levelDb, figures->pair.hits[0].levelDb, 0.05) << "the hits are alike";
}

TEST(Exports, BuiltPartsAreWrittenWithTheirNotes) {
  Session s = theDemo().session;
  s.kick().layers = {builtKick(36)};
  s.bass().layers = {builtBass()};
  StepCache cache;
  const Stems stems = rendered(s, cache);
  const auto files = exportFiles(s, theDemo().assets, stems, cache);
  ASSERT_TRUE(files);
  EXPECT_NE((*files)[0].name.find("kick C2"), std::string::npos) << (*files)[0].name;
  EXPECT_NE((*files)[1].name.find("bass A1"), std::string::npos) << (*files)[1].name;
}

}  // namespace
}  // namespace heft
