#pragma once
/// A whole kit in key: for each drum the note of the key that it needs the least for.

#include "core/theory/key.h"
#include "core/tune/retune.h"

namespace heft {

/// What strains a drum least: the nearest tonic or fifth where that is within two semitones (common practice:
/// these agree with everything over them), else the nearest note of the scale. `landingMidi` may be fractional.
int kitTarget(double landingMidi, const Key& key);

/// What a shift costs, in words: its strain, what it does to the length, and what becomes of the strike.
std::string strainInWords(const Retune& how, double lengthSeconds);

/// "snare E3" for "snare" on E3: a file's name without its folder and ending, and the note it is tuned to.
/// Notes that the name ends on already are replaced.
std::string nameWithNote(const std::string& path, const std::string& note);

}  // namespace heft
