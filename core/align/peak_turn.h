#pragma once
/// The all-pass that lowers a peak the most. It changes no level at any frequency, so the headroom it wins is
/// free loudness. Broadcasters have long used such phase rotation on asymmetric voice waveforms.
///
/// Method: the stretches about the highest peaks through one stage, then two, on a grid of frequencies (a
/// third of an octave) and widths, refined by shrinking steps about the best. Sounds that are not rotated
/// count in the sum.

#include <functional>
#include <vector>

#include "core/align/rotation.h"

namespace heft {

/// A stretch of sound: what is phase-rotated, and what is added to it unchanged.
struct PeakStretch {
  /// By channel, all equally long.
  std::vector<std::vector<float>> turned, rest;  ///< rest may be empty: nothing
  size_t leadFrames = 0;                         ///< from rest up to there it only runs in
};

struct PeakTurn {
  std::vector<AllPass> stages;               ///< none where no all-pass lowers the peak by kLeastGainDb
  double beforePeak = 0.0, afterPeak = 0.0;  ///< amplitudes of samples
};
inline constexpr double kLeastPeakGainDb = 0.3;
/// How much more a second stage has to lower it.
inline constexpr double kSecondStageDb = 0.3;

/// Limit on the summed group delay of all stages at their own frequencies, 2 q / (pi hz) each: low notes hide
/// it, and the strike is far above (our own limit, half of what is audible at 50 Hz by common practice).
inline constexpr double kMostKeptBackMs = 12.0;
double keptBackMs(const std::vector<AllPass>& stages);

/// Highest sample after the lead of each stretch, through those stages.
double peakThrough(const std::vector<PeakStretch>& stretches, const std::vector<AllPass>& stages,
                   double sampleRate);

/// At most two stages between 20 and 400 Hz. `progress`: 0 to 1; returning false cancels and keeps the best
/// so far. Cost: some 200 times the stretches through two sections.
PeakTurn lowestPeak(const std::vector<PeakStretch>& stretches, double sampleRate,
                    const std::function<bool(double)>& progress = {});

}  // namespace heft
