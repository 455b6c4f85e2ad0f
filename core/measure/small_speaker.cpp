#include "core/measure/small_speaker.h"

#include <algorithm>
#include <cmath>
#include <span>
#include <vector>

#include "core/measure/equal_loudness.h"
#include "core/sound/fft.h"

namespace heft {
namespace {

constexpr double kSeconds = 1.0, kHighestThirdHz = 12500.0;

// The loudest stretch of at most a second.
std::span<const double> loudestPart(const std::vector<double>& x, double rate) {
  const size_t length = std::min(x.size(), static_cast<size_t>(kSeconds * rate));
  const size_t hop = std::max<size_t>(1, length / 8);
  std::span<const double> best(x.data(), length);
  double most = -1.0;
  for (size_t at = 0; at + length <= x.size(); at += hop) {
    const std::span<const double> part(x.data() + at, length);
    if (const double energy = energyOf(part); energy > most) most = energy, best = part;
  }
  return best;
}

}  // namespace

std::optional<double> smallSpeakerPhon(const AudioBuffer& sound, double listeningDb) {
  const auto mono = monoFold(sound);
  const auto part = loudestPart(mono, sound.sampleRate);
  if (part.empty() || !(energyOf(part) > 0.0)) return std::nullopt;
  RealFft fft(sharedSize(2 * part.size()));
  std::copy(part.begin(), part.end(), fft.time().begin());
  fft.forward();
  const auto bins = fft.bins();
  const double stepHz = sound.sampleRate / static_cast<double>(fft.size());
  const double scale = 2.0 / (static_cast<double>(fft.size()) * static_cast<double>(part.size()));
  double sones = 0.0;
  for (int band = -16; band <= 11; ++band) {
    const double mid = 1000.0 * std::pow(10.0, 0.1 * band), edge = std::pow(10.0, 0.05);
    if (mid > std::min(kHighestThirdHz, 0.45 * sound.sampleRate)) break;
    double power = 0.0;
    for (auto k = static_cast<size_t>(std::ceil(mid / edge / stepHz));
         k < bins.size() && static_cast<double>(k) * stepHz < mid * edge; ++k)
      power += std::norm(bins[k]) * scale;
    // A full-scale sine has half a power.
    const double level = dbFromPower(2.0 * power, -200.0) + listeningDb + smallSpeakerDb(mid);
    if (const double phon = phonOf(mid, level); phon > 0.0) sones += std::exp2((phon - 40.0) / 10.0);
  }
  return sones > 0.0 ? std::max(0.0, 40.0 + 10.0 * std::log2(sones)) : 0.0;
}

}  // namespace heft
