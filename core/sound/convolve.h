#pragma once
/// Convolution of whole sounds through one transform.

#include <span>
#include <vector>

namespace heft {

/// x * h, x.size() + h.size() - 1 samples; empty where either is.
std::vector<float> convolved(std::span<const float> x, std::span<const float> h);

}  // namespace heft
