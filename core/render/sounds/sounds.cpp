#include "core/render/sounds/sounds.h"

#include <algorithm>
#include <cmath>

#include "core/render/sounds/field_keys.h"
#include "core/shape/eq.h"
#include "core/shape/trim.h"
#include "core/sound/resample.h"

namespace heft {
namespace {

constexpr double kMarginSeconds = 0.05, kStepSeconds = 5.0;

AudioBuffer atRate(const AudioBuffer& sound, double rate, const StepCache& cache) {
  auto converted =
      resampled(sound.channelCount() > 2 ? stereoOf(sound) : sound, rate, ConvertFor::Hearing, cache.stop());
  cache.throwIfStopped();  // half a sound is not kept
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

/// A stretch of a file at another rate, and the requested moment's position in it.
struct Stretch {
  static constexpr bool kIsSound = true;
  AudioBuffer sound;
  int64_t skip = 0;
};

// From a moment of the sound on, which may be before its start or beyond its end, with a margin on both sides
// against the converter's edges.
Stretch converted(const AudioBuffer& sound, double from, double seconds, double rate, const StepCache& cache) {
  const double margin = sound.sampleRate == rate ? 0.0 : std::ceil(kMarginSeconds * sound.sampleRate);
  const double first = std::max(0.0, from - margin);
  const double last =
      std::min(static_cast<double>(sound.frames()), from + std::ceil(seconds * sound.sampleRate) + margin);
  Stretch out;
  if (last <= first) return out;
  AudioBuffer part;
  part.sampleRate = sound.sampleRate;
  for (const auto& channel : sound.channels)
    part.channels.emplace_back(channel.begin() + static_cast<ptrdiff_t>(first),
                               channel.begin() + static_cast<ptrdiff_t>(last));
  out.sound = atRate(part, rate, cache);
  out.skip = static_cast<int64_t>(std::llround((from - first) / sound.sampleRate * rate));
  return out;
}

AudioBuffer laidFrom(const Stretch& s, size_t frames, double rate) {
  AudioBuffer out(rate, std::clamp<size_t>(s.sound.channelCount(), 1, 2), frames);
  for (size_t c = 0; c < s.sound.channelCount(); ++c)
    for (size_t i = 0; i < frames; ++i) {
      const int64_t at = static_cast<int64_t>(i) + s.skip;
      if (at >= 0 && at < static_cast<int64_t>(s.sound.frames()))
        out.channels[c][i] = s.sound.channels[c][static_cast<size_t>(at)];
    }
  return out;
}

}  // namespace

StepKey bandKey(const LandingOptions& band) {
  return KeyMaker("band 1")
      .add(band.lowHz)
      .add(band.highHz)
      .add(band.atMs.value_or(-1.0))
      .add(band.atHz.value_or(-1.0))
      .key();
}

size_t bytesOfFacts(const SoundFacts& facts) {
  return sizeof facts + facts.landing.path.capacity() * sizeof(PitchPoint) + facts.landing.reason.capacity();
}

size_t bytesOf(const AudioBuffer& buffer) {
  return buffer.frames() * buffer.channelCount() * sizeof(float) + 128;
}

Keyed SoundSteps::source(const AssetRef& ref) const {
  const Sound sound = assets_.sound(ref);
  if (!sound) return {};
  const StepKey key = KeyMaker("source 1").add(ref.hash).add(rate_).key();
  auto made = cache_.get<AudioBuffer>(
      key, [&] { return atRate(*sound, rate_, cache_); }, bytesOf);
  return {made, key};
}

Keyed SoundSteps::backing(const Backing& b, size_t frames, StepCache& cache) const {
  const Sound sound = assets_.sound(b.asset);
  if (!sound || frames == 0) return {};
  const StepKey key = KeyMaker("backing 1")
                          .add(b.asset.hash)
                          .add(rate_)
                          .add(frames)
                          .add(b.offsetSeconds)
                          .add(b.lowCutHz.value_or(0.0))
                          .key();
  auto made = cache.get<AudioBuffer>(
      key,
      [&] {
        // In whole steps, so that another tempo converts nothing anew.
        const double from = std::round(b.offsetSeconds * sound->sampleRate);
        const double seconds = std::ceil(static_cast<double>(frames) / rate_ / kStepSeconds) * kStepSeconds;
        const auto stretch = cache.get<Stretch>(
            KeyMaker("converted backing 1").add(b.asset.hash).add(rate_).add(from).add(seconds).key(),
            [&] { return converted(*sound, from, seconds, rate_, cache); },
            [](const Stretch& x) { return bytesOf(x.sound); });
        AudioBuffer out = laidFrom(*stretch, frames, rate_);
        if (b.lowCutHz) {
          Eq cut;
          cut.lowCut = {true, *b.lowCutHz, 24};
          applyEq(out, cut);
        }
        return out;
      },
      bytesOf);
  return {made, key};
}

std::shared_ptr<const SoundFacts> SoundSteps::facts(const AssetRef& ref, const LandingOptions& band) const {
  const Sound sound = assets_.sound(ref);
  if (!sound) return nullptr;
  const StepKey key = KeyMaker("facts 3").add(ref.hash).add(bandKey(band)).key();
  return cache_.get<SoundFacts>(
      key, [&] { return measureSound(*sound, band); }, bytesOfFacts);
}

std::shared_ptr<const SoundFacts> SoundSteps::facts(const Recorded& recorded) const {
  auto measured = facts(recorded.asset, recorded.band);
  if (!measured || !recorded.onsetMs) return measured;
  auto said = std::make_shared<SoundFacts>(*measured);
  said->onsetSeconds = *recorded.onsetMs / 1000.0;
  return said;
}

ReadyChain SoundSteps::ready(const Chain& chain) const {
  ReadyChain out;
  if (!chain.on) return out;
  for (const Processor& p : chain.list) {
    if (!p.works()) continue;
    auto& one = out.all.emplace_back(ReadyChain::One{p});
    auto sizeOf = [](const auto& r) { return 4 * r.size() + 64; };
    if (const Eq* eq = p.as<Eq>(); eq && eq->linearPhase) {
      KeyMaker key("linear phase 1");
      key.add(rate_);
      addFields(key, *eq, 120.0);
      one.responseKey = key.key();
      one.response = cache_.get<std::vector<float>>(
          one.responseKey, [&] { return linearPhaseResponse(*eq, rate_); }, sizeOf);
    }
    const Body* body = p.as<Body>();
    const Keyed from = body ? source(body->asset) : Keyed{};
    if (!from.sound) continue;
    const BodySettings& b = body->response;
    one.responseKey = KeyMaker("body 1").add(from.key).add(b.decayMs).add(b.dampingHz).key();
    one.response = cache_.get<std::vector<float>>(
        one.responseKey, [&] { return bodyResponse(*from.sound, b); }, sizeOf);
  }
  return out;
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
  return {made, key, from.leadFrames};
}

}  // namespace heft
