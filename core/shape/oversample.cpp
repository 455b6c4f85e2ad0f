#include "core/shape/oversample.h"

#include <algorithm>
#include <cmath>
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

// Even and odd taps apart, so that no product with a zero is made.
std::vector<float> doubled(const std::vector<float>& x, const std::vector<float>& kernel) {
  const auto half = static_cast<ptrdiff_t>(kernel.size() / 2), n = static_cast<ptrdiff_t>(x.size());
  std::vector<float> padded(static_cast<size_t>(n + 2 * half), 0.0f), out(x.size() * 2, 0.0f);
  std::copy(x.begin(), x.end(), padded.begin() + half);
  for (ptrdiff_t phase = 0; phase < 2; ++phase) {
    // Output 2 i + phase: taps whose distance to it is even on the doubled grid.
    std::vector<float> taps;
    ptrdiff_t firstInput = 0;
    for (ptrdiff_t k = -half; k <= half; ++k)
      if (((phase - k) & 1) == 0) {
        if (taps.empty()) firstInput = (phase - k) / 2;
        taps.push_back(2.0f * kernel[static_cast<size_t>(k + half)]);
      }
    // Input index falls as k rises.
    std::reverse(taps.begin(), taps.end());
    const ptrdiff_t lowest = firstInput - static_cast<ptrdiff_t>(taps.size()) + 1;
    for (ptrdiff_t i = 0; i < n; ++i) {
      const float* in = padded.data() + half + i + lowest;
      float sum = 0.0f;
      for (size_t t = 0; t < taps.size(); ++t) sum += taps[t] * in[t];
      out[static_cast<size_t>(2 * i + phase)] = sum;
    }
  }
  return out;
}

std::vector<float> halved(const std::vector<float>& x, const std::vector<float>& kernel) {
  const size_t half = kernel.size() / 2, n = x.size() / 2;
  std::vector<float> padded(x.size() + 2 * half, 0.0f), out(n);
  std::copy(x.begin(), x.end(), padded.begin() + static_cast<ptrdiff_t>(half));
  for (size_t i = 0; i < n; ++i) {
    const float* in = padded.data() + 2 * i;
    float sum = 0.0f;
    for (size_t t = 0; t < kernel.size(); ++t) sum += kernel[t] * in[t];
    out[i] = sum;
  }
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

}  // namespace heft
