// From kick to bass: the fades keep the level that the correlation predicts, the render is as set, and the
// pattern makes room around hits.

#include <gtest/gtest.h>

#include "core/remedies/remedies.h"
#include "core/render/lanes/crossings.h"
#include "core/session/edits/gaps.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/session/folder.h"
#include "core/study/study.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// Two tones of one frequency and level at an angle: their correlation is its cosine, and their sum keeps its
// level all the way, by plain complex arithmetic.
TEST(HandOvers, TwoWavesKeepTheirLevel) {
  for (const double degrees : {0.0, 40.0, 90.0, 110.0, 120.0}) {
    const HandOver by{true, 30.0, std::cos(degrees * M_PI / 180)};
    for (double part = 0.0; part <= 1.0; part += 0.05) {
      const std::complex<double> sum =
          by.gainIn(1.0 - part) + by.gainIn(part) * std::polar(1.0, degrees * M_PI / 180);
      EXPECT_NEAR(20 * std::log10(std::abs(sum)), 0.0, 1e-9) << degrees << " at " << part;
    }
  }
  EXPECT_NEAR((HandOver{true, 30.0, 1.0}.gainIn(0.5)), 0.5, 1e-12) << "one wave: a line";
  EXPECT_NEAR((HandOver{true, 30.0, 0.0}.gainIn(0.5)), std::sqrt(0.5), 1e-12) << "two tones: constant power";
}

// The demo's fourth hit rings into the note on the next off-beat.
Session demoWith(bool on, double ms = 20.0, double alike = 0.0) {
  Session s = theDemo().session;
  s.handOver = {on, ms, alike};
  return s;
}

TEST(HandOvers, TheKickGoesOutAndTheBassComesIn) {
  StepCache cache;
  const Session s = demoWith(true);
  const auto crossings = crossingsOf(s);
  ASSERT_FALSE(crossings.empty());
  const Stems plain = rendered(demoWith(false), cache), with = rendered(s, cache);
  const double rate = with.sampleRate;
  for (const Crossing& c : crossings) {
    const double note = with.hitFrames()[c.hit] + c.afterSeconds * rate;
    const auto at = [&](double ms) { return static_cast<size_t>(note + ms / 1000 * rate) % with.frames; };
    const size_t hit = static_cast<size_t>(with.hitFrames()[c.hit]);
    for (size_t i = 0; i < 1000; ++i)
      ASSERT_EQ(with.kick().at(0, hit + i), plain.kick().at(0, hit + i)) << "the strike stays";
    EXPECT_EQ(with.kick().at(0, at(-1)), plain.kick().at(0, at(-1)));
    EXPECT_NEAR(with.kick().at(0, at(10)), std::sqrt(0.5) * plain.kick().at(0, at(10)), 2e-4) << "half way";
    EXPECT_EQ(with.kick().at(0, at(21)), 0.0f) << "and then it is gone";
    EXPECT_NEAR(with.bassPlaced().at(0, at(10)), std::sqrt(0.5) * plain.bassPlaced().at(0, at(10)), 2e-4);
    EXPECT_EQ(with.bassPlaced().at(0, at(21)), plain.bassPlaced().at(0, at(21)));
  }
  // A note that starts with a hit starts at once.
  for (const Crossing& c : crossings) EXPECT_GT(c.afterSeconds, 0.02);
  // The file keeps it.
  TemporaryFolder folder;
  ASSERT_TRUE(saveSession(folder / "h.heft", s, theDemo().assets));
  EXPECT_EQ(openSession(folder / "h.heft")->session.handOver, s.handOver);
}

// A long built kick and a built bass on its note: where they cancel there is a hole, found and fixed by a
// remedy; measured again on the lanes.
TEST(HandOvers, TheLedgerTellsAHoleAndMendsIt) {
  StepCache cache;
  Session s;
  s.track.tempoBpm = 100;
  KickVoice kick;
  kick.landingMidi = 33, kick.length = TimeValue::milliseconds(1500), kick.velocityToLevel = 0;
  BassVoice bass;
  bass.attackMs = 1;
  s.kick().layers.resize(1), s.bass().layers.resize(1);
  s.kick().layers[0].what = kick, s.bass().layers[0].what = bass;
  // As loud as each other where they meet.
  s.kick().layers[0].levelDb = 6, s.bass().layers[0].levelDb = -6;
  s.kick().hits = {{0.0}, {4.0}};
  s.bass().notes = {{1.0, 2.0, 33}, {5.0, 2.0, 33}};
  const auto lineOf = [&](const Session& of) {
    const auto lines = *judgedSession(of, {}, cache);
    return *std::find_if(lines.begin(), lines.end(), [](const Finding& f) { return f.id == "hand-over"; });
  };
  double worst = 0.0, at = 0.0;
  for (double degrees = 0; degrees < 360; degrees += 30) {
    s.bass().layers[0].bassVoice()->startPhaseDegrees = degrees;
    const double value = lineOf(s).value;
    if (value > worst) worst = value, at = degrees;
  }
  s.bass().layers[0].bassVoice()->startPhaseDegrees = at;
  const Finding told = lineOf(s);
  ASSERT_NE(told.verdict, Verdict::Holds) << told.measured;
  EXPECT_NE(told.sentence.find("a hole"), std::string::npos) << told.sentence;
  double least = worst;
  for (const Remedy& option : told.options) least = std::min(least, lineOf(option.applied(s)).value);
  // Fully opposed waves cross zero on any curve: the shortest crossfade is the least audible.
  EXPECT_LT(least, Limits().rippleWatch);
  EXPECT_LT(least, worst - 3.0);
  // By a plain sum of squares: the pair's 20 ms where it is lowest against those before the note.
  const auto lowest = [&](const Session& of) {
    const Stems stems = *render(of, {}, cache);
    const auto sum = stems.sum.read(0, 0, stems.frames);
    const auto note = static_cast<size_t>(of.track.framesPerQuarter());
    const auto power = [&](size_t from) {
      double out = 0;
      for (size_t i = from; i < from + 960; ++i) out += sum[i] * static_cast<double>(sum[i]);
      return 10 * std::log10(out);
    };
    double quietest = 99;
    for (size_t i = note; i < note + 4800; i += 96) quietest = std::min(quietest, power(i));
    return quietest - power(note - 960);
  };
  const auto best =
      std::min_element(told.options.begin(), told.options.end(), [&](const Remedy& x, const Remedy& y) {
        return lineOf(x.applied(s)).value < lineOf(y.applied(s)).value;
      });
  EXPECT_LT(lowest(s), -5.0);
  EXPECT_GT(lowest(best->applied(s)), lowest(s) + 3.0);
}

// A kick of a sixteenth on every beat is heard for no longer than it lasts: the next strike, whose approach the
// band's filter shows, is another hit's.
TEST(HeardLength, EndsWithTheTail) {
  StepCache cache;
  Session s = theDemo().session;
  s = trimPart(s.kick(), TimeValue::note(1, 16)).applied(s);
  s.kick().hits.clear();
  for (int i = 0; i < 8; ++i) s.kick().hits.push_back({static_cast<double>(i)});
  s.bass().levelDb = -30;
  const auto facts = study(s, theDemo().assets, rendered(s, cache), cache);
  for (const HitFacts& h : facts->pair.hits) {
    ASSERT_TRUE(h.overBassMs);
    EXPECT_LE(*h.overBassMs, facts->pair.kick.sound->tailMs + 1e-9);
    EXPECT_GT(*h.overBassMs, 0.5 * facts->pair.kick.sound->tailMs) << "over a soft bass nearly all of it";
  }
}

Session line(std::vector<Note> notes, std::vector<double> hits) {
  Session s;
  s.track.tempoBpm = 120;
  for (double h : hits) s.kick().hits.push_back({h});
  s.bass().notes = std::move(notes);
  return s;
}

TEST(Gaps, NotesAreDelayedTiedAndEnded) {
  // 20 ms are 0.04 quarters at 120.
  const Session s = line({{0.0, 0.5, 33}, {0.5, 0.48, 33}, {0.98, 0.52, 33}, {2.02, 1.0, 36}}, {0.0, 1.0, 2.0});
  EXPECT_EQ(notesAboutHits(s, 20).within, 2) << "one with a hit, one just after";
  EXPECT_EQ(notesAboutHits(s, 20).ringInto, 1) << "one that is early for its hit is left";
  const auto delayed = delayToGap(20).applied(s).bass().notes;
  EXPECT_NEAR(delayed[0].startQuarters, 0.04, 1e-9);
  EXPECT_NEAR(delayed[0].endQuarters(), 0.5, 1e-9) << "its end stays";
  EXPECT_NEAR(delayed[3].startQuarters, 2.04, 1e-9);
  EXPECT_EQ(delayed[2].startQuarters, 0.98) << "before a hit nothing is delayed";
  const auto ended = endBeforeHits(20).applied(s).bass().notes;
  EXPECT_NEAR(ended[1].endQuarters(), 0.96, 1e-9);
  EXPECT_EQ(ended[0], s.bass().notes[0]) << "it ends long before";
  EXPECT_EQ(notesAboutHits(endBeforeHits(20).applied(s), 20).ringInto, 0);
  const Session close = line({{0.0, 1.0, 33}, {1.01, 0.5, 36}}, {1.0});
  const auto tied = tieOverGap(20).applied(close).bass().notes;
  EXPECT_TRUE(tied[0].tie);
  EXPECT_NEAR(tied[0].endQuarters(), tied[1].startQuarters, 1e-9) << "drawn on to it";
  EXPECT_EQ(delayToGap(0).applied(s), s) << "no gap, no move";
  // A gap longer than the note: the note moves as a whole, and stays long enough to play.
  const auto far = delayToGap(400).applied(close).bass().notes;
  EXPECT_GE(far[1].lengthQuarters, 0.0625 - 1e-9);
  EXPECT_NEAR(far[1].startQuarters, 1.8, 1e-9);
}

}  // namespace
}  // namespace heft
