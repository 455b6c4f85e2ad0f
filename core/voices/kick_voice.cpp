#include "core/voices/kick_voice.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/shape/eq.h"
#include "core/sound/noise.h"
#include "core/sound/raised_cosine.h"
#include "core/theory/note.h"
#include "core/voices/bend.h"
#include "core/voices/wave.h"

namespace heft {
namespace {

constexpr double kSilentDb = -90.0;

double rise(double t, double length) {
  return t >= length ? 1.0 : raisedCosine(t / length);
}

// Where the body is silent, as a fraction of the length.
double endOf(const KickVoice& voice) {
  double end = 1.0;
  while (decayDb(voice, end) > kSilentDb) end += 0.01;
  return end;
}

std::vector<float> bodyOf(const KickVoice& v, double lengthSeconds, double a4Hz, double rate) {
  std::vector<float> out(static_cast<size_t>(std::ceil(endOf(v) * lengthSeconds * rate)) + 1);
  const double landingHz = hzFromMidi(v.landingMidi, a4Hz), attack = v.attackMs / 1000.0;
  double phase = v.startPhaseDegrees / 360.0;
  for (size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / rate, at = t / lengthSeconds;
    const double level = amplitudeFromDb(decayDb(v, at)) * rise(t, attack);
    const double step = landingHz * std::exp2(fallSemitones(v, at) / 12.0) / rate;
    out[i] = static_cast<float>(level * mixedWave(v.wave, v.waveAmount, phase, step));
    // The pitch half a frame later: the middle of the step.
    phase += landingHz * std::exp2(fallSemitones(v, at + 0.5 / rate / lengthSeconds) / 12.0) / rate;
    phase -= std::floor(phase);
  }
  // Fades the last few frames to zero.
  for (size_t i = 0, n = std::min<size_t>(out.size(), 64); i < n; ++i)
    out[out.size() - 1 - i] *= static_cast<float>(i) / static_cast<float>(n);
  return out;
}

std::vector<float> noiseOf(const NoiseBurst& n, double rate) {
  const double attack = n.attackMs / 1000.0, length = n.lengthMs / 1000.0;
  AudioBuffer out(rate, 1, static_cast<size_t>((attack + 2.0 * length) * rate) + 1);
  Noise noise(77);
  for (size_t i = 0; i < out.frames(); ++i) {
    const double t = static_cast<double>(i) / rate;
    const double end = std::min(1.0, (static_cast<double>(out.frames() - 1 - i) / rate) / (0.25 * length));
    out.channels[0][i] = static_cast<float>(noise.next() * rise(t, attack) *
                                            std::pow(10.0, -2.0 * std::max(0.0, t - attack) / length) * end);
  }
  Eq colour;
  colour.lowCut = {true, n.lowCutHz, 12};
  colour.highCut = {true, n.highCutHz, 12};
  applyEq(out, colour);
  const double peak = peakOf(out);
  for (float& x : out.channels[0]) x = static_cast<float>(peak > 0.0 ? x / peak : 0.0);
  return out.channels[0];
}

void add(std::vector<float>& to, const std::vector<float>& what, double db) {
  to.resize(std::max(to.size(), what.size()), 0.0f);
  const auto gain = static_cast<float>(amplitudeFromDb(db));
  for (size_t i = 0; i < what.size(); ++i) to[i] += gain * what[i];
}

}  // namespace

void setKickLength(KickVoice& v, const TimeValue& length, double tempoBpm, bool whole) {
  const double before = std::clamp(v.length.toMs(tempoBpm), kShortestKickMs, kLongestKickMs);
  const double after = std::clamp(length.toMs(tempoBpm), kShortestKickMs, kLongestKickMs);
  v.length = after == length.toMs(tempoBpm) ? length : TimeValue::milliseconds(after);
  if (whole) return;
  const double landing = std::clamp(v.landingAt * before / after, 0.02, 1.0), scale = landing / v.landingAt;
  v.landingAt = landing;
  // Points past the landing, which a file may hold, have no effect; they stay within the length.
  for (FallPoint& p : v.fall) p.at = std::min(1.0, p.at * scale);
  v.hold = std::min(0.9, v.hold * before / after);
}

double fallSemitones(const KickVoice& v, double at) {
  if (at >= v.landingAt || v.fall.empty()) return 0.0;
  size_t i = v.fall.size() - 1;
  while (i > 0 && v.fall[i].at > at) --i;
  const FallPoint& from = v.fall[i];
  const bool last = i + 1 == v.fall.size();
  const double end = last ? v.landingAt : v.fall[i + 1].at, to = last ? 0.0 : v.fall[i + 1].semitones;
  if (end <= from.at) return to;
  return from.semitones +
         (to - from.semitones) * bentWay(std::clamp((at - from.at) / (end - from.at), 0.0, 1.0), from.bend);
}

std::vector<int> startNotes(const KickVoice& v, const Key& key) {
  std::vector<int> out;
  for (int midi = static_cast<int>(std::ceil(v.landingMidi + 7.0)); midi <= v.landingMidi + 36.0; ++midi)
    if (key.contains(midi)) out.push_back(midi);
  return out;
}

// The decay is exponential in time to the power of 2^bend.
constexpr double kBendPower = 1.5;

double decayDb(const KickVoice& v, double at) {
  if (at <= v.hold) return 0.0;
  const double u = (at - v.hold) / (1.0 - v.hold), power = std::exp2(kBendPower * v.decayBend);
  // Below -40 dB it continues and then falls faster, so that it ends.
  return u <= 1.0 ? -40.0 * std::pow(u, power)
                  : -40.0 - 40.0 * power * (u - 1.0) - 120.0 * (u - 1.0) * (u - 1.0);
}

double decayBendThrough(double halfWayDb) {
  return std::log2(std::log2(-40.0 / std::clamp(halfWayDb, -39.0, -0.5))) / kBendPower;
}

double velocityGain(double velocity, double amount) {
  return 1.0 - amount * (1.0 - velocity);
}

AudioBuffer renderKick(const KickVoice& v, double tempoBpm, double a4Hz, double sampleRate, double velocity) {
  const double ms = std::clamp(v.length.toMs(tempoBpm), kShortestKickMs, kLongestKickMs) *
                    velocityGain(velocity, v.velocityToLength);
  AudioBuffer out(sampleRate, 1, 0);
  auto& x = out.channels[0];
  x = bodyOf(v, std::max(10.0, ms) / 1000.0, a4Hz, sampleRate);
  if (v.noise.on) add(x, noiseOf(v.noise, sampleRate), v.noise.levelDb);
  const auto strike = v.strike.on ? strikeWave(v.strike, a4Hz, sampleRate) : std::vector<float>();
  if (v.strike.throughDrive) add(x, strike, v.strike.levelDb);
  applyDrive(out, v.drive);
  if (!v.strike.throughDrive) add(x, strike, v.strike.levelDb);
  for (float& s : x) s *= kVoiceLevel;
  return out;
}

}  // namespace heft
