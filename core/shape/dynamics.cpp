#include "core/shape/dynamics.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <deque>

#include "core/shape/oversample.h"
#include "core/shape/true_peak.h"
#include "core/sound/elementwise.h"

namespace heft {
namespace {

constexpr int kTimes = 16;

double keepOf(double ms, double sampleRate) {
  return ms > 0.0 ? std::exp(-1.0 / (ms / 1000.0 * sampleRate)) : 0.0;
}

float loudestAt(const AudioBuffer& sound, size_t i) {
  float most = 0.0f;
  for (const auto& channel : sound.channels) most = std::max(most, std::abs(channel[i]));
  return most;
}

void scale(AudioBuffer& sound, size_t i, double gain) {
  for (auto& channel : sound.channels) channel[i] = static_cast<float>(channel[i] * gain);
}

// Smallest value of `x` from i to i + ahead, for every i.
std::vector<double> smallestAhead(const std::vector<double>& x, size_t ahead) {
  std::vector<double> out(x.size());
  std::deque<size_t> line;  // indices whose values rise
  for (size_t k = 0; k < x.size() + ahead; ++k) {
    if (k < x.size()) {
      while (!line.empty() && x[line.back()] >= x[k]) line.pop_back();
      line.push_back(k);
    }
    if (k < ahead) continue;
    const size_t i = k - ahead;
    while (!line.empty() && line.front() < i) line.pop_front();
    out[i] = x[line.front()];
  }
  return out;
}

// By how much the curve lowers a level: straight above the knee, a parabola within it.
double loweredBy(const Compressor& c, double x) {
  const double over = x - c.thresholdDb, half = c.kneeDb / 2.0;
  const double into = std::min(std::max(over + half, 0.0), c.kneeDb), above = std::max(over - half, 0.0);
  return (1.0 - 1.0 / c.ratio) * (above + (c.kneeDb > 0.0 ? into * into / (2.0 * c.kneeDb) : 0.0));
}

// The same curve mirrored about its threshold.
double liftOf(const Compressor& c, double x) {
  if (c.liftRatio <= 1.0 || x < kQuietestLiftedDb) return 0.0;
  const double under = c.liftBelowDb - x, less = 1.0 - 1.0 / c.liftRatio;
  if (2.0 * under < -c.kneeDb) return 0.0;
  double lift = less * under;
  if (2.0 * std::abs(under) <= c.kneeDb && c.kneeDb > 0.0) {
    const double into = under + c.kneeDb / 2.0;
    lift = less * into * into / (2.0 * c.kneeDb);
  }
  return std::min(lift, c.mostLiftDb);
}

// Levels in dB become gains in dB, without makeup.
void gainsOf(const Compressor& c, std::span<double> levelsDb, double sampleRate, double& reduction) {
  const double attack = keepOf(c.attackMs, sampleRate), release = keepOf(c.releaseMs, sampleRate);
  const bool lifts = c.liftRatio > 1.0;
  for (double& level : levelsDb) {
    const double lift = lifts ? liftOf(c, level) : 0.0, wanted = loweredBy(c, level) - lift;
    // A zero crossing is not silence: upward gain falls back by its release.
    const bool rises = wanted > reduction && level >= kQuietestLiftedDb;
    const double keep = rises ? attack : release;
    reduction = keep * reduction + (1.0 - keep) * wanted;
    level = -reduction;
  }
}

// Passes `use(first, gainsDb)` the gains of consecutive frames from `first` on, without makeup; it may write
// there.
template <class Use>
void overGains(const AudioBuffer& sound, const Compressor& c, double& reductionDb, Use use) {
  constexpr size_t kAtOnce = 512;
  // Below the knee there is no reduction; a lift is audible further down.
  const double under = c.liftRatio > 1.0 ? std::min(c.thresholdDb - c.kneeDb / 2.0, kQuietestLiftedDb)
                                         : c.thresholdDb - c.kneeDb / 2.0;
  const auto least = static_cast<float>(amplitudeFromDb(under));
  const double silent = std::min(-120.0, under);
  std::array<float, kAtOnce> peaks;
  std::array<double, kAtOnce> levels;
  for (size_t first = 0; first < sound.frames(); first += kAtOnce) {
    const size_t count = std::min(kAtOnce, sound.frames() - first);
    std::fill_n(peaks.begin(), count, 0.0f);
    for (const auto& channel : sound.channels)
      for (size_t i = 0; i < count; ++i) peaks[i] = std::max(peaks[i], std::abs(channel[first + i]));
    const auto gains = std::span(levels).first(count);
    dbFromAmplitudes(std::span(peaks).first(count), silent, gains);
    for (size_t i = 0; i < count; ++i)
      if (!(peaks[i] > least)) levels[i] = silent;
    gainsOf(c, gains, sound.sampleRate, reductionDb);
    use(first, gains);
  }
}

double mixed(const Compressor& c, double wet) {
  return c.mix < 1.0 ? 1.0 - c.mix + c.mix * wet : wet;
}

float takenBy(double gain) {
  return gain < 1.0 ? static_cast<float>(-dbFromAmplitude(std::max(gain, 1e-6))) : 0.0f;
}

// Its gain over `count` frames after the first `before`.
std::vector<double> gainOver(const AudioBuffer& sound, size_t before, size_t count, const Limiter& l,
                             LimiterState& state) {
  const double ceiling = amplitudeFromDb(l.ceilingDb);
  const size_t ahead = limiterAhead(sound.sampleRate);
  std::vector<float> peaks;
  if (l.truePeak) peaks = truePeaks(sound, static_cast<float>(ceiling));
  std::vector<double> need(std::min(sound.frames() - before, count + ahead));
  for (size_t i = 0; i < need.size(); ++i)
    need[i] =
        std::min(1.0, ceiling / std::max(1e-9f, l.truePeak ? peaks[before + i] : loudestAt(sound, before + i)));
  // The lowest gain that any of the next frames needs, held, released slowly, then averaged over the
  // lookahead: the mean of values that are all low enough is low enough.
  std::vector<double> held = smallestAhead(need, ahead);
  held.resize(count);
  const double release = keepOf(l.releaseMs, sound.sampleRate);
  for (double& h : held) h = state.gain = std::min(h, 1.0 - release * (1.0 - state.gain));
  // Before a start there is silence, so the gain may already be down.
  if (state.held.empty()) state.held.assign(ahead + 1, l.truePeak && !held.empty() ? held.front() : 1.0);
  held.insert(held.begin(), state.held.begin(), state.held.end());
  double sum = 0.0;
  for (size_t i = 0; i <= ahead; ++i) sum += held[i];
  for (size_t i = 0; i < count; ++i) {
    sum += held[i + ahead + 1] - held[i];
    need[i] = std::min(need[i], sum / static_cast<double>(ahead + 1));
  }
  state.held.assign(held.end() - static_cast<ptrdiff_t>(ahead + 1), held.end());
  need.resize(count);
  return need;
}

}  // namespace

double compressedDb(const Compressor& c, double x) {
  return x - loweredBy(c, x) + liftOf(c, x);
}

std::vector<double> compressorGainDb(const Compressor& c, const std::vector<double>& levelDb,
                                     double sampleRate) {
  double rest = 0.0;
  std::vector<double> out = levelDb;
  gainsOf(c, out, sampleRate, rest);
  return out;
}

void applyCompressor(AudioBuffer& sound, const Compressor& c) {
  double rest = 0.0;
  applyCompressor(sound, c, rest);
}

void applyCompressor(AudioBuffer& sound, const Compressor& c, double& reductionDb) {
  if (!c.on) return;
  overGains(sound, c, reductionDb, [&](size_t first, std::span<double> gains) {
    // Less than a hundred-thousandth of a dB counts as nothing, or a release would never end.
    for (double& db : gains) db = c.makeupDb + (std::abs(db) < 1e-5 ? 0.0 : db);
    amplitudesFromDb(gains);
    if (c.mix < 1.0)
      for (double& gain : gains) gain = mixed(c, gain);
    for (auto& channel : sound.channels)
      for (size_t i = 0; i < gains.size(); ++i)
        channel[first + i] = static_cast<float>(channel[first + i] * gains[i]);
  });
}

std::vector<float> takenDb(const AudioBuffer& sound, const Compressor& c, double& reductionDb) {
  std::vector<float> out(sound.frames(), 0.0f);
  if (!c.on) return out;
  overGains(sound, c, reductionDb, [&](size_t first, std::span<double> gains) {
    for (size_t i = 0; i < gains.size(); ++i)
      if (gains[i] < -1e-3) out[first + i] = takenBy(mixed(c, amplitudeFromDb(gains[i])));
  });
  return out;
}

double softClipCurve(const SoftClip& s, double x) {
  const double ceiling = amplitudeFromDb(s.ceilingDb), knee = ceiling * amplitudeFromDb(-s.kneeDb);
  const double size = std::abs(x), room = ceiling - knee;
  if (size <= knee) return x;
  const double over = (size - knee) / room;
  // Slope 1 without a corner at the knee; approaches the ceiling asymptotically.
  return std::copysign(knee + room * over / std::cbrt(1.0 + over * over * over), x);
}

void applySoftClip(AudioBuffer& sound, const SoftClip& s) {
  if (!s.on) return;
  // Samples under the knee pass unchanged.
  if (peakOf(sound) <= amplitudeFromDb(s.ceilingDb - s.kneeDb)) return;
  for (auto& channel : sound.channels)
    channel = bentAbove(channel, kTimes, [&](std::span<float> up) {
      for (float& x : up) x = static_cast<float>(softClipCurve(s, x));
    });
  if (s.truePeak) holdTruePeak(sound, amplitudeFromDb(s.ceilingDb));
}

void applyRunningSoftClip(AudioBuffer& sound, const SoftClip& s) {
  // Between samples a signal is at most a few times its samples.
  constexpr double kMostBetween = 4.0;
  if (!s.on || kMostBetween * peakOf(sound) <= amplitudeFromDb(s.ceilingDb - s.kneeDb)) return;
  for (auto& channel : sound.channels) {
    const auto taken = bentAbove(channel, kTimes, [&](std::span<float> up) {
      for (float& x : up) x = static_cast<float>(softClipCurve(s, x) - x);
    });
    for (size_t i = 0; i < channel.size(); ++i) channel[i] += taken[i];
  }
  if (s.truePeak) holdTruePeak(sound, amplitudeFromDb(s.ceilingDb));
}

std::vector<float> takenDb(const AudioBuffer& sound, const SoftClip& s) {
  std::vector<float> out(sound.frames(), 0.0f);
  if (!s.on) return out;
  const auto knee = static_cast<float>(amplitudeFromDb(s.ceilingDb - s.kneeDb));
  for (size_t i = 0; i < out.size(); ++i)
    if (const float level = loudestAt(sound, i); level > knee)
      out[i] = takenBy(softClipCurve(s, level) / level);
  return out;
}

size_t limiterAhead(double sampleRate) {
  return static_cast<size_t>(std::lround(0.002 * sampleRate));
}

void applyLimiter(AudioBuffer& sound, const Limiter& l) {
  LimiterState rest;
  limitPart(sound, 0, sound.frames(), l, rest);
}

size_t limiterReach(const Limiter& l) {
  return l.truePeak ? kTruePeakReach : 0;
}

void limitPart(AudioBuffer& sound, size_t before, size_t count, const Limiter& l, LimiterState& state) {
  if (l.on && sound.frames() > 0) {
    const auto gain = gainOver(sound, before, count, l, state);
    for (size_t i = 0; i < count; ++i) scale(sound, before + i, gain[i]);
  }
  for (auto& channel : sound.channels) {
    channel.erase(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(std::min(before, channel.size())));
    channel.resize(count);
  }
}

std::vector<float> takenDb(const AudioBuffer& sound, size_t before, size_t count, const Limiter& l,
                           LimiterState& state) {
  std::vector<float> out(count, 0.0f);
  if (!l.on || sound.frames() == 0) return out;
  const auto gain = gainOver(sound, before, count, l, state);
  std::transform(gain.begin(), gain.end(), out.begin(), takenBy);
  return out;
}

}  // namespace heft
