#include "core/render/layer_sum.h"

#include <algorithm>

#include "core/render/field_keys.h"

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

void addShape(KeyMaker& key, const Layer& l, double tempoBpm) {
  key.add(l.invert).add(l.shape.bodyOn ? l.bodyAsset.hash : std::string());
  if (l.shape.works()) addFields(key, l.shape, tempoBpm);
}

void shapeLayer(AudioBuffer& sound, const Layer& l, double& onsetSeconds, const std::vector<float>& body) {
  if (l.shape.works()) applyShape(sound, l.shape, onsetSeconds, body);
  if (!l.invert) return;
  for (auto& channel : sound.channels)
    for (float& x : channel) x = -x;
}

double velocityAmount(const Layer& l) {
  return std::visit([](const auto& what) { return what.velocityToLevel; }, l.what);
}

}  // namespace heft
