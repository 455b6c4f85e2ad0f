#pragma once
/// The note of a tone by its period, as the ear hears it: also where the fundamental is weak or missing,
/// voices are detuned or partials beat. landing.h uses it where single tones give no note, or a partial
/// instead of the note.
///
/// Method: the cumulative mean normalised difference of each window (YIN: de Cheveigné and Kawahara, JASA
/// 111(4), 2002), its first dip under a threshold, refined by a parabola. It claims a note where most of the
/// sound's energy repeats with one period and at least three partials of it sound, or its fundamental does.

#include <optional>
#include <vector>

#include "core/measure/pitch/landing.h"
#include "core/sound/filter.h"

namespace heft {

struct SteadyPeriod {
  double hz = 0.0;                 ///< energy-weighted mean on the cents scale: the middle of a vibrato
  double confidence = 0.0;         ///< 0 to 1: how much of the energy repeats with it, and how well
  bool wavers = false;             ///< swings about hz: a vibrato, or voices that beat
  std::vector<PitchPoint> points;  ///< seconds from the start of `base`
};

/// `base` starts at the onset. Empty for silence, noise, falls and slides, chords of two notes, and periods
/// outside the range. Cost: a transform per fiftieth of a second, about 3 ms for a second.
std::optional<SteadyPeriod> steadyPeriod(const Decimated& base, double lowHz, double highHz);

/// Whether a steady tone is followed at once by another note, at least 80 cents away and no partial of it:
/// two notes of a line without a gap. Glides, slides, vibrato and beats do not count. Cost: about 1 ms for a
/// second.
bool stepsToAnotherNote(const Decimated& base, double lowHz);

}  // namespace heft
