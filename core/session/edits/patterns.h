#pragma once
/// Edits of whole patterns.

#include "core/session/edits/edit.h"
#include "core/sound/midi_reader.h"

namespace heft {

Edit kickOnEveryBeat();
Edit bassOffTheBeat();
Edit bassUnderFirstBeat();
/// The first bar of every part again in all others.
Edit copyFirstBar();
/// All hits and notes later by `quarters`, round the loop.
Edit nudgePatterns(double quarters);
/// Hits, notes and wheels of those parts in place of what parts with their ids have.
Edit takePatterns(const std::vector<Part>& from, const std::string& name, const std::string& mergeKey = {});

/// A MIDI track's notes as the part's hits, or as its line with its wheel.
Edit readPatternInto(const Part& part, const MidiTrack& track, double loopQuarters);

Edit setBackingLevel(double levelDb, const std::string& mergeKey = "level");

}  // namespace heft
