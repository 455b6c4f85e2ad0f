#pragma once
/// The demo and sessions made of it, rendered.

#include <gtest/gtest.h>

#include "core/render/render.h"
#include "scenario/make_demo.h"

namespace heft::reference {

inline const demo::Demo& theDemo() {
  static const demo::Demo demo = *demo::make();
  return demo;
}

inline Stems rendered(const Session& s, StepCache& cache) {
  auto stems = render(s, theDemo().assets, cache);
  EXPECT_TRUE(stems);
  return std::move(*stems);
}

}  // namespace heft::reference
