#include "core/sound/fir.h"

#include <algorithm>
#include <array>
#include <cstring>

namespace heft {
namespace {

// So many floats are worked on together (vector types of GCC and Clang).
typedef float Four __attribute__((vector_size(16)));
typedef float Eight __attribute__((vector_size(32)));

template <class Together>
[[gnu::always_inline]] inline void load(Together& into, const float* from) {
  std::memcpy(&into, from, sizeof into);
}
template <class Together>
[[gnu::always_inline]] inline void store(float* to, const Together& what) {
  std::memcpy(to, &what, sizeof what);
}

// Returns where whole rows of outputs end. Four vectors of outputs stay in registers over all taps. Each
// output sums its taps in order, however many outputs are computed together: the sums are the same to the
// bit.
template <class Together>
[[gnu::always_inline]] inline size_t filterTogether(const float* in, std::span<const float> taps, float* out,
                                                    size_t i, size_t count, bool adds) {
  constexpr size_t kWide = sizeof(Together) / sizeof(float), kAtOnce = 4 * kWide;
  for (; i + kAtOnce <= count; i += kAtOnce) {
    Together a{}, b{}, c{}, d{};
    if (adds)
      load(a, out + i), load(b, out + i + kWide), load(c, out + i + 2 * kWide), load(d, out + i + 3 * kWide);
    const float* from = in + i;
    for (const float tap : taps) {
      Together e, f, g, h;
      load(e, from), load(f, from + kWide), load(g, from + 2 * kWide), load(h, from + 3 * kWide);
      a += tap * e, b += tap * f, c += tap * g, d += tap * h;
      ++from;
    }
    store(out + i, a), store(out + i + kWide, b), store(out + i + 2 * kWide, c), store(out + i + 3 * kWide, d);
  }
  return i;
}

// Every fourth of 64 taps over two vectors: the first four in pairs, then by threes.
template <class Together>
[[gnu::always_inline]] inline void everyFourth(Together* sums, const float* in, const float* taps) {
  for (size_t v = 0; v < 2; ++v) {
    Together a, b, c, d;
    const float* from = in + v * sizeof(Together) / sizeof(float);
    load(a, from), load(b, from + 4), load(c, from + 8), load(d, from + 12);
    sums[v] = (taps[0] * a + taps[4] * b) + (taps[8] * c + taps[12] * d);
  }
  for (size_t m = 16; m < 64; m += 12)
    for (size_t v = 0; v < 2; ++v) {
      Together a, b, c;
      const float* from = in + m + v * sizeof(Together) / sizeof(float);
      load(a, from), load(b, from + 4), load(c, from + 8);
      sums[v] += (taps[m] * a + taps[m + 4] * b) + taps[m + 8] * c;
    }
}

template <class Together>
[[gnu::always_inline]] inline size_t of64Together(const float* in, const float* taps, float* out, size_t i,
                                                  size_t count) {
  constexpr size_t kWide = sizeof(Together) / sizeof(float), kAtOnce = 2 * kWide;
  for (; i + kAtOnce <= count; i += kAtOnce) {
    Together sums[4][2];
    for (size_t k = 0; k < 4; ++k) everyFourth(sums[k], in + i + k, taps + k);
    for (size_t v = 0; v < 2; ++v)
      store(out + i + v * kWide, (sums[0][v] + sums[2][v]) + (sums[1][v] + sums[3][v]));
  }
  return i;
}

#if defined(__x86_64__)
// No fused products: exports are the same on every machine.
[[gnu::target("avx2")]] size_t filterByEights(const float* in, std::span<const float> taps, float* out,
                                              size_t count, bool adds) {
  return filterTogether<Eight>(in, taps, out, 0, count, adds);
}
[[gnu::target("avx2")]] size_t of64ByEights(const float* in, const float* taps, float* out, size_t count) {
  return of64Together<Eight>(in, taps, out, 0, count);
}
bool hasEights() {
  static const bool has = __builtin_cpu_supports("avx2");
  return has;
}
#else
size_t filterByEights(const float*, std::span<const float>, float*, size_t, bool) {
  return 0;
}
size_t of64ByEights(const float*, const float*, float*, size_t) {
  return 0;
}
bool hasEights() {
  return false;
}
#endif

}  // namespace

void filterFir(const float* in, std::span<const float> taps, float* out, size_t count, FirInto into) {
  const bool adds = into == FirInto::Add;
  size_t i = hasEights() ? filterByEights(in, taps, out, count, adds) : 0;
  i = filterTogether<Four>(in, taps, out, i, count, adds);
  if (!adds) std::fill(out + i, out + count, 0.0f);
  for (; i < count; ++i)
    for (size_t t = 0; t < taps.size(); ++t) out[i] += taps[t] * in[i + t];
}

void filterFir64(const float* in, std::span<const float, 64> taps, float* out, size_t count) {
  size_t i = hasEights() ? of64ByEights(in, taps.data(), out, count) : 0;
  i = of64Together<Four>(in, taps.data(), out, i, count);
  for (; i < count; ++i) {
    // Nothing readable follows the last output.
    std::array<float, 67 + 1> padded{};
    std::copy_n(in + i, 64, padded.begin());
    float two[2];
    of64Together<float>(padded.data(), taps.data(), two, 0, 2);
    out[i] = two[0];
  }
}

}  // namespace heft
