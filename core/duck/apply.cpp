#include "core/duck/apply.h"

#include <algorithm>
#include <optional>

#include "core/sound/fft.h"
#include "core/sound/filter.h"

namespace heft {

LowPart::LowPart(double sampleRate, double hz, size_t frames) {
  const auto kernel = lowPassKernel(sampleRate, hz, hz);
  taps_ = kernel.size();
  // Overlap-save in pieces, so that cost grows with the length and no single transform does.
  size_ = fastSize(std::min(std::max<size_t>(65536, 4 * taps_), frames + taps_));
  RealFft fft(size_);
  std::copy(kernel.begin(), kernel.end(), fft.time().begin());
  fft.forward();
  response_.assign(fft.bins().begin(), fft.bins().end());
}

std::vector<float> LowPart::of(std::span<const float> x, bool wraps) const {
  const auto half = static_cast<ptrdiff_t>(taps_ / 2), n = static_cast<ptrdiff_t>(x.size());
  const auto usable = static_cast<ptrdiff_t>(size_ - taps_ + 1);
  RealFft fft(size_);
  std::vector<float> out(x.size());
  for (ptrdiff_t at = 0; at < n; at += usable) {
    auto time = fft.time();
    for (ptrdiff_t i = 0; i < static_cast<ptrdiff_t>(size_); ++i) {
      ptrdiff_t from = at - half + i;
      if (wraps && (from < 0 || from >= n)) from = ((from % n) + n) % n;
      time[static_cast<size_t>(i)] = from >= 0 && from < n ? x[static_cast<size_t>(from)] : 0.0;
    }
    fft.forward();
    auto bins = fft.bins();
    for (size_t k = 0; k < bins.size(); ++k) bins[k] *= response_[k];
    fft.inverse();
    for (ptrdiff_t i = 0; i < std::min(usable, n - at); ++i)
      out[static_cast<size_t>(at + i)] = static_cast<float>(time[static_cast<size_t>(i + 2 * half)]);
  }
  return out;
}

AudioBuffer ducked(const AudioBuffer& x, std::span<const float> gain, double crossoverHz, bool wraps) {
  AudioBuffer out = x;
  std::optional<LowPart> lowPart;
  if (crossoverHz > 0.0) lowPart.emplace(x.sampleRate, crossoverHz, x.frames());
  for (auto& channel : out.channels) {
    if (lowPart) {
      const auto low = lowPart->of(channel, wraps);
      for (size_t i = 0; i < channel.size(); ++i) channel[i] += (gain[i] - 1.0f) * low[i];
    } else {
      for (size_t i = 0; i < channel.size(); ++i) channel[i] *= gain[i];
    }
  }
  return out;
}

}  // namespace heft
