#include "core/voices/wave.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {
namespace {

// Fourier series of the plain waves re their fundamental.
double partialLevel(WaveKind kind, int k) {
  if (kind == WaveKind::Saw) return 1.0 / k;
  if (k % 2 == 0) return 0.0;
  if (kind == WaveKind::Square) return 1.0 / k;
  return (k % 4 == 1 ? 1.0 : -1.0) / (static_cast<double>(k) * k);
}

}  // namespace

double mixedWave(WaveKind kind, double amount, double phase, double step) {
  const double angle = 2.0 * std::numbers::pi * phase, first = std::sin(angle);
  if (amount == 0.0) return first;
  // sin(k a) = 2 cos(a) sin((k - 1) a) - sin((k - 2) a).
  const double twice = 2.0 * std::cos(angle);
  double before = 0.0, now = first, sum = first;
  for (int k = 2; k <= 24; ++k) {
    const double next = twice * now - before;
    before = now, now = next;
    const double fade = std::clamp((0.45 - k * step) / 0.1, 0.0, 1.0);
    if (fade == 0.0) break;
    sum += amount * fade * partialLevel(kind, k) * now;
  }
  return sum;
}

}  // namespace heft
