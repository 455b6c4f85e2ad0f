#include "core/tune/retune.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/interpolate.h"
#include "core/sound/raised_cosine.h"
#include "core/sound/stretch.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kJoinMs = 3.0, kOverFromMs = 4.0, kOverMs = 16.0, kMostLagMs = 1.9, kShortestGlideMs = 8.0;
// With fewer cycles of rest a stretched body misses its note (docs/measuring.md).
constexpr double kStretchCycles = 14.0, kLevelFloor = 1e-4, kMostLevelGain = 16.0;

// Lowers a result to the source's headroom where the interpolator overshoots it. Returns the gain in dB.
double keepUnderFullScale(AudioBuffer& sound, const AudioBuffer& source) {
  const double peak = peakOf(sound);
  if (peak <= 1.0 || peakOf(source) > 1.0) return 0.0;
  const auto gain = static_cast<float>(0.99999 / peak);
  for (auto& channel : sound.channels)
    for (float& x : channel) x *= gain;
  return dbFromAmplitude(gain);
}

std::vector<float> joined(const std::vector<float>& strike, const std::vector<float>& body, size_t splitAt,
                          size_t join, float bodyGain) {
  std::vector<float> out(strike.begin(), strike.begin() + static_cast<ptrdiff_t>(splitAt));
  for (size_t i = 0; i < body.size(); ++i) {
    // Both sides are the same wave at the split and hardly apart a join later, so their amplitudes add.
    const double x = i >= join ? 1.0 : raisedCosine((static_cast<double>(i) + 0.5) / static_cast<double>(join));
    const float before = splitAt + i < strike.size() ? strike[splitAt + i] : 0.0f;
    out.push_back(static_cast<float>((1.0 - x) * before + x * bodyGain * body[i]));
  }
  return out;
}

double peakFrom(const AudioBuffer& sound, size_t from) {
  double peak = 0.0;
  for (const auto& channel : sound.channels)
    for (size_t i = from; i < channel.size(); ++i)
      peak = std::max(peak, std::abs(static_cast<double>(channel[i])));
  return peak;
}

size_t splitFrame(const AudioBuffer& in, const Retune& how, double onsetSeconds) {
  return std::min(in.frames(),
                  static_cast<size_t>(std::lround((onsetSeconds + how.strikeMs / 1000.0) * in.sampleRate)));
}

// The unchanged strike, each channel's body joined to it; the body is turned down where the sum would exceed
// full scale.
Retuned withBodies(const AudioBuffer& in, const std::vector<std::vector<float>>& bodies, size_t splitAt) {
  const auto join = static_cast<size_t>(std::lround(kJoinMs / 1000.0 * in.sampleRate));
  Retuned out;
  out.sound.sampleRate = in.sampleRate;
  auto assemble = [&](float gain) {
    out.sound.channels.clear();
    for (size_t c = 0; c < bodies.size(); ++c)
      out.sound.channels.push_back(joined(in.channels[c], bodies[c], splitAt, join, gain));
  };
  assemble(1.0f);
  const double peak = peakFrom(out.sound, splitAt);
  if (peak > 1.0 && peakOf(in) <= 1.0) {
    const double gain = 0.99999 / peak;
    out.bodyGainDb = dbFromAmplitude(gain);
    assemble(static_cast<float>(gain));
  }
  return out;
}

std::vector<std::vector<float>> bodiesAbout(const AudioBuffer& in, size_t splitAt, double speed,
                                            size_t frames) {
  std::vector<std::vector<float>> out;
  for (const auto& channel : in.channels)
    out.push_back(readAt(channel, static_cast<double>(splitAt), speed, frames));
  return out;
}

Retuned split(const AudioBuffer& in, const Retune& how, double onsetSeconds) {
  const double speed = std::exp2(how.semitones / 12.0);
  const size_t splitAt = splitFrame(in, how, onsetSeconds);
  const auto frames = static_cast<size_t>(std::ceil(static_cast<double>(in.frames() - splitAt) / speed));
  return withBodies(in, bodiesAbout(in, splitAt, speed, frames), splitAt);
}

// How many frames later `x` must be read to follow `like` best from `from` to `to`.
ptrdiff_t bestLag(const std::vector<float>& x, const std::vector<float>& like, size_t from, size_t to,
                  ptrdiff_t most) {
  double best = -2.0;
  ptrdiff_t lag = 0;
  for (ptrdiff_t l = -most; l <= most; ++l) {
    double across = 0.0, own = 1e-20, other = 1e-20;
    for (size_t i = from; i < to && i < like.size(); ++i) {
      const ptrdiff_t at = static_cast<ptrdiff_t>(i) + l;
      if (at < 0 || at >= static_cast<ptrdiff_t>(x.size())) continue;
      const double a = x[static_cast<size_t>(at)], b = like[i];
      across += a * b, own += a * a, other += b * b;
    }
    if (const double c = across / std::sqrt(own * other); c > best) best = c, lag = l;
  }
  return lag;
}

// Only the body is stretched, so its first wave nearly keeps its phase. The stretcher smears a sound's start,
// so the first moments are the same body at another speed, crossfaded into the stretched one where both are
// in phase.
Result<Retuned> heldLength(const AudioBuffer& in, const Retune& how, double onsetSeconds) {
  const double speed = std::exp2(how.semitones / 12.0);
  const size_t splitAt = splitFrame(in, how, onsetSeconds);
  AudioBuffer body(in.sampleRate, in.channelCount(), in.frames() - splitAt);
  for (size_t c = 0; c < in.channelCount(); ++c)
    std::copy(in.channels[c].begin() + static_cast<ptrdiff_t>(splitAt), in.channels[c].end(),
              body.channels[c].begin());
  if (body.frames() == 0 || speed == 1.0) return Retuned{in, 0.0};
  const auto kept = pitchedKeepingLength(body, speed);
  if (!kept) return Fail(kept.error());
  const AudioBuffer& moved = *kept;
  auto framesOf = [&](double ms) {
    return std::min(body.frames(), static_cast<size_t>(std::lround(ms / 1000.0 * in.sampleRate)));
  };
  const size_t from = framesOf(kOverFromMs), to = framesOf(kOverFromMs + kOverMs);
  auto bodies = bodiesAbout(in, splitAt, speed, body.frames());
  // One lag for all channels: that of the loudest.
  size_t loudest = 0;
  auto energy = [&](size_t c) { return energyOf(std::span<const float>(body.channels[c])); };
  for (size_t c = 1; c < body.channelCount(); ++c)
    if (energy(c) > energy(loudest)) loudest = c;
  const ptrdiff_t lag = bestLag(moved.channels[loudest], bodies[loudest], from, to,
                                static_cast<ptrdiff_t>(kMostLagMs / 1000.0 * in.sampleRate));
  for (size_t c = 0; c < bodies.size(); ++c)
    for (size_t i = from; i < bodies[c].size(); ++i) {
      const ptrdiff_t at = static_cast<ptrdiff_t>(i) + lag;
      const bool inside = at >= 0 && at < static_cast<ptrdiff_t>(moved.frames());
      const float later = inside ? moved.channels[c][static_cast<size_t>(at)] : 0.0f;
      const double x =
          i >= to ? 1.0 : raisedCosine(static_cast<double>(i - from) / static_cast<double>(to - from));
      bodies[c][i] = static_cast<float>((1.0 - x) * bodies[c][i] + x * later);
    }
  return withBodies(in, bodies, splitAt);
}

// Mean over `span` samples about each, shorter at the ends.
std::vector<double> running(const std::vector<double>& x, ptrdiff_t span) {
  std::vector<double> sums(x.size() + 1, 0.0), out(x.size());
  for (size_t i = 0; i < x.size(); ++i) sums[i + 1] = sums[i] + x[i];
  const auto size = static_cast<ptrdiff_t>(x.size());
  for (ptrdiff_t i = 0; i < size; ++i) {
    // As far to both sides, so that a slope stays where it is.
    const ptrdiff_t reach = std::min({span / 2, i, size - 1 - i});
    out[static_cast<size_t>(i)] =
        (sums[static_cast<size_t>(i + reach + 1)] - sums[static_cast<size_t>(i - reach)]) /
        static_cast<double>(2 * reach + 1);
  }
  return out;
}

// Logarithm of the level, channels folded: power over one period, then its logarithm over a half and a whole
// one, which keeps an exponential exact and removes the tone's own ripple. With a floor.
std::vector<double> logLevelOf(const AudioBuffer& in, double hz) {
  const auto period = std::max<ptrdiff_t>(2, std::lround(in.sampleRate / hz));
  std::vector<double> power = monoFold(in);
  for (double& x : power) x *= x;
  power = running(power, period);
  const double floor = kLevelFloor * kLevelFloor * *std::max_element(power.begin(), power.end()) + 1e-24;
  for (double& x : power) x = 0.5 * std::log(std::max(x, floor));
  return running(running(power, period / 2), period);
}

// For a sound with few cycles of rest: the body of a split, with the level that the sound had at each moment.
// Its tail keeps its length, and its pitch is exact, which a stretcher's windows of many cycles cannot
// achieve.
Retuned heldByLevel(const AudioBuffer& in, const Retune& how, double onsetSeconds, double hz) {
  const double speed = std::exp2(how.semitones / 12.0);
  const size_t splitAt = splitFrame(in, how, onsetSeconds), frames = in.frames() - splitAt;
  auto bodies = bodiesAbout(in, splitAt, speed, frames);
  const auto level = logLevelOf(in, hz);
  for (size_t i = 0; i < frames; ++i) {
    // Between two samples the level is interpolated: steps would be audible as a rustle.
    const double at = std::min(static_cast<double>(level.size() - 1),
                               static_cast<double>(splitAt) + static_cast<double>(i) * speed);
    const auto before = static_cast<size_t>(at), after = std::min(level.size() - 1, before + 1);
    const double there = level[before] + (at - static_cast<double>(before)) * (level[after] - level[before]);
    const double gain = std::clamp(std::exp(level[splitAt + i] - there), 1.0 / kMostLevelGain, kMostLevelGain);
    for (auto& body : bodies) body[i] = static_cast<float>(body[i] * gain);
  }
  return withBodies(in, bodies, splitAt);
}

// Cycles of the landing between the end of the fall and the end of the tail.
double restCycles(const SoundFacts& facts) {
  const auto hz = facts.landing.noteHz();
  return hz ? *hz * (facts.tailMs - facts.landing.fallMs) / 1000.0 : 1e9;
}

// Original speed over the strike, then gliding to the shift over the same time again.
Retuned bent(const AudioBuffer& in, const Retune& how, double onsetSeconds) {
  const double strike = how.strikeMs / 1000.0;
  const double glide = std::max(kShortestGlideMs / 1000.0, strike);
  std::vector<double> positions;
  double at = 0.0;
  while (at < static_cast<double>(in.frames())) {
    positions.push_back(at);
    at += std::exp2(how.semitones / 12.0 * raisedCosine((at / in.sampleRate - onsetSeconds - strike) / glide));
  }
  Retuned out;
  out.sound.sampleRate = in.sampleRate;
  for (const auto& channel : in.channels) {
    auto read = readAlong(channel, positions);
    // Identical to the sample.
    const size_t same = std::min({splitFrame(in, how, onsetSeconds), read.size(), channel.size()});
    std::copy(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(same), read.begin());
    out.sound.channels.push_back(std::move(read));
  }
  const size_t splitAt = splitFrame(in, how, onsetSeconds);
  if (const double peak = peakFrom(out.sound, splitAt); peak > 1.0 && peakOf(in) <= 1.0) {
    const double gain = 0.99999 / peak;
    out.bodyGainDb = dbFromAmplitude(gain);
    const auto fade = static_cast<size_t>(std::lround(kJoinMs / 1000.0 * in.sampleRate));
    for (auto& channel : out.sound.channels)
      for (size_t i = splitAt; i < channel.size(); ++i)
        channel[i] = static_cast<float>(
            std::clamp(channel[i] * (1.0 + (gain - 1.0) * std::min(1.0, static_cast<double>(i - splitAt) /
                                                                            static_cast<double>(fade))),
                       -0.99999, 0.99999));
  }
  return out;
}

}  // namespace

Result<Retuned> retuned(const AudioBuffer& in, const Retune& how, double onsetSeconds) {
  SoundFacts facts;
  if (how.method == TuneMethod::HoldLength) facts = measureSound(in);
  facts.onsetSeconds = onsetSeconds;
  return retuned(in, how, facts);
}

Result<Retuned> retuned(const AudioBuffer& in, const Retune& how, const SoundFacts& facts) {
  const double onsetSeconds = facts.onsetSeconds.value_or(0.0);
  if (!(std::abs(how.semitones) <= 72.0)) return badUsage("a shift of more than six octaves");
  if (!(how.strikeMs >= 1.0 && how.strikeMs <= 200.0)) return badUsage("the strike lasts 1 to 200 ms");
  switch (how.method) {
    case TuneMethod::Varispeed: {
      Retuned out;
      out.sound = playedFaster(in, std::exp2(how.semitones / 12.0));
      out.bodyGainDb = keepUnderFullScale(out.sound, in);
      return out;
    }
    case TuneMethod::Split:
      return split(in, how, onsetSeconds);
    case TuneMethod::HoldLength:
      if (restCycles(facts) < kStretchCycles)
        return heldByLevel(in, how, onsetSeconds, *facts.landing.noteHz());
      return heldLength(in, how, onsetSeconds);
    case TuneMethod::Bend:
      return bent(in, how, onsetSeconds);
  }
  return badUsage("no such tuning method");
}

LandingOptions bandFaster(LandingOptions band, double speed) {
  band.lowHz = std::clamp(band.lowHz * speed, 8.0, 0.9 * kHighestBandHz);
  band.highHz = std::clamp(band.highHz * speed, 1.1 * band.lowHz, kHighestBandHz);
  if (band.atMs) *band.atMs /= speed;
  if (band.atHz) *band.atHz *= speed;
  return band;
}

LandingOptions bandAfter(const SoundFacts& facts, const Retune& how) {
  const double ratio = std::exp2(how.semitones / 12.0);
  LandingOptions out = bandFaster(facts.band, ratio);
  // The default band is nobody's choice: it stays as long as the note is in it.
  const LandingOptions usual;
  const auto note = facts.landing.noteHz();
  if (facts.band.lowHz == usual.lowHz && facts.band.highHz == usual.highHz && note &&
      *note * ratio > 1.1 * usual.lowHz && *note * ratio < 0.9 * usual.highHz)
    out.lowHz = usual.lowHz, out.highHz = usual.highHz;
  const auto& path = facts.landing.path;
  if (!facts.band.byHand() || path.empty()) return out;
  // A hand-set landing is a time on the path: its new time.
  double at = facts.band.atMs.value_or(0.0) / 1000.0;
  if (facts.band.atHz) {
    auto away = [&](const PitchPoint& p) { return std::abs(std::log(p.hz / *facts.band.atHz)); };
    at = std::min_element(path.begin(), path.end(), [&](auto& a, auto& b) {
           return away(a) < away(b);
         })->seconds;
  }
  const double split =
      how.method == TuneMethod::Varispeed ? 0.0 : facts.onsetSeconds.value_or(0.0) + how.strikeMs / 1000.0;
  if (how.method != TuneMethod::HoldLength && at > split) at = split + (at - split) / ratio;
  out.atHz.reset();
  out.atMs = 1000.0 * at;
  return out;
}

Result<Landed> retunedToLand(const AudioBuffer& in, const SoundFacts& facts, double targetHz, Retune how) {
  const auto fromHz = facts.landing.noteHz();
  if (!fromHz || !facts.onsetSeconds) return badUsage("no landing found: nothing to tune");
  Landed out;
  double least = 1e9;
  double semitones = 12.0 * std::log2(targetHz / *fromHz);
  for (int pass = 0; pass < 2; ++pass) {
    how.semitones = semitones;
    auto result = retuned(in, how, facts);
    if (!result) return Fail(result.error());
    const auto afterHz = measureSound(result->sound, bandAfter(facts, how)).landing.noteHz();
    const double off = afterHz ? centsBetween(targetHz, *afterHz) : 1e9;
    // The second pass counts only where it is closer: rattling wires can distort one measurement and not the
    // next.
    if (pass == 0 || std::abs(off) < least) out = {std::move(*result), semitones, afterHz};
    least = std::min(least, std::abs(off));
    // A split leaves a little of the fall unshifted, which can distort the measured landing; more than that
    // is another tone.
    if (least < 0.1 || least > 20.0 || how.method == TuneMethod::Varispeed) break;
    semitones -= off / 100.0;
  }
  return out;
}

Strain strainOf(double semitones) {
  const double size = std::abs(semitones);
  return size <= 1.0 ? Strain::Light : size <= 2.0 ? Strain::Noticeable : Strain::Heavy;
}

const char* strainText(Strain strain) {
  constexpr const char* kTexts[] = {"light", "noticeable", "strained: use another sample"};
  return kTexts[static_cast<int>(strain)];
}

std::string strainInWords(const Retune& how, double lengthSeconds) {
  if (std::abs(how.semitones) < 0.005) return "unchanged";
  const double after = 1000.0 * lengthSeconds / std::exp2(how.semitones / 12.0);
  std::string out = strainText(strainOf(how.semitones));
  const std::string strike = formatNumber(how.strikeMs, 0) + " ms of strike untouched";
  switch (how.method) {
    case TuneMethod::Varispeed:
      if (strainOf(how.semitones) != Strain::Light)
        out += how.semitones > 0.0 ? ", strike brighter" : ", strike duller";
      out += ", " + formatNumber(1000.0 * lengthSeconds, 0) + " to " + formatNumber(after, 0) + " ms long";
      break;
    case TuneMethod::HoldLength:
      out += ", " + strike + ", length kept";
      break;
    case TuneMethod::Bend:
    case TuneMethod::Split:
      out += ", " + strike + ", " + formatNumber(1000.0 * lengthSeconds, 0) + " to about " +
             formatNumber(after, 0) + " ms long";
  }
  return out;
}

}  // namespace heft
