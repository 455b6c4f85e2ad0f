#include "core/measure/rest.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/measure/damped_tones.h"
#include "core/sound/buffer.h"
#include "core/sound/filter.h"
#include "core/theory/note.h"

namespace heft {
namespace {

constexpr double kRestRate = 1000.0, kUsualHighHz = 400.0;
constexpr double kFastestDecay = -160.0;  // 1/s: -40 dB in 29 ms
constexpr double kFastestRise = 25.0;
// High tones die away faster: in as many periods as one of 400 Hz at that rate.
constexpr double kDecayPerHz = 0.4;

double fastestDecay(double hz) {
  return std::min(kFastestDecay, -kDecayPerHz * hz);
}

bool rests(const DampedTone& tone) {
  return tone.damping > fastestDecay(tone.hz) && tone.damping < kFastestRise;
}

struct Window {
  double seconds = 0.0;
  double energy = 0.0;
  ToneFit fit;
  /// How well a tone of this window can be trusted: energy over what the model leaves unexplained. The variance
  /// of a fitted frequency goes with its inverse; a window that straddles the fall leaves much unexplained.
  double trust(const DampedTone& tone) const {
    return tone.energy / ((1.0 - fit.explained) * energy + 1e-5 * energy);
  }
};

struct WindowPlan {
  double lengthSeconds, hopSeconds;
  int mostPoles;
  double floor;
};

std::vector<Window> windowsOf(std::span<const double> x, double rate, const WindowPlan& plan) {
  std::vector<Window> windows;
  const auto length = std::min(x.size(), std::max<size_t>(12, static_cast<size_t>(plan.lengthSeconds * rate)));
  const auto hop = std::max<size_t>(1, static_cast<size_t>(plan.hopSeconds * rate));
  double loudest = 0.0;
  for (size_t at = 0; at + length <= x.size(); at += hop)
    loudest = std::max(loudest, energyOf(x.subspan(at, length)));
  for (size_t at = 0; at + length <= x.size(); at += hop) {
    const auto part = x.subspan(at, length);
    Window w;
    w.energy = energyOf(part);
    if (w.energy < 1e-5 * loudest || w.energy <= 0.0) continue;
    double moment = 0.0;
    for (size_t i = 0; i < length; ++i) moment += static_cast<double>(i) * part[i] * part[i];
    w.seconds = (static_cast<double>(at) + moment / w.energy) / rate;
    w.fit = fitDampedTones(part, rate, plan.mostPoles, plan.floor);
    if (!w.fit.tones.empty()) windows.push_back(std::move(w));
  }
  return windows;
}

// The strongest few notes, on a cents scale, among the resting tones in range that any window found.
std::vector<double> likelyNotes(const std::vector<Window>& windows, double lowHz, double highHz) {
  constexpr double kBinCents = 8.0;
  const auto bins = static_cast<ptrdiff_t>(centsBetween(lowHz, highHz) / kBinCents) + 1;
  std::vector<double> density(static_cast<size_t>(bins), 0.0);
  for (const Window& w : windows)
    for (const DampedTone& tone : w.fit.tones) {
      if (tone.hz < lowHz || tone.hz > highHz || tone.energy < 0.003 * w.energy || !rests(tone)) continue;
      const double weight = std::sqrt(tone.energy) * std::min(50.0, 1.0 / (1.0 - w.fit.explained + 0.01));
      const double at = centsBetween(lowHz, tone.hz) / kBinCents;
      const auto first = static_cast<ptrdiff_t>(at) - 4;
      for (ptrdiff_t b = std::max<ptrdiff_t>(0, first); b < std::min(bins, first + 10); ++b)
        density[static_cast<size_t>(b)] +=
            weight * std::exp(-0.5 * std::pow((static_cast<double>(b) - at) / 1.8, 2));
    }
  std::vector<double> notes;
  double strongest = 0.0;
  while (notes.size() < 5) {
    const auto top = std::max_element(density.begin(), density.end());
    if (top == density.end() || *top <= 0.05 * strongest || *top <= 0.0) break;
    strongest = std::max(strongest, *top);
    const auto at = top - density.begin();
    notes.push_back(lowHz * std::exp2(static_cast<double>(at) * kBinCents / 1200.0));
    for (ptrdiff_t b = std::max<ptrdiff_t>(0, at - 14); b < std::min(bins, at + 15); ++b)
      density[static_cast<size_t>(b)] = 0;
  }
  return notes;
}

// The windows by which 70, 90 and 98 % of the energy has passed: after the longest fall the landing is heard
// there.
std::vector<const Window*> lateWindows(const std::vector<Window>& windows) {
  double total = 0.0, passed = 0.0;
  for (const Window& w : windows) total += w.energy;
  std::vector<const Window*> late;
  constexpr double kShares[] = {0.7, 0.9, 0.98};
  for (const Window& w : windows) {
    passed += w.energy;
    while (late.size() < 3 && passed >= kShares[late.size()] * total) late.push_back(&w);
  }
  return late;
}

const DampedTone* toneNear(const Window& w, double hz, double below, double above) {
  const DampedTone* best = nullptr;
  for (const DampedTone& tone : w.fit.tones) {
    const double away = centsBetween(hz, tone.hz);
    if (away > -below && away < above && (!best || tone.energy > best->energy)) best = &tone;
  }
  return best;
}

// Whether a resting tone near `hz` accompanies the one near `strongest`, at least `share` of its energy, in
// most of the windows in which that rests. A fall that sweeps past does so in a few windows only.
bool accompanies(const std::vector<Window>& windows, double strongest, double hz, double share) {
  int together = 0, alone = 0;
  for (const Window& w : windows) {
    const DampedTone* tone = toneNear(w, strongest, 50.0, 50.0);
    if (!tone || !rests(*tone) || w.fit.explained < 0.9) continue;
    const DampedTone* other = toneNear(w, hz, 40.0, 40.0);
    if (other && rests(*other) && other->energy > share * tone->energy)
      ++together;
    else
      ++alone;
  }
  return together >= 3 && together > 2 * alone;
}

// The strongest resting tone may be a second or third harmonic of the note: 2 or 3 where its fundamental sounds
// too, or where neighbours sound that only a missing fundamental can explain (2 f beside 3 f, and 4 f or 5 f);
// else 1.
int harmonicNumber(const std::vector<Window>& windows, double strongest, double lowHz) {
  for (int number : {2, 3}) {
    const double fundamental = strongest / number;
    if (fundamental < lowHz) continue;
    const double neighbour = number == 2 ? 3.0 * fundamental : 2.0 * fundamental;
    if (accompanies(windows, strongest, fundamental, 0.002)) return number;
    // Two tones alone, a root and its fifth, are 2 f and 3 f as well: a note without its fundamental has more.
    const bool more = accompanies(windows, strongest, 4.0 * fundamental, 0.001) ||
                      accompanies(windows, strongest, 5.0 * fundamental, 0.001);
    if (more && accompanies(windows, strongest, neighbour, 0.02)) return number;
  }
  return 1;
}

// How well resting tones stand at the multiples 2 to 6 of `hz`, and the pitch that they give.
struct Comb {
  double support = 0.0, hz = 0.0;
  int partials = 0;  ///< multiples seen in at least half of the windows
};

Comb combAt(const std::vector<Window>& windows, double hz) {
  Comb out;
  double weights = 0.0, sum = 0.0;
  for (int k = 2; k <= 6; ++k) {
    size_t seen = 0;
    for (const Window& w : windows) {
      const DampedTone* tone = toneNear(w, k * hz, 35.0, 35.0);
      if (!tone || !rests(*tone)) continue;
      ++seen;
      const double weight = std::sqrt(tone->energy) * (1.0 - std::abs(centsBetween(k * hz, tone->hz)) / 36.0);
      out.support += weight;
      weights += weight, sum += weight * centsBetween(hz, tone->hz / k);
    }
    out.partials += 2 * seen >= windows.size() ? 1 : 0;
  }
  out.hz = weights > 0.0 ? hz * std::exp2(sum / weights / 1200.0) : hz;
  return out;
}

// A plucked string's body thumps below its fundamental and pulls it away; three partials that agree on another
// note within a third are then the better witness. Nothing where there is no such note.
std::optional<double> noteOfPartials(const std::vector<Window>& windows, double hz) {
  if (windows.size() < 10) return std::nullopt;
  const Comb here = combAt(windows, hz);
  Comb best = here;
  for (double c = -400.0; c <= 400.0; c += 10.0) {
    const Comb there = combAt(windows, hz * std::exp2(c / 1200.0));
    if (there.partials >= 3 && there.support > best.support) best = there;
  }
  if (best.support < 2.0 * here.support || best.partials < 3 || std::abs(centsBetween(hz, best.hz)) < 60.0)
    return std::nullopt;
  return combAt(windows, best.hz).hz;
}

// A Hann average over one period of `hz`: its zeros take out every harmonic, its reach is half a period to each
// side, so that it leaves the fundamental's own pole as it is and hardly drags the fall into the rest.
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

struct PathSample {
  double t, c, w;  // seconds, cents re guess, weight
};

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

// The rest by the part in which the fall is as good as over, where there is enough of it: not every fall is an
// exponential, and one that ends early leaves the fitted one heading too low.
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
      // Only a fall from above, and no claim far below what was seen.
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

// Only what lies about the plateau: the last of the fall above it, nothing far below. What is well above it
// once it was reached is no fall: a residue that comes through where the tone has died away.
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
  // Of a tone that dies away within a few periods even the mean over a period ripples, twice a period. Half a
  // period's mean of its logarithm takes that out and leaves an exponential as it is.
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
  // Beyond the first and last whole period the level goes on as it did over the half period beside it.
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

struct FinePath {
  std::vector<PathSample> samples;
  std::vector<PitchPoint> points;
  double heard = 0.0, held = 0.0;  ///< energy of the windows on the path, and what of it the model explains
  double hopSeconds = 0.0, windowSeconds = 0.0;
};

enum class Level { AsItIs, Flattened };

FinePath finePath(const Decimated& base, double hz, double mostWindows, Level level) {
  // Twelve samples a period at least, so that the comb's zeros stand where they should.
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

// Slope of a line through what of the path lies within `reach` seconds of `at`, cents a second; infinite where
// that is too little to tell, or no line.
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

// A tail that drifts all the way never rests: where the path dwells or heads is then an accident of its end,
// which is hardly heard. Its note is where it is loudest: the densest spot by amplitude of what moves slowly,
// and the mean about that. Nothing where a good part of it is on the note already. All in periods of the tone,
// so that a sound played faster lands that much higher.
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

struct Resting {
  double hz = 0.0;
  double score =
      0.0;  ///< root of amplitude, times seconds for which the path stays near the note and is explained
  FinePath path;
};

std::optional<Resting> refined(const Decimated& base, double hz, double mostWindows, double lowHz,
                               double highHz, Level level) {
  Resting out;
  out.path = finePath(base, hz, mostWindows, level);
  if (out.path.samples.size() < 3) return std::nullopt;
  hz *= std::exp2(restOf(aboutPlateau(out.path.samples)) / 1200.0);
  hz = noteOfDrift(out.path, hz).value_or(hz);
  if (!(hz > 0.97 * lowHz && hz < 1.03 * highHz)) return std::nullopt;
  out.hz = hz;
  for (size_t i = 0; i < out.path.points.size(); ++i)
    if (std::abs(centsBetween(hz, out.path.points[i].hz)) < 45.0 && out.path.samples[i].w > 3.0)
      out.score += std::sqrt(out.path.points[i].amplitude);
  const double explained = out.path.held / out.path.heard;
  out.score *= explained * explained * out.path.hopSeconds;
  return out;
}

Evidence evidenceOf(const Resting& c, const Decimated& base) {
  Evidence out;
  const auto& s = c.path.samples;
  const auto& points = c.path.points;
  size_t bestFirst = 0, bestCount = 0;
  for (size_t i = 0; i < s.size();) {
    size_t j = i;
    while (j < s.size() && std::abs(centsBetween(c.hz, points[j].hz)) < 25.0 &&
           (j == i || s[j].t - s[j - 1].t < 3.0 * c.path.hopSeconds))
      ++j;
    if (j - i > bestCount) bestCount = j - i, bestFirst = i;
    i = std::max(j, i + 1);
  }
  if (bestCount == 0) return out;
  out.runWindows = 1.0 + (s[bestFirst + bestCount - 1].t - s[bestFirst].t) / c.path.windowSeconds;
  std::vector<double> logs;
  double tone = 0.0;
  for (size_t i = bestFirst; i < bestFirst + bestCount; ++i) {
    logs.push_back(std::log10(s[i].w));
    tone += points[i].amplitude * points[i].amplitude * c.path.hopSeconds * base.sampleRate;
  }
  out.trust = median(logs);
  out.low = tone / energyOf(base.samples);
  return out;
}

// 0.5 divides kicks from noise of every colour in the study (docs/measuring.md): a thousandth of unexplained
// energy over one and a half windows, or a little more of it over a longer run.
double confidenceOf(const Resting& c, const Decimated& base) {
  const Evidence e = evidenceOf(c, base);
  if (e.runWindows < 1.5 || e.low < 8e-4) return std::min(0.4, 0.1 * e.runWindows);
  const double margin = e.trust - 3.0 + 0.45 * std::min(2.0, std::log2(e.runWindows / 1.5));
  return margin > 0.0 ? 1.0 - 0.5 * std::exp(-1.2 * margin) : 0.5 * std::exp(1.2 * margin);
}

// Flattened where that explains the tone. Where it does not, strong partials below the candidate or a thump
// beside it may have rippled its level: then the sound as it is, if the coarse windows know of such partials.
std::optional<Resting> surest(const Decimated& base, const std::vector<Window>& coarse, double hz, double lowHz,
                              double highHz, double& confidence) {
  auto flat = refined(base, hz, 80.0, lowHz, highHz, Level::Flattened);
  confidence = flat ? confidenceOf(*flat, base) : 0.0;
  if (confidence >= 0.5) return flat;
  // Three partials that agree with it are witnesses too.
  if (flat && coarse.size() >= 10 && combAt(coarse, flat->hz).partials >= 3) {
    confidence = 0.6;
    return flat;
  }
  auto plain = refined(base, hz, 80.0, lowHz, highHz, Level::AsItIs);
  if (!plain) return flat;
  const int harmonic = harmonicNumber(coarse, plain->hz, lowHz);
  if (harmonic == 1 && !noteOfPartials(coarse, plain->hz)) return flat;
  confidence = confidenceOf(*plain, base);
  return plain;
}

bool isPartialOf(double fundamental, double hz) {
  return std::abs(centsBetween(2.0 * fundamental, hz)) < 60.0 ||
         std::abs(centsBetween(3.0 * fundamental, hz)) < 60.0;
}

// The notes to begin from, best first, at most three: each candidate's own note, as it is and flattened.
std::vector<double> startsOf(const Decimated& base, const std::vector<double>& notes, double lowHz,
                             double highHz) {
  std::vector<Resting> candidates;
  std::vector<double> tried;
  for (double hz : notes) {
    if (hz < lowHz || hz > highHz) continue;
    if (std::any_of(tried.begin(), tried.end(),
                    [hz](double t) { return std::abs(centsBetween(t, hz)) < 40.0; }))
      continue;
    tried.push_back(hz);
    for (Level level : {Level::Flattened, Level::AsItIs}) {
      auto candidate = refined(base, hz, 24.0, lowHz, highHz, level);
      if (!candidate) continue;
      candidates.push_back(std::move(*candidate));
      if (confidenceOf(candidates.back(), base) >= 0.5) break;  // flattened it holds
    }
  }
  std::stable_sort(candidates.begin(), candidates.end(),
                   [](const Resting& a, const Resting& b) { return a.score > b.score; });
  std::vector<double> starts;
  // Nor is a partial of a stronger note begun from.
  auto known = [&](double hz) {
    return std::any_of(starts.begin(), starts.end(), [hz](double start) {
      return std::abs(centsBetween(start, hz)) < 25.0 || isPartialOf(start, hz);
    });
  };
  for (const Resting& c : candidates)
    if (starts.size() < 3 && !known(c.hz)) starts.push_back(c.hz);
  // A partial rests as long as its fundamental: where both stand, the fundamental is the note.
  for (int number : {3, 2})
    for (const Resting& c : candidates)
      if (!starts.empty() && c.score > 0.5 * candidates.front().score &&
          std::abs(centsBetween(starts.front() / number, c.hz)) < 40.0) {
        starts.insert(starts.begin(), c.hz);
        break;
      }
  return starts;
}

// The lower of two tones that rest side by side through most of a sound, such as a root with its fifth. Nothing
// where there are no two, or where they move: noise is never explained so well for so long.
std::vector<PitchPoint> lowerOfTwo(const std::vector<Window>& windows, double windowFrames, double lowHz,
                                   double highHz) {
  constexpr double kExplained = 0.98, kLeastShare = 0.05, kStillCents = 25.0, kMostOfIt = 0.6;
  constexpr size_t kLeastWindows = 8;
  struct Pair {
    const Window* window;
    const DampedTone *lower, *upper;
  };
  std::vector<Pair> pairs;
  double all = 0.0;
  for (const Window& w : windows) {
    all += w.energy;
    if (w.fit.explained < kExplained) continue;
    std::vector<const DampedTone*> tones;
    for (const DampedTone& t : w.fit.tones)
      if (rests(t) && t.energy > kLeastShare * w.energy) tones.push_back(&t);
    std::sort(tones.begin(), tones.end(), [](auto* a, auto* b) { return a->hz < b->hz; });
    if (tones.size() == 2 && tones[0]->hz >= lowHz && tones[0]->hz <= highHz)
      pairs.push_back({&w, tones[0], tones[1]});
  }
  if (pairs.size() < kLeastWindows) return {};
  auto middle = [&](const DampedTone* Pair::*tone) {
    std::vector<double> hz;
    for (const Pair& p : pairs) hz.push_back((p.*tone)->hz);
    return median(hz);
  };
  const double lower = middle(&Pair::lower), upper = middle(&Pair::upper);
  std::vector<PitchPoint> out;
  double still = 0.0;
  for (const Pair& p : pairs) {
    if (std::abs(centsBetween(lower, p.lower->hz)) > kStillCents ||
        std::abs(centsBetween(upper, p.upper->hz)) > kStillCents)
      continue;
    still += p.window->energy;
    out.push_back({p.window->seconds, p.lower->hz, std::sqrt(p.lower->energy / windowFrames)});
  }
  return out.size() >= kLeastWindows && still > kMostOfIt * all ? out : std::vector<PitchPoint>();
}

double meanHz(const std::vector<PitchPoint>& points) {
  double sum = 0.0, weights = 0.0;
  for (const PitchPoint& p : points) sum += p.amplitude * p.hz, weights += p.amplitude;
  return sum / weights;
}

}  // namespace

std::optional<RestNear> restNear(const Decimated& base, double hz) {
  auto found = refined(base, hz, 80.0, 0.75 * hz, 1.35 * hz, Level::Flattened);
  if (!found) return std::nullopt;
  return RestNear{found->hz, evidenceOf(*found, base), std::move(found->path.points)};
}

RestedPart findRest(const Decimated& base, double lowHz, double highHz) {
  RestedPart out;
  // As many samples and periods a window wherever the band lies.
  const double scale = std::max(1.0, highHz / kUsualHighHz);
  const auto slow = decimated(std::span<const double>(base.samples), base.sampleRate, scale * kRestRate);
  const double seconds = static_cast<double>(slow.samples.size()) / slow.sampleRate;
  const auto coarse =
      windowsOf(slow.samples, slow.sampleRate,
                {std::min(0.06 / scale, 0.5 * seconds), std::max(0.01 / scale, seconds / 30.0), 10, 1e-5});
  out.reason = "no tone rests long enough to be called a note";
  auto notes = likelyNotes(coarse, lowHz, highHz);
  for (const Window* late : lateWindows(coarse)) notes.push_back(late->fit.tones.front().hz);
  std::optional<Resting> best;
  const auto starts = startsOf(base, notes, lowHz, highHz);
  for (double hz : starts) {
    best = surest(base, coarse, hz, lowHz, highHz, out.confidence);
    if (best && isPartialOf(starts.front(), best->hz)) out.confidence = std::min(out.confidence, 0.4);
    if (best && out.confidence >= 0.5) break;
  }
  if (!best || out.confidence < 0.5) {
    constexpr double kTwoTonesConfidence = 0.7;
    const double length = std::min(0.06 / scale, 0.5 * seconds) * slow.sampleRate;
    if (auto points = lowerOfTwo(coarse, length, lowHz, highHz); !points.empty()) {
      out.hz = meanHz(points);
      out.points = std::move(points);
      out.confidence = kTwoTonesConfidence;
      out.reason.clear();
    }
    return out;
  }
  const FinePath& fine = best->path;
  // The harmonic's own path is the stronger witness; divided it is the note's.
  const int harmonic = harmonicNumber(coarse, best->hz, lowHz);
  for (PitchPoint point : fine.points)
    if (std::abs(centsBetween(best->hz, point.hz)) < 60.0) {
      point.hz /= harmonic;
      out.points.push_back(point);
    }
  if (out.points.empty()) return out;
  out.hz = best->hz / harmonic;
  if (const auto other = noteOfPartials(coarse, *out.hz); other && *other >= lowHz && *other <= highHz) {
    out.hz = other;
    out.confidence = std::min(out.confidence, 0.7);
    for (PitchPoint& point : out.points) point.hz = *other;
  }
  out.reason.clear();
  return out;
}

}  // namespace heft
