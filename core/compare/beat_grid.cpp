#include "core/compare/beat_grid.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/compare/section_profile.h"
#include "core/measure/events/loop_tempo.h"

namespace heft {
namespace {

constexpr double kSteps = 4.0;  // sixteenths of a beat

// Of two stretches of a quarter of a minute, the surer one.
std::optional<TempoFacts> tempoOf(const AudioBuffer& excerpt) {
  constexpr double kSeconds = 15.0;
  std::optional<TempoFacts> out;
  for (const double share : {0.1, 0.6}) {
    const double from = share * std::max(0.0, excerpt.seconds() - kSeconds);
    const auto found = loopTempo(stretchOf(excerpt, from, from + kSeconds));
    if (found && (!out || found->confidence > out->confidence)) out = found;
  }
  return out;
}

std::complex<double> sumAt(const std::vector<double>& hits, double bpm) {
  std::complex<double> sum;
  for (const double t : hits) sum += std::polar(1.0, -2.0 * std::numbers::pi * kSteps * bpm / 60.0 * t);
  return sum / static_cast<double>(hits.size());
}

double fitOf(const std::vector<double>& hits, double bpm) {
  return std::abs(sumAt(hits, bpm));
}

double madeExact(const std::vector<double>& hits, double bpm) {
  constexpr double kNear = 0.004, kGrain = 2e-5, kFitsAsWell = 0.985;
  double best = bpm, most = 0.0;
  for (double ratio = 1.0 - kNear; ratio <= 1.0 + kNear; ratio += kGrain)
    if (const double fit = fitOf(hits, bpm * ratio); fit > most) most = fit, best = bpm * ratio;
  const double whole = std::round(best);
  constexpr double kClose = 0.003;
  return std::abs(whole - best) < kClose * best && fitOf(hits, whole) > kFitsAsWell * most ? whole : best;
}

// Seconds at which the low level comes up by 12 dB over the second before it.
std::vector<double> entriesOf(const std::vector<float>& lowDb) {
  constexpr double kRise = 12.0;
  constexpr size_t kSecond = 10;
  std::vector<double> out;
  for (size_t i = kSecond; i + kSecond < lowDb.size(); ++i) {
    const auto at = lowDb.begin() + static_cast<ptrdiff_t>(i);
    const float before = *std::max_element(at - kSecond, at), after = *std::max_element(at, at + 3);
    if (static_cast<double>(after - before) < kRise) continue;
    out.push_back(static_cast<double>(i) * TrackProfile::kStepSeconds);
    i += kSecond;
  }
  return out;
}

}  // namespace

std::optional<BeatGrid> findGrid(const AudioBuffer& excerpt, double excerptFrom,
                                 const std::vector<double>& hits, const std::vector<float>& lowDb) {
  constexpr size_t kLeastHits = 6;
  constexpr double kLeastOn = 0.5, kOnStep = 0.2, kBarSteps = 16.0, kEntrySlack = 0.15;
  const auto tempo = tempoOf(excerpt);
  if (!tempo || hits.size() < kLeastHits) return std::nullopt;
  BeatGrid out;
  out.bpm = madeExact(hits, tempo->bpm);
  const double step = 60.0 / (kSteps * out.bpm);
  const double phase = -std::arg(sumAt(hits, out.bpm)) / (2.0 * std::numbers::pi) * step;
  double on = 0.0;
  auto steps = [&](double t) { return (t - phase) / step; };
  for (const double t : hits)
    if (std::abs(steps(t) - std::round(steps(t))) < kOnStep) on += 1.0;
  out.confidence = on / static_cast<double>(hits.size());
  if (out.confidence < kLeastOn) return std::nullopt;
  std::array<double, 16> votes{};
  auto vote = [&](double t, double weight) {
    const auto place = static_cast<long long>(std::round(steps(t - excerptFrom)));
    votes[static_cast<size_t>(((place % 16) + 16) % 16)] += weight;
  };
  const auto loudest = lowDb.empty() ? lowDb.end() : std::max_element(lowDb.begin(), lowDb.end());
  for (const double t : entriesOf(lowDb))
    for (const double h : hits)
      if (std::abs(h + excerptFrom - t) < kEntrySlack) {
        vote(h + excerptFrom, 2.0);
        break;
      }
  vote(hits.front() + excerptFrom, 1.0);
  if (excerptFrom < 1.0 && loudest != lowDb.end()) vote(hits.front() + excerptFrom, 1.0);
  const auto bar = static_cast<double>(std::max_element(votes.begin(), votes.end()) - votes.begin());
  const double first = phase + excerptFrom + bar * step, length = kBarSteps * step;
  out.firstBeatSeconds = first - std::floor((first + 0.05 * step) / length) * length;
  return out;
}

}  // namespace heft
