#include "core/measure/loop_tempo.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/sound/fft.h"

namespace heft {
namespace {

constexpr double kFluxHopSeconds = 0.005, kFluxWindowSeconds = 0.04, kOnsetsApartSeconds = 0.05;
constexpr double kOnsetFloor = 0.1;  // of the strongest
constexpr double kCompression = 1000.0;
constexpr std::array kBandEdges{60.0, 200.0, 400.0, 800.0, 1600.0, 3200.0, 6400.0, 12000.0};
constexpr double kLeastBpm = 60.0, kMostBpm = 200.0, kGrain = 5e-4;  // of a natural logarithm

struct Onset {
  double seconds = 0.0, strength = 0.0;
};

using Bands = std::array<double, kBandEdges.size() - 1>;

// Levels of the bands each hop, the first window's middle half a window before the sound.
std::vector<Bands> bandLevels(const std::vector<double>& mono, double rate, size_t hop, size_t size) {
  RealFft fft(size);
  std::vector<double> window(size);
  for (size_t i = 0; i < size; ++i)
    window[i] =
        0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(size));
  std::vector<Bands> out;
  for (size_t at = 0; at < mono.size() + size; at += hop) {
    for (size_t i = 0; i < size; ++i) {
      const size_t k = at + i;  // of the sound behind one window of silence
      fft.time()[i] = k >= size && k - size < mono.size() ? window[i] * mono[k - size] : 0.0;
    }
    fft.forward();
    Bands bands{};
    for (size_t k = 1; k < fft.bins().size(); ++k) {
      const double hz = static_cast<double>(k) * rate / static_cast<double>(size);
      const auto edge = std::upper_bound(kBandEdges.begin(), kBandEdges.end(), hz);
      if (edge == kBandEdges.begin() || edge == kBandEdges.end()) continue;
      bands[static_cast<size_t>(edge - kBandEdges.begin()) - 1] += std::norm(fft.bins()[k]);
    }
    for (double& b : bands) b = std::sqrt(b);
    out.push_back(bands);
  }
  return out;
}

// Where a peak between samples is, in samples from the middle one.
double peakBetween(double before, double at, double after) {
  const double bend = before - 2.0 * at + after;
  return bend < 0.0 ? 0.5 * (before - after) / bend : 0.0;
}

std::vector<Onset> onsetsOf(const std::vector<double>& mono, double rate) {
  const auto hop = static_cast<size_t>(std::max(1.0, std::round(kFluxHopSeconds * rate)));
  size_t size = 64;
  while (static_cast<double>(size) < kFluxWindowSeconds * rate) size *= 2;
  auto levels = bandLevels(mono, rate, hop, size);
  double loudest = 0.0;
  for (const Bands& b : levels) loudest = std::max(loudest, *std::max_element(b.begin(), b.end()));
  if (!(loudest > 0.0)) return {};
  for (Bands& b : levels)
    for (double& x : b) x = std::log10(1.0 + kCompression * x / loudest);
  std::vector<double> flux;
  for (size_t i = 2; i < levels.size(); ++i) {
    double rise = 0.0;
    for (size_t b = 0; b < levels[i].size(); ++b) rise += std::max(0.0, levels[i][b] - levels[i - 2][b]);
    flux.push_back(rise);
  }
  if (flux.size() < 3) return {};
  const double strongest = *std::max_element(flux.begin(), flux.end());
  const auto apart = static_cast<std::ptrdiff_t>(kOnsetsApartSeconds / kFluxHopSeconds);
  std::vector<Onset> out;
  for (std::ptrdiff_t i = 1; i + 1 < std::ssize(flux); ++i) {
    const auto first = flux.begin() + std::max<std::ptrdiff_t>(0, i - apart),
               last = flux.begin() + std::min(std::ssize(flux), i + apart + 1);
    const double here = flux[static_cast<size_t>(i)];
    if (here < *std::max_element(first, last) || here <= kOnsetFloor * strongest) continue;
    const double at = static_cast<double>(i + 1) +
                      peakBetween(flux[static_cast<size_t>(i) - 1], here, flux[static_cast<size_t>(i) + 1]);
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

// The same pulse counted in beats as they are counted mostly.
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
