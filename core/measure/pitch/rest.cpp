#include "core/measure/pitch/rest.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/measure/pitch/fine_path.h"
#include "core/measure/pitch/rest_partials.h"
#include "core/measure/pitch/rest_windows.h"
#include "core/sound/buffer.h"
#include "core/theory/note.h"

namespace heft {

using namespace resting;

namespace {

constexpr double kRestRate = 1000.0, kUsualHighHz = 400.0;

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
// beside it may have rippled its level: then unflattened, if the coarse windows show such partials.
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

// Starting notes, best first, at most three: each candidate's own note, unflattened and flattened.
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
  // Partials of a stronger note are no starting notes.
  auto known = [&](double hz) {
    return std::any_of(starts.begin(), starts.end(), [hz](double start) {
      return std::abs(centsBetween(start, hz)) < 25.0 || isPartialOf(start, hz);
    });
  };
  for (const Resting& c : candidates)
    if (starts.size() < 3 && !known(c.hz)) starts.push_back(c.hz);
  // A partial rests as long as its fundamental: where both are there, the fundamental is the note.
  for (int number : {3, 2})
    for (const Resting& c : candidates)
      if (!starts.empty() && c.score > 0.5 * candidates.front().score &&
          std::abs(centsBetween(starts.front() / number, c.hz)) < 40.0) {
        starts.insert(starts.begin(), c.hz);
        break;
      }
  return starts;
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
  // The same number of samples and periods per window in every band.
  const double scale = std::max(1.0, highHz / kUsualHighHz);
  const auto slow = decimated(std::span<const double>(base.samples), base.sampleRate, scale * kRestRate);
  const double seconds = static_cast<double>(slow.samples.size()) / slow.sampleRate;
  const auto coarse =
      windowsOf(slow.samples, slow.sampleRate,
                {std::min(0.06 / scale, 0.5 * seconds), std::max(0.01 / scale, seconds / 30.0), 10, 1e-5});
  out.reason = "no pitch holds long enough to be a note";
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
