#pragma once
/// Edits of whole patterns.

#include "core/session/edits/edit.h"
#include "core/session/pattern_range.h"
#include "core/sound/midi_reader.h"

namespace heft {

Edit kickOnEveryBeat();
Edit bassOffTheBeat();
Edit bassUnderFirstBeat();
/// Repeats the first bar of every part in all others.
Edit copyFirstBar();
/// Moves all hits and notes later by `quarters`, around the loop.
Edit nudgePatterns(double quarters);
/// Replaces hits, notes and wheels of the parts with those ids.
Edit takePatterns(const std::vector<Part>& from, const std::string& name, const std::string& mergeKey = {});

/// Edits of a range of the pattern: remove, move, quantise, transpose, velocity.
Edit clearRange(const std::string& name, const PatternRange& range);
Edit pasteClip(const PatternClip& clip, double atQuarters);
Edit quantiseRange(const PatternRange& range, double strength);
Edit transposeRange(const PatternRange& range, int semitones, const std::string& mergeKey);
Edit changeVelocities(const PatternRange& range, double by, const std::string& mergeKey);

/// Moves notes that sound at these moments, in quarters, by the same offset.
Edit moveNotesAt(const Part& part, const std::vector<double>& quarters, double byMs);

/// Uses a MIDI track's notes as the part's hits, or as its line with its wheel.
Edit readPatternInto(const Part& part, const MidiTrack& track, double loopQuarters);

/// Replaces the part's hits by those found at these moments of a loop at the session's tempo, on its grid.
Edit takeFoundHits(const Part& part, const std::vector<double>& seconds);
/// Merges a recorded take into the notes, with its pitch wheel.
Edit insertNote(const Part& part, const Note& played, const std::string& mergeKey = {});
Edit insertHit(const Part& part, const Hit& played, const std::string& mergeKey = {});
Edit insertWheel(const Part& part, const std::vector<WheelPoint>& played);

/// The position in the file at the loop's start, to a millisecond.
Edit moveBacking(double offsetSeconds, const std::string& mergeKey = {});
Edit setBackingLevel(double levelDb, const std::string& mergeKey = "level");

}  // namespace heft
