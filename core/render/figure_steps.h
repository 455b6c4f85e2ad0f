#pragma once
/// Figures of a lane made from pieces: what stands in blocks that did not change is not measured again. Each is
/// what the same measure gives of the whole lane, a loop that meets itself (tests/figures_test.cpp).

#include "core/measure/low_end.h"
#include "core/render/stem.h"
#include "core/sound/filter.h"

namespace heft {

enum class Fold { Mid, Side };  ///< half the channels' sum, or half their difference (nothing of a mono lane)

/// `count` frames from `first` on, which may lie outside the loop, brought down as decimated() does.
Decimated decimatedLane(const Stem& lane, Fold fold, double rate, double targetRate, int64_t first,
                        size_t count, StepCache& cache);

/// measureLowEnd() of the loop.
LowEnd laneLowEnd(const Stem& lane, double rate, StepCache& cache);

/// Integrated loudness of a loop, LUFS; nothing where its rate cannot be measured or it is silent. Kept.
std::optional<double> laneLoudness(const Stem& lane, double rate, StepCache& cache);
/// Its true peak, dBTP.
double laneTruePeakDbtp(const Stem& lane, double rate, StepCache& cache);

/// Loudness, true peak and low end of a loop; nothing where its rate cannot be measured. The loop is repeated
/// for the loudness gate until it lasts three seconds.
std::optional<ProgrammeFacts> laneProgramme(const Stem& lane, double rate, StepCache& cache);

}  // namespace heft
