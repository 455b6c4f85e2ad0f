#include "core/shape/body.h"

#include <algorithm>
#include <cmath>

#include "core/shape/eq.h"
#include "core/sound/convolve.h"
#include "core/sound/noise.h"

namespace heft {
namespace {

constexpr double kLongestBody = 2.0;

// First sample within 40 dB of the peak: any lead before it would only delay.
size_t startOf(const std::vector<double>& x) {
  double peak = 0.0;
  for (double v : x) peak = std::max(peak, std::abs(v));
  const auto at = std::find_if(x.begin(), x.end(), [&](double v) { return std::abs(v) > 0.01 * peak; });
  return static_cast<size_t>(at - x.begin());
}

void unitEnergy(std::vector<float>& x) {
  const double energy = energyOf(std::span<const float>(x));
  if (!(energy > 0.0)) return;
  for (float& v : x) v = static_cast<float>(v / std::sqrt(energy));
}

// Falls by 60 dB over `ms`, which ends it.
void decay(std::vector<float>& x, double rate, double ms) {
  x.resize(std::min(x.size(), static_cast<size_t>(ms / 1000.0 * rate) + 1));
  for (size_t i = 0; i < x.size(); ++i)
    x[i] *= static_cast<float>(std::pow(10.0, -3.0 * (static_cast<double>(i) / rate * 1000.0) / ms));
}

void addConvolved(std::vector<float>& channel, const std::vector<float>& dry,
                  const std::vector<float>& response, double wet) {
  const auto more = convolved(dry, response);
  channel.resize(std::max(channel.size(), more.size()), 0.0f);
  for (size_t i = 0; i < more.size(); ++i) channel[i] += static_cast<float>(wet) * more[i];
}

}  // namespace

std::vector<float> bodyResponse(const AudioBuffer& sound, const BodySettings& settings) {
  const auto mono = monoFold(sound);
  const size_t start = startOf(mono);
  const auto count = std::min(mono.size() - start, static_cast<size_t>(kLongestBody * sound.sampleRate));
  AudioBuffer out(sound.sampleRate, 1, 0);
  out.channels[0].assign(mono.begin() + static_cast<ptrdiff_t>(start),
                         mono.begin() + static_cast<ptrdiff_t>(start + count));
  decay(out.channels[0], sound.sampleRate, settings.decayMs);
  Eq damping;
  damping.highCut = {true, settings.dampingHz, 12};
  applyEq(out, damping);
  unitEnergy(out.channels[0]);
  return out.channels[0];
}

void applyBody(AudioBuffer& sound, const std::vector<float>& response, double wet) {
  if (response.empty() || wet == 0.0) return;
  for (auto& channel : sound.channels) addConvolved(channel, std::vector<float>(channel), response, wet);
}

std::array<std::vector<float>, 2> roomResponses(const Room& room, double rate) {
  const auto frames = static_cast<size_t>(room.sizeMs / 1000.0 * rate);
  const auto lead = static_cast<size_t>(0.003 * rate);
  AudioBuffer responses(rate, 2, frames);
  for (size_t c = 0; c < 2; ++c) {
    Noise noise(11 + c);
    for (float& x : responses.channels[c]) x = noise.next();
    decay(responses.channels[c], rate, room.sizeMs);
  }
  Eq colour;
  colour.lowCut = {true, 200.0, 24};
  colour.highCut = {true, room.dampingHz, 12};
  applyEq(responses, colour);
  std::array<std::vector<float>, 2> out;
  for (size_t c = 0; c < 2; ++c) {
    out[c] = std::move(responses.channels[c]);
    unitEnergy(out[c]);
    out[c].insert(out[c].begin(), lead, 0.0f);
  }
  return out;
}

void applyRoom(AudioBuffer& sound, const Room& room) {
  if (!room.on || room.wet == 0.0 || sound.frames() == 0) return;
  const auto mono = monoFold(sound);
  const std::vector<float> dry(mono.begin(), mono.end());
  const auto responses = roomResponses(room, sound.sampleRate);
  sound = stereoOf(sound);
  for (size_t c = 0; c < 2; ++c) addConvolved(sound.channels[c], dry, responses[c], room.wet);
}

}  // namespace heft
