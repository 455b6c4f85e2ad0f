#pragma once
/// Every meeting of kick and bass in the loop. Used by study.cpp.
///
/// The lanes are brought to the slow rate that alignment works at once each; hits read their stretch of them, so
/// what a hit costs does not grow with the rate, and a hit whose stretch did not change is found in the cache.

#include "core/ledger/study.h"

namespace heft {

/// Fills hits, all, best and alignedDb; nothing without a kick or hits. Errors: Cancelled.
Result<void> studyHits(Study& out, const Session& session, const Stems& stems, StepCache& cache,
                       const std::stop_token& stop);

}  // namespace heft
