#include "core/measure/levels/k_weighting.h"

#include <cmath>
#include <numbers>

namespace heft {
namespace {

constexpr double kOffsetDb = -0.691;  // BS.1770-4: makes a 997 Hz sine at 0 dBFS read -3.01
constexpr double kAbsoluteGate = -70.0, kRelativeGate = -10.0;

double lufsOf(double meanSquare) {
  return kOffsetDb + 10.0 * std::log10(meanSquare);
}

double meanAbove(std::span<const double> blocks, double gate) {
  double sum = 0.0;
  size_t count = 0;
  for (double b : blocks)
    if (b > 0.0 && lufsOf(b) > gate) sum += b, ++count;
  return count ? sum / static_cast<double>(count) : 0.0;
}

}  // namespace

// The analogue prototypes behind the standard's coefficients at 48 kHz (B. De Man, "Evaluation of
// implementations of the EBU R128 loudness measurement", AES 145, 2018), bilinearly transformed.
std::array<Biquad::Coefficients, 2> kWeighting(double rate) {
  const double shelfHz = 1681.9744509555319, shelfDb = 3.99984385397, shelfQ = 0.7071752369554193;
  const double k = std::tan(std::numbers::pi * shelfHz / rate), vh = std::pow(10.0, shelfDb / 20.0),
               vb = std::pow(vh, 0.4996667741545416), a0 = 1.0 + k / shelfQ + k * k;
  const Biquad::Coefficients shelf{(vh + vb * k / shelfQ + k * k) / a0, 2.0 * (k * k - vh) / a0,
                                   (vh - vb * k / shelfQ + k * k) / a0, 2.0 * (k * k - 1.0) / a0,
                                   (1.0 - k / shelfQ + k * k) / a0};
  const double highHz = 38.13547087613982, highQ = 0.5003270373253953;
  const double h = std::tan(std::numbers::pi * highHz / rate), b0 = 1.0 + h / highQ + h * h;
  const Biquad::Coefficients high{1.0, -2.0, 1.0, 2.0 * (h * h - 1.0) / b0, (1.0 - h / highQ + h * h) / b0};
  return {shelf, high};
}

std::vector<size_t> gatedBlocks(std::span<const double> blocks) {
  const double first = meanAbove(blocks, kAbsoluteGate);
  if (!(first > 0.0)) return {};
  const double gate = std::max(kAbsoluteGate, lufsOf(first) + kRelativeGate);
  std::vector<size_t> out;
  for (size_t i = 0; i < blocks.size(); ++i)
    if (blocks[i] > 0.0 && lufsOf(blocks[i]) > gate) out.push_back(i);
  return out;
}

std::optional<double> gatedLufs(std::span<const double> blocks) {
  const double first = meanAbove(blocks, kAbsoluteGate);
  if (!(first > 0.0)) return std::nullopt;
  const double gated = meanAbove(blocks, std::max(kAbsoluteGate, lufsOf(first) + kRelativeGate));
  return gated > 0.0 ? std::optional<double>(lufsOf(gated)) : std::nullopt;
}

}  // namespace heft
