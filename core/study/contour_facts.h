#pragma once
/// Low-end energy that a part's contour saves, and its effect on the peak.

#include <vector>

#include "core/render/lanes/render.h"
#include "core/render/sounds/sounds.h"

namespace heft {

struct ContourFacts {
  int part = 0;
  Signal plain;          ///< the lane without the contour, before it is moved and ducked
  double savedDb = 0.0;  ///< energy below 120 Hz over the loop without it re with it: positive is saved
  double peakDb = 0.0;   ///< highest level below 120 Hz with it re without it
};

/// For parts whose contour does something; skips silent ones. Cost: one render of the lane without it, mostly
/// from cached steps.
std::vector<ContourFacts> contourFacts(const Session& session, const SoundSteps& steps, const Stems& stems,
                                       StepCache& cache, const std::stop_token& stop);

}  // namespace heft
