#include "core/align/align.h"

#include <algorithm>
#include <cmath>

#include "core/sound/buffer.h"
#include "core/sound/fft.h"
#include "core/sound/filter.h"
#include "core/sound/interpolate.h"

namespace heft {
namespace {

constexpr double kStepMs = 0.02;
constexpr double kRatesPerHz = 14.0;
constexpr double kTurnSeconds = 0.4;  // how far a phase rotation reaches

// Whether the 25 ms RMS about each sample is above -40 dB of its own maximum.
std::vector<char> sounding(const std::vector<double>& x, double rate) {
  const auto half = static_cast<ptrdiff_t>(0.0125 * rate);
  const auto n = static_cast<ptrdiff_t>(x.size());
  std::vector<double> running(x.size() + 1, 0.0);
  for (size_t i = 0; i < x.size(); ++i) running[i + 1] = running[i] + x[i] * x[i];
  std::vector<double> power(x.size());
  double most = 0.0;
  for (ptrdiff_t i = 0; i < n; ++i) {
    power[static_cast<size_t>(i)] = running[static_cast<size_t>(std::min(n, i + half + 1))] -
                                    running[static_cast<size_t>(std::max<ptrdiff_t>(0, i - half))];
    most = std::max(most, power[static_cast<size_t>(i)]);
  }
  std::vector<char> out(x.size());
  for (size_t i = 0; i < x.size(); ++i) out[i] = most > 0.0 && power[i] > 1e-4 * most;
  return out;
}

std::vector<float> readBetween(const std::vector<double>& slow, double first, double step, size_t count) {
  return readAt(std::vector<float>(slow.begin(), slow.end()), first, step, count);
}

// Kick and bass in the alignment band at a low rate, where both sound, and the gain left on the bass.
struct Banded {
  std::vector<double> kick, bass, left;
  std::vector<char> both;
  double rate = 1.0;
  bool overlap = false;
};

std::vector<double> slowBand(std::span<const double> x, size_t frames, double sampleRate,
                             const AlignQuestion& q, double& rate) {
  std::vector<double> padded(x.begin(), x.end());
  padded.resize(frames, 0.0);
  const auto slow = decimated(std::span<const double>(padded), sampleRate, kRatesPerHz * q.highHz);
  rate = slow.sampleRate;
  return bandLimited(slow.samples, rate, q.lowHz, q.highHz);
}

Banded bandedOf(const Meeting& meeting, double sampleRate, const AlignQuestion& q) {
  Banded out;
  const size_t frames = std::max(meeting.kick.size(), meeting.bass.size());
  out.kick = slowBand(meeting.kick, frames, sampleRate, q, out.rate);
  out.bass = slowBand(meeting.bass, frames, sampleRate, q, out.rate);
  const auto kick = sounding(out.kick, out.rate),
             bass = sounding(meeting.unturned.empty()
                                 ? out.bass
                                 : slowBand(meeting.unturned, frames, sampleRate, q, out.rate),
                             out.rate);
  for (size_t i = 0; i < kick.size(); ++i) {
    out.both.push_back(kick[i] && bass[i]);
    out.overlap = out.overlap || out.both.back();
    const auto at = static_cast<size_t>(static_cast<double>(i) * sampleRate / out.rate);
    out.left.push_back(at < meeting.left.size() ? meeting.left[at]
                       : meeting.left.empty()   ? 1.0
                                                : meeting.left.back());
  }
  return out;
}

// The kick under the region's mask times the gain left on the bass: what a moved bass is correlated with.
std::vector<double> heldAgainst(const Banded& banded) {
  std::vector<double> out(banded.kick.size());
  for (size_t i = 0; i < out.size(); ++i) out[i] = banded.both[i] ? banded.kick[i] * banded.left[i] : 0.0;
  return out;
}

// Fades the end of the stretch: a hard cut adds a spectrum of its own.
double fadedAt(size_t lag, size_t most) {
  const double edge = 0.75 * static_cast<double>(most), at = static_cast<double>(lag);
  if (at <= edge) return 1.0;
  return 0.5 + 0.5 * std::cos(3.14159265358979 * (at - edge) / (static_cast<double>(most) - edge));
}

}  // namespace

namespace {

double levelOf(double energies, double inPhase, double cross, bool invert) {
  if (!(inPhase > 0.0)) return 0.0;
  const double sum = energies + (invert ? -2.0 : 2.0) * cross;
  return std::min(0.0, dbFromPower(std::max(0.0, sum) / inPhase, -120.0));
}

size_t placeOf(double ms, double firstMs, double stepMs, size_t count) {
  if (count == 0) return 0;
  const double at = std::round((ms - firstMs) / stepMs);
  return static_cast<size_t>(std::clamp(at, 0.0, static_cast<double>(count - 1)));
}

// What both have in perfect phase: the square of the sum of their roots.
double perfectOf(double kickEnergy, double bassEnergy) {
  return kickEnergy + bassEnergy + 2.0 * std::sqrt(kickEnergy * bassEnergy);
}

}  // namespace

double AlignCurve::levelDb(size_t i, bool invert) const {
  return overlap ? levelOf(energies[i], inPhase[i], cross[i], invert) : 0.0;
}

size_t AlignCurve::indexOf(double ms) const {
  return placeOf(ms, firstMs, stepMs, cross.size());
}

double SmallCurve::levelAt(double ms, bool invert) const {
  if (!overlap || cross.empty()) return 0.0;
  const size_t i = placeOf(ms, firstMs, stepMs, cross.size());
  return levelOf(kickEnergy + bassEnergy[i], perfectOf(kickEnergy, bassEnergy[i]), cross[i], invert);
}

AlignCurve SmallCurve::whole() const {
  AlignCurve out{firstMs, stepMs, {}, {}, {cross.begin(), cross.end()}, overlap};
  for (const double bass : bassEnergy) {
    out.energies.push_back(kickEnergy + bass);
    out.inPhase.push_back(perfectOf(kickEnergy, bass));
  }
  return out;
}

namespace {

// Sums of a[i] * b[i - lag] for lags from -reach to reach: directly for a few lags, by FFT for many.
std::vector<double> laggedProducts(const std::vector<double>& a, const std::vector<double>& b,
                                   ptrdiff_t reach) {
  constexpr double kFewProducts = 1e6;
  const auto n = static_cast<ptrdiff_t>(a.size());
  std::vector<double> out(static_cast<size_t>(2 * reach + 1), 0.0);
  if (static_cast<double>(n) * static_cast<double>(reach) < kFewProducts) {
    for (ptrdiff_t lag = -reach; lag <= reach; ++lag) {
      const ptrdiff_t first = std::max<ptrdiff_t>(0, lag), count = std::min(n, n + lag) - first;
      double sum = 0.0;
      for (ptrdiff_t i = 0; i < count; ++i)
        sum += a[static_cast<size_t>(first + i)] * b[static_cast<size_t>(first + i - lag)];
      out[static_cast<size_t>(lag + reach)] = sum;
    }
    return out;
  }
  RealFft x(sharedSize(static_cast<size_t>(n + reach + 1))), y(x.size());
  std::copy(a.begin(), a.end(), x.time().begin());
  std::copy(b.begin(), b.end(), y.time().begin());
  x.forward(), y.forward();
  for (size_t k = 0; k < x.bins().size(); ++k) x.bins()[k] *= std::conj(y.bins()[k]);
  x.inverse();
  for (ptrdiff_t lag = -reach; lag <= reach && std::abs(lag) < n; ++lag)
    out[static_cast<size_t>(lag + reach)] =
        x.time()[lag >= 0 ? static_cast<size_t>(lag) : x.size() - static_cast<size_t>(-lag)];
  return out;
}

SmallCurve curveOf(const Banded& banded, const AlignQuestion& question) {
  const auto& bass = banded.bass;
  const double rate = banded.rate;
  const auto& mask = banded.both;
  SmallCurve out;
  out.overlap = banded.overlap;
  const std::vector<double> kick = heldAgainst(banded);
  for (size_t i = 0; i < kick.size(); ++i)
    if (mask[i]) out.kickEnergy += banded.kick[i] * banded.kick[i];
  // Lags one reach of the interpolator beyond the largest delay, so that its edge is never seen.
  const auto most = static_cast<ptrdiff_t>(std::ceil(question.maxDelayMs / 1000.0 * rate));
  const ptrdiff_t reach = most + 34;
  // Both weights are zero outside the mask, so the sums need no branch.
  std::vector<double> held(kick.size()), power(bass.size());
  for (size_t i = 0; i < held.size(); ++i) held[i] = mask[i] ? banded.left[i] * banded.left[i] : 0.0;
  for (size_t i = 0; i < power.size(); ++i) power[i] = bass[i] * bass[i];
  const std::vector<double> cross = laggedProducts(kick, bass, reach),
                            energy = laggedProducts(held, power, reach);
  const auto steps = static_cast<size_t>(std::lround(question.maxDelayMs / kStepMs));
  out.firstMs = -kStepMs * static_cast<double>(steps);
  out.stepMs = kStepMs;
  const double first = static_cast<double>(reach) + out.firstMs / 1000.0 * rate, step = kStepMs / 1000.0 * rate;
  out.cross = readBetween(cross, first, step, 2 * steps + 1);
  out.bassEnergy = readBetween(energy, first, step, 2 * steps + 1);
  for (float& e : out.bassEnergy) e = std::max(0.0f, e);
  return out;
}

CrossSpectrum crossOf(const Banded& banded, const AlignQuestion& question) {
  const std::vector<double> kick = heldAgainst(banded);
  const size_t n = kick.size(), most = static_cast<size_t>(std::ceil(kTurnSeconds * banded.rate));
  RealFft kicks(sharedSize(n + most + 1)), basses(kicks.size());
  std::copy(kick.begin(), kick.end(), kicks.time().begin());
  std::copy(banded.bass.begin(), banded.bass.end(), basses.time().begin());
  kicks.forward(), basses.forward();
  for (size_t k = 0; k < kicks.bins().size(); ++k) kicks.bins()[k] *= std::conj(basses.bins()[k]);
  kicks.inverse();
  // Lags either side of zero, and no others.
  RealFft lags(sharedSize(2 * most + 2));
  for (size_t lag = 0; lag <= most; ++lag) {
    lags.time()[lag] = kicks.time()[lag] * fadedAt(lag, most);
    if (lag > 0) lags.time()[lags.size() - lag] = kicks.time()[kicks.size() - lag] * fadedAt(lag, most);
  }
  lags.forward();
  CrossSpectrum out;
  out.stepHz = banded.rate / static_cast<double>(lags.size());
  const double third = std::exp2(1.0 / 3.0);
  const auto first = static_cast<size_t>(std::max(1.0, std::floor(question.lowHz / third / out.stepHz)));
  const auto last =
      std::min(lags.bins().size() - 1, static_cast<size_t>(std::ceil(question.highHz * third / out.stepHz)));
  out.firstHz = out.stepHz * static_cast<double>(first);
  for (size_t k = first; k <= last; ++k) out.bins.push_back(lags.bins()[k] / static_cast<double>(lags.size()));
  return out;
}

}  // namespace

SmallCurve smallCurve(const Meeting& meeting, double sampleRate, const AlignQuestion& question) {
  return curveOf(bandedOf(meeting, sampleRate, question), question);
}

AlignCurve alignCurve(const Meeting& meeting, double sampleRate, const AlignQuestion& question) {
  return smallCurve(meeting, sampleRate, question).whole();
}

CrossSpectrum crossSpectrum(const Meeting& meeting, double sampleRate, const AlignQuestion& question) {
  return crossOf(bandedOf(meeting, sampleRate, question), question);
}

MeetingFigures meetingFigures(const Meeting& meeting, double sampleRate, const AlignQuestion& question) {
  const Banded banded = bandedOf(meeting, sampleRate, question);
  return {curveOf(banded, question).whole(), crossOf(banded, question)};
}

CrossSpectrum sumOf(const std::vector<CrossSpectrum>& spectra) {
  CrossSpectrum out;
  for (const CrossSpectrum& s : spectra) {
    if (out.bins.empty()) {
      out = s;
      continue;
    }
    for (size_t i = 0; i < std::min(out.size(), s.size()); ++i) out.bins[i] += s.bins[i];
  }
  return out;
}

void addTo(AlignCurve& sum, const AlignCurve& curve) {
  if (!sum.overlap) {
    if (curve.overlap || sum.size() == 0) sum = curve;
    return;
  }
  if (!curve.overlap) return;
  for (size_t i = 0; i < std::min(sum.size(), curve.size()); ++i) {
    sum.energies[i] += curve.energies[i];
    sum.inPhase[i] += curve.inPhase[i];
    sum.cross[i] += curve.cross[i];
  }
}

void addTo(AlignCurve& sum, const SmallCurve& curve) {
  if (!sum.overlap) {
    if (curve.overlap || sum.size() == 0) sum = curve.whole();
    return;
  }
  if (!curve.overlap) return;
  for (size_t i = 0; i < std::min(sum.size(), curve.cross.size()); ++i) {
    const double bass = curve.bassEnergy[i];
    sum.energies[i] += curve.kickEnergy + bass;
    sum.inPhase[i] += perfectOf(curve.kickEnergy, bass);
    sum.cross[i] += curve.cross[i];
  }
}

AlignCurve combined(const std::vector<AlignCurve>& curves) {
  AlignCurve out;
  for (const AlignCurve& curve : curves) addTo(out, curve);
  return out;
}

AlignHold holdOf(const AlignCurve& curve, double delayMs, bool invert, double withinDb) {
  if (!curve.overlap) return {};
  const size_t at = curve.indexOf(delayMs);
  const double least = curve.levelDb(at, invert) - withinDb;
  size_t first = at, last = at;
  while (first > 0 && curve.levelDb(first - 1, invert) >= least) --first;
  while (last + 1 < curve.size() && curve.levelDb(last + 1, invert) >= least) ++last;
  return {curve.stepMs * static_cast<double>(at - first), curve.stepMs * static_cast<double>(last - at)};
}

AlignAnswer bestAlignment(const AlignCurve& curve, const AlignFreedom& freedom) {
  AlignAnswer out;
  out.overlap = curve.overlap;
  if (!curve.overlap) return out;
  out.beforeDb = out.afterDb = curve.levelAt(0.0, false);
  const size_t rest = curve.indexOf(0.0), first = freedom.delay ? 0 : rest,
               end = freedom.delay ? curve.size() : rest + 1;
  auto isAllowed = [&](bool invert) { return freedom.polarity || !invert; };
  double best = out.beforeDb;
  for (size_t i = first; i < end; ++i)
    for (const bool invert : {false, true})
      if (isAllowed(invert)) best = std::max(best, curve.levelDb(i, invert));
  if (out.beforeDb >= best - kCloseEnoughDb) return out;
  double smallest = 1e9;
  for (size_t i = first; i < end; ++i)
    for (const bool invert : {false, true}) {
      const double size = std::abs(curve.delayMs(i)), level = curve.levelDb(i, invert);
      const bool nearer = size < smallest - 1e-9 || (size < smallest + 1e-9 && level > out.afterDb);
      if (isAllowed(invert) && level >= best - kCloseEnoughDb && nearer) {
        smallest = size;
        out.delayMs = std::abs(curve.delayMs(i)) < 1e-9 ? 0.0 : curve.delayMs(i);
        out.invert = invert, out.afterDb = level;
      }
    }
  return out;
}

}  // namespace heft
