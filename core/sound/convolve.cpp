#include "core/sound/convolve.h"

#include <algorithm>

#include "core/sound/fft.h"

namespace heft {

std::vector<float> convolved(std::span<const float> x, std::span<const float> h) {
  if (x.empty() || h.empty()) return {};
  const size_t frames = x.size() + h.size() - 1;
  RealFft a(sharedSize(frames)), b(a.size());
  std::copy(x.begin(), x.end(), a.time().begin());
  std::copy(h.begin(), h.end(), b.time().begin());
  a.forward();
  b.forward();
  for (size_t k = 0; k < a.bins().size(); ++k) a.bins()[k] *= b.bins()[k];
  a.inverse();
  return {a.time().begin(), a.time().begin() + static_cast<std::ptrdiff_t>(frames)};
}

}  // namespace heft
