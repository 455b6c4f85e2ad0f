#include "core/render/sounds.h"

#include <algorithm>
#include <cmath>

#include "core/shape/trim.h"
#include "core/sound/resample.h"

namespace heft {
namespace {

AudioBuffer atRate(const AudioBuffer& sound, double rate) {
  auto converted = resampled(sound.channelCount() > 2 ? stereoOf(sound) : sound, rate);
  AudioBuffer out = converted ? std::move(*converted) : AudioBuffer(rate, 1, 0);
  out.sampleRate = rate;
  return out;
}

AudioBuffer firstFrames(const AudioBuffer& sound, size_t frames) {
  AudioBuffer out;
  out.sampleRate = sound.sampleRate;
  for (const auto& channel : sound.channels)
    out.channels.emplace_back(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(frames));
  return out;
}

}  // namespace

size_t bytesOf(const AudioBuffer& buffer) {
  return buffer.frames() * buffer.channelCount() * sizeof(float) + 128;
}

Keyed SoundSteps::source(const AssetRef& ref) const {
  const Sound sound = assets_.sound(ref);
  if (!sound) return {};
  const StepKey key = KeyMaker("source 1").add(ref.hash).add(rate_).key();
  auto made = cache_.get<AudioBuffer>(
      key, [&] { return atRate(*sound, rate_); }, bytesOf);
  return {made, key};
}

Keyed SoundSteps::sourceStart(const AssetRef& ref, size_t frames) const {
  // In steps, so that a change of tempo or length seldom converts anew; the margin is for the converter's end.
  constexpr double kStepSeconds = 16.0, kMarginSeconds = 0.1;
  const Sound sound = assets_.sound(ref);
  if (!sound || sound->sampleRate == rate_) return source(ref);
  const double seconds =
      std::ceil(static_cast<double>(frames) / rate_ / kStepSeconds) * kStepSeconds + kMarginSeconds;
  const double wanted = std::ceil(seconds * sound->sampleRate);
  if (wanted >= static_cast<double>(sound->frames())) return source(ref);
  const StepKey key = KeyMaker("source start 1").add(ref.hash).add(rate_).add(wanted).key();
  auto made = cache_.get<AudioBuffer>(
      key, [&] { return atRate(firstFrames(*sound, static_cast<size_t>(wanted)), rate_); }, bytesOf);
  return {made, key};
}

std::shared_ptr<const SoundFacts> SoundSteps::facts(const AssetRef& ref, const LandingOptions& band) const {
  const Sound sound = assets_.sound(ref);
  if (!sound) return nullptr;
  const StepKey key = KeyMaker("facts 1").add(ref.hash).add(band.lowHz).add(band.highHz).key();
  return cache_.get<SoundFacts>(
      key, [&] { return measureSound(*sound, band); }, [](const SoundFacts&) { return size_t{20000}; });
}

std::vector<float> SoundSteps::bodyOf(const Layer& layer) const {
  if (!layer.shape.bodyOn) return {};
  const Keyed from = source(layer.bodyAsset);
  if (!from.sound) return {};
  const BodySettings& b = layer.shape.body;
  return *cache_.get<std::vector<float>>(
      KeyMaker("body 1").add(from.key).add(b.decayMs).add(b.dampingHz).key(),
      [&] { return bodyResponse(*from.sound, b); }, [](const auto& r) { return 4 * r.size() + 64; });
}

Keyed cutTo(const Keyed& from, size_t frames, double fadeSeconds, StepCache& cache) {
  if (from.sound->frames() <= frames) return from;
  const StepKey key = KeyMaker("cut 1").add(from.key).add(frames).add(fadeSeconds).key();
  auto made = cache.get<AudioBuffer>(
      key,
      [&] {
        AudioBuffer out = firstFrames(*from.sound, frames);
        fadeOut(out, fadeSeconds);
        return out;
      },
      bytesOf);
  return {made, key};
}

}  // namespace heft
