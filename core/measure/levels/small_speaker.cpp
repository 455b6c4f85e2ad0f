#include "core/measure/levels/small_speaker.h"

#include <algorithm>
#include <cmath>
#include <span>
#include <vector>

#include "core/measure/levels/equal_loudness.h"
#include "core/measure/levels/heard_loudness.h"

namespace heft {
namespace {

constexpr double kSeconds = 1.0;

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
  HeardBands heard = heardBands(part, sound.sampleRate);
  for (auto& bands : heard.windows)
    for (HeardBands::Band& band : bands) band.power *= std::pow(10.0, smallSpeakerDb(band.hz) / 10.0);
  return heard.phon(listeningDb);
}

}  // namespace heft
