#pragma once
/// Triggers of full velocity at those frames.

#include <vector>

#include "core/duck/gain_curve.h"

namespace heft::reference {

inline std::vector<Trigger> triggersAt(const std::vector<double>& frames) {
  std::vector<Trigger> out;
  for (const double f : frames) out.push_back({f});
  return out;
}

}  // namespace heft::reference
