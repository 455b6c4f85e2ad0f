#pragma once
/// Every meeting of kick and bass in the loop. Used by study.cpp.
/// Brings each lane to alignment's low rate once; hits read their stretch of it, so a hit's cost does not
/// grow with the rate, and a hit whose stretch did not change comes from the cache.

#include "core/study/study.h"

namespace heft {

/// Fills hits, all, best and alignedDb; nothing without a kick or hits. Errors: Cancelled.
Result<void> studyHits(PairFacts& out, const Session& session, const Assets& assets, const Stems& stems,
                       StepCache& cache, const std::stop_token& stop);

/// How much the bass masks the kick: ways to make room are judged by this alone.
struct RoomFacts {
  std::vector<std::optional<double>> bassToKickDb;  ///< as HitFacts::bassReKickDb, at each judged hit
  /// Levels between 20 and 150 Hz after the hit where the bass is loudest, as amplitudes each 5 ms from 25 ms
  /// before it.
  std::vector<float> kickLevel, bassLevel;
  static constexpr double kStepMs = 5.0, kLeadMs = 25.0;
  double worstDb() const;  ///< kNothing where no hit has bass under it
  static constexpr double kNothing = -120.0;
};
/// Levels are those after `atHit`, or after the worst hit. Nothing without a kick or hits.
std::optional<RoomFacts> measureRoom(const Session& session, const Assets& assets, const Stems& stems,
                                     StepCache& cache, std::optional<size_t> atHit = {});

}  // namespace heft
