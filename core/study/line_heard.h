#pragma once
/// Perceived loudness of each note of the bass line, and what would even it out.

#include <optional>
#include <stop_token>
#include <vector>

#include "core/measure/levels/heard_loudness.h"
#include "core/render/lanes/render.h"

namespace heft {

struct NoteHeard {
  size_t note = 0;         ///< index among the bass's notes: the first of tied ones
  double phon = 0.0;       ///< as it sounds, its trim included
  double toLineDb = 0.0;   ///< gain that would bring it to the line's loudness
  double phonePhon = 0.0;  ///< of what a phone leaves of it (listening_places.h)
};
struct LineHeard {
  double linePhon = 0.0;         ///< the median of all notes
  std::vector<NoteHeard> notes;  ///< in the order of the pattern, without silent ones
};

/// Measures no more phrases than these, the first.
inline constexpr size_t kMostHeardPhrases = 2048;

/// Of the bass's lane before ducking, each phrase from its start with its tail to the next, at most half a
/// second; a full-scale sine plays at the track's listening level. Cost: some ten transforms per changed
/// note, two milliseconds.
LineHeard lineHeard(const Session& session, const Stems& stems, StepCache& cache);

}  // namespace heft
