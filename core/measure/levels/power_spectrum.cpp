#include "core/measure/levels/power_spectrum.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/fft.h"

namespace heft {
namespace {

void addPower(RealFft& fft, PowerSpectrum& out, double scale) {
  fft.forward();
  const auto bins = fft.bins();
  for (size_t k = 0; k < bins.size(); ++k) out.power[k] += std::norm(bins[k]) * scale * (k == 0 ? 1.0 : 2.0);
}

PowerSpectrum wholeSpectrum(std::span<const double> x, double rate, bool wraps) {
  RealFft fft(wraps ? x.size() : sharedSize(std::max<size_t>(2 * x.size(), 4096)));
  std::copy(x.begin(), x.end(), fft.time().begin());
  std::fill(fft.time().begin() + static_cast<ptrdiff_t>(x.size()), fft.time().end(), 0.0);
  PowerSpectrum out{std::vector<double>(fft.size() / 2 + 1, 0.0), rate / static_cast<double>(fft.size())};
  addPower(fft, out, 1.0 / (static_cast<double>(fft.size()) * static_cast<double>(x.size())));
  return out;
}

PowerSpectrum meanSpectrum(std::span<const double> x, double rate, double windowSeconds) {
  WindowedPower power(rate, windowSeconds);
  const auto hop = static_cast<ptrdiff_t>(power.hop());
  std::vector<double> window(power.size());
  for (ptrdiff_t at = hop - std::ssize(window); at < std::ssize(x); at += hop) {
    for (size_t i = 0; i < window.size(); ++i) {
      const ptrdiff_t from = at + static_cast<ptrdiff_t>(i);
      window[i] = from >= 0 && from < std::ssize(x) ? x[static_cast<size_t>(from)] : 0.0;
    }
    power.add(window);
  }
  return power.meanOf(power.sums(), x.size());
}

}  // namespace

WindowedPower::WindowedPower(double rate, double windowSeconds)
    : rate_(rate), hann_(fastSize(static_cast<size_t>(windowSeconds * rate)) / 4 * 4) {
  const auto size = static_cast<double>(hann_.size());
  for (size_t i = 0; i < hann_.size(); ++i)
    hann_[i] = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / size);
  sums_.assign(hann_.size() / 2 + 1, 0.0);
}

void WindowedPower::add(std::span<const double> window) {
  RealFft fft(hann_.size());
  for (size_t i = 0; i < hann_.size(); ++i) fft.time()[i] = window[i] * hann_[i];
  fft.forward();
  const auto bins = fft.bins();
  for (size_t k = 0; k < bins.size(); ++k) sums_[k] += std::norm(bins[k]) * (k == 0 ? 1.0 : 2.0);
}

PowerSpectrum WindowedPower::meanOf(const std::vector<double>& sums, size_t samples) const {
  const auto size = static_cast<double>(hann_.size());
  PowerSpectrum out{sums, rate_ / size};
  // Hann squared at three quarters overlap adds up to 1.5 everywhere.
  for (double& v : out.power) v /= 1.5 * size * static_cast<double>(samples);
  return out;
}

double PowerSpectrum::between(double lowHz, double highHz) const {
  const double a = lowHz / stepHz + 0.5, b = highHz / stepHz + 0.5;
  double sum = 0.0;
  for (auto k = static_cast<size_t>(std::max(0.0, a)); k < power.size() && static_cast<double>(k) < b; ++k) {
    const double from = std::max(a, static_cast<double>(k)), to = std::min(b, static_cast<double>(k) + 1.0);
    sum += power[k] * std::max(0.0, to - from);
  }
  return sum;
}

PowerSpectrum powerSpectrum(std::span<const double> x, double rate, bool wraps, double windowSeconds) {
  if (wraps || static_cast<double>(x.size()) < 2.0 * windowSeconds * rate) return wholeSpectrum(x, rate, wraps);
  return meanSpectrum(x, rate, windowSeconds);
}

}  // namespace heft
