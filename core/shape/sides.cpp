#include "core/shape/sides.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/shape/eq.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kStrikeAboveHz = 800.0, kOverDb = 20.0, kUsualCutMs = 12.0, kShortestStrikeMs = 3.0,
                 kLongestStrikeMs = 40.0;
constexpr double kLowBelowHz = 150.0, kLowFromHz = 20.0, kClickAboveHz = 2000.0;

// The strike's share: 1 before the join, 0 after it.
double strikeShare(double seconds, double cutSeconds, double joinSeconds) {
  if (joinSeconds <= 0.0) return seconds < cutSeconds ? 1.0 : 0.0;
  const double u = std::clamp((seconds - cutSeconds) / joinSeconds + 0.5, 0.0, 1.0);
  return 0.5 + 0.5 * std::cos(std::numbers::pi * u);
}

// A share of a sample in whole units of its last place: the remainder is then exact too.
float exactShare(float x, double share) {
  if (x == 0.0f || !std::isfinite(x)) return 0.0f;
  const double unit = std::ldexp(1.0, std::max(std::ilogb(x) - 23, -149));
  return static_cast<float>(std::nearbyint(share * static_cast<double>(x) / unit) * unit);
}

std::vector<double> above(const AudioBuffer& sound, double hz) {
  AudioBuffer high(sound.sampleRate, 1, 0);
  for (const double x : monoFold(sound)) high.channels[0].push_back(static_cast<float>(x));
  Eq eq;
  eq.lowCut = {true, hz, 24};
  applyEq(high, eq);
  return {high.channels[0].begin(), high.channels[0].end()};
}

double peakBetween(const std::vector<double>& x, double rate, double from, double to) {
  double out = 0.0;
  const auto last = std::min(x.size(), static_cast<size_t>(std::max(0.0, to * rate)));
  for (auto i = static_cast<size_t>(std::max(0.0, from * rate)); i < last; ++i)
    out = std::max(out, std::abs(x[i]));
  return out;
}

struct LowLevel {
  std::vector<double> level;
  double rate = 1000.0;
  double at(double seconds) const {
    const auto i = static_cast<size_t>(std::max(0.0, seconds * rate));
    return i < level.size() ? level[i] : 0.0;
  }
};

LowLevel lowLevel(const AudioBuffer& sound) {
  const auto mono = monoFold(sound);
  const auto slow = decimated(std::span<const double>(mono), sound.sampleRate, 1000.0);
  return {analyticEnvelope(bandLimited(slow.samples, slow.sampleRate, kLowFromHz, kLowBelowHz)),
          slow.sampleRate};
}

}  // namespace

AudioBuffer sideOf(const AudioBuffer& sound, Side side, double cutSeconds, double joinSeconds) {
  if (side == Side::Whole) return sound;
  AudioBuffer out = sound;
  const double rate = sound.sampleRate, end = cutSeconds + 0.5 * std::max(0.0, joinSeconds);
  for (size_t c = 0; c < sound.channelCount(); ++c)
    for (size_t i = 0; i < sound.frames(); ++i) {
      const double share = strikeShare(static_cast<double>(i) / rate, cutSeconds, joinSeconds);
      const float x = sound.channels[c][i], strike = share >= 1.0   ? x
                                                     : share <= 0.0 ? 0.0f
                                                                    : exactShare(x, share);
      out.channels[c][i] = side == Side::Strike ? strike : x - strike;
    }
  if (side == Side::Strike) {
    const auto last = static_cast<size_t>(std::max(0.0, std::ceil(end * rate))) + 1;
    for (auto& channel : out.channels)
      if (channel.size() > last) channel.resize(last);
  }
  return out;
}

double strikeEndMs(const AudioBuffer& sound, double onsetSeconds) {
  const auto high = above(sound, kStrikeAboveHz);
  const double rate = sound.sampleRate, to = onsetSeconds + 0.001 * kLongestStrikeMs;
  const double peak = peakBetween(high, rate, onsetSeconds, to);
  if (peak <= 1e-6) return kUsualCutMs;
  const double floor = peak * std::pow(10.0, -kOverDb / 20.0);
  for (auto i = std::min(high.size(), static_cast<size_t>(to * rate)); i-- > 0;) {
    const double ms = 1000.0 * (static_cast<double>(i) / rate - onsetSeconds);
    if (ms < kShortestStrikeMs) break;
    if (std::abs(high[i]) >= floor) return std::min(kLongestStrikeMs, std::ceil(2.0 * ms) / 2.0);
  }
  return kShortestStrikeMs;
}

JointFacts measureJoint(const AudioBuffer& sum, const AudioBuffer& strike, const AudioBuffer& body,
                        double cutSeconds, double joinSeconds) {
  JointFacts out;
  const double peak = peakOf(sum);
  if (peak <= 0.0) return out;
  const double from = cutSeconds - 0.5 * joinSeconds - 0.002, to = cutSeconds + 0.5 * joinSeconds + 0.002;
  auto click = [&](const AudioBuffer& s) {
    return peakBetween(above(s, kClickAboveHz), s.sampleRate, from, to);
  };
  const double usual = std::max({click(strike), click(body), 0.001 * peak});
  out.clickDb = std::max(0.0, 20.0 * std::log10(std::max(1e-12, click(sum)) / usual));
  const LowLevel heard = lowLevel(sum), before = lowLevel(strike), after = lowLevel(body);
  const double cycle = 0.02, loudest = 1e-3 * *std::max_element(heard.level.begin(), heard.level.end());
  for (double t = cutSeconds - 0.5 * joinSeconds - 0.5 * cycle;
       t <= cutSeconds + 0.5 * joinSeconds + 0.5 * cycle; t += 0.001) {
    const double share = strikeShare(t, cutSeconds, std::max(joinSeconds, 0.5 * cycle));
    const double between = share * before.at(t) + (1.0 - share) * after.at(t);
    if (between <= loudest || between <= 0.0) continue;
    out.notchDb = std::min(out.notchDb, 20.0 * std::log10(std::max(1e-6, heard.at(t) / between)));
  }
  return out;
}

}  // namespace heft
