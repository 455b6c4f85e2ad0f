#pragma once
/// Sums of taps and samples, many outputs at a time. On every machine the same to the bit.

#include <span>

namespace heft {

enum class FirInto { Set, Add };
/// out[i] = or += sum over t of taps[t] in[i + t], for `count` outputs, the taps in order. `in` has count +
/// taps.size() - 1 samples; `out` does not overlap it.
void filterFir(const float* in, std::span<const float> taps, float* out, size_t count, FirInto into);
/// 64 taps in a tree of sums, so that fewer roundings follow each other; the tree is that of the files exported
/// before.
void filterFir64(const float* in, std::span<const float, 64> taps, float* out, size_t count);

}  // namespace heft
