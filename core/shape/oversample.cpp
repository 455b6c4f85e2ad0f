#include "core/shape/oversample.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numbers>

namespace heft {
namespace {

constexpr double kPi = std::numbers::pi;

double besselI0(double x) {
  double sum = 1.0, term = 1.0;
  for (int k = 1; k < 60; ++k) sum += term *= (x / (2.0 * k)) * (x / (2.0 * k));
  return sum;
}

// Low-pass for the doubled rate, odd, centred, sum 1. `cut` and `width` as parts of the doubled rate. Kaiser's
// design formulas for 104 dB.
std::vector<float> kernelFor(double cut, double width) {
  constexpr double kStopDb = 104.0, beta = 0.1102 * (kStopDb - 8.7);
  const auto half = static_cast<int>(std::ceil((kStopDb - 8.0) / (2.285 * 2.0 * kPi * width) / 2.0));
  std::vector<double> taps(static_cast<size_t>(2 * half + 1));
  double sum = 0.0;
  for (int i = -half; i <= half; ++i) {
    const double x = 2.0 * cut * i, r = static_cast<double>(i) / (half + 1);
    const double sinc = i == 0 ? 1.0 : std::sin(kPi * x) / (kPi * x);
    sum += taps[static_cast<size_t>(i + half)] =
        sinc * besselI0(beta * std::sqrt(1.0 - r * r)) / besselI0(beta);
  }
  std::vector<float> out;
  for (double t : taps) out.push_back(static_cast<float>(t / sum));
  return out;
}

// Between `factor` / 2 and `factor` times the rate. The first stage is steep; the others have nothing between
// the old band and the mirror of it.
const std::vector<float>& kernelOfStage(int factor) {
  static const std::vector<float> first = kernelFor(0.25 - 0.0208, 0.0416), second = kernelFor(0.25, 0.25),
                                  later = kernelFor(0.25, 0.375);
  return factor == 2 ? first : factor == 4 ? second : later;
}

// One of the two phases of a kernel: taps that meet every second sample. Zeros at its ends are left out; a
// half-band kernel's one phase is a single tap.
struct Phase {
  std::vector<float> taps;
  ptrdiff_t first = 0;  ///< where the first tap reads, from the output's place on the halved grid
};

// `parity` 0 holds the taps at even distances from the middle, 1 those at odd ones.
Phase phaseOf(const std::vector<float>& kernel, int parity, float gain) {
  const auto half = static_cast<ptrdiff_t>(kernel.size() / 2);
  Phase out;
  bool any = false;
  for (ptrdiff_t k = -half; k <= half; ++k) {
    if ((k & 1) != parity) continue;
    const float tap = gain * kernel[static_cast<size_t>(k + half)];
    if (!any && std::abs(tap) < 1e-9f) continue;
    if (!any) out.first = (k - parity) / 2;
    any = true;
    out.taps.push_back(tap);
  }
  while (!out.taps.empty() && std::abs(out.taps.back()) < 1e-9f) out.taps.pop_back();
  return out;
}

// Four floats that are worked on together (a vector type of GCC and Clang).
typedef float Four __attribute__((vector_size(16)));

Four fourAt(const float* from) {
  Four out;
  std::memcpy(&out, from, sizeof out);
  return out;
}

// out[i] += sum of taps[t] in[i + t]. Sixteen outputs at a time stay in registers while the taps go by.
void addFiltered(const float* in, const std::vector<float>& taps, float* out, size_t count) {
  constexpr size_t kAtOnce = 16;
  size_t i = 0;
  for (; i + kAtOnce <= count; i += kAtOnce) {
    Four a = fourAt(out + i), b = fourAt(out + i + 4), c = fourAt(out + i + 8), d = fourAt(out + i + 12);
    const float* from = in + i;
    for (const float tap : taps) {
      a += tap * fourAt(from), b += tap * fourAt(from + 4);
      c += tap * fourAt(from + 8), d += tap * fourAt(from + 12);
      ++from;
    }
    std::memcpy(out + i, &a, sizeof a), std::memcpy(out + i + 4, &b, sizeof b);
    std::memcpy(out + i + 8, &c, sizeof c), std::memcpy(out + i + 12, &d, sizeof d);
  }
  for (; i < count; ++i)
    for (size_t t = 0; t < taps.size(); ++t) out[i] += taps[t] * in[i + t];
}

// With silence before and after, as much as a kernel reaches.
std::vector<float> padded(const std::vector<float>& x, size_t by) {
  std::vector<float> out(x.size() + 2 * by, 0.0f);
  std::copy(x.begin(), x.end(), out.begin() + static_cast<ptrdiff_t>(by));
  return out;
}

// Both phases of the output are filtered from the same input and then interleaved.
std::vector<float> doubled(const std::vector<float>& x, const std::vector<float>& kernel) {
  const size_t half = kernel.size() / 2, n = x.size();
  const std::vector<float> in = padded(x, half + 1);
  std::vector<float> even(n, 0.0f), odd(n, 0.0f), out(2 * n);
  const auto middle = static_cast<ptrdiff_t>(half + 1);
  const Phase same = phaseOf(kernel, 0, 2.0f), between = phaseOf(kernel, 1, 2.0f);
  addFiltered(in.data() + middle + same.first, same.taps, even.data(), n);
  // An odd output lies half an input sample on: a tap at distance 2 m + 1 meets input i + m + 1.
  addFiltered(in.data() + middle + between.first + 1, between.taps, odd.data(), n);
  for (size_t i = 0; i < n; ++i) out[2 * i] = even[i], out[2 * i + 1] = odd[i];
  return out;
}

std::vector<float> halved(const std::vector<float>& x, const std::vector<float>& kernel) {
  const size_t half = kernel.size() / 2, n = x.size() / 2;
  std::vector<float> even(n), odd(n), out(n, 0.0f);
  for (size_t i = 0; i < n; ++i) even[i] = x[2 * i], odd[i] = x[2 * i + 1];
  even = padded(even, half + 1), odd = padded(odd, half + 1);
  const auto middle = static_cast<ptrdiff_t>(half + 1);
  const Phase same = phaseOf(kernel, 0, 1.0f), between = phaseOf(kernel, 1, 1.0f);
  addFiltered(even.data() + middle + same.first, same.taps, out.data(), n);
  // A tap at distance 2 m + 1 from the even sample i meets the odd one at i + m.
  addFiltered(odd.data() + middle + between.first, between.taps, out.data(), n);
  return out;
}

}  // namespace

std::vector<float> upsampled(std::span<const float> x, int factor) {
  std::vector<float> out(x.begin(), x.end());
  for (int f = 2; f <= factor; f *= 2) out = doubled(out, kernelOfStage(f));
  return out;
}

std::vector<float> downsampled(std::vector<float> x, int factor, size_t frames) {
  for (int f = factor; f >= 2; f /= 2) x = halved(x, kernelOfStage(f));
  x.resize(frames, 0.0f);
  return x;
}

std::vector<float> bentAbove(std::span<const float> x, int factor,
                             const std::function<void(std::span<float>)>& bend) {
  // The filters reach 48 samples of `x`, each way and both up and down.
  constexpr size_t kStretch = 2048, kReach = 128;
  std::vector<float> out(x.size());
  for (size_t from = 0; from < x.size(); from += kStretch) {
    const size_t to = std::min(x.size(), from + kStretch), first = from > kReach ? from - kReach : 0,
                 last = std::min(x.size(), to + kReach);
    auto up = upsampled(x.subspan(first, last - first), factor);
    bend(up);
    const auto down = downsampled(std::move(up), factor, last - first);
    std::copy(down.begin() + static_cast<ptrdiff_t>(from - first),
              down.begin() + static_cast<ptrdiff_t>(to - first), out.begin() + static_cast<ptrdiff_t>(from));
  }
  return out;
}

}  // namespace heft
