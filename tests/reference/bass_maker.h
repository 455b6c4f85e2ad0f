#pragma once
/// Basses of known note: everything that hides or blurs one. The note is the one that a player would name: the
/// period of the voice, the middle of detuned voices and of a vibrato.

#include <cmath>
#include <numbers>
#include <random>
#include <vector>

namespace heft::reference {

enum class BassKind { Plain, WeakFundamental, MissingFundamental, Detuned, Beating, Pulse, Vibrato, Driven };
inline constexpr int kBassKinds = 8;

struct BassRecipe {
  BassKind kind = BassKind::Plain;
  double sampleRate = 48000.0, hz = 55.0, seconds = 0.8, decaySeconds = 1.0;
  int partials = 10;
  double slope = 1.0;          ///< partials fall off as k^-slope
  double fundamentalDb = 0.0;  ///< of the first partial, beside that
  int voices = 1;
  double spreadCents = 0.0;  ///< between the outermost voices
  double duty = 0.5;         ///< of a pulse; moves by a third over the note
  double vibratoCents = 0.0, vibratoHz = 5.0;
  double drive = 0.0;
  double noiseDb = -60.0;
  unsigned seed = 1;
};

/// Eight kinds in turn; the same seed gives the same bass.
inline BassRecipe randomBass(unsigned seed) {
  std::mt19937 random(seed * 9176u + 31u);
  auto uniform = [&random](double a, double b) { return a + (b - a) * (random() / 4294967296.0); };
  BassRecipe r;
  r.seed = seed;
  r.kind = static_cast<BassKind>(seed % kBassKinds);
  const double rates[] = {44100, 48000, 96000};
  r.sampleRate = rates[random() % 3];
  r.hz = 32.0 * std::exp2(uniform(0, 2.0));
  r.seconds = uniform(0.35, 1.8);
  r.decaySeconds = uniform(0.3, 3.0);
  r.partials = 3 + static_cast<int>(random() % 14);
  r.slope = uniform(0.6, 2.0);
  r.noiseDb = uniform(-80, -45);
  switch (r.kind) {
    case BassKind::Plain:
      break;
    case BassKind::WeakFundamental:
      r.fundamentalDb = -uniform(14, 30), r.slope = uniform(0.3, 1.0);
      break;
    case BassKind::MissingFundamental:
      r.fundamentalDb = -200, r.partials = std::max(r.partials, 4), r.slope = uniform(0.3, 1.0);
      break;
    case BassKind::Detuned:
      r.voices = 2 + static_cast<int>(random() % 6), r.spreadCents = uniform(8, 40), r.slope = 1.0;
      break;
    case BassKind::Beating:
      r.voices = 2, r.spreadCents = uniform(4, 25);
      break;
    case BassKind::Pulse:
      r.duty = uniform(0.1, 0.5), r.partials = 24;
      break;
    case BassKind::Vibrato:
      r.vibratoCents = uniform(8, 45), r.vibratoHz = uniform(3.5, 7);
      break;
    case BassKind::Driven:
      r.drive = uniform(2, 20);
      break;
  }
  return r;
}

inline std::vector<double> makeBass(const BassRecipe& r) {
  std::mt19937 random(r.seed);
  std::normal_distribution<double> normal;
  const auto frames = static_cast<size_t>(r.seconds * r.sampleRate);
  const double turn = 2.0 * std::numbers::pi, fundamental = std::pow(10.0, r.fundamentalDb / 20.0);
  std::vector<double> phases;
  for (int v = 0; v < r.voices; ++v) phases.push_back(v == 0 ? 0.0 : random() / 4294967296.0);
  std::vector<double> out(frames);
  double peak = 0.0;
  for (size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / r.sampleRate;
    const double bend = r.vibratoCents * std::sin(turn * r.vibratoHz * t) / 1200.0;
    double x = 0.0;
    for (int v = 0; v < r.voices; ++v) {
      const double off = r.voices > 1 ? r.spreadCents * (static_cast<double>(v) / (r.voices - 1) - 0.5) : 0.0;
      double& phase = phases[static_cast<size_t>(v)];
      const double duty = r.duty * (1.0 + 0.33 * std::sin(turn * 0.7 * t));
      for (int k = 1; k <= r.partials; ++k) {
        if (k * r.hz > 0.4 * r.sampleRate) break;
        double a = std::pow(k, -r.slope) * (k == 1 ? fundamental : 1.0);
        if (r.kind == BassKind::Pulse) a = std::sin(std::numbers::pi * k * duty) / k;
        x += a * std::sin(turn * k * phase);
      }
      phase += r.hz * std::exp2(off / 1200.0 + bend) / r.sampleRate;
    }
    if (r.drive > 0) x = std::tanh(r.drive * x);
    const double ends = std::min({1.0, t / 0.004, (r.seconds - t) / 0.02});
    out[i] = std::max(0.0, ends) * std::exp(-t / r.decaySeconds) * x;
    peak = std::max(peak, std::abs(out[i]));
  }
  const double noise = std::pow(10.0, r.noiseDb / 20.0);
  for (double& x : out) x = 0.8 * x / peak + noise * normal(random);
  return out;
}

}  // namespace heft::reference
