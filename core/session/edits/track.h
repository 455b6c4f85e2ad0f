#pragma once
/// Edits of the track, its grid, its references and intended lines.

#include "core/session/edits/edit.h"

namespace heft {

Edit nameTrack(const std::string& name);
/// Switches sharps or flats to suit the key.
Edit setKey(const Key& key);
/// Findings of a file; an empty one leaves that value unchanged.
Edit setKeyAndTempo(const std::optional<Key>& key, std::optional<double> tempoBpm);
Edit setTempo(double bpm, const std::string& mergeKey = {});
/// Tuning of A4, Hz.
Edit setTuning(double a4Hz, const std::string& mergeKey = {});
/// How middle C is written.
Edit nameOctaves(OctaveNaming naming);
/// Keeps the number of bars.
Edit setMetre(int beatsPerBar, int beatUnit);
/// One beat to kMostLoopBars, or of a song to kMostSongSeconds. Events beyond the end stay.
Edit setLoopBeats(int beats, const std::string& mergeKey = {});
/// A song from a loop, or the other way; its length only changes where the loop cannot be as long.
Edit setSong(bool song);
/// A new swing moves the events that follow it; a new division leaves everything at its sounding time.
Edit setSwing(double swing, const std::string& mergeKey = {});
Edit setGridDivision(const TimeValue& division);
Edit removeReference(size_t index);
/// Marks a line of the Ledger, by id, as intended, or judges it again.
Edit setMeantSo(const std::string& id, bool meant);

}  // namespace heft
