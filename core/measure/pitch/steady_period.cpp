#include "core/measure/pitch/steady_period.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <numeric>
#include <span>

#include "core/sound/buffer.h"
#include "core/sound/fft.h"
#include "core/sound/interpolate.h"
#include "core/theory/note.h"

namespace heft {
namespace {

constexpr double kHopSeconds = 0.02, kSettlingSeconds = 0.03;
constexpr double kDip = 0.15;              // of the normalised difference, under which a window has a period
constexpr double kSamePeriodCents = 60.0;  // from the middle of all windows
constexpr double kLeastShare = 0.8;        // of the energy that has that period
constexpr size_t kLeastWindows = 4;
constexpr double kRatios[] = {1.5, 2.0, 3.0, 4.0};  // multiples a period may be mistaken for
constexpr double kLeastPeriods = 8.0;

struct WindowPeriod {
  double seconds, hz, dip, energy;
};

// Differences of a window with itself later, by one transform of it and one of its first half.
class Differences {
 public:
  Differences(size_t window, size_t lags)
      : window_(window), lags_(lags), whole_(fastSize(window + 2 * lags)), head_(whole_.size()) {}

  // d(lag) for lags 0 to `lags_`, normalised by its cumulative mean. `x`: window + lags samples.
  const std::vector<double>& of(std::span<const double> x) {
    fill(whole_, x);
    fill(head_, x.first(window_));
    whole_.forward(), head_.forward();
    for (size_t k = 0; k < whole_.bins().size(); ++k) whole_.bins()[k] *= std::conj(head_.bins()[k]);
    whole_.inverse();
    const auto product = whole_.time();
    double later = energyOf(x.first(window_));
    const double first = later;
    out_.assign(lags_ + 1, 1.0);
    double sum = 0.0;
    for (size_t lag = 1; lag <= lags_; ++lag) {
      later += x[lag + window_ - 1] * x[lag + window_ - 1] - x[lag - 1] * x[lag - 1];
      const double d = std::max(0.0, first + later - 2.0 * product[lag]);
      sum += d;
      out_[lag] = sum > 0.0 ? d * static_cast<double>(lag) / sum : 1.0;
    }
    return out_;
  }

 private:
  static void fill(RealFft& fft, std::span<const double> x) {
    std::copy(x.begin(), x.end(), fft.time().begin());
    std::fill(fft.time().begin() + static_cast<ptrdiff_t>(x.size()), fft.time().end(), 0.0);
  }
  size_t window_, lags_;
  RealFft whole_, head_;
  std::vector<double> out_;
};

// The first dip below the threshold, at its minimum; 0 without one.
size_t firstDip(const std::vector<double>& d) {
  for (size_t lag = 2; lag + 1 < d.size(); ++lag) {
    if (d[lag] >= kDip) continue;
    while (lag + 2 < d.size() && d[lag + 1] < d[lag]) ++lag;
    return lag;
  }
  return 0;
}

double finer(const std::vector<double>& d, size_t lag) {
  return static_cast<double>(lag) + turnBetween(d[lag - 1], d[lag], d[lag + 1]);
}

// All windows, those without a period with hz 0.
std::vector<WindowPeriod> periodsOf(const Decimated& base, double lowHz) {
  const double rate = base.sampleRate;
  const auto lags = static_cast<size_t>(rate / lowHz) + 2, window = lags;
  const auto hop = static_cast<size_t>(kHopSeconds * rate), from = static_cast<size_t>(kSettlingSeconds * rate);
  std::vector<WindowPeriod> out;
  if (base.samples.size() < from + window + lags) return out;
  Differences differences(window, lags);
  for (size_t at = from; at + window + lags <= base.samples.size(); at += hop) {
    const std::span<const double> x = std::span<const double>(base.samples).subspan(at, window + lags);
    WindowPeriod w{(static_cast<double>(at) + 0.5 * static_cast<double>(window + lags)) / rate, 0.0, 1.0,
                   energyOf(x)};
    if (w.energy > 0.0) {
      const auto& d = differences.of(x);
      if (const size_t lag = firstDip(d); lag > 0) w.hz = rate / finer(d, lag), w.dip = d[lag];
    }
    out.push_back(w);
  }
  return out;
}

// The period in the middle of the energy.
double middleHz(std::vector<WindowPeriod> windows) {
  std::erase_if(windows, [](const WindowPeriod& w) { return w.hz <= 0.0; });
  std::sort(windows.begin(), windows.end(), [](const auto& a, const auto& b) { return a.hz < b.hz; });
  double all = 0.0, passed = 0.0;
  for (const auto& w : windows) all += w.energy;
  for (const auto& w : windows)
    if ((passed += w.energy) >= 0.5 * all) return w.hz;
  return 0.0;
}

std::vector<double> hannOf(std::span<const double> x) {
  std::vector<double> out(x.begin(), x.end());
  const double turn = 2.0 * std::numbers::pi / static_cast<double>(x.size());
  for (size_t i = 0; i < x.size(); ++i) out[i] *= 0.5 - 0.5 * std::cos(turn * static_cast<double>(i));
  return out;
}

// Amplitude of a tone by one bin.
double amplitudeAt(std::span<const double> x, double rate, double hz) {
  const std::complex<double> turn = std::polar(1.0, -2.0 * std::numbers::pi * hz / rate);
  std::complex<double> sum = 0.0, tone = 1.0;
  for (const double v : x) sum += v * tone, tone *= turn;
  return std::abs(sum) / static_cast<double>(x.size());
}

// Two notes at once repeat with a period that neither has. One note has a fundamental, or three partials
// without a larger common divisor.
bool isOneNote(const Decimated& base, double hz, double loudestSeconds) {
  constexpr double kSounds = 0.02, kFundamental = 0.01, kPeriods = 8.0;
  const auto length = static_cast<size_t>(kPeriods / hz * base.sampleRate);
  if (base.samples.size() < length) return false;
  const auto from = std::min(
      static_cast<size_t>(std::max(0.0, loudestSeconds * base.sampleRate - 0.5 * static_cast<double>(length))),
      base.samples.size() - length);
  const auto x = hannOf(std::span<const double>(base.samples).subspan(from, length));
  std::vector<double> partials;
  for (int k = 1; k <= 12 && k * hz < 0.45 * base.sampleRate; ++k)
    partials.push_back(amplitudeAt(x, base.sampleRate, k * hz));
  const double strongest = *std::max_element(partials.begin(), partials.end());
  int sounding = 0, divisor = 0;
  for (size_t i = 0; i < partials.size(); ++i)
    if (partials[i] > kSounds * strongest) ++sounding, divisor = std::gcd(divisor, static_cast<int>(i) + 1);
  return divisor == 1 && (sounding >= 3 || partials[0] > kFundamental * strongest);
}

bool goesToAndFro(const std::vector<PitchPoint>& points, double hz) {
  constexpr double kSwing = 6.0, kHeard = 0.15;
  constexpr int kTurns = 4;
  int turns = 0, side = 0;
  double loudest = 0.0;
  for (const PitchPoint& p : points) loudest = std::max(loudest, p.amplitude);
  for (const PitchPoint& p : points) {
    if (p.amplitude < kHeard * loudest) continue;
    const double away = centsBetween(hz, p.hz);
    const int now = away > kSwing ? 1 : away < -kSwing ? -1 : side;
    turns += side != 0 && now != side ? 1 : 0;
    side = now;
  }
  return turns >= kTurns;
}

}  // namespace

std::optional<SteadyPeriod> steadyPeriod(const Decimated& base, double lowHz, double highHz) {
  const auto windows = periodsOf(base, lowHz);
  const double middle = middleHz(windows);
  if (middle < lowHz || middle > highHz) return std::nullopt;
  SteadyPeriod out;
  double all = 0.0, same = 0.0, cents = 0.0, dips = 0.0, loudest = 0.0, loudestAt = 0.0;
  for (const WindowPeriod& w : windows) {
    all += w.energy;
    if (w.energy > loudest) loudest = w.energy, loudestAt = w.seconds;
    const double away = w.hz > 0.0 ? centsBetween(middle, w.hz) : 1e9;
    if (std::abs(away) > kSamePeriodCents) continue;
    same += w.energy, cents += w.energy * away, dips += w.energy * w.dip;
    const double frames = static_cast<double>(base.sampleRate) * 2.0 / lowHz;
    out.points.push_back({w.seconds, w.hz, std::sqrt(w.energy / frames)});
  }
  const double share = all > 0.0 ? same / all : 0.0;
  const double seconds = static_cast<double>(out.points.size()) * kHopSeconds;
  if (share < kLeastShare || out.points.size() < kLeastWindows || seconds * middle < kLeastPeriods)
    return std::nullopt;
  out.hz = middle * std::exp2(cents / same / 1200.0);
  if (!isOneNote(base, out.hz, loudestAt)) return std::nullopt;
  out.confidence = std::clamp(share * (1.0 - dips / same / kDip * 0.5), 0.0, 1.0);
  out.wavers = goesToAndFro(out.points, out.hz);
  return out;
}

bool stepsToAnotherNote(const Decimated& base, double lowHz) {
  constexpr double kSteadyCents = 50.0, kSteadySeconds = 0.08, kStepCents = 80.0, kStepSeconds = 0.12,
                   kUnderLoudest = 0.016;  // of power: 18 dB
  const auto windows = periodsOf(base, lowHz);
  double loudest = 0.0;
  for (const WindowPeriod& w : windows) loudest = std::max(loudest, w.energy);
  const auto sounds = [&](const WindowPeriod& w) { return w.hz > 0.0 && w.energy > kUnderLoudest * loudest; };
  const auto isPartial = [](double cents) {
    return std::any_of(std::begin(kRatios), std::end(kRatios), [&](double ratio) {
      return std::abs(std::abs(cents) - 1200.0 * std::log2(ratio)) < kSamePeriodCents;
    });
  };
  const WindowPeriod* before = nullptr;
  for (size_t i = 0; i < windows.size(); ++i) {
    if (!sounds(windows[i])) continue;
    size_t last = i;
    while (last + 1 < windows.size() && sounds(windows[last + 1]) &&
           std::abs(centsBetween(windows[i].hz, windows[last + 1].hz)) < kSteadyCents)
      ++last;
    if (windows[last].seconds - windows[i].seconds < kSteadySeconds) continue;
    const double cents = before ? centsBetween(before->hz, windows[i].hz) : 0.0;
    if (std::abs(cents) > kStepCents && !isPartial(cents) &&
        windows[i].seconds - before->seconds < kStepSeconds)
      return true;
    before = &windows[last];
    i = last;
  }
  return false;
}

}  // namespace heft
