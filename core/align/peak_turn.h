#pragma once
/// The all-pass that lowers a peak the most: no level at any frequency changes, so what it wins under a ceiling
/// is loudness for nothing. Recordings of voices have been given such a turn since broadcasting began, for
/// waves that lean to one side.
///
/// Method: the stretches about the highest peaks through one stage, then two, on a grid of frequencies (a third
/// of an octave) and widths, then by shrinking steps about the best. What lies beside the turned sound and
/// stays as it is counts in the sum.

#include <functional>
#include <vector>

#include "core/align/rotation.h"

namespace heft {

/// A stretch of sound: what is turned, and what is added to it as it is.
struct PeakStretch {
  /// By channel, all equally long.
  std::vector<std::vector<float>> turned, rest;  ///< rest may be empty: nothing
  size_t leadFrames = 0;                         ///< from rest up to there it only runs in
};

struct PeakTurn {
  std::vector<AllPass> stages;               ///< none where no turn lowers the peak by kLeastGainDb
  double beforePeak = 0.0, afterPeak = 0.0;  ///< amplitudes of samples
};
inline constexpr double kLeastPeakGainDb = 0.3;
/// A second stage has to lower it by that much more.
inline constexpr double kSecondStageDb = 0.3;

/// What its stages keep back at their own frequencies, 2 q / (pi hz) each, is at most that together: low notes
/// bear it, and the strike lies far above (our own bound, half of what is heard at 50 Hz by common practice).
inline constexpr double kMostKeptBackMs = 12.0;
double keptBackMs(const std::vector<AllPass>& stages);

/// Highest sample after the lead of each stretch, through those stages.
double peakThrough(const std::vector<PeakStretch>& stretches, const std::vector<AllPass>& stages,
                   double sampleRate);

/// At most two stages between 20 and 400 Hz. `progress`: 0 to 1; false calls it off, and the best so far is
/// given. Cost: some 200 times the stretches through two sections.
PeakTurn lowestPeak(const std::vector<PeakStretch>& stretches, double sampleRate,
                    const std::function<bool(double)>& progress = {});

}  // namespace heft
