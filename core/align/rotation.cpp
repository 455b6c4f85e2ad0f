#include "core/align/rotation.h"

#include <algorithm>
#include <cmath>

namespace heft {
namespace {

constexpr double kTwoPi = 6.283185307179586;

std::complex<double> responseAt(const Biquad::Coefficients& c, double sampleRate, double hz) {
  const auto z = std::polar(1.0, -kTwoPi * hz / sampleRate);
  return (c.b0 + z * (c.b1 + z * c.b2)) / (1.0 + z * (c.a1 + z * c.a2));
}

}  // namespace

bool Rotation::works() const {
  return on && std::any_of(stages.begin(), stages.end(), [](const AllPass& s) { return s.on; });
}

std::vector<Biquad::Coefficients> rotationSections(const Rotation& rotation, double sampleRate) {
  std::vector<Biquad::Coefficients> out;
  if (!rotation.works()) return out;
  for (const AllPass& s : rotation.stages)
    if (s.on) out.push_back(Biquad::allPass(sampleRate, std::min(s.hz, 0.45 * sampleRate), s.q));
  return out;
}

std::complex<double> rotationAt(const Rotation& rotation, double sampleRate, double hz) {
  std::complex<double> out = 1.0;
  for (const auto& c : rotationSections(rotation, sampleRate)) out *= responseAt(c, sampleRate, hz);
  return out;
}

double turnedDegrees(const Rotation& rotation, double sampleRate, double hz) {
  double out = 0.0;
  for (const auto& c : rotationSections(rotation, sampleRate)) {
    const double behind = -std::arg(responseAt(c, sampleRate, hz)) * 360.0 / kTwoPi;
    out += behind < 0.0 ? behind + 360.0 : behind;
  }
  return out;
}

double groupDelayMs(const Rotation& rotation, double sampleRate, double hz) {
  constexpr double kStepHz = 0.5;
  double turned =
      turnedDegrees(rotation, sampleRate, hz + kStepHz) - turnedDegrees(rotation, sampleRate, hz - kStepHz);
  turned -= 360.0 * std::round(turned / 360.0);
  return turned / 360.0 / (2.0 * kStepHz) * 1000.0;
}

Rotation aligningTurn(Rotation rotation) {
  rotation.stages[2].on = rotation.stages[3].on = false;
  return rotation;
}

double rotationSettles(const Rotation& rotation) {
  // Its poles fall by pi * hz / q nepers a second; 13.8 nepers are 120 dB.
  double out = 0.0;
  for (const AllPass& s : rotation.stages)
    if (rotation.on && s.on) out += 13.8 * std::max(s.q, 0.5) / (0.5 * kTwoPi * s.hz);
  return out;
}

void rotate(AudioBuffer& sound, const Rotation& rotation) {
  for (const auto& section : rotationSections(rotation, sound.sampleRate))
    for (auto& channel : sound.channels) {
      Biquad filter(section);
      for (float& v : channel) v = static_cast<float>(filter.process(v));
    }
}

void turnLows(AudioBuffer& sound, double degrees) {
  constexpr double kLowsHz = 250.0, kFadeSeconds = 0.002;
  const double turns = degrees / 360.0, angle = kTwoPi * (turns - std::floor(turns));
  if (angle == 0.0) return;
  const auto fade = static_cast<size_t>(kFadeSeconds * sound.sampleRate);
  for (auto& channel : sound.channels) {
    const std::vector<double> whole(channel.begin(), channel.end());
    const auto low = bandLimited(whole, sound.sampleRate, 0.0, kLowsHz), behind = quarterBehind(low);
    for (size_t i = 0; i < channel.size(); ++i) {
      const double in = i < fade ? static_cast<double>(i) / static_cast<double>(fade) : 1.0;
      const double turned = low[i] * std::cos(angle) - behind[i] * std::sin(angle);
      channel[i] = static_cast<float>(whole[i] + in * (turned - low[i]));
    }
  }
}

}  // namespace heft
