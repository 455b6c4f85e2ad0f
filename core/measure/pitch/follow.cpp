#include "core/measure/pitch/follow.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/measure/pitch/fall.h"
#include "core/measure/pitch/rest.h"
#include "core/sound/interpolate.h"
#include "core/theory/note.h"

namespace heft {
namespace {

constexpr double kStepCents = 40.0;                               // of the grid of pitches
constexpr double kPeriods = 3.0;                                  // of a coarse window
constexpr double kFinePeriods = 2.2;                              // of a fine one
constexpr double kSmoothPeriods = 1.0, kFineSmoothPeriods = 0.6;  // spread of the smoothing
constexpr int kPasses = 5;
constexpr double kJumpCost = 0.05;       // per step of the grid, of the loudest tone at that time
constexpr ptrdiff_t kFurthestStep = 14;  // of the grid, from one moment to the next
constexpr double kDenseCents = 25.0, kAboutCents = 80.0;
constexpr double kHeardAmplitude = 0.01;  // re the loudest: lowest level that counts in a path

double windowAt(ptrdiff_t k, double half) {
  return 0.5 + 0.5 * std::cos(std::numbers::pi * static_cast<double>(k) / (half + 1.0));
}

/// A path at equal steps of time.
struct Path {
  double hop = 0.0;  ///< seconds
  std::vector<double> hz, amplitude;

  double seconds(size_t i) const { return hop * static_cast<double>(i); }
  double hzAt(double t) const {
    const double at = std::clamp(t / hop, 0.0, static_cast<double>(hz.size() - 1));
    const auto i = std::min(hz.size() - 1, static_cast<size_t>(at)), next = std::min(hz.size() - 1, i + 1);
    const double u = at - static_cast<double>(i);
    return hz[i] * std::pow(hz[next] / hz[i], u);
  }
};

// A windowed tone, made once a pitch: laid over the sound it gives the amplitude there.
struct Probe {
  ptrdiff_t half = 0;
  std::vector<double> real, imaginary;

  Probe(double rate, double hz) : half(static_cast<ptrdiff_t>(0.5 * kPeriods * rate / hz)) {
    double weights = 0.0;
    for (ptrdiff_t k = -half; k <= half; ++k) weights += windowAt(k, static_cast<double>(half));
    for (ptrdiff_t k = -half; k <= half; ++k) {
      const auto turned = std::polar(2.0 * windowAt(k, static_cast<double>(half)) / weights,
                                     -2.0 * std::numbers::pi * hz * static_cast<double>(k) / rate);
      real.push_back(turned.real()), imaginary.push_back(turned.imag());
    }
  }
  double amplitudeAt(const std::vector<double>& x, ptrdiff_t at) const {
    const auto n = static_cast<ptrdiff_t>(x.size());
    const ptrdiff_t from = std::max(-half, -at), to = std::min(half, n - 1 - at);
    double a = 0.0, b = 0.0;
    for (ptrdiff_t k = from; k <= to; ++k) {
      const double v = x[static_cast<size_t>(at + k)];
      a += v * real[static_cast<size_t>(k + half)], b += v * imaginary[static_cast<size_t>(k + half)];
    }
    return std::hypot(a, b);
  }
};

// For every moment, the amplitude of a tone at each pitch of the grid.
std::vector<std::vector<double>> tonesOver(const Decimated& base, const std::vector<double>& grid, double hop) {
  std::vector<Probe> probes;
  for (double hz : grid) probes.emplace_back(base.sampleRate, hz);
  std::vector<std::vector<double>> out;
  const double seconds = static_cast<double>(base.samples.size()) / base.sampleRate;
  for (double t = 0.0; t < seconds; t += hop) {
    auto& row = out.emplace_back();
    for (const Probe& probe : probes)
      row.push_back(probe.amplitudeAt(base.samples, static_cast<ptrdiff_t>(t * base.sampleRate)));
  }
  return out;
}

// The path that gathers the most amplitude and jumps the least.
std::vector<size_t> bestPath(const std::vector<std::vector<double>>& tones) {
  const size_t pitches = tones[0].size();
  std::vector<double> score = tones[0];
  std::vector<std::vector<size_t>> from(tones.size(), std::vector<size_t>(pitches, 0));
  for (size_t t = 1; t < tones.size(); ++t) {
    std::vector<double> next(pitches);
    const double cost = kJumpCost * *std::max_element(tones[t].begin(), tones[t].end());
    for (size_t p = 0; p < pitches; ++p) {
      const auto here = static_cast<ptrdiff_t>(p);
      double best = -1e300;
      const ptrdiff_t last = std::min(static_cast<ptrdiff_t>(pitches) - 1, here + kFurthestStep);
      for (ptrdiff_t q = std::max<ptrdiff_t>(0, here - kFurthestStep); q <= last; ++q) {
        const double value = score[static_cast<size_t>(q)] - cost * static_cast<double>(std::abs(q - here));
        if (value > best) best = value, from[t][p] = static_cast<size_t>(q);
      }
      next[p] = best + tones[t][p];
    }
    score = std::move(next);
  }
  std::vector<size_t> path(tones.size());
  path.back() = static_cast<size_t>(std::max_element(score.begin(), score.end()) - score.begin());
  for (size_t t = tones.size() - 1; t > 0; --t) path[t - 1] = from[t][path[t]];
  return path;
}

// A line through the points about each moment, weighted by power and nearness.
std::vector<double> smoothed(const std::vector<double>& y, const Path& path, double periods) {
  std::vector<double> out(y.size());
  const auto size = static_cast<ptrdiff_t>(y.size());
  for (ptrdiff_t i = 0; i < size; ++i) {
    const double spread = periods / path.hz[static_cast<size_t>(i)];
    const auto reach = static_cast<ptrdiff_t>(3.0 * spread / path.hop) + 1;
    double w0 = 1e-30, w1 = 0, w2 = 0, y0 = 0, y1 = 0;
    for (ptrdiff_t j = std::max<ptrdiff_t>(0, i - reach); j <= std::min(size - 1, i + reach); ++j) {
      const double t = static_cast<double>(j - i) * path.hop, a = path.amplitude[static_cast<size_t>(j)];
      const double w = a * a * std::exp(-0.5 * t * t / (spread * spread)), v = y[static_cast<size_t>(j)];
      w0 += w, w1 += w * t, w2 += w * t * t, y0 += w * v, y1 += w * t * v;
    }
    const double det = w0 * w2 - w1 * w1;
    out[static_cast<size_t>(i)] = det > 1e-9 * w0 * w2 ? (w2 * y0 - w1 * y1) / det
                                  : w0 > 1e-29         ? y0 / w0
                                                       : y[static_cast<size_t>(i)];
  }
  return out;
}

void smooth(Path& path) {
  std::vector<double> octaves;
  for (double hz : path.hz) octaves.push_back(std::log2(hz));
  octaves = smoothed(octaves, path, kSmoothPeriods);
  for (size_t i = 0; i < octaves.size(); ++i) path.hz[i] = std::exp2(octaves[i]);
}

// The phase of the sound along its own path shows the path's error.
void followPhase(Path& path, const Decimated& base, double lowHz, double highHz) {
  const double rate = base.sampleRate;
  const auto n = static_cast<ptrdiff_t>(base.samples.size());
  std::vector<std::complex<double>> turned(base.samples.size());
  double cycles = 0.0;
  for (size_t i = 0; i < base.samples.size(); ++i) {
    turned[i] = base.samples[i] * std::polar(1.0, -2.0 * std::numbers::pi * cycles);
    cycles += path.hzAt(static_cast<double>(i) / rate) / rate;
    cycles -= std::floor(cycles);
  }
  std::vector<std::complex<double>> heard;
  for (size_t i = 0; i < path.hz.size(); ++i) {
    const auto at = static_cast<ptrdiff_t>(path.seconds(i) * rate),
               half = static_cast<ptrdiff_t>(0.5 * kFinePeriods * rate / path.hz[i]);
    std::complex<double> sum = 0.0;
    double weights = 1e-30;
    for (ptrdiff_t k = std::max(-half, -at); k <= std::min(half, n - 1 - at); ++k) {
      const double w = windowAt(k, static_cast<double>(half));
      sum += w * turned[static_cast<size_t>(at + k)], weights += w;
    }
    heard.push_back(sum / weights);
    path.amplitude[i] = 2.0 * std::abs(heard.back());
  }
  std::vector<double> off(path.hz.size(), 0.0);  // octaves
  for (size_t i = 0; i < off.size(); ++i) {
    const size_t before = i > 0 ? i - 1 : 0, after = std::min(off.size() - 1, i + 1);
    if (after == before) continue;
    const double turn = std::arg(heard[after] * std::conj(heard[before]));
    const double hz = turn / (2.0 * std::numbers::pi * path.hop * static_cast<double>(after - before));
    off[i] = std::log2(1.0 + std::clamp(hz / path.hz[i], -0.2, 0.2));
  }
  off = smoothed(off, path, kFineSmoothPeriods);
  for (size_t i = 0; i < off.size(); ++i)
    path.hz[i] = std::clamp(path.hz[i] * std::exp2(off[i]), lowHz, highHz);
}

std::optional<Path> roughPath(const Decimated& base, double lowHz, double highHz) {
  const double seconds = static_cast<double>(base.samples.size()) / base.sampleRate;
  std::vector<double> grid;
  for (double hz = lowHz; hz <= highHz * 1.0001; hz *= std::exp2(kStepCents / 1200.0)) grid.push_back(hz);
  if (grid.size() < 2 || base.samples.size() < 32) return std::nullopt;
  Path out;
  out.hop = std::max(0.8 / highHz, seconds / 300.0);
  const auto tones = tonesOver(base, grid, out.hop);
  if (tones.size() < 4) return std::nullopt;
  const auto path = bestPath(tones);
  for (size_t t = 0; t < path.size(); ++t)
    out.hz.push_back(grid[path[t]]), out.amplitude.push_back(tones[t][path[t]]);
  return out;
}

std::vector<PitchPoint> pointsOf(const Path& path) {
  std::vector<PitchPoint> out;
  for (size_t i = 0; i < path.hz.size(); ++i)
    out.push_back({path.seconds(i), path.hz[i], path.amplitude[i] / std::numbers::sqrt2});
  return out;
}

// The sound read at the pace that lays its path onto `hz`, and where each of its samples was read.
struct Straight {
  Decimated sound;
  std::vector<double> positions;
};

Straight straightened(const Decimated& base, const Path& path, double hz) {
  Straight out;
  for (double at = 0.0;
       at < static_cast<double>(base.samples.size()) && out.positions.size() < 4 * base.samples.size();) {
    out.positions.push_back(at);
    at += std::clamp(hz / path.hzAt(at / base.sampleRate), 0.05, 20.0);
  }
  const std::vector<float> narrow(base.samples.begin(), base.samples.end());
  const auto read = readAlong(narrow, out.positions);
  out.sound = {{read.begin(), read.end()}, base.sampleRate, base.factor};
  return out;
}

// A path fitted to the sound rests more easily than another, so the bar is higher than for a landing: the
// larger the tone's share of the sound and the longer it lasts, the less it must exceed the rest. 0.5
// separates real kicks, toms and congas from noise of every colour (docs/measuring.md).
double confidenceOf(const Evidence& e) {
  constexpr double kTrust = 3.75, kShare = 0.7, kShortRun = 3.0;
  if (e.runWindows < 1.2 || e.low <= 0.0) return 0.0;
  const double share =
      1.5 * std::min(0.0, std::log10(e.low / kShare)) / std::max(1.0, e.runWindows / kShortRun);
  const double margin = e.trust - kTrust + 0.45 * std::clamp(std::log2(e.runWindows / 1.5), -1.0, 3.0) + share;
  return margin > 0.0 ? 1.0 - 0.5 * std::exp(-1.2 * margin) : 0.5 * std::exp(1.2 * margin);
}

}  // namespace

std::optional<double> heardMost(const std::vector<PitchPoint>& path) {
  // Points may be unevenly spaced: each counts for the time about it.
  std::vector<double> weights;
  for (size_t i = 0; i < path.size(); ++i) {
    const double from = path[i > 0 ? i - 1 : 0].seconds, to = path[std::min(path.size() - 1, i + 1)].seconds;
    weights.push_back(path[i].amplitude * std::max(1e-6, to - from));
  }
  double densest = 0.0, centre = 0.0;
  for (const PitchPoint& c : path) {
    double density = 0.0;
    for (size_t i = 0; i < path.size(); ++i)
      density += weights[i] * std::exp(-0.5 * std::pow(centsBetween(c.hz, path[i].hz) / kDenseCents, 2));
    if (density > densest) densest = density, centre = c.hz;
  }
  if (!(densest > 0.0)) return std::nullopt;
  double sum = 0.0, all = 0.0;
  for (size_t i = 0; i < path.size(); ++i)
    if (const double away = centsBetween(centre, path[i].hz); std::abs(away) < kAboutCents)
      all += weights[i], sum += weights[i] * away;
  return centre * std::exp2(sum / all / 1200.0);
}

FollowedTone followTone(const Decimated& base, double lowHz, double highHz) {
  FollowedTone out;
  const auto slow = decimated(std::span<const double>(base.samples), base.sampleRate, 9.0 * highHz);
  auto path = roughPath(slow, lowHz, highHz);
  if (!path) return out;
  smooth(*path);
  for (int pass = 0; pass < kPasses; ++pass) followPhase(*path, slow, lowHz, highHz);
  const auto heard = heardMost(pointsOf(*path));
  if (!heard) return out;
  const Straight straight = straightened(base, *path, *heard);
  const auto rest = restNear(straight.sound, *heard);
  if (!rest || std::abs(centsBetween(*heard, rest->hz)) > 100.0) return out;
  out.confidence = confidenceOf(rest->evidence);
  if (out.confidence < 0.5) return out;
  auto readAtSeconds = [&](double t) {
    const auto i = static_cast<size_t>(
        std::clamp(t * straight.sound.sampleRate, 0.0, static_cast<double>(straight.positions.size() - 1)));
    return straight.positions[i] / base.sampleRate;
  };
  for (const PitchPoint& p : rest->points) {
    const double t = readAtSeconds(p.seconds);
    out.points.push_back({t, p.hz * path->hzAt(t) / *heard, p.amplitude});
  }
  if (out.points.empty()) return {};
  // Before the first fitted window: the fall from its cycles, else from the phase.
  const PitchPoint first = out.points.front();
  std::vector<PitchPoint> before;
  const double until = first.seconds + 1.5 / first.hz;
  for (const PitchPoint& p : pitchByCycles(base, until, *pathHzAt(out.points, until)))
    if (p.seconds < first.seconds - 0.25 / p.hz) before.push_back(p);
  if (before.empty())
    for (const PitchPoint& p : pointsOf(*path))
      if (p.seconds < first.seconds - 0.5 / p.hz) before.push_back(p);
  out.points.insert(out.points.begin(), before.begin(), before.end());
  double loudest = 0.0;
  for (const PitchPoint& p : out.points) loudest = std::max(loudest, p.amplitude);
  std::erase_if(out.points, [&](const PitchPoint& p) { return p.amplitude < kHeardAmplitude * loudest; });
  out.heardHz = heardMost(out.points).value_or(*heard);
  return out;
}

}  // namespace heft
