// The Ledger: each fault gives its line, each remedy mends it, and none does harm elsewhere.

#include "core/ledger/ledger.h"

#include <gtest/gtest.h>

#include "scenario/make_demo.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

const demo::Demo& theDemo() {
  static const demo::Demo demo = *demo::make();
  return demo;
}

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
  expectLine(j, "kick-key", Verdict::Off, "Kick lands 58 cents under A1");
  expectLine(j, "kick-tail", Verdict::Off, "Tail outlasts the sixteenth by");
  expectLine(j, "overlap", Verdict::Off, "At hit 3 kick and bass overlap and nothing ducks");
  expectLine(j, "bass-key", Verdict::Holds, "Bass lands on its notes");
  expectLine(j, "low-mono", Verdict::Holds, "mono");
  EXPECT_TRUE(j.find("pair-level"));
}

// Hits share a family: which of them is named may change. So do bands.
std::string familyOf(const std::string& id) {
  return id.rfind("pair-hit", 0) == 0 ? "pair-hit" : id.rfind("band", 0) == 0 ? "band" : id;
}

// The worst verdict of a family; a family that has no line holds, but a line that first appears may ask to be
// watched.
int worstOf(const Judged& j, const std::string& family) {
  int worst = -1;
  for (const Finding& f : j.findings)
    if (familyOf(f.id) == family) worst = std::max(worst, static_cast<int>(f.verdict));
  return worst < 0 ? static_cast<int>(Verdict::Watch) : worst;
}

// After the remedies, one after another as they stand in the Ledger, no line is off and none has become worse
// by a verdict through another's remedy.
TEST(Ledger, RemediesMendTheDemoWithoutHarm) {
  Session s = theDemo().session;
  auto now = judge(s);
  int pressed = 0;
  for (; pressed < 15; ++pressed) {
    const auto next = std::find_if(now.findings.begin(), now.findings.end(),
                                   [](const Finding& f) { return f.remedy && f.verdict != Verdict::Holds; });
    if (next == now.findings.end()) break;
    const std::string id = next->id;
    s = next->remedy->apply(s);
    const auto after = judge(s);
    for (const Finding& f : after.findings) {
      if (familyOf(f.id) == familyOf(id)) continue;
      EXPECT_LE(static_cast<int>(f.verdict), worstOf(now, familyOf(f.id)))
          << id << " worsened " << f.id << ": " << f.sentence << " | " << f.measured;
    }
    if (const Finding* mended = after.find(id))
      EXPECT_NE(mended->verdict, Verdict::Off) << mended->sentence << " | " << mended->measured;
    now = after;
  }
  EXPECT_GE(pressed, 4);
  EXPECT_LT(pressed, 15) << "remedies go round in circles";
  for (const Finding& f : now.findings) EXPECT_NE(f.verdict, Verdict::Off) << f.sentence << " | " << f.measured;
}

TEST(Ledger, ShiftStrainIsSaidBeyondTwoSemitones) {
  Session s = theDemo().session;
  s.kick.layers[0].targetMidi = 36;
  const auto j = judge(s);
  expectLine(j, "kick-strain", Verdict::Off, "another sample");
  expectLine(j, "kick-key", Verdict::Off, "over A1");
  EXPECT_FALSE(judge(j.find("kick-strain")->remedy->apply(s)).find("kick-strain"));
  s.kick.layers[0].targetMidi = 33;
  expectLine(judge(s), "kick-strain", Verdict::Holds, "light");
}

TEST(Ledger, ABassPlayedFromTheWrongRootIsSaid) {
  Session s = theDemo().session;
  s.bass.layers[0].rootMidi = 33.4;
  auto j = judge(s);
  expectLine(j, "bass-key", Verdict::Off, "under its notes");
  expectLine(judge(j.find("bass-key")->remedy->apply(s)), "bass-key", Verdict::Holds, "on its notes");
  s.bass.notes[3].midi = 34;
  expectLine(judge(s), "bass-scale", Verdict::Watch, "outside A minor");
}

TEST(Ledger, TailOverTheNextNote) {
  Session s = theDemo().session;
  s.kick.hits = {{0, 1}};
  s.bass.notes = {{0.25, 1.0, 33, 0.8}};
  const auto j = judge(s);
  const Finding* f = j.find("kick-over-note");
  ASSERT_TRUE(f);
  EXPECT_EQ(f->hit, 0);
  EXPECT_NE(f->verdict, Verdict::Holds);
  expectLine(judge(f->remedy->apply(s)), "kick-over-note", Verdict::Holds, "gone before");
}

TEST(Ledger, APairThatCancelsIsNamedByItsHit) {
  Session s = theDemo().session;
  s.kick.layers[0].targetMidi = 33;
  for (Note& n : s.bass.notes) n.midi = 33;
  const auto best = judge(s).study.best;
  s.align = {best.delayMs, !best.invert, {}};
  const auto j = judge(s);
  expectLine(j, "pair-level", Verdict::Off, "the pair loses");
  int hits = 0;
  for (const Finding& f : j.findings) hits += f.id.rfind("pair-hit-", 0) == 0 ? 1 : 0;
  EXPECT_GE(hits, 1);
  expectLine(judge(j.find("pair-level")->remedy->apply(s)), "pair-level", Verdict::Holds, "same way");
}

TEST(Ledger, DuckingThatDoesNothingIsSaid) {
  Session s = theDemo().session;
  s.duck.on = true;
  s.duck.depthDb = 0.2;
  auto j = judge(s);
  expectLine(j, "duck-fires", Verdict::Off, "The ducking fired on 0 of 8 kicks");
  expectLine(judge(j.find("duck-fires")->remedy->apply(s)), "duck-fires", Verdict::Holds, "8 of 8");
  // A dip that is still down when the next kick comes: hits after the first find nothing to push.
  s.duck.depthDb = 9;
  s.duck.hold = TimeValue::milliseconds(700);
  s.duck.release = TimeValue::milliseconds(700);
  expectLine(judge(s), "duck-return", Verdict::Off, "away for");
}

TEST(Ledger, SideLowsAndClippingAreSaidAndMended) {
  Session s = theDemo().session;
  Assets assets = theDemo().assets;
  AudioBuffer wide(48000, 2, 76800);
  const auto left = sine(55, 0.7, 1.6, 48000), right = sine(55, 0.7, 1.6, 48000, 1.2);
  for (size_t i = 0; i < left.size(); ++i)
    wide.channels[0][i] = static_cast<float>(left[i]), wide.channels[1][i] = static_cast<float>(right[i]);
  s.bass.layers[0].asset =
      assets.add(*decodeSound(*encodeSound(wide, SampleFormat::WavFloat), "wide.wav"), "wide.wav");
  s.bass.layers[0].levelDb = 6;
  const auto j = judge(s, assets);
  expectLine(j, "low-mono", Verdict::Off, "not mono");
  expectLine(j, "peak", Verdict::Off, "clips");
  expectLine(judge(j.find("low-mono")->remedy->apply(s), assets), "low-mono", Verdict::Holds, "mono");
  EXPECT_NE(judge(j.find("peak")->remedy->apply(s), assets).find("peak")->verdict, Verdict::Off);
}

TEST(Ledger, BandsAreJudgedOnlyWithABackingAndReferences) {
  Session s = theDemo().session;
  s.bass.layers[0].levelDb += 8;
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

TEST(Ledger, MeantSoRestsALine) {
  Session s = theDemo().session;
  s.meantSo = {"kick-tail", "kick-over-note"};
  const auto j = judge(s);
  EXPECT_TRUE(j.find("kick-tail")->meantSo);
  EXPECT_EQ(j.findings.back().meantSo, true) << "what rests stands last";
  EXPECT_FALSE(stageVerdict(j.findings, Stage::Sounds));
  EXPECT_EQ(stageVerdict(judge(theDemo().session).findings, Stage::Sounds), Verdict::Off);
}

TEST(Ledger, AnEmptySessionHasNoLines) {
  EXPECT_TRUE(judge(Session()).findings.empty());
  Session noHits = theDemo().session;
  noHits.kick.hits.clear();
  noHits.bass.notes.clear();
  for (const Finding& f : judge(noHits).findings) EXPECT_NE(f.stage, Stage::Align) << f.sentence;
}

}  // namespace
}  // namespace heft
