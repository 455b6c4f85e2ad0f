#pragma once
/// An all-pass without side effects: kick and bass go through the same one, so their relative phase and their
/// spectra stay, and the peak of the kick or of the sum gets lower.

#include <functional>
#include <optional>
#include <stop_token>

#include "core/align/peak_turn.h"
#include "core/render/lanes/render.h"

namespace heft {

enum class PeakOf { Kick, Sum };

struct FreeTurn {
  PeakOf of = PeakOf::Kick;
  std::vector<AllPass> stages;               ///< one or two
  double beforeDbtp = 0.0, afterDbtp = 0.0;  ///< true peak over the loop, before the sum's finish
  /// Around the former highest peak, without and with the all-pass, from kLeadMs before it.
  std::vector<float> before, after;
  double waveRate = 48000.0;
  double keptBackMs = 0.0;  ///< delay of the bass's main note
  Edit edit;
  static constexpr double kLeadMs = 60.0, kShownMs = 200.0;
  double gainDb() const { return beforeDbtp - afterDbtp; }
};

/// Where an all-pass lowers the true peak by at least kLeastPeakGainDb. Solved for the
/// session without a peak all-pass. Errors: Cancelled.
Result<std::optional<FreeTurn>> freeTurn(PeakOf of, const Session& session, const Assets& assets,
                                         StepCache& cache, const std::stop_token& stop = {},
                                         const std::function<void(double)>& progress = {});
/// Of both.
Result<std::vector<FreeTurn>> freeTurns(const Session& session, const Assets& assets, StepCache& cache,
                                        std::stop_token stop = {},
                                        const std::function<void(double)>& progress = {});

}  // namespace heft
