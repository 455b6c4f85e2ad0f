// Perceived loudness of the bass line: by the published contours, evened on the render.

#include "core/study/line_heard.h"

#include <gtest/gtest.h>

#include "core/measure/levels/equal_loudness.h"
#include "core/measure/levels/heard_loudness.h"
#include "core/measure/levels/small_speaker.h"
#include "core/session/edits/pair.h"
#include "core/session/folder.h"
#include "core/session/midi_pattern.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// The contours of ISO 226:2003 are checked by themselves; a tone that lies in one band is heard as that tone.
TEST(HeardLoudness, ATonesLoudnessIsThatOfItsContour) {
  for (const double hz : {31.6, 50.1, 63.1, 100.0, 1000.0}) {
    const auto x = sine(hz, 0.5, 1.0, 48000);
    const HeardBands bands = heardBands(x, 48000);
    const double level = 80 + 20 * std::log10(0.5);
    EXPECT_NEAR(bands.phon(80), phonOf(hz, level), 0.6) << hz;
    // To a loudness and there: the gain that the contour says.
    const double wanted = phonOf(hz, level) - 5;
    EXPECT_NEAR(*bands.gainTo(wanted, 80, 24), levelForPhon(hz, wanted) - level, 0.4) << hz;
  }
  const std::vector<double> silence(4800, 0.0);
  EXPECT_EQ(heardBands(silence, 48000).phon(80), 0.0);
  EXPECT_FALSE(heardBands(silence, 48000).gainTo(40, 80, 24));
}

// Four notes of one level from E1 to E2: the low ones are heard less; evened, all are heard alike on what is
// rendered, and quieter listening asks for more.
TEST(LineHeard, NotesAreEvenedAsTheyAreHeard) {
  Session s;
  BassVoice bass;
  bass.partialDb = {}, bass.partialDb[0] = 0.0, bass.velocityToLevel = 1.0;
  s.bass().layers.resize(1);
  s.bass().layers[0].what = bass;
  s.bass().notes = {{0, 1, 28}, {2, 1, 33}, {4, 1, 36}, {6, 1, 40}};
  StepCache cache;
  const auto heard = [&](const Session& of) { return lineHeard(of, *render(of, {}, cache), cache); };
  const LineHeard before = heard(s);
  ASSERT_EQ(before.notes.size(), 4u);
  for (size_t i = 1; i < 4; ++i) EXPECT_GT(before.notes[i].phon, before.notes[i - 1].phon) << i;
  EXPECT_GT(before.notes[0].toLineDb, 1.0);
  EXPECT_LT(before.notes[3].toLineDb, -1.0);
  std::vector<std::pair<size_t, double>> more;
  for (const NoteHeard& n : before.notes) more.emplace_back(n.note, n.toLineDb);
  const Session even = evenLine(s.bass(), more).applied(s);
  const LineHeard after = heard(even);
  for (const NoteHeard& n : after.notes) {
    EXPECT_NEAR(n.phon, after.linePhon, 0.25);
    EXPECT_NEAR(n.toLineDb, 0.0, 0.15);
  }
  // The trim raises the lane, and nothing else does.
  const Stems was = *render(s, {}, cache), is = *render(even, {}, cache);
  const auto power = [](const Stems& of, size_t from) {
    double out = 0;
    for (size_t i = from; i < from + 12000; ++i)
      out += of.bass().at(0, i) * static_cast<double>(of.bass().at(0, i));
    return 10 * std::log10(out);
  };
  EXPECT_NEAR(power(is, 4800) - power(was, 4800), even.bass().notes[0].trim.db, 0.01);
  Session soft = s;
  soft.track.listening.fullScaleDb = 65;
  EXPECT_GT(heard(soft).notes[0].toLineDb, before.notes[0].toLineDb) << "the contours lie closer down there";
  EXPECT_EQ(clearTrims(even.bass()).applied(even), s);
  TemporaryFolder folder;
  ASSERT_TRUE(saveSession(folder / "l.heft", even, {}));
  EXPECT_EQ(openSession(folder / "l.heft")->session.bass().notes, even.bass().notes);
}

// Loudness grows over some 200 ms: of notes of one level and velocity the longer one is never the softer one,
// and once they last that long all are alike.
TEST(LineHeard, OfNotesAlikeButForLengthTheLongerIsNotSofter) {
  Session s;
  BassVoice bass;
  bass.partialDb = {}, bass.partialDb[0] = 0.0, bass.sustainDb = 0.0;
  s.bass().layers.resize(1);
  s.bass().layers[0].what = bass;
  s.track.tempoBpm = 122;
  s.bass().notes = {{0, 0.25, 33}, {1, 0.5, 33}, {2, 1, 33}, {4, 2, 33}};
  StepCache cache;
  const LineHeard heard = lineHeard(s, *render(s, {}, cache), cache);
  ASSERT_EQ(heard.notes.size(), 4u);
  for (size_t i = 1; i < 4; ++i) EXPECT_GE(heard.notes[i].phon, heard.notes[i - 1].phon - 0.1) << i;
  EXPECT_NEAR(heard.notes[2].phon, heard.notes[3].phon, 0.3);
  EXPECT_LT(heard.notes[3].toLineDb - heard.notes[0].toLineDb, 0.0);
  EXPECT_GT(heard.notes[3].toLineDb, -2.0);
}

// ISO 226:2003: 44 Hz at 69 dB SPL, which such a speaker lowers by 50 dB and more, is far below the threshold
// of hearing. The edges of a transform without a taper made 59 phon of it.
TEST(HeardLoudness, APlainSubIsNotHeardOnASmallSpeaker) {
  EXPECT_LT(*smallSpeakerPhon(bufferOf(sine(43.9, 0.5, 2.0, 48000), 48000)), 1.0);
  auto rich = sine(43.9, 0.5, 2.0, 48000);
  for (int n = 2; n <= 10; ++n) {
    const auto partial = sine(43.9 * n, 0.5 / n, 2.0, 48000);
    for (size_t i = 0; i < rich.size(); ++i) rich[i] += partial[i];
  }
  EXPECT_GT(*smallSpeakerPhon(bufferOf(rich, 48000)), kHeardPhon + 10);
}

// A recorded 808 that hardly follows velocity takes a trim in full.
TEST(LineHeard, ARecordingTakesATrimWhole) {
  StepCache cache;
  Session s = theDemo().session;
  s.bass().layers[0].recorded()->velocityToLevel = 0.2;
  const Session trimmed = trimNote(s.bass(), 2, -6.0).applied(s);
  const Stems was = rendered(s, cache), is = rendered(trimmed, cache);
  const auto at = static_cast<size_t>((s.bass().notes[2].startQuarters + 0.1) * s.track.framesPerQuarter());
  for (size_t i = at; i < at + 2000; ++i)
    ASSERT_NEAR(is.bassPlaced().at(0, i), was.bassPlaced().at(0, i) * std::pow(10, -0.3), 1e-6);
  EXPECT_EQ(lineHeard(Session(), *render(Session(), {}, cache), cache).notes.size(), 0u) << "no line";
}

}  // namespace
}  // namespace heft
