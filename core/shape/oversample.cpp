#include "core/shape/oversample.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/fir.h"

namespace heft {
namespace {

constexpr double kPi = std::numbers::pi;

double besselI0(double x) {
  double sum = 1.0, term = 1.0;
  for (int k = 1; k < 60; ++k) sum += term *= (x / (2.0 * k)) * (x / (2.0 * k));
  return sum;
}

// Low-pass for the doubled rate, odd, centred, sum 1. `cut` and `width` as fractions of the doubled rate.
// Kaiser's design formulas for 104 dB.
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

// One doubling or halving.
struct Stage {
  explicit Stage(const std::vector<float>& kernel)
      : reach(kernel.size() / 2 + 1),
        upSame(phaseOf(kernel, 0, 2.0f)),
        upBetween(phaseOf(kernel, 1, 2.0f)),
        downSame(phaseOf(kernel, 0, 1.0f)),
        downBetween(phaseOf(kernel, 1, 1.0f)) {}
  size_t reach;
  Phase upSame, upBetween, downSame, downBetween;
};

// Between `factor` / 2 and `factor` times the rate. The first stage is steep; the others have no content
// between the old band and its image.
// the old band and the mirror of it.
const Stage& stageOf(int factor) {
  static const Stage first(kernelFor(0.25 - 0.0208, 0.0416)), second(kernelFor(0.25, 0.25)),
      later(kernelFor(0.25, 0.375));
  return factor == 2 ? first : factor == 4 ? second : later;
}

// The stages' buffers, kept from one stretch to the next.
struct Scratch {
  std::vector<float> even, odd, up, down;
};

// Silence on both sides of the middle.
float* withSilence(std::vector<float>& buffer, size_t count, size_t reach) {
  buffer.resize(std::max(buffer.size(), count + 2 * reach));
  std::fill_n(buffer.begin(), reach, 0.0f);
  std::fill_n(buffer.begin() + static_cast<ptrdiff_t>(reach + count), reach, 0.0f);
  return buffer.data() + reach;
}

// Both phases of the output are filtered from the same input and then interleaved. `out` may be `x`.
void doubled(const std::vector<float>& x, size_t n, const Stage& stage, Scratch& s, std::vector<float>& out) {
  float* in = withSilence(s.up, n, stage.reach);
  std::copy_n(x.begin(), n, in);
  s.even.resize(std::max(s.even.size(), n)), s.odd.resize(std::max(s.odd.size(), n));
  filterFir(in + stage.upSame.first, stage.upSame.taps, s.even.data(), n, FirInto::Set);
  // An odd output is half an input sample later: a tap at distance 2 m + 1 meets input i + m + 1.
  filterFir(in + stage.upBetween.first + 1, stage.upBetween.taps, s.odd.data(), n, FirInto::Set);
  out.resize(std::max(out.size(), 2 * n));
  for (size_t i = 0; i < n; ++i) out[2 * i] = s.even[i], out[2 * i + 1] = s.odd[i];
}

// From 2 `n` samples to n, in place.
void halved(std::vector<float>& x, size_t n, const Stage& stage, Scratch& s) {
  float* even = withSilence(s.up, n, stage.reach);
  float* odd = withSilence(s.down, n, stage.reach);
  for (size_t i = 0; i < n; ++i) even[i] = x[2 * i], odd[i] = x[2 * i + 1];
  filterFir(even + stage.downSame.first, stage.downSame.taps, x.data(), n, FirInto::Set);
  // A tap at distance 2 m + 1 from the even sample i meets the odd one at i + m.
  filterFir(odd + stage.downBetween.first, stage.downBetween.taps, x.data(), n, FirInto::Add);
}

void bendStretch(std::vector<float>& x, size_t n, int factor, const std::function<void(std::span<float>)>& bend,
                 Scratch& s) {
  size_t count = n;
  for (int f = 2; f <= factor; f *= 2, count *= 2) doubled(x, count, stageOf(f), s, x);
  bend(std::span(x).first(count));
  for (int f = factor; f >= 2; f /= 2) halved(x, count /= 2, stageOf(f), s);
}

}  // namespace

std::vector<float> bentAbove(std::span<const float> x, int factor,
                             const std::function<void(std::span<float>)>& bend) {
  // The filters reach 48 samples of `x`, each way and both up and down.
  constexpr size_t kStretch = 2048, kReach = 128;
  std::vector<float> out(x.size()), stretch;
  Scratch scratch;
  for (size_t from = 0; from < x.size(); from += kStretch) {
    const size_t to = std::min(x.size(), from + kStretch), first = from > kReach ? from - kReach : 0,
                 last = std::min(x.size(), to + kReach);
    stretch.resize(std::max(stretch.size(), last - first));
    std::copy(x.begin() + static_cast<ptrdiff_t>(first), x.begin() + static_cast<ptrdiff_t>(last),
              stretch.begin());
    bendStretch(stretch, last - first, factor, bend, scratch);
    std::copy(stretch.begin() + static_cast<ptrdiff_t>(from - first),
              stretch.begin() + static_cast<ptrdiff_t>(to - first), out.begin() + static_cast<ptrdiff_t>(from));
  }
  return out;
}

}  // namespace heft
