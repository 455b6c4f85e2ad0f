#pragma once
/// Noise that is the same on every run and machine.

#include <cstdint>

namespace heft {

/// White noise, uniform in -1 to 1. SplitMix64 (Steele, Lea, Flood, OOPSLA 2014) counted from a seed.
class Noise {
 public:
  explicit Noise(uint64_t seed) : state_(mixed(seed)) {}
  float next() {
    return static_cast<float>(static_cast<double>(mixed(state_ += 0x9E3779B97F4A7C15ull) >> 11) * 0x1.0p-52 -
                              1.0);
  }

 private:
  static uint64_t mixed(uint64_t z) {
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ull;
    z = (z ^ (z >> 27)) * 0x94D049BB133111EBull;
    return z ^ (z >> 31);
  }
  uint64_t state_;
};

}  // namespace heft
