#include "core/compare/bass_tone.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>

#include "core/compare/curves.h"
#include "core/sound/fft.h"
#include "core/sound/raised_cosine.h"
#include "core/theory/note.h"

namespace heft {
namespace {

constexpr double kBassFromHz = 26.0, kBassToHz = 140.0, kAfterSeconds = 0.36, kBeforeNextSeconds = 0.01,
                 kWindow = 0.03, kTurn = 2.0 * std::numbers::pi;

// The strongest tone of the low band; none where no tone holds half of it, as in noise.
std::optional<double> loudestHz(std::span<const double> x, double rate) {
  constexpr double kAboutHz = 7.0, kLeastShare = 0.5;
  RealFft fft(16384);
  std::fill(fft.time().begin(), fft.time().end(), 0.0);
  const auto taper = hannWindow(std::min(x.size(), fft.size()));
  for (size_t i = 0; i < taper.size(); ++i) fft.time()[i] = x[i] * taper[i];
  fft.forward();
  const double step = rate / static_cast<double>(fft.size());
  const auto from = static_cast<size_t>(kBassFromHz / step), to = static_cast<size_t>(kBassToHz / step);
  size_t best = from;
  for (size_t k = from; k <= to; ++k)
    if (std::norm(fft.bins()[k]) > std::norm(fft.bins()[best])) best = k;
  double all = 0.0, near = 0.0;
  for (size_t k = from; k <= to; ++k) {
    const double power = std::norm(fft.bins()[k]);
    all += power;
    if (std::abs(static_cast<double>(k) - static_cast<double>(best)) * step < kAboutHz) near += power;
  }
  if (!(all > 0.0) || near < kLeastShare * all) return std::nullopt;
  return static_cast<double>(best) * step;
}

std::vector<double> taperOf(double rate) {
  return hannWindow(2 * framesIn(0.5 * kWindow, rate) + 1);
}

// A line through the phase from one moment to another; none where the tone leaves `hz` or is too short.
std::optional<BassTone> followed(const std::vector<double>& x, double rate, double hz, double from, double to) {
  constexpr double kStep = 0.01, kMostOffHz = 0.7;
  constexpr size_t kFewest = 8;
  const auto taper = taperOf(rate);
  std::vector<double> times, turns;
  for (double t = from + 0.5 * kWindow; t <= to - 0.5 * kWindow; t += kStep) {
    const double turn = std::arg(toneAt(x, rate, hz, t, taper)) / kTurn;
    turns.push_back(turns.empty() ? turn : turns.back() + std::remainder(turn - turns.back(), 1.0));
    times.push_back(t);
  }
  if (times.size() < kFewest) return std::nullopt;
  double meanTime = 0.0, meanTurn = 0.0, product = 0.0, square = 0.0;
  for (size_t i = 0; i < times.size(); ++i) meanTime += times[i], meanTurn += turns[i];
  meanTime /= static_cast<double>(times.size()), meanTurn /= static_cast<double>(times.size());
  for (size_t i = 0; i < times.size(); ++i)
    product += (times[i] - meanTime) * (turns[i] - meanTurn), square += std::pow(times[i] - meanTime, 2);
  const double off = product / square;
  if (std::abs(off) > kMostOffHz) return std::nullopt;
  // toneAt turns back by hz from the sound's start on.
  return BassTone{hz + off, meanTurn - off * meanTime};
}

// In phase with what it is after the hit and about as loud, while no kick sounds.
bool soundsBefore(const LowEndParts& low, const BassTone& tone, double seconds, double after) {
  constexpr double kQuietest = 0.5, kMostTurns = 0.11;
  const auto taper = taperOf(low.rate);
  const auto before = toneAt(low.mid, low.rate, tone.hz, seconds, taper),
             settled = toneAt(low.mid, low.rate, tone.hz, after, taper);
  return std::abs(before) > kQuietest * std::abs(settled) &&
         std::abs(std::remainder(std::arg(before) / kTurn - tone.turnsAtZero, 1.0)) < kMostTurns;
}

// Moments at which a tone rises past half its amplitude, and how long it takes.
struct Rise {
  double seconds = 0.0, ms = 0.0;
};

std::vector<Rise> noteRises(const std::vector<double>& level, double step) {
  constexpr double kLow = 0.25, kHigh = 0.89, kLongest = 0.12;  // -12 and -1 dB
  const auto reach = static_cast<size_t>(kLongest / step);
  std::vector<Rise> out;
  for (size_t i = reach; i + reach < level.size(); ++i) {
    const double most = *std::max_element(level.begin() + static_cast<ptrdiff_t>(i),
                                          level.begin() + static_cast<ptrdiff_t>(i + reach));
    if (!(level[i - 1] < 0.5 * most && level[i] >= 0.5 * most)) continue;
    size_t low = i, high = i;
    while (i - low < reach && level[low] > kLow * most) --low;
    while (level[high] < kHigh * most) ++high;
    if (level[low] > kLow * most) continue;
    out.push_back({static_cast<double>(i) * step, 1000.0 * static_cast<double>(high - low) * step});
    i += reach;
  }
  return out;
}

bool awayFromKicks(const KickInMix& kick, double seconds) {
  constexpr double kAfter = 0.2, kPast = 0.05, kBefore = 0.15;
  return std::none_of(kick.hits.begin(), kick.hits.end(), [&](double hit) {
    return seconds > hit - kBefore && seconds < hit + std::max(kAfter, 0.001 * kick.lengthMs + kPast);
  });
}

std::vector<double> notesAfter(const std::vector<BassAfter>& after) {
  std::vector<double> out;
  for (const BassAfter& one : after)
    if (one.tone && std::none_of(out.begin(), out.end(), [&](double hz) {
          return std::abs(12.0 * std::log2(hz / one.tone->hz)) < 0.6;
        }))
      out.push_back(one.tone->hz);
  return out;
}

}  // namespace

std::complex<double> toneAt(const std::vector<double>& x, double rate, double hz, double seconds,
                            std::span<const double> taper) {
  const auto half = static_cast<ptrdiff_t>(taper.size() / 2);
  const auto at = static_cast<ptrdiff_t>(std::lround(seconds * rate)), all = static_cast<ptrdiff_t>(x.size());
  if (at - half < 0 || at + half >= all) return {};
  std::complex<double> sum, turn = std::polar(1.0, -kTurn * hz * static_cast<double>(at - half) / rate);
  const auto step = std::polar(1.0, -kTurn * hz / rate);
  for (ptrdiff_t i = -half; i <= half; ++i) {
    sum += taper[static_cast<size_t>(i + half)] * x[static_cast<size_t>(at + i)] * turn;
    turn *= step;
  }
  return sum;
}

std::vector<BassAfter> bassAfterHits(const LowEndParts& low, const KickInMix& kick) {
  std::vector<BassAfter> out;
  constexpr double kLeastStretch = 0.05, kEarliest = 0.11, kBeforeHit = 0.006;
  const double rate = low.rate, length = 0.001 * kick.lengthMs, settled = std::max(kEarliest, length),
               all = static_cast<double>(low.mid.size()) / rate;
  for (size_t i = 0; i < kick.hits.size(); ++i) {
    const double hit = kick.hits[i], next = i + 1 < kick.hits.size() ? kick.hits[i + 1] : all,
                 end = std::min({next - kBeforeNextSeconds, hit + kAfterSeconds, all});
    BassAfter one{framesIn(std::max(0.0, hit), rate), 0, {}, false};
    // Two roundings up reach beyond the sound.
    one.at = std::min(one.at, low.mid.size());
    one.room = end > hit ? std::min(framesIn(end - hit, rate), low.mid.size() - one.at) : 0;
    const size_t from = framesIn(settled, rate);
    if (end - hit - settled >= kLeastStretch && one.room > from)
      if (const auto hz = loudestHz(std::span(low.mid).subspan(one.at + from, one.room - from), rate))
        one.tone = followed(low.mid, rate, *hz, hit + settled, end);
    const double before = hit - 0.5 * kWindow - kBeforeHit;
    if (one.tone && (i == 0 || kick.hits[i - 1] + length < before - 0.5 * kWindow))
      one.goesOn = soundsBefore(low, *one.tone, before, hit + settled + 0.5 * kWindow);
    out.push_back(std::move(one));
  }
  return out;
}

std::optional<double> riseMsWithoutKick(const LowEndParts& low, const KickInMix& kick,
                                        const std::vector<BassAfter>& after) {
  constexpr double kStep = 0.002, kSettled = 0.02, kStretch = 0.15;
  constexpr size_t kFewest = 5;
  const auto taper = taperOf(low.rate);
  const auto seconds = static_cast<double>(low.mid.size()) / low.rate;
  std::vector<Rise> found;
  for (const double hz : notesAfter(after)) {
    std::vector<double> level;
    for (double t = 0.0; t < seconds; t += kStep)
      level.push_back(std::abs(toneAt(low.mid, low.rate, hz, t, taper)));
    for (const Rise& rise : noteRises(level, kStep))
      if (awayFromKicks(kick, rise.seconds) &&
          followed(low.mid, low.rate, hz, rise.seconds + kSettled, rise.seconds + kStretch))
        found.push_back(rise);
  }
  if (found.size() < kFewest) return std::nullopt;
  std::vector<double> ms;
  for (const Rise& rise : found) ms.push_back(rise.ms);
  return percentile(ms, 0.75);
}

}  // namespace heft
