#pragma once
/// A phase rotation at no cost: kick and bass through the same all-pass, so their relative phase and spectra
/// stay and the peak of the kick, or of the sum, is lower.

#include <functional>
#include <stop_token>

#include "core/align/peak_turn.h"
#include "core/render/render.h"

namespace heft {

enum class PeakOf { Kick, Sum };

struct FreeTurn {
  PeakOf of = PeakOf::Kick;
  std::vector<AllPass> stages;               ///< one or two
  double beforeDbtp = 0.0, afterDbtp = 0.0;  ///< true peak over the loop, before the sum's finish
  /// About the highest peak that there was, without the turn and with it, from kLeadMs before it.
  std::vector<float> before, after;
  double waveRate = 48000.0;
  double keptBackMs = 0.0;  ///< by how much the bass's main note comes later
  Edit edit;
  static constexpr double kLeadMs = 60.0, kShownMs = 200.0;
  double gainDb() const { return beforeDbtp - afterDbtp; }
};

/// Of kick and sum, those where a turn lowers the true peak by kLeastPeakGainDb. Solved for the session without
/// any free turn. Errors: Cancelled.
Result<std::vector<FreeTurn>> freeTurns(const Session& session, const Assets& assets, StepCache& cache,
                                        std::stop_token stop = {},
                                        const std::function<void(double)>& progress = {});

}  // namespace heft
