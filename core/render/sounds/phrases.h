#pragma once
/// A line of notes as phrases: runs of tied notes, with the pitch wheel's curve over each.

#include <vector>

#include "core/render/sounds/sounds.h"

namespace heft {

struct PlacedPhrase {
  double startQuarters = 0.0;
  double trimDb = 0.0;  ///< of its first note
  PhraseAsk ask;
};

/// Phrases of the notes that start within the loop, ascending. A note that the next one cuts short ends there.
std::vector<PlacedPhrase> phrasesOf(const Part& part, const Track& track);

/// The wheel's offset in semitones at a position in the loop.
double wheelAt(const Part& part, double quarters);

}  // namespace heft
