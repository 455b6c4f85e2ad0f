#pragma once
/// The fine path about a candidate: its pitch in windows of a few periods, harmonics and offset taken out, and
/// where that path heads, dwells or drifts. Used by rest.h alone.

#include <optional>
#include <vector>

#include "core/measure/pitch/landing.h"
#include "core/sound/filter.h"

namespace heft::resting {

struct PathSample {
  double t, c, w;  // seconds, cents re guess, weight
};

struct FinePath {
  std::vector<PathSample> samples;
  std::vector<PitchPoint> points;
  double heard = 0.0, held = 0.0;  ///< energy of the windows on the path, and the share that the model
                                   ///< explains
  double hopSeconds = 0.0, windowSeconds = 0.0;
};

enum class Level { AsItIs, Flattened };

/// The path about `hz`, in at most `mostWindows` windows.
FinePath finePath(const Decimated& base, double hz, double mostWindows, Level level);
/// Where the path is heading, cents: a fall that still dies away is fitted out. Not empty.
double restOf(const std::vector<PathSample>& path);
/// The points about the path's densest spot.
std::vector<PathSample> aboutPlateau(const std::vector<PathSample>& path);
/// The note of a tail that drifts all the way; nothing where it rests.
std::optional<double> noteOfDrift(const FinePath& path, double hz);

}  // namespace heft::resting
