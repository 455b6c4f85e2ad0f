// The Ledger: each fault gives its line, each remedy fixes it, and none does harm elsewhere.

#include <gtest/gtest.h>

#include "core/judge/balance.h"
#include "core/remedies/remedies.h"
#include "core/session/edits/parts.h"
#include "scenario/make_demo.h"
#include "tests/reference/measured.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

struct Judged {
  Study study;
  std::vector<Finding> findings;
  const Finding* find(const std::string& id) const {
    for (const Finding& f : findings)
      if (f.id == id) return &f;
    return nullptr;
  }
};

Judged judge(const Session& s, const Assets& assets = theDemo().assets) {
  static StepCache cache;
  const auto stems = render(s, assets, cache);
  auto facts = study(s, assets, *stems, cache);
  Judged out{std::move(*facts), {}};
  out.findings = ledger(s, out.study);
  return out;
}

void expectLine(const Judged& j, const std::string& id, Verdict verdict, const std::string& words) {
  const Finding* f = j.find(id);
  ASSERT_TRUE(f) << id;
  EXPECT_EQ(f->verdict, verdict) << f->sentence << " | " << f->measured;
  EXPECT_NE(f->sentence.find(words), std::string::npos) << f->sentence;
  EXPECT_FALSE(f->measured.empty());
  EXPECT_FALSE(f->target.empty());
}

TEST(Ledger, TheDemosFaultsAreFound) {
  const auto j = judge(theDemo().session);
  expectLine(j, "kick-key", Verdict::Off, "Kick lands 58 cents below A1");
  expectLine(j, "kick-tail", Verdict::Off, "Kick rings over the bass note after hit 6");
  expectLine(j, "overlap", Verdict::Off, "Bass masks the kick at 7 of 8 hits, without ducking");
  expectLine(j, "bass-key", Verdict::Holds, "Bass lands on its notes");
  expectLine(j, "low-mono", Verdict::Holds, "mono");
  EXPECT_TRUE(j.find("pair-level"));
}

// Every offered fix improves the whole, shows its side effect, and Fix all leaves no line worse.
TEST(Ledger, RemediesMendTheDemoAndTellWhatTheyCost) {
  const Session s = theDemo().session;
  StepCache cache;
  const auto now = judge(s);
  const auto tried = withTriedRemedies(s, theDemo().assets, now.findings, cache);
  ASSERT_TRUE(tried);
  int offered = 0;
  for (const Finding& f : *tried) {
    EXPECT_TRUE(f.tried);
    if (!f.remedy) continue;
    ++offered;
    const auto after = judge(f.remedy->applied(s));
    EXPECT_TRUE(isBetter(after.findings, now.findings)) << f.id;
    int worse = 0;
    for (const Finding& g : after.findings) {
      const Finding* was = now.find(g.id);
      worse += g.verdict > (was ? was->verdict : Verdict::Holds) ? 1 : 0;
    }
    EXPECT_EQ(worse > 0, !f.remedy->price.empty()) << f.id << ": " << f.remedy->name();
  }
  EXPECT_GE(offered, 4);
  const auto mended = mendAll(s, theDemo().assets, cache);
  ASSERT_TRUE(mended);
  EXPECT_GE(mended->mended.size(), 3u);
  const auto last = judge(mended->session);
  for (const Finding& f : last.findings)
    EXPECT_NE(f.verdict, Verdict::Off) << f.sentence << " | " << f.measured;
}

// An intended long tail stays long, though trimming it would fix the next line; so does a pair's loss.
TEST(LedgerRemedies, WhatIsIntendedIsNotMovedByOtherLinesRemedies) {
  if (isWatched()) GTEST_SKIP() << "half a minute of what the tests beside it do as well";
  StepCache cache;
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  const auto valueOf = [](const std::vector<Finding>& lines, const std::string& id) {
    for (const Finding& f : lines)
      if (f.id == id) return f.value;
    return std::nan("");
  };
  const auto before = *judgedSession(s, theDemo().assets, cache);
  for (const std::string id : {"kick-tail", "pair-level"}) {
    s.meantSo = {id};
    const auto mended = mendAll(s, theDemo().assets, cache);
    ASSERT_TRUE(mended);
    const double was = valueOf(before, id),
                 is = valueOf(*judgedSession(mended->session, theDemo().assets, cache), id);
    ASSERT_FALSE(std::isnan(was)) << id;
    EXPECT_NEAR(is, was, std::max(id == "pair-level" ? 1.0 : 0.0, 0.25 * std::abs(was))) << id;
    for (const Mended& m : mended->mended) EXPECT_NE(m.id, id);
  }
}

TEST(Ledger, ShiftStrainIsSaidBeyondTwoSemitones) {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 36;
  const auto j = judge(s);
  expectLine(j, "kick-strain", Verdict::Off, "try a sample nearer the note");
  // Set by hand to a note of the key, it is no fault.
  expectLine(j, "kick-key", Verdict::Watch, "on C2, in A minor");
  EXPECT_FALSE(judge(j.find("kick-strain")->options.back().applied(s)).find("kick-strain"));
  s.kick().layers[0].recorded()->targetMidi = 33;
  expectLine(judge(s), "kick-strain", Verdict::Holds, "small");
}

TEST(Ledger, ABassPlayedFromTheWrongRootIsSaid) {
  Session s = theDemo().session;
  s.bass().layers[0].recorded()->rootMidi = 33.4;
  auto j = judge(s);
  expectLine(j, "bass-key", Verdict::Off, "below A1");
  expectLine(judge(j.find("bass-key")->options[0].applied(s)), "bass-key", Verdict::Holds, "on its notes");
  s.bass().notes[3].midi = 34;
  expectLine(judge(s), "bass-scale", Verdict::Watch, "outside A minor");
}

TEST(Ledger, TailOverTheNextNote) {
  Session s = theDemo().session;
  s.kick().hits = {{0, 1}};
  s.bass().notes = {{0.25, 1.0, 33, 0.8}};
  const auto j = judge(s);
  const Finding* f = j.find("kick-tail");
  ASSERT_TRUE(f);
  EXPECT_EQ(f->hit, 0);
  EXPECT_NE(f->hits.at(0).verdict, Verdict::Holds);
  expectLine(judge(f->options[0].applied(s)), "kick-tail", Verdict::Holds, "Kick fits");
}

// A built bass that is let go a quarter of a beat before a hit and dies over a second and a half; one that is
// held under the hit, or starts with it, rings into nothing.
TEST(Ledger, ReleasesThatRingIntoAKickAreToldAndShortened) {
  Session s = theDemo().session;
  s.ducks.front().on = false;
  s.bass().layers[0].what = BassVoice();
  s.bass().layers[0].bassVoice()->releaseMs = 1500;
  s.kick().hits = {{0}, {2}, {4}, {6}};
  s.bass().notes = {{0.5, 1.25, 33}, {4.0, 1.0, 33}};
  const auto j = judge(s);
  const auto f = j.find("bass-release");
  ASSERT_TRUE(f);
  ASSERT_NE(f->verdict, Verdict::Holds) << f->measured;
  EXPECT_EQ(f->hit, 1);
  expectLine(judge(f->options.back().applied(s)), "bass-release", Verdict::Holds, "end before the next hit");
  EXPECT_EQ(f->options[0].applied(s).bass().layers[0].bassVoice()->releaseMs, 60.0);
  s.bass().notes = {{0.5, 1.75, 33}, {4.0, 1.0, 33}, {6.0, 1.9, 33}};
  const auto again = judge(s);
  const auto held = again.find("bass-release");
  EXPECT_TRUE(!held || held->hit != 1) << "held under it";
}

TEST(Ledger, APairThatCancelsIsNamedByItsHit) {
  Session s = theDemo().session;
  s.kick().layers[0].recorded()->targetMidi = 33;
  for (Note& n : s.bass().notes) n.midi = 33;
  const auto best = judge(s).study.pair.best;
  s.bass().align = {best.delayMs, !best.invert, {}};
  const auto j = judge(s);
  expectLine(j, "pair-level", Verdict::Off, "Kick and bass cancel at 7 of 8 hits");
  expectLine(judge(j.find("pair-level")->options[0].applied(s)), "pair-level", Verdict::Holds, "in phase");
}

TEST(Ledger, DuckingThatDoesNothingIsSaid) {
  Session s = theDemo().session;
  s.duck().on = true;
  s.duck().curve.depthDb = 0.2;
  auto j = judge(s);
  expectLine(j, "duck-fires", Verdict::Off, "Ducking triggers on 0 of 8 kicks");
  expectLine(judge(j.find("duck-fires")->options[0].applied(s)), "duck-fires", Verdict::Holds, "8 of 8");
  // A dip that is still down at the next kick: later hits have nothing to duck.
  s.duck().curve.depthDb = 9;
  s.duck().curve.hold = TimeValue::milliseconds(700);
  s.duck().curve.release = TimeValue::milliseconds(700);
  expectLine(judge(s), "duck-return", Verdict::Off, "stays ducked for");
}

TEST(Ledger, SideLowsAndClippingAreSaidAndMended) {
  Session s = theDemo().session;
  Assets assets = theDemo().assets;
  AudioBuffer wide(48000, 2, 76800);
  const auto left = sine(55, 0.7, 1.6, 48000), right = sine(55, 0.7, 1.6, 48000, 1.2);
  for (size_t i = 0; i < left.size(); ++i)
    wide.channels[0][i] = static_cast<float>(left[i]), wide.channels[1][i] = static_cast<float>(right[i]);
  s.bass().layers[0].recorded()->asset =
      assets.add(*decodeSound(*encodeSound(wide, SampleFormat::WavFloat), "wide.wav"), "wide.wav");
  s.bass().layers[0].levelDb = 6;
  const auto j = judge(s, assets);
  expectLine(j, "low-mono", Verdict::Off, "not mono");
  expectLine(j, "peak", Verdict::Off, "clips");
  expectLine(judge(j.find("low-mono")->options[0].applied(s), assets), "low-mono", Verdict::Holds, "mono");
  EXPECT_NE(judge(j.find("peak")->options[0].applied(s), assets).find("peak")->verdict, Verdict::Off);
  // A limiter or a soft clip over the sum brings it under its ceiling too, true peak and all.
  for (const char* label : {"Limit sum", "Soft-clip sum"}) {
    const auto& options = j.find("peak")->options;
    const auto option =
        std::find_if(options.begin(), options.end(), [&](const Remedy& r) { return r.label == label; });
    ASSERT_NE(option, options.end()) << label;
    EXPECT_EQ(judge(option->applied(s), assets).find("peak")->verdict, Verdict::Holds) << label;
  }
}

TEST(Ledger, BandsAreJudgedOnlyWithABackingAndReferences) {
  Session s = theDemo().session;
  s.bass().layers[0].levelDb += 8;
  const auto j = judge(s);
  const bool any = std::any_of(j.findings.begin(), j.findings.end(),
                               [](const Finding& f) { return f.id.rfind("band-", 0) == 0; });
  EXPECT_TRUE(any);
  s.backing.mute = true;
  for (const Finding& f : judge(s).findings) EXPECT_NE(f.id.rfind("band", 0), 0u) << f.sentence;
  s = theDemo().session;
  s.references.clear();
  for (const Finding& f : judge(s).findings) EXPECT_NE(f.id.rfind("band", 0), 0u) << f.sentence;
}

// Lanes moved away from a mix get a line to move back: measured like any sum, its loudness with all of
// BS.1770.
TEST(Ledger, TheBalanceOfKickAndBassIsFoundAgain) {
  const auto kick = sine(70, 0.25, 4, 48000), bass = sine(50, 0.2, 4, 48000);
  auto rest = noise(0.05, kick.size(), 3);
  for (size_t i = 1; i < rest.size(); ++i) rest[i] = 0.97 * rest[i - 1] + 0.3 * rest[i];
  auto scaled = [](std::vector<double> x, double db) {
    for (double& v : x) v *= amplitudeFromDb(db);
    return bufferOf(x, 48000, 2);
  };
  auto sumOf = [&](double kickDb, double bassDb) {
    auto sum = rest;
    for (size_t i = 0; i < sum.size(); ++i)
      sum[i] += amplitudeFromDb(kickDb) * kick[i] + amplitudeFromDb(bassDb) * bass[i];
    return *measureProgramme(bufferOf(sum, 48000, 2), true);
  };
  for (auto [kickDb, bassDb] : {std::pair{8.0, 0.0}, {8.0, -5.0}, {-6.0, 7.0}}) {
    Study study;
    study.hasBacking = true;
    study.pair.kick.low = measureLowEnd(scaled(kick, kickDb), true);
    study.pair.bass.low = measureLowEnd(scaled(bass, bassDb), true);
    study.sum = sumOf(kickDb, bassDb);
    study.references = {measuredAs(sumOf(0, 0))};
    const auto found = balanceToReferences(Session{}, study, {});
    ASSERT_TRUE(found) << kickDb << " " << bassDb;
    const Session moved = moveLevels(*found).applied(Session{});
    EXPECT_NEAR(moved.kick().levelDb, -kickDb, 2.0) << kickDb << " " << bassDb;
    EXPECT_NEAR(moved.bass().levelDb, -bassDb, 2.0) << kickDb << " " << bassDb;
    const auto after = bandDifferences(sumOf(kickDb + moved.kick().levelDb, bassDb + moved.bass().levelDb),
                                       study.presentReferences());
    for (size_t b : {size_t{1}, size_t{2}}) EXPECT_EQ(bandVerdict(after.at(b)), Verdict::Holds) << b;
  }
  Study fine;
  fine.hasBacking = true;
  fine.pair.kick.low = measureLowEnd(scaled(kick, 0), true);
  fine.pair.bass.low = measureLowEnd(scaled(bass, 0), true);
  fine.sum = sumOf(0, 0);
  fine.references = {measuredAs(fine.sum)};
  EXPECT_FALSE(balanceToReferences(Session{}, fine, {})) << "nothing to move";
}

// Another part may be what booms: then the line names it, and its level moves.
TEST(Ledger, ABandNamesThePartThatFillsIt) {
  const Session s = addPart(3, "Floor tom", Plays::Hits).applied({});
  auto sumWith = [](double tomDb) {
    auto sum = noise(0.05, 4 * 48000, 5);
    const auto tom = sine(75, amplitudeFromDb(tomDb), 4, 48000), kick = sine(50, 0.3, 4, 48000);
    for (size_t i = 0; i < sum.size(); ++i) sum[i] += tom[i] + kick[i];
    return *measureProgramme(bufferOf(sum, 48000, 2), true);
  };
  Study study;
  study.hasBacking = true, study.empty = false;
  study.pair.kick.low = measureLowEnd(bufferOf(sine(50, 0.3, 4, 48000), 48000, 2), true);
  study.others = {
      {.part = 3, .low = measureLowEnd(bufferOf(sine(75, amplitudeFromDb(-6), 4, 48000), 48000, 2), true)}};
  study.sum = sumWith(-6);
  study.references = {measuredAs(sumWith(-20))};
  study.differences = bandDifferences(study.sum, study.presentReferences());
  const auto lines = ledger(s, study);
  const auto band =
      std::find_if(lines.begin(), lines.end(), [](const Finding& f) { return f.id == "band-60-90"; });
  ASSERT_NE(band, lines.end());
  EXPECT_NE(band->sentence.find("Floor tom is"), std::string::npos) << band->sentence;
  EXPECT_EQ(band->options.front().name().substr(0, 18), "lower Floor tom by");
}

TEST(Ledger, OfAsManyFaultsThoseOfLaterWorkAreTheBetterOnes) {
  const Finding pair{.id = "pair-level", .stage = Stage::Align, .verdict = Verdict::Watch};
  const Finding band{.id = "band-20-40", .stage = Stage::Compare, .verdict = Verdict::Watch};
  Finding out = band, meant = pair;
  out.verdict = Verdict::Off;
  meant.meantSo = true;
  EXPECT_TRUE(isBetter({band}, {pair}));
  EXPECT_FALSE(isBetter({pair}, {band}));
  EXPECT_FALSE(isBetter({band}, {band}));
  EXPECT_FALSE(isBetter({out}, {pair})) << "out is worse than to watch, wherever";
  EXPECT_TRUE(isBetter({meant}, {band})) << "what is intended is no fault";
}

// Consecutive level moves are reported as one.
TEST(Ledger, LevelsAddUpInWordsAndInDeed) {
  Session s = theDemo().session;
  s = addPart(3, "Clap", Plays::Hits).applied(s);
  const int kick = s.kick().id, bass = s.bass().id;
  EXPECT_EQ((laneBy(s, kick, -4.5) + laneBy(s, kick, 3) + laneBy(s, bass, 2)).words(),
            "lower kick by 1.5 dB, raise bass by 2 dB");
  EXPECT_EQ(allLanesBy(s, -2).words(), "lower all lanes by 2 dB");
  EXPECT_EQ((laneBy(s, kick, 3) + laneBy(s, kick, -3)).words(), "");
  EXPECT_EQ((laneBy(s, bass, -1) + laneBy(s, std::nullopt, -1)).words(), "lower bass and backing by 1 dB");
  // A moved part is named, or counted among the others.
  EXPECT_EQ((allLanesBy(s, -3.5) + laneBy(s, bass, 5)).words(),
            "raise bass by 1.5 dB, lower all other lanes by 3.5 dB");
  EXPECT_EQ((allLanesBy(s, -3.5) + laneBy(s, kick, 1) + laneBy(s, bass, 2)).words(),
            "lower kick by 2.5 dB, lower bass by 1.5 dB, lower Clap and backing by 3.5 dB");
  const Mended trim{"kick-tail", "trim kick to 1/8", "", "", "trim kick to 1/8"};
  const Mended up{"band-40-60", "raise bass by 8 dB", "", "", "", laneBy(s, bass, 8)};
  const Mended more{"band-20-40",      "make bass mono, raise bass by 3 dB", "", "", "make bass mono",
                    laneBy(s, bass, 3)};
  EXPECT_EQ(wordsOf({up, trim, more}), "trim kick to 1/8; make bass mono; raise bass by 11 dB");
  const LaneLevels first = allLanesBy(s, -3.5) + laneBy(s, bass, 1),
                   then = laneBy(s, kick, 3) + laneBy(s, 3, -6);
  const Session both = moveLevels(first + then).applied(s);
  EXPECT_EQ(moveLevels(then).applied(moveLevels(first).applied(s)), both);
  EXPECT_EQ(both.part(3)->levelDb, -9.5);
  EXPECT_EQ(moveLevels(laneBy(s, bass, 100)).applied(s).bass().levelDb, kMostLevelDb);
}

TEST(Ledger, MeantSoRestsALine) {
  Session s = theDemo().session;
  s.meantSo = {"kick-tail"};
  const auto j = judge(s);
  EXPECT_TRUE(j.find("kick-tail")->meantSo);
  EXPECT_EQ(j.findings.back().meantSo, true) << "what rests stands last";
  EXPECT_EQ(stageVerdict(j.findings, Stage::Sounds), Verdict::Holds);
  EXPECT_EQ(stageVerdict(judge(theDemo().session).findings, Stage::Sounds), Verdict::Off);
}

TEST(Ledger, AnEmptySessionHasNoLines) {
  EXPECT_TRUE(judge(Session()).findings.empty());
  Session noHits = theDemo().session;
  noHits.kick().hits.clear();
  noHits.bass().notes.clear();
  for (const Finding& f : judge(noHits).findings) EXPECT_NE(f.stage, Stage::Align) << f.sentence;
}

// A line beside the bass sounds on the notes that it plays: a root typed a quarter tone off gets a line,
// whose fix restores the measured one.
TEST(Ledger, ALineBesideTheBassIsToldWhereItIsOffItsNotes) {
  Session s;
  s.track.key = *parseKey("A minor");
  s.kick().hits = {{0, 1}, {2, 1}};
  Part line;
  line.id = 3, line.role = "other", line.name = "Mid", line.plays = Plays::Notes;
  line.notes = {{0, 2, 45, 1}, {2, 1, 48, 1}};
  Assets assets;
  auto sound = reference::sine(220, 0.5, 1.0, 48000);
  LoadedSound loaded;
  loaded.sound = std::make_shared<const AudioBuffer>(reference::bufferOf(sound, 48000));
  loaded.hash = std::string(32, 'b');
  line.layers = {recordedLayer(assets.add(loaded, "mid.wav"))};
  s.parts.push_back(line);
  StepCache cache;
  const auto told = [&](const Session& of) {
    const Stems stems = *render(of, assets, cache);
    for (const Finding& f : ledger(of, *study(of, assets, stems, cache)))
      if (f.id == "part-3-key") return f;
    return Finding();
  };
  EXPECT_EQ(told(s).verdict, Verdict::Holds) << told(s).sentence;
  EXPECT_EQ(told(s).sentence, "Mid lands on its notes");
  s.part(3)->layers[0].recorded()->rootMidi = 57.5;  // it is 57
  const Finding off = told(s);
  EXPECT_EQ(off.verdict, Verdict::Watch);
  EXPECT_NEAR(off.value, -50, 2) << off.sentence;
  ASSERT_EQ(off.options.size(), 2u);
  for (const Remedy& remedy : off.options) EXPECT_NEAR(told(remedy.applied(s)).value, 0, 2) << remedy.move();
}

}  // namespace
}  // namespace heft
