#include "core/measure/levels/spectrum.h"

#include <algorithm>
#include <cmath>

#include "core/sound/fft.h"

namespace heft {
namespace {

constexpr double kShareBelowHz = 120.0, kBalanceSeconds = 2.0;

double bandStep() {
  return std::exp2(1.0 / kSpectrumPerOctave);
}

}  // namespace

std::vector<double> spectrumOf(std::span<const float> x, double rate, double gain) {
  const auto count = std::min<size_t>(x.size(), static_cast<size_t>(rate));
  RealFft fft(sharedSize(std::max<size_t>(count, static_cast<size_t>(rate / 2))));
  for (size_t i = 0; i < count; ++i) fft.time()[i] = gain * static_cast<double>(x[i]);
  fft.forward();
  const double step = rate / static_cast<double>(fft.size());
  std::vector<double> out;
  for (double hz = kSpectrumLowHz; hz < kSpectrumHighHz; hz *= bandStep()) {
    const auto from = static_cast<size_t>(hz / step), to = static_cast<size_t>(hz * bandStep() / step);
    double power = 1e-20;
    for (size_t k = from; k <= std::max(from, to) && k < fft.bins().size(); ++k)
      power += std::norm(fft.bins()[k]);
    out.push_back(dbFromPower(power / static_cast<double>(1 + std::max(from, to) - from)));
  }
  return out;
}

double spectrumHz(size_t i) {
  return kSpectrumLowHz * std::exp2((static_cast<double>(i) + 0.5) / kSpectrumPerOctave);
}

// A band's mean times its width.
double lowEnergyDb(const std::vector<double>& spectrum) {
  double energy = 1e-30;
  for (size_t i = 0; i < spectrum.size() && spectrumHz(i) < kShareBelowHz; ++i)
    energy += std::pow(10.0, spectrum[i] / 10.0) * spectrumHz(i);
  return dbFromPower(energy, -400.0);
}

Balance balanceOf(const AudioBuffer& sound) {
  const auto mono = monoFold(sound);
  const auto count = std::min(mono.size(), static_cast<size_t>(kBalanceSeconds * sound.sampleRate));
  Balance out;
  if (count == 0) return out;
  RealFft fft(sharedSize(count));
  std::fill(fft.time().begin(), fft.time().end(), 0.0);
  std::copy_n(mono.begin(), count, fft.time().begin());
  fft.forward();
  const double step = sound.sampleRate / static_cast<double>(fft.size());
  double all = 0.0, moment = 0.0, low = 0.0;
  for (size_t k = 1; k < fft.bins().size(); ++k) {
    const double power = std::norm(fft.bins()[k]), hz = step * static_cast<double>(k);
    all += power, moment += power * hz;
    if (hz < kShareBelowHz) low += power;
  }
  if (all > 0.0) out = {moment / all, low / all};
  return out;
}

}  // namespace heft
