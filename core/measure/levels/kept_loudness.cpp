#include "core/measure/levels/kept_loudness.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/k_weighting.h"

namespace heft {

std::vector<double> weightedPowers(const AudioBuffer& sound, size_t fromFrame) {
  constexpr double kStepSeconds = 0.05;
  const auto step = static_cast<size_t>(std::max(1.0, kStepSeconds * sound.sampleRate));
  const double sides = sound.channelCount() == 1 ? 2.0 : 1.0;
  std::vector<double> out;
  if (sound.frames() <= fromFrame) return out;
  out.resize((sound.frames() - fromFrame - 1) / step + 1, 0.0);
  for (const auto& channel : sound.channels) {
    std::array<Biquad, 2> sections{Biquad(kWeighting(sound.sampleRate)[0]),
                                   Biquad(kWeighting(sound.sampleRate)[1])};
    for (size_t i = 0; i < channel.size(); ++i) {
      const double x = sections[1].process(sections[0].process(channel[i]));
      if (i >= fromFrame) out[(i - fromFrame) / step] += sides * x * x;
    }
  }
  return out;
}

double keptLoudnessDb(std::span<const double> before, std::span<const double> after) {
  constexpr double kGate = 0.1, kMostDb = 24.0, kSilence = 1e-12;
  const double loudest = before.empty() ? 0.0 : *std::max_element(before.begin(), before.end());
  double was = 0.0, is = 0.0;
  for (size_t i = 0; i < std::min(before.size(), after.size()); ++i)
    if (before[i] >= kGate * loudest) was += before[i], is += after[i];
  if (!(was > kSilence) || !(is > kSilence)) return 0.0;
  return std::clamp(dbFromPower(was / is), -kMostDb, kMostDb);
}

}  // namespace heft
