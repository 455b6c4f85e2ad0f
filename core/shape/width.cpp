#include "core/shape/width.h"

#include "core/shape/eq.h"

namespace heft {

std::vector<Biquad::Coefficients> sideSections(const Width& w, double sampleRate) {
  if (!w.monoBelowHz) return {};
  Eq cut;
  cut.lowCut = {true, *w.monoBelowHz, 24};
  return eqSections(cut, sampleRate);
}

void applyWidth(AudioBuffer& sound, const Width& w) {
  std::vector<double> rest(2 * sideSections(w, sound.sampleRate).size(), 0.0);
  applyWidth(sound, w, rest.data());
}

void applyWidth(AudioBuffer& sound, const Width& w, double* memory) {
  if (sound.channelCount() != 2 || !w.works()) return;
  if (w.width == 0.0) {
    const auto mono = monoFold(sound);
    sound.channels = {std::vector<float>(mono.begin(), mono.end())};
    return;
  }
  auto &left = sound.channels[0], &right = sound.channels[1];
  std::vector<float> side(left.size());
  for (size_t i = 0; i < left.size(); ++i) {
    const float mid = 0.5f * (left[i] + right[i]);
    side[i] = 0.5f * static_cast<float>(w.width) * (left[i] - right[i]);
    left[i] = mid;
  }
  for (const auto& section : sideSections(w, sound.sampleRate)) {
    Biquad filter(section);
    filter.goOnFrom(memory[0], memory[1]);
    for (float& v : side) v = static_cast<float>(filter.process(v));
    *memory++ = filter.state()[0], *memory++ = filter.state()[1];
  }
  for (size_t i = 0; i < left.size(); ++i) {
    const float mid = left[i];
    left[i] = mid + side[i], right[i] = mid - side[i];
  }
}

}  // namespace heft
