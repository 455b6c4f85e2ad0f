#pragma once
/// Where a kick could land: proposals with their shift, in words that need no arithmetic.

#include <string>
#include <vector>

#include "core/theory/key.h"
#include "core/theory/note.h"

namespace heft {

struct TuneTarget {
  int midi = 33;
  std::string why;       ///< "the bass's note", "octave above", "tonic, up", "tonic, down"
  double semitones = 0;  ///< from the landing to the target
};

/// `landingMidi`: measured, may be fractional. `bassMidi`: the note the bass plays under most hits, or a
/// negative number. Nearest first within each reason; no note twice.
std::vector<TuneTarget> tuneTargets(double landingMidi, int bassMidi, const Key& key);

/// "on A1", "58 cents under A1", "3 semitones and 12 cents over A1".
std::string distanceText(double midi, int targetMidi, const NoteStyle& style);

}  // namespace heft
