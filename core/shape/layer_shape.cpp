#include "core/shape/layer_shape.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/shape/trim.h"

namespace heft {
namespace {

void cutStart(AudioBuffer& sound, double startMs, double& onsetSeconds) {
  const auto skip = std::min(sound.frames(), static_cast<size_t>(startMs / 1000.0 * sound.sampleRate));
  for (auto& channel : sound.channels)
    channel.erase(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(skip));
  onsetSeconds = std::max(0.0, onsetSeconds - static_cast<double>(skip) / sound.sampleRate);
}

void fadeIn(AudioBuffer& sound, double seconds) {
  const auto frames = std::min(sound.frames(), static_cast<size_t>(seconds * sound.sampleRate));
  for (size_t i = 0; i < frames; ++i)
    for (auto& channel : sound.channels)
      channel[i] *= static_cast<float>(
          0.5 - 0.5 * std::cos(std::numbers::pi * static_cast<double>(i) / static_cast<double>(frames)));
}

void applyEnvelope(AudioBuffer& sound, const AmpEnvelope& e, double onsetSeconds) {
  if (!e.on) return;
  for (size_t i = 0; i < sound.frames(); ++i) {
    const double ms = (static_cast<double>(i) / sound.sampleRate - onsetSeconds) * 1000.0;
    double gain = std::pow(10.0, -2.0 * std::max(0.0, ms - e.attackMs - e.holdMs) / e.decayMs);
    if (ms < e.attackMs) gain *= ms <= 0.0 ? 0.0 : 0.5 - 0.5 * std::cos(std::numbers::pi * ms / e.attackMs);
    for (auto& channel : sound.channels) channel[i] *= static_cast<float>(gain);
  }
}

}  // namespace

bool LayerShape::works() const {
  return startMs > 0.0 || fadeInMs > 0.0 || fadeOutMs > 0.0 || envelope.on || eq.works() || strikeSustain.on ||
         drive.on || bodyOn || room.on || width != 1.0;
}

void applyWidth(AudioBuffer& sound, double width) {
  if (sound.channelCount() != 2 || width == 1.0) return;
  auto &left = sound.channels[0], &right = sound.channels[1];
  for (size_t i = 0; i < left.size(); ++i) {
    const float mid = 0.5f * (left[i] + right[i]),
                side = 0.5f * static_cast<float>(width) * (left[i] - right[i]);
    left[i] = mid + side, right[i] = mid - side;
  }
  if (width == 0.0) sound.channels.pop_back();
}

void applyShape(AudioBuffer& sound, const LayerShape& s, double& onsetSeconds,
                const std::vector<float>& response) {
  if (s.startMs > 0.0) cutStart(sound, s.startMs, onsetSeconds);
  if (s.fadeInMs > 0.0) fadeIn(sound, s.fadeInMs / 1000.0);
  if (s.fadeOutMs > 0.0) fadeOut(sound, s.fadeOutMs / 1000.0);
  applyEnvelope(sound, s.envelope, onsetSeconds);
  applyEq(sound, s.eq);
  applyStrikeSustain(sound, s.strikeSustain, onsetSeconds);
  applyDrive(sound, s.drive);
  if (s.bodyOn) applyBody(sound, response, s.body.wet);
  applyRoom(sound, s.room);
  applyWidth(sound, s.width);
}

}  // namespace heft
