#include "core/duck/apply.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/fft.h"

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

Biquad::Coefficients bellSection(double sampleRate, double hz, double octaves) {
  const double w = 2.0 * std::numbers::pi * std::min(hz, 0.45 * sampleRate) / sampleRate;
  const double alpha = std::sin(w) * std::sinh(0.5 * std::numbers::ln2 * octaves * w / std::sin(w));
  const double a0 = 1.0 + alpha;
  return {alpha / a0, 0.0, -alpha / a0, -2.0 * std::cos(w) / a0, (1.0 - alpha) / a0};
}

void lowerInBands(std::span<float> x, std::span<const std::vector<float>* const> lows, const ActingBand& band,
                  std::span<const float> gain) {
  const std::vector<float> whole(x.begin(), x.end());
  for (size_t k = 0; k < lows.size(); ++k) {
    const auto share = static_cast<float>(band.steps[k].share);
    for (size_t i = 0; i < x.size(); ++i)
      x[i] += share * (gain[i] - 1.0f) * ((*lows[k])[i] - (k > 0 ? (*lows[k - 1])[i] : 0.0f));
  }
  const auto above = static_cast<float>(band.aboveShare);
  for (size_t i = 0; above > 0.0f && i < x.size(); ++i)
    x[i] += above * (gain[i] - 1.0f) * (whole[i] - (lows.empty() ? 0.0f : (*lows.back())[i]));
}

AudioBuffer ducked(const AudioBuffer& x, std::span<const float> gain, const ActingBand& band, bool wraps) {
  AudioBuffer out = x;
  std::vector<LowPart> parts;
  if (band.kind == DuckBandKind::Several)
    for (const BandStep& step : band.steps) parts.emplace_back(x.sampleRate, step.belowHz, x.frames());
  for (auto& channel : out.channels) {
    if (band.kind == DuckBandKind::All) {
      for (size_t i = 0; i < channel.size(); ++i) channel[i] *= gain[i];
    } else if (band.kind == DuckBandKind::Bell) {
      Biquad bell(bellSection(x.sampleRate, band.bellHz, band.octaves));
      for (size_t i = 0; i < channel.size(); ++i)
        channel[i] += (gain[i] - 1.0f) * static_cast<float>(bell.process(channel[i]));
    } else {
      std::vector<std::vector<float>> lows;
      for (const LowPart& part : parts) lows.push_back(part.of(channel, wraps));
      std::vector<const std::vector<float>*> each;
      for (const auto& low : lows) each.push_back(&low);
      lowerInBands(channel, each, band, gain);
    }
  }
  return out;
}

}  // namespace heft
