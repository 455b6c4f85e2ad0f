#pragma once
/// A layer's spectrum as heard, the peaks that stick out of it, and the EQ cut that flattens each.

#include <stop_token>

#include "core/measure/levels/standing_out.h"
#include "core/render/sounds/sounds.h"
#include "core/session/edits/edit.h"

namespace heft {

struct LayerSpectrum {
  struct Cut {
    StandingOut peak;
    EqBand band;          ///< a bell in the layer's EQ, which is before its drive; solved through all of it
    double leftDb = 0.0;  ///< how far the peak still sticks out with it
  };
  std::vector<double> heardDb;      ///< fineSpectrum() after the strike; empty without a sound
  std::vector<double> withoutEqDb;  ///< the same with the layer's EQ off; empty where that does nothing
  std::vector<Cut> cuts;            ///< by frequency
};

/// At a full hit, or at the part's main note. Above the fundamental. Cost: renders the layer some five times
/// for each peak.
/// peak.
LayerSpectrum layerSpectrum(const Session& session, int part, int layer, const Assets& assets, StepCache& cache,
                            const std::stop_token& stop = {});

}  // namespace heft
