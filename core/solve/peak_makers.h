#pragma once
/// Who makes the sum's worst peaks, by taking everything out one at a time.

#include <stop_token>
#include <vector>

#include "core/judge/ledger.h"
#include "core/render/lanes/render.h"

namespace heft {

/// What taking something out does to a peak.
struct PeakBlame {
  std::optional<int> part;      ///< nothing: the backing
  std::optional<int> layer;     ///< of that part
  std::optional<size_t> event;  ///< of that part: index of the hit or note
  std::string words;            ///< "Kick", "Pan lid kick", "hit 3", "A1 at 2.3"
  double dropDb = 0.0;  ///< how much lower the true peak there is without it; negative where it is higher
};

struct MadePeak {
  double seconds = 0.0;
  double overDb = 0.0;  ///< true peak over the ceiling, at the gain
  /// Of each part, and of the backing (last), in the session's order: its part of the peak sample, 0 to 1; what
  /// pulls the other way counts as none.
  std::vector<double> shares;
  std::vector<PeakBlame> parts, layers, events;  ///< all of them, those that lower the peak the most first
  std::optional<Remedy> move;                    ///< the move that lowers it the most
  double winsDb = 0.0;                           ///< by how much
  const PeakBlame* most() const { return parts.empty() ? nullptr : &parts.front(); }
};
inline constexpr size_t kMostPeaks = 5;

/// The worst peaks of the sum at a gain, each 50 ms from the others, above a ceiling; at most kMostPeaks, the
/// worst first. Parts and the backing are left out of the finished sum with their duckings kept; layers rest
/// everywhere, hits and notes alone, their triggers kept. Moves: 2 dB of soft clip on the layer, the layer 1 ms
/// later, a lower level, kick and bass through the all-pass that lowers the sum's peak most (peak_turn.h).
/// Errors: Cancelled. Cost: a render for each layer, event and move, some 10 ms each.
Result<std::vector<MadePeak>> peakMakers(const Session& session, const Assets& assets, const Stems& stems,
                                         double gainDb, double ceilingDb, StepCache& cache,
                                         const std::stop_token& stop = {});

}  // namespace heft
