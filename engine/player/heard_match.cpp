#include "engine/player/heard_match.h"

#include <algorithm>
#include <cmath>

#include "core/compare/section_profile.h"
#include "core/measure/levels/loudness.h"
#include "core/measure/levels/low_end.h"
#include "core/sound/raised_cosine.h"
#include "core/sound/resample.h"

namespace heft {
namespace {

constexpr double kMatchAboveHz = 200.0;

AudioBuffer loopOf(const LoopSnapshot& loop, const SilencedLanes& silenced, bool before, double rate) {
  AudioBuffer out(rate, 2, loop.judgedFrames);
  HeardLanes heard = 0;
  for (size_t i = 0; i < loop.lanes; ++i)
    if (!silenced.contains(loop.ids[i])) heard |= HeardLanes{1} << i;
  const LaneGains& match = loop.beforeGains.of(heard);
  for (size_t i = 0; i < loop.lanes; ++i) {
    if (!((heard >> i) & 1)) continue;
    const Signal& lane = (before ? loop.before[i] : loop.after[i])->signal();
    const float gain = before ? match[i] : 1.0f;
    for (size_t c = 0; c < 2; ++c) {
      const auto x = lane.read(c, static_cast<int64_t>(loop.judgedFirst), loop.judgedFrames);
      for (size_t k = 0; k < x.size(); ++k) out.channels[c][k] += gain * x[k];
    }
  }
  return out;
}

void filter(AudioBuffer& sound, ListenChain& chain) {
  for (size_t i = 0; i < sound.frames(); ++i) chain.process(sound.channels[0][i], sound.channels[1][i]);
}

// As it is heard: a loop once to settle, and then as it goes on.
std::optional<double> lufsThrough(AudioBuffer sound, const HeardHow& how, double rate, bool wraps) {
  if (sound.frames() == 0) return std::nullopt;
  ListenChain chain(how.listen, rate);
  if (wraps) {
    AudioBuffer first = sound;
    filter(first, chain);
  }
  filter(sound, chain);
  if (how.by == MatchBy::Above200)
    for (auto& channel : sound.channels) {
      std::array<Biquad, 2> high{Biquad(Biquad::highPass(rate, kMatchAboveHz, 0.5412)),
                                 Biquad(Biquad::highPass(rate, kMatchAboveHz, 1.3066))};
      filterBy(high, channel);
    }
  const auto loudness = measureLoudness(wraps ? repeatedForTheGate(std::move(sound)) : sound, false);
  return loudness ? loudness->integratedLufs : std::nullopt;
}

}  // namespace

std::optional<double> heardLufs(const LoopSnapshot& loop, const SilencedLanes& silenced, bool before,
                                const HeardHow& how, double deviceRate) {
  return lufsThrough(loopOf(loop, silenced, before, deviceRate), how, deviceRate, true);
}

std::optional<double> heardLufs(const ReferenceSound& reference, const HeardHow& how, double deviceRate) {
  return reference.sound ? lufsThrough(stereoOf(*reference.sound), how, deviceRate, true) : std::nullopt;
}

double matchDb(const std::optional<double>& wanted, const std::optional<double>& has) {
  constexpr double kMostDb = 24.0;
  return wanted && has ? std::clamp(*wanted - *has, -kMostDb, kMostDb) : 0.0;
}

HeardGains heardGains(const HeardHow& how, const std::optional<double>& now,
                      const std::optional<double>& before, const std::optional<double>& reference) {
  constexpr double kUsualLufs = -18.0;
  // In full the snapshot's own match of Before holds.
  const bool plain = how.listen.kind == ListenKind::Full && how.by == MatchBy::Loudness;
  return {plain ? 0.0 : matchDb(now, before), matchDb(now.value_or(kUsualLufs), reference)};
}

std::shared_ptr<const ReferenceSound> referenceThrough(const ReferenceSound& reference, const ListenTo& to) {
  auto out = std::make_shared<ReferenceSound>(reference);
  out->sound = std::make_shared<const AudioBuffer>(heardThrough(*reference.sound, true, to));
  return out;
}

std::shared_ptr<const ReferenceSound> preparedReference(const AudioBuffer& track, double fromSeconds,
                                                        double toSeconds, std::optional<double> tempoBpm,
                                                        double deviceRate) {
  constexpr double kSeam = 0.02;
  AudioBuffer cut = stereoOf(stretchOf(track, fromSeconds, toSeconds + kSeam));
  if (cut.frames() == 0) return nullptr;
  if (cut.sampleRate != deviceRate) {
    auto converted = resampled(cut, deviceRate);
    if (!converted) return nullptr;
    cut = std::move(*converted);
  }
  const double seconds = std::min(toSeconds, track.seconds()) - fromSeconds;
  const auto frames = std::min(cut.frames(), static_cast<size_t>(std::lround(seconds * deviceRate)));
  const size_t seam = std::min(static_cast<size_t>(kSeam * deviceRate), frames / 2);
  for (auto& channel : cut.channels) {
    channel.resize(frames + seam, 0.0f);
    for (size_t i = 0; i < seam; ++i) {
      const float x = raisedCosine(static_cast<double>(i) / static_cast<double>(seam));
      channel[i] = x * channel[i] + (1.0f - x) * channel[frames + i];
    }
    channel.resize(frames);
  }
  auto out = std::make_shared<ReferenceSound>();
  out->sound = std::make_shared<const AudioBuffer>(std::move(cut));
  if (tempoBpm && *tempoBpm > 0.0) out->framesPerQuarter = 60.0 * deviceRate / *tempoBpm;
  return out;
}

}  // namespace heft
