#include "core/render/sounds/chain.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/kept_loudness.h"
#include "core/render/sounds/field_keys.h"
#include "core/sound/convolve.h"

namespace heft {
namespace {

struct Apply {
  AudioBuffer& sound;
  double& onsetSeconds;
  const std::vector<float>* response;

  void operator()(const AmpEnvelope& p) const { applyEnvelope(sound, p, onsetSeconds); }
  void operator()(const Eq& p) const {
    if (!response) return applyEq(sound, p);
    for (auto& channel : sound.channels)
      if (!channel.empty()) channel = convolved(channel, *response);
    onsetSeconds += static_cast<double>(response->size() / 2) / sound.sampleRate;
  }
  void operator()(const StrikeSustain& p) const { applyStrikeSustain(sound, p, onsetSeconds); }
  void operator()(const Drive& p) const { applyDrive(sound, p); }
  void operator()(const Compressor& p) const { applyCompressor(sound, p); }
  void operator()(const SoftClip& p) const { applySoftClip(sound, p); }
  void operator()(const Limiter& p) const { applyLimiter(sound, p); }
  void operator()(const Body& p) const {
    if (response) applyBody(sound, *response, p.response.wet);
  }
  void operator()(const Room& p) const { applyRoom(sound, p); }
  void operator()(const Width& p) const { applyWidth(sound, p); }
  void operator()(const Gain& p) const {
    const auto gain = static_cast<float>(amplitudeFromDb(p.db));
    for (auto& channel : sound.channels)
      for (float& x : channel) x *= gain;
  }
};

struct AddFields {
  KeyMaker& key;
  // A room's sound depends on its response.
  void operator()(const Body& p) const { key.add(p.response.wet); }
  void operator()(const auto& p) const { addFields(key, p, 120.0); }
};

}  // namespace

void addProcessor(KeyMaker& key, const ReadyChain::One& one) {
  key.add(one.processor.what.index());
  if (one.response) key.add(one.responseKey);
  if (one.keepsLoudness()) key.add(std::string("keeps loudness"));
  std::visit(AddFields{key}, one.processor.what);
}

void addChain(KeyMaker& key, const ReadyChain& chain) {
  for (const auto& one : chain.all) addProcessor(key, one);
}

size_t leadFrames(const ReadyChain& chain) {
  size_t out = 0;
  for (const auto& one : chain.all)
    if (one.response && one.processor.as<Eq>()) out += one.response->size() / 2;
  return out;
}

namespace {

constexpr double kBeforeStrikeSeconds = 0.01;  // its pre-ringing is heard too

}  // namespace

double applyChain(AudioBuffer& sound, const ReadyChain& chain, double onsetSeconds) {
  for (const auto& one : chain.all) {
    const auto fromStrike = [&] {
      const double frame = std::max(0.0, onsetSeconds - kBeforeStrikeSeconds) * sound.sampleRate;
      return weightedPowers(sound, static_cast<size_t>(std::lround(frame)));
    };
    const auto before = one.keepsLoudness() ? fromStrike() : std::vector<double>();
    std::visit(Apply{sound, onsetSeconds, one.response.get()}, one.processor.what);
    if (!one.keepsLoudness()) continue;
    auto after = fromStrike();
    // The part of a long recording that plays before the next note.
    constexpr size_t kFirstHalfSecond = 10;
    after.resize(std::min(after.size(), kFirstHalfSecond));
    Apply{sound, onsetSeconds, nullptr}(Gain{true, keptLoudnessDb(before, after)});
  }
  return onsetSeconds;
}

}  // namespace heft
