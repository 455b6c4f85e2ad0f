#include "core/render/sounds.h"

#include <algorithm>
#include <cmath>

#include "core/shape/trim.h"
#include "core/sound/interpolate.h"
#include "core/sound/resample.h"

namespace heft {
namespace {

void invertAll(AudioBuffer& sound) {
  for (auto& channel : sound.channels)
    for (float& x : channel) x = -x;
}

KeyMaker kickKey(const Layer& l, const StepKey& source, const Track& track) {
  KeyMaker maker("kick 1");
  maker.add(source).add(l.targetMidi.value_or(-1.0)).add(l.method).add(l.strikeMs).add(l.invert);
  maker.add(l.band.lowHz)
      .add(l.band.highHz)
      .add(track.notes.a4Hz)
      .add(l.length ? l.length->toMs(track.tempoBpm) : -1.0);
  return maker;
}

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

std::shared_ptr<const ReadyKick> SoundSteps::kick(const Layer& layer, const Track& track,
                                                  StepKey* keyOut) const {
  const Keyed from = source(layer.asset);
  const auto measured = facts(layer.asset, layer.band);
  if (!from.sound || !measured) return nullptr;
  const StepKey key = kickKey(layer, from.key, track).key();
  if (keyOut) *keyOut = key;
  return cache_.get<ReadyKick>(
      key,
      [&] {
        ReadyKick out;
        out.sound = *from.sound;
        if (layer.targetMidi) {
          Retune how{layer.method, 0.0, layer.strikeMs};
          auto landed =
              retunedToLand(*from.sound, *measured, hzFromMidi(*layer.targetMidi, track.notes.a4Hz), how);
          if (landed) {
            out.sound = std::move(landed->result.sound);
            out.semitones = landed->semitones;
            out.bodyGainDb = landed->result.bodyGainDb;
          } else {
            out.problem = landed.error().reason;
          }
        }
        const bool speeds = layer.method == TuneMethod::Varispeed;
        out.onsetSeconds =
            measured->onsetSeconds.value_or(0.0) / (speeds ? std::exp2(out.semitones / 12.0) : 1.0);
        if (layer.length)
          out.sound = trimmedTail(out.sound, out.onsetSeconds, layer.length->toMs(track.tempoBpm) / 1000.0);
        if (layer.invert) invertAll(out.sound);
        return out;
      },
      [](const ReadyKick& k) { return bytesOf(k.sound); });
}

std::shared_ptr<const SoundFacts> SoundSteps::kickFacts(const Layer& layer, const Track& track) const {
  StepKey key;
  const auto ready = kick(layer, track, &key);
  if (!ready) return nullptr;
  // A trim takes length away and no pitch: the untrimmed sound is the better witness of where it lands.
  Layer whole = layer;
  whole.length.reset();
  const auto longer = layer.length ? kickFacts(whole, track) : nullptr;
  return cache_.get<SoundFacts>(
      KeyMaker("kick facts 2").add(key).key(),
      [&] {
        SoundFacts facts = measureSound(ready->sound, layer.band);
        if (!longer || !longer->landing.hz) return facts;
        facts.landing = longer->landing;
        std::erase_if(facts.landing.path,
                      [&](const PitchPoint& p) { return p.seconds > facts.durationSeconds; });
        return facts;
      },
      [](const SoundFacts&) { return size_t{20000}; });
}

std::optional<double> SoundSteps::bassRoot(const Layer& layer, const Track& track) const {
  if (layer.rootMidi) return layer.rootMidi;
  const auto measured = facts(layer.asset, layer.band);
  if (!measured || !measured->landing.hz) return std::nullopt;
  return midiFromHz(*measured->landing.hz, track.notes.a4Hz);
}

Keyed SoundSteps::bassNote(const Layer& layer, const Track& track, bool fold, double midi) const {
  const Keyed from = source(layer.asset);
  const auto measured = facts(layer.asset, layer.band);
  if (!from.sound || !measured) return {};
  const double root = bassRoot(layer, track).value_or(midi);
  const double speed = std::exp2(std::clamp(midi - root, -60.0, 60.0) / 12.0);
  const StepKey key = KeyMaker("bass note 1").add(from.key).add(speed).add(fold).add(layer.invert).key();
  auto made = cache_.get<AudioBuffer>(
      key,
      [&] {
        AudioBuffer base = *from.sound;
        if (fold && base.channelCount() > 1) {
          const auto mono = monoFold(base);
          base.channels = {std::vector<float>(mono.begin(), mono.end())};
        }
        // From the onset, so that the note starts where the pattern says.
        const auto skip = std::min(base.frames(),
                                   static_cast<size_t>(measured->onsetSeconds.value_or(0.0) * base.sampleRate));
        for (auto& channel : base.channels)
          channel.erase(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(skip));
        AudioBuffer out = playedFaster(base, speed);
        if (layer.invert) invertAll(out);
        return out;
      },
      bytesOf);
  return {made, key};
}

}  // namespace heft
