#pragma once
/// Figures of duckings, measured on their gains. Used by study.cpp.

#include "core/study/study.h"

namespace heft {

void studyDucks(Study& out, const Session& session, const Stems& stems, StepCache& cache);

}  // namespace heft
