#include "scenario/demo_sounds.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "core/sound/filter.h"
#include "core/theory/note.h"

namespace heft::demo {
namespace {

constexpr double kTwoPi = 2.0 * std::numbers::pi;

// The library's distributions are not the same everywhere; the engine is.
class Noise {
 public:
  explicit Noise(unsigned seed) : random_(seed) {}
  double next() { return static_cast<double>(random_()) / 2147483648.0 - 1.0; }

 private:
  std::mt19937 random_;
};

void normalise(AudioBuffer& sound, double peak) {
  const double now = peakOf(sound);
  for (auto& channel : sound.channels)
    for (float& x : channel) x = static_cast<float>(x * peak / now);
}

// A burst of filtered noise: a grain of salt, a shaken pan.
void addBurst(std::vector<double>& to, double at, double seconds, double lowCutHz, double level,
              unsigned seed) {
  Noise noise(seed);
  Biquad cut(Biquad::highPass(kRate, lowCutHz, 0.7));
  const auto first = static_cast<size_t>(at * kRate);
  for (size_t i = 0; i < static_cast<size_t>(6 * seconds * kRate) && first + i < to.size(); ++i)
    to[first + i] += level * cut.process(noise.next()) * std::exp(-static_cast<double>(i) / (seconds * kRate));
}

}  // namespace

AudioBuffer kick(double landingHz, double tailMs) {
  const auto frames = static_cast<size_t>(1.5 * tailMs / 1000.0 * kRate);
  AudioBuffer out(kRate, 1, frames);
  Noise noise(11);
  Biquad tick(Biquad::highPass(kRate, 1800.0, 0.8));
  double phase = 0.0;
  for (size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / kRate;
    const double envelope = std::min(1.0, t / 0.0008) * std::exp(-std::log(100.0) * t / (tailMs / 1000.0));
    const double body = std::tanh(1.4 * envelope * std::sin(phase)) / std::tanh(1.4);
    const double strike = 0.35 * tick.process(noise.next()) * std::exp(-t / 0.0025) +
                          0.25 * std::sin(kTwoPi * 780.0 * t) * std::exp(-t / 0.004);
    out.channels[0][i] = static_cast<float>(body + strike);
    phase += kTwoPi * landingHz * std::exp2(24.0 * std::exp(-t / 0.011) / 12.0) / kRate;
  }
  normalise(out, 0.89);
  return out;
}

AudioBuffer lowHit(double hz, double seconds, double startPhase) {
  const auto frames = static_cast<size_t>(seconds * kRate);
  AudioBuffer out(kRate, 1, frames);
  double phase = startPhase;
  for (size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / kRate;
    const double envelope =
        std::min(1.0, t / 0.003) * std::exp(-t / (0.42 * seconds)) * std::min(1.0, (seconds - t) / 0.05);
    const double x = envelope * (std::sin(phase) + 0.16 * std::sin(2.0 * phase) + 0.09 * std::sin(3.0 * phase));
    out.channels[0][i] = static_cast<float>(std::tanh(1.2 * x));
    phase += kTwoPi * hz * std::exp2(7.0 * std::exp(-t / 0.008) / 12.0) / kRate;
  }
  normalise(out, 0.8);
  return out;
}

AudioBuffer backing(double tempoBpm, int quarters, int up) {
  const double beat = 60.0 / tempoBpm;
  const auto frames = static_cast<size_t>(std::lround(quarters * beat * kRate));
  AudioBuffer out(kRate, 2, frames);
  std::vector<double> left(frames, 0.0), right(frames, 0.0);
  // Whole cycles over the loop, so that the drone meets itself.
  const double length = static_cast<double>(frames) / kRate;
  for (int midi : {57, 60, 64, 69, 71}) {
    const double cycles = std::round(hzFromMidi(midi + up) * length), other = cycles + 1.0;
    for (size_t i = 0; i < frames; ++i) {
      const double x = static_cast<double>(i) / static_cast<double>(frames);
      const double swell = 0.75 + 0.25 * std::cos(kTwoPi * (2.0 * x - 0.1));
      left[i] += 0.028 * swell * (std::sin(kTwoPi * cycles * x) + 0.3 * std::sin(kTwoPi * 2.0 * cycles * x));
      right[i] += 0.028 * swell * (std::sin(kTwoPi * other * x) + 0.3 * std::sin(kTwoPi * 2.0 * other * x));
    }
  }
  for (int eighth = 0; eighth < 2 * quarters; ++eighth) {
    auto& side = eighth % 2 ? left : right;
    addBurst(side, 0.5 * eighth * beat, 0.012, 6000.0, eighth % 4 == 2 ? 0.22 : 0.13,
             100u + static_cast<unsigned>(eighth));
  }
  for (int bar = 0; 4 * bar < quarters; ++bar)
    for (int stroke : {1, 3}) {
      addBurst(left, (4 * bar + stroke) * beat, 0.05, 900.0, 0.3,
               300u + static_cast<unsigned>(4 * bar + stroke));
      addBurst(right, (4 * bar + stroke) * beat, 0.05, 900.0, 0.3,
               400u + static_cast<unsigned>(4 * bar + stroke));
    }
  for (size_t i = 0; i < frames; ++i) {
    out.channels[0][i] = static_cast<float>(left[i]);
    out.channels[1][i] = static_cast<float>(right[i]);
  }
  return out;
}

}  // namespace heft::demo
