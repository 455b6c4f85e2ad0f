#pragma once
/// Figures that need a whole stretch at once: a loop is taken whole, of a song its loudest minute, or that
/// of the compared section. What they
/// read is put together from figures of blocks, which stand in the cache.

#include "core/compare/ceiling.h"
#include "core/measure/levels/low_end.h"
#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/signal.h"
#include "core/session/session.h"

namespace heft {

struct JudgedStretch {
  size_t first = 0, count = 0;  ///< frames of the lane
  bool wraps = true;
  double rate = 1.0;
  /// Of moments of the lane, in seconds: those in it, counted from its start.
  std::vector<double> within(const std::vector<double>& frames) const;
};
JudgedStretch judgedStretch(const Signal& lane, double rate, StepCache& cache,
                            const std::optional<FrameRange>& range = {});
/// A section's frames, within the lane; nothing where it has none.
std::optional<FrameRange> rangeOfSection(const Session& session, const TrackSection& section, const Span& span);
/// The compared section's; nothing where all is compared.
std::optional<FrameRange> comparedRange(const Session& session, const Span& span);

AudioBuffer soundOf(const Signal& lane, const JudgedStretch& stretch);
/// lowEndPartsOf() of that sound, without its power.
LowEndParts lowEndPartsOf(const Signal& lane, const JudgedStretch& stretch, StepCache& cache);
CeilingParts ceilingPartsOf(const Signal& lane, const JudgedStretch& stretch, StepCache& cache);

}  // namespace heft
