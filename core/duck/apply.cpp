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

size_t LowPart::reach(double sampleRate, double hz) {
  return lowPassReach(sampleRate, hz);
}

std::vector<float> LowPart::of(std::span<const float> x, bool wraps) const {
  const size_t half = taps_ / 2, n = x.size();
  std::vector<float> wider(n + 2 * half, 0.0f);
  std::copy(x.begin(), x.end(), wider.begin() + static_cast<ptrdiff_t>(half));
  for (size_t i = 0; wraps && n > 0 && i < half; ++i) {
    wider[half + n + i] = x[i % n];
    wider[half - 1 - i] = x[n - 1 - i % n];
  }
  return inside(wider);
}

std::vector<float> LowPart::inside(std::span<const float> x) const {
  const size_t usable = size_ - taps_ + 1, count = x.size() - (taps_ - 1);
  RealFft fft(size_);
  std::vector<float> out(count);
  for (size_t at = 0; at < count; at += usable) {
    const auto time = fft.time();
    const auto piece = x.subspan(at, std::min(size_, x.size() - at));
    std::fill(std::copy(piece.begin(), piece.end(), time.begin()), time.end(), 0.0);
    fft.forward();
    const auto bins = fft.bins();
    for (size_t k = 0; k < bins.size(); ++k) bins[k] *= response_[k];
    fft.inverse();
    for (size_t i = 0; i < std::min(usable, count - at); ++i)
      out[at + i] = static_cast<float>(time[taps_ - 1 + i]);
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
