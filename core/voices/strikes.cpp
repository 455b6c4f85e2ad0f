#include "core/voices/strikes.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/filter.h"
#include "core/sound/noise.h"
#include "core/sound/raised_cosine.h"
#include "core/theory/note.h"
#include "core/voices/wave.h"

namespace heft {
namespace {

// A tone of the strike: pitch re the main one, level, and length re the strike's.
struct Tone {
  double ratio, level, length;
};

struct Recipe {
  StrikeKind kind;
  const char* words;
  std::vector<Tone> tones;
  double noise, noiseLength, noiseQ;  // level, length re the strike's, width of its band
  double fallSemitones;               // from above, over the strike's length
};

// Ratios of bars and boards are those of free bars and plates (2.756, 5.404; 1.59, 2.14, 2.65), the rest by
// ear.
const std::vector<Recipe>& recipes() {
  static const std::vector<Recipe> all = {
      {StrikeKind::Tick, "one short wave, bare", {{1.0, 1.0, 1.0}}, 0.0, 0.0, 1.0, 0.0},
      {StrikeKind::Knock, "hollow, two tones", {{1.0, 1.0, 1.0}, {1.59, 0.6, 0.7}}, 0.1, 0.3, 0.7, 3.0},
      {StrikeKind::Beater,
       "soft felt, a thud of noise",
       {{1.0, 0.8, 0.8}, {0.5, 0.7, 1.0}},
       0.5,
       0.6,
       0.5,
       7.0},
      {StrikeKind::Snap, "tight, bright", {{1.0, 0.5, 0.4}, {2.2, 0.4, 0.3}}, 0.9, 0.8, 1.2, 0.0},
      {StrikeKind::Burst, "noise about its note", {}, 1.0, 1.0, 0.8, 0.0},
      {StrikeKind::Ring,
       "a struck bar",
       {{1.0, 1.0, 1.0}, {2.756, 0.5, 0.6}, {5.404, 0.25, 0.35}},
       0.0,
       0.0,
       1.0,
       0.0},
      {StrikeKind::Scrape, "noise that falls", {}, 1.0, 1.0, 3.0, 24.0},
      {StrikeKind::Drop, "a tone that falls two octaves", {{1.0, 1.0, 1.0}}, 0.0, 0.0, 1.0, 24.0},
      {StrikeKind::Board,
       "wood, four tones",
       {{1.0, 1.0, 1.0}, {1.59, 0.7, 0.8}, {2.14, 0.5, 0.7}, {2.65, 0.4, 0.5}},
       0.2,
       0.2,
       0.5,
       0.0},
      {StrikeKind::Spark,
       "two high tones that beat",
       {{1.0, 0.7, 1.0}, {1.19, 0.7, 1.0}, {3.1, 0.4, 0.5}},
       0.15,
       0.4,
       2.0,
       0.0}};
  return all;
}

const Recipe& recipeOf(StrikeKind kind) {
  return recipes()[static_cast<size_t>(kind)];
}

// -40 dB at 1.
double fading(double t) {
  return std::pow(10.0, -2.0 * t);
}

void addTones(std::vector<float>& out, const Recipe& r, double hz, double lengthSeconds, double rate) {
  for (const Tone& tone : r.tones) {
    double phase = 0.0;
    for (size_t i = 0; i < out.size(); ++i) {
      const double t = static_cast<double>(i) / rate / lengthSeconds;
      const double now = hz * tone.ratio * std::exp2(r.fallSemitones / 12.0 * std::max(0.0, 1.0 - t));
      if (now < 0.45 * rate)
        out[i] += static_cast<float>(tone.level * fading(t / tone.length) * std::sin(kTurn * phase));
      phase += now / rate;
    }
  }
}

// Noise through a band about the note, which may fall.
void addNoise(std::vector<float>& out, const Recipe& r, double hz, double lengthSeconds, double rate) {
  if (r.noise == 0.0) return;
  Noise noise(1 + static_cast<uint64_t>(r.kind));
  double low = 0.0, band = 0.0;
  for (size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / rate / lengthSeconds;
    const double now = std::min(0.4 * rate, hz * std::exp2(r.fallSemitones / 12.0 * std::max(0.0, 1.0 - t)));
    // State-variable filter after Zavalishin's trapezoidal form, band output.
    const double g = std::tan(std::numbers::pi * now / rate), k = 1.0 / r.noiseQ;
    const double x = noise.next(), v1 = (band + g * (x - low)) / (1.0 + g * (g + k)), v2 = low + g * v1;
    band = 2.0 * v1 - band, low = 2.0 * v2 - low;
    out[i] += static_cast<float>(2.0 * r.noise * k * v1 * fading(t / r.noiseLength));
  }
}

}  // namespace

const char* strikeWords(StrikeKind kind) {
  return recipeOf(kind).words;
}

std::vector<float> strikeWave(const Strike& strike, double a4Hz, double sampleRate) {
  const double seconds = strike.lengthMs / 1000.0, hz = hzFromMidi(strike.pitchMidi, a4Hz);
  const Recipe& recipe = recipeOf(strike.kind);
  std::vector<float> out(static_cast<size_t>(2.0 * seconds * sampleRate) + 2, 0.0f);
  addTones(out, recipe, hz, seconds, sampleRate);
  addNoise(out, recipe, hz, seconds, sampleRate);
  const size_t end = out.size(), fade = end / 4;
  for (size_t i = 0; i < fade; ++i)
    out[end - 1 - i] *= static_cast<float>(raisedCosine(static_cast<double>(i) / static_cast<double>(fade)));
  out[0] = 0.0f;
  float peak = 1e-9f;
  for (float x : out) peak = std::max(peak, std::abs(x));
  for (float& x : out) x /= peak;
  return out;
}

}  // namespace heft
