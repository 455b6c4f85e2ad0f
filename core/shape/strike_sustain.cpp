#include "core/shape/strike_sustain.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/raised_cosine.h"

namespace heft {

double strikeSustainDb(const StrikeSustain& s, double msFromOnset) {
  return s.strikeDb + (s.sustainDb - s.strikeDb) * raisedCosine(msFromOnset / s.strikeMs - 0.5);
}

void applyStrikeSustain(AudioBuffer& sound, const StrikeSustain& s, double onsetSeconds) {
  if (!s.on) return;
  const auto before = static_cast<float>(amplitudeFromDb(s.strikeDb)),
             after = static_cast<float>(amplitudeFromDb(s.sustainDb));
  auto msAt = [&](size_t i) { return (static_cast<double>(i) / sound.sampleRate - onsetSeconds) * 1000.0; };
  // Only the crossfade between the two needs work.
  size_t first = 0;
  while (first < sound.frames() && msAt(first) <= 0.5 * s.strikeMs) ++first;
  std::vector<float> between;
  for (size_t i = first; i < sound.frames() && msAt(i) < 1.5 * s.strikeMs; ++i)
    between.push_back(static_cast<float>(amplitudeFromDb(strikeSustainDb(s, msAt(i)))));
  const size_t last = first + between.size();
  for (auto& channel : sound.channels) {
    for (size_t i = 0; i < first; ++i) channel[i] *= before;
    for (size_t i = first; i < last; ++i) channel[i] *= between[i - first];
    for (size_t i = last; i < channel.size(); ++i) channel[i] *= after;
  }
}

}  // namespace heft
