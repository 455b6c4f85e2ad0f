#pragma once
/// Kicks of known landing, written straight from their definition: the study of estimators and the tests
/// measure these.

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <string>
#include <vector>

namespace heft::reference {

struct KickRecipe {
  enum class Fall { Exponential, Linear, TwoSlope };
  double sampleRate = 48000.0;
  double landingHz = 55.0;
  double fallSemitones = 24.0;
  double fallMs = 12.0;  ///< time constant (exponential), duration (linear)
  Fall fall = Fall::Exponential;
  double tailMs = 300.0;  ///< from the strike to -40 dB
  double drive = 0.0;     ///< 0: none; tanh of 1 + drive
  double bias = 0.0;      ///< offset before the drive (even harmonics, DC)
  double second = 0.0, third = 0.0;
  double clickDb = -200.0;
  double noiseDb = -200.0;
  double roomDb = -200.0;
  double silenceMs = 0.0;
  double startPhase = 0.0;
  double trimMs = 0.0;  ///< > 0: faded to silence by then, faster and faster, as a trimmed sample is
  unsigned seed = 1;
};

/// Semitones above the landing at `t` seconds.
inline double fallAt(const KickRecipe& r, double t) {
  const double ms = t * 1000.0;
  switch (r.fall) {
    case KickRecipe::Fall::Exponential:
      return r.fallSemitones * std::exp(-ms / r.fallMs);
    case KickRecipe::Fall::Linear:
      return ms < r.fallMs ? r.fallSemitones * (1.0 - ms / r.fallMs) : 0.0;
    case KickRecipe::Fall::TwoSlope:
      return r.fallSemitones *
             (0.8 * std::exp(-ms / (0.4 * r.fallMs)) + 0.2 * std::exp(-ms / (1.5 * r.fallMs)));
  }
  return 0.0;
}

inline std::vector<double> makeKick(const KickRecipe& r) {
  std::mt19937 random(r.seed);
  std::normal_distribution<double> normal;
  const auto silence = static_cast<size_t>(r.silenceMs * r.sampleRate / 1000.0);
  const auto frames = static_cast<size_t>((r.tailMs * 1.4 + 30.0) * r.sampleRate / 1000.0);
  std::vector<double> body(frames);
  double phase = r.startPhase;
  const double decay = std::log(100.0) / (r.tailMs / 1000.0);
  for (size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / r.sampleRate;
    const double attack = std::min(1.0, t / 0.0007);
    const double envelope = attack * std::exp(-decay * t);
    double x = envelope * (std::sin(phase) + r.second * std::sin(2 * phase) + r.third * std::sin(3 * phase));
    if (r.drive > 0) x = std::tanh((1 + r.drive) * (x + r.bias * envelope)) / std::tanh(1 + r.drive);
    if (r.trimMs > 0)
      x *= std::pow(std::cos(0.5 * std::numbers::pi * std::clamp((1000 * t / r.trimMs - 0.3) / 0.7, 0.0, 1.0)),
                    2);
    body[i] = x;
    // Mid-point rule for the phase: exact enough (1e-9 cycles) at audio rates.
    const double mid = t + 0.5 / r.sampleRate;
    phase += 2.0 * std::numbers::pi * r.landingHz * std::exp2(fallAt(r, mid) / 12.0) / r.sampleRate;
  }
  if (r.roomDb > -150) {
    const auto length = static_cast<size_t>(0.04 * r.sampleRate);
    std::vector<double> wet(body);
    const double gain = std::pow(10.0, r.roomDb / 20.0);
    for (int tap = 0; tap < 60; ++tap) {
      const auto delay = static_cast<size_t>((0.002 + 0.038 * (random() / 4294967296.0)) * r.sampleRate);
      const double g = gain * normal(random) * 0.35 *
                       std::exp(-3.0 * static_cast<double>(delay) / static_cast<double>(length));
      for (size_t i = delay; i < frames; ++i) wet[i] += g * body[i - delay];
    }
    body = wet;
  }
  const double click = std::pow(10.0, r.clickDb / 20.0), noise = std::pow(10.0, r.noiseDb / 20.0);
  std::vector<double> out(silence, 0.0);
  out.insert(out.end(), body.begin(), body.end());
  for (size_t i = 0; i < out.size(); ++i) {
    if (r.clickDb > -150 && i >= silence)
      out[i] += click * normal(random) * std::exp(-static_cast<double>(i - silence) / (0.002 * r.sampleRate));
    if (r.noiseDb > -150) out[i] += noise * normal(random);
  }
  double peak = 0.0;
  for (double x : out) peak = std::max(peak, std::abs(x));
  if (peak > 0)
    for (double& x : out) x *= 0.9 / peak;
  return out;
}

/// A wide spread of kicks: everything a maker of kicks may do to one. The same seed gives the same kick.
inline KickRecipe randomRecipe(unsigned seed) {
  std::mt19937 random(seed * 7919u + 17u);
  auto uniform = [&random](double a, double b) { return a + (b - a) * (random() / 4294967296.0); };
  auto chance = [&](double p) { return uniform(0, 1) < p; };
  KickRecipe r;
  r.seed = seed;
  const double rates[] = {44100, 48000, 96000};
  r.sampleRate = rates[random() % 3];
  r.landingHz = 36.0 * std::exp2(uniform(0, 1.1));
  r.tailMs = 60.0 * std::pow(15.0, uniform(0, 1));
  r.fallSemitones = uniform(7, 48);
  r.fall = static_cast<KickRecipe::Fall>(random() % 3);
  const double longest = std::min(60.0, r.tailMs / 8.0);
  r.fallMs = r.fall == KickRecipe::Fall::Linear ? uniform(8, 3.0 * longest) : uniform(3, longest);
  if (chance(0.4)) r.drive = uniform(0.3, 4);
  if (chance(0.2)) r.bias = uniform(0.05, 0.3);
  if (chance(0.3)) r.second = uniform(0.05, 0.5);
  if (chance(0.3)) r.third = uniform(0.02, 0.3);
  if (chance(0.6)) r.clickDb = uniform(-30, -3);
  if (chance(0.4)) r.noiseDb = uniform(-80, -45);
  if (chance(0.25)) r.roomDb = uniform(-30, -15);
  if (chance(0.4)) r.silenceMs = uniform(1, 120);
  r.startPhase = uniform(0, 6.28);
  // Never so early that it does not come to rest: five time constants, or twice a linear fall.
  const double rested = std::max(110.0, (r.fall == KickRecipe::Fall::Linear ? 2.0 : 6.0) * r.fallMs);
  if (r.tailMs > 1.2 * rested && chance(0.3)) r.trimMs = uniform(rested, r.tailMs);
  return r;
}

}  // namespace heft::reference
