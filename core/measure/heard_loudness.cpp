#include "core/measure/heard_loudness.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/measure/equal_loudness.h"
#include "core/sound/fft.h"

namespace heft {

HeardBands heardBands(std::span<const double> mono, double sampleRate) {
  constexpr int kLowest = -17, kHighest = 11;  // 20 Hz, 12.5 kHz
  HeardBands out;
  if (mono.empty()) return out;
  RealFft fft(sharedSize(2 * mono.size()));
  std::fill(fft.time().begin(), fft.time().end(), 0.0);
  // Tapered over a fifth at both ends: what leaks from a low tone would be heard louder above than it is below.
  const size_t n = mono.size(), taper = std::max<size_t>(1, n / 5);
  double weight = 0.0;
  for (size_t i = 0; i < n; ++i) {
    const double edge = static_cast<double>(std::min({i + 1, n - i, taper})) / static_cast<double>(taper);
    const double w = 0.5 - 0.5 * std::cos(std::numbers::pi * edge);
    fft.time()[i] = w * mono[i];
    weight += w * w;
  }
  fft.forward();
  const auto bins = fft.bins();
  const double stepHz = sampleRate / static_cast<double>(fft.size());
  const double scale = 2.0 / (static_cast<double>(fft.size()) * weight);
  for (int band = kLowest; band <= kHighest; ++band) {
    const double mid = 1000.0 * std::pow(10.0, 0.1 * band), edge = std::pow(10.0, 0.05);
    if (mid > 0.45 * sampleRate) break;
    double power = 0.0;
    for (auto k = static_cast<size_t>(std::ceil(mid / edge / stepHz));
         k < bins.size() && static_cast<double>(k) * stepHz < mid * edge; ++k)
      power += std::norm(bins[k]) * scale;
    // A full-scale sine has half a power.
    out.bands.push_back({std::max(20.0, mid), 2.0 * power});
  }
  return out;
}

double HeardBands::phon(double listeningDb, double gainDb) const {
  double sones = 0.0;
  for (const Band& b : bands) {
    const double level = 10.0 * std::log10(std::max(1e-20, b.power)) + listeningDb + gainDb;
    if (const double heard = phonOf(b.hz, level); heard > 0.0) sones += std::exp2((heard - 40.0) / 10.0);
  }
  return sones > 0.0 ? std::max(0.0, 40.0 + 10.0 * std::log2(sones)) : 0.0;
}

std::optional<double> HeardBands::gainTo(double wanted, double listeningDb, double mostDb) const {
  if (std::none_of(bands.begin(), bands.end(), [](const Band& b) { return b.power > 1e-12; }))
    return std::nullopt;
  double low = -mostDb, high = mostDb;
  constexpr int kHalves = 24;
  for (int i = 0; i < kHalves; ++i) {
    const double middle = 0.5 * (low + high);
    (phon(listeningDb, middle) < wanted ? low : high) = middle;
  }
  return 0.5 * (low + high);
}

}  // namespace heft
