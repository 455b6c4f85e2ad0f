#include "core/measure/pitch/fall.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/sound/buffer.h"
#include "core/theory/note.h"

namespace heft {
namespace {

constexpr double kMostStartCents = 4800.0;
constexpr double kNoFall = 0.002;  // octaves: the least that the sums below allow

// Moments at which the low band passes zero, with the largest excursion since the one before.
struct Crossing {
  double seconds, excursion;
};

std::vector<Crossing> crossingsOf(const std::vector<double>& x, double rate, double untilSeconds) {
  std::vector<Crossing> out;
  double excursion = 0.0;
  const auto count = std::min(x.size(), static_cast<size_t>(std::max(0.0, untilSeconds) * rate));
  for (size_t i = 1; i < count; ++i) {
    excursion = std::max(excursion, std::abs(x[i - 1]));
    if ((x[i - 1] < 0.0) == (x[i] < 0.0)) continue;
    out.push_back({(static_cast<double>(i - 1) + x[i - 1] / (x[i - 1] - x[i])) / rate, excursion});
    excursion = 0.0;
  }
  return out;
}

// The share of a cycle between a zero of the first one's kind and the next: even partials make the halves
// unequal, alike in all cycles.
double shareOfFirstHalves(const std::vector<Crossing>& zeros) {
  constexpr double kLeast = 0.2, kMost = 0.8;
  std::vector<double> shares;
  // Of the later ones: while the pitch falls, halves are unequal for that reason.
  for (size_t k = zeros.size() / 4 * 2; k + 2 < zeros.size(); k += 2)
    shares.push_back((zeros[k + 1].seconds - zeros[k].seconds) / (zeros[k + 2].seconds - zeros[k].seconds));
  if (shares.empty()) return 0.5;
  return std::clamp(median(shares), kLeast, kMost);
}

struct Zeros {
  std::vector<Crossing> all;
  size_t first = 0;  ///< before it: ripple of the strike, or a cycle that the next one does not follow
};

// The low band's zeros, read backwards from the rest; ends where a cycle does not follow from the one after it.
// Whole cycles rather than half ones, so that an offset or even harmonics do not matter.
Zeros zerosOf(const Decimated& base, double untilSeconds, double restHz) {
  const auto low = bandLimited(base.samples, base.sampleRate, 0.0, std::min(1200.0, 17.0 * restHz));
  Zeros out{crossingsOf(low, base.sampleRate, untilSeconds)};
  const auto& zeros = out.all;
  out.first = zeros.size();
  double hz = restHz;
  for (size_t k = zeros.size(); k-- > 2;) {
    const double period = zeros[k].seconds - zeros[k - 2].seconds;
    // Ripple of the strike makes cycles of little excursion; the fall's own grow together.
    const double excursion = std::max(zeros[k].excursion, zeros[k - 1].excursion);
    if (std::min(zeros[k].excursion, zeros[k - 1].excursion) < 0.12 * excursion) break;
    const double step = centsBetween(hz, 1.0 / period);
    if (step < -150.0 || step > 1500.0 || centsBetween(restHz, 1.0 / period) > 5000.0) break;
    hz = 1.0 / period;
    out.first = k - 2;
  }
  return out;
}

// Octaves above the note at the onset, and how fast it falls.
struct Fall {
  double octaves = 0.0, seconds = 0.0;  ///< time constant, or duration of a straight one
  bool straight = false;

  // Cycles up to a moment, over the note's frequency and up to a constant: the integral of 2 to the octaves
  // above it.
  double cyclesOverHz(double t) const {
    const double a = octaves * std::numbers::ln2;
    if (!straight) return -seconds * std::expint(a * std::exp(-t / seconds));
    const double over = std::min(t, seconds);
    return (t - over) - seconds / a * std::exp(a * (1.0 - over / seconds));
  }
};

// RMS deviation of the zeros from the fall's phase, in cycles; each kind has its own offset.
double misfit(const Fall& fall, const Zeros& zeros, double noteHz) {
  double sum[2] = {}, squares[2] = {};
  int count[2] = {};
  for (size_t k = zeros.first; k < zeros.all.size(); ++k) {
    const size_t kind = (k - zeros.first) % 2;
    const double off =
        noteHz * fall.cyclesOverHz(zeros.all[k].seconds) - static_cast<double>((k - zeros.first) / 2);
    sum[kind] += off, squares[kind] += off * off, ++count[kind];
  }
  double out = 0.0;
  for (int kind : {0, 1}) out += squares[kind] - sum[kind] * sum[kind] / std::max(1, count[kind]);
  return std::sqrt(std::max(0.0, out) / static_cast<double>(count[0] + count[1]));
}

// End of the fall: a pitch that keeps sliding at a constant rate.
struct Slide {
  double startHz = 0.0, octavesASecond = 0.0;

  // The time in which that slide would reach zero, as many cycles of `startHz`. It hardly affects the fall's
  // own rate.
  double levelled(double t) const {
    const double bend = octavesASecond * std::numbers::ln2;
    return std::abs(bend) < 1e-6 ? t : std::expm1(bend * t) / bend;
  }
};

// From the path once the note is reached, weighted by amplitude; the end of an exponential fall is not a
// slide.
Slide slideAfter(const std::vector<PitchPoint>& path, double noteHz, double onsetSeconds) {
  constexpr double kReachedCents = 10.0, kAboutCents = 80.0, kMostOctaves = 3.0, kLeastOctaves = 0.12,
                   kPeriods = 3.0;
  double w0 = 0.0, w1 = 0.0, w2 = 0.0, y0 = 0.0, y1 = 0.0, first = 0.0, last = 0.0;
  for (const PitchPoint& p : path) {
    const double octaves = std::log2(p.hz / noteHz), t = p.seconds - onsetSeconds;
    if (w0 == 0.0 && 1200.0 * octaves > kReachedCents) continue;
    if (std::abs(1200.0 * octaves) > kAboutCents) break;
    if (w0 == 0.0) first = t;
    last = t;
    w0 += p.amplitude, w1 += p.amplitude * t, w2 += p.amplitude * t * t;
    y0 += p.amplitude * octaves, y1 += p.amplitude * octaves * t;
  }
  const double det = w0 * w2 - w1 * w1;
  if (last - first < kPeriods / noteHz || det <= 1e-12 * w0 * w2) return {noteHz, 0.0};
  const double pace = std::clamp((w0 * y1 - w1 * y0) / det, -kMostOctaves, kMostOctaves);
  if (std::abs(pace) < kLeastOctaves) return {noteHz, 0.0};
  return {noteHz * std::exp2((y0 - pace * w1) / w0), pace};
}

// The best fall by a grid on octaves and the logarithm of time, refined about its best nine times.
Fall fitted(const Zeros& zeros, double noteHz, bool straight) {
  constexpr int kCoarse = 9, kFine = 2, kRounds = 6;
  const double mostOctaves = kMostStartCents / 1200.0;
  const double shortest = std::log(straight ? 0.004 : 0.002), longest = std::log(straight ? 0.25 : 0.12);
  Fall best;
  double least = 1e9;
  auto tryAt = [&](double octaves, double logSeconds) {
    const Fall fall{std::clamp(octaves, kNoFall, mostOctaves),
                    std::exp(std::clamp(logSeconds, shortest, longest)), straight};
    if (const double off = misfit(fall, zeros, noteHz); off < least) least = off, best = fall;
  };
  double octaveStep = mostOctaves / kCoarse, timeStep = (longest - shortest) / kCoarse;
  for (int i = 0; i <= kCoarse; ++i)
    for (int j = 0; j <= kCoarse; ++j) tryAt(octaveStep * i, shortest + timeStep * j);
  for (int round = 0; round < kRounds; ++round) {
    octaveStep *= 0.45, timeStep *= 0.45;
    const Fall about = best;
    for (int i = -kFine; i <= kFine; ++i)
      for (int j = -kFine; j <= kFine; ++j)
        tryAt(about.octaves + octaveStep * i, std::log(about.seconds) + timeStep * j);
  }
  return best;
}

// The pitch at the onset. The first cycle is over before it can be measured, so the fall is extrapolated from
// the first cycles, in cents above the landing: as a line where a third cycle is on one, else as the
// exponential that a fall usually is. At most four octaves above the landing.
double drawnBack(const std::vector<PitchPoint>& path, double note, double onsetSeconds) {
  constexpr double kMostBeyond = 0.6;  // of the first cycle's
  const double first = centsBetween(note, path.front().hz);
  if (path.size() < 2 || path[1].seconds <= path[0].seconds || first <= 0.0) return path.front().hz;
  const double step = path[1].seconds - path[0].seconds, back = path[0].seconds - onsetSeconds;
  const double second = centsBetween(note, path[1].hz);
  const double slope = (first - second) / step;
  if (slope <= 0.0 || back <= 0.0) return path.front().hz;
  double start = first + slope * back;
  if (second > 20.0) {
    const double ratio = second / first;  // per step
    bool line = false;
    if (path.size() > 2 && path[2].seconds > path[1].seconds) {
      const double on = path[2].seconds - path[1].seconds, third = centsBetween(note, path[2].hz);
      line = std::abs(second - slope * on - third) < std::abs(second * std::pow(ratio, on / step) - third);
    }
    if (!line) start = first * std::pow(ratio, -back / step);
  }
  start = std::min({start, (1.0 + kMostBeyond) * first, std::max(first, kMostStartCents)});
  return note * std::exp2(start / 1200.0);
}

}  // namespace

std::vector<PitchPoint> pitchByCycles(const Decimated& base, double untilSeconds, double restHz) {
  const Zeros found = zerosOf(base, untilSeconds, restHz);
  const auto& zeros = found.all;
  std::vector<PitchPoint> out;
  for (size_t k = found.first + 2; k < zeros.size(); ++k)
    out.push_back({0.5 * (zeros[k].seconds + zeros[k - 2].seconds),
                   1.0 / (zeros[k].seconds - zeros[k - 2].seconds),
                   std::max(zeros[k].excursion, zeros[k - 1].excursion) / std::numbers::sqrt2});
  // Of the steepest falls only the first half cycle shows.
  if (zeros.size() > 2 && !out.empty() && zeros[1].seconds < out.front().seconds) {
    const double half = zeros[1].seconds - zeros[0].seconds, first = shareOfFirstHalves(zeros) / half;
    const double step = centsBetween(out.front().hz, first);
    if (step > 0.0 && step < 1500.0 && zeros[1].excursion > 0.12 * zeros[2].excursion)
      out.insert(out.begin(), {0.5 * (zeros[0].seconds + zeros[1].seconds), first,
                               zeros[1].excursion / std::numbers::sqrt2});
  }
  return out;
}

double startOfFall(const Decimated& base, const std::vector<PitchPoint>& path, double noteHz,
                   double onsetSeconds) {
  constexpr double kFits = 0.01, kCyclesAfter = 3.0, kFallenCents = 30.0, kAgreeCents = 350.0;
  constexpr size_t kLeastZeros = 6;
  const double plain = drawnBack(path, noteHz, onsetSeconds);
  if (centsBetween(noteHz, plain) < kFallenCents) return plain;
  double until = kCyclesAfter / noteHz;
  for (const PitchPoint& p : path)
    if (centsBetween(noteHz, p.hz) > kFallenCents)
      until = p.seconds - onsetSeconds + kCyclesAfter / noteHz;
    else
      break;
  Zeros zeros = zerosOf(base, until, noteHz);
  if (zeros.all.size() < zeros.first + kLeastZeros) return plain;
  const Slide slide = slideAfter(path, noteHz, onsetSeconds);
  for (Crossing& zero : zeros.all) zero.seconds = slide.levelled(zero.seconds);
  // Rejects a fall that ends before the first zero: no fall fits as well.
  if (misfit({kNoFall, 1.0, true}, zeros, slide.startHz) < 0.5 * kFits) return slide.startHz;
  Fall best = fitted(zeros, slide.startHz, false);
  if (const Fall line = fitted(zeros, slide.startHz, true);
      misfit(line, zeros, slide.startHz) < misfit(best, zeros, slide.startHz))
    best = line;
  // A fall of another shape may fit by chance, far from where its cycles point.
  const double start = slide.startHz * std::exp2(best.octaves);
  const bool believed =
      misfit(best, zeros, slide.startHz) < kFits && std::abs(centsBetween(plain, start)) < kAgreeCents;
  return believed ? start : plain;
}

}  // namespace heft
