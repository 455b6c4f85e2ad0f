#pragma once
/// Edits of the pitch path itself: the strike higher or lower, a drifting tail straightened onto its landing.

#include "core/measure/events/sound_facts.h"
#include "core/sound/buffer.h"

namespace heft {

struct PathEdit {
  double strikeSemitones = 0.0;  ///< -24 to 24: the strike's own shift; fades over the same time again
  double strikeMs = 10.0;        ///< 1 to 200
  double flatten = 0.0;          ///< 0 to 1: how far drift after the fall is pulled onto the landing
  bool works() const { return strikeSemitones != 0.0 || flatten > 0.0; }
};

/// Distance of the path from the landing once the fast fall is over.
struct DriftPoint {
  double seconds = 0.0;  ///< from the sound's first sample
  double semitones = 0.0;
};

/// Smoothed over three windows, for their own scatter is not to be heard; empty without a note. The fall is
/// over where the path moves by less than a fifth of a semitone within 40 ms; of a path that slides, and of one
/// whose landing was named by hand, where it first comes within two semitones of the note.
std::vector<DriftPoint> driftOf(const SoundFacts& facts);

/// The sound resampled at the edit's speed, sample by sample; a pitch that rests on the landing is unchanged.
/// Without a landing only the strike moves. Stays under full scale if the source did.
AudioBuffer pathEdited(const AudioBuffer& in, const SoundFacts& facts, const PathEdit& edit);

}  // namespace heft
