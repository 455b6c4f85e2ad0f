#pragma once
/// Independent steps, several at a time.

#include <algorithm>
#include <atomic>
#include <stop_token>
#include <vector>

#include "core/render/cache/helpers.h"
#include "core/render/cache/step_cache.h"

namespace heft {

/// make(0), make(1), ... make(count - 1), on as many threads as the cache allows; the results do not depend
/// on their number. After a request to `stop` the remaining results are undefined.
template <class Make>
auto madeAtOnce(size_t count, const StepCache& cache, const std::stop_token& stop, Make make) {
  std::vector<decltype(make(size_t{}))> out(count);
  std::atomic<size_t> next{0};
  auto work = [&] {
    for (size_t i = next++; i < count && !stop.stop_requested(); i = next++) out[i] = make(i);
  };
  if (count > 1 && cache.threads() > 1)
    cache.helpers()->share(work, std::min(count, cache.threads()) - 1);
  else
    work();
  return out;
}

}  // namespace heft
