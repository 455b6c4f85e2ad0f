#include "core/measure/pitch/fine_path.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/measure/pitch/damped_tones.h"
#include "core/measure/pitch/rest_windows.h"
#include "core/sound/buffer.h"
#include "core/theory/note.h"

namespace heft::resting {

// A Hann average over one period of `hz`: its zeros remove every harmonic, and its reach of half a period to
// each side leaves the fundamental's own pole and hardly smears the fall into the rest.
std::vector<double> harmonicsRemoved(std::span<const double> x, double rate, double hz) {
  const auto half = static_cast<ptrdiff_t>(0.5 * rate / hz);
  const auto n = static_cast<ptrdiff_t>(x.size());
  std::vector<double> window(static_cast<size_t>(2 * half + 1));
  double sum = 0.0;
  for (ptrdiff_t k = -half; k <= half; ++k)
    sum += window[static_cast<size_t>(k + half)] =
        0.5 + 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(k) * hz / rate);
  std::vector<double> out;
  for (ptrdiff_t i = half; i + half < n; ++i) {
    double y = 0.0;
    for (ptrdiff_t k = -half; k <= half; ++k) y += window[static_cast<size_t>(k + half)] * x[i + k];
    out.push_back(y / sum);
  }
  return out;
}

// Weighted least squares of c(t) = rest + drop * exp(-(t - t0) / tau), tau from a grid; tau = 0 is a plain
// mean.
struct ExponentialFit {
  double rest = 0.0, drop = 0.0, error = 1e18, tau = 0.0;
};

ExponentialFit fitExponential(const std::vector<PathSample>& path, double tau) {
  const double t0 = path.front().t;
  double sw = 0, se = 0, see = 0, sc = 0, sec = 0;
  for (const auto& p : path) {
    const double e = tau > 0 ? std::exp(-(p.t - t0) / tau) : 0.0;
    sw += p.w, se += p.w * e, see += p.w * e * e, sc += p.w * p.c, sec += p.w * e * p.c;
  }
  ExponentialFit fit;
  fit.tau = tau;
  const double det = sw * see - se * se;
  if (tau > 0 && det > 1e-9 * sw * see) {
    fit.drop = (sw * sec - se * sc) / det;
    fit.rest = (sc - se * fit.drop) / sw;
  } else {
    fit.rest = sc / sw;
  }
  fit.error = 0;
  for (const auto& p : path) {
    const double e = tau > 0 ? std::exp(-(p.t - t0) / tau) : 0.0;
    const double r = p.c - fit.rest - fit.drop * e;
    fit.error += p.w * r * r;
  }
  fit.error /= sw;
  return fit;
}

// The rest from the part in which the fall is almost over, where there is enough of it: not every fall is an
// exponential, and for one that ends early the fit heads too low.
double lateRest(const std::vector<PathSample>& path, const ExponentialFit& fit) {
  constexpr double kOverCents = 3.0, kEnough = 0.3;
  double sum = 0.0, weights = 0.0, late = 0.0;
  for (const auto& p : path) {
    const double left = fit.drop * std::exp(-(p.t - path.front().t) / fit.tau);
    if (left > kOverCents) continue;
    sum += p.w * (p.c - left), weights += p.w, late += 1.0;
  }
  return weights > 0.0 && late >= kEnough * static_cast<double>(path.size()) ? sum / weights : fit.rest;
}

// Where the path is heading. A fall that is still dying away biases any mean upward; its exponential is fitted
// out.
double restOf(const std::vector<PathSample>& path) {
  ExponentialFit best = fitExponential(path, 0.0);
  const double flat = best.error;
  if (path.size() >= 5) {
    const double span = path.back().t - path.front().t;
    for (double tau = 0.003; tau < 0.5 * span; tau *= 1.15) {
      const auto fit = fitExponential(path, tau);
      // Only a fall from above, and no note far below the measured path.
      if (fit.drop < 0.0 || fit.drop * std::exp(-span / tau) > 25.0) continue;
      if (fit.error < best.error && fit.error < 0.7 * flat) best = fit;
    }
  }
  return best.tau > 0.0 ? lateRest(path, best) : best.rest;
}

// Where the path dwells: the densest spot on the cents scale. Trust enters gently, so that time decides.
double plateauOf(const std::vector<PathSample>& path) {
  double best = 0.0, densest = -1.0;
  for (const auto& centre : path) {
    double density = 0.0;
    for (const auto& p : path)
      density += std::pow(p.w, 0.25) * std::exp(-0.5 * std::pow((p.c - centre.c) / 12.0, 2));
    if (density > densest) densest = density, best = centre.c;
  }
  return best;
}

// Only points about the plateau: the end of the fall above it, nothing far below. A point well above it after
// it was reached is no fall but a residue where the tone has died away.
std::vector<PathSample> aboutPlateau(const std::vector<PathSample>& path) {
  const double plateau = plateauOf(path);
  std::vector<PathSample> kept;
  bool reached = false;
  for (const auto& p : path) {
    reached = reached || std::abs(p.c - plateau) < 6.0;
    if (p.c > plateau - 40.0 && p.c < plateau + (reached ? 25.0 : 90.0)) kept.push_back(p);
  }
  return kept;
}

// The signal without its own rise and fall: divided by its RMS over one period of `hz`. A trimmed or gated tail
// dies away faster and faster, which no sum of a few damped tones can follow; zeros stay where they are.
struct Flattened {
  std::vector<double> samples;
  std::vector<double> amplitude;  ///< of the tone at each sample, before
};

Flattened flattened(const std::vector<double>& x, double rate, double hz) {
  const auto n = static_cast<ptrdiff_t>(x.size()), period = std::max<ptrdiff_t>(4, std::lround(rate / hz)),
             half = period / 2;
  Flattened out{x, std::vector<double>(x.size(), 1.0)};
  if (n < 2 * period) return out;
  std::vector<double> running(x.size() + 1, 0.0);
  for (size_t i = 0; i < x.size(); ++i) running[i + 1] = running[i] + x[i] * x[i];
  auto& a = out.amplitude;
  for (ptrdiff_t i = half; i + period - half <= n; ++i)
    a[static_cast<size_t>(i)] = std::sqrt(2.0 *
                                          std::max(0.0, running[static_cast<size_t>(i + period - half)] -
                                                            running[static_cast<size_t>(i - half)]) /
                                          static_cast<double>(period));
  const auto first = static_cast<size_t>(half), last = static_cast<size_t>(n - period + half);
  const double most = *std::max_element(a.begin() + half, a.begin() + static_cast<ptrdiff_t>(last) + 1);
  if (!(most > 0.0)) return out;
  const double floor = 1e-4 * most;
  // For a tone that dies away within a few periods even the mean over a period ripples, twice a period. Half
  // a period's mean of its logarithm removes that and keeps an exponential exact.
  {
    const auto span = std::max<ptrdiff_t>(1, period / 2), from = half, to = static_cast<ptrdiff_t>(last);
    std::vector<double> sums(1, 0.0);
    for (ptrdiff_t i = from; i <= to; ++i)
      sums.push_back(sums.back() + std::log(std::max(floor, a[static_cast<size_t>(i)])));
    const auto count = static_cast<ptrdiff_t>(sums.size()) - 1;
    for (ptrdiff_t i = span / 2; i + span - span / 2 <= count; ++i)
      a[static_cast<size_t>(from + i)] =
          std::exp((sums[static_cast<size_t>(i + span - span / 2)] - sums[static_cast<size_t>(i - span / 2)]) /
                   static_cast<double>(span));
  }
  // Before the first and after the last whole period the level continues as over the half period beside it.
  auto slope = [&](size_t from, size_t to) {
    return std::log(std::max(floor, a[to]) / std::max(floor, a[from])) /
           (static_cast<double>(to) - static_cast<double>(from));
  };
  const size_t step = std::min<size_t>(static_cast<size_t>(half), last - first);
  const double before = step ? slope(first, first + step) : 0.0, after = step ? slope(last - step, last) : 0.0;
  for (size_t i = 0; i < first; ++i)
    a[i] = std::max(floor, a[first]) * std::exp(before * (static_cast<double>(i) - static_cast<double>(first)));
  for (size_t i = last + 1; i < x.size(); ++i)
    a[i] = std::max(floor, a[last]) * std::exp(std::max(-0.02, after) * static_cast<double>(i - last));
  for (size_t i = 0; i < x.size(); ++i) out.samples[i] = x[i] / std::max(floor, a[i]);
  return out;
}

FinePath finePath(const Decimated& base, double hz, double mostWindows, Level level) {
  // At least twelve samples a period, so that the comb's zeros are accurate.
  const auto source = decimated(std::span<const double>(base.samples), base.sampleRate, 14.0 * hz);
  // Flattened first: a filter turns the phase of a tone whose decay changes.
  const Flattened flat = level == Level::Flattened
                             ? flattened(source.samples, source.sampleRate, hz)
                             : Flattened{source.samples, std::vector<double>(source.samples.size(), 1.0)};
  const auto clean = harmonicsRemoved(flat.samples, source.sampleRate, hz);
  const double shift =
      static_cast<double>(static_cast<ptrdiff_t>(0.5 * source.sampleRate / hz)) / source.sampleRate;
  const double available = static_cast<double>(clean.size()) / source.sampleRate;
  const double length = std::min(2.2 / hz, 0.5 * available);
  const double hop = std::max(0.2 / hz, available / mostWindows);
  FinePath out;
  out.hopSeconds = hop;
  out.windowSeconds = length;
  for (const Window& w : windowsOf(clean, source.sampleRate, {length, hop, 4, 1e-5})) {
    const DampedTone* tone = toneNear(w, hz, 120.0, 300.0);
    if (!tone || tone->damping < 2.0 * fastestDecay(tone->hz) || tone->damping > 80.0) continue;
    const double amplitude = flat.amplitude[std::min(
        flat.amplitude.size() - 1, static_cast<size_t>((w.seconds + shift) * source.sampleRate))];
    out.heard += w.energy * amplitude * amplitude;
    out.held += w.energy * amplitude * amplitude * w.fit.explained;
    const double t = w.seconds + shift;
    out.samples.push_back({t, centsBetween(hz, tone->hz), w.trust(*tone)});
    out.points.push_back(
        {t, tone->hz, amplitude * 2.0 * std::sqrt(2.0 * tone->energy / (length * source.sampleRate))});
  }
  return out;
}

// Slope of a line through the path within `reach` seconds of `at`, cents a second; infinite where there are
// too few points or they form no line.
double slopeAt(const FinePath& path, double at, double reach) {
  constexpr double kOffTheLine = 10.0;
  double n = 0, st = 0, sc = 0, stt = 0, stc = 0, scc = 0, first = 1e9, last = -1e9;
  for (const PathSample& p : path.samples) {
    const double t = p.t - at;
    if (std::abs(t) > reach) continue;
    n += 1, st += t, sc += p.c, stt += t * t, stc += t * p.c, scc += p.c * p.c;
    first = std::min(first, t), last = std::max(last, t);
  }
  const double det = n * stt - st * st;
  constexpr double kNoLine = std::numeric_limits<double>::infinity();
  if (n < 4 || last - first < reach || det <= 0.0) return kNoLine;
  const double slope = (n * stc - st * sc) / det, level = (sc - slope * st) / n;
  const double left = (scc - level * sc - slope * stc) / n;
  return left < kOffTheLine * kOffTheLine ? slope : kNoLine;
}

// A tail that drifts all the way never rests: the densest or final spot of its path then depends on its
// inaudible end. Its note is where it is loudest: the densest spot by amplitude of the slow part, and the
// mean about that. Empty where much of it is on the note already. All in periods of the tone, so that a
// faster playback reads that much higher.
std::optional<double> noteOfDrift(const FinePath& path, double hz) {
  constexpr double kReach = 3.3, kLeast = 6.6;  // periods
  constexpr double kFastest = 13.0;             // cents a period
  constexpr double kOnNote = 15.0, kDense = 12.0, kAbout = 40.0, kShareOnNote = 0.3;
  const double reach = std::max(kReach / hz, 2.2 * path.hopSeconds);
  std::vector<PitchPoint> slow;
  for (size_t i = 0; i < path.points.size(); ++i) {
    if (path.samples[i].w > 3.0 && std::abs(slopeAt(path, path.samples[i].t, reach)) < kFastest * hz)
      slow.push_back(path.points[i]);
  }
  if (slow.size() < 5 || slow.back().seconds - slow.front().seconds < kLeast / hz) return std::nullopt;
  double all = 0.0, near = 0.0;
  for (const PitchPoint& p : slow)
    all += p.amplitude, near += std::abs(centsBetween(hz, p.hz)) < kOnNote ? p.amplitude : 0.0;
  if (near >= kShareOnNote * all) return std::nullopt;
  double densest = 0.0, centre = hz;
  for (const PitchPoint& c : slow) {
    double density = 0.0;
    for (const PitchPoint& p : slow)
      density += p.amplitude * std::exp(-0.5 * std::pow(centsBetween(c.hz, p.hz) / kDense, 2));
    if (density > densest) densest = density, centre = c.hz;
  }
  double sum = 0.0, weights = 0.0;
  for (const PitchPoint& p : slow)
    if (std::abs(centsBetween(centre, p.hz)) < kAbout)
      weights += p.amplitude, sum += p.amplitude * centsBetween(centre, p.hz);
  return centre * std::exp2(sum / weights / 1200.0);
}

}  // namespace heft::resting
