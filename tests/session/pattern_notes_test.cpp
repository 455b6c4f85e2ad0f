// Notes of drums in pattern files, and of triggers.

#include <gtest/gtest.h>

#include <set>

#include "core/session/edits/parts.h"
#include "core/session/midi_pattern.h"

namespace heft {
namespace {

// General MIDI level 1's percussion map, from memory: bass drum 36, snare 38, hand clap 39. A trigger of one
// note fires on one part.
TEST(PatternFiles, EachDrumHasItsOwnNoteAndNothingOutlastsTheLoop) {
  Session s;
  s.track.loopBeats = 4;
  for (int id = 3; id <= 7; ++id)
    addPart(id, id == 3 ? "Clap" : id == 4 ? "Snare" : "Perc " + std::to_string(id), Plays::Hits).change(s);
  for (Part& part : s.parts)
    if (!part.playsNotes()) part.hits = {{0.0, 1.0}, {3.9, 0.5}};
  s.bass().notes = {{3.0, 3.0, 33, 0.8}};
  const MidiFile file = midiOf(s);
  std::set<int> notes;
  for (const MidiTrack& track : file.tracks)
    for (const MidiNote& n : track.notes) {
      EXPECT_LE(n.startQuarters + n.lengthQuarters, s.track.loopQuarters() + 1e-9) << track.name;
      if (track.name != "Bass") notes.insert(n.note);
    }
  EXPECT_EQ(notes.size(), 6u);
  for (const int known : {36, 38, 39}) EXPECT_TRUE(notes.contains(known)) << known;
}

// MIDI note 0 is a note.
TEST(PatternFiles, ATriggerOfTheLowestNoteIsRead) {
  Session s;
  s.duck().source.pitches = {0, 127};
  const auto again = sessionFromJson(sessionToJson(s), "x");
  ASSERT_TRUE(again) << again.error().sentence();
  EXPECT_EQ(again->duck().source.pitches, (std::vector<int>{0, 127}));
}

}  // namespace
}  // namespace heft
