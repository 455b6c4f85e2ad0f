#pragma once
/// Figures as a reference's only section.

#include "core/study/study.h"

namespace heft {

inline MeasuredSection measuredAs(const ProgrammeFacts& facts) {
  auto profile = std::make_shared<SectionProfile>();
  profile->facts = facts;
  return {{}, profile};
}

}  // namespace heft
