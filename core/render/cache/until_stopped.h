#pragma once
/// Cancelling work whose steps are in the cache: it ends with the step that is under way.

#include "core/render/cache/step_cache.h"
#include "core/result.h"

namespace heft {

/// work(cache), a Result; Cancelled where it asks for a step after a request to `stop`.
template <class Work>
auto untilStopped(const StepCache& cache, const std::stop_token& stop, Work work)
    -> decltype(work(std::declval<StepCache&>())) {
  StepCache mine = cache.stoppedBy(stop);
  try {
    return work(mine);
  } catch (const StepCache::Stopped&) {
    return cancelled();
  }
}

}  // namespace heft
