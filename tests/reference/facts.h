#pragma once
/// What is measured of a sound that a test made.

#include "core/measure/events/sound_facts.h"
#include "tests/reference/signals.h"

namespace heft::reference {

inline SoundFacts facts(const std::vector<double>& x, double rate) {
  return measureSound(bufferOf(x, rate));
}

}  // namespace heft::reference
