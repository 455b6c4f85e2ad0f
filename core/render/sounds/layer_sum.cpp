#include "core/render/sounds/layer_sum.h"

#include <algorithm>
#include <cmath>

#include "core/render/sounds/field_keys.h"
#include "core/sound/interpolate.h"

namespace heft {
namespace {

constexpr size_t kReach = 33;  // frames that reading between samples rings on

}  // namespace

void layAt(LaidSound& sound, double frame, bool betweenSamples) {
  // A position within a thousandth of a sample keeps the full band, its last tenth of an octave too.
  constexpr double kOnSample = 1e-3;
  const double at = std::max(0.0, frame);
  const bool between = betweenSamples && std::abs(at - std::round(at)) > kOnSample;
  sound.at = between ? static_cast<int64_t>(std::floor(at)) : std::llround(at);
  sound.fraction = between ? at - std::floor(at) : 0.0;
}

AudioBuffer laidOver(const std::vector<LaidSound>& sounds, double sampleRate) {
  size_t channels = 1, frames = 0;
  for (const LaidSound& s : sounds) {
    channels = std::max(channels, s.sound->channelCount());
    frames = std::max(frames, static_cast<size_t>(s.at) + s.sound->frames() + (s.fraction > 0.0 ? kReach : 0));
  }
  AudioBuffer out(sampleRate, channels, frames);
  for (const LaidSound& s : sounds) {
    const AudioBuffer later = s.fraction > 0.0 ? fractionLater(*s.sound, s.fraction, kReach) : AudioBuffer();
    const AudioBuffer& laid = s.fraction > 0.0 ? later : *s.sound;
    for (size_t c = 0; c < channels && laid.channelCount() > 0; ++c) {
      const auto& from = laid.channels[std::min(c, laid.channelCount() - 1)];
      float* to = out.channels[c].data() + s.at;
      const auto gain = static_cast<float>(s.gain);
      for (size_t i = 0; i < from.size(); ++i) to[i] += gain * from[i];
    }
  }
  return out;
}

std::vector<const Layer*> layersAt(const std::vector<Layer>& layers, const std::vector<int>& without) {
  auto out = heardLayers(layers);
  std::erase_if(
      out, [&](const Layer* l) { return std::find(without.begin(), without.end(), l->id) != without.end(); });
  return out;
}

void addShape(KeyMaker& key, const Layer& l, const ReadyChain& chain, double tempoBpm) {
  key.add(l.invert);
  if (l.shape.works()) addFields(key, l.shape, tempoBpm);
  addChain(key, chain);
}

void shapeLayer(AudioBuffer& sound, const Layer& l, double& onsetSeconds, const ReadyChain& chain) {
  if (l.shape.works()) applyShape(sound, l.shape, onsetSeconds);
  onsetSeconds = applyChain(sound, chain, onsetSeconds);
  if (!l.invert) return;
  for (auto& channel : sound.channels)
    for (float& x : channel) x = -x;
}

double velocityAmount(const Layer& l) {
  return std::visit([](const auto& what) { return what.velocityToLevel; }, l.what);
}

}  // namespace heft
