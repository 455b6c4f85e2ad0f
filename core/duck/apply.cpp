#include "core/duck/apply.h"

#include <algorithm>

#include "core/sound/fft.h"
#include "core/sound/filter.h"

namespace heft {

std::vector<float> below(std::span<const float> x, double sampleRate, double hz, bool wraps) {
  const auto kernel = lowPassKernel(sampleRate, hz, hz);
  const auto half = static_cast<ptrdiff_t>(kernel.size() / 2);
  const auto n = static_cast<ptrdiff_t>(x.size());
  if (n == 0) return {};
  // Overlap-save in pieces, so that cost grows with the length and no single transform does.
  const size_t size = fastSize(std::min(std::max<size_t>(65536, 4 * kernel.size()), x.size() + kernel.size()));
  const auto usable = static_cast<ptrdiff_t>(size - kernel.size() + 1);
  RealFft fft(size);
  std::copy(kernel.begin(), kernel.end(), fft.time().begin());
  fft.forward();
  const std::vector<std::complex<double>> response(fft.bins().begin(), fft.bins().end());
  std::vector<float> out(x.size());
  for (ptrdiff_t at = 0; at < n; at += usable) {
    auto time = fft.time();
    for (ptrdiff_t i = 0; i < static_cast<ptrdiff_t>(size); ++i) {
      ptrdiff_t from = at - half + i;
      if (wraps) from = ((from % n) + n) % n;
      time[static_cast<size_t>(i)] = from >= 0 && from < n ? x[static_cast<size_t>(from)] : 0.0;
    }
    fft.forward();
    auto bins = fft.bins();
    for (size_t k = 0; k < bins.size(); ++k) bins[k] *= response[k];
    fft.inverse();
    for (ptrdiff_t i = 0; i < std::min(usable, n - at); ++i)
      out[static_cast<size_t>(at + i)] = static_cast<float>(time[static_cast<size_t>(i + 2 * half)]);
  }
  return out;
}

AudioBuffer ducked(const AudioBuffer& x, std::span<const float> gain, double crossoverHz, bool wraps) {
  AudioBuffer out = x;
  for (auto& channel : out.channels) {
    if (crossoverHz > 0.0) {
      const auto low = below(channel, x.sampleRate, crossoverHz, wraps);
      for (size_t i = 0; i < channel.size(); ++i) channel[i] += (gain[i] - 1.0f) * low[i];
    } else {
      for (size_t i = 0; i < channel.size(); ++i) channel[i] *= gain[i];
    }
  }
  return out;
}

}  // namespace heft
