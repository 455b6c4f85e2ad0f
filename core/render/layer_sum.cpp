#include "core/render/layer_sum.h"

#include <algorithm>

namespace heft {

AudioBuffer laidOver(const std::vector<LaidSound>& sounds, double sampleRate) {
  size_t channels = 1, frames = 0;
  for (const LaidSound& s : sounds) {
    channels = std::max(channels, s.sound->channelCount());
    frames = std::max(frames, static_cast<size_t>(s.at) + s.sound->frames());
  }
  AudioBuffer out(sampleRate, channels, frames);
  for (const LaidSound& s : sounds)
    for (size_t c = 0; c < channels && s.sound->channelCount() > 0; ++c) {
      const auto& from = s.sound->channels[std::min(c, s.sound->channelCount() - 1)];
      float* to = out.channels[c].data() + s.at;
      const auto gain = static_cast<float>(s.gain);
      for (size_t i = 0; i < from.size(); ++i) to[i] += gain * from[i];
    }
  return out;
}

std::vector<const Layer*> layersAt(const std::vector<Layer>& layers, const std::vector<int>& without) {
  auto out = heardLayers(layers);
  std::erase_if(
      out, [&](const Layer* l) { return std::find(without.begin(), without.end(), l->id) != without.end(); });
  return out;
}

double velocityAmount(const Layer& l) {
  return l.kickVoice   ? l.kickVoice->velocityToLevel
         : l.bassVoice ? l.bassVoice->velocityToLevel
                       : l.velocityToLevel;
}

}  // namespace heft
