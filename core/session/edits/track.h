#pragma once
/// Edits of the track's facts, its grid, its references and what is meant so.

#include "core/session/edits/edit.h"

namespace heft {

Edit nameTrack(const std::string& name);
/// Sharps or flats go with it.
Edit setKey(const Key& key);
/// What was found of a file; nothing leaves a fact as it is.
Edit setKeyAndTempo(const std::optional<Key>& key, std::optional<double> tempoBpm);
Edit setTempo(double bpm, const std::string& mergeKey = {});
/// What A4 is, Hz.
Edit setTuning(double a4Hz, const std::string& mergeKey = {});
/// How middle C is written.
Edit nameOctaves(OctaveNaming naming);
/// The loop keeps its bars.
Edit setMetre(int beatsPerBar, int beatUnit);
/// One beat to eight bars.
Edit setLoopBeats(int beats, const std::string& mergeKey = {});
/// Another swing moves what is played with it; another division leaves everything where it sounds.
Edit setSwing(double swing, const std::string& mergeKey = {});
Edit setGridDivision(const TimeValue& division);
Edit removeReference(size_t index);
/// A line of the Ledger, by its id, is wanted as it is, or judged again.
Edit setMeantSo(const std::string& id, bool meant);

}  // namespace heft
