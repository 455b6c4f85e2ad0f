#include "core/align/peak_turn.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heft {
namespace {

constexpr double kLowestHz = 20.0, kHighestHz = 400.0;
constexpr double kNarrowest = 2.5, kWidest = 0.25;

std::vector<Biquad::Coefficients> sectionsOf(const std::vector<AllPass>& stages, double rate) {
  Rotation all;
  for (size_t i = 0; i < stages.size(); ++i) all.stages[i] = stages[i];
  return rotationSections(all, rate);
}

// Stops as soon as it cannot beat the lowest known peak.
double peakBelow(const std::vector<PeakStretch>& stretches, const std::vector<Biquad::Coefficients>& sections,
                 double known) {
  float peak = 0.0f;
  for (const PeakStretch& s : stretches)
    for (size_t c = 0; c < s.turned.size(); ++c) {
      std::vector<Biquad> filters(sections.begin(), sections.end());
      const auto& x = s.turned[c];
      const bool beside = !s.rest.empty();
      for (size_t i = 0; i < x.size(); ++i) {
        double v = x[i];
        for (Biquad& f : filters) v = f.process(v);
        if (i < s.leadFrames) continue;
        peak = std::max(peak, std::abs(static_cast<float>(v) + (beside ? s.rest[c][i] : 0.0f)));
      }
      if (peak > known) return peak;
    }
  return peak;
}

struct Search {
  const std::vector<PeakStretch>& stretches;
  double rate;
  const std::function<bool(double)>& progress;
  std::vector<AllPass> best = {};
  double peak = 0.0;
  int tried = 0;
  bool called = false;

  void attempt(const std::vector<AllPass>& stages) {
    constexpr double kUsualTries = 320.0;
    if (called || keptBackMs(stages) > kMostKeptBackMs) return;
    const double has = peakBelow(stretches, sectionsOf(stages, rate), peak);
    if (has < peak) peak = has, best = stages;
    ++tried;
    if (progress) called = !progress(std::min(1.0, tried / kUsualTries));
  }
};

// One more stage on a grid.
void addStage(Search& search) {
  const auto before = search.best;
  for (double hz = kLowestHz; hz <= kHighestHz * 1.001; hz *= std::exp2(1.0 / 3.0))
    for (const double q : {0.3, 0.5, 0.9, 1.6}) {
      auto stages = before;
      stages.push_back({true, hz, q});
      search.attempt(stages);
    }
}

// Frequencies and widths by shrinking steps.
void refine(Search& search) {
  double octaves = 1.0 / 6.0, widths = 0.35;
  for (int round = 0; round < 5; ++round, octaves *= 0.5, widths *= 0.5)
    for (size_t i = 0; i < search.best.size(); ++i)
      for (const double way : {-1.0, 1.0}) {
        auto moved = search.best;
        moved[i].hz = std::clamp(moved[i].hz * std::exp2(way * octaves), kLowestHz, kHighestHz);
        search.attempt(moved);
        moved = search.best;
        moved[i].q = std::clamp(moved[i].q * std::exp2(way * widths), kWidest, kNarrowest);
        search.attempt(moved);
      }
}

double gainDb(double before, double after) {
  return after > 0.0 ? dbFromAmplitude(before / after) : 0.0;
}

}  // namespace

double keptBackMs(const std::vector<AllPass>& stages) {
  double out = 0.0;
  for (const AllPass& s : stages) out += 2000.0 * s.q / (std::numbers::pi * s.hz);
  return out;
}

double peakThrough(const std::vector<PeakStretch>& stretches, const std::vector<AllPass>& stages,
                   double sampleRate) {
  return peakBelow(stretches, sectionsOf(stages, sampleRate), 1e30);
}

PeakTurn lowestPeak(const std::vector<PeakStretch>& stretches, double sampleRate,
                    const std::function<bool(double)>& progress) {
  PeakTurn out;
  out.beforePeak = out.afterPeak = peakThrough(stretches, {}, sampleRate);
  Search search{stretches, sampleRate, progress};
  search.peak = out.beforePeak;
  addStage(search);
  refine(search);
  const auto one = search.best;
  const double onePeak = search.peak;
  addStage(search);
  refine(search);
  if (gainDb(onePeak, search.peak) < kSecondStageDb) search.best = one, search.peak = onePeak;
  if (search.best.empty() || gainDb(out.beforePeak, search.peak) < kLeastPeakGainDb) return out;
  // Rounded as one would type it, so that the shown values are the exact ones.
  out.stages = search.best;
  for (AllPass& s : out.stages) s.hz = std::round(10.0 * s.hz) / 10.0, s.q = std::round(100.0 * s.q) / 100.0;
  out.afterPeak = peakThrough(stretches, out.stages, sampleRate);
  return out;
}

}  // namespace heft
