#include "core/tune/retune.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/interpolate.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kJoinMs = 3.0;

// Turns a result down to the source's headroom where the interpolator's overshoot left it. Returns the gain in
// dB.
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
    const double x = i >= join ? 1.0
                               : 0.5 - 0.5 * std::cos(std::numbers::pi * (static_cast<double>(i) + 0.5) /
                                                      static_cast<double>(join));
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

Retuned split(const AudioBuffer& in, const Retune& how, double onsetSeconds) {
  const double speed = std::exp2(how.semitones / 12.0);
  const auto splitAt = std::min(
      in.frames(), static_cast<size_t>(std::lround((onsetSeconds + how.strikeMs / 1000.0) * in.sampleRate)));
  const auto join = static_cast<size_t>(std::lround(kJoinMs / 1000.0 * in.sampleRate));
  const auto bodyFrames = static_cast<size_t>(std::ceil(static_cast<double>(in.frames() - splitAt) / speed));
  std::vector<std::vector<float>> bodies;
  for (const auto& channel : in.channels)
    bodies.push_back(readAt(channel, static_cast<double>(splitAt), speed, bodyFrames));
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

}  // namespace

const char* tuneMethodName(TuneMethod method) {
  constexpr const char* kNames[] = {"varispeed", "hold-length", "bend", "split"};
  return kNames[static_cast<int>(method)];
}

Result<TuneMethod> parseTuneMethod(const std::string& text) {
  for (TuneMethod m : {TuneMethod::Varispeed, TuneMethod::HoldLength, TuneMethod::Bend, TuneMethod::Split})
    if (lowered(text) == tuneMethodName(m)) return m;
  return badUsage("\"" + text + "\" is not a way of retuning: write varispeed, hold-length, bend or split");
}

Result<Retuned> retuned(const AudioBuffer& in, const Retune& how, double onsetSeconds) {
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
    default:
      return badUsage(std::string(tuneMethodName(how.method)) +
                      " is not available yet: use varispeed or split");
  }
}

Result<Landed> retunedToLand(const AudioBuffer& in, const SoundFacts& facts, double targetHz, Retune how) {
  if (!facts.landing.hz || !facts.onsetSeconds)
    return badUsage("no landing was found, so there is nothing to tune from");
  Landed out;
  out.semitones = 12.0 * std::log2(targetHz / *facts.landing.hz);
  for (int pass = 0; pass < 2; ++pass) {
    how.semitones = out.semitones;
    auto result = retuned(in, how, *facts.onsetSeconds);
    if (!result) return Fail(result.error());
    out.result = std::move(*result);
    out.afterHz = measureSound(out.result.sound).landing.hz;
    if (!out.afterHz) break;
    const double off = centsBetween(targetHz, *out.afterHz);
    // A split leaves a little of the fall where it was, which can pull the measured landing; more is another
    // tone.
    if (std::abs(off) < 0.1 || std::abs(off) > 20.0 || pass == 1 || how.method == TuneMethod::Varispeed) break;
    out.semitones -= off / 100.0;
  }
  return out;
}

Strain strainOf(double semitones) {
  const double size = std::abs(semitones);
  return size <= 1.0 ? Strain::Light : size <= 2.0 ? Strain::Noticeable : Strain::Heavy;
}

const char* strainText(Strain strain) {
  constexpr const char* kTexts[] = {"light", "noticeable", "heavy: choose another sample"};
  return kTexts[static_cast<int>(strain)];
}

}  // namespace heft
