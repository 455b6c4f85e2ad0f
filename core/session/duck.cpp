#include "core/session/duck.h"

namespace heft {

DetectorOptions DuckSource::detector() const {
  DetectorOptions out;
  out.highCutHz = highCutHz.value_or(out.highCutHz);
  out.lowCutHz = lowCutHz;
  out.thresholdDb = thresholdDb;
  out.shortestGapMs = shortestGapMs;
  return out;
}

}  // namespace heft
