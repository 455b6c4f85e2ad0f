#include "core/measure/events/loop_tempo.h"

#include <qm-dsp/dsp/onsets/DetectionFunction.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/sound/interpolate.h"

namespace heft {
namespace {

constexpr double kHopOfNovelty = 0.005, kWindowOfNovelty = 0.04, kOnsetsApartSeconds = 0.05;  // s
constexpr double kOnsetFloor = 0.1;                                  // of the strongest
constexpr double kLeastBpm = 60.0, kMostBpm = 200.0, kGrain = 5e-4;  // of a natural logarithm

struct Onset {
  double seconds = 0.0, strength = 0.0;
};

// High frequency content of adaptively whitened spectra, a figure each hop; the window's end is the moment.
std::vector<double> noveltyOf(const std::vector<double>& mono, size_t hop, size_t size) {
  // Fires on a rise of 3 dB; the library's own whitening.
  DetectionFunction detect(
      {static_cast<unsigned>(hop), static_cast<unsigned>(size), DF_HFC, 3.0, true, -1.0, -1.0});
  std::vector<double> padded(size, 0.0), out;
  padded.insert(padded.end(), mono.begin(), mono.end());
  padded.resize(padded.size() + size, 0.0);
  for (size_t at = 0; at + size <= padded.size(); at += hop)
    out.push_back(detect.processTimeDomain(&padded[at]));
  return out;
}

std::vector<Onset> onsetsOf(const std::vector<double>& mono, double rate) {
  const auto hop = static_cast<size_t>(std::max(1.0, std::round(kHopOfNovelty * rate)));
  size_t size = 64;
  while (static_cast<double>(size) < kWindowOfNovelty * rate) size *= 2;
  const auto novelty = noveltyOf(mono, hop, size);
  if (novelty.size() < 3) return {};
  const double strongest = *std::max_element(novelty.begin(), novelty.end());
  if (!(strongest > 0.0)) return {};
  const auto apart = static_cast<std::ptrdiff_t>(kOnsetsApartSeconds / kHopOfNovelty);
  std::vector<Onset> out;
  for (std::ptrdiff_t i = 1; i + 1 < std::ssize(novelty); ++i) {
    const auto first = novelty.begin() + std::max<std::ptrdiff_t>(0, i - apart),
               last = novelty.begin() + std::min(std::ssize(novelty), i + apart + 1);
    const double here = novelty[static_cast<size_t>(i)];
    if (here < *std::max_element(first, last) || here <= kOnsetFloor * strongest) continue;
    const double at = static_cast<double>(i + 1) + turnBetween(novelty[static_cast<size_t>(i) - 1], here,
                                                               novelty[static_cast<size_t>(i) + 1]);
    out.push_back({at * static_cast<double>(hop) / rate, std::sqrt(here / strongest)});
  }
  return out;
}

// How well onsets fall on the grid of a tempo, 0 to 1.
double fitOf(const std::vector<Onset>& onsets, double bpm) {
  struct Grid {
    double aBeat, counts;
  };
  constexpr std::array kGrids{Grid{4.0, 0.5}, Grid{2.0, 0.3}, Grid{1.0, 0.2}};
  double all = 0.0, out = 0.0;
  for (const Onset& o : onsets) all += o.strength;
  for (const Grid& g : kGrids) {
    std::complex<double> sum;
    for (const Onset& o : onsets)
      sum += std::polar(o.strength, -2.0 * std::numbers::pi * g.aBeat * bpm / 60.0 * o.seconds);
    out += g.counts * std::abs(sum) / all;
  }
  return out;
}

struct Best {
  double bpm = 0.0, fit = 0.0, second = 0.0;  // `second`: another tempo's fit as a part of the best one's
};

Best bestTempo(const std::vector<Onset>& onsets) {
  constexpr double kUsualBpm = 120.0, kWidthOctaves = 0.9, kCounts = 0.4, kFarOctaves = 0.04;
  std::vector<double> bpm, fit, liked;
  for (double log = std::log(kLeastBpm); log < std::log(kMostBpm); log += kGrain) {
    bpm.push_back(std::exp(log)), fit.push_back(fitOf(onsets, bpm.back()));
    const double off = std::log2(bpm.back() / kUsualBpm) / kWidthOctaves;
    liked.push_back(fit.back() * (1.0 - kCounts + kCounts * std::exp(-0.5 * off * off)));
  }
  const auto top = static_cast<size_t>(std::max_element(liked.begin(), liked.end()) - liked.begin());
  Best out{bpm[top], fit[top], 0.0};
  for (size_t i = 0; i < bpm.size(); ++i) {
    const double octaves = std::abs(std::log2(bpm[i] / out.bpm));
    if (octaves > kFarOctaves && std::abs(octaves - 1.0) > kFarOctaves)
      out.second = std::max(out.second, liked[i] / liked[top]);
  }
  return out;
}

// The same pulse in the beats that are usually counted.
double inItsOctave(const std::vector<Onset>& onsets, const Best& best) {
  constexpr double kMiddleBpm = 126.0, kFitsAsWell = 0.75;
  double out = best.bpm;
  for (const double other : {0.5 * best.bpm, 2.0 * best.bpm})
    if (other >= kLeastBpm && other <= kMostBpm && fitOf(onsets, other) > kFitsAsWell * best.fit &&
        std::abs(std::log2(other / kMiddleBpm)) < std::abs(std::log2(out / kMiddleBpm)))
      out = other;
  return out;
}

double madeExact(const std::vector<Onset>& onsets, double bpm, double seconds) {
  constexpr double kBar = 4.0, kLengthFits = 0.005, kNear = 0.012, kFitsAsWell = 0.97;
  const double bars = seconds * bpm / 60.0 / kBar, whole = std::round(bars);
  if (whole >= 1.0 && std::abs(bars - whole) < kLengthFits * whole) return 60.0 * kBar * whole / seconds;
  double out = bpm, best = kFitsAsWell * fitOf(onsets, bpm);
  for (double near = std::ceil(bpm * (1.0 - kNear)); near <= bpm * (1.0 + kNear); near += 1.0)
    if (const double fit = fitOf(onsets, near); fit > best) out = near, best = fit;
  return out;
}

}  // namespace

std::optional<TempoFacts> loopTempo(const AudioBuffer& sound) {
  constexpr double kLeastSeconds = 1.0, kSilence = 1e-5, kClear = 0.2;
  constexpr size_t kLeastOnsets = 4;
  if (sound.seconds() < kLeastSeconds || peakOf(sound) < kSilence) return std::nullopt;
  const auto folded = monoFold(sound);
  const auto onsets = onsetsOf({folded.begin(), folded.end()}, sound.sampleRate);
  if (onsets.size() < kLeastOnsets) return std::nullopt;
  const Best best = bestTempo(onsets);
  const double bpm = madeExact(onsets, inItsOctave(onsets, best), sound.seconds());
  return TempoFacts{bpm, std::clamp(best.fit, 0.0, 1.0) * std::clamp((1.0 - best.second) / kClear, 0.0, 1.0)};
}

}  // namespace heft
